using System.Numerics;
using OpenCvSharp;
using Zamblo.Core;
using Zamblo.Core.Portraits;

namespace Zamblo.Media.Portraits;

/// <summary>A clip with a face that was followed through it.</summary>
/// <param name="Hash">Under which its frames are found, for as long as they lie where they were laid.</param>
/// <param name="Track">The face.</param>
/// <param name="Look">What is seen between its lips.</param>
/// <param name="Turned">Stretches in which the face is turned too far away, in seconds of the clip.</param>
public sealed record FollowedPlate(string Hash, PlateTrack Track, MouthLook Look, IReadOnlyList<(double Start, double End)> Turned)
{
    /// <summary>Where a voice is heard but no mouth says it, in sentences.</summary>
    public IReadOnlyList<string> Notes() =>
        [
            .. Track
                .Gaps()
                .Select(gap =>
                {
                    var why = Turned.Any(t => t.Start < gap.End && t.End > gap.Start) ? "the face is turned away" : "no face is seen";
                    return FormattableString.Invariant($"From {gap.Start:0.0} to {gap.End:0.0} s {why}: a voice is heard there, but no mouth says it.");
                }),
        ];
}

/// <summary>Takes clips apart into frames and follows the largest face through them.</summary>
public static class PlateFollower
{
    /// <summary>Longest clip, in seconds; more of it is not looked at.</summary>
    public const double Longest = 600;

    /// <summary>Longest side of the frames, in pixels: larger clips are made smaller.</summary>
    public const int LongestSide = 1920;

    // A face that is lost is looked for thoroughly in every so many frames: that takes as long as to follow ten of them.
    private const int Again = 12;

    // Turned further than that to a side, the mouth is no longer one (about 30 degrees, chosen by eye, and some room for the model's error).
    private const float MostTurned = 36;

    /// <summary>Follows a face.</summary>
    /// <param name="path">Of the clip.</param>
    /// <param name="name">For messages.</param>
    /// <param name="rate">Of the film: the clip is brought to it.</param>
    /// <param name="seconds">So much of the clip is needed at the most.</param>
    /// <param name="folder">For the frames; it must be there, and belongs to the caller.</param>
    /// <param name="progress">0 to 1.</param>
    /// <param name="cancel">Stops.</param>
    /// <exception cref="MediaException">It is no clip, or nobody is seen in it.</exception>
    public static async Task<FollowedPlate> FollowAsync(
        string path,
        string name,
        FrameRate rate,
        double seconds,
        string folder,
        Action<double>? progress,
        CancellationToken cancel
    )
    {
        var count = await VideoFrames.TakeApartAsync(path, name, rate, Math.Min(seconds, Longest), LongestSide, folder, cancel);
        var hash = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes($"{path}|{folder}|{count}")));
        PictureShelf.KnowFrames(hash, frame => VideoFrames.PathOf(folder, frame));
        var marks = new PortraitMarks?[count];
        var turned = new bool[count];
        FoundFace? before = null;
        var (width, height) = (0, 0);
        for (var i = 0; i < count; i++)
        {
            cancel.ThrowIfCancellationRequested();
            progress?.Invoke((double)i / count);
            using var four = Pixels.Read(await File.ReadAllBytesAsync(VideoFrames.PathOf(folder, i), cancel));
            using var frame = Pixels.Colors(four);
            (width, height) = (frame.Cols, frame.Rows);
            // Where it was, or wherever it is now.
            before =
                (before == null ? null : FaceFinder.Again(frame, before))
                ?? FaceFinder.Find(frame, cancel, isThorough: i == 0 || i % Again == 0).FirstOrDefault();
            if (before == null)
                continue;
            turned[i] = MathF.Abs(YawOf(before.Points)) > MostTurned;
            var own = MarksGuess.FromFace(before.Points);
            if (!turned[i] && own.ErrorFor(width, height) == null)
                marks[i] = own;
        }
        var track = new PlateTrack(width, height, rate, marks).Steadied();
        var first = Array.FindIndex(marks, m => m != null);
        if (first < 0)
        {
            var which = Array.Exists(turned, t => t) ? "No face that looks this way" : "No face";
            throw new MediaException($"{which} is seen in \"{name}\": a plate needs somebody who sits still and is seen from the front.");
        }
        using var still = Pixels.Read(await File.ReadAllBytesAsync(VideoFrames.PathOf(folder, first), cancel));
        using var colors = Pixels.Colors(still);
        var look = MouthLooks.Of(
            colors,
            track.Marks[first]!,
            TeethKind.Even,
            bytes =>
            {
                var own = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(bytes));
                PictureShelf.Hold(own, bytes);
                return own;
            }
        );
        return new FollowedPlate(hash, track, look, Stretches(turned, rate));
    }

    // In degrees, by the depth of the two edges of the face.
    private static float YawOf(Vector3[] points)
    {
        var across = points[454] - points[234];
        return MathF.Atan2(across.Z, new Vector2(across.X, across.Y).Length()) * 180 / MathF.PI;
    }

    private static List<(double, double)> Stretches(bool[] there, FrameRate rate)
    {
        var stretches = new List<(double, double)>();
        for (var i = 0; i < there.Length; i++)
        {
            if (!there[i])
                continue;
            var from = i;
            while (i < there.Length && there[i])
                i++;
            stretches.Add((rate.TimeOf(from), rate.TimeOf(i)));
        }
        return stretches;
    }
}
