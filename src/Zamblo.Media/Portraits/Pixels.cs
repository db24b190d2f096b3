using OpenCvSharp;
using SkiaSharp;

namespace Zamblo.Media.Portraits;

/// <summary>Pictures between Skia, which reads and writes them, and OpenCV, which works on them.</summary>
internal static class Pixels
{
    /// <summary>Reads a picture: blue, green, red, and how much it covers, not premultiplied.</summary>
    /// <exception cref="MediaException">It cannot be read.</exception>
    public static Mat Read(byte[] file)
    {
        using var data = SKData.CreateCopy(file);
        using var codec = SKCodec.Create(data) ?? throw new MediaException("The picture cannot be read.");
        var info = new SKImageInfo(codec.Info.Width, codec.Info.Height, SKColorType.Bgra8888, SKAlphaType.Unpremul);
        var mat = new Mat(info.Height, info.Width, MatType.CV_8UC4);
        if (codec.GetPixels(info, mat.Data) is not (SKCodecResult.Success or SKCodecResult.IncompleteInput))
        {
            mat.Dispose();
            throw new MediaException("The picture cannot be read to its end.");
        }
        return mat;
    }

    /// <summary>Writes a picture as PNG, or as JPEG where it has three channels.</summary>
    /// <param name="mat">Blue first.</param>
    /// <param name="isExact">As PNG all the same.</param>
    public static byte[] Write(Mat mat, bool isExact = false)
    {
        using var four = new Mat();
        var isWhole = mat.Channels() == 3;
        if (isWhole)
            Cv2.CvtColor(mat, four, ColorConversionCodes.BGR2BGRA);
        else
            mat.CopyTo(four);
        var info = new SKImageInfo(four.Cols, four.Rows, SKColorType.Bgra8888, isWhole ? SKAlphaType.Opaque : SKAlphaType.Unpremul);
        using var bitmap = new SKBitmap();
        bitmap.InstallPixels(info, four.Data, (int)four.Step());
        using var encoded = bitmap.Encode(isWhole && !isExact ? SKEncodedImageFormat.Jpeg : SKEncodedImageFormat.Png, 94);
        return encoded.ToArray();
    }

    /// <summary>The three colours of a picture.</summary>
    public static Mat Colors(Mat four)
    {
        var three = new Mat();
        Cv2.CvtColor(four, three, ColorConversionCodes.BGRA2BGR);
        return three;
    }

    /// <summary>As a colour is written.</summary>
    public static string Hex(double blue, double green, double red)
    {
        static int Byte(double v) => (int)Math.Clamp(Math.Round(v), 0, 255);
        return $"#{Byte(red):X2}{Byte(green):X2}{Byte(blue):X2}";
    }

    /// <summary>Marks as OpenCV takes them.</summary>
    public static Point[] Polygon(IEnumerable<System.Numerics.Vector2> points) =>
        [.. points.Select(p => new Point((int)MathF.Round(p.X), (int)MathF.Round(p.Y)))];

    /// <summary>Mean of the darkest share of the pixels under a mask.</summary>
    public static Scalar Darkest(Mat picture, Mat mask, double share)
    {
        using var gray = new Mat();
        Cv2.CvtColor(picture, gray, ColorConversionCodes.BGR2GRAY);
        var values = new List<byte>();
        var (cols, rows) = (gray.Cols, gray.Rows);
        for (var y = 0; y < rows; y++)
        for (var x = 0; x < cols; x++)
            if (mask.At<byte>(y, x) != 0)
                values.Add(gray.At<byte>(y, x));
        if (values.Count == 0)
            return new Scalar(30, 30, 40);
        values.Sort();
        var limit = values[(int)(share * (values.Count - 1))];
        using var dark = new Mat();
        Cv2.InRange(gray, new Scalar(0), new Scalar(limit), dark);
        Cv2.BitwiseAnd(dark, mask, dark);
        return Cv2.Mean(picture, dark);
    }
}
