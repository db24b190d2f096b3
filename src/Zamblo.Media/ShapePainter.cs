using System.Numerics;
using SkiaSharp;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>Draws single shapes of a drawing list with Skia, and tells where they lie. Outlines are read once and kept as long as they are the same.</summary>
internal sealed class ShapePainter : IDisposable
{
    private SKMatrix _view;
    private float _scale;

    // Skia looks at what the processor can do only when it is told to.
    static ShapePainter() => SKGraphics.Init();

    /// <param name="view">From the stage to the picture.</param>
    /// <param name="scale">Of that.</param>
    public ShapePainter(SKMatrix view, float scale) => Look(view, scale);

    /// <summary>Looks at another part of the stage.</summary>
    /// <param name="view">From the stage to the picture.</param>
    /// <param name="scale">Of that.</param>
    public void Look(SKMatrix view, float scale)
    {
        _view = view;
        // Strokes are made into areas for a power of two at least as large: a camera that moves does not make them all anew.
        var fine = MathF.Pow(2, MathF.Ceiling(MathF.Log2(scale)));
        if (fine == _scale)
            return;
        _scale = fine;
        Forget();
    }

    // Shapes that never change: their outline, and their stroke as an area (with the nib's second stroke in it).
    private readonly Dictionary<DrawShape, (SKPath Path, SKPath? Stroke)> _static = new(ReferenceEqualityComparer.Instance);

    // Shapes that every frame brings anew: the last outline of each.
    private readonly Dictionary<DrawShape, (string Text, SKPath? Path, SKPath? Stroke)> _moving = new(ReferenceEqualityComparer.Instance);
    private static readonly SKSamplingOptions Smooth = new(SKFilterMode.Linear, SKMipmapMode.Linear);
    private readonly MeshPainter _meshes = new();
    private readonly GradientShaders _gradients = new();
    private readonly SKPaint _fill = new() { IsAntialias = true, Style = SKPaintStyle.Fill };
    private readonly SKPaint _stroke = new()
    {
        IsAntialias = true,
        Style = SKPaintStyle.Stroke,
        StrokeCap = SKStrokeCap.Round,
        StrokeJoin = SKStrokeJoin.Round,
    };

    /// <summary>Where a shape lies in the picture, with its stroke; empty where nothing is drawn. What is clipped may lie in less.</summary>
    public SKRect BoundsOf(DrawingList list, DrawItem[] items, int i)
    {
        var item = items[i];
        if (item.Opacity <= 0)
            return SKRect.Empty;
        if (list.Shapes[i].Mesh != null)
            return item.Path == null ? SKRect.Empty : Matrix(item.Transform).PostConcat(_view).MapRect(_meshes.BoundsOf(list.Shapes[i], item.Path));
        var (path, stroke) = Outline(list.Shapes[i], item);
        if (path == null)
            return SKRect.Empty;
        var bounds = path.Bounds;
        if (stroke != null)
            bounds.Union(stroke.Bounds);
        return Matrix(item.Transform).PostConcat(_view).MapRect(bounds);
    }

    private (SKPath? Path, SKPath? Stroke) Outline(DrawShape shape, DrawItem item)
    {
        if (item.Path is { } text)
        {
            if (_moving.TryGetValue(shape, out var last))
            {
                if (last.Text == text)
                    return (last.Path, last.Stroke);
                last.Path?.Dispose();
                last.Stroke?.Dispose();
            }
            var path = SKPath.ParseSvgPathData(text);
            var stroke = path == null ? null : Stroke(shape, path);
            _moving[shape] = (text, path, stroke);
            return (path, stroke);
        }
        if (shape.Path == null)
            return (null, null);
        if (!_static.TryGetValue(shape, out var kept))
        {
            kept.Path = SKPath.ParseSvgPathData(shape.Path) ?? new SKPath();
            kept.Stroke = Stroke(shape, kept.Path);
            _static[shape] = kept;
        }
        return kept;
    }

    private static void DrawPicture(SKCanvas canvas, SKImage picture, SKRect box, float blur)
    {
        if (blur <= 0)
        {
            canvas.DrawImage(picture, box, Smooth, null);
            return;
        }
        canvas.Save();
        canvas.ClipRect(box, SKClipOperation.Intersect, true);
        using var filter = SKImageFilter.CreateBlur(blur, blur);
        using var paint = new SKPaint { ImageFilter = filter };
        canvas.DrawImage(picture, SKRect.Inflate(box, 2 * blur, 2 * blur), Smooth, paint);
        canvas.Restore();
    }

    /// <summary>Draws one shape of a frame.</summary>
    public void Draw(SKCanvas canvas, DrawingList list, DrawItem[] items, int i)
    {
        var shape = list.Shapes[i];
        var item = items[i];
        if (item.Opacity <= 0)
            return;
        var (path, stroke) = shape.Mesh != null ? (null, null) : Outline(shape, item);
        if (path == null && (shape.Mesh == null || item.Path == null))
            return;
        var clipped = false;
        if (shape.Clip >= 0 && items[shape.Clip].Path != null && Outline(list.Shapes[shape.Clip], items[shape.Clip]).Path is { } clip)
        {
            canvas.Save();
            canvas.SetMatrix(Matrix(items[shape.Clip].Transform).PostConcat(_view));
            canvas.ClipPath(clip, SKClipOperation.Intersect, true);
            clipped = true;
        }
        // What is clipped by a hidden shape is hidden.
        if (shape.Clip < 0 || clipped)
        {
            canvas.SetMatrix(Matrix(item.Transform).PostConcat(_view));
            if (path == null)
                _meshes.Draw(canvas, shape, item);
            else if (shape.Picture != null && PictureShelf.Find(shape.Picture) is { } picture)
                DrawPicture(canvas, picture, path.Bounds, shape.Blur);
            if (path != null && (shape.Fill ?? shape.Gradient?.Colors) != null)
            {
                _fill.Color = shape.Gradient == null ? Color(shape.Fill!, item.Opacity) : Color("#000000", item.Opacity);
                _fill.Shader = shape.Gradient == null ? null : _gradients.Of(shape, item.Colors);
                _fill.BlendMode = ModeOf(shape.Blend);
                canvas.DrawPath(path, _fill);
                (_fill.BlendMode, _fill.Shader) = (SKBlendMode.SrcOver, null);
            }
            if (stroke != null)
            {
                _fill.Color = Color(shape.Stroke!, item.Opacity);
                canvas.DrawPath(stroke, _fill);
            }
        }
        if (clipped)
            canvas.Restore();
    }

    private static SKBlendMode ModeOf(DrawBlend blend) =>
        blend switch
        {
            DrawBlend.Multiply => SKBlendMode.Multiply,
            DrawBlend.Screen => SKBlendMode.Screen,
            DrawBlend.SoftLight => SKBlendMode.SoftLight,
            _ => SKBlendMode.SrcOver,
        };

    private SKPath? Stroke(DrawShape shape, SKPath path)
    {
        if (shape.Stroke == null || shape.Width <= 0)
            return null;
        _stroke.StrokeWidth = shape.Width;
        var area = _stroke.GetFillPath(path, _scale);
        if (area == null || shape.Nib <= 0)
            return area;
        using var both = new SKPathBuilder(area);
        both.AddPath(area, shape.Nib, shape.Nib * 0.6f, SKPathAddMode.Append);
        area.Dispose();
        return both.Detach();
    }

    private static SKMatrix Matrix(Matrix3x2 m) => new(m.M11, m.M21, m.M31, m.M12, m.M22, m.M32, 0, 0, 1);

    internal static SKColor Color(string hex, float opacity)
    {
        var rgb = Convert.ToUInt32(hex.Substring(1, 6), 16);
        var alpha = hex.Length == 9 ? Convert.ToInt32(hex[7..], 16) / 255f : 1;
        return new SKColor((byte)(rgb >> 16), (byte)(rgb >> 8), (byte)rgb, (byte)MathF.Round(alpha * opacity * 255));
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        Forget();
        _meshes.Dispose();
        _gradients.Dispose();
        _fill.Dispose();
        _stroke.Dispose();
    }

    private void Forget()
    {
        foreach (var (path, stroke) in _static.Values)
        {
            path.Dispose();
            stroke?.Dispose();
        }
        foreach (var (_, path, stroke) in _moving.Values)
        {
            path?.Dispose();
            stroke?.Dispose();
        }
        _static.Clear();
        _moving.Clear();
    }
}
