using System.Numerics;
using Zamblo.Core.Light;
using Zamblo.Core.Stage.Wardrobe;

namespace Zamblo.Core.Stage;

/// <summary>The light among the shapes of a scene: layers over set and everything, glows of lamps behind and before the figures, shade on these.</summary>
internal sealed class StageLights(LightCourse course, LampCourse lamps)
{
    private int _overSet,
        _overAll,
        _behind,
        _before;

    // Shapes of figures that are shaded, and their colour.
    private readonly List<(int Shape, string Fill)> _shaded = [];
    private readonly Vector3[] _first = course.IsShaded ? course.ShadeAt(0) : [];

    /// <summary>In whose colours shapes are drawn.</summary>
    public LightPlot Plot => course.Baked;

    /// <summary>Nothing is added, nothing changed.</summary>
    public bool IsPlain => course.OverAll.Count == 0 && lamps.Lamps.Count == 0 && Plot == LightPlot.Of(new LightDials());

    /// <summary>Names what stands in the shapes.</summary>
    public string ShapesKey => $"{course.ShapesKey} {lamps.ShapesKey}";

    /// <summary>Names all of it.</summary>
    public string Key => lamps.Lamps.Count == 0 ? course.Key : $"{course.Key} {lamps.Key}";

    /// <summary>Adds what lies over the set and behind the figures.</summary>
    public void AddBehind(List<DrawShape> shapes, List<DrawGroup> groups)
    {
        _overSet = Add(course.OverSet, DrawPlane.Over, shapes, groups);
        _behind = Add([.. lamps.Shapes], DrawPlane.Near, shapes, groups);
    }

    /// <summary>Adds what lies over the figures.</summary>
    public void AddBefore(List<DrawShape> shapes, List<DrawGroup> groups)
    {
        _overAll = Add(course.OverAll, DrawPlane.Over, shapes, groups);
        _before = Add([.. lamps.Shapes], DrawPlane.Near, shapes, groups);
    }

    private static int Add(IReadOnlyList<DrawShape> own, DrawPlane plane, List<DrawShape> shapes, List<DrawGroup> groups)
    {
        var first = shapes.Count;
        shapes.AddRange(own);
        groups.Add(new DrawGroup(first, own.Count, false) { Plane = plane });
        return first;
    }

    /// <summary>Adds the shapes of a figure in this light.</summary>
    /// <param name="figure">Whose.</param>
    /// <param name="shapes">Grows by all of the figure's.</param>
    public void AddFigure(Figure figure, List<DrawShape> shapes)
    {
        var first = shapes.Count;
        var (middle, half) = (figure.Rig.Head.Centre[0], Across * figure.Rig.Head.Radius[0]);
        for (var i = 0; i < figure.Shapes.Count; i++)
        {
            var shape = figure.Shapes[i];
            var lit = Plot.OnFigure(shape) with { Clip = shape.Clip < 0 ? -1 : shape.Clip + first };
            if (course.IsShaded && figure.TakesShade && lit is { Fill: not null, Mesh: null })
            {
                var origin = figure.OriginOf(i);
                var (from, to) = (middle - half - origin.X, middle + half - origin.X);
                if (course.ShadeChanges)
                {
                    lit = KeyShade.On(lit, from, to, _first);
                    _shaded.Add((shapes.Count, lit.Fill!));
                }
                else
                    lit = KeyShade.On(lit, from, to, AcrossOf(shape.Path), Plot);
            }
            shapes.Add(lit);
        }
    }

    // What is made anew in each frame, eyes and mouth, lies about its own middle.
    private static (float, float)? AcrossOf(string? path) =>
        path == null ? (0, 0)
        : PathPoints.IsPlain(path) ? PathPoints.Widths(path)
        : null;

    // Half the line that the shade runs along, in half widths of the head.
    private const float Across = 1.25f;

    /// <summary>Draws the light of a moment, when all figures of the frame have been drawn.</summary>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="items">Of the frame.</param>
    public void Draw(double t, DrawItem[] items)
    {
        course.Draw(t, items.AsSpan(_overSet, course.OverSet.Count), items.AsSpan(_overAll, course.OverAll.Count));
        if (lamps.Lamps.Count > 0)
        {
            lamps.Draw(t, course.BrightAt(t), false, items.AsSpan(_behind, lamps.Lamps.Count));
            lamps.Draw(t, 1, true, items.AsSpan(_before, lamps.Lamps.Count));
        }
        Shade(t, items, 0);
    }

    /// <summary>The shade of a moment on shapes that have been drawn.</summary>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="items">Of some shapes one after another.</param>
    /// <param name="first">The first of these.</param>
    public void Shade(double t, DrawItem[] items, int first)
    {
        if (_shaded.Count == 0)
            return;
        var shade = course.ShadeAt(t);
        var known = new Dictionary<string, string>();
        foreach (var (shape, fill) in _shaded)
        {
            if (shape < first || shape >= first + items.Length || items[shape - first].Opacity <= 0)
                continue;
            if (!known.TryGetValue(fill, out var colors))
                known[fill] = colors = KeyShade.Colors(fill, shade);
            items[shape - first] = items[shape - first] with { Colors = colors };
        }
    }

    /// <summary>How dark shadows are at a moment, and to which side they fall.</summary>
    /// <param name="t">In seconds of the scene.</param>
    public (float Shadow, float Side) ShadowAt(double t) => course.ShadowAt(t);
}
