using System.Numerics;
using SkiaSharp;
using Zamblo.Core.Stage;

namespace Zamblo.Media.Tests;

/// <summary>How fills meet what lies below, and colours that run across them: against the formulas of their standards.</summary>
public class BlendTests
{
    private const string All = "M0 0H64V64H0Z";

    private static SKColor At(int x, int y, params (DrawShape Shape, float Opacity, string? Colors)[] shapes)
    {
        var list = new DrawingList(
            [.. shapes.Select(s => s.Shape)],
            [
                [.. shapes.Select(s => new DrawItem(Matrix3x2.Identity, s.Opacity, null, s.Colors))],
            ]
        );
        using var rasteriser = new Rasteriser(64, 64, (0, 0, 64, 64), grain: false);
        return rasteriser.Draw(list, 0).GetPixel(x, y);
    }

    // W3C Compositing and Blending Level 1, section 9: "below" is the backdrop Cb, "above" the source Cs.
    private static double Blended(DrawBlend blend, double below, double above) =>
        blend switch
        {
            DrawBlend.Multiply => below * above,
            DrawBlend.Screen => below + above - below * above,
            DrawBlend.SoftLight => above <= 0.5
                ? below - (1 - 2 * above) * below * (1 - below)
                : below + (2 * above - 1) * ((below <= 0.25 ? ((16 * below - 12) * below + 4) * below : Math.Sqrt(below)) - below),
            _ => above,
        };

    [Theory]
    [InlineData(DrawBlend.Normal)]
    [InlineData(DrawBlend.Multiply)]
    [InlineData(DrawBlend.Screen)]
    [InlineData(DrawBlend.SoftLight)]
    public void A_fill_meets_what_lies_below_as_the_standard_says(DrawBlend blend)
    {
        foreach (var (below, above, much) in (ReadOnlySpan<(int, int, float)>)[(40, 200, 1), (200, 40, 1), (128, 90, 0.5f), (20, 250, 0.25f), (250, 20, 0.75f)])
        {
            var seen = At(
                30,
                30,
                (new DrawShape(All, $"#{below:x2}{below:x2}{below:x2}"), 1, null),
                (new DrawShape(All, $"#{above:x2}{above:x2}{above:x2}") { Blend = blend }, much, null)
            );
            var expected = 255 * ((1 - much) * below / 255 + much * Blended(blend, below / 255.0, above / 255.0));
            Assert.InRange(seen.Red, expected - 2, expected + 2);
        }
    }

    [Fact]
    public void Colours_run_along_a_line_and_from_a_point_outwards_and_each_frame_may_bring_its_own()
    {
        var line = new DrawShape(All, null)
        {
            Gradient = new DrawGradient(false, new Vector2(8, 0), new Vector2(56, 0), [0, 0.5f, 1], "#000000#c80000#ffffff"),
        };
        SKColor Line(int x, string? own = null) => At(x, 32, (line, 1, own));
        Assert.Equal(SKColors.Black, Line(2));
        Assert.Equal(SKColors.White, Line(62));
        // The middle of a pixel is half a unit on.
        Assert.InRange(Line(20).Red, (byte)(200 * 12.5 / 24 - 2), (byte)(200 * 12.5 / 24 + 2));
        Assert.InRange(Line(44).Green, (byte)(255 * 12.5 / 24 - 2), (byte)(255 * 12.5 / 24 + 2));
        Assert.InRange(Line(20, "#000000#000064#ffffff").Blue, (byte)(100 * 12.5 / 24 - 2), (byte)(100 * 12.5 / 24 + 2));

        var glow = new DrawShape(All, null) { Gradient = new DrawGradient(true, new Vector2(32, 32), new Vector2(62, 32), [0, 1], "#ffffffff#ffffff00") };
        SKColor Glow(int x, int y) => At(x, y, (new DrawShape(All, "#000000"), 1, null), (glow, 1, null));
        foreach (var (x, y) in (ReadOnlySpan<(int, int)>)[(32, 32), (47, 32), (32, 10), (50, 50), (4, 4)])
        {
            var expected = 255 * Math.Clamp(1 - Vector2.Distance(new Vector2(x + 0.5f, y + 0.5f), new Vector2(32, 32)) / 30, 0, 1);
            Assert.InRange(Glow(x, y).Red, expected - 3, expected + 3);
        }
    }
}
