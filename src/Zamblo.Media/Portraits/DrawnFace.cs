using System.Numerics;
using OpenCvSharp;
using Zamblo.Core.Portraits;

namespace Zamblo.Media.Portraits;

/// <summary>
/// Looks for eyes and a mouth where a first guess says that they should be, in pictures that no model knows: drawings, animals, things. What stands out from
/// the face around it and is about as large as expected is taken; where nothing does, the guess stays. Lengths are chosen by eye on drawings of the tests.
/// </summary>
public static class DrawnFace
{
    // What stands out differs by that much at least (CIE 1976 L*a*b*, in OpenCV's 8 bits).
    private const double LeastContrast = 20;

    // Pixels across what is looked at: larger windows are made smaller.
    private const int LookSide = 320;

    /// <summary>Marks from a box that somebody has drawn around a face, fitted to what the picture shows.</summary>
    /// <param name="picture">As it was taken in.</param>
    /// <param name="left">Of the box, in pixels.</param>
    /// <param name="top">In pixels.</param>
    /// <param name="width">In pixels.</param>
    /// <param name="height">In pixels.</param>
    /// <param name="kind">What it is; a thing may have eyes, too.</param>
    public static PortraitMarks Find(TakenPicture picture, float left, float top, float width, float height, PortraitKind kind)
    {
        var guess = MarksGuess.FromBox(left, top, width, height, kind);
        var looked = kind == PortraitKind.Thing ? MarksGuess.FromBox(left, top, width, height, PortraitKind.Person) : guess;
        using var four = Pixels.Read(picture.Bytes);
        using var three = Pixels.Colors(four);
        using var lab = new Mat();
        Cv2.CvtColor(three, lab, ColorConversionCodes.BGR2Lab);
        var fitted = guess;
        if (looked.EyeLeft is { } one && looked.EyeRight is { } two)
        {
            var eyes = (EyeAt(lab, one), EyeAt(lab, two));
            // Both or none, and alike: one alone may be a patch of fur.
            if (eyes is ({ } a, { } b) && IsLike(WidthOf(a), WidthOf(b)) && MathF.Abs(a.Iris.Y - b.Iris.Y) < 0.8f * WidthOf(a))
                fitted = fitted with { EyeLeft = a, EyeRight = b };
        }
        if (MouthAt(lab, guess.Mouth) is { } mouth)
            fitted = fitted with { Mouth = mouth };
        return fitted.ErrorFor(picture.Width, picture.Height) == null ? fitted : guess;
    }

    private static float WidthOf(EyeMarks eye) => Vector2.Distance(eye.Upper[0], eye.Upper[^1]);

    private static bool IsLike(float a, float b) => Math.Max(a, b) < 1.6f * Math.Min(a, b);

    // A part of the picture, made no larger than is needed, and white where it is not as its border is.
    private sealed class Window : IDisposable
    {
        public Mat Mask { get; } = new();
        public Mat Light { get; } = new();
        private readonly Vector2 _corner;
        private readonly float _scale;

        private Window(Mat lab, Rect box, bool byBorder)
        {
            _corner = new Vector2(box.X, box.Y);
            _scale = Math.Min(1, (float)LookSide / Math.Max(box.Width, box.Height));
            using var part = new Mat(lab, box);
            using Mat small = new(),
                ground = new(),
                far = new(),
                squares = new();
            Cv2.Resize(part, small, new Size(Math.Max(8, box.Width * _scale), Math.Max(8, box.Height * _scale)), 0, 0, InterpolationFlags.Area);
            Cv2.ExtractChannel(small, Light, 0);
            ground.Create(small.Size(), small.Type());
            ground.SetTo(Median(small, byBorder));
            Cv2.Absdiff(small, ground, far);
            far.ConvertTo(squares, MatType.CV_32FC3);
            Cv2.Multiply(squares, squares, squares);
            Cv2.Transform(squares, squares, Mat.FromPixelData(1, 3, MatType.CV_32F, new float[] { 1, 1, 1 }));
            Cv2.Sqrt(squares, squares);
            using var bytes = new Mat();
            squares.ConvertTo(bytes, MatType.CV_8U);
            var limit = Math.Clamp(Cv2.Threshold(bytes, Mask, 0, 255, ThresholdTypes.Otsu), LeastContrast, 70);
            Cv2.Threshold(bytes, Mask, limit, 255, ThresholdTypes.Binary);
        }

        public static Window? Of(Mat lab, Vector2 middle, float width, float height, bool byBorder)
        {
            var box = new Rect((int)(middle.X - width / 2), (int)(middle.Y - height / 2), (int)width, (int)height) & new Rect(0, 0, lab.Cols, lab.Rows);
            return box.Width < 8 || box.Height < 8 ? null : new Window(lab, box, byBorder);
        }

        public Vector2 ToPicture(float x, float y) => _corner + new Vector2(x, y) / _scale;

        public float ToPicture(float length) => length / _scale;

        // What the face has around: by the median, so that a brow at the edge says nothing. An eye is large in its window, a mouth is thin.
        private static Scalar Median(Mat small, bool byBorder)
        {
            small.GetArray(out Vec3b[] all);
            int w = small.Cols,
                h = small.Rows,
                edge = Math.Max(1, Math.Min(w, h) / 10);
            bool IsOut(int i) => i % w < edge || i % w >= w - edge || i / w < edge || i / w >= h - edge;
            var of = all.Where((_, i) => IsOut(i) == byBorder).ToArray();
            double Middle(Func<Vec3b, byte> part) => of.Select(part).Order().ElementAt(of.Length / 2);
            return new Scalar(Middle(v => v.Item0), Middle(v => v.Item1), Middle(v => v.Item2));
        }

        public void Dispose()
        {
            Mask.Dispose();
            Light.Dispose();
        }
    }

    private readonly record struct Blob(int Label, int X, int Y, int Width, int Height, int Area, Vector2 Middle);

    // Connected parts of a mask.
    private static List<Blob> Blobs(Mat mask, Mat labels)
    {
        using Mat stats = new(),
            middles = new();
        var count = Cv2.ConnectedComponentsWithStats(mask, labels, stats, middles);
        var blobs = new List<Blob>();
        for (var i = 1; i < count; i++)
            blobs.Add(
                new Blob(
                    i,
                    stats.At<int>(i, 0),
                    stats.At<int>(i, 1),
                    stats.At<int>(i, 2),
                    stats.At<int>(i, 3),
                    stats.At<int>(i, 4),
                    new Vector2((float)middles.At<double>(i, 0), (float)middles.At<double>(i, 1))
                )
            );
        return blobs;
    }

    private static bool Touches(Blob b, Mat mask) => b.X <= 0 || b.Y <= 0 || b.X + b.Width >= mask.Cols || b.Y + b.Height >= mask.Rows;

    private static EyeMarks? EyeAt(Mat lab, EyeMarks guess)
    {
        var wide = WidthOf(guess);
        var middle = ((Vector2)guess.Upper[0] + guess.Upper[^1]) / 2;
        using var window = Window.Of(lab, middle, 2.2f * wide, 1.9f * wide, byBorder: true);
        if (window == null)
            return null;
        using Mat labels = new(),
            shape = Cv2.GetStructuringElement(MorphShapes.Ellipse, new Size(5, 5));
        Cv2.MorphologyEx(window.Mask, window.Mask, MorphTypes.Close, shape);
        var centre = new Vector2(window.Mask.Cols / 2f, window.Mask.Rows / 2f);
        var unit = window.Mask.Cols / 2.2f;
        var found = Blobs(window.Mask, labels)
            .Where(b => !Touches(b, window.Mask) && b.Width > 0.3f * unit && b.Height > 0.16f * unit && b.Width < 1.9f * unit)
            .Where(b => Vector2.Distance(b.Middle, centre) < 0.75f * unit)
            .OrderBy(b => Vector2.Distance(b.Middle, centre) / unit - 0.4f * MathF.Sqrt(b.Area) / unit)
            .Cast<Blob?>()
            .FirstOrDefault();
        if (found is not { } eye)
            return null;
        float cx = eye.X + eye.Width / 2f,
            cy = eye.Y + eye.Height / 2f,
            rx = eye.Width / 2f,
            ry = eye.Height / 2f;
        Mark[] Lid(int side) =>
            [
                .. Enumerable
                    .Range(0, 11)
                    .Select(i =>
                    {
                        // Even along the arc: round eyes have steep ends.
                        var angle = MathF.PI * (1 - i / 10f);
                        return (Mark)window.ToPicture(cx + rx * MathF.Cos(angle), cy + side * ry * MathF.Sin(angle));
                    }),
            ];
        var (iris, radius) = IrisIn(window.Light, cx, cy, rx, ry);
        return new EyeMarks
        {
            Upper = Lid(-1),
            Lower = Lid(1),
            Iris = window.ToPicture(iris.X, iris.Y),
            Radius = window.ToPicture(radius),
        };
    }

    // The darkest within the eye, its own edge left out; where all of it is dark, all of it.
    private static (Vector2 Middle, float Radius) IrisIn(Mat light, float cx, float cy, float rx, float ry)
    {
        const float within = 0.78f;
        var inside = new List<(int X, int Y, byte Light)>();
        for (var y = (int)(cy - ry); y <= cy + ry; y++)
        for (var x = (int)(cx - rx); x <= cx + rx; x++)
            if (x >= 0 && y >= 0 && x < light.Cols && y < light.Rows && new Vector2((x - cx) / rx, (y - cy) / ry).Length() < within)
                inside.Add((x, y, light.At<byte>(y, x)));
        if (inside.Count < 6)
            return (new Vector2(cx, cy), 0.5f * Math.Min(rx, ry));
        byte dark = inside.Min(p => p.Light),
            bright = inside.Max(p => p.Light);
        if (bright - dark < 40)
            return (new Vector2(cx, cy), 0.6f * Math.Min(rx, ry));
        var of = inside.Where(p => p.Light < dark + 0.4 * (bright - dark)).ToArray();
        var middle = new Vector2((float)of.Average(p => p.X), (float)of.Average(p => p.Y));
        // A slit is as large as it is high: all of it moves.
        var half = Math.Max(of.Max(p => p.X) - of.Min(p => p.X), of.Max(p => p.Y) - of.Min(p => p.Y)) / 2f + 1;
        return (middle, Math.Clamp(half, 0.15f * Math.Min(rx, ry), within * Math.Max(rx, ry)));
    }

    private static LipMarks? MouthAt(Mat lab, LipMarks guess)
    {
        Vector2 left = guess.OuterUpper[0],
            right = guess.OuterUpper[^1];
        var wide = Vector2.Distance(left, right);
        using var window = Window.Of(lab, (left + right) / 2, 1.9f * wide, 1.1f * wide, byBorder: false);
        if (window == null)
            return null;
        using Mat labels = new(),
            shape = Cv2.GetStructuringElement(MorphShapes.Ellipse, new Size(3, 3));
        Cv2.MorphologyEx(window.Mask, window.Mask, MorphTypes.Close, shape);
        var centre = new Vector2(window.Mask.Cols / 2f, window.Mask.Rows / 2f);
        var unit = window.Mask.Cols / 1.9f;
        // Wide and in the middle; a nose that is joined to it may go on above.
        var found = Blobs(window.Mask, labels)
            .Where(b => !Touches(b with { Y = Math.Max(1, b.Y) }, window.Mask) && b.Width > 0.35f * unit && b.Width < 1.6f * unit)
            .Where(b => MathF.Abs(b.X + b.Width / 2f - centre.X) < 0.3f * unit)
            .OrderByDescending(b => b.Width - 0.5f * MathF.Abs(b.Middle.Y - centre.Y))
            .Cast<Blob?>()
            .FirstOrDefault();
        if (found is not { } mouth)
            return null;
        // Column by column the lowest of it: a nose that is joined to the mouth stands above.
        var runs = new List<(float Top, float Bottom)>();
        for (var x = mouth.X; x < mouth.X + mouth.Width; x++)
        {
            var bottom = mouth.Y + mouth.Height - 1;
            while (bottom > mouth.Y && labels.At<int>(bottom, x) != mouth.Label)
                bottom--;
            var top = bottom;
            while (top > mouth.Y && labels.At<int>(top - 1, x) == mouth.Label)
                top--;
            runs.Add((top, bottom));
        }
        var thick = runs.Select(r => r.Bottom - r.Top + 1).Order().ElementAt(runs.Count / 2);
        // A line, or lips.
        var hasLips = thick > 0.1f * mouth.Width;
        (float Top, float Bottom, float Line) At(int i, int n)
        {
            var k = Math.Clamp((int)MathF.Round((float)i / (n - 1) * (runs.Count - 1)), 0, runs.Count - 1);
            var (top, bottom) = runs[k];
            top = MathF.Max(top, bottom - 1.5f * thick);
            var line = bottom - (thick - 1) / 2;
            if (!hasLips)
                return (bottom - thick + 1, bottom, line);
            // Between lips it is darkest.
            var x = mouth.X + k;
            line = Enumerable.Range((int)top, (int)(bottom - top) + 1).MinBy(y => window.Light.At<byte>(y, x));
            return (top, bottom, Math.Clamp(line, top + 0.25f * (bottom - top), top + 0.7f * (bottom - top)));
        }
        const int count = 11;
        var room = 0.03f * mouth.Width;
        Mark[] Row(Func<(float Top, float Bottom, float Line), float> of, float inset, float by)
        {
            var marks = new Mark[count];
            for (var i = 0; i < count; i++)
            {
                var s = 2f * i / (count - 1) - 1;
                var at = At(i, count);
                // Ends meet on the line.
                var y = i is 0 or count - 1 ? at.Line : of(at) + by * (1 - s * s);
                marks[i] = window.ToPicture(mouth.X + (mouth.Width - 1) * (0.5f + s / 2 * inset), y);
            }
            return marks;
        }
        return new LipMarks
        {
            OuterUpper = Row(a => a.Top, 1, -room),
            OuterLower = Row(a => a.Bottom, 1, room),
            InnerUpper = Row(a => a.Line, 0.96f, 0),
            InnerLower = Row(a => a.Line, 0.96f, 0),
        };
    }
}
