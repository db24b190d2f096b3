using Microsoft.EntityFrameworkCore;
using Zamblo.Core;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Core.Speech;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>A cut, made while the scene played.</summary>
/// <param name="At">In seconds of the scene.</param>
/// <param name="Framing">How much is seen.</param>
/// <param name="Member">Of whom; null for everybody.</param>
public sealed record LiveCut(double At, string? Framing, Guid? Member);

/// <summary>What was cut while the scene played becomes shots, in place of those by hand that lay there.</summary>
public sealed record CutLive(LiveCut[]? Cuts, double End) : SceneEdit;

/// <summary>The shots that the camera has chosen become shots by hand, as they are: other dice and dials leave them.</summary>
public sealed record KeepShots : SceneEdit;

/// <summary>All shots by hand of a scene go: the camera does as it likes again.</summary>
public sealed record FreeCamera : SceneEdit;

internal sealed class CameraEdits : IEditHandler<CutLive>, IEditHandler<KeepShots>, IEditHandler<FreeCamera>
{
    // So many cuts in one go, no more: two a second for an hour.
    private const int Most = 7200;
    private static readonly WordAnchor Nowhere = new(-1, "", 0, 0, 0);

    public async Task ApplyAsync(CutLive edit, EditScope scope)
    {
        scope.Name = "Cut live";
        var scene = await scope.SceneAsync(edit.Scene);
        if (edit.Cuts is not { Length: > 0 and <= Most } given)
            throw new RequestException("Nothing was cut.");
        if (given.Any(c => c == null || !double.IsFinite(c.At)) || !double.IsFinite(edit.End))
            throw new RequestException("A cut lies at a moment of the scene.");
        LiveCut[] cuts = [.. given.Where(c => c.At >= 0 && c.At < scene.Stage.Duration).OrderBy(c => c.At)];
        if (cuts.Length == 0 || scene.Members.Count == 0)
            throw new RequestException("Nothing was cut.");
        var end = Math.Min(edit.End, scene.Stage.Duration);
        await RemoveAsync(scope, scene, (from, to) => from < end && to > cuts[0].At);
        for (var i = 0; i < cuts.Length; i++)
        {
            var until = i + 1 < cuts.Length ? cuts[i + 1].At : Math.Max(end, cuts[i].At + LaneClip.Shortest);
            if (until - cuts[i].At < LaneClip.Shortest)
                continue;
            var framing = ClipRows.FramingOf(cuts[i].Framing ?? "") ?? throw new RequestException($"There is no framing \"{cuts[i].Framing}\".");
            var member = cuts[i].Member is { } who ? scene.Member(who).Id : scene.Members[0].Id;
            var clip = new ShotClip(new ClipId(Guid.NewGuid()), member, null, framing, CameraMove.Still, null, Nowhere, Nowhere);
            scope.Db.Clips.Add(ClipRows.New(scene.Evaluated.Lay(clip, cuts[i].At, until), edit.Scene));
        }
    }

    public async Task ApplyAsync(KeepShots edit, EditScope scope)
    {
        scope.Name = "Keep all shots";
        var scene = await scope.SceneAsync(edit.Scene);
        var shots = scene.Stage.Shots.Shots;
        if (scene.Members.Count == 0 || shots.All(s => s.Clip != null))
            throw new RequestException("All shots are kept already.");
        var things = scene.Document.Things;
        MemberId Who(int index) => scene.Document.Members[Math.Max(0, index)].Id;
        for (var i = 0; i < shots.Count; i++)
        {
            var shot = shots[i];
            var until = i + 1 < shots.Count ? shots[i + 1].Start : scene.Stage.Duration;
            if (shot.Clip != null || until - shot.Start < LaneClip.Shortest)
                continue;
            var clip = new ShotClip(
                new ClipId(Guid.NewGuid()),
                Who(shot.Subject),
                null,
                shot.Framing,
                shot.Move,
                shot.Other < 0 ? null : Who(shot.Other),
                Nowhere,
                Nowhere
            )
            {
                Change = shot.Change,
                Over = shot.Over,
                Prop = shot.Prop < 0 ? null : things[shot.Prop].Laid.Id,
            };
            scope.Db.Clips.Add(ClipRows.New(scene.Evaluated.Lay(clip, shot.Start, until), edit.Scene));
        }
    }

    public async Task ApplyAsync(FreeCamera edit, EditScope scope)
    {
        scope.Name = "Leave all shots to the camera";
        await RemoveAsync(scope, await scope.SceneAsync(edit.Scene), (_, _) => true);
    }

    private static async Task RemoveAsync(EditScope scope, LoadedScene scene, Func<double, double, bool> isGone)
    {
        var gone = scene
            .Document.Clips.OfType<ShotClip>()
            .Where(c => scene.Evaluated.SpanOf(c) is var span && isGone(span.Start, span.End))
            .Select(c => c.Id.Value)
            .ToHashSet();
        scope.Db.Clips.RemoveRange(await scope.Db.Clips.Where(c => c.SceneId == scene.Scene.Id && gone.Contains(c.Id)).ToListAsync());
    }
}
