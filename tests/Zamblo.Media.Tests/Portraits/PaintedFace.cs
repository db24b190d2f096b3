using System.Numerics;
using SkiaSharp;
using Zamblo.Core.Portraits;

namespace Zamblo.Media.Tests.Portraits;

/// <summary>
/// A face that is painted for the tests, soft as a portrait in oil: where its eyes and lips are is known to the pixel, and nobody has ever looked like it.
/// </summary>
internal sealed class PaintedFace
{
    /// <summary>Of the picture.</summary>
    public int Width { get; init; } = 900;

    /// <inheritdoc cref="Width"/>
    public int Height { get; init; } = 1100;

    /// <summary>Middle between the eyes.</summary>
    public Vector2 At { get; init; } = new(450, 470);

    /// <summary>Half the width of the face.</summary>
    public float Size { get; init; } = 180;

    /// <summary>Turned clockwise, in degrees.</summary>
    public float Tilt { get; init; }

    /// <summary>How far the lips are apart, in half widths of the face.</summary>
    public float Open { get; init; }

    /// <summary>Lids shut.</summary>
    public bool IsAsleep { get; init; }

    public string Skin { get; init; } = "#E2AE86";
    public string Hair { get; init; } = "#4A2E1E";
    public string Cloth { get; init; } = "#2F5560";

    // In half widths of the face, from the middle between the eyes.
    private const float EyeX = 0.42f,
        EyeWide = 0.2f,
        EyeHigh = 0.095f,
        MouthY = 0.98f,
        MouthWide = 0.36f,
        ChinY = 1.42f;

    /// <summary>From the face's own lengths to the picture.</summary>
    public Vector2 P(float x, float y)
    {
        var (s, c) = MathF.SinCos(Tilt * MathF.PI / 180);
        return At + Size * new Vector2(c * x - s * y, s * x + c * y);
    }

    /// <summary>Corners of the eyes, from the picture's left to its right.</summary>
    public Vector2[] EyeCorners => [P(-EyeX - EyeWide, 0.01f), P(-EyeX + EyeWide, 0.01f), P(EyeX - EyeWide, 0.01f), P(EyeX + EyeWide, 0.01f)];

    /// <summary>Corners of the mouth.</summary>
    public Vector2[] MouthCorners => [P(-MouthWide, MouthY), P(MouthWide, MouthY)];

    /// <summary>Middles of the irises.</summary>
    public Vector2[] Irises => [P(-EyeX, 0), P(EyeX, 0)];

    public Vector2 Chin => P(0, ChinY);

    /// <summary>Where everything is.</summary>
    public PortraitMarks Marks()
    {
        Mark[] Line(Func<float, Vector2> at, int n = 11) => [.. Enumerable.Range(0, n).Select(i => (Mark)at(2f * i / (n - 1) - 1))];
        EyeMarks Eye(float x) =>
            new()
            {
                Upper = Line(s => P(x + s * EyeWide, 0.01f - EyeHigh * (1 - s * s))),
                Lower = Line(s => P(x + s * EyeWide, 0.01f + 0.75f * EyeHigh * (1 - s * s))),
                Iris = P(x, 0),
                Radius = 0.08f * Size,
            };
        return new PortraitMarks
        {
            Outline =
            [
                .. Enumerable
                    .Range(0, 24)
                    .Select(i =>
                    {
                        var (s, c) = MathF.SinCos(i * MathF.Tau / 24);
                        return (Mark)P(s * 0.97f, 0.38f - c * (ChinY - 0.38f));
                    }),
            ],
            Mouth = new LipMarks
            {
                OuterUpper = Line(s => P(s * MouthWide, MouthY - Upper(s))),
                OuterLower = Line(s => P(s * MouthWide, MouthY + Open * (1 - s * s) + 0.12f * (1 - s * s))),
                InnerUpper = Line(s => P(s * 0.94f * MouthWide, MouthY)),
                InnerLower = Line(s => P(s * 0.94f * MouthWide, MouthY + Open * (1 - s * s))),
            },
            EyeLeft = Eye(-EyeX),
            EyeRight = Eye(EyeX),
            BrowLeft = Line(s => P(-EyeX + s * 0.26f, -0.25f - 0.05f * (1 - s * s)), 5),
            BrowRight = Line(s => P(EyeX + s * 0.26f, -0.25f - 0.05f * (1 - s * s)), 5),
            Nose = [P(0, 0.1f), P(0, 0.55f), P(-0.15f, 0.63f), P(0.15f, 0.63f), P(0, 0.7f)],
        };
    }

    // With its bow.
    private static float Upper(float s) => 0.085f * (1 - s * s) - 0.02f * MathF.Exp(-s * s * 60);

    /// <summary>Paints it over a ground.</summary>
    public void Paint(SKCanvas canvas)
    {
        canvas.Save();
        canvas.Translate(At.X, At.Y);
        canvas.RotateDegrees(Tilt);
        canvas.Scale(Size);
        SKColor skin = SKColor.Parse(Skin),
            hair = SKColor.Parse(Hair),
            cloth = SKColor.Parse(Cloth);
        using var soft = SKMaskFilter.CreateBlur(SKBlurStyle.Normal, 0.05f);
        using var softer = SKMaskFilter.CreateBlur(SKBlurStyle.Normal, 0.11f);
        using var fine = SKMaskFilter.CreateBlur(SKBlurStyle.Normal, 0.012f);
        void Fill(SKColor color, Action<SKPathBuilder> make, SKMaskFilter? blur = null)
        {
            using var builder = new SKPathBuilder();
            make(builder);
            using var path = builder.Detach();
            using var paint = new SKPaint
            {
                IsAntialias = true,
                Color = color,
                MaskFilter = blur,
            };
            canvas.DrawPath(path, paint);
        }
        void Oval(SKColor color, float x, float y, float rx, float ry, SKMaskFilter? blur = null)
        {
            using var paint = new SKPaint
            {
                IsAntialias = true,
                Color = color,
                MaskFilter = blur,
            };
            canvas.DrawOval(x, y, rx, ry, paint);
        }
        // Hair behind, shoulders, neck.
        Oval(hair, 0, 0.05f, 1.22f, 1.32f, fine);
        Fill(Shade(hair, 0.8f), b => Box(b, -1.15f, 0.1f, 2.3f, 1.2f), soft);
        Fill(
            cloth,
            b =>
            {
                b.MoveTo(-2.3f, 8);
                b.CubicTo(-2.2f, 2.4f, -1.2f, 2.15f, -0.55f, 1.95f);
                b.LineTo(0.55f, 1.95f);
                b.CubicTo(1.2f, 2.15f, 2.2f, 2.4f, 2.3f, 8);
                b.Close();
            },
            fine
        );
        Fill(
            Shade(skin, 0.83f),
            b =>
            {
                b.MoveTo(-0.5f, 1);
                b.CubicTo(-0.48f, 1.7f, -0.55f, 1.9f, -0.75f, 2.05f);
                b.CubicTo(-0.3f, 2.35f, 0.3f, 2.35f, 0.75f, 2.05f);
                b.CubicTo(0.55f, 1.9f, 0.48f, 1.7f, 0.5f, 1);
                b.Close();
            },
            fine
        );
        Oval(Shade(skin, 0.62f).WithAlpha(150), 0, 1.45f, 0.55f, 0.22f, softer);
        // Ears and the face, lit from the upper left.
        Oval(Shade(skin, 0.85f), -0.98f, 0.28f, 0.13f, 0.24f);
        Oval(Shade(skin, 0.78f), 0.98f, 0.28f, 0.13f, 0.24f);
        using (
            var light = SKShader.CreateRadialGradient(
                new SKPoint(-0.3f, 0),
                1.9f,
                [Shade(skin, 1.1f), skin, Shade(skin, 0.72f)],
                [0, 0.45f, 1],
                SKShaderTileMode.Clamp
            )
        )
        using (
            var paint = new SKPaint
            {
                IsAntialias = true,
                Shader = light,
                MaskFilter = fine,
            }
        )
        using (var builder = new SKPathBuilder())
        {
            builder.MoveTo(0, -0.68f);
            builder.CubicTo(0.75f, -0.68f, 1, -0.2f, 0.97f, 0.38f);
            builder.CubicTo(0.92f, 0.95f, 0.5f, ChinY, 0, ChinY);
            builder.CubicTo(-0.5f, ChinY, -0.92f, 0.95f, -0.97f, 0.38f);
            builder.CubicTo(-1, -0.2f, -0.75f, -0.68f, 0, -0.68f);
            builder.Close();
            using var face = builder.Detach();
            canvas.DrawPath(face, paint);
        }
        foreach (var side in new[] { -1, 1 })
        {
            Oval(new SKColor(200, 90, 70, 60), side * 0.55f, 0.62f, 0.26f, 0.2f, softer);
            Oval(Shade(skin, 0.66f).WithAlpha(110), side * EyeX, -0.07f, 0.28f, 0.15f, soft);
            Oval(Shade(skin, 0.7f).WithAlpha(90), side * EyeX, 0.15f, 0.22f, 0.06f, soft);
        }
        // Nose: a bridge in light, a shade beside it, nostrils.
        Oval(Shade(skin, 1.16f).WithAlpha(170), -0.03f, 0.3f, 0.06f, 0.34f, soft);
        Oval(Shade(skin, 0.7f).WithAlpha(120), 0.13f, 0.4f, 0.06f, 0.3f, soft);
        Oval(Shade(skin, 1.18f).WithAlpha(190), -0.02f, 0.56f, 0.08f, 0.07f, soft);
        Oval(Shade(skin, 0.6f).WithAlpha(170), 0, 0.69f, 0.17f, 0.045f, soft);
        Oval(Shade(skin, 0.35f), -0.085f, 0.665f, 0.045f, 0.022f, fine);
        Oval(Shade(skin, 0.35f), 0.085f, 0.665f, 0.045f, 0.022f, fine);
        foreach (var side in new[] { -1, 1 })
            Eye(canvas, side, skin, hair, fine, Fill, Oval);
        Mouth(canvas, skin, fine, soft, Fill, Oval);
        // Hair in front.
        Fill(
            hair,
            b =>
            {
                b.MoveTo(-1.16f, 0.35f);
                b.CubicTo(-1.3f, -0.95f, -0.5f, -1.32f, 0.1f, -1.26f);
                b.CubicTo(0.9f, -1.24f, 1.3f, -0.7f, 1.16f, 0.35f);
                b.CubicTo(1.02f, -0.1f, 0.9f, -0.42f, 0.62f, -0.62f);
                b.CubicTo(0.2f, -0.45f, -0.5f, -0.38f, -0.78f, -0.5f);
                b.CubicTo(-0.98f, -0.3f, -1.05f, 0, -1.16f, 0.35f);
                b.Close();
            },
            fine
        );
        Fill(
            Shade(hair, 1.5f).WithAlpha(120),
            b =>
            {
                b.MoveTo(-0.7f, -0.85f);
                b.CubicTo(-0.3f, -1.15f, 0.2f, -1.12f, 0.6f, -0.9f);
                b.CubicTo(0.2f, -1, -0.3f, -0.98f, -0.7f, -0.85f);
                b.Close();
            },
            soft
        );
        canvas.Restore();
    }

    private delegate void Filling(SKColor color, Action<SKPathBuilder> make, SKMaskFilter? blur = null);

    private delegate void Ovals(SKColor color, float x, float y, float rx, float ry, SKMaskFilter? blur = null);

    private void Eye(SKCanvas canvas, int side, SKColor skin, SKColor hair, SKMaskFilter fine, Filling fill, Ovals oval)
    {
        var x = side * EyeX;
        void Almond(SKPathBuilder b)
        {
            b.MoveTo(x - EyeWide, 0.01f);
            for (var s = -1f; s <= 1.001f; s += 0.1f)
                b.LineTo(x + s * EyeWide, 0.01f - EyeHigh * (1 - s * s));
            for (var s = 1f; s >= -1.001f; s -= 0.1f)
                b.LineTo(x + s * EyeWide, 0.01f + 0.75f * EyeHigh * (1 - s * s));
            b.Close();
        }
        if (IsAsleep)
            fill(Shade(skin, 0.9f), Almond, fine);
        else
        {
            fill(new SKColor(238, 232, 224), Almond);
            canvas.Save();
            using (var builder = new SKPathBuilder())
            {
                Almond(builder);
                using var almond = builder.Detach();
                canvas.ClipPath(almond, SKClipOperation.Intersect, true);
            }
            oval(new SKColor(60, 84, 74), x, 0, 0.08f, 0.08f);
            oval(new SKColor(98, 128, 104), x, 0.01f, 0.06f, 0.06f, fine);
            oval(new SKColor(16, 14, 16), x, 0, 0.034f, 0.034f);
            oval(new SKColor(255, 255, 255, 230), x - 0.025f, -0.03f, 0.016f, 0.016f);
            oval(new SKColor(40, 24, 20, 70), x, -0.08f, 0.2f, 0.04f, fine);
            canvas.Restore();
        }
        var lid = IsAsleep ? 0.75f * EyeHigh : -EyeHigh;
        using var line = new SKPaint
        {
            IsAntialias = true,
            Color = Shade(hair, 0.5f),
            Style = SKPaintStyle.Stroke,
            StrokeWidth = 0.024f,
            StrokeCap = SKStrokeCap.Round,
        };
        using (var builder = new SKPathBuilder())
        {
            builder.MoveTo(x - EyeWide, 0.01f);
            for (var s = -1f; s <= 1.001f; s += 0.1f)
                builder.LineTo(x + s * EyeWide, 0.01f + lid * (1 - s * s));
            using var lashes = builder.Detach();
            canvas.DrawPath(lashes, line);
        }
        fill(
            hair,
            b =>
            {
                b.MoveTo(x - 0.26f, -0.25f);
                b.QuadTo(x, -0.38f, x + 0.26f, -0.25f);
                b.QuadTo(x, -0.29f, x - 0.26f, -0.25f);
                b.Close();
            },
            fine
        );
    }

    private void Mouth(SKCanvas canvas, SKColor skin, SKMaskFilter fine, SKMaskFilter soft, Filling fill, Ovals oval)
    {
        SKColor lip = new(188, 92, 84);
        void Between(SKPathBuilder b, Func<float, float> top, Func<float, float> low)
        {
            b.MoveTo(-MouthWide, MouthY);
            for (var s = -1f; s <= 1.001f; s += 0.05f)
                b.LineTo(s * MouthWide, MouthY + top(s));
            for (var s = 1f; s >= -1.001f; s -= 0.05f)
                b.LineTo(s * MouthWide, MouthY + low(s));
            b.Close();
        }
        float Gap(float s) => Open * (1 - s * s);
        oval(Shade(skin, 0.7f).WithAlpha(110), 0, MouthY + Open + 0.2f, 0.2f, 0.045f, soft);
        fill(Shade(lip, 0.86f), b => Between(b, s => -Upper(s), _ => 0), fine);
        fill(lip, b => Between(b, Gap, s => Gap(s) + 0.12f * (1 - s * s)), fine);
        oval(Shade(lip, 1.3f).WithAlpha(120), -0.04f, MouthY + Open + 0.06f, 0.13f, 0.02f, fine);
        if (Open > 0)
        {
            fill(new SKColor(58, 18, 20), b => Between(b, _ => 0, Gap));
            fill(new SKColor(236, 230, 218), b => Between(b, _ => 0, s => MathF.Min(Gap(s), 0.09f) * 0.9f), fine);
        }
        else
            fill(new SKColor(92, 34, 34), b => Between(b, s => -0.008f * (1 - s * s), s => 0.01f * (1 - s * s)), fine);
    }

    private static void Box(SKPathBuilder b, float x, float y, float w, float h)
    {
        b.MoveTo(x, y);
        b.LineTo(x + w, y);
        b.LineTo(x + w, y + h);
        b.LineTo(x, y + h);
        b.Close();
    }

    private static SKColor Shade(SKColor c, float by) =>
        new((byte)Math.Clamp(c.Red * by, 0, 255), (byte)Math.Clamp(c.Green * by, 0, 255), (byte)Math.Clamp(c.Blue * by, 0, 255));

    /// <summary>A picture of several, before a wall with a window's light on it.</summary>
    public static byte[] Picture(int width, int height, params PaintedFace[] faces)
    {
        using var bitmap = new SKBitmap(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Opaque));
        using var canvas = new SKCanvas(bitmap);
        using (
            var wall = SKShader.CreateLinearGradient(
                new SKPoint(0, 0),
                new SKPoint(width, height),
                [new SKColor(196, 190, 170), new SKColor(120, 124, 118)],
                null,
                SKShaderTileMode.Clamp
            )
        )
        using (var paint = new SKPaint { Shader = wall })
            canvas.DrawRect(0, 0, width, height, paint);
        using (var light = new SKPaint { Color = new SKColor(250, 240, 210, 70), MaskFilter = SKMaskFilter.CreateBlur(SKBlurStyle.Normal, 18) })
            canvas.DrawRect(width * 0.06f, height * 0.08f, width * 0.2f, height * 0.4f, light);
        foreach (var face in faces)
            face.Paint(canvas);
        canvas.Flush();
        using var data = bitmap.Encode(SKEncodedImageFormat.Jpeg, 93);
        return data.ToArray();
    }

    /// <summary>A picture of it alone.</summary>
    public byte[] Picture() => Picture(Width, Height, this);
}
