using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Portraits;
using Zamblo.Core.Scenes;
using Zamblo.Data;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>Somebody is put elsewhere in a scene, made larger or smaller; what is null stays.</summary>
/// <param name="Member">Who.</param>
/// <param name="X">In stage units.</param>
/// <param name="Lift">Above its own ground, in stage units.</param>
/// <param name="Size">1 is the character's own.</param>
/// <param name="Facing">To which side it is turned, -1 to 1.</param>
/// <param name="Step">Further to the front by so many, or to the back.</param>
public sealed record PlaceMember(Guid Member, double? X, double? Lift, double? Size, double? Facing, int? Step) : SceneEdit;

/// <summary>Everybody is turned to whoever stands next; with nobody beside it, somebody is turned to the camera.</summary>
/// <param name="Away">Back to the camera instead.</param>
public sealed record FaceEachOther(bool Away) : SceneEdit;

/// <summary>A mark on the floor of the scene's set: a new one, or one that is renamed or moved; what is null stays.</summary>
/// <param name="Mark">Which; null for a new one.</param>
/// <param name="Name">What people call it.</param>
/// <param name="X">In stage units.</param>
public sealed record SetFloorMark(Guid? Mark, string? Name, double? X) : SceneEdit;

/// <summary>A mark is taken off the floor; walks that led to it lead to where it was.</summary>
public sealed record LiftFloorMark(Guid Mark) : SceneEdit;

/// <summary>Somebody stands by itself again, or everybody.</summary>
public sealed record UnplaceMember(Guid? Member) : SceneEdit;

internal sealed class PlaceEdits : IEditHandler<PlaceMember>, IEditHandler<UnplaceMember>, IEditHandler<FaceEachOther>
{
    public async Task ApplyAsync(PlaceMember edit, EditScope scope)
    {
        var loaded = await scope.SceneAsync(edit.Scene);
        var index = loaded.IndexOf(edit.Member);
        var stage = loaded.Evaluated.Stage;
        if (stage.Cast[index].Figure is PlateFigure)
            throw new RequestException("A clip fills the stage: it stands where it stands.");
        scope.Name = $"Place {loaded.Member(edit.Member).RoleName}";
        var row = await RowAsync(scope.Db, edit.Scene, edit.Member);
        static double Number(double x) => double.IsFinite(x) ? x : throw new RequestException("A place is a number.");
        var place = new MemberPlace(
            (float?)(edit.X is { } across ? Number(across) : row.X),
            (float)(edit.Lift is { } up ? Number(up) : row.Lift),
            (float)(edit.Size is { } size ? Number(size) : row.Size),
            row.Depth,
            (float)(edit.Facing is { } side ? Number(side) : row.Facing)
        ).Clamped();
        if (edit.Step is { } step && step != 0)
            place = place with { Depth = DepthAfter(loaded, index, place.Depth, Math.Sign(step)) };
        SceneReader.Write(place, row);
    }

    /// <summary>The row of somebody in a scene; a new one where there is none, also among those that are not written yet.</summary>
    internal static async Task<Standing> RowAsync(ZambloContext db, Guid scene, Guid member)
    {
        var row =
            db.Standings.Local.FirstOrDefault(s => s.SceneId == scene && s.CastMemberId == member)
            ?? await db.Standings.FirstOrDefaultAsync(s => s.SceneId == scene && s.CastMemberId == member);
        if (row == null)
            db.Standings.Add(
                row = new Standing
                {
                    Id = Guid.NewGuid(),
                    SceneId = scene,
                    CastMemberId = member,
                }
            );
        return row;
    }

    public async Task ApplyAsync(FaceEachOther edit, EditScope scope)
    {
        scope.Name = edit.Away ? "Face the camera" : "Face each other";
        var loaded = await scope.SceneAsync(edit.Scene);
        var stage = loaded.Evaluated.Stage;
        var at = stage.Cast.Select(m => m.X).ToArray();
        for (var i = 0; i < at.Length; i++)
        {
            if (stage.Cast[i].Figure is PlateFigure)
                continue;
            var next = at.Where((_, k) => k != i).OrderBy(x => Math.Abs(x - at[i])).Cast<float?>().FirstOrDefault();
            (await RowAsync(scope.Db, edit.Scene, loaded.Members[i].Id.Value)).Facing = edit.Away || next == null ? 0 : Math.Sign(next.Value - at[i]);
        }
    }

    // Past the next one that is drawn before or after it in its layer, so that every press is seen.
    private static int DepthAfter(LoadedScene scene, int index, int depth, int step)
    {
        var stage = scene.Evaluated.Stage;
        var own = stage.ShapesOf(index).First;
        var next = Enumerable
            .Range(0, stage.Cast.Count)
            .Where(i => i != index && stage.Cast[i].BeforeFront == stage.Cast[index].BeforeFront && (stage.ShapesOf(i).First - own) * step > 0)
            .OrderBy(i => step * stage.ShapesOf(i).First)
            .Select(i => (int?)stage.Cast[i].Depth)
            .FirstOrDefault();
        return next is { } other ? Math.Clamp(other + step, -MemberPlace.Deepest, MemberPlace.Deepest) : depth;
    }

    public async Task ApplyAsync(UnplaceMember edit, EditScope scope)
    {
        scope.Name = edit.Member == null ? "Everybody to their own places" : "Back to its own place";
        scope.Db.Standings.RemoveRange(
            await scope.Db.Standings.Where(s => s.SceneId == edit.Scene && (edit.Member == null || s.CastMemberId == edit.Member)).ToListAsync()
        );
    }
}
