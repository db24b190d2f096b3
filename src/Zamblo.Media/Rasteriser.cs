using System.Numerics;
using SkiaSharp;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>
/// Draws drawing lists with Skia. One instance draws at one size, one frame at a time: for pictures of single frames.
/// </summary>
public sealed class Rasteriser : IDisposable
{
    /// <summary>
    /// Blue, green, red, alpha: what Skia's own blitters for whole colours are made for here; any other order goes through its general pipeline, which is a
    /// third slower.
    /// </summary>
    internal const SKColorType Pixels = SKColorType.Bgra8888;

    private static readonly Lazy<SKImage> Grain = new(MakeGrain);
    private readonly SKBitmap _bitmap;
    private readonly SKCanvas _canvas;
    private readonly SKMatrix _view;
    private readonly PlanePainters _planes;
    private readonly bool _isStage;

    // The grain in the picture's own pixels, one byte per channel; alpha is 255.
    private readonly byte[]? _grain;

    /// <param name="width">In pixels.</param>
    /// <param name="height">In pixels.</param>
    /// <param name="view">What part of the drawing fills the picture: x, y, width, height; what is too much in one direction is cut at the sides.</param>
    /// <param name="grain">Lay paper grain over it.</param>
    public Rasteriser(int width, int height, (float X, float Y, float Width, float Height) view, bool grain = true)
        : this(width, height, view, grain, false) { }

    private Rasteriser(int width, int height, (float X, float Y, float Width, float Height) view, bool grain, bool isStage)
    {
        _isStage = isStage;
        _bitmap = new SKBitmap(new SKImageInfo(width, height, Pixels, SKAlphaType.Premul));
        _canvas = new SKCanvas(_bitmap);
        var scale = Math.Max(width / view.Width, height / view.Height);
        _view = SKMatrix.CreateScaleTranslation(scale, scale, width / 2f - (view.X + view.Width / 2) * scale, height / 2f - (view.Y + view.Height / 2) * scale);
        _planes = new PlanePainters(width, height, _view, scale);
        if (grain)
            _grain = GrainFor(width, height, _view);
    }

    /// <summary>The stage, as the camera sees it in each frame.</summary>
    public static Rasteriser ForStage(int width, int height) => new(width, height, (0, 0, StageScene.Width, StageScene.Height), true, true);

    /// <summary>Draws one frame. The picture stays valid until the next call.</summary>
    /// <param name="list">What to draw.</param>
    /// <param name="frame">Index into the list's frames.</param>
    public SKBitmap Draw(DrawingList list, int frame)
    {
        _canvas.ResetMatrix();
        _canvas.Clear(SKColors.Transparent);
        if (_isStage)
            _planes.DrawAll(_canvas, list, frame, list.LookAt(frame, _bitmap.Width, _bitmap.Height), SKColors.Transparent);
        else
            foreach (var group in list.Groups)
                _planes.Draw(_canvas, list, frame, group);
        _canvas.Flush();
        if (_grain != null && list.HasGrain)
            Multiply(_bitmap.GetPixelSpan(), _grain);
        return _bitmap;
    }

    /// <summary>Encodes the last picture.</summary>
    public byte[] ToPng()
    {
        using var data = _bitmap.Encode(SKEncodedImageFormat.Png, 90);
        return data.ToArray();
    }

    internal static byte[] GrainFor(int width, int height, SKMatrix view)
    {
        using var bitmap = new SKBitmap(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Premul));
        using var canvas = new SKCanvas(bitmap);
        using var paint = new SKPaint
        {
            Shader = SKShader.CreateImage(Grain.Value, SKShaderTileMode.Repeat, SKShaderTileMode.Repeat, new SKSamplingOptions(SKFilterMode.Linear), view),
        };
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
        var pixels = bitmap.GetPixelSpan();
        for (var i = 0; i < tile.Length; i++)
        {
            pixels.Slice(i * 4, 3).Fill(tile[i]);
            pixels[i * 4 + 3] = 255;
        }
        return SKImage.FromBitmap(bitmap);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _canvas.Dispose();
        _bitmap.Dispose();
        _planes.Dispose();
    }
}
