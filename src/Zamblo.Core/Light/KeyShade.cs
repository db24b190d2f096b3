using System.Numerics;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Light;

/// <summary>
/// What the key light leaves in the shade of a figure: colours that run across its shapes, from the side that the light comes from to the other. Since every
/// shape of it has the same line, the shade is one over all of it, and ends at its outline.
/// </summary>
public static class KeyShade
{
    // Where the colours are, across the head and beyond.
    private static readonly float[] Stops = [0, 0.3f, 0.45f, 0.6f, 0.75f, 1];

    // Of the way away from the light: where the shade begins, and where it is whole. Chosen by eye.
    private const float Begins = 0.34f,
        IsWhole = 0.82f;

    /// <summary>Whether any shade is to be seen in a light.</summary>
    public static bool IsSeen(LightPlot plot) => plot.Shade != Vector3.One;

    /// <summary>What is left of a figure's colours, stop by stop from the left to the right.</summary>
    public static Vector3[] Of(LightPlot plot) =>
        [
            .. Stops.Select(at =>
            {
                var away = Math.Abs(at - (1 + plot.Side) / 2);
                var t = Math.Clamp((away - Begins) / (IsWhole - Begins), 0, 1);
                return Vector3.Lerp(Vector3.One, plot.Shade, t * t * (3 - 2 * t));
            }),
        ];

    /// <summary>A shape of a figure with its shade; as it is where it has no colour of its own.</summary>
    /// <param name="shape">In the light of its figure.</param>
    /// <param name="from">Where the line begins, in the shape's own units across.</param>
    /// <param name="to">Where it ends.</param>
    /// <param name="shade">As <see cref="Of"/> gives it.</param>
    public static DrawShape On(DrawShape shape, float from, float to, Vector3[] shade) =>
        shape.Fill == null || shape.Mesh != null
            ? shape
            : shape with
            {
                Gradient = new DrawGradient(false, new Vector2(from, 0), new Vector2(to, 0), Stops, Colors(shape.Fill, shade)),
            };

    /// <summary>The colours of a shape in a shade, as a gradient has them.</summary>
    /// <param name="fill">Its own, "#rrggbb" or with alpha.</param>
    /// <param name="shade">As <see cref="Of"/> gives it.</param>
    public static string Colors(string fill, Vector3[] shade) => string.Concat(shade.Select(s => LightPlot.Times(fill, s)));
}
