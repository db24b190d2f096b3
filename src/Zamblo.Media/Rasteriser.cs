using System.Collections.Concurrent;
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
    private readonly ConcurrentDictionary<string, SKPath> _static = new();
    private readonly SKPaint _fill = new() { IsAntialias = true, Style = SKPaintStyle.Fill };
    private readonly SKPaint _stroke = new() { IsAntialias = true, Style = SKPaintStyle.Stroke, StrokeCap = SKStrokeCap.Round, StrokeJoin = SKStrokeJoin.Round };
    private readonly SKPaint? _grain;
    private SKImage? _back;

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
        if (grain)
            _grain = new SKPaint
            {
                BlendMode = SKBlendMode.Multiply,
                Shader = SKShader.CreateImage(Grain.Value, SKShaderTileMode.Repeat, SKShaderTileMode.Repeat, new SKSamplingOptions(SKFilterMode.Linear), _view),
            };
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
        _canvas.Clear(SKColors.Transparent);
        if (still > 0)
        {
            if (_back == null)
            {
                for (var i = 0; i < still; i++) Draw(list, items, i);
                _canvas.Flush();
                _back = SKImage.FromBitmap(_bitmap);
            }
            else
            {
                _canvas.ResetMatrix();
                _canvas.DrawImage(_back, 0, 0, SKSamplingOptions.Default);
            }
        }
        for (var i = still; i < items.Length; i++) Draw(list, items, i);
        if (_grain != null)
        {
            _canvas.ResetMatrix();
            _canvas.DrawRect(0, 0, _bitmap.Width, _bitmap.Height, _grain);
        }
        _canvas.Flush();
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
        if (item.Opacity <= 0 || (item.Path ?? shape.Path) is not { Length: > 0 } text) return;
        using var made = item.Path == null ? null : SKPath.ParseSvgPathData(text);
        var path = made ?? _static.GetOrAdd(text, SKPath.ParseSvgPathData);
        if (path == null) return;
        var clipped = false;
        if (shape.Clip >= 0)
        {
            var by = items[shape.Clip];
            if (by.Path == null) return;
            using var clip = SKPath.ParseSvgPathData(by.Path);
            _canvas.Save();
            _canvas.SetMatrix(Matrix(by.Transform).PostConcat(_view));
            _canvas.ClipPath(clip, SKClipOperation.Intersect, true);
            clipped = true;
        }
        var matrix = Matrix(item.Transform).PostConcat(_view);
        _canvas.SetMatrix(matrix);
        if (shape.Fill != null)
        {
            _fill.Color = Color(shape.Fill, item.Opacity);
            _canvas.DrawPath(path, _fill);
        }
        if (shape.Stroke != null && shape.Width > 0)
        {
            _stroke.Color = Color(shape.Stroke, item.Opacity);
            _stroke.StrokeWidth = shape.Width;
            _canvas.DrawPath(path, _stroke);
            if (shape.Nib > 0)
            {
                _canvas.SetMatrix(matrix.PreConcat(SKMatrix.CreateTranslation(shape.Nib, shape.Nib * 0.6f)));
                _canvas.DrawPath(path, _stroke);
            }
        }
        if (clipped) _canvas.Restore();
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
        _back?.Dispose();
        _fill.Dispose();
        _stroke.Dispose();
        _grain?.Dispose();
        foreach (var path in _static.Values) path.Dispose();
    }
}
