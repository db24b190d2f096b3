using System.Numerics;

namespace Zamblo.Core.Portraits;

/// <summary>Which part of a clip is played, and what comes when a voice is longer than that.</summary>
public sealed record PlatePlay
{
    /// <summary>Where it begins, in seconds of the clip.</summary>
    public double From { get; init; }

    /// <summary>Where it ends, in seconds of the clip; 0 for the clip's own end.</summary>
    public double To { get; init; }

    /// <summary>It goes round over the seam that is seen least; else forth and back.</summary>
    public bool Loops { get; init; }

    /// <summary>Shortest that a part can be, in seconds.</summary>
    public const double Shortest = 0.4;

    /// <summary>What is wrong with it; null where nothing is.</summary>
    public string? Error() =>
        From is >= 0 and <= 3600 && To is >= 0 and <= 3600 && (To == 0 || To - From >= Shortest - 1e-6)
            ? null
            : FormattableString.Invariant($"A part of a clip is {Shortest} s long or longer, and begins before it ends.");
}

/// <summary>The way through the frames of a clip.</summary>
/// <param name="First">The first that is shown.</param>
/// <param name="Last">The last.</param>
/// <param name="Seam">The frame after the last one, over and over; -1 where the way goes forth and back.</param>
/// <param name="Jump">How far the face jumps at the seam, in widths of the face; 0 where there is none.</param>
public readonly record struct PlateCourse(int First, int Last, int Seam, float Jump)
{
    // A loop is no shorter than that, in seconds; and its end is looked for in so much of the part's end.
    private const double LeastLoop = 1,
        Ends = 3;

    /// <summary>Of a clip with a face in it.</summary>
    /// <param name="track">The face.</param>
    /// <param name="play">What is played; null for all of it, forth and back.</param>
    public static PlateCourse Of(PlateTrack track, PlatePlay? play)
    {
        var last = track.Marks.Count - 1;
        int from = Math.Clamp((int)Math.Round((play?.From ?? 0) * track.Rate.FramesPerSecond), 0, last),
            to = play is { To: > 0 } ? Math.Clamp((int)Math.Round(play.To * track.Rate.FramesPerSecond) - 1, from, last) : last;
        var forth = new PlateCourse(from, to, -1, 0);
        if (play?.Loops != true)
            return forth;
        var shortest = Math.Max(2, track.Rate.FramesFor(LeastLoop));
        var marks = track.Marks;
        var places = Enumerable.Range(0, marks.Count).Select(i => marks[i] is { } m ? Points(m) : null).ToArray();
        var (best, seam, end) = (float.MaxValue, -1, -1);
        for (var b = Math.Max(from + shortest, to - track.Rate.FramesFor(Ends)); b <= to; b++)
        for (var a = from + 1; a <= b - shortest + 1; a++)
        {
            // What comes after the end is the frame before the seam gone on: place and motion have to be alike.
            if (places[b] is not { } x || places[b - 1] is not { } before || places[a] is not { } y || places[a - 1] is not { } y0)
                continue;
            var width = Vector2.Distance(x[0], x[1]);
            float sum = 0;
            for (var k = 0; k < x.Length; k++)
            {
                // Where it would be next, and where it is.
                var next = x[k] + (x[k] - before[k]);
                sum += Vector2.Distance(next, y[k]) + 0.5f * Vector2.Distance(x[k] - before[k], y[k] - y0[k]);
            }
            if (sum / width < best)
                (best, seam, end) = (sum / width, a, b);
        }
        if (seam < 0)
            return forth;
        var jump = places[end]!.Zip(places[seam]!, Vector2.Distance).Average() / Vector2.Distance(places[end]![0], places[end]![1]);
        return new PlateCourse(from, end, seam, jump);
    }

    // Edges of the face at both sides, chin, corners of the mouth, and the middle of both lips: what is seen to jump.
    private static Vector2[] Points(PortraitMarks m)
    {
        Mark[] ring = m.Outline,
            upper = m.Mouth.InnerUpper,
            lower = m.Mouth.InnerLower;
        return
        [
            ring[ring.Length / 4],
            ring[3 * ring.Length / 4],
            ring[0],
            ring[ring.Length / 2],
            upper[0],
            upper[^1],
            upper[upper.Length / 2],
            lower[lower.Length / 2],
        ];
    }

    /// <summary>Which frame of the clip is shown at a moment.</summary>
    /// <param name="t">In seconds, 0 or more.</param>
    /// <param name="rate">Of the clip's frames.</param>
    public int FrameAt(double t, FrameRate rate)
    {
        var n = (long)Math.Floor(t * rate.FramesPerSecond + 1e-6);
        var length = Last - First;
        if (Seam >= 0)
            return n <= length ? First + (int)n : Seam + (int)((n - length - 1) % (Last - Seam + 1));
        if (length <= 0)
            return First;
        var step = (int)(n % (2 * length));
        return First + (step <= length ? step : 2 * length - step);
    }
}
