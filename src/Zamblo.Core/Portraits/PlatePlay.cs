using System.Numerics;
using System.Text.Json.Serialization;

namespace Zamblo.Core.Portraits;

/// <summary>How a clip is played: which part of it, what comes when a voice is longer than that, and whose lids it has.</summary>
public sealed record PlatePlay
{
    /// <summary>Where it begins, in seconds of the clip.</summary>
    public double From { get; init; }

    /// <summary>Where it ends, in seconds of the clip; 0 for the clip's own end.</summary>
    public double To { get; init; }

    /// <summary>It goes round over the seam that is seen least; else forth and back.</summary>
    public bool Loops { get; init; }

    /// <summary>Where it goes round, when that has been looked for, in all faces of the clip together; null where it has not.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public PlateSeam? Seam { get; init; }

    /// <summary>Its lids come down as the one who speaks performs it; else only as they do in the clip.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool Lids { get; init; }

    /// <summary>Shortest that a part can be, in seconds.</summary>
    public const double Shortest = 0.4;

    /// <summary>What is wrong with it; null where nothing is.</summary>
    public string? Error() =>
        From is >= 0 and <= 3600 && To is >= 0 and <= 3600 && (To == 0 || To - From >= Shortest - 1e-6)
            ? null
            : FormattableString.Invariant($"A part of a clip is {Shortest} s long or longer, and begins before it ends.");
}

/// <summary>Where a clip goes round.</summary>
/// <param name="Last">The last frame before it does.</param>
/// <param name="Next">The one that comes then.</param>
public sealed record PlateSeam(int Last, int Next);

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
    public static PlateCourse Of(PlateTrack track, PlatePlay? play) => Of([track], play);

    /// <summary>Of a clip with faces in it: it goes round where all of them are alike.</summary>
    /// <param name="tracks">The faces, all of one clip.</param>
    /// <param name="play">What is played; null for all of it, forth and back.</param>
    public static PlateCourse Of(IReadOnlyList<PlateTrack> tracks, PlatePlay? play)
    {
        var rate = tracks[0].Rate;
        var last = tracks[0].Marks.Count - 1;
        int from = Math.Clamp((int)Math.Round((play?.From ?? 0) * rate.FramesPerSecond), 0, last),
            to = play is { To: > 0 } ? Math.Clamp((int)Math.Round(play.To * rate.FramesPerSecond) - 1, from, last) : last;
        if (play?.Loops != true)
            return new PlateCourse(from, to, -1, 0);
        var places = tracks.Select(t => t.Marks.Select(m => m == null ? null : Points(m)).ToArray()).ToArray();
        var seam = play.Seam is { } known && known.Next > from && known.Last > known.Next && known.Last <= to ? known : Best(places, from, to, rate);
        return seam == null
            ? new PlateCourse(from, to, -1, 0)
            : new PlateCourse(from, seam.Last, seam.Next, places.Max(face => JumpOf(face[seam.Last], face[seam.Next])));
    }

    // Between the end and what comes then place and motion have to be alike, in every face; one that is not seen there says nothing.
    private static PlateSeam? Best(Vector2[]?[][] faces, int from, int to, FrameRate rate)
    {
        var shortest = Math.Max(2, rate.FramesFor(LeastLoop));
        PlateSeam? best = null;
        var least = float.MaxValue;
        for (var b = Math.Max(from + shortest, to - rate.FramesFor(Ends)); b <= to; b++)
        for (var a = from + 1; a <= b - shortest + 1; a++)
        {
            var (most, seen) = (0f, 0);
            foreach (var face in faces)
            {
                if (face[b] is not { } x || face[b - 1] is not { } before || face[a] is not { } y || face[a - 1] is not { } y0)
                    continue;
                float sum = 0;
                for (var k = 0; k < x.Length; k++)
                {
                    // Where it would be next, and where it is.
                    var next = x[k] + (x[k] - before[k]);
                    sum += Vector2.Distance(next, y[k]) + 0.5f * Vector2.Distance(x[k] - before[k], y[k] - y0[k]);
                }
                most = Math.Max(most, sum / Vector2.Distance(x[0], x[1]));
                seen++;
            }
            // Where not all are seen it goes round only if there is no better place.
            most += faces.Length - seen;
            if (seen > 0 && most < least)
                (least, best) = (most, new PlateSeam(b, a));
        }
        return best;
    }

    private static float JumpOf(Vector2[]? end, Vector2[]? next) =>
        end == null || next == null ? 0 : end.Zip(next, Vector2.Distance).Average() / Vector2.Distance(end[0], end[1]);

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

    /// <summary>How long it takes from its beginning to its end, in seconds.</summary>
    /// <param name="rate">Of the clip's frames.</param>
    public double Length(FrameRate rate) => rate.TimeOf(Last - First + 1);

    /// <summary>The first moment of the way that goes on as it does at another one: what has gone round, or forth and back, is left out.</summary>
    /// <param name="t">In seconds, 0 or more.</param>
    /// <param name="rate">Of the clip's frames.</param>
    public double Folded(double t, FrameRate rate)
    {
        if (Seam >= 0)
            return t <= rate.TimeOf(Last - First + 1) ? t : rate.TimeOf(Seam - First) + (t - rate.TimeOf(Last - First + 1)) % rate.TimeOf(Last - Seam + 1);
        return Last == First ? 0 : t % rate.TimeOf(2 * (Last - First));
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
