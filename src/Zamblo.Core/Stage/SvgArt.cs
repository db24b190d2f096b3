using System.Globalization;
using System.Numerics;
using System.Xml.Linq;

namespace Zamblo.Core.Stage;

/// <summary>A character's or backdrop's file is not as it must be; the message says where.</summary>
public sealed class ArtException(string message) : Exception(message);

/// <summary>One shape of a drawing and the part (nearest named group) that it belongs to.</summary>
internal sealed record ArtShape(string Part, string Path, string? Fill, string? Stroke, float Width, float Nib, float Opacity);

/// <summary>
/// Layered vector art: an SVG file whose named groups are the parts. Understood are g, path, ellipse, circle and rect with fill,
/// stroke, stroke-width, opacity and data-nib, inherited from group to shape. Anything else is an error, not a silent loss.
/// </summary>
internal sealed class SvgArt
{
    public IReadOnlyList<ArtShape> Shapes { get; }
    /// <summary>Named groups in paint order, also those without shapes.</summary>
    public IReadOnlyList<string> Parts { get; }
    public Vector2 Size { get; }

    private SvgArt(IReadOnlyList<ArtShape> shapes, IReadOnlyList<string> parts, Vector2 size) => (Shapes, Parts, Size) = (shapes, parts, size);

    public static SvgArt Read(Stream stream, string name)
    {
        XDocument document;
        try { document = XDocument.Load(stream); }
        catch (System.Xml.XmlException e) { throw new ArtException($"The drawing \"{name}\" is not well-formed: {e.Message}"); }
        var root = document.Root!;
        var box = (root.Attribute("viewBox")?.Value ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries);
        if (root.Name.LocalName != "svg" || box.Length != 4) throw new ArtException($"The drawing \"{name}\" needs an svg element with a viewBox.");
        var shapes = new List<ArtShape>();
        var parts = new List<string>();
        Walk(root, "", new Style(null, null, 0, 0, 1), shapes, parts, name);
        return new SvgArt(shapes, parts, new Vector2(F(box[2]), F(box[3])));
    }

    private readonly record struct Style(string? Fill, string? Stroke, float Width, float Nib, float Opacity);

    private static void Walk(XElement parent, string part, Style style, List<ArtShape> shapes, List<string> parts, string name)
    {
        foreach (var e in parent.Elements())
        {
            var own = new Style(Paint(e, "fill", style.Fill), Paint(e, "stroke", style.Stroke), Number(e, "stroke-width", style.Width),
                Number(e, "data-nib", style.Nib), style.Opacity * Number(e, "opacity", 1));
            switch (e.Name.LocalName)
            {
                case "g":
                    var id = e.Attribute("id")?.Value ?? part;
                    if (e.Attribute("id") != null) parts.Add(id);
                    if (e.Attribute("transform") != null) throw new ArtException($"The drawing \"{name}\" uses a transform in \"{id}\": apply it to the points.");
                    Walk(e, id, own, shapes, parts, name);
                    break;
                case "title" or "desc" or "metadata":
                    break;
                default:
                    var path = e.Name.LocalName switch
                    {
                        "path" => e.Attribute("d")?.Value ?? "",
                        "ellipse" => new PathText().Ellipse(Number(e, "cx"), Number(e, "cy"), Number(e, "rx"), Number(e, "ry")).ToString(),
                        "circle" => new PathText().Ellipse(Number(e, "cx"), Number(e, "cy"), Number(e, "r"), Number(e, "r")).ToString(),
                        "rect" => new PathText().RoundRect(Number(e, "x"), Number(e, "y"), Number(e, "width"), Number(e, "height"), Number(e, "rx")).ToString(),
                        _ => throw new ArtException($"The drawing \"{name}\" uses <{e.Name.LocalName}>, which is not understood."),
                    };
                    shapes.Add(new ArtShape(part, path, own.Fill, own.Stroke, own.Width, own.Nib, own.Opacity));
                    break;
            }
        }
    }

    private static string? Paint(XElement e, string attribute, string? inherited)
    {
        var value = e.Attribute(attribute)?.Value;
        return value is null ? inherited : value == "none" ? null : value;
    }

    private static float Number(XElement e, string attribute, float otherwise = 0) => e.Attribute(attribute) is { } a ? F(a.Value) : otherwise;

    private static float F(string text) => float.Parse(text, CultureInfo.InvariantCulture);
}
