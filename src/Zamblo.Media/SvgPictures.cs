using System.Text;

namespace Zamblo.Media;

/// <summary>
/// Draws an SVG (W3C, "Scalable Vector Graphics 1.1, second edition") as a picture, with its gradients, texts and filters: by librsvg, which fetches
/// nothing from elsewhere. Its figures are read by <see cref="SvgReader"/>; this is for what stays as it is, such as a set.
/// </summary>
public static class SvgPictures
{
    // Of the longer side, in pixels: of a wide film twice that of 1280.
    private const int Side = 2560;

    // A drawing that takes longer is a trap; so is one whose picture has more bytes.
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(20);
    private const long MostBytes = 200L << 20;

    // So far into a file its first element is looked for: programs write comments before it.
    private const int Head = 8192;

    /// <summary>Whether a file is meant to be one.</summary>
    /// <param name="file">Its bytes.</param>
    public static bool IsSvg(byte[] file)
    {
        var head = Encoding.UTF8.GetString(file, 0, Math.Min(file.Length, Head)).TrimStart('\uFEFF', ' ', '\t', '\r', '\n');
        return head.StartsWith('<') && head.Contains("<svg", StringComparison.OrdinalIgnoreCase);
    }

    /// <summary>A PNG of it, with its holes.</summary>
    /// <param name="file">Its bytes.</param>
    /// <param name="name">For messages.</param>
    /// <param name="cancel">Stops.</param>
    /// <exception cref="MediaException">It cannot be drawn.</exception>
    public static async Task<byte[]> DrawAsync(byte[] file, string name, CancellationToken cancel)
    {
        string[] size = ["--width", $"{Side}", "--height", $"{Side}", "--keep-aspect-ratio"];
        // What texts are set in is told there.
        var files = new SandboxFiles([.. new[] { "/etc/fonts" }.Where(Directory.Exists)], []);
        var drawn = await OutsideProgram.RunAsync("rsvg-convert", ["--format", "png", .. size], file, Patience, MostBytes, cancel, files: files);
        return drawn.ExitCode == 0 && drawn.Output.Length > 0
            ? drawn.Output
            : throw new MediaException($"\"{name}\" is no drawing that can be read: bring it as a PNG, or save it as plain SVG.");
    }
}
