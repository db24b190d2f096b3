namespace Zamblo.Media;

/// <summary>Where files lie that are needed for a moment only.</summary>
public static class Scratch
{
    /// <summary>The folder; whoever keeps data sets it to one of its own, which it can sweep.</summary>
    public static string Folder { get; set; } = Path.GetTempPath();

    /// <summary>A new folder of one's own.</summary>
    public static string NewFolder() => Directory.CreateDirectory(Path.Combine(Folder, $"zamblo-{Guid.NewGuid():N}")).FullName;
}
