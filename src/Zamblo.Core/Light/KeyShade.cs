using System.Numerics;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Light;

/// <summary>
/// What the key light leaves in the shade of a figure: colours that run across its shapes, from the side that the light comes from to the other. Since every
/// shape of it has the same line, the shade is one over all of it, and ends at its outline.
/// </summary>
public static class KeyShade
{
    // Where the colours of a shade that changes are, across the head and beyond.
    private static readonly float[] Stops = [0, 0.2f, 0.4f, 0.6f, 0.8f, 1];

    // Of the way away from the light: where the shade begins, and where it is whole. Chosen by eye.
    private const float Begins = 0.34f,
        IsWhole = 0.82f;

    // What is no wider than this share of the line has one colour.
    private const float Narrow = 0.14f;

    // Less of a shade than this share of the line is not seen.
    private const float Seen = 0.03f;

    /// <summary>Whether any shade is to be seen in a light.</summary>
    public static bool IsSeen(LightPlot plot) => plot.Shade != Vector3.One;

    // The light's own place across the head, 0 to 1.
    private static float From(LightPlot plot) => (1 + plot.Side) / 2;

    private static Vector3 At(LightPlot plot, float at) =>
        Vector3.Lerp(Vector3.One, plot.Shade, Math.Clamp((Math.Abs(at - From(plot)) - Begins) / (IsWhole - Begins), 0, 1));

    /// <summary>What is left of a figure's colours at fixed places from the left to the right: for a shade that changes.</summary>
    public static Vector3[] Of(LightPlot plot) => [.. Stops.Select(at => At(plot, at))];

    /// <summary>A shape of a figure with a shade that stays.</summary>
    /// <param name="shape">In the light of its figure; with a fill.</param>
    /// <param name="from">Where the line begins, in the shape's own units across.</param>
    /// <param name="to">Where it ends.</param>
    /// <param name="across">From where to where the shape reaches, in its own units; what is not known may reach anywhere.</param>
    /// <param name="plot">The light.</param>
    public static DrawShape On(DrawShape shape, float from, float to, (float Left, float Right)? across, LightPlot plot)
    {
        var (first, last) = across is { } reach ? ((reach.Left - from) / (to - from), (reach.Right - from) / (to - from)) : (-1f, 2f);
        // Where the light falls on both sides of the head, the shade lies on both.
        var light = From(plot);
        bool onLeft = light - Begins > Math.Max(0, first) + Seen,
            onRight = light + Begins < Math.Min(1, last) - Seen;
        if (last - first < Narrow || !onLeft && !onRight)
            return shape with { Fill = LightPlot.Times(shape.Fill, At(plot, (first + last) / 2)) };
        (float At, Vector3 Much)[] left = [(light - IsWhole, plot.Shade), (light - Begins, Vector3.One)],
            right = [(light + Begins, Vector3.One), (light + IsWhole, plot.Shade)];
        var line =
            onLeft && onRight ? [.. left, .. right]
            : onLeft ? left
            : right;
        float start = line[0].At,
            length = line[^1].At - start;
        Vector2 Place(float at) => new(from + at * (to - from), 0);
        var colors = string.Concat(line.Select(s => LightPlot.Times(shape.Fill, s.Much)));
        return shape with { Gradient = new DrawGradient(false, Place(start), Place(line[^1].At), [.. line.Select(s => (s.At - start) / length)], colors) };
    }

    /// <summary>A shape of a figure with a shade that changes: every frame brings its colours.</summary>
    /// <param name="shape">In the light of its figure; with a fill.</param>
    /// <param name="from">Where the line begins, in the shape's own units across.</param>
    /// <param name="to">Where it ends.</param>
    /// <param name="shade">As <see cref="Of"/> gives it.</param>
    public static DrawShape On(DrawShape shape, float from, float to, Vector3[] shade) =>
        shape with
        {
            Gradient = new DrawGradient(false, new Vector2(from, 0), new Vector2(to, 0), Stops, Colors(shape.Fill!, shade)),
        };

    /// <summary>The colours of a shape in a shade, as a gradient has them.</summary>
    /// <param name="fill">Its own, "#rrggbb" or with alpha.</param>
    /// <param name="shade">As <see cref="Of"/> gives it.</param>
    public static string Colors(string fill, Vector3[] shade) => string.Concat(shade.Select(s => LightPlot.Times(fill, s)));
}
