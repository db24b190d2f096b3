using System.Numerics;
using System.Text;
using Zamblo.Core.Shots;

namespace Zamblo.Core.Stage;

/// <summary>What stays the same about one thing that is drawn. Paths are SVG path data (W3C SVG 1.1, section 8.3).</summary>
/// <param name="Path">Path data, or null where every frame brings its own.</param>
/// <param name="Fill">"#rrggbb", or null.</param>
/// <param name="Stroke">"#rrggbb", or null. Joins and ends are round.</param>
/// <param name="Width">Of the stroke, in stage units.</param>
/// <param name="Nib">
/// How far the pen's nib reaches to the lower right, in stage units: the stroke is drawn a second time at this offset (0.6 of it down),
/// which gives a line of varying weight.
/// </param>
/// <param name="Clip">Index of the shape whose current outline clips this one, or -1.</param>
public sealed record DrawShape(string? Path, string? Fill, string? Stroke = null, float Width = 0, float Nib = 0, int Clip = -1)
{
    /// <summary>Hash of a picture that fills the box of the path, or the triangles of the mesh; null for none.</summary>
    public string? Picture { get; init; }

    /// <summary>Triangles that the picture lies on; then the path of each frame says where their corners are (<see cref="DrawMesh"/>).</summary>
    public DrawMesh? Mesh { get; init; }

    /// <summary>The picture is a clip of so many frames: which of them is shown, the corners of each frame of the scene say; 0 for a picture.</summary>
    public int Filmed { get; init; }

    /// <summary>
    /// How far a picture that fills a box is out of focus: standard deviation of a Gaussian blur in the shape's units. The picture reaches twice as far
    /// beyond its box on each side then, and is cut there: a blurred edge would let through what lies behind. Of a mesh: in pixels of its picture.
    /// </summary>
    public float Blur { get; init; }

    /// <summary>How its fill meets what lies below.</summary>
    public DrawBlend Blend { get; init; }

    /// <summary>Colours that run across its fill, in place of one.</summary>
    public DrawGradient? Gradient { get; init; }

    /// <summary>Light that falls on the picture, "#rrggbb": each of its colours is multiplied with it. Null leaves it as it is.</summary>
    public string? Tint { get; init; }
}

/// <summary>What changes about it in a frame.</summary>
/// <param name="Transform">From the shape's own units to the stage.</param>
/// <param name="Opacity">0 hides it.</param>
/// <param name="Path">Path data where the shape has none of its own.</param>
/// <param name="Colors">Colours of the shape's gradient in this frame, one after the other; null leaves it its own.</param>
public readonly record struct DrawItem(Matrix3x2 Transform, float Opacity, string? Path = null, string? Colors = null);

/// <summary>A list of things to draw, back to front: the same list is shown in the browser and rendered to film.</summary>
/// <param name="Shapes">What stays the same.</param>
/// <param name="Frames">Per frame one item per shape.</param>
public sealed record DrawingList(IReadOnlyList<DrawShape> Shapes, IReadOnlyList<DrawItem[]> Frames)
{
    /// <summary>Which shapes belong together, back to front; together they are all shapes.</summary>
    public IReadOnlyList<DrawGroup> Groups { get; init; } = [new DrawGroup(0, Shapes.Count, false)];

    /// <summary>Paper grain lies over what is behind everything.</summary>
    public bool HasGrain { get; init; } = true;

    /// <summary>What a picture of a frame shows: by index of the frame in this list, width and height in pixels.</summary>
    public Func<int, int, int, FrameLook> LookAt { get; init; } =
        (_, width, height) => new FrameLook(StageView.Cover(width, height), StageView.Cover(width, height), false);
}

/// <summary>Shapes that belong together.</summary>
/// <param name="First">Index of the first.</param>
/// <param name="Count">How many.</param>
/// <param name="IsStill">The same in every frame.</param>
public readonly record struct DrawGroup(int First, int Count, bool IsStill)
{
    /// <summary>Where it is, seen from the camera.</summary>
    public DrawPlane Plane { get; init; }
}

/// <summary>How far from the camera something is.</summary>
public enum DrawPlane
{
    /// <summary>With the figures.</summary>
    Near,

    /// <summary>Behind all else: moves less than what is near.</summary>
    Far,

    /// <summary>On the picture itself, in its own units (720 high): the camera does not touch it.</summary>
    Over,
}

/// <summary>Writes path data with one decimal, quickly and always with a point.</summary>
public sealed class PathText
{
    private readonly StringBuilder _text = new(256);

    /// <summary>Starts a contour.</summary>
    public PathText Move(float x, float y) => Command('M').Number(x).Number(y);

    /// <summary>Straight line.</summary>
    public PathText Line(float x, float y) => Command('L').Number(x).Number(y);

    /// <summary>Cubic curve.</summary>
    public PathText Curve(float x1, float y1, float x2, float y2, float x, float y) =>
        Command('C').Number(x1).Number(y1).Number(x2).Number(y2).Number(x).Number(y);

    /// <summary>Quadratic curve.</summary>
    public PathText Quad(float x1, float y1, float x, float y) => Command('Q').Number(x1).Number(y1).Number(x).Number(y);

    /// <summary>Closes the contour.</summary>
    public PathText Close() => Command('Z');

    /// <summary>An ellipse as four cubic curves.</summary>
    public PathText Ellipse(float cx, float cy, float rx, float ry)
    {
        const float k = 0.5523f;
        return Move(cx - rx, cy)
            .Curve(cx - rx, cy - ry * k, cx - rx * k, cy - ry, cx, cy - ry)
            .Curve(cx + rx * k, cy - ry, cx + rx, cy - ry * k, cx + rx, cy)
            .Curve(cx + rx, cy + ry * k, cx + rx * k, cy + ry, cx, cy + ry)
            .Curve(cx - rx * k, cy + ry, cx - rx, cy + ry * k, cx - rx, cy)
            .Close();
    }

    /// <summary>A rectangle with round corners.</summary>
    public PathText RoundRect(float x, float y, float w, float h, float r)
    {
        r = Math.Min(r, Math.Min(w, h) / 2);
        var k = r * 0.4477f;
        return Move(x + r, y)
            .Line(x + w - r, y)
            .Curve(x + w - k, y, x + w, y + k, x + w, y + r)
            .Line(x + w, y + h - r)
            .Curve(x + w, y + h - k, x + w - k, y + h, x + w - r, y + h)
            .Line(x + r, y + h)
            .Curve(x + k, y + h, x, y + h - k, x, y + h - r)
            .Line(x, y + r)
            .Curve(x, y + k, x + k, y, x + r, y)
            .Close();
    }

    /// <inheritdoc/>
    public override string ToString() => _text.ToString();

    private PathText Command(char c)
    {
        _text.Append(c);
        return this;
    }

    private PathText Number(float value)
    {
        var tenths = (int)MathF.Round(value * 10);
        if (_text.Length > 0 && char.IsAsciiDigit(_text[^1]))
            _text.Append(' ');
        if (tenths < 0)
        {
            _text.Append('-');
            tenths = -tenths;
        }
        _text.Append(tenths / 10);
        if (tenths % 10 != 0)
            _text.Append('.').Append((char)('0' + tenths % 10));
        return this;
    }
}
