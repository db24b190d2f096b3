using System.Globalization;
using System.Text;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>Makes of a drawing program's SVG the plain kind that characters are read from, on a rig that is there already.</summary>
internal static class SvgTidy
{
    /// <summary>The plain drawing.</summary>
    /// <param name="svg">As it came.</param>
    /// <param name="parts">Names of the parts: other groups belong to the part that they lie in.</param>
    /// <exception cref="ArtException">It is no SVG, or has something that cannot be drawn; what.</exception>
    public static string Plain(string svg, IReadOnlySet<string> parts)
    {
        var read = new SvgReader(svg);
        if (read.Warnings is [var first, ..])
            throw new ArtException("The drawing cannot be taken as it is. " + first);
        var text = Head(read.Size.X, read.Size.Y);
        var open = new List<SvgGroup>();
        foreach (var piece in read.Pieces)
        {
            var within = piece.Groups.Where(g => PartOf(g, parts) != null).ToList();
            var same = 0;
            while (same < open.Count && same < within.Count && open[same].Number == within[same].Number)
                same++;
            Close(open.Count - same);
            open.RemoveRange(same, open.Count - same);
            foreach (var group in within.Skip(same))
            {
                text.Append($"<g id=\"{PartOf(group, parts)}\">\n");
                open.Add(group);
            }
            if (piece is { Path: { } path, Look.IsSeen: true })
                Write(text, path, piece.Look);
        }
        Close(open.Count);
        return text.Append("</svg>\n").ToString();

        void Close(int count)
        {
            for (var i = 0; i < count; i++)
                text.Append("</g>\n");
        }
    }

    /// <summary>The beginning of a drawing.</summary>
    public static StringBuilder Head(float width, float height) =>
        new(string.Create(CultureInfo.InvariantCulture, $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {width:0.###} {height:0.###}\">\n"));

    /// <summary>One shape of it.</summary>
    public static void Write(StringBuilder text, string path, SvgLook look)
    {
        text.Append(CultureInfo.InvariantCulture, $"<path d=\"{path}\" fill=\"{look.Fill ?? "none"}\" stroke=\"{look.Stroke ?? "none"}\"");
        if (look.Stroke != null)
            text.Append(CultureInfo.InvariantCulture, $" stroke-width=\"{look.Width:0.###}\"");
        if (look.Nib > 0)
            text.Append(CultureInfo.InvariantCulture, $" data-nib=\"{look.Nib:0.###}\"");
        if (look.Shown < 1)
            text.Append(CultureInfo.InvariantCulture, $" opacity=\"{look.Shown:0.###}\"");
        text.Append("/>\n");
    }

    // The name that a person gave: a layer's label, else an id.
    private static string? PartOf(SvgGroup group, IReadOnlySet<string> parts) =>
        group.Label != null && parts.Contains(group.Label) ? group.Label
        : group.Id != null && parts.Contains(group.Id) ? group.Id
        : null;
}
