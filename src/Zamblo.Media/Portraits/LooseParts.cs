using System.Numerics;
using OpenCvSharp;
using Zamblo.Core.Portraits;

namespace Zamblo.Media.Portraits;

/// <summary>Takes parts out of a figure, so that they can move, and fills in what was behind them.</summary>
internal static class LooseParts
{
    /// <summary>Takes parts out.</summary>
    /// <param name="figure">Blue, green, red, and how much is there; what was taken out is filled in.</param>
    /// <param name="parts">Which.</param>
    /// <param name="keep">Keeps a picture and gives its hash.</param>
    public static IReadOnlyList<PartPatch> TakeOut(Mat figure, IReadOnlyList<LoosePart> parts, Func<Mat, string> keep)
    {
        var whole = new Rect(0, 0, figure.Cols, figure.Rows);
        var patches = new List<PartPatch>();
        // All of them as they were, before any leaves a hole.
        using var before = figure.Clone();
        foreach (var part in parts)
        {
            using var mask = MaskOf(figure.Size(), part.Edge);
            var ring = Pixels.Polygon(part.Edge.Select(m => (Vector2)m));
            var box = Cv2.BoundingRect(ring);
            box.Inflate(3, 3);
            box = box.Intersect(whole);
            if (box.Width < 3 || box.Height < 3)
                throw new MediaException("A part lies beside the picture.");
            using var own = CutOut(before, mask, box);
            patches.Add(new PartPatch(keep(own), box.X, box.Y, box.Width, box.Height, part.Pivot, part.Wags, part.Amount, part.IsBehind));
            Fill(figure, mask, part);
        }
        return patches;
    }

    // White within, soft by a pixel or two at its edge.
    private static Mat MaskOf(Size size, IReadOnlyList<Mark> edge)
    {
        var mask = new Mat(size, MatType.CV_8U, new Scalar(0));
        Cv2.FillPoly(mask, [Pixels.Polygon(edge.Select(m => (Vector2)m))], Scalar.White);
        Cv2.GaussianBlur(mask, mask, new Size(0, 0), 0.9);
        return mask;
    }

    private static Mat CutOut(Mat figure, Mat mask, Rect box)
    {
        using Mat seen = new(figure, box),
            within = new(mask, box),
            alpha = new();
        Cv2.Split(seen, out var channels);
        Cv2.Multiply(channels[3], within, alpha, 1 / 255.0);
        var own = new Mat();
        Cv2.Merge([channels[0], channels[1], channels[2], alpha], own);
        foreach (var channel in channels)
            channel.Dispose();
        return own;
    }

    // Share of the part's size about its pivot that stays where it is, under the part: no gap opens there.
    private const float Stays = 0.22f;

    // What was behind is guessed from around, how much of it there is, too: over the body there is body, over the ground there is nothing.
    private static void Fill(Mat figure, Mat mask, LoosePart part)
    {
        var around = part.Edge.Aggregate(
            (Low: new Vector2(float.MaxValue), High: new Vector2(float.MinValue)),
            (a, m) => (Vector2.Min(a.Low, m), Vector2.Max(a.High, m))
        );
        var radius = Math.Max(2, (int)(Stays * (around.High - around.Low).Length() / 2));
        var air = Math.Max(8, radius);
        var box = new Rect(
            (int)around.Low.X - air,
            (int)around.Low.Y - air,
            (int)(around.High.X - around.Low.X) + 2 * air,
            (int)(around.High.Y - around.Low.Y) + 2 * air
        );
        box = box.Intersect(new Rect(0, 0, figure.Cols, figure.Rows));
        using Mat seen = new(figure, box),
            hole = new(),
            small = new(),
            smallHole = new();
        using (var within = new Mat(mask, box))
            Cv2.Threshold(within, hole, 4, 255, ThresholdTypes.Binary);
        // The part's own rim is no guide to what was behind it.
        var rim = 2 * Math.Max(2, Math.Max(box.Width, box.Height) / 80) + 1;
        using (var kernel = Cv2.GetStructuringElement(MorphShapes.Ellipse, new Size(rim, rim)))
            Cv2.Dilate(hole, hole, kernel);
        // Coarse is enough for what is hardly seen.
        var by = Math.Min(1, 320.0 / Math.Max(box.Width, box.Height));
        Cv2.Resize(seen, small, new Size(), by, by, InterpolationFlags.Area);
        Cv2.Resize(hole, smallHole, small.Size(), 0, 0, InterpolationFlags.Linear);
        Cv2.Threshold(smallHole, smallHole, 0, 255, ThresholdTypes.Binary);
        using Mat colors = Pixels.Colors(small),
            alpha = new(),
            filled = new(),
            there = new(),
            four = new(),
            full = new(),
            soft = new();
        Cv2.ExtractChannel(small, alpha, 3);
        // Colours of what is not there are no guide: those of the figure only.
        using (var none = new Mat())
        {
            Cv2.Threshold(alpha, none, 24, 255, ThresholdTypes.BinaryInv);
            Cv2.BitwiseOr(none, smallHole, none);
            Cv2.Inpaint(colors, none, filled, 4, InpaintTypes.Telea);
        }
        Cv2.Inpaint(alpha, smallHole, there, 4, InpaintTypes.Telea);
        // It is there or it is not: no haze.
        using (var sharp = new Mat())
        {
            there.ConvertTo(sharp, MatType.CV_8U, 1 / 0.3, -0.35 * 255 / 0.3);
            sharp.CopyTo(there, smallHole);
        }
        Cv2.Split(filled, out var channels);
        Cv2.Merge([.. channels, there], four);
        foreach (var channel in channels)
            channel.Dispose();
        Cv2.Resize(four, full, seen.Size(), 0, 0, InterpolationFlags.Linear);
        Cv2.Circle(hole, new Point((int)part.Pivot.X - box.X, (int)part.Pivot.Y - box.Y), radius, Scalar.Black, -1);
        full.CopyTo(seen, hole);
    }
}
