using System.Numerics;
using SkiaSharp;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>
/// Draws drawing lists with Skia. One instance draws at one size, one frame at a time; what never changes is drawn once and kept.
/// </summary>
public sealed class Rasteriser : IDisposable
{
    private static readonly Lazy<SKImage> Grain = new(MakeGrain);
    private readonly SKBitmap _bitmap;
    private readonly SKCanvas _canvas;
    private readonly SKMatrix _view;
    private readonly float _scale;
    // Shapes that never change: their outline, and their stroke as an area (with the nib's second stroke in it).
    private readonly Dictionary<DrawShape, (SKPath Path, SKPath? Stroke)> _static = new(ReferenceEqualityComparer.Instance);
    private readonly SKPaint _fill = new() { IsAntialias = true, Style = SKPaintStyle.Fill };
    private readonly SKPaint _stroke = new() { IsAntialias = true, Style = SKPaintStyle.Stroke, StrokeCap = SKStrokeCap.Round, StrokeJoin = SKStrokeJoin.Round };
    // The grain in the picture's own pixels, one byte per channel; alpha is 255.
    private readonly byte[]? _grain;
    private byte[]? _back;

    /// <param name="width">In pixels.</param>
    /// <param name="height">In pixels.</param>
    /// <param name="view">What part of the drawing fills the picture: x, y, width, height; what is too much in one direction is cut at the sides.</param>
    /// <param name="grain">Lay paper grain over it.</param>
    public Rasteriser(int width, int height, (float X, float Y, float Width, float Height) view, bool grain = true)
    {
        _bitmap = new SKBitmap(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Premul));
        _canvas = new SKCanvas(_bitmap);
        var scale = Math.Max(width / view.Width, height / view.Height);
        _view = SKMatrix.CreateScaleTranslation(scale, scale, width / 2f - (view.X + view.Width / 2) * scale, height / 2f - (view.Y + view.Height / 2) * scale);
        _scale = scale;
        if (grain) _grain = GrainFor(width, height, _view);
    }

    /// <summary>The whole stage.</summary>
    public static Rasteriser ForStage(int width, int height) => new(width, height, (0, 0, StageScene.Width, StageScene.Height));

    /// <summary>Draws one frame. The picture stays valid until the next call.</summary>
    /// <param name="list">What to draw.</param>
    /// <param name="frame">Index into the list's frames.</param>
    /// <param name="still">So many shapes at the start are the same in every frame that this instance draws.</param>
    public SKBitmap Draw(DrawingList list, int frame, int still = 0)
    {
        var items = list.Frames[frame];
        _canvas.ResetMatrix();
        if (still == 0 || _back == null)
        {
            _canvas.Clear(SKColors.Transparent);
            for (var i = 0; i < still; i++) Draw(list, items, i);
            _canvas.Flush();
            if (still > 0) _back = _bitmap.GetPixelSpan().ToArray();
        }
        else _back.CopyTo(_bitmap.GetPixelSpan());
        for (var i = still; i < items.Length; i++) Draw(list, items, i);
        _canvas.Flush();
        if (_grain != null) Multiply(_bitmap.GetPixelSpan(), _grain);
        return _bitmap;
    }

    /// <summary>Encodes the last picture.</summary>
    public byte[] ToPng()
    {
        using var data = _bitmap.Encode(SKEncodedImageFormat.Png, 90);
        return data.ToArray();
    }

    private void Draw(DrawingList list, DrawItem[] items, int i)
    {
        var shape = list.Shapes[i];
        var item = items[i];
        if (item.Opacity <= 0) return;
        SKPath? path = null, stroke = null;
        if (item.Path != null)
        {
            path = SKPath.ParseSvgPathData(item.Path);
            if (path != null) stroke = Stroke(shape, path);
        }
        else if (shape.Path != null)
        {
            if (!_static.TryGetValue(shape, out var kept))
            {
                kept.Path = SKPath.ParseSvgPathData(shape.Path) ?? new SKPath();
                kept.Stroke = Stroke(shape, kept.Path);
                _static[shape] = kept;
            }
            (path, stroke) = kept;
        }
        if (path == null) return;
        var clipped = false;
        if (shape.Clip >= 0 && items[shape.Clip].Path is { } clipText)
        {
            using var clip = SKPath.ParseSvgPathData(clipText);
            _canvas.Save();
            _canvas.SetMatrix(Matrix(items[shape.Clip].Transform).PostConcat(_view));
            _canvas.ClipPath(clip, SKClipOperation.Intersect, true);
            clipped = true;
        }
        // What is clipped by a hidden shape is hidden.
        if (shape.Clip < 0 || clipped)
        {
            _canvas.SetMatrix(Matrix(item.Transform).PostConcat(_view));
            if (shape.Fill != null)
            {
                _fill.Color = Color(shape.Fill, item.Opacity);
                _canvas.DrawPath(path, _fill);
            }
            if (stroke != null)
            {
                _fill.Color = Color(shape.Stroke!, item.Opacity);
                _canvas.DrawPath(stroke, _fill);
            }
        }
        if (clipped) _canvas.Restore();
        if (item.Path == null) return;
        path.Dispose();
        stroke?.Dispose();
    }

    private SKPath? Stroke(DrawShape shape, SKPath path)
    {
        if (shape.Stroke == null || shape.Width <= 0) return null;
        _stroke.StrokeWidth = shape.Width;
        var area = _stroke.GetFillPath(path, _scale);
        if (area == null || shape.Nib <= 0) return area;
        using var both = new SKPathBuilder(area);
        both.AddPath(area, shape.Nib, shape.Nib * 0.6f, SKPathAddMode.Append);
        area.Dispose();
        return both.Detach();
    }

    private static byte[] GrainFor(int width, int height, SKMatrix view)
    {
        using var bitmap = new SKBitmap(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Premul));
        using var canvas = new SKCanvas(bitmap);
        using var paint = new SKPaint { Shader = SKShader.CreateImage(Grain.Value, SKShaderTileMode.Repeat, SKShaderTileMode.Repeat, new SKSamplingOptions(SKFilterMode.Linear), view) };
        canvas.DrawRect(0, 0, width, height, paint);
        canvas.Flush();
        return bitmap.GetPixelSpan().ToArray();
    }

    // Byte by byte a b / 255, rounded; exact for all bytes.
    private static void Multiply(Span<byte> picture, ReadOnlySpan<byte> grain)
    {
        var i = 0;
        for (; i <= picture.Length - Vector<byte>.Count; i += Vector<byte>.Count)
        {
            Vector.Widen(new Vector<byte>(picture[i..]), out var a0, out var a1);
            Vector.Widen(new Vector<byte>(grain[i..]), out var b0, out var b1);
            Vector.Narrow(Divide(a0 * b0), Divide(a1 * b1)).CopyTo(picture[i..]);
        }
        for (; i < picture.Length; i++)
        {
            var x = picture[i] * grain[i] + 128;
            picture[i] = (byte)((x + (x >> 8)) >> 8);
        }

        static Vector<ushort> Divide(Vector<ushort> product)
        {
            var x = product + new Vector<ushort>(128);
            return (x + (x >> 8)) >> 8;
        }
    }

    private static SKMatrix Matrix(Matrix3x2 m) => new(m.M11, m.M21, m.M31, m.M12, m.M22, m.M32, 0, 0, 1);

    private static SKColor Color(string hex, float opacity)
    {
        var rgb = Convert.ToUInt32(hex.Substring(1, 6), 16);
        var alpha = hex.Length == 9 ? Convert.ToInt32(hex[7..], 16) / 255f : 1;
        return new SKColor((byte)(rgb >> 16), (byte)(rgb >> 8), (byte)rgb, (byte)MathF.Round(alpha * opacity * 255));
    }

    /// <summary>The grain tile as a PNG, for the browser.</summary>
    public static byte[] GrainPng()
    {
        using var data = Grain.Value.Encode(SKEncodedImageFormat.Png, 100);
        return data.ToArray();
    }

    private static SKImage MakeGrain()
    {
        var tile = PaperGrain.Tile();
        using var bitmap = new SKBitmap(new SKImageInfo(PaperGrain.Size, PaperGrain.Size, SKColorType.Rgba8888, SKAlphaType.Opaque));
        for (var y = 0; y < PaperGrain.Size; y++)
            for (var x = 0; x < PaperGrain.Size; x++)
            {
                var v = tile[y * PaperGrain.Size + x];
                bitmap.SetPixel(x, y, new SKColor(v, v, v));
            }
        return SKImage.FromBitmap(bitmap);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _canvas.Dispose();
        _bitmap.Dispose();
        _fill.Dispose();
        _stroke.Dispose();
        foreach (var (path, stroke) in _static.Values)
        {
            path.Dispose();
            stroke?.Dispose();
        }
    }
}
