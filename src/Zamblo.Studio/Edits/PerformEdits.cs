using System.Numerics;
using Zamblo.Core;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>A performance: per channel samples of time (seconds of the scene) and value, as they came; hands as places on the stage.</summary>
public sealed record FilePerformance(
    Guid Member,
    string? Part,
    double Start,
    double End,
    Dictionary<string, double[][]>? Samples,
    double[][]? LeftHand,
    double[][]? RightHand,
    bool Replaces,
    double Smooth
) : SceneEdit
{
    /// <summary>For a part that follows the pointer: time (seconds of the scene), x and y (-1 to 1 from the middle of the picture, y down) and tilt.</summary>
    public double[][]? Pointer { get; init; }
}

public sealed class PerformEdits : IEditHandler<FilePerformance>
{
    // An hour at 120 samples a second is more than a pointer gives.
    private const int MostSamples = 500_000;

    public async Task ApplyAsync(FilePerformance edit, EditScope scope)
    {
        var scene = await scope.SceneAsync(edit.Scene);
        var index = scene.IndexOf(edit.Member);
        if (!(edit.End - edit.Start >= 0.1))
            throw new RequestException("That was too short to keep: a tenth of a second at least.");
        var given = edit.Samples ?? [];
        if (
            given.Sum(s => (long)(s.Value?.Length ?? 0)) + (edit.LeftHand?.Length ?? 0) + (edit.RightHand?.Length ?? 0) + (edit.Pointer?.Length ?? 0)
            > MostSamples
        )
            throw new RequestException("That performance is too long to keep in one piece.");
        var samples = given.Where(s => Gestures.ChannelNames.Contains(s.Key) && s.Value != null).ToDictionary(s => s.Key, s => s.Value.ToList());
        foreach (var (points, right) in ((double[][]?, bool)[])[(edit.LeftHand, false), (edit.RightHand, true)])
        foreach (var p in (points ?? []).Where(p => p is { Length: 3 }))
        foreach (var (channel, value) in HandAt(scene, index, p[0], right, (float)p[1], (float)p[2]))
        {
            if (!samples.TryGetValue(channel, out var list))
                samples[channel] = list = [];
            list.Add([p[0], value]);
        }
        if (edit.Pointer is { Length: > 0 } pointer)
        {
            var part = PointerParts.Find(edit.Part ?? "") ?? throw new RequestException($"There is no part \"{edit.Part}\" to perform.");
            foreach (var p in pointer.Where(p => p is { Length: 4 } && p.All(double.IsFinite)))
            foreach (var (channel, value) in part.Values((float)p[1], (float)p[2], (float)p[3]))
            {
                if (!samples.TryGetValue(channel, out var list))
                    samples[channel] = list = [];
                list.Add([p[0], value]);
            }
        }
        var replaces = edit.Replaces && PointerParts.Find(edit.Part ?? "") is not { Adds: true };
        var tracks = new Dictionary<string, double[][]>();
        foreach (var (channel, list) in samples)
        {
            var ordered = new List<double[]>();
            foreach (var s in list.Where(s => s is { Length: 2 } && double.IsFinite(s[0]) && double.IsFinite(s[1])).OrderBy(s => s[0]))
                if (ordered.Count == 0 || s[0] - edit.Start > ordered[^1][0] + 1e-4)
                    ordered.Add([s[0] - edit.Start, s[1]]);
            if (ordered.Count > 0)
                tracks[channel] = MotionKeys.Reduce(
                    MotionKeys.Smooth(ordered, Math.Clamp(double.IsFinite(edit.Smooth) ? edit.Smooth : 0, 0, 0.5)),
                    MotionKeys.ToleranceOf(channel)
                );
        }
        var own = MotionLibrary.Checked(
            new Gesture
            {
                Key = Gesture.Performed,
                Name = MotionLibrary.Named($"Performed: {PointerParts.Find(edit.Part ?? "")?.Name.ToLowerInvariant() ?? edit.Part}"),
                Part = "own",
                Length = edit.End - edit.Start,
                Stroke = (edit.End - edit.Start) / 2,
                Tracks = tracks,
            }
        );
        scope.Name = own.Name;
        var clip = new GestureClip(new ClipId(Guid.NewGuid()), new MemberId(edit.Member), null, Gesture.Performed, 1, new WordAnchor(-1, "", 0, 0, 0), 0)
        {
            Own = own,
            Replaces = replaces,
            BlendIn = 0.2,
            BlendOut = 0.3,
        }.Stretching(true);
        scope.Db.Clips.Add(ClipRows.New(scene.Evaluated.Lay(clip, edit.Start, edit.End), edit.Scene));
        scope.Answer = new EditAnswer { Id = clip.Id.Value, Keys = tracks.Sum(t => t.Value.Length) };
    }

    /// <summary>A point of the stage as the place of a hand of a member who stands there.</summary>
    public static IEnumerable<(string Channel, float Value)> HandAt(LoadedScene scene, int index, double t, bool right, float x, float y)
    {
        var member = scene.Stage.Cast[index];
        var figure = member.Figure;
        if (!figure.HasArm(right))
            yield break;
        var point = new Vector2(
            (x - scene.Stage.PlaceOf(index, t)) / member.Scale + figure.Rig.Anchor[0],
            (y - member.Y) / member.Scale + figure.Rig.Anchor[1]
        );
        var place = figure.ToArm(right, point);
        var hand = right ? "handRight" : "handLeft";
        yield return (hand, 1);
        yield return (hand + "X", place.X);
        yield return (hand + "Y", place.Y);
    }
}
