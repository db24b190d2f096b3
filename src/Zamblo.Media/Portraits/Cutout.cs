using OpenCvSharp;
using OpenCvSharp.Dnn;

namespace Zamblo.Media.Portraits;

/// <summary>
/// Tells people in a picture from what is behind them (selfie segmentation of @mediapipe/selfie_segmentation, Apache License 2.0), with edges drawn from the
/// picture itself by a guided filter (He, Sun and Tang, "Guided image filtering", 2010).
/// </summary>
internal static class Cutout
{
    private const int Side = 256;
    private static readonly Lock Gate = new();
    private static readonly Lazy<Net> Model = new(() => FaceFinder.Load("selfie_segmentation.tflite"));

    /// <summary>How much of each pixel is people, 0 to 1.</summary>
    /// <param name="picture">Blue first.</param>
    /// <param name="part">Where they are; beyond it nobody is.</param>
    public static Mat MaskOf(Mat picture, Rect part)
    {
        part = part.Intersect(new Rect(0, 0, picture.Cols, picture.Rows));
        using var seen = new Mat(picture, part);
        using var rough = new Mat();
        lock (Gate)
        {
            using var blob = CvDnn.BlobFromImage(seen, 1 / 255.0, new Size(Side, Side), new Scalar(), true);
            Model.Value.SetInput(blob);
            using var output = Model.Value.Forward();
            var values = new float[Side * Side];
            System.Runtime.InteropServices.Marshal.Copy(output.Data, values, 0, values.Length);
            using var small = Mat.FromPixelData(Side, Side, MatType.CV_32F, values);
            using var cut = ByColour(seen, small);
            Cv2.Resize(cut, rough, part.Size, 0, 0, InterpolationFlags.Linear);
        }
        using var gray = new Mat();
        using (var g = new Mat())
        {
            Cv2.CvtColor(seen, g, ColorConversionCodes.BGR2GRAY);
            g.ConvertTo(gray, MatType.CV_32F, 1 / 255.0);
        }
        using var fine = Guided(gray, rough, Math.Max(4, Math.Max(part.Width, part.Height) / 90), 4e-4);
        // Nearly all is all, nearly nothing is nothing.
        using var sharp = new Mat();
        fine.ConvertTo(sharp, MatType.CV_32F, 1 / 0.56, -0.22 / 0.56);
        Cv2.Min(sharp, 1, sharp);
        Cv2.Max(sharp, 0, sharp);
        var mask = new Mat(picture.Size(), MatType.CV_32F, new Scalar(0));
        using (var at = new Mat(mask, part))
            sharp.CopyTo(at);
        return mask;
    }

    // The model says roughly where they are; where exactly, colours say (Rother, Kolmogorov and Blake, "GrabCut", 2004).
    private static Mat ByColour(Mat seen, Mat rough)
    {
        var by = Math.Min(1, WorkSide / Math.Max(seen.Cols, seen.Rows));
        using Mat small = new(),
            likely = new(),
            sure = new(),
            far = new(),
            trimap = new();
        Cv2.Resize(seen, small, new Size(), by, by, InterpolationFlags.Area);
        Cv2.Resize(rough, likely, small.Size(), 0, 0, InterpolationFlags.Linear);
        var side = Math.Max(small.Cols, small.Rows);
        void Threshold(double limit, Mat to)
        {
            Cv2.Threshold(likely, to, limit, 255, ThresholdTypes.Binary);
            to.ConvertTo(to, MatType.CV_8U);
        }
        Mat Disc(double share)
        {
            var d = 2 * (int)(share * side) + 1;
            return Cv2.GetStructuringElement(MorphShapes.Ellipse, new Size(d, d));
        }
        Threshold(0.85, sure);
        using (var disc = Disc(0.055))
            Cv2.Erode(sure, sure, disc);
        Threshold(0.25, far);
        using (var disc = Disc(0.04))
            Cv2.Dilate(far, far, disc);
        Cv2.BitwiseNot(far, far);
        using (var half = new Mat())
        {
            Threshold(0.5, half);
            trimap.Create(small.Size(), MatType.CV_8U);
            trimap.SetTo(new Scalar((int)GrabCutClasses.PR_BGD));
            trimap.SetTo(new Scalar((int)GrabCutClasses.PR_FGD), half);
        }
        trimap.SetTo(new Scalar((int)GrabCutClasses.FGD), sure);
        trimap.SetTo(new Scalar((int)GrabCutClasses.BGD), far);
        var cut = new Mat();
        if (Cv2.CountNonZero(sure) == 0 || Cv2.CountNonZero(far) == 0)
        {
            likely.CopyTo(cut);
            return cut;
        }
        using (
            Mat back = new(),
                front = new()
        )
            Cv2.GrabCut(small, trimap, new Rect(), back, front, 3, GrabCutModes.InitWithMask);
        using Mat is0 = new(),
            is1 = new();
        Cv2.InRange(trimap, new Scalar((int)GrabCutClasses.FGD), new Scalar((int)GrabCutClasses.FGD), is0);
        Cv2.InRange(trimap, new Scalar((int)GrabCutClasses.PR_FGD), new Scalar((int)GrabCutClasses.PR_FGD), is1);
        Cv2.BitwiseOr(is0, is1, is0);
        is0.ConvertTo(cut, MatType.CV_32F, 1 / 255.0);
        Cv2.GaussianBlur(cut, cut, new Size(0, 0), 1);
        return cut;
    }

    // In pixels, the longer side that the cutting by colour works on.
    private const double WorkSide = 420;

    private static Mat Guided(Mat guide, Mat p, int radius, double eps)
    {
        Mat Box(Mat m)
        {
            var r = new Mat();
            Cv2.BoxFilter(m, r, MatType.CV_32F, new Size(2 * radius + 1, 2 * radius + 1));
            return r;
        }
        using Mat meanI = Box(guide),
            meanP = Box(p),
            ip = guide.Mul(p),
            ii = guide.Mul(guide),
            meanIp = Box(ip),
            meanIi = Box(ii),
            mIP = meanI.Mul(meanP),
            mII = meanI.Mul(meanI),
            cov = meanIp - mIP,
            spread = meanIi - mII,
            steady = new(),
            a = new(),
            b = new();
        spread.ConvertTo(steady, MatType.CV_32F, 1, eps);
        Cv2.Divide(cov, steady, a);
        using (Mat aI = a.Mul(meanI))
            Cv2.Subtract(meanP, aI, b);
        using Mat meanA = Box(a),
            meanB = Box(b),
            aGuide = meanA.Mul(guide);
        return aGuide + meanB;
    }

    /// <summary>What lies behind: filled in from around (Telea, "An image inpainting technique based on the fast marching method", 2004).</summary>
    /// <param name="picture">Blue first.</param>
    /// <param name="mask">Who is to be gone, 0 to 1.</param>
    public static Mat Behind(Mat picture, Mat mask)
    {
        // Coarse is enough for what is hardly seen.
        var by = Math.Min(1, 480.0 / Math.Max(picture.Cols, picture.Rows));
        using Mat small = new(),
            hole = new(),
            smallMask = new();
        Cv2.Resize(picture, small, new Size(), by, by, InterpolationFlags.Area);
        Cv2.Resize(mask, smallMask, small.Size(), 0, 0, InterpolationFlags.Area);
        using (var wide = new Mat())
        {
            using var kernel = Cv2.GetStructuringElement(MorphShapes.Ellipse, new Size(17, 17));
            Cv2.Threshold(smallMask, wide, 0.04, 255, ThresholdTypes.Binary);
            wide.ConvertTo(hole, MatType.CV_8U);
            Cv2.Dilate(hole, hole, kernel);
        }
        using var filled = new Mat();
        Cv2.Inpaint(small, hole, filled, 5, InpaintTypes.Telea);
        using var soft = new Mat();
        Cv2.GaussianBlur(filled, soft, new Size(0, 0), 3);
        soft.CopyTo(filled, hole);
        using Mat full = new(),
            weight = new(),
            weight3 = new(),
            a = new(),
            b = new();
        Cv2.Resize(filled, full, picture.Size(), 0, 0, InterpolationFlags.Cubic);
        Cv2.GaussianBlur(hole, hole, new Size(0, 0), 1.5);
        Cv2.Resize(hole, weight, picture.Size(), 0, 0, InterpolationFlags.Linear);
        weight.ConvertTo(weight, MatType.CV_32F, 1 / 255.0);
        Cv2.Merge([weight, weight, weight], weight3);
        full.ConvertTo(a, MatType.CV_32FC3);
        picture.ConvertTo(b, MatType.CV_32FC3);
        using Mat difference = a - b,
            part = difference.Mul(weight3),
            sum = b + part;
        var result = new Mat();
        sum.ConvertTo(result, MatType.CV_8UC3);
        return result;
    }
}
