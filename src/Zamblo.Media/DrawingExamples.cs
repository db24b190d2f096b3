namespace Zamblo.Media;

/// <summary>Drawings to begin with: a template with the name of every part, and worked examples of figures that lack some.</summary>
public static class DrawingExamples
{
    /// <summary>What there is.</summary>
    public static IReadOnlyList<string> All { get; } = ["template", "owl", "loaf"];

    /// <summary>One as SVG; null where there is none of that name.</summary>
    public static string? Read(string name)
    {
        if (!All.Contains(name))
            return null;
        using var stream = typeof(DrawingExamples).Assembly.GetManifestResourceStream("drawing." + name)!;
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    }
}
