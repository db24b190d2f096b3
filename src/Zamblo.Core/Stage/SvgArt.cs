using System.Numerics;
using System.Xml;
using System.Xml.Linq;

namespace Zamblo.Core.Stage;

/// <summary>A character's or backdrop's file is not as it must be; the message says where.</summary>
public sealed class ArtException(string message) : Exception(message);

/// <summary>One shape of a drawing and the part (nearest named group) that it belongs to.</summary>
internal sealed record ArtShape(string Part, string Path, string? Fill, string? Stroke, float Width, float Nib, float Opacity);

/// <summary>
/// Layered vector art: an SVG file whose named groups are the parts. Understood are g, path, ellipse, circle and rect with fill,
/// stroke, stroke-width, opacity and data-nib, inherited from group to shape. Anything else is an error, not a silent loss; a file that would
/// take too much (a document type, groups in groups without end, too many shapes) is refused before it is drawn.
/// </summary>
internal sealed class SvgArt
{
    private const int LargestFile = 4_000_000,
        MostShapes = 4000,
        MostParts = 400,
        Deepest = 32;

    public IReadOnlyList<ArtShape> Shapes { get; }

    /// <summary>Named groups in paint order, also those without shapes.</summary>
    public IReadOnlyList<string> Parts { get; }
    public Vector2 Size { get; }

    private SvgArt(IReadOnlyList<ArtShape> shapes, IReadOnlyList<string> parts, Vector2 size) => (Shapes, Parts, Size) = (shapes, parts, size);

    public static SvgArt Read(Stream stream, string name)
    {
        XDocument document;
        try
        {
            using var reader = XmlReader.Create(
                stream,
                new XmlReaderSettings
                {
                    DtdProcessing = DtdProcessing.Prohibit,
                    XmlResolver = null,
                    MaxCharactersInDocument = LargestFile,
                }
            );
            document = XDocument.Load(reader);
        }
        catch (XmlException e)
        {
            throw new ArtException($"The drawing \"{name}\" is not well-formed: {e.Message}");
        }
        var root = document.Root!;
        var box = (root.Attribute("viewBox")?.Value ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries);
        if (root.Name.LocalName != "svg" || box.Length != 4)
            throw new ArtException($"The drawing \"{name}\" needs an svg element with a viewBox.");
        var shapes = new List<ArtShape>();
        var parts = new List<string>();
        Walk(root, "", new Style(null, null, 0, 0, 1), shapes, parts, name, 0);
        if (F(box[2], name) is var width && F(box[3], name) is var height && !(width > 0 && height > 0))
            throw new ArtException($"The drawing \"{name}\" has no size.");
        return new SvgArt(shapes, parts, new Vector2(width, height));
    }

    private readonly record struct Style(string? Fill, string? Stroke, float Width, float Nib, float Opacity);

    private static void Walk(XElement parent, string part, Style style, List<ArtShape> shapes, List<string> parts, string name, int depth)
    {
        if (depth > Deepest)
            throw new ArtException($"The drawing \"{name}\" has groups more than {Deepest} deep.");
        foreach (var e in parent.Elements())
        {
            float N(string attribute, float otherwise = 0) => e.Attribute(attribute) is { } a ? F(a.Value, name) : otherwise;
            var own = new Style(
                Paint(e, "fill", style.Fill, name),
                Paint(e, "stroke", style.Stroke, name),
                Math.Max(0, N("stroke-width", style.Width)),
                Math.Max(0, N("data-nib", style.Nib)),
                style.Opacity * Math.Clamp(N("opacity", 1), 0, 1)
            );
            switch (e.Name.LocalName)
            {
                case "g":
                    var id = e.Attribute("id")?.Value ?? part;
                    if (e.Attribute("id") != null)
                    {
                        if (!ArtText.IsName(id))
                            throw new ArtException($"The drawing \"{name}\" has a group whose id is not a name: a letter, then letters, digits, - and _.");
                        if (parts.Count >= MostParts)
                            throw new ArtException($"The drawing \"{name}\" has more than {MostParts} named groups.");
                        parts.Add(id);
                    }
                    if (e.Attribute("transform") != null)
                        throw new ArtException($"The drawing \"{name}\" uses a transform in \"{id}\": apply it to the points.");
                    Walk(e, id, own, shapes, parts, name, depth + 1);
                    break;
                case "title" or "desc" or "metadata":
                    break;
                default:
                    var path = e.Name.LocalName switch
                    {
                        "path" => e.Attribute("d")?.Value ?? "",
                        "ellipse" => new PathText().Ellipse(N("cx"), N("cy"), N("rx"), N("ry")).ToString(),
                        "circle" => new PathText().Ellipse(N("cx"), N("cy"), N("r"), N("r")).ToString(),
                        "rect" => new PathText().RoundRect(N("x"), N("y"), N("width"), N("height"), N("rx")).ToString(),
                        _ => throw new ArtException($"The drawing \"{name}\" uses <{e.Name.LocalName}>, which is not understood."),
                    };
                    if (ArtText.ErrorOfPath(path) is { } error)
                        throw new ArtException($"The drawing \"{name}\" has a path in \"{part}\" that {error}.");
                    if (shapes.Count >= MostShapes)
                        throw new ArtException($"The drawing \"{name}\" has more than {MostShapes} shapes.");
                    shapes.Add(new ArtShape(part, path, own.Fill, own.Stroke, own.Width, own.Nib, own.Opacity));
                    break;
            }
        }
    }

    private static string? Paint(XElement e, string attribute, string? inherited, string name)
    {
        var value = e.Attribute(attribute)?.Value;
        if (value is null or "none")
            return value is null ? inherited : null;
        return ArtText.IsColor(value)
            ? value
            : throw new ArtException($"The drawing \"{name}\" has the {attribute} \"{value}\": colours are written as #rrggbb.");
    }

    private static float F(string text, string name) =>
        ArtText.TryNumber(text, out var value) ? value : throw new ArtException($"The drawing \"{name}\" has \"{text}\" where a number should be.");
}
