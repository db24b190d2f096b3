using System.Text.Json;
using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Performance;
using Zamblo.Core.Review;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Studio.Scenes;
using Zamblo.Studio.Views;

namespace Zamblo.Studio.Edits;

/// <summary>A flag is fine as it is, or no longer.</summary>
public sealed record CallFine(string? Key, bool IsFine) : Edit
{
    [JsonIgnore]
    public Guid Production { get; init; }
    public override EditTarget Target => new(TargetKind.Production, Production);
}

/// <summary>What a flag is about is mended in the usual way.</summary>
public sealed record FixFlag(string? Key) : SceneEdit;

/// <summary>Keys of flags that somebody has called fine, as a column holds them.</summary>
internal static class FineKeys
{
    public const int Most = 5000;

    public static HashSet<string> Read(string written)
    {
        try
        {
            return written.Length == 0 ? [] : JsonSerializer.Deserialize<HashSet<string>>(written) ?? [];
        }
        catch (JsonException)
        {
            return [];
        }
    }
}

/// <summary>What one click does about a flag.</summary>
internal static class ReviewFixes
{
    /// <summary>In words; null where there is nothing that is right in most cases.</summary>
    public static string? NameOf(ReviewFlag flag, LoadedScene scene) =>
        flag.Kind switch
        {
            ReviewKind.OpenInSilence or ReviewKind.LipsApart or ReviewKind.Chatter when TouchesAt(flag, scene).Any() => "Take back what was touched up here",
            ReviewKind.Overlap => "One after the other",
            ReviewKind.DeadAir => "The scene's pause",
            ReviewKind.LevelJump => "As loud as the others",
            ReviewKind.Noise => "Less noise",
            ReviewKind.HeadStill => "The usual motion",
            ReviewKind.Blinks => "The usual blinks",
            ReviewKind.OutOfPicture or ReviewKind.FaceCut => "A shot of who speaks",
            ReviewKind.Covered => "A shot of who speaks",
            ReviewKind.ShortShot when ShotAt(flag, scene) != null => "Take out this shot",
            ReviewKind.CutGesture when flag.Member != null => "Move it into the scene",
            ReviewKind.LooksAtNobody when LooksAt(flag, scene).Any() => "Take out this look",
            ReviewKind.UnusedTake => "Use the starred take",
            _ => null,
        };

    public static IEnumerable<Guid> TouchesAt(ReviewFlag flag, LoadedScene scene) =>
        scene
            .Evaluated.Lines.Where(l => l.Line.Member == flag.Member && l.Start - 0.3 < flag.End && l.End + 0.3 > flag.Start)
            .SelectMany(l => l.Line.Touches.Where(t => l.Start + t.Start - 0.1 < flag.End && l.Start + t.End + 0.1 > flag.Start))
            .Select(t => t.Id);

    public static IEnumerable<Guid> LooksAt(ReviewFlag flag, LoadedScene scene) =>
        scene
            .Document.Clips.OfType<LookClip>()
            .Where(c => c.Member == flag.Member && c.Aim.Direction != null)
            .Where(c => scene.Evaluated.SpanOf(c) is var (start, end) && start < flag.End && end > flag.Start)
            .Select(c => c.Id.Value);

    public static ClipId? ShotAt(ReviewFlag flag, LoadedScene scene) =>
        scene.Stage.Shots.Shots.FirstOrDefault(s => Math.Abs(s.Start - flag.Start) < 0.01)?.Clip;
}

internal sealed class ReviewEdits(ReviewDesk reviews) : IEditHandler<CallFine>, IEditHandler<FixFlag>
{
    // To which voices are brought, in LUFS: speech on the net is at -16 to -18 (common practice).
    private const double Level = -18;

    // By so many dB noise goes down: it is hardly heard under a voice then, and the voice keeps its air (chosen by ear).
    private const double LessNoise = 12;
    private static readonly WordAnchor Nowhere = new(-1, "", 0, 0, 0);

    public Task ApplyAsync(CallFine edit, EditScope scope)
    {
        scope.Name = edit.IsFine ? "Call it fine" : "Look at it again";
        if (edit.Key is not { Length: > 0 and <= 200 } key)
            throw new RequestException("There is no such flag.");
        var fine = FineKeys.Read(scope.Production.Fine);
        if (edit.IsFine ? fine.Count >= FineKeys.Most : !fine.Contains(key))
            throw new RequestException("There is no such flag.");
        if (edit.IsFine)
            fine.Add(key);
        else
            fine.Remove(key);
        scope.Production.Fine = JsonSerializer.Serialize(fine.Order());
        return Task.CompletedTask;
    }

    public async Task ApplyAsync(FixFlag edit, EditScope scope)
    {
        var scene = await scope.SceneAsync(edit.Scene);
        var flag =
            (await reviews.FlagsAsync(scene)).FirstOrDefault(f => f.Key == edit.Key)
            ?? throw new RequestException("This has changed meanwhile: look it through again.");
        scope.Name = ReviewFixes.NameOf(flag, scene) ?? throw new RequestException("Nothing is right here in most cases: change it by hand.");
        var db = scope.Db;
        switch (flag.Kind)
        {
            case ReviewKind.OpenInSilence or ReviewKind.LipsApart or ReviewKind.Chatter:
                var touches = ReviewFixes.TouchesAt(flag, scene).ToHashSet();
                db.Touches.RemoveRange(await db.Touches.Where(t => touches.Contains(t.Id)).ToListAsync());
                break;
            case ReviewKind.Overlap:
                await MoveAsync(scope, scene, LineOf(flag), scene.Scene.Gap);
                break;
            case ReviewKind.DeadAir:
                var next = scene.Evaluated.Lines.Where(l => l.Start + l.Time.First >= flag.End - 0.05).MinBy(l => l.Start)!;
                await MoveAsync(scope, scene, next.Id.Value, scene.Scene.Gap);
                break;
            case ReviewKind.LevelJump:
                await CareAsync(scope, LineOf(flag), c => c with { Level = Level, Gain = 0 });
                break;
            case ReviewKind.Noise:
                await CareAsync(scope, LineOf(flag), c => c with { Hiss = Math.Max(c.Hiss, LessNoise) });
                break;
            case ReviewKind.HeadStill:
                await DialsAsync(scope, flag, d => d with { Turn = Math.Max(1, d.Turn), Nod = Math.Max(1, d.Nod), Tilt = Math.Max(1, d.Tilt) });
                break;
            case ReviewKind.Blinks:
                await DialsAsync(scope, flag, d => d with { Blinks = 1 });
                break;
            case ReviewKind.OutOfPicture or ReviewKind.FaceCut or ReviewKind.Covered:
                var shot = new ShotClip(new ClipId(Guid.NewGuid()), flag.Member!.Value, null, Framing.Medium, CameraMove.Still, null, Nowhere, Nowhere);
                db.Clips.Add(ClipRows.New(scene.Evaluated.Lay(shot, flag.Start, Math.Max(flag.End, flag.Start + CameraPass.Shortest)), edit.Scene));
                break;
            case ReviewKind.ShortShot:
                var own = ReviewFixes.ShotAt(flag, scene)!.Value.Value;
                db.Clips.RemoveRange(await db.Clips.Where(c => c.Id == own).ToListAsync());
                break;
            case ReviewKind.LooksAtNobody:
                var looks = ReviewFixes.LooksAt(flag, scene).ToHashSet();
                db.Clips.RemoveRange(await db.Clips.Where(c => looks.Contains(c.Id)).ToListAsync());
                break;
            case ReviewKind.UnusedTake:
                var line = LineOf(flag);
                var starred = await db.Takes.Where(t => t.LineId == line && t.IsStarred).OrderByDescending(t => t.Created).FirstAsync();
                Takes.Use(await db.Lines.FirstAsync(l => l.Id == line), starred);
                break;
            case ReviewKind.CutGesture:
                foreach (var clip in scene.Document.Clips.OfType<GestureClip>().Where(c => c.Member == flag.Member))
                {
                    var (start, end) = scene.Evaluated.SpanOf(clip);
                    if (start >= 0 && end <= scene.Stage.Duration)
                        continue;
                    var to = Math.Clamp(start, 0, Math.Max(0, scene.Stage.Duration - (end - start)));
                    ClipRows.Write(scene.Evaluated.Lay(clip, to, to + end - start), await db.Clips.FirstAsync(c => c.Id == clip.Id.Value));
                }
                break;
        }
    }

    private static Guid LineOf(ReviewFlag flag) => flag.Line?.Value ?? throw new RequestException("This is about no line.");

    private static async Task MoveAsync(EditScope scope, LoadedScene scene, Guid line, double pause) =>
        await LineTiming.MoveAsync(scope.Db, scene, await scope.Db.Lines.FirstAsync(l => l.Id == line), null, pause, isAlone: false);

    private static async Task CareAsync(EditScope scope, Guid id, Func<VoiceCare, VoiceCare> change)
    {
        var line = await scope.Db.Lines.FirstAsync(l => l.Id == id);
        var take = await scope.Db.Takes.FirstAsync(t => t.Id == line.TakeId);
        take.Care = Column.Write(change(Column.Read<VoiceCare>(take.Care)).Clamped(take.Duration));
    }

    private static async Task DialsAsync(EditScope scope, ReviewFlag flag, Func<PerformanceDials, PerformanceDials> change)
    {
        var member = await scope.MemberAsync(flag.Member!.Value.Value);
        member.PerformanceDials = Column.Write(change(Column.Read<PerformanceDials>(member.PerformanceDials)).Clamped());
    }
}
