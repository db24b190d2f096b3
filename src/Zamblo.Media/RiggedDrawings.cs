using SkiaSharp;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Rigging;

namespace Zamblo.Media;

/// <summary>Drawings that come without a rig: they get one, by the names of their groups (<see cref="AutoRig"/>).</summary>
public static class RiggedDrawings
{
    // Of its height: paper that is left around the figure, for lines reach beyond their paths.
    private const float Margin = 0.02f;

    // A drawing that is wider than this many heights is a strip, and is scaled by its width.
    private const float Widest = 3;

    /// <summary>A character out of an SVG.</summary>
    /// <param name="svg">As a drawing program has written it.</param>
    /// <param name="name">Of the character.</param>
    /// <exception cref="MediaException">It cannot be used; why.</exception>
    public static BroughtDrawing Read(string svg, string name)
    {
        try
        {
            var whole = new SvgReader(svg);
            var seen = whole.Pieces.Where(p => p is { Path: not null, Look.IsSeen: true, Look.Shown: > 0 }).Select(p => p.Box).ToArray();
            if (seen.Length == 0)
                throw new ArtException("There is nothing to be seen in this drawing.");
            var box = seen.Aggregate((a, b) => SKRect.Union(a, b));
            // Lines lie half beyond their paths; a dot has no size of its own.
            var margin = Math.Max(Margin * Math.Max(box.Height, box.Width), 1e-3f);
            box.Inflate(margin, margin);
            if (box.Width > Widest * box.Height)
                box.Inflate(0, (box.Width / Widest - box.Height) / 2);
            var read = new SvgReader(svg, box, AutoRig.Height);
            SvgPiece[] pieces = [.. read.Pieces.Where(p => p is { Path: not null, Look.Shown: > 0 })];
            var made = AutoRig.Make(name, [.. pieces.Select(Piece)]);
            var text = SvgTidy.Head(read.Size.X, read.Size.Y);
            foreach (var (id, shapes) in made.Groups)
            {
                text.Append($"<g id=\"{id}\">\n");
                foreach (var i in shapes)
                    SvgTidy.Write(text, pieces[i].Path!, pieces[i].Look);
                text.Append("</g>\n");
            }
            var recipe = new DrawnRecipe(text.Append("</svg>\n").ToString(), made.Rig.ToJson());
            recipe.Make(name);
            return new BroughtDrawing(recipe, new Dictionary<string, byte[]>()) { Warnings = [.. read.Warnings, .. made.Warnings] };
        }
        catch (ArtException e)
        {
            throw new MediaException(e.Message, e);
        }
    }

    /// <summary>
    /// Where each part of a drawing lies at rest, by its name: left, top, width and height in the drawing's units. What is drawn anew has none.
    /// </summary>
    public static IReadOnlyDictionary<string, float[]> BoxesOf(DrawnRecipe recipe)
    {
        var boxes = new Dictionary<string, SKRect>();
        foreach (var (part, path) in recipe.Shapes())
        {
            using var read = SKPath.ParseSvgPathData(path);
            if (read is { IsEmpty: false })
                boxes[part] = boxes.TryGetValue(part, out var before) ? SKRect.Union(before, read.TightBounds) : read.TightBounds;
        }
        return boxes.ToDictionary(b => b.Key, b => new[] { b.Value.Left, b.Value.Top, b.Value.Width, b.Value.Height }.Select(x => MathF.Round(x, 1)).ToArray());
    }

    private static ArtPiece Piece(SvgPiece p) =>
        new(
            [.. p.Groups.Select(g => new ArtGroup(g.Number, g.Label ?? g.Id!))],
            p.Path!,
            new ArtBox(p.Box.Left, p.Box.Top, p.Box.Right, p.Box.Bottom),
            p.Look.Fill,
            p.Look.Stroke,
            p.Look.Width,
            p.Look.IsSeen
        );
}
