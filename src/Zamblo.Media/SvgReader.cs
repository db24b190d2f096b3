using System.Numerics;
using System.Xml;
using System.Xml.Linq;
using SkiaSharp;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>A named group that a shape lies in, or a shape that has a name itself.</summary>
/// <param name="Number">Which: names may come twice.</param>
/// <param name="Label">Of a layer, as a person has written it; null for none.</param>
/// <param name="Id">Its id; null for none.</param>
internal sealed record SvgGroup(int Number, string? Label, string? Id);

/// <summary>A shape, or the place of a group.</summary>
/// <param name="Groups">From the outermost in.</param>
/// <param name="Path">Path data in the drawing's own units, from its upper left corner; null for the place where a group begins.</param>
/// <param name="Box">Of the path, without its line.</param>
/// <param name="Look">How it is painted.</param>
internal sealed record SvgPiece(IReadOnlyList<SvgGroup> Groups, string? Path, SKRect Box, SvgLook Look);

/// <summary>
/// Reads a drawing program's SVG (W3C, "Scalable Vector Graphics 1.1, second edition"): transforms go into the points, styles (attributes, "style", rules of
/// a style element) into a look, gradients become the colour of their middle, basic shapes and copies ("use") become paths, clips cut them. What has no
/// counterpart (text, pictures, masks, filters, patterns) is left out and named.
/// </summary>
internal sealed class SvgReader
{
    private const int LargestFile = 8_000_000,
        Deepest = 64,
        MostShapes = 4000,
        MostSteps = 40_000,
        MostWarnings = 40,
        MostText = 12_000_000,
        MostPoints = 4000,
        MostCuts = 1000;

    private static readonly string[] Ignored = ["title", "desc", "metadata", "defs", "namedview", "style", "linearGradient", "radialGradient", "clipPath"];
    private static readonly string[] Unknown = ["text", "image", "foreignObject", "pattern", "mask", "filter", "marker", "symbol", "script", "animate"];

    private readonly Dictionary<string, XElement> _named;
    private readonly SvgStyles _styles;
    private readonly List<SvgPiece> _pieces = [];
    private readonly List<string> _warnings = [];
    private readonly float[] _box;
    private int _groups,
        _shapes,
        _cuts,
        _text,
        _steps;

    /// <summary>Shapes and places of groups, back to front.</summary>
    public IReadOnlyList<SvgPiece> Pieces => _pieces;

    /// <summary>What could not be taken over, a sentence each.</summary>
    public IReadOnlyList<string> Warnings => _warnings;

    /// <summary>Width and height in the drawing's own units.</summary>
    public Vector2 Size => new(_box[2], _box[3]);

    /// <summary>Reads a drawing.</summary>
    /// <param name="svg">As it came.</param>
    /// <param name="part">Only this part of it counts, and is so high: left, top, right and bottom in the drawing's units; null for all of it as it is.</param>
    /// <param name="height">See there.</param>
    /// <exception cref="ArtException">It is no SVG, or takes too much.</exception>
    public SvgReader(string svg, SKRect? part = null, float height = 0)
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
        _box = SvgGeometry.Numbers(root.Attribute("viewBox")?.Value ?? $"0 0 {root.Attribute("width")?.Value} {root.Attribute("height")?.Value}");
        if (_box.Length != 4 || !(_box[2] > 0) || !(_box[3] > 0))
            throw new ArtException("The drawing has no viewBox: save it with one.");
        _named = document
            .Descendants()
            .Where(e => e.Attribute("id") != null)
            .DistinctBy(e => e.Attribute("id")!.Value)
            .ToDictionary(e => e.Attribute("id")!.Value);
        _styles = new SvgStyles(document, _named, Warn);
        var place = SKMatrix.CreateTranslation(-_box[0], -_box[1]);
        if (part is { } box)
        {
            var scale = height / box.Height;
            place = SKMatrix.CreateScale(scale, scale).PreConcat(SKMatrix.CreateTranslation(-box.Left, -box.Top)).PreConcat(place);
            (_box[2], _box[3]) = (box.Width * scale, height);
        }
        Walk(root, place, SvgLook.Initial, [], null, 0);
    }

    private void Warn(string sentence)
    {
        if (_warnings.Count < MostWarnings && !_warnings.Contains(sentence))
            _warnings.Add(sentence);
    }

    private static string NameOf(XElement e) => LabelOf(e) ?? e.Attribute("id")?.Value ?? e.Name.LocalName;

    // What a person has called it: a program that keeps names for itself writes them into an attribute of its own.
    private static string? LabelOf(XElement e) =>
        e.Attributes()
            .FirstOrDefault(a => a.Name.LocalName is "label" or "data-name" || (a.Name.LocalName == "id" && a.Name.NamespaceName.Length > 0))
            ?.Value.Trim()
            is { Length: > 0 and <= 100 } label
            ? label
            : null;

    private void Walk(XElement parent, SKMatrix place, SvgLook look, IReadOnlyList<SvgGroup> groups, SKPath? clip, int depth)
    {
        if (depth > Deepest)
            throw new ArtException($"The drawing has groups more than {Deepest} deep.");
        foreach (var e in parent.Elements())
            One(e, place, look, groups, clip, depth);
    }

    private void One(XElement e, SKMatrix place, SvgLook look, IReadOnlyList<SvgGroup> groups, SKPath? clip, int depth)
    {
        // Copies of copies grow without end.
        if (++_steps > MostSteps)
            throw new ArtException($"The drawing has more than {MostSteps} elements.");
        var kind = e.Name.LocalName;
        if (Ignored.Contains(kind) || e.Name.NamespaceName is not ("" or "http://www.w3.org/2000/svg"))
            return;
        if (Unknown.Contains(kind))
        {
            // What a program keeps for itself beside the drawing.
            if (e.Parent?.Name.LocalName == "switch")
                return;
            Warn($"<{kind}> (\"{NameOf(e)}\") cannot be drawn and is left out: turn it into paths.");
            return;
        }
        var own = _styles.LookOf(e, look);
        var at = e.Attribute("transform")?.Value is { } transform ? place.PreConcat(SvgGeometry.MatrixOf(transform, Warn)) : place;
        foreach (var reference in (string[])["mask", "filter"])
            if ((_styles.Property(e, reference) ?? "none") != "none")
                Warn($"The {reference} of \"{NameOf(e)}\" cannot be drawn and is left out.");
        using var cut = ClipOf(e, at, clip);
        var within = cut ?? clip;
        string? label = LabelOf(e),
            id = e.Attribute("id")?.Value;
        var inner = label == null && id == null ? groups : [.. groups, new SvgGroup(_groups++, label, id)];
        if (kind is "g" or "a" or "svg" or "switch")
        {
            if (inner != groups)
                _pieces.Add(new SvgPiece(inner, null, SKRect.Empty, own));
            Walk(e, at, own, inner, within, depth + 1);
            return;
        }
        if (kind == "use")
        {
            if (SvgStyles.HrefOf(e) is not { } href || !_named.TryGetValue(href, out var copied) || e.AncestorsAndSelf().Contains(copied))
            {
                Warn($"\"{NameOf(e)}\" is a copy of something that is not in the drawing.");
                return;
            }
            if (depth > Deepest)
                throw new ArtException($"The drawing has groups more than {Deepest} deep.");
            var there = at.PreConcat(SKMatrix.CreateTranslation(SvgGeometry.Number(e, "x"), SvgGeometry.Number(e, "y")));
            if (copied.Name.LocalName == "symbol")
                Walk(copied, there, own, inner, within, depth + 1);
            else
                One(copied, there, own, inner, within, depth + 1);
            return;
        }
        Shape(e, at, own, inner, within);
    }

    private void Shape(XElement e, SKMatrix at, SvgLook look, IReadOnlyList<SvgGroup> groups, SKPath? clip)
    {
        if (look.Fill == null && look.Stroke == null)
            return;
        using var path = PathOf(e);
        if (path == null)
            return;
        if (++_shapes > MostShapes)
            throw new ArtException($"The drawing has more than {MostShapes} shapes.");
        path.Transform(at);
        var scale = MathF.Sqrt(MathF.Abs(at.ScaleX * at.ScaleY - at.SkewX * at.SkewY));
        var own = look with { Width = look.Width * scale, Nib = look.Nib * scale };
        if (clip == null || !CanCut(path, clip))
        {
            Add(path, own, groups);
            return;
        }
        if (own.Fill != null)
            using (var cut = path.Op(clip, SKPathOp.Intersect))
                Add(cut, own with { Stroke = null }, groups);
        // A line that is cut is an area from then on.
        if (own.Stroke != null)
        {
            using var paint = new SKPaint
            {
                Style = SKPaintStyle.Stroke,
                StrokeWidth = own.Width,
                StrokeCap = SKStrokeCap.Round,
                StrokeJoin = SKStrokeJoin.Round,
            };
            using var area = paint.GetFillPath(path);
            using var cut = area?.Op(clip, SKPathOp.Intersect);
            Add(cut, own with { Fill = own.Stroke, FillOpacity = own.StrokeOpacity, Stroke = null, Nib = 0 }, groups);
        }
    }

    // Copies of one long path are read each time.
    private SKPath? PathOf(XElement e)
    {
        if ((_text += (e.Attribute("d") ?? e.Attribute("points"))?.Value.Length ?? 0) > MostText)
            throw new ArtException("The drawing has too many points.");
        return SvgGeometry.PathOf(e, e.Name.LocalName, NameOf(e), Warn);
    }

    // Cutting takes long where both have many points.
    private bool CanCut(SKPath one, SKPath other)
    {
        if (one.PointCount <= MostPoints && other.PointCount <= MostPoints && ++_cuts <= MostCuts)
            return true;
        Warn("What some clip-path cuts off is seen: too much of the drawing is cut.");
        return false;
    }

    private void Add(SKPath? path, SvgLook look, IReadOnlyList<SvgGroup> groups)
    {
        if (path is not { IsEmpty: false } || SvgGeometry.DataOf(path) is not { Length: > 0 } data)
            return;
        _pieces.Add(new SvgPiece(groups, data, path.TightBounds, look));
    }

    // What of a shape is seen; null where nothing is cut off anew.
    private SKPath? ClipOf(XElement e, SKMatrix at, SKPath? clip)
    {
        if (SvgStyles.UrlOf(_styles.Property(e, "clip-path")) is not { } id)
            return null;
        if (
            !_named.TryGetValue(id, out var element)
            || element.Name.LocalName != "clipPath"
            || element.Attribute("clipPathUnits")?.Value == "objectBoundingBox"
        )
        {
            Warn($"What the clip-path of \"{NameOf(e)}\" cuts off is seen: it cannot be drawn.");
            return null;
        }
        var whole = new SKPath();
        var place = element.Attribute("transform")?.Value is { } transform ? at.PreConcat(SvgGeometry.MatrixOf(transform, Warn)) : at;
        foreach (var shape in element.Elements())
        {
            if (++_steps > MostSteps)
                throw new ArtException($"The drawing has more than {MostSteps} elements.");
            var (drawn, moved) = (shape, place);
            if (shape.Name.LocalName == "use" && SvgStyles.HrefOf(shape) is { } href && _named.TryGetValue(href, out var copied))
                (drawn, moved) = (copied, place.PreConcat(SKMatrix.CreateTranslation(SvgGeometry.Number(shape, "x"), SvgGeometry.Number(shape, "y"))));
            using var path = PathOf(drawn);
            if (path == null)
                continue;
            path.Transform(drawn.Attribute("transform")?.Value is { } own ? moved.PreConcat(SvgGeometry.MatrixOf(own, Warn)) : moved);
            if (!CanCut(whole, path))
            {
                whole.Dispose();
                return null;
            }
            if (whole.Op(path, SKPathOp.Union) is { } sum)
            {
                whole.Dispose();
                whole = sum;
            }
        }
        if (clip == null || !CanCut(whole, clip))
            return whole;
        using (whole)
            return whole.Op(clip, SKPathOp.Intersect) ?? new SKPath();
    }
}
