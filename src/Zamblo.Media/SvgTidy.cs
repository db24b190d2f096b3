using System.Globalization;
using System.Numerics;
using System.Text;
using System.Text.RegularExpressions;
using System.Xml;
using System.Xml.Linq;
using SkiaSharp;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>
/// Makes of a drawing program's SVG (W3C, "Scalable Vector Graphics 1.1, second edition") the plain kind that characters are read from: transforms go
/// into the points, styles into attributes, gradients become the colour of their middle, basic shapes become paths. What has no counterpart (text,
/// pictures, clips, masks, filters) is refused with its name, not silently lost.
/// </summary>
internal static partial class SvgTidy
{
    private const int LargestFile = 8_000_000,
        Deepest = 64,
        MostShapes = 4000;

    private static readonly string[] Ignored = ["title", "desc", "metadata", "defs", "namedview", "style", "linearGradient", "radialGradient", "switch"];

    private readonly record struct Look(
        string? Fill,
        string? Stroke,
        float Width,
        float Nib,
        float Opacity,
        float FillOpacity,
        float StrokeOpacity,
        bool IsSeen
    );

    /// <summary>The plain drawing.</summary>
    /// <param name="svg">As it came.</param>
    /// <param name="parts">Names of the parts: other groups belong to the part that they lie in.</param>
    /// <exception cref="ArtException">It is no SVG, or has something that cannot be drawn; what.</exception>
    public static string Plain(string svg, IReadOnlySet<string> parts)
    {
        XDocument document;
        try
        {
            using var reader = XmlReader.Create(
                new StringReader(svg),
                new XmlReaderSettings
                {
                    // Drawing programs write one; nothing of it is read.
                    DtdProcessing = DtdProcessing.Ignore,
                    XmlResolver = null,
                    MaxCharactersInDocument = LargestFile,
                }
            );
            document = XDocument.Load(reader);
        }
        catch (XmlException e)
        {
            throw new ArtException($"The drawing is not well-formed: {e.Message}");
        }
        var root = document.Root!;
        if (root.Name.LocalName != "svg")
            throw new ArtException("The drawing is no SVG.");
        var box = Numbers(root.Attribute("viewBox")?.Value ?? $"0 0 {root.Attribute("width")?.Value} {root.Attribute("height")?.Value}");
        if (box.Length != 4 || !(box[2] > 0) || !(box[3] > 0))
            throw new ArtException("The drawing has no viewBox: save it with one.");
        var paints = document
            .Descendants()
            .Where(e => e.Name.LocalName is "linearGradient" or "radialGradient" && e.Attribute("id") != null)
            .DistinctBy(e => e.Attribute("id")!.Value)
            .ToDictionary(e => e.Attribute("id")!.Value);
        var text = new StringBuilder();
        text.Append(CultureInfo.InvariantCulture, $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {box[2]:0.###} {box[3]:0.###}\">\n");
        var count = 0;
        Walk(root, SKMatrix.CreateTranslation(-box[0], -box[1]), new Look("#000000", null, 1, 0, 1, 1, 1, true), 0);
        return text.Append("</svg>\n").ToString();

        void Walk(XElement parent, SKMatrix place, Look look, int depth)
        {
            if (depth > Deepest)
                throw new ArtException($"The drawing has groups more than {Deepest} deep.");
            foreach (var e in parent.Elements())
            {
                var kind = e.Name.LocalName;
                if (Ignored.Contains(kind) || e.Name.NamespaceName is not ("" or "http://www.w3.org/2000/svg"))
                    continue;
                var own = LookOf(e, look, paints);
                var at = e.Attribute("transform")?.Value is { } transform ? place.PreConcat(MatrixOf(transform)) : place;
                foreach (var reference in (string[])["clip-path", "mask", "filter"])
                    if ((Property(e, reference) ?? "none") != "none")
                        throw new ArtException($"The drawing uses {reference} in \"{NameOf(e)}\": take it off, or cut the shape itself.");
                if (kind is "g" or "a" or "svg")
                {
                    var name = PartOf(e, parts);
                    if (name != null)
                        text.Append($"<g id=\"{name}\">\n");
                    Walk(e, at, own, depth + 1);
                    if (name != null)
                        text.Append("</g>\n");
                    continue;
                }
                using var path = PathOf(e, kind);
                if (!own.IsSeen || (own.Fill == null && own.Stroke == null))
                    continue;
                if (++count > MostShapes)
                    throw new ArtException($"The drawing has more than {MostShapes} shapes.");
                path.Transform(at);
                var data = path.ToSvgPathData();
                if (data.Length == 0)
                    continue;
                var scale = MathF.Sqrt(MathF.Abs(at.ScaleX * at.ScaleY - at.SkewX * at.SkewY));
                // A shape that is a part of its own has a group around it.
                var part = PartOf(e, parts);
                if (part != null)
                    text.Append($"<g id=\"{part}\">");
                var opacity = own.Opacity * (own.Fill == null ? own.StrokeOpacity : own.FillOpacity);
                text.Append(CultureInfo.InvariantCulture, $"<path d=\"{data}\" fill=\"{own.Fill ?? "none"}\" stroke=\"{own.Stroke ?? "none"}\"");
                if (own.Stroke != null)
                    text.Append(CultureInfo.InvariantCulture, $" stroke-width=\"{own.Width * scale:0.###}\"");
                if (own.Nib > 0)
                    text.Append(CultureInfo.InvariantCulture, $" data-nib=\"{own.Nib * scale:0.###}\"");
                if (opacity < 1)
                    text.Append(CultureInfo.InvariantCulture, $" opacity=\"{opacity:0.###}\"");
                text.Append(part != null ? "/></g>\n" : "/>\n");
            }
        }
    }

    private static string NameOf(XElement e) => e.Attribute("id")?.Value ?? e.Name.LocalName;

    // The name that a person gave: a layer's label, else an id.
    private static string? PartOf(XElement e, IReadOnlySet<string> parts)
    {
        var label = e.Attributes().FirstOrDefault(a => a.Name.LocalName == "label")?.Value.Trim();
        return label != null && parts.Contains(label) ? label
            : e.Attribute("id")?.Value is { } id && parts.Contains(id) ? id
            : null;
    }

    private static string? Property(XElement e, string name)
    {
        foreach (var pair in (e.Attribute("style")?.Value ?? "").Split(';'))
            if (pair.Split(':', 2, StringSplitOptions.TrimEntries) is [var key, var value] && key == name)
                return value;
        return e.Attribute(name)?.Value.Trim();
    }

    private static Look LookOf(XElement e, Look from, Dictionary<string, XElement> paints)
    {
        float N(string name, float other) => Property(e, name) is { } v && Numbers(v) is [var n, ..] ? (v.EndsWith('%') ? n / 100 : n) : other;
        return new Look(
            Property(e, "fill") is { } fill ? Color(fill, from.Fill, paints, e) : from.Fill,
            Property(e, "stroke") is { } stroke ? Color(stroke, from.Stroke, paints, e) : from.Stroke,
            Math.Max(0, N("stroke-width", from.Width)),
            Math.Max(0, N("data-nib", from.Nib)),
            from.Opacity * Math.Clamp(N("opacity", 1), 0, 1),
            Math.Clamp(N("fill-opacity", from.FillOpacity), 0, 1),
            Math.Clamp(N("stroke-opacity", from.StrokeOpacity), 0, 1),
            from.IsSeen && Property(e, "display") != "none" && Property(e, "visibility") is not ("hidden" or "collapse")
        );
    }

    private static string? Color(string text, string? inherited, Dictionary<string, XElement> paints, XElement e)
    {
        if (text is "none" or "transparent")
            return null;
        if (text is "inherit" or "context-fill" or "context-stroke")
            return inherited;
        if (text == "currentColor")
            return "#000000";
        if (Reference().Match(text) is { Success: true } m)
            return paints.TryGetValue(m.Groups[1].Value, out var paint)
                ? Mean(paint, paints, 0)
                : throw new ArtException($"The drawing paints \"{NameOf(e)}\" with a pattern, which cannot be drawn: give it a colour.");
        if (Rgb().Match(text) is { Success: true } rgb)
        {
            int Part(int i) => Math.Clamp(int.Parse(rgb.Groups[i].Value, CultureInfo.InvariantCulture), 0, 255);
            return $"#{Part(1):x2}{Part(2):x2}{Part(3):x2}";
        }
        if (SKColor.TryParse(text.StartsWith('#') ? text : "?", out var color))
            return $"#{color.Red:x2}{color.Green:x2}{color.Blue:x2}";
        if (System.Drawing.Color.FromName(text) is { IsKnownColor: true, IsSystemColor: false } named)
            return $"#{named.R:x2}{named.G:x2}{named.B:x2}";
        throw new ArtException($"The drawing has the colour \"{text}\" in \"{NameOf(e)}\", which is not understood: write it as #rrggbb.");
    }

    // The middle of a gradient's stops.
    private static string? Mean(XElement gradient, Dictionary<string, XElement> paints, int depth)
    {
        var stops = gradient.Elements().Where(s => s.Name.LocalName == "stop").ToArray();
        var other = gradient.Attributes().FirstOrDefault(a => a.Name.LocalName == "href")?.Value.TrimStart('#');
        if (stops.Length == 0)
            return depth < 8 && other != null && paints.TryGetValue(other, out var next) ? Mean(next, paints, depth + 1) : null;
        var sum = Vector3.Zero;
        foreach (var stop in stops)
        {
            var hex = Color(Property(stop, "stop-color") ?? "#000000", null, [], stop) ?? "#000000";
            sum += new Vector3(Convert.ToInt32(hex[1..3], 16), Convert.ToInt32(hex[3..5], 16), Convert.ToInt32(hex[5..7], 16));
        }
        var mean = sum / stops.Length;
        return $"#{(int)MathF.Round(mean.X):x2}{(int)MathF.Round(mean.Y):x2}{(int)MathF.Round(mean.Z):x2}";
    }

    private static SKPath PathOf(XElement e, string kind)
    {
        float N(string name) => e.Attribute(name) is { } a && Numbers(a.Value) is [var n, ..] ? n : 0;
        using var made = new SKPathBuilder();
        switch (kind)
        {
            case "path":
                return SKPath.ParseSvgPathData(e.Attribute("d")?.Value ?? "")
                    ?? throw new ArtException($"The drawing has a path in \"{NameOf(e)}\" that cannot be read.");
            case "rect":
                var round = Math.Max(N("rx"), N("ry"));
                made.AddRoundRect(new SKRoundRect(SKRect.Create(N("x"), N("y"), N("width"), N("height")), round, round));
                break;
            case "circle":
                made.AddCircle(N("cx"), N("cy"), N("r"));
                break;
            case "ellipse":
                made.AddOval(new SKRect(N("cx") - N("rx"), N("cy") - N("ry"), N("cx") + N("rx"), N("cy") + N("ry")));
                break;
            case "line":
                made.MoveTo(N("x1"), N("y1"));
                made.LineTo(N("x2"), N("y2"));
                break;
            case "polygon" or "polyline":
                var points = Numbers(e.Attribute("points")?.Value ?? "").Chunk(2).Where(p => p.Length == 2).Select(p => new SKPoint(p[0], p[1])).ToArray();
                if (points.Length > 1)
                    made.AddPoly(points, kind == "polygon");
                break;
            default:
                throw new ArtException($"The drawing has <{kind}> (\"{NameOf(e)}\"), which cannot be drawn: turn it into paths.");
        }
        return made.Detach();
    }

    private static SKMatrix MatrixOf(string transform)
    {
        var all = SKMatrix.Identity;
        foreach (Match m in Function().Matches(transform))
        {
            var n = Numbers(m.Groups[2].Value);
            float At(int i, float other = 0) => i < n.Length ? n[i] : other;
            var one = m.Groups[1].Value switch
            {
                "matrix" => new SKMatrix(At(0, 1), At(2), At(4), At(1), At(3, 1), At(5), 0, 0, 1),
                "translate" => SKMatrix.CreateTranslation(At(0), At(1)),
                "scale" => SKMatrix.CreateScale(At(0, 1), At(1, At(0, 1))),
                "rotate" => SKMatrix.CreateRotationDegrees(At(0), At(1), At(2)),
                "skewX" => SKMatrix.CreateSkew(MathF.Tan(At(0) * MathF.PI / 180), 0),
                "skewY" => SKMatrix.CreateSkew(0, MathF.Tan(At(0) * MathF.PI / 180)),
                var other => throw new ArtException($"The drawing has the transform \"{other}\", which is not understood."),
            };
            all = all.PreConcat(one);
        }
        return all;
    }

    private static float[] Numbers(string text) =>
        [
            .. Number()
                .Matches(text)
                .Select(m => float.TryParse(m.Value, NumberStyles.Float, CultureInfo.InvariantCulture, out var n) && float.IsFinite(n) ? n : 0),
        ];

    [GeneratedRegex(@"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")]
    private static partial Regex Number();

    [GeneratedRegex(@"(\w+)\s*\(([^)]*)\)")]
    private static partial Regex Function();

    [GeneratedRegex(@"^url\(\s*['""]?#([^'"")]+)['""]?\s*\)")]
    private static partial Regex Reference();

    [GeneratedRegex(@"^rgba?\(\s*(\d{1,3})\s*[, ]\s*(\d{1,3})\s*[, ]\s*(\d{1,3})")]
    private static partial Regex Rgb();
}
