using System.Numerics;
using SkiaSharp;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>Colours that run across fills, ready for Skia; the last ones of each shape are kept.</summary>
internal sealed class GradientShaders : IDisposable
{
    private readonly Dictionary<DrawShape, (string Colors, SKShader Shader)> _known = new(ReferenceEqualityComparer.Instance);

    /// <summary>Of a shape.</summary>
    /// <param name="shape">With a gradient.</param>
    /// <param name="colors">Those of a frame; null for its own.</param>
    public SKShader Of(DrawShape shape, string? colors)
    {
        var gradient = shape.Gradient!;
        colors ??= gradient.Colors;
        if (_known.TryGetValue(shape, out var known) && known.Colors == colors)
            return known.Shader;
        known.Shader?.Dispose();
        var (from, to) = (new SKPoint(gradient.From.X, gradient.From.Y), new SKPoint(gradient.To.X, gradient.To.Y));
        SKColor[] all = [.. DrawGradient.Apart(colors).Select(c => ShapePainter.Color(c, 1))];
        float[] at = [.. gradient.At];
        var made = gradient.IsRadial
            ? SKShader.CreateRadialGradient(from, Vector2.Distance(gradient.From, gradient.To), all, at, SKShaderTileMode.Clamp)
            : Line(from, to, all, at);
        _known[shape] = (colors, made);
        return made;
    }

    // A strip of colours as a picture: what is drawn with it goes through Skia's quick way, as whole colours do; its own gradients never do.
    private static SKShader Line(SKPoint from, SKPoint to, SKColor[] colors, float[] at)
    {
        var isOpaque = colors.All(c => c.Alpha == 255);
        using var strip = new SKBitmap(new SKImageInfo(Steps, 1, Rasteriser.Pixels, isOpaque ? SKAlphaType.Opaque : SKAlphaType.Premul));
        using var canvas = new SKCanvas(strip);
        using var gradient = SKShader.CreateLinearGradient(new SKPoint(0.5f, 0), new SKPoint(Steps - 0.5f, 0), colors, at, SKShaderTileMode.Clamp);
        using var paint = new SKPaint { Shader = gradient };
        canvas.DrawRect(0, 0, Steps, 1, paint);
        canvas.Flush();
        using var image = SKImage.FromBitmap(strip);
        var way = to - from;
        var by = way.Length / Steps;
        var place = SKMatrix.CreateScale(by, 1).PostConcat(SKMatrix.CreateRotation(MathF.Atan2(way.Y, way.X)));
        place = place.PostConcat(SKMatrix.CreateTranslation(from.X, from.Y));
        return image.ToShader(SKShaderTileMode.Clamp, SKShaderTileMode.Clamp, new SKSamplingOptions(SKFilterMode.Nearest), place);
    }

    // More than colours differ along it.
    private const int Steps = 256;

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var (_, shader) in _known.Values)
            shader.Dispose();
        _known.Clear();
    }
}
