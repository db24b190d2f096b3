using System.Numerics;
using SkiaSharp;
using Zamblo.Core.Portraits;

namespace Zamblo.Media.Portraits;

/// <summary>Eyes that are drawn in place of a picture's own: where these cannot be told apart, or others are wanted.</summary>
public enum EyeKind
{
    /// <summary>The picture's.</summary>
    Own,

    /// <summary>White, with an iris and a pupil.</summary>
    Human,

    /// <summary>All of it coloured, the pupil a slit.</summary>
    Animal,

    /// <summary>White, with a large dark pupil.</summary>
    Cartoon,
}

/// <summary>Draws eyes, lit as the face is: what is seen between the lids, and the iris.</summary>
internal static class DrawnEyes
{
    // Pixels of an iris, across.
    private const int Side = 192;

    /// <summary>An eye.</summary>
    /// <param name="eye">Where its lids are.</param>
    /// <param name="kind">Not the picture's own.</param>
    /// <param name="light">Brightness of the face, 0 to 1.</param>
    /// <param name="lash">Colour of the upper lid's edge, "#rrggbb".</param>
    /// <param name="keep">Keeps a picture and gives its hash.</param>
    public static EyePatch? Of(EyeMarks eye, EyeKind kind, float light, string lash, Func<byte[], string> keep)
    {
        var all = eye.Upper.Concat(eye.Lower).Select(m => (Vector2)m).ToArray();
        Vector2 low = all.Aggregate(Vector2.Min),
            high = all.Aggregate(Vector2.Max);
        var width = Vector2.Distance(eye.Upper[0], eye.Upper[^1]);
        if (width < 4)
            return null;
        var air = new Vector2(0.3f * width);
        (low, high) = (low - air, high + air);
        var open = Vector2.Distance(eye.Upper[eye.Upper.Length / 2], eye.Lower[eye.Lower.Length / 2]);
        var side =
            kind switch
            {
                EyeKind.Human => Math.Max(0.46f * width, 0.9f * open),
                EyeKind.Animal => Math.Max(0.5f * width, 1.05f * open),
                _ => Math.Max(0.4f * width, 0.7f * open),
            } * 1.15f;
        return new EyePatch(keep(Ball(kind, light)), low.X, low.Y, high.X - low.X, high.Y - low.Y, keep(Iris(kind, light)), side, Side, Side, Side, lash);
    }

    private static SKColor Tone(int red, int green, int blue, float light)
    {
        var by = 0.62f + 0.45f * Math.Clamp(light, 0, 1);
        byte Part(int v) => (byte)Math.Clamp(v * by, 0, 255);
        return new SKColor(Part(red), Part(green), Part(blue));
    }

    private static byte[] Draw(Action<SKCanvas> draw)
    {
        using var bitmap = new SKBitmap(new SKImageInfo(Side, Side, SKColorType.Bgra8888, SKAlphaType.Premul));
        using var canvas = new SKCanvas(bitmap);
        canvas.Clear(SKColors.Transparent);
        draw(canvas);
        canvas.Flush();
        using var encoded = bitmap.Encode(SKEncodedImageFormat.Png, 100);
        return encoded.ToArray();
    }

    // Under the upper lid it is darker.
    private static byte[] Ball(EyeKind kind, float light) =>
        Draw(canvas =>
        {
            var white = kind == EyeKind.Animal ? Tone(214, 152, 54, light) : Tone(250, 248, 244, light);
            var shade = kind == EyeKind.Animal ? Tone(150, 92, 30, light) : Tone(196, 188, 190, light);
            using var shader = SKShader.CreateLinearGradient(
                new SKPoint(0, 0.2f * Side),
                new SKPoint(0, 0.75f * Side),
                [shade, white],
                [0, kind == EyeKind.Cartoon ? 0.2f : 0.7f],
                SKShaderTileMode.Clamp
            );
            using var paint = new SKPaint { Shader = shader };
            canvas.DrawRect(0, 0, Side, Side, paint);
        });

    private static byte[] Iris(EyeKind kind, float light) =>
        Draw(canvas =>
        {
            const float middle = Side / 2f,
                r = Side / 2.3f;
            using var paint = new SKPaint { IsAntialias = true };
            void Disc(float radius, SKColor color)
            {
                paint.Color = color;
                canvas.DrawCircle(middle, middle, radius, paint);
            }
            var dark = Tone(24, 18, 20, light);
            switch (kind)
            {
                case EyeKind.Human:
                    Disc(r, Tone(52, 34, 26, light));
                    Disc(0.9f * r, Tone(112, 74, 46, light));
                    Disc(0.62f * r, Tone(142, 98, 62, light));
                    Disc(0.42f * r, dark);
                    break;
                case EyeKind.Animal:
                    Disc(r, Tone(168, 106, 34, light));
                    Disc(0.92f * r, Tone(226, 166, 62, light));
                    paint.Color = dark;
                    canvas.DrawOval(middle, middle, 0.2f * r, 0.9f * r, paint);
                    break;
                default:
                    Disc(r, dark);
                    break;
            }
            // What is bright is seen in it, from above.
            paint.Color = SKColors.White.WithAlpha(225);
            canvas.DrawCircle(middle - 0.3f * r, middle - 0.34f * r, 0.15f * r, paint);
        });
}
