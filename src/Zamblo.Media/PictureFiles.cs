using SkiaSharp;

namespace Zamblo.Media;

/// <summary>A picture that was taken in.</summary>
/// <param name="Bytes">JPEG, or PNG where it has holes; upright, no larger than is needed.</param>
/// <param name="Width">In pixels.</param>
/// <param name="Height">In pixels.</param>
/// <param name="Edge">Colour of its edges, "#rrggbb".</param>
public sealed record TakenPicture(byte[] Bytes, int Width, int Height, string Edge);

/// <summary>Takes pictures in: JPEG, PNG, WebP, GIF, BMP; turned as their EXIF says (CIPA DC-008, "Orientation"), made smaller, written anew.</summary>
public static class PictureFiles
{
    /// <summary>Largest file, in bytes.</summary>
    public const long Largest = 100L << 20;

    // Pixels that are still decoded, and the longest side that is kept: twice a wide film.
    private const long MostPixels = 60_000_000;
    private const int LongestSide = 3840;

    /// <summary>Reads one, or draws it where it is an SVG.</summary>
    /// <param name="file">Its bytes.</param>
    /// <param name="name">For messages.</param>
    /// <param name="cancel">Stops.</param>
    /// <exception cref="MediaException">It is no picture, or too large.</exception>
    public static async Task<TakenPicture> TakeAsync(byte[] file, string name, CancellationToken cancel = default)
    {
        if (SvgPictures.IsSvg(file))
            file = await SvgPictures.DrawAsync(file, name, cancel);
        return await Task.Run(() => Take(file, name), cancel);
    }

    /// <summary>Reads one.</summary>
    /// <param name="file">Its bytes.</param>
    /// <param name="name">For messages.</param>
    /// <exception cref="MediaException">It is no picture, or too large.</exception>
    public static TakenPicture Take(byte[] file, string name)
    {
        using var data = SKData.CreateCopy(file);
        using var codec = SKCodec.Create(data) ?? throw new MediaException($"\"{name}\" is no picture that can be read: bring a JPEG, PNG, WebP or SVG.");
        var info = codec.Info;
        if ((long)info.Width * info.Height > MostPixels)
            throw new MediaException($"\"{name}\" has {info.Width} x {info.Height} pixels: up to {MostPixels / 1_000_000} million are read.");
        if (info.Width < 2 || info.Height < 2)
            throw new MediaException($"\"{name}\" is too small to be seen.");
        using var decoded = new SKBitmap(new SKImageInfo(info.Width, info.Height, SKColorType.Rgba8888, SKAlphaType.Premul));
        if (codec.GetPixels(decoded.Info, decoded.GetPixels()) is not (SKCodecResult.Success or SKCodecResult.IncompleteInput))
            throw new MediaException($"\"{name}\" is damaged: it cannot be read to its end.");
        var isTurned = codec.EncodedOrigin is SKEncodedOrigin.LeftTop or SKEncodedOrigin.RightTop or SKEncodedOrigin.RightBottom or SKEncodedOrigin.LeftBottom;
        var (w, h) = isTurned ? (info.Height, info.Width) : (info.Width, info.Height);
        var scale = Math.Min(1f, (float)LongestSide / Math.Max(w, h));
        var (width, height) = (Math.Max(1, (int)MathF.Round(w * scale)), Math.Max(1, (int)MathF.Round(h * scale)));
        using var upright = new SKBitmap(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Premul));
        using (var canvas = new SKCanvas(upright))
        {
            canvas.Clear(SKColors.Transparent);
            canvas.Scale((float)width / w, (float)height / h);
            canvas.Concat(Turn(codec.EncodedOrigin, w, h));
            using var image = SKImage.FromBitmap(decoded);
            canvas.DrawImage(image, 0, 0, new SKSamplingOptions(SKFilterMode.Linear, SKMipmapMode.Linear));
        }
        var hasHoles = HasHoles(upright);
        using var encoded = upright.Encode(hasHoles ? SKEncodedImageFormat.Png : SKEncodedImageFormat.Jpeg, 92);
        return new TakenPicture(encoded.ToArray(), width, height, EdgeOf(upright));
    }

    /// <summary>Reads one that was taken in.</summary>
    /// <param name="kept">Its bytes, as they were kept.</param>
    /// <exception cref="MediaException">It is none.</exception>
    public static TakenPicture Again(byte[] kept)
    {
        using var bitmap = SKBitmap.Decode(kept) ?? throw new MediaException("This is no picture.");
        return new TakenPicture(kept, bitmap.Width, bitmap.Height, EdgeOf(bitmap));
    }

    // From the picture as it is stored to the picture as it is seen.
    private static SKMatrix Turn(SKEncodedOrigin origin, int w, int h) =>
        origin switch
        {
            SKEncodedOrigin.TopRight => new SKMatrix(-1, 0, w, 0, 1, 0, 0, 0, 1),
            SKEncodedOrigin.BottomRight => new SKMatrix(-1, 0, w, 0, -1, h, 0, 0, 1),
            SKEncodedOrigin.BottomLeft => new SKMatrix(1, 0, 0, 0, -1, h, 0, 0, 1),
            SKEncodedOrigin.LeftTop => new SKMatrix(0, 1, 0, 1, 0, 0, 0, 0, 1),
            SKEncodedOrigin.RightTop => new SKMatrix(0, -1, w, 1, 0, 0, 0, 0, 1),
            SKEncodedOrigin.RightBottom => new SKMatrix(0, -1, w, -1, 0, h, 0, 0, 1),
            SKEncodedOrigin.LeftBottom => new SKMatrix(0, 1, 0, -1, 0, h, 0, 0, 1),
            _ => SKMatrix.Identity,
        };

    private static bool HasHoles(SKBitmap bitmap)
    {
        var pixels = bitmap.GetPixelSpan();
        for (var i = 3; i < pixels.Length; i += 4)
            if (pixels[i] != 255)
                return true;
        return false;
    }

    // The mean of the outermost pixels.
    private static string EdgeOf(SKBitmap bitmap)
    {
        long r = 0,
            g = 0,
            b = 0,
            n = 0;
        void Add(int x, int y)
        {
            var c = bitmap.GetPixel(x, y);
            (r, g, b, n) = (r + c.Red, g + c.Green, b + c.Blue, n + 1);
        }
        for (var x = 0; x < bitmap.Width; x++)
        {
            Add(x, 0);
            Add(x, bitmap.Height - 1);
        }
        for (var y = 0; y < bitmap.Height; y++)
        {
            Add(0, y);
            Add(bitmap.Width - 1, y);
        }
        return $"#{r / n:x2}{g / n:x2}{b / n:x2}";
    }
}
