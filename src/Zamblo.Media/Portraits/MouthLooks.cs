using System.Numerics;
using OpenCvSharp;
using Zamblo.Core.Portraits;

namespace Zamblo.Media.Portraits;

/// <summary>Tells from a picture in which light its face is, and gives the mouth's inside the same.</summary>
internal static class MouthLooks
{
    /// <summary>What is seen between the lips of a face.</summary>
    /// <param name="picture">Blue first.</param>
    /// <param name="marks">Of the face.</param>
    /// <param name="teeth">What teeth it has; where the picture shows some, even ones are its own.</param>
    /// <param name="keep">Keeps a picture and gives its hash.</param>
    public static MouthLook Of(Mat picture, PortraitMarks marks, TeethKind teeth, Func<byte[], string> keep)
    {
        var lips = marks.Mouth;
        using var lipMask = MaskOf(picture, lips.OuterUpper.Concat(lips.OuterLower.Reverse()));
        using var faceMask = MaskOf(picture, marks.Outline);
        Scalar lip = Cv2.Mean(picture, lipMask),
            face = Cv2.Mean(picture, faceMask);
        using var seam = new Mat(picture.Size(), MatType.CV_8U, new Scalar(0));
        var thick = Math.Max(2, (int)(0.03f * Vector2.Distance(lips.InnerUpper[0], lips.InnerUpper[^1])));
        Cv2.Polylines(seam, [Pixels.Polygon(lips.InnerUpper.Select(m => (Vector2)m))], false, Scalar.White, thick);
        var line = Pixels.Darkest(picture, seam, 0.25);
        float light = Brightness(face),
            // Skin is warm by itself: what is above that is the light's (chosen by eye).
            warmth = Math.Clamp((float)(face.Val2 / Math.Max(1, face.Val0)) / 1.5f, 1, 1.5f);
        TeethPatch? Row(bool isUpper) =>
            teeth == TeethKind.None ? null : new TeethPatch(keep(TeethPictures.Draw(isUpper, light, warmth, teeth)), TeethPictures.Width, TeethPictures.Height);
        string Mixed(double share, double b, double g, double r)
        {
            var bright = 0.35 + 0.75 * light;
            return Pixels.Hex(lip.Val0 * share + b * bright, lip.Val1 * share + g * bright, lip.Val2 * share + r * bright);
        }
        var look = new MouthLook
        {
            TeethUpper = Row(true),
            TeethLower = Row(false),
            Inside = Mixed(0.12, 12, 8, 28),
            Tongue = Mixed(0.45, 52, 44, 92),
            LipLine = Pixels.Hex(line.Val0 * 0.8, line.Val1 * 0.8, line.Val2 * 0.8),
            Lips = Pixels.Hex(lip.Val0, lip.Val1, lip.Val2),
        };
        return teeth == TeethKind.Even ? WithOwnTeeth(look, picture, marks, light, keep) : look;
    }

    /// <summary>Colour of the edge of the lids: the darkest along the upper ones.</summary>
    public static string? LashOf(Mat picture, PortraitMarks marks)
    {
        using var edge = new Mat(picture.Size(), MatType.CV_8U, new Scalar(0));
        foreach (var eye in new[] { marks.EyeLeft, marks.EyeRight }.OfType<EyeMarks>())
        {
            var thick = Math.Max(2, (int)(0.08f * Vector2.Distance(eye.Upper[0], eye.Upper[^1])));
            Cv2.Polylines(edge, [Pixels.Polygon(eye.Upper.Select(m => (Vector2)m))], false, Scalar.White, thick);
        }
        if (Cv2.CountNonZero(edge) == 0)
            return null;
        var dark = Pixels.Darkest(picture, edge, 0.2);
        return Pixels.Hex(dark.Val0, dark.Val1, dark.Val2);
    }

    // ITU-R BT.601: shares of the three colours in brightness.
    private static float Brightness(Scalar color) => (float)(0.114 * color.Val0 + 0.587 * color.Val1 + 0.299 * color.Val2) / 255;

    /// <summary>In how bright a light a face is, 0 to 1.</summary>
    public static float LightOf(Mat picture, PortraitMarks marks)
    {
        using var face = MaskOf(picture, marks.Outline);
        return Brightness(Cv2.Mean(picture, face));
    }

    // Share of what is seen between the lips that has to be teeth; pixels of the patch across.
    private const double LeastTeeth = 0.35;
    private const int PatchWidth = 320;

    // Where the picture shows teeth, they are the best there are: as they are, where they are.
    private static MouthLook WithOwnTeeth(MouthLook look, Mat picture, PortraitMarks marks, float light, Func<byte[], string> keep)
    {
        Vector2 left = marks.Mouth.InnerUpper[0],
            right = marks.Mouth.InnerUpper[^1],
            across = Vector2.Normalize(right - left),
            down = new(-across.Y, across.X);
        Vector2 upper = marks.Mouth.InnerUpper[marks.Mouth.InnerUpper.Length / 2],
            lower = marks.Mouth.InnerLower[marks.Mouth.InnerLower.Length / 2],
            middle = (upper + lower) / 2;
        float wide = Vector2.Distance(left, right),
            mouth = Vector2.Distance(marks.Mouth.OuterUpper[0], marks.Mouth.OuterUpper[^1]),
            gap = Vector2.Dot(lower - upper, down);
        if (gap < 0.09f * mouth || wide < 24)
            return look;
        using var between = MaskOf(picture, marks.Mouth.InnerUpper.Concat(marks.Mouth.InnerLower.Reverse()));
        using Mat hsv = new(),
            bright = new();
        Cv2.CvtColor(picture, hsv, ColorConversionCodes.BGR2HSV);
        // Teeth are light and hardly coloured; in what light the face says.
        Cv2.InRange(hsv, new Scalar(0, 0, Math.Clamp(190 * light, 60, 170)), new Scalar(180, 110, 255), bright);
        Cv2.BitwiseAnd(bright, between, bright);
        if (Cv2.CountNonZero(bright) < LeastTeeth * Cv2.CountNonZero(between))
            return look;
        // A little more than is seen: the edges of the lips go over it. From the middle of the mouth to each side, from above to below.
        float w = wide * 1.02f,
            h = gap * 1.12f,
            k = PatchWidth / w;
        var height = Math.Clamp((int)(h * k), 8, PatchWidth);
        var top = middle - h / 2 * down - w / 2 * across;
        using var to = Mat.FromPixelData(
            2,
            3,
            MatType.CV_32F,
            new[] { across.X * k, across.Y * k, -k * Vector2.Dot(top, across), down.X * k, down.Y * k, -k * Vector2.Dot(top, down) }
        );
        using Mat patch = new(),
            cover = new(),
            soft = new();
        Cv2.WarpAffine(picture, patch, to, new Size(PatchWidth, height), InterpolationFlags.Cubic, BorderTypes.Replicate);
        Cv2.WarpAffine(between, cover, to, new Size(PatchWidth, height), InterpolationFlags.Linear);
        Cv2.GaussianBlur(cover, soft, new Size(0, 0), PatchWidth / 90.0);
        Cv2.Split(patch, out var channels);
        using var own = new Mat();
        Cv2.Merge([.. channels, soft], own);
        foreach (var channel in channels)
            channel.Dispose();
        return look with
        {
            TeethUpper = new TeethPatch(keep(Pixels.Write(own)), PatchWidth, height),
            UpperTop = -h / 2 / mouth,
            UpperWide = w / mouth,
            UpperHigh = h / mouth,
        };
    }

    /// <summary>White within a closed line.</summary>
    public static Mat MaskOf(Mat like, IEnumerable<Mark> ring)
    {
        var mask = new Mat(like.Size(), MatType.CV_8U, new Scalar(0));
        Cv2.FillPoly(mask, [Pixels.Polygon(ring.Select(m => (Vector2)m))], Scalar.White);
        return mask;
    }
}
