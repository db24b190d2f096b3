using System.Numerics;
using OpenCvSharp;
using OpenCvSharp.Dnn;

namespace Zamblo.Media.Portraits;

/// <summary>A face that was found.</summary>
/// <param name="Box">Of it, in pixels of the picture: left, top, width, height.</param>
/// <param name="Points">468 marks in the order of the model, in pixels; depth towards the viewer in the third.</param>
/// <param name="Sureness">0 to 1.</param>
public sealed record FoundFace((float X, float Y, float Width, float Height) Box, Vector3[] Points, float Sureness);

/// <summary>
/// Finds faces of people and their marks: BlazeFace (Bazarevsky et al. 2019) and Face Mesh (Kartynnik et al. 2019), models of @mediapipe/face_mesh (Apache
/// License 2.0), run by OpenCV.
/// </summary>
public static class FaceFinder
{
    private const int DetectorSide = 128,
        MarkSide = 192,
        MarkCount = 468;

    // Of the detector's own scale, as its makers set them; overlap by which two boxes are one face.
    private const float Least = 0.5f,
        SameFace = 0.3f,
        LeastMarks = 0.4f,
        CropShare = 1.5f;

    /// <summary>Most faces that are told of one picture.</summary>
    public const int Most = 20;

    // A network is not to be used by two at once.
    private static readonly Lock Gate = new();
    private static readonly Lazy<Net> Detector = new(() => Load("face_detection.tflite"));
    private static readonly Lazy<Net> Marker = new(() => Load("face_landmark.tflite"));

    private static string PathOf(string name) => Path.Combine(AppContext.BaseDirectory, "Models", "faces", name);

    /// <summary>Whether the models are there.</summary>
    public static bool IsThere => File.Exists(PathOf("face_landmark.tflite")) && File.Exists(PathOf("face_detection.tflite"));

    internal static Net Load(string name)
    {
        if (!File.Exists(PathOf(name)))
            throw new MediaException($"The model \"{name}\" that finds faces is not installed: run ./zamblo once with a network.");
        return CvDnn.ReadNet(PathOf(name)) ?? throw new MediaException($"The model \"{name}\" cannot be read.");
    }

    /// <summary>Finds faces, the largest first.</summary>
    /// <param name="picture">Three channels, blue first.</param>
    /// <param name="cancel">Stops.</param>
    /// <param name="isThorough">Small faces, too: else only those that are a fifth of the picture or more, ten times as fast.</param>
    public static IReadOnlyList<FoundFace> Find(Mat picture, CancellationToken cancel = default, bool isThorough = true)
    {
        lock (Gate)
        {
            // The detector sees faces that are large in what it is shown: so the whole first, then its parts.
            var boxes = new List<(Rect2f Box, float Turn, float Score)>();
            foreach (var part in Parts(picture.Size()).Take(isThorough ? int.MaxValue : 1))
            {
                cancel.ThrowIfCancellationRequested();
                boxes.AddRange(Detect(picture, part));
            }
            var faces = new List<FoundFace>();
            foreach (var (box, turn, score) in Apart(boxes).Take(Most))
            {
                cancel.ThrowIfCancellationRequested();
                if (Marked(picture, box, turn) is { } points)
                    faces.Add(new FoundFace((box.X, box.Y, box.Width, box.Height), points, score));
            }
            return [.. faces.OrderByDescending(f => f.Box.Width)];
        }
    }

    /// <summary>The same face in the next frame of a clip; null where it is not there any more.</summary>
    /// <param name="picture">Three channels, blue first.</param>
    /// <param name="before">Where it was.</param>
    public static FoundFace? Again(Mat picture, FoundFace before)
    {
        lock (Gate)
        {
            var points = before.Points;
            var (box, turn) = BoxOf(points);
            return Marked(picture, box, turn, 1) is { } now ? new FoundFace((box.X, box.Y, box.Width, box.Height), now, before.Sureness) : null;
        }
    }

    // Around marks, and how they are turned: by the outer corners of the eyes.
    private static (Rect2f Box, float Turn) BoxOf(Vector3[] points)
    {
        var eyes = points[263] - points[33];
        float left = points.Min(p => p.X),
            top = points.Min(p => p.Y);
        return (new Rect2f(left, top, points.Max(p => p.X) - left, points.Max(p => p.Y) - top), MathF.Atan2(eyes.Y, eyes.X));
    }

    private static IEnumerable<Rect> Parts(Size size)
    {
        var side = Math.Max(size.Width, size.Height);
        yield return new Rect((size.Width - side) / 2, (size.Height - side) / 2, side, side);
        foreach (var share in new[] { 0.6, 0.34 })
        {
            var part = (int)(side * share);
            if (part < DetectorSide / 2)
                yield break;
            int Count(int length) => Math.Max(1, (int)Math.Ceiling((length - part) / (part * 0.6)) + 1);
            int across = Count(size.Width),
                down = Count(size.Height);
            for (var y = 0; y < down; y++)
            for (var x = 0; x < across; x++)
                yield return new Rect(
                    across == 1 ? (size.Width - part) / 2 : x * (size.Width - part) / (across - 1),
                    down == 1 ? (size.Height - part) / 2 : y * (size.Height - part) / (down - 1),
                    part,
                    part
                );
        }
    }

    private static Mat Crop(Mat picture, Point2f middle, float side, float turn, int pixels)
    {
        var (sin, cos) = MathF.SinCos(turn);
        float k = pixels / side,
            c = cos * k,
            s = sin * k,
            half = pixels / 2f;
        using var matrix = Mat.FromPixelData(
            2,
            3,
            MatType.CV_32F,
            new[] { c, s, half - c * middle.X - s * middle.Y, -s, c, half + s * middle.X - c * middle.Y }
        );
        // Made smaller by areas first: a warp alone would skip pixels.
        var crop = new Mat();
        if (k < 0.4f)
        {
            using var small = new Mat();
            var by = Math.Max(k * 2, 0.01f);
            Cv2.Resize(picture, small, new Size(), by, by, InterpolationFlags.Area);
            var down = Crop(small, new Point2f(middle.X * by, middle.Y * by), side * by, turn, pixels);
            crop.Dispose();
            return down;
        }
        Cv2.WarpAffine(picture, crop, matrix, new Size(pixels, pixels), InterpolationFlags.Linear, BorderTypes.Constant, new Scalar(0, 0, 0));
        return crop;
    }

    private static IEnumerable<(Rect2f, float, float)> Detect(Mat picture, Rect part)
    {
        using var crop = Crop(picture, new Point2f(part.X + part.Width / 2f, part.Y + part.Height / 2f), part.Width, 0, DetectorSide);
        using var blob = CvDnn.BlobFromImage(crop, 1 / 127.5, new Size(DetectorSide, DetectorSide), new Scalar(127.5, 127.5, 127.5), true);
        var net = Detector.Value;
        net.SetInput(blob);
        using Mat boxes = net.Forward("regressors"),
            scores = net.Forward("classificators");
        var index = 0;
        var found = new List<(Rect2f, float, float)>();
        var raw = Flat(boxes);
        var logits = Flat(scores);
        foreach (var (cells, each) in new[] { (16, 2), (8, 6) })
            for (var y = 0; y < cells; y++)
            for (var x = 0; x < cells; x++)
            for (var k = 0; k < each; k++, index++)
            {
                var score = 1 / (1 + MathF.Exp(-Math.Clamp(logits[index], -100, 100)));
                if (score < Least)
                    continue;
                var at = raw.AsSpan(index * 16, 16);
                float ax = (x + 0.5f) / cells,
                    ay = (y + 0.5f) / cells;
                Point2f Point(float px, float py) => new(part.X + part.Width * (px / DetectorSide + ax), part.Y + part.Height * (py / DetectorSide + ay));
                Point2f middle = Point(at[0], at[1]),
                    one = Point(at[4], at[5]),
                    two = Point(at[6], at[7]);
                float w = at[2] / DetectorSide * part.Width,
                    h = at[3] / DetectorSide * part.Height;
                found.Add((new Rect2f(middle.X - w / 2, middle.Y - h / 2, w, h), MathF.Atan2(two.Y - one.Y, two.X - one.X), score));
            }
        return found;
    }

    private static float[] Flat(Mat mat)
    {
        var values = new float[mat.Total() * mat.Channels()];
        System.Runtime.InteropServices.Marshal.Copy(mat.Data, values, 0, values.Length);
        return values;
    }

    // Of boxes that overlap, the surest.
    private static List<(Rect2f Box, float Turn, float Score)> Apart(List<(Rect2f Box, float Turn, float Score)> boxes)
    {
        var kept = new List<(Rect2f Box, float Turn, float Score)>();
        foreach (var box in boxes.OrderByDescending(b => b.Score))
            if (!kept.Exists(k => Overlap(k.Box, box.Box) > SameFace))
                kept.Add(box);
        return kept;
    }

    private static float Overlap(Rect2f a, Rect2f b)
    {
        var both = a.Intersect(b);
        var shared = Math.Max(0, both.Width) * Math.Max(0, both.Height);
        // A part of a face within another one is the same face as well.
        return shared / Math.Min(a.Width * a.Height, b.Width * b.Height);
    }

    // Twice: the first marks say better than the box where the face is, and how it is turned.
    private static Vector3[]? Marked(Mat picture, Rect2f box, float turn, int rounds = 3)
    {
        var middle = new Point2f(box.X + box.Width / 2, box.Y + box.Height / 2);
        var side = CropShare * Math.Max(box.Width, box.Height);
        Vector3[]? points = null;
        for (var round = 0; round < rounds; round++)
        {
            using var crop = Crop(picture, middle, side, turn, MarkSide);
            using var blob = CvDnn.BlobFromImage(crop, 1 / 255.0, new Size(MarkSide, MarkSide), new Scalar(), true);
            var net = Marker.Value;
            net.SetInput(blob);
            string[] names = [.. net.GetUnconnectedOutLayersNames().OfType<string>()];
            Mat[] outputs = [.. names.Select(_ => new Mat())];
            net.Forward(outputs, names);
            var marks = Flat(outputs.MaxBy(o => o.Total() * o.Channels())!);
            var there = Flat(outputs.MinBy(o => o.Total() * o.Channels())!)[0];
            foreach (var output in outputs)
                output.Dispose();
            if (marks.Length < 3 * MarkCount || 1 / (1 + MathF.Exp(-there)) < LeastMarks)
                return null;
            points = new Vector3[MarkCount];
            var (sin, cos) = MathF.SinCos(turn);
            var k = side / MarkSide;
            for (var i = 0; i < MarkCount; i++)
            {
                float x = (marks[3 * i] - MarkSide / 2f) * k,
                    y = (marks[3 * i + 1] - MarkSide / 2f) * k;
                points[i] = new Vector3(middle.X + cos * x - sin * y, middle.Y + sin * x + cos * y, -marks[3 * i + 2] * k);
            }
            (box, turn) = BoxOf(points);
            middle = new Point2f(box.X + box.Width / 2, box.Y + box.Height / 2);
            side = CropShare * Math.Max(box.Width, box.Height);
        }
        return points;
    }
}
