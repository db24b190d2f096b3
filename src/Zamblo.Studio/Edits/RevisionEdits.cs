using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Interchange;
using Zamblo.Core.Score;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>
/// Another version of the whole script: lines that it still has keep everything that hangs on them, whatever they say now, whoever says them and
/// wherever they stand; new ones are made and spoken, what is gone is taken out.
/// </summary>
/// <param name="Text">The script; may be empty where <paramref name="Parts"/> are given.</param>
public sealed record ReviseScript(string Text) : SceneEdit
{
    /// <summary>The speeches, in place of those that the text has; null takes the text's.</summary>
    public IReadOnlyList<ScriptPart>? Parts { get; init; }

    /// <summary>Headings of the scenes of <see cref="Parts"/>.</summary>
    public IReadOnlyList<string>? Scenes { get; init; }

    /// <summary>Who plays whom; roles that are not named are cast as seems best.</summary>
    public IReadOnlyList<ScriptRole>? Cast { get; init; }

    /// <summary>Lines that are left as they are, though the script says otherwise or does not have them.</summary>
    public IReadOnlyList<Guid>? Left { get; init; }

    /// <summary>Indices of speeches that are not wanted, where they are new.</summary>
    public IReadOnlyList<int>? Unwanted { get; init; }
}

internal sealed class RevisionEdits(ScriptCasting casting) : IEditHandler<ReviseScript>
{
    public async Task<object?> PrepareAsync(ReviseScript edit, CancellationToken cancel) =>
        await ScriptEdits.ReadAsync(edit.Text, edit.Parts, edit.Scenes, edit.Cast, cancel);

    public async Task ApplyAsync(ReviseScript edit, EditScope scope)
    {
        scope.Name = "Bring in a changed script";
        var (db, play) = (scope.Db, scope.Prepared<Screenplay>());
        var (members, joined) = await casting.CastAsync(edit.Cast, scope, play);
        var rows = await db.Scenes.Where(s => s.ProductionId == scope.Production.Id).OrderBy(s => s.Order).ToListAsync();
        var loaded = new List<LoadedScene>();
        foreach (var scene in rows)
            loaded.Add(await scope.SceneAsync(scene.Id));
        // New members are not in the scenes as they were: their roles are called as they will be.
        var known = members.ToDictionary(m => m.Key, m => m.Value.Id, StringComparer.OrdinalIgnoreCase);
        var revision = ScriptRevision.Of(loaded, play, known);
        var left = (edit.Left ?? []).ToHashSet();
        var unwanted = (edit.Unwanted ?? []).ToHashSet();
        var ids = loaded.SelectMany(s => s.Lines).Select(l => l.Id).ToArray();
        var lines = await db.Lines.Where(l => ids.Contains(l.Id)).ToDictionaryAsync(l => l.Id);
        var places = await PlacesAsync(db, rows, lines, revision, play);
        // A scene in which nothing changes stays as it is in time.
        foreach (var scene in loaded.Where(s => IsTouched(s, revision, left, places)))
            LineTiming.Relax(scene, lines);
        var sequences = new Dictionary<Guid, int>();
        var named = ScriptEdits.Named(members);
        int changed = 0,
            made = 0;
        foreach (var row in revision.Rows)
        {
            if (row.Line is not { } id)
            {
                var said = play.Lines[row.Part!.Value];
                if (unwanted.Contains(row.Part.Value))
                    continue;
                var place = places[said.Scene];
                ScriptEdits.Add(scope, place, members[said.Role], Next(place), said, named);
                made++;
                continue;
            }
            var line = lines[id];
            if (row.Part is not { } part)
            {
                if (left.Contains(id))
                    line.Order = Next(line.SceneId);
                else
                {
                    await ProductionRows.RemoveAsync(db, [line]);
                    changed++;
                }
                continue;
            }
            var speech = play.Lines[part];
            if (!left.Contains(id) && !row.IsSame)
            {
                changed++;
                if (places[speech.Scene] != line.SceneId)
                    await TakeAcrossAsync(db, line, places[speech.Scene]);
                if (row.IsMoved)
                    (line.Start, line.Pause) = (null, null);
                if (row.OldRole != null)
                    await LineEdits.GiveAsync(db, line, members[speech.Role]);
                var isSpoken = row.IsWritten && await LineEdits.WriteAsync(scope, line, speech.WithDirection) != null;
                if (
                    row.OldRole != null
                    && !isSpoken
                    && loaded.Any(s => s.Takes.Values.Any(t => t.Id == line.TakeId && t is { Kind: TakeKind.Synthesis, IsOwnVoice: false }))
                )
                    LineEdits.SpeakAgain(scope, line);
            }
            line.Order = Next(line.SceneId);
        }
        scope.Answer = new EditAnswer
        {
            Lines = made,
            Count = changed,
            Members = joined,
            Problems = play.Problems,
        };
        int Next(Guid scene) => sequences[scene] = sequences.GetValueOrDefault(scene) + 1;
    }

    // The scene for each of the script's: the one that most of its lines are in, none before the one of the scene before; else a new one.
    private static async Task<Dictionary<int, Guid>> PlacesAsync(
        ZambloContext db,
        List<Scene> rows,
        Dictionary<Guid, Line> lines,
        ScriptRevision revision,
        Screenplay play
    )
    {
        var places = new Dictionary<int, Guid>();
        var order = rows.ToDictionary(s => s.Id, s => s.Order);
        var taken = new HashSet<Guid>();
        Scene? last = null;
        foreach (var heading in play.Lines.Select(l => l.Scene).Distinct().Order())
        {
            var votes = revision
                .Rows.Where(r => r is { Line: not null, Part: not null, IsMoved: false } && r.Scene == heading)
                .GroupBy(r => lines[r.Line!.Value].SceneId)
                .Where(g => !taken.Contains(g.Key) && (last == null || order.GetValueOrDefault(g.Key) >= order.GetValueOrDefault(last.Id)))
                .OrderByDescending(g => g.Count())
                .ThenBy(g => order[g.Key]);
            var scene = votes.FirstOrDefault() is { } best ? rows.First(s => s.Id == best.Key) : null;
            // A script without scenes belongs where everything is.
            scene ??= last == null ? rows.FirstOrDefault(s => !lines.Values.Any(l => l.SceneId == s.Id)) : null;
            if (scene == null)
            {
                var title = ScriptEdits.HeadingOf(play, heading);
                scene = await SceneEdits.AddAfterAsync(db, last ?? rows[^1], title);
                scene.Backdrop = SetWords.SetOf(title ?? "") ?? scene.Backdrop;
                order[scene.Id] = last == null ? int.MaxValue : order[last.Id];
            }
            taken.Add(scene.Id);
            places[heading] = scene.Id;
            last = scene;
        }
        return places;
    }

    private static bool IsTouched(LoadedScene scene, ScriptRevision revision, HashSet<Guid> left, Dictionary<int, Guid> places)
    {
        var own = scene.Lines.Select(l => l.Id).ToHashSet();
        return revision.Rows.Any(r =>
            r.Line is { } id ? own.Contains(id) && !r.IsSame && !left.Contains(id) : places.GetValueOrDefault(r.Scene) == scene.Scene.Id
        );
    }

    // What is held or sounds there stays there; all else goes along.
    private static async Task TakeAcrossAsync(ZambloContext db, Line line, Guid scene)
    {
        foreach (var clip in await db.Clips.Where(c => c.LineId == line.Id).ToListAsync())
            if (clip.Kind == ClipKind.Hold)
                db.Clips.Remove(clip);
            else
                (clip.SceneId, clip.PropId) = (scene, null);
        foreach (var sound in await db.Sounds.Where(s => s.LineId == line.Id).ToListAsync())
            sound.SceneId = scene;
        (line.SceneId, line.Start, line.Pause) = (scene, null, null);
    }
}
