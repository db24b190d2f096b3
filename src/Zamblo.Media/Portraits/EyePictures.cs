using System.Numerics;
using OpenCvSharp;
using Zamblo.Core.Portraits;

namespace Zamblo.Media.Portraits;

/// <summary>Takes an eye apart: what is between the lids without the iris, and the iris whole, so that it can look elsewhere.</summary>
internal static class EyePictures
{
    // Small eyes are made larger, so that their edges are smooth.
    private const float LeastWidth = 90;

    // Of the opening that has to be white for an iris to be told from it.
    private const double LeastWhite = 0.14;

    /// <summary>
    /// Where the iris is: the circle whose edge changes most from dark to light (Daugman, "High confidence visual recognition of persons", 1993).
    /// </summary>
    /// <param name="gray">The picture.</param>
    /// <param name="eye">First guess.</param>
    public static EyeMarks WithIris(Mat gray, EyeMarks eye)
    {
        var width = Vector2.Distance(eye.Upper[0], eye.Upper[^1]);
        if (width < 12)
            return eye;
        Vector2 across = Vector2.Normalize((Vector2)eye.Upper[^1] - eye.Upper[0]),
            down = new(-across.Y, across.X);
        float At(Vector2 p)
        {
            int x = Math.Clamp((int)MathF.Round(p.X), 0, gray.Cols - 1),
                y = Math.Clamp((int)MathF.Round(p.Y), 0, gray.Rows - 1);
            return gray.At<byte>(y, x);
        }
        // Left and right arcs only: lids hide the rest.
        float Around(Vector2 middle, float r)
        {
            var sum = 0f;
            const int steps = 9;
            for (var i = 0; i < steps; i++)
            {
                var angle = (i / (float)(steps - 1) - 0.5f) * MathF.PI * 0.5f;
                var (s, c) = MathF.SinCos(angle);
                sum += At(middle + r * (c * across + s * down)) + At(middle + r * (-c * across + s * down));
            }
            return sum / (2 * steps);
        }
        float best = 0;
        Vector2 found = eye.Iris;
        var radius = eye.Radius;
        for (var dx = -10; dx <= 10; dx++)
        for (var dy = -3; dy <= 3; dy++)
        for (var k = 0; k < 7; k++)
        {
            var middle = (Vector2)eye.Iris + (dx * 0.02f * across + dy * 0.02f * down) * width;
            var r = width * (0.16f + 0.016f * k);
            var edge = Around(middle, r * 1.12f) - Around(middle, r * 0.88f) - 0.6f * (MathF.Abs(dx) + MathF.Abs(dy)) * 0.4f;
            if (edge > best)
                (best, found, radius) = (edge, middle, r);
        }
        // Less than that is no edge.
        return best < 8 ? eye : eye with { Iris = found, Radius = radius };
    }

    /// <summary>Takes one apart.</summary>
    /// <param name="picture">Blue first.</param>
    /// <param name="eye">Its marks.</param>
    /// <param name="keep">Keeps a picture and gives its hash.</param>
    /// <returns>Null where there is too little white to take the iris from.</returns>
    public static EyePatch? Of(Mat picture, EyeMarks eye, Func<Mat, string> keep)
    {
        var width = Vector2.Distance(eye.Upper[0], eye.Upper[^1]);
        if (width < 8 || eye.Radius < 1.5f)
            return null;
        var all = eye.Upper.Concat(eye.Lower).Select(m => (Vector2)m).ToArray();
        var air = 0.3f * width;
        int left = (int)Math.Floor(all.Min(p => p.X) - air),
            top = (int)Math.Floor(all.Min(p => p.Y) - air),
            right = (int)Math.Ceiling(all.Max(p => p.X) + air),
            low = (int)Math.Ceiling(all.Max(p => p.Y) + air);
        var part = new Rect(left, top, right - left, low - top).Intersect(new Rect(0, 0, picture.Cols, picture.Rows));
        if (part.Width < 8 || part.Height < 8)
            return null;
        var scale = Math.Max(1, LeastWidth / width);
        using var source = new Mat(picture, part);
        using var seen = new Mat();
        Cv2.Resize(source, seen, new Size(), scale, scale, InterpolationFlags.Cubic);
        Vector2 In(Vector2 p) => (p - new Vector2(part.X, part.Y)) * scale;
        var middle = In(eye.Iris);
        var r = eye.Radius * scale;
        var open = Mask(
            seen,
            m => Cv2.FillPoly(m, [Pixels.Polygon(eye.Upper.Select(p => In(p)).Concat(eye.Lower.Reverse().Select(p => In(p))))], Scalar.White)
        );
        // Lashes and the shade under the lid are neither white nor iris.
        using var kernel = Cv2.GetStructuringElement(MorphShapes.Ellipse, new Size(3, 3));
        using Mat inner = new(),
            iris = Mask(seen, m => Cv2.Circle(m, (int)middle.X, (int)middle.Y, (int)MathF.Ceiling(r * 1.12f), Scalar.White, -1));
        Cv2.Erode(open, inner, kernel, iterations: Math.Max(1, (int)(width * scale * 0.02f)));
        using Mat white = new(),
            notIris = new();
        Cv2.BitwiseNot(iris, notIris);
        Cv2.BitwiseAnd(inner, notIris, white);
        if (Cv2.CountNonZero(white) < LeastWhite * Cv2.CountNonZero(open) || !IsLighter(seen, white, inner, iris))
            return null;
        using Mat hole = new(),
            filled = new(),
            rim = new();
        Cv2.BitwiseNot(white, hole);
        Cv2.Inpaint(seen, hole, filled, 4, InpaintTypes.Telea);
        using var smooth = new Mat();
        Cv2.GaussianBlur(filled, smooth, new Size(0, 0), Math.Max(1, width * scale * 0.02));
        smooth.CopyTo(filled, hole);
        var irisPicture = IrisOf(seen, inner, middle, r);
        Cv2.Dilate(open, rim, kernel, iterations: 2);
        Cv2.Subtract(rim, inner, rim);
        var lash = Pixels.Darkest(seen, rim, 0.12);
        open.Dispose();
        using var square = irisPicture;
        return new EyePatch(
            keep(filled),
            part.X,
            part.Y,
            part.Width,
            part.Height,
            keep(square),
            square.Cols / scale,
            filled.Cols,
            filled.Rows,
            square.Cols,
            Pixels.Hex(lash.Val0, lash.Val1, lash.Val2)
        );
    }

    // In levels of 255: what is white is lighter than the iris by so much, or the lids are shut.
    private const double LeastContrast = 14;

    private static bool IsLighter(Mat seen, Mat white, Mat inner, Mat iris)
    {
        using Mat gray = new(),
            both = new();
        Cv2.CvtColor(seen, gray, ColorConversionCodes.BGR2GRAY);
        Cv2.BitwiseAnd(inner, iris, both);
        return Cv2.Mean(gray, white).Val0 - Cv2.Mean(gray, both).Val0 >= LeastContrast;
    }

    private static Mat Mask(Mat like, Action<Mat> draw)
    {
        var mask = new Mat(like.Size(), MatType.CV_8U, new Scalar(0));
        draw(mask);
        return mask;
    }

    // What the lids hide of it is taken from the nearest that is seen at the same distance from its middle.
    private static Mat IrisOf(Mat seen, Mat inner, Vector2 middle, float r)
    {
        var half = (int)MathF.Ceiling(r * 1.15f) + 2;
        var square = new Mat(2 * half, 2 * half, MatType.CV_8UC4, new Scalar(0, 0, 0, 0));
        var (cols, rows) = (seen.Cols, seen.Rows);
        bool IsSeen(Vector2 p) => p.X >= 0 && p.Y >= 0 && p.X < cols - 1 && p.Y < rows - 1 && inner.At<byte>((int)MathF.Round(p.Y), (int)MathF.Round(p.X)) != 0;
        for (var y = 0; y < 2 * half; y++)
        for (var x = 0; x < 2 * half; x++)
        {
            var d = new Vector2(x + 0.5f - half, y + 0.5f - half);
            var distance = d.Length();
            var cover = Math.Clamp((r * 1.06f - distance) / (0.1f * r) + 0.5f, 0, 1);
            if (cover <= 0)
                continue;
            var p = middle + d;
            if (!IsSeen(p))
            {
                var angle = MathF.Atan2(d.Y, d.X);
                for (var step = 1; step <= 36; step++)
                {
                    var isFound = false;
                    foreach (var sign in new[] { 1, -1 })
                    {
                        var (s, c) = MathF.SinCos(angle + sign * step * MathF.PI / 36);
                        var q = middle + distance * new Vector2(c, s);
                        if (!IsSeen(q))
                            continue;
                        p = q;
                        isFound = true;
                        break;
                    }
                    if (isFound)
                        break;
                }
            }
            var color = seen.At<Vec3b>(Math.Clamp((int)MathF.Round(p.Y), 0, rows - 1), Math.Clamp((int)MathF.Round(p.X), 0, cols - 1));
            square.Set(y, x, new Vec4b(color.Item0, color.Item1, color.Item2, (byte)(255 * cover)));
        }
        return square;
    }
}
