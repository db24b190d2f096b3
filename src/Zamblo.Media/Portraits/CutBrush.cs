using OpenCvSharp;
using Zamblo.Core.Portraits;

namespace Zamblo.Media.Portraits;

/// <summary>Corrects by hand who is in a picture and who is not.</summary>
internal static class CutBrush
{
    // In pixels, the longer side that colours are told apart at.
    private const double WorkSide = 420;

    /// <summary>Lays strokes over a cut-out, in their order.</summary>
    /// <param name="mask">How much of each pixel is the figure, 0 to 1.</param>
    /// <param name="strokes">Of the brush.</param>
    public static void Apply(Mat mask, IReadOnlyList<CutStroke> strokes)
    {
        foreach (var stroke in strokes)
        {
            var points = PointsOf(stroke, 1);
            var box = Cv2.BoundingRect(points);
            var air = (int)(stroke.Size * (1 + stroke.Feather)) + 3;
            box.Inflate(air, air);
            box = box.Intersect(new Rect(0, 0, mask.Cols, mask.Rows));
            if (box.Width <= 0 || box.Height <= 0)
                continue;
            using Mat part = new(mask, box),
                drawn = new(box.Size, MatType.CV_32F, new Scalar(0));
            // The soft edge lies half within the brush.
            var hard = Math.Max(1, (int)Math.Round(stroke.Size * (1 - 0.5f * stroke.Feather)));
            Line(drawn, [.. points.Select(p => p - box.TopLeft)], hard, Scalar.All(1));
            if (stroke.Feather > 0)
                Cv2.GaussianBlur(drawn, drawn, new Size(0, 0), Math.Max(0.5, stroke.Size * stroke.Feather / 6));
            if (stroke.IsKept)
                Cv2.Max(part, drawn, part);
            else
            {
                using var rest = new Mat();
                Cv2.Subtract(Scalar.All(1), drawn, rest);
                Cv2.Min(part, rest, part);
            }
        }
    }

    /// <summary>Tells a figure from the ground by colours alone: faces and what strokes keep are the one, what strokes take away is the other.</summary>
    /// <param name="picture">Blue first.</param>
    /// <param name="faces">Edges of faces.</param>
    /// <param name="strokes">At least one.</param>
    public static Mat Guess(Mat picture, IEnumerable<IReadOnlyList<Mark>> faces, IReadOnlyList<CutStroke> strokes)
    {
        var by = (float)Math.Min(1, WorkSide / Math.Max(picture.Cols, picture.Rows));
        using Mat small = new(),
            back = new(),
            front = new();
        Cv2.Resize(picture, small, new Size(), by, by, InterpolationFlags.Area);
        using var likely = new Mat(small.Size(), MatType.CV_8U, new Scalar((int)GrabCutClasses.PR_BGD));
        // What lies near what is kept is likely to be kept.
        foreach (var stroke in strokes.Where(s => s.IsKept))
            Line(likely, PointsOf(stroke, by), Math.Max(3, (int)(3 * stroke.Size * by)), Scalar.All((int)GrabCutClasses.PR_FGD));
        foreach (var face in faces)
            Cv2.FillPoly(likely, [Pixels.Polygon(face.Select(m => (System.Numerics.Vector2)m * by))], Scalar.All((int)GrabCutClasses.FGD));
        Cv2.Rectangle(likely, new Rect(0, 0, likely.Cols, likely.Rows), Scalar.All((int)GrabCutClasses.PR_BGD), 1);
        foreach (var stroke in strokes)
            Line(
                likely,
                PointsOf(stroke, by),
                Math.Max(1, (int)(stroke.Size * by)),
                Scalar.All((int)(stroke.IsKept ? GrabCutClasses.FGD : GrabCutClasses.BGD))
            );
        Cv2.GrabCut(small, likely, new Rect(), back, front, 4, GrabCutModes.InitWithMask);
        using Mat sure = new(),
            maybe = new(),
            soft = new();
        Cv2.InRange(likely, Scalar.All((int)GrabCutClasses.FGD), Scalar.All((int)GrabCutClasses.FGD), sure);
        Cv2.InRange(likely, Scalar.All((int)GrabCutClasses.PR_FGD), Scalar.All((int)GrabCutClasses.PR_FGD), maybe);
        Cv2.BitwiseOr(sure, maybe, sure);
        sure.ConvertTo(soft, MatType.CV_32F, 1 / 255.0);
        Cv2.GaussianBlur(soft, soft, new Size(0, 0), 0.8);
        var mask = new Mat();
        Cv2.Resize(soft, mask, picture.Size(), 0, 0, InterpolationFlags.Linear);
        return mask;
    }

    private static Point[] PointsOf(CutStroke stroke, float by) =>
        [
            .. Enumerable
                .Range(0, stroke.Points.Count / 2)
                .Select(i => new Point((int)MathF.Round(stroke.Points[2 * i] * by), (int)MathF.Round(stroke.Points[2 * i + 1] * by))),
        ];

    private static void Line(Mat mat, Point[] points, int width, Scalar value)
    {
        if (points.Length == 1)
            Cv2.Circle(mat, points[0], Math.Max(1, width / 2), value, -1);
        else
            Cv2.Polylines(mat, [points], false, value, width);
    }
}
