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
            : SKShader.CreateLinearGradient(from, to, all, at, SKShaderTileMode.Clamp);
        _known[shape] = (colors, made);
        return made;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var (_, shader) in _known.Values)
            shader.Dispose();
        _known.Clear();
    }
}
