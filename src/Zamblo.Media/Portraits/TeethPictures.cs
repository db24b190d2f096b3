using SkiaSharp;

namespace Zamblo.Media.Portraits;

/// <summary>What teeth there are.</summary>
public enum TeethKind
{
    /// <summary>A row like most people's.</summary>
    Even,

    /// <summary>One with a gap in its middle.</summary>
    Gap,

    /// <summary>Small ones, and two that are long and pointed.</summary>
    Fangs,

    /// <summary>None: a beak, an old man, a thing.</summary>
    None,
}

/// <summary>Draws rows of teeth, lit as the face is.</summary>
internal static class TeethPictures
{
    /// <summary>Of the pictures.</summary>
    public const int Width = 480,
        Height = 128;

    // Widths of incisors, canine and premolars from the middle on, in millimetres (Wheeler's "Dental anatomy", from memory); they turn away to the sides.
    private static readonly float[] Upper = [8.5f, 6.5f, 6.2f, 4.6f, 3.2f],
        Lower = [5.2f, 5.6f, 5.8f, 4.6f, 3.2f],
        // Of a beast of prey (chosen by eye).
        Beast = [2.6f, 2.8f, 6.4f, 4.2f, 3.6f, 3];

    /// <summary>One row as PNG.</summary>
    /// <param name="isUpper">Hangs down; else it stands up.</param>
    /// <param name="light">Brightness of the face, 0 to 1.</param>
    /// <param name="warmth">Red over blue of its light, 1 for white.</param>
    /// <param name="kind">What teeth; not none.</param>
    public static byte[] Draw(bool isUpper, float light, float warmth, TeethKind kind = TeethKind.Even)
    {
        using var bitmap = new SKBitmap(new SKImageInfo(Width, Height, SKColorType.Rgba8888, SKAlphaType.Premul));
        using var canvas = new SKCanvas(bitmap);
        canvas.Clear(SKColors.Transparent);
        if (!isUpper)
            canvas.Scale(1, -1, 0, Height / 2f);
        var brightness = 0.74f + 0.32f * Math.Clamp(light, 0, 1);
        SKColor Tone(float share) =>
            new(
                (byte)Math.Clamp(252 * brightness * share * MathF.Sqrt(warmth), 0, 255),
                (byte)Math.Clamp(243 * brightness * share, 0, 255),
                // What lies in shadow is warmer, too.
                (byte)Math.Clamp(228 * brightness * share * (0.72f + 0.28f * share) / MathF.Sqrt(warmth), 0, 255)
            );
        var isBeast = kind == TeethKind.Fangs;
        var sizes =
            isBeast ? Beast
            : isUpper ? Upper
            : Lower;
        // Between teeth it is darker, but not black.
        using (var behind = new SKPaint { IsAntialias = true, Color = Tone(0.82f) })
            canvas.DrawRoundRect(Width * 0.06f, -20, Width * 0.88f, Height * (isBeast ? 0.5f : 0.86f), 20, 20, behind);
        if (kind == TeethKind.Gap)
        {
            using var gap = new SKPaint { BlendMode = SKBlendMode.Clear };
            canvas.DrawRect(Width * 0.487f, -20, Width * 0.026f, Height * 2, gap);
        }
        var unit = Width / 2f / sizes.Sum();
        foreach (var side in new[] { -1, 1 })
        {
            var at = kind == TeethKind.Gap ? 0.013f * Width : 0;
            for (var i = 0; i < sizes.Length; i++)
            {
                var w = sizes[i] * unit;
                // Canines are longest, what lies further back is shorter and darker.
                var length =
                    Height
                    * (
                        isBeast ? (i == 2 ? 1 : 0.44f)
                        : i == 0 ? 0.93f
                        : i == 1 ? 0.86f
                        : i == 2 ? 0.9f
                        : 0.78f - 0.06f * (i - 3)
                    );
                var x0 = Width / 2f + side * at;
                var x1 = Width / 2f + side * (at + w);
                var rect = new SKRect(Math.Min(x0, x1) + 0.2f, -20, Math.Max(x0, x1) - 0.2f, length);
                var share = 1 - 0.075f * i;
                using var shader = SKShader.CreateLinearGradient(
                    new SKPoint(0, 0),
                    new SKPoint(0, length),
                    [Tone(share * 0.86f), Tone(share * 0.97f), Tone(share), Tone(share * 0.93f)],
                    [0, 0.35f, 0.75f, 1],
                    SKShaderTileMode.Clamp
                );
                using var paint = new SKPaint { IsAntialias = true, Shader = shader };
                if (isBeast && i == 2)
                {
                    using var outline = new SKPathBuilder();
                    outline.MoveTo(rect.Left, -20);
                    outline.LineTo(rect.Left, 0.3f * length);
                    outline.QuadTo(rect.Left + 0.1f * w, 0.8f * length, rect.MidX, length);
                    outline.QuadTo(rect.Right - 0.1f * w, 0.8f * length, rect.Right, 0.3f * length);
                    outline.LineTo(rect.Right, -20);
                    outline.Close();
                    using var fang = outline.Detach();
                    canvas.DrawPath(fang, paint);
                }
                else
                {
                    using var round = new SKRoundRect(rect, w * (i == 2 ? 0.46f : 0.24f), w * (i == 2 ? 0.46f : 0.24f));
                    canvas.DrawRoundRect(round, paint);
                }
                at += w;
            }
        }
        canvas.Flush();
        using var encoded = bitmap.Encode(SKEncodedImageFormat.Png, 100);
        return encoded.ToArray();
    }
}
