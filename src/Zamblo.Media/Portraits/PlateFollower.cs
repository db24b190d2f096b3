using OpenCvSharp;
using Zamblo.Core;
using Zamblo.Core.Portraits;

namespace Zamblo.Media.Portraits;

/// <summary>Takes clips apart into frames and follows the faces through them.</summary>
public static class PlateFollower
{
    /// <summary>Longest clip, in seconds; more of it is not looked at.</summary>
    public const double Longest = 600;

    /// <summary>Longest side of the frames, in pixels: larger clips are made smaller.</summary>
    public const int LongestSide = 1920;

    /// <summary>Follows the faces of a clip.</summary>
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
        var slots = new FaceSlots(count);
        var (width, height) = (0, 0);
        for (var i = 0; i < count; i++)
        {
            cancel.ThrowIfCancellationRequested();
            progress?.Invoke((double)i / count);
            using var frame = await ReadAsync(folder, i, cancel);
            (width, height) = (frame.Cols, frame.Rows);
            slots.Look(frame, i, cancel);
        }
        var faces = new List<FollowedFace>();
        foreach (var face in slots.All())
        {
            var (light, brightest) = face.Sights.Light();
            var track = new PlateTrack(width, height, rate, face.Marks) { Light = light }.Steadied();
            // The look is that of the brightest frame: all others take from it.
            var shown = track.Marks[brightest] != null ? brightest : Array.FindIndex(face.Marks, m => m != null);
            using var still = await ReadAsync(folder, shown, cancel);
            var map = PlateStretch.Of(face.Sights.Sights(face.Marks, face.Turned), rate);
            faces.Add(new FollowedFace(track, LookOf(still, track.Marks[shown]!), map) { Lash = MouthLooks.LashOf(still, track.Marks[shown]!) });
        }
        if (faces.Count > 0)
            return new FollowedPlate(hash, faces);
        var which = slots.IsTurned ? "No face that looks this way" : "No face";
        throw new MediaException($"{which} is seen in \"{name}\": a plate needs somebody who sits still and is seen from the front.");
    }

    private static async Task<Mat> ReadAsync(string folder, int frame, CancellationToken cancel)
    {
        using var four = Pixels.Read(await File.ReadAllBytesAsync(VideoFrames.PathOf(folder, frame), cancel));
        return Pixels.Colors(four);
    }

    private static MouthLook LookOf(Mat still, PortraitMarks marks) =>
        MouthLooks.Of(
            still,
            marks,
            TeethKind.Even,
            bytes =>
            {
                var own = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(bytes));
                PictureShelf.Hold(own, bytes);
                return own;
            }
        );
}
