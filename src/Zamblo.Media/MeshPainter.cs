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
        var texture = new SKPoint[shape.Mesh!.Texture.Count / 2];
        for (var i = 0; i < texture.Length; i++)
            texture[i] = new SKPoint(shape.Mesh.Texture[2 * i], shape.Mesh.Texture[2 * i + 1]);
        var shader = image.ToShader(SKShaderTileMode.Clamp, SKShaderTileMode.Clamp, Smooth);
        var light = shape.Tint == null ? null : SKColorFilter.CreateBlendMode(ShapePainter.Color(shape.Tint, 1), SKBlendMode.Modulate);
        var paint = new SKPaint { Shader = shader, ColorFilter = light };
        return _ready[shape] = new Ready(texture, [.. shape.Mesh.Triangles], paint, shader, light, image);
    }

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
