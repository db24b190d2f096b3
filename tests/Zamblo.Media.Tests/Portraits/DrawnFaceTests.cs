using System.Numerics;
using SkiaSharp;
using Zamblo.Core.Portraits;
using Zamblo.Media.Portraits;

namespace Zamblo.Media.Tests.Portraits;

/// <summary>Eyes and mouths of drawings and things, whose places are known, found from a box that is drawn roughly.</summary>
public class DrawnFaceTests
{
    private static async Task<PortraitMarks> FoundAsync(Action<SKCanvas> draw, PortraitKind kind, float left = 190, float top = 150)
    {
        using var bitmap = new SKBitmap(800, 800);
        using (var canvas = new SKCanvas(bitmap))
            draw(canvas);
        using var data = bitmap.Encode(SKEncodedImageFormat.Png, 100);
        return DrawnFace.Find(await PictureFiles.TakeAsync(data.ToArray(), "drawn.png"), left, top, 420, 460, kind);
    }

    private static SKPaint Ink(string color, float width = 0) =>
        new()
        {
            Color = SKColor.Parse(color),
            IsAntialias = true,
            Style = width > 0 ? SKPaintStyle.Stroke : SKPaintStyle.Fill,
            StrokeWidth = width,
            StrokeCap = SKStrokeCap.Round,
        };

    private static void Eye(SKCanvas canvas, float x, float y, float rx, float ry, float pupilX, float pupilY)
    {
        canvas.DrawOval(x, y, rx, ry, Ink("#FFFFFF"));
        canvas.DrawOval(x, y, rx, ry, Ink("#222222", 5));
        canvas.DrawOval(x, y, pupilX, pupilY, Ink("#1A1410"));
    }

    private static void Curve(SKCanvas canvas, string path, float width)
    {
        using var p = SKPath.ParseSvgPathData(path);
        canvas.DrawPath(p, Ink("#222222", width));
    }

    private static void Near(Mark mark, float x, float y, float within) =>
        Assert.True(Vector2.Distance(mark, new Vector2(x, y)) <= within, $"{mark} is not near {x}, {y}");

    [Theory]
    [InlineData(190, 150)]
    [InlineData(212, 136)]
    [InlineData(172, 168)]
    public async Task Eyes_and_mouth_of_a_drawing_are_found_wherever_the_box_is_a_little_off(float left, float top)
    {
        var marks = await FoundAsync(
            c =>
            {
                c.Clear(SKColor.Parse("#F6F0DC"));
                c.DrawCircle(400, 380, 230, Ink("#FFD9A8"));
                c.DrawCircle(400, 380, 230, Ink("#222222", 8));
                Eye(c, 318, 372, 44, 44, 17, 17);
                Eye(c, 482, 372, 44, 44, 17, 17);
                Curve(c, "M 310 505 Q 400 555 490 505", 9);
            },
            PortraitKind.Person,
            left,
            top
        );
        // Lids on the edge, the iris in the middle, to 2 % of the face's width; the lips along their line.
        Near(marks.EyeLeft!.Upper[0], 273, 372, 9);
        Near(marks.EyeLeft.Upper[5], 318, 326, 9);
        Near(marks.EyeRight!.Lower[5], 482, 418, 9);
        Near(marks.EyeRight.Iris, 482, 372, 3);
        Assert.InRange(marks.EyeRight.Radius, 14, 20);
        Near(marks.Mouth.OuterUpper[0], 307, 505, 9);
        Near(marks.Mouth.OuterUpper[^1], 493, 505, 9);
        Near(marks.Mouth.InnerUpper[5], 400, 530, 5);
        Assert.Equal(marks.Mouth.InnerUpper, marks.Mouth.InnerLower);
    }

    [Fact]
    public async Task A_slit_is_taken_whole_and_a_nose_that_is_joined_to_the_mouth_is_none_of_it()
    {
        var marks = await FoundAsync(
            c =>
            {
                c.Clear(SKColor.Parse("#8FA79A"));
                c.DrawOval(400, 380, 230, 220, Ink("#C89450"));
                c.DrawOval(308, 328, 46, 34, Ink("#E8D66A"));
                c.DrawOval(308, 328, 10, 28, Ink("#1A1410"));
                c.DrawOval(492, 328, 46, 34, Ink("#E8D66A"));
                c.DrawOval(492, 328, 10, 28, Ink("#1A1410"));
                Curve(c, "M 388 430 L 412 430 L 400 450 Z M 400 440 L 400 500", 12);
                Curve(c, "M 320 505 Q 360 530 400 500 Q 440 530 480 505", 8);
            },
            PortraitKind.Animal
        );
        Near(marks.EyeLeft!.Iris, 308, 328, 4);
        Assert.InRange(marks.EyeLeft.Radius, 20, 32);
        Near(marks.EyeRight!.Upper[^1], 538, 328, 9);
        Near(marks.Mouth.OuterUpper[0], 318, 505, 10);
        Assert.InRange(marks.Mouth.InnerUpper[5].Y, 485, 520);
    }

    [Fact]
    public async Task A_thing_may_have_eyes_and_lips_have_an_upper_and_a_lower_edge()
    {
        var marks = await FoundAsync(
            c =>
            {
                c.Clear(SKColor.Parse("#C9B79A"));
                c.DrawRoundRect(180, 140, 440, 480, 60, 60, Ink("#A9B4BA"));
                Eye(c, 320, 360, 36, 36, 16, 16);
                Eye(c, 480, 360, 36, 36, 16, 16);
                c.DrawOval(400, 505, 80, 26, Ink("#B0524A"));
                Curve(c, "M 325 505 Q 400 512 475 505", 4);
            },
            PortraitKind.Thing
        );
        Near(marks.EyeLeft!.Iris, 320, 360, 3);
        Near(marks.Mouth.OuterUpper[5], 400, 477, 8);
        Near(marks.Mouth.OuterLower[5], 400, 533, 8);
        Near(marks.Mouth.InnerLower[5], 400, 508, 6);
    }

    [Fact]
    public async Task Where_nothing_stands_out_the_guess_stays()
    {
        var plain = await FoundAsync(c => c.Clear(SKColor.Parse("#C9B79A")), PortraitKind.Person);
        Assert.Equivalent(MarksGuess.FromBox(190, 150, 420, 460, PortraitKind.Person), plain);
        // One eye alone may be anything.
        var one = await FoundAsync(
            c =>
            {
                c.Clear(SKColor.Parse("#C9B79A"));
                Eye(c, 318, 357, 44, 44, 17, 17);
            },
            PortraitKind.Person
        );
        Assert.Equivalent(plain.EyeLeft, one.EyeLeft);
        Assert.Null((await FoundAsync(c => c.Clear(SKColors.White), PortraitKind.Thing)).EyeLeft);
        // A box beyond the picture does no harm.
        await FoundAsync(c => c.Clear(SKColors.White), PortraitKind.Animal, 700, -300);
    }
}
