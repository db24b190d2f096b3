using System.Numerics;
using OpenCvSharp;
using Zamblo.Core.Portraits;

namespace Zamblo.Media.Portraits;

/// <summary>
/// How well a face is seen in each frame of a clip, and in which light: by a small picture of its lower half, always of the same size and held straight by the
/// eyes. What is measured is set against the clip itself, so that a soft or dim clip is not all wrong. Limits are chosen by eye on painted faces.
/// </summary>
/// <param name="count">Frames of the clip.</param>
internal sealed class FaceSights(int count)
{
    // The small picture, in pixels, and what it shows in distances between the eyes: from below them to the chin, cheek to cheek.
    private const int Side = 40;
    private const float Left = -0.7f,
        Top = 0.45f,
        Wide = 1.4f;
    private const int MostTimes = 8;

    // The lips and the chin are masked for the light: they move.
    private const float MouthHalf = 0.46f,
        MouthTop = 0.8f;

    // A face is blurred below such a share of the sharpness that the clip usually has; it is fast from so many widths between its eyes a frame on.
    private const double Sharp = 0.4;
    private const float Fast = 0.16f;

    // Share of full brightness (ITU-R BT.601) under which nothing is made out.
    private const double Dark = 0.09;

    // A pixel is another one when it differs by more than that (of 255) and twice what is usual for it; so many of them are something that covers.
    private const float Differs = 22;
    private const double Covered = 0.42;

    // Frames that are usual: no more than that are compared for each pixel. Nothing shorter than so many frames is told.
    private const int Samples = 150,
        Shortest = 3;

    private readonly byte[]?[] _patches = new byte[count][];
    private readonly double[] _sharp = new double[count];
    private readonly Vector3[] _light = new Vector3[count];

    /// <summary>Looks at a face that is seen.</summary>
    /// <param name="frame">Three channels, blue first.</param>
    /// <param name="i">Number of the frame.</param>
    /// <param name="marks">The face.</param>
    public void Look(Mat frame, int i, PortraitMarks marks)
    {
        if (EyesOf(marks) is not (var left, var right))
            return;
        Vector2 across = (right - left) / (right - left).LengthSquared(),
            down = new(-across.Y, across.X),
            middle = (left + right) / 2;
        // As large as the frame shows it first: made smaller by leaving pixels out, every grain would be an edge.
        var times = Math.Clamp((int)MathF.Round(Vector2.Distance(left, right) * Wide / Side), 1, MostTimes);
        var scale = times * Side / Wide;
        float Shift(Vector2 axis, float from) => scale * (-Vector2.Dot(middle, axis) - from);
        using var to = Mat.FromPixelData(
            2,
            3,
            MatType.CV_32F,
            new[] { across.X * scale, across.Y * scale, Shift(across, Left), down.X * scale, down.Y * scale, Shift(down, Top) }
        );
        using Mat whole = new(),
            patch = new(),
            gray = new(),
            edges = new();
        Cv2.WarpAffine(frame, whole, to, new Size(times * Side, times * Side), InterpolationFlags.Linear, BorderTypes.Replicate);
        Cv2.Resize(whole, patch, new Size(Side, Side), 0, 0, InterpolationFlags.Area);
        patch.GetArray(out Vec3b[] pixels);
        var bytes = new byte[3 * Side * Side];
        var sum = Vector3.Zero;
        var n = 0;
        for (var p = 0; p < pixels.Length; p++)
        {
            (bytes[3 * p], bytes[3 * p + 1], bytes[3 * p + 2]) = (pixels[p].Item0, pixels[p].Item1, pixels[p].Item2);
            if (!IsSkin(p))
                continue;
            sum += new Vector3(pixels[p].Item2, pixels[p].Item1, pixels[p].Item0);
            n++;
        }
        _patches[i] = bytes;
        _light[i] = sum / n;
        Cv2.CvtColor(patch, gray, ColorConversionCodes.BGR2GRAY);
        Cv2.Laplacian(gray, edges, MatType.CV_32F);
        Cv2.MeanStdDev(edges, out _, out var spread);
        // Less light makes every edge lower.
        _sharp[i] = spread.Val0 / Math.Max(4, Brightness(_light[i]));
    }

    private static bool IsSkin(int p)
    {
        float x = Left + Wide * (p % Side) / Side,
            y = Top + Wide * (p / Side) / Side;
        return MathF.Abs(x) > MouthHalf ? y < 1.1f : y < MouthTop;
    }

    private static double Brightness(Vector3 c) => 0.299 * c.X + 0.587 * c.Y + 0.114 * c.Z;

    private static (Vector2 Left, Vector2 Right)? EyesOf(PortraitMarks m)
    {
        if (m.EyeLeft is not { } a || m.EyeRight is not { } b)
            return null;
        Vector2 left = ((Vector2)a.Upper[0] + a.Upper[^1]) / 2,
            right = ((Vector2)b.Upper[0] + b.Upper[^1]) / 2;
        return Vector2.Distance(left, right) > 4 ? (left, right) : null;
    }

    /// <summary>Light on the face, frame by frame, and the frame in which it is brightest.</summary>
    public (IReadOnlyList<SkinLight> Light, int Brightest) Light()
    {
        var seen = Seen;
        if (seen.Length == 0)
            return ([.. Enumerable.Repeat(SkinLight.Full, count)], 0);
        var brightest = seen.MaxBy(i => Covers[i] > Covered ? 0 : Brightness(_light[i]));
        var full = _light[brightest];
        static float Share(float now, float most) => MathF.Round(Math.Clamp(now / Math.Max(1, most), 0, 1), 3);
        SkinLight At(int i) =>
            _patches[i] == null ? SkinLight.Full : new SkinLight(Share(_light[i].X, full.X), Share(_light[i].Y, full.Y), Share(_light[i].Z, full.Z));
        return ([.. Enumerable.Range(0, count).Select(At)], brightest);
    }

    /// <summary>How well it is seen in each frame.</summary>
    /// <param name="marks">Where it is; null where it is not seen.</param>
    /// <param name="turned">Where it is turned away.</param>
    public IReadOnlyList<PlateSight> Sights(IReadOnlyList<PortraitMarks?> marks, bool[] turned)
    {
        var seen = Seen;
        var usual = seen.Length == 0 ? 0 : seen.Select(i => _sharp[i]).Order().ElementAt(seen.Length * 3 / 4);
        PlateSight At(int i) =>
            marks[i] == null
                ? turned[i]
                    ? PlateSight.Turned
                    : PlateSight.Gone
                : _patches[i] == null
                    ? PlateSight.Good
                    : Brightness(_light[i]) < 255 * Dark
                        ? PlateSight.Dark
                        : Covers[i] > Covered
                            ? PlateSight.Covered
                            : SpeedOf(marks, i) > Fast
                                ? PlateSight.Fast
                                : _sharp[i] < Sharp * usual
                                    ? PlateSight.Blurred
                                    : PlateSight.Good;
        PlateSight[] sights = [.. Enumerable.Range(0, count).Select(At)];
        // What is over at once is not told; what has no mouth is, always.
        for (var from = 0; from < count; )
        {
            var to = from;
            while (to < count && sights[to] == sights[from])
                to++;
            if (to - from < Shortest && !PlateStretch.HasNoMouth(sights[from]))
                Array.Fill(sights, from > 0 && !PlateStretch.HasNoMouth(sights[from - 1]) ? sights[from - 1] : PlateSight.Good, from, to - from);
            from = to;
        }
        return sights;
    }

    private int[] Seen => [.. Enumerable.Range(0, count).Where(i => _patches[i] != null)];

    // Known when all frames have been looked at: for the light, and for what is told.
    private double[] Covers => _covers ??= CoversOf(Seen);
    private double[]? _covers;

    // Share of its pixels that are none of this face's, whatever the light is.
    private double[] CoversOf(int[] seen)
    {
        var covers = new double[count];
        if (seen.Length < Shortest)
            return covers;
        int[] some = [.. seen.Where((_, k) => k % Math.Max(1, seen.Length / Samples) == 0)];
        var gains = seen.ToDictionary(i => i, i => 128 / Math.Max(8, MeanOf(_patches[i]!)));
        var (usual, spread) = (new float[3 * Side * Side], new float[3 * Side * Side]);
        var values = new float[some.Length];
        for (var p = 0; p < usual.Length; p++)
        {
            for (var k = 0; k < some.Length; k++)
                values[k] = _patches[some[k]]![p] * gains[some[k]];
            Array.Sort(values);
            usual[p] = values[values.Length / 2];
            for (var k = 0; k < values.Length; k++)
                values[k] = MathF.Abs(values[k] - usual[p]);
            Array.Sort(values);
            spread[p] = values[values.Length / 2];
        }
        foreach (var i in seen)
        {
            var other = 0;
            for (var p = 0; p < usual.Length; p += 3)
            {
                var most = 0f;
                for (var c = 0; c < 3; c++)
                    most = MathF.Max(most, MathF.Abs(_patches[i]![p + c] * gains[i] - usual[p + c]) - 2 * spread[p + c]);
                if (most > Differs)
                    other++;
            }
            covers[i] = (double)other / (Side * Side);
        }
        return covers;
    }

    private static float MeanOf(byte[] patch) => (float)patch.Average(b => (double)b);

    // Of the middle between the eyes, in distances between them a frame; over a cut it is none.
    private static float SpeedOf(IReadOnlyList<PortraitMarks?> marks, int i)
    {
        if (i == 0 || marks[i - 1] is not { } before || marks[i] is not { } now || EyesOf(before) is not (var a, var b) || EyesOf(now) is not (var c, var d))
            return 0;
        var way = Vector2.Distance(a + b, c + d) / 2 / Vector2.Distance(c, d);
        return way > 1.2f ? 0 : way;
    }
}
