using System.Numerics;
using System.Text.Json.Serialization;

namespace Zamblo.Core.Portraits;

/// <summary>Light on a face: shares, 0 to 1, of what falls on it where the clip shows it brightest.</summary>
/// <param name="R">Of red.</param>
/// <param name="G">Of green.</param>
/// <param name="B">Of blue.</param>
public readonly record struct SkinLight(float R, float G, float B)
{
    /// <summary>As bright as it gets.</summary>
    public static SkinLight Full => new(1, 1, 1);
}

/// <summary>A face that was followed through a clip.</summary>
/// <param name="Width">Of the clip, in pixels.</param>
/// <param name="Height">Of the clip, in pixels.</param>
/// <param name="Rate">Frames per second that it was followed at.</param>
/// <param name="Marks">The face in each frame; null where it is not seen, or not well enough.</param>
public sealed record PlateTrack(int Width, int Height, FrameRate Rate, IReadOnlyList<PortraitMarks?> Marks)
{
    /// <summary>Light on the face in each frame; null where it was not measured.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<SkinLight>? Light { get; init; }

    // Of a symmetric filter in time, so that marks do not lag behind the face; in frames. Noise of the model goes, speech-like motion stays (chosen by eye).
    private const double Sigma = 1.1;
    private const int Reach = 3;

    // A jump of more than this share of the face's width between two frames is a cut.
    private const float Cut = 0.6f;

    /// <summary>The same track with its marks steadied, forwards and backwards alike; cuts stay cuts.</summary>
    public PlateTrack Steadied()
    {
        var steady = new PortraitMarks?[Marks.Count];
        for (var i = 0; i < steady.Length; i++)
        {
            if (Marks[i] is not { } own)
                continue;
            // As far as the same face goes on to both sides.
            int from = i,
                to = i;
            while (from > 0 && i - from < Reach && Goes(from - 1, from))
                from--;
            while (to < Marks.Count - 1 && to - i < Reach && Goes(to, to + 1))
                to++;
            // The same to both sides, or it would pull to one.
            var both = Math.Min(i - from, to - i);
            var weights = Enumerable.Range(-both, 2 * both + 1).Select(k => (float)Math.Exp(-k * k / (2 * Sigma * Sigma))).ToArray();
            var sum = weights.Sum();
            var near = Enumerable.Range(i - both, 2 * both + 1).Select(k => Flat(Marks[k]!)).ToArray();
            var flat = new Vector2[near[0].Length];
            for (var k = 0; k < near.Length; k++)
            for (var p = 0; p < flat.Length; p++)
                flat[p] += weights[k] / sum * near[k][p];
            steady[i] = Shaped(own, flat);
        }
        return this with { Marks = steady };
    }

    private bool Goes(int a, int b)
    {
        if (Marks[a] is not { } first || Marks[b] is not { } second || Flat(first).Length != Flat(second).Length)
            return false;
        var size = Vector2.Distance(first.Outline[0], first.Outline[first.Outline.Length / 2]);
        return Vector2.Distance(first.Nose.Length > 1 ? first.Nose[1] : first.Outline[0], second.Nose.Length > 1 ? second.Nose[1] : second.Outline[0])
            < Cut * size;
    }

    private static Vector2[] Flat(PortraitMarks m)
    {
        var all = new List<Vector2>();
        m.Moved(v =>
        {
            all.Add(v);
            return v;
        });
        return [.. all];
    }

    // In the order that they were gathered in.
    private static PortraitMarks Shaped(PortraitMarks like, Vector2[] flat)
    {
        var at = 0;
        return like.Moved(_ => flat[at++]);
    }

    /// <summary>Stretches in which the face is not seen, in seconds of the clip.</summary>
    public IReadOnlyList<(double Start, double End)> Gaps()
    {
        var gaps = new List<(double, double)>();
        for (var i = 0; i < Marks.Count; i++)
        {
            if (Marks[i] != null)
                continue;
            var from = i;
            while (i < Marks.Count && Marks[i] == null)
                i++;
            gaps.Add((Rate.TimeOf(from), Rate.TimeOf(i)));
        }
        return gaps;
    }
}
