using System.Numerics;
using SkiaSharp;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>Draws triangles with a picture on them. What was made ready for a picture and a light is kept.</summary>
internal sealed class MeshPainter : IDisposable
{
    private static readonly SKSamplingOptions Smooth = new(SKFilterMode.Linear, SKMipmapMode.Nearest);
    private readonly Dictionary<DrawShape, Ready> _ready = new(ReferenceEqualityComparer.Instance);

    // The shader holds its picture: it stays as long as somebody draws it.
    private sealed record Ready(SKPoint[] Texture, ushort[] Triangles, SKPaint Paint, SKShader Shader, SKColorFilter? Light, SKImage Image);

    /// <summary>Where the corners are, in the shape's own units.</summary>
    public SKRect BoundsOf(DrawShape shape, string corners)
    {
        var (_, all, _) = Read(shape, corners);
        return new SKRect(all.Min(c => c.X), all.Min(c => c.Y), all.Max(c => c.X), all.Max(c => c.Y));
    }

    // Asked where it is, and then drawn: read once.
    private readonly Dictionary<DrawShape, (string Text, (int, Vector2[], Vector2[]?) Read)> _last = new(ReferenceEqualityComparer.Instance);

    private (int Frame, Vector2[] Corners, Vector2[]? Texture) Read(DrawShape shape, string text)
    {
        if (_last.TryGetValue(shape, out var last) && ReferenceEquals(last.Text, text))
            return last.Read;
        var read = DrawMesh.ReadAny(text);
        _last[shape] = (text, read);
        return read;
    }

    /// <summary>Draws a mesh; nothing where its picture is not known.</summary>
    /// <param name="canvas">Its matrix is set, and its clip.</param>
    /// <param name="shape">With a mesh.</param>
    /// <param name="item">With its corners.</param>
    public void Draw(SKCanvas canvas, DrawShape shape, DrawItem item)
    {
        var (frame, corners, texture) = Read(shape, item.Path!);
        if (shape.Picture == null || (frame < 0 ? PictureShelf.Find(shape.Picture) : PictureShelf.Find(shape.Picture, frame)) is not { } image)
            return;
        var ready = Of(shape, image);
        var there = texture == null ? ready.Texture : [.. texture.Select(c => new SKPoint(c.X, c.Y))];
        if (corners.Length != there.Length)
            return;
        using var mesh = SKVertices.CreateCopy(SKVertexMode.Triangles, [.. corners.Select(c => new SKPoint(c.X, c.Y))], there, null, ready.Triangles);
        ready.Paint.Color = SKColors.White.WithAlpha((byte)MathF.Round(item.Opacity * 255));
        canvas.DrawVertices(mesh, SKBlendMode.Modulate, ready.Paint);
    }

    private Ready Of(DrawShape shape, SKImage image)
    {
        if (_ready.TryGetValue(shape, out var known) && ReferenceEquals(known.Image, image))
            return known;
        Drop(known);
        if (shape.Blur > 0)
            return _ready[shape] = Soft(shape, image);
        return _ready[shape] = Made(shape, image, image.ToShader(SKShaderTileMode.Clamp, SKShaderTileMode.Clamp, Smooth));
    }

    private static Ready Made(DrawShape shape, SKImage image, SKShader shader)
    {
        var texture = new SKPoint[shape.Mesh!.Texture.Count / 2];
        for (var i = 0; i < texture.Length; i++)
            texture[i] = new SKPoint(shape.Mesh.Texture[2 * i], shape.Mesh.Texture[2 * i + 1]);
        var light = shape.Tint == null ? null : SKColorFilter.CreateBlendMode(ShapePainter.Color(shape.Tint, 1), SKBlendMode.Modulate);
        var paint = new SKPaint { Shader = shader, ColorFilter = light };
        return new Ready(texture, [.. shape.Mesh.Triangles], paint, shader, light, image);
    }

    // Out of focus nothing fine is left: made small first, so that a frame of a clip costs little. Larger by twice the blur on each side, as a picture is.
    private static Ready Soft(DrawShape shape, SKImage image)
    {
        var less = Less(shape.Blur);
        var blur = shape.Blur / less;
        int width = (int)Math.Ceiling(image.Width / (double)less),
            height = (int)Math.Ceiling(image.Height / (double)less);
        using var surface = SKSurface.Create(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Premul));
        using var filter = SKImageFilter.CreateBlur(blur, blur);
        using var paint = new SKPaint { ImageFilter = filter };
        surface.Canvas.DrawImage(image, SKRect.Inflate(new SKRect(0, 0, width, height), 2 * blur, 2 * blur), Small, paint);
        using var soft = surface.Snapshot();
        return Made(shape, image, soft.ToShader(SKShaderTileMode.Clamp, SKShaderTileMode.Clamp, Smooth, SKMatrix.CreateScale(less, less)));
    }

    private static readonly SKSamplingOptions Small = new(SKFilterMode.Linear, SKMipmapMode.Linear);

    // Pixels of a picture that become one before it is blurred; the page does the same.
    private static int Less(float blur) => Math.Clamp((int)(blur / 2), 1, 16);

    private static void Drop(Ready? ready)
    {
        ready?.Paint.Dispose();
        ready?.Shader.Dispose();
        ready?.Light?.Dispose();
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var ready in _ready.Values)
            Drop(ready);
        _ready.Clear();
    }
}
