using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Interchange;
using Zamblo.Core.Score;
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
        var rows = await db.Scenes.Where(s => s.ProductionId == scope.Production.Id).OrderBy(s => s.Order).ToListAsync();
        var loaded = new List<LoadedScene>();
        foreach (var scene in rows)
            loaded.Add(await scope.SceneAsync(scene.Id));
        var revision = ScriptRevision.Of(loaded, play, ScriptRevision.Roles(play, edit.Cast, await scope.CastAsync()));
        var left = (edit.Left ?? []).ToHashSet();
        var unwanted = revision.Rows.Where(r => r.Line == null).Select(r => r.Part!.Value).Intersect(edit.Unwanted ?? []).ToHashSet();
        // Nobody joins for what is not wanted.
        var (members, joined) = await casting.CastAsync(edit.Cast, scope, play with { Lines = [.. play.Lines.Where((_, i) => !unwanted.Contains(i))] });
        var ids = loaded.SelectMany(s => s.Lines).Select(l => l.Id).ToArray();
        var lines = await db.Lines.Where(l => ids.Contains(l.Id)).ToDictionaryAsync(l => l.Id);
        // A scene in which nothing changes stays as it is in time.
        foreach (var scene in loaded.Where(s => IsTouched(s, revision, left)))
            LineTiming.Relax(scene, lines);
        var sequences = new Dictionary<Guid, int>();
        var places = new Dictionary<int, Scene>();
        var last = rows[0];
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
                var place = await PlaceAsync(said.Scene, null);
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
                if (await PlaceAsync(speech.Scene, line.SceneId) is var place && place != line.SceneId)
                    await TakeAcrossAsync(db, line, place);
                if (row.IsMoved)
                    (line.Start, line.Pause, line.IsTogether) = (null, null, false);
                // The script says so: a place of its own that a hand has given it comes first.
                if (speech.IsTogether && line.Start == null && line.Pause == null)
                    line.IsTogether = true;
                if (row.OldRole != null)
                    await LineEdits.GiveAsync(db, line, members[speech.Role]);
                var isSpoken = row.IsWritten && await LineEdits.WriteAsync(scope, line, speech.WithDirection) != null;
                if (row.OldRole != null && !isSpoken && await db.Takes.AnyAsync(t => t.Id == line.TakeId && t.Kind == TakeKind.Synthesis && !t.IsOwnVoice))
                    LineEdits.SpeakAgain(scope, line);
            }
            line.Order = Next(line.SceneId);
            last = db.Scenes.Local.First(s => s.Id == line.SceneId);
        }
        scope.Answer = new EditAnswer
        {
            Lines = made,
            Count = changed,
            Members = joined,
            Problems = play.Problems,
        };
        int Next(Guid scene) => sequences[scene] = sequences.GetValueOrDefault(scene) + 1;
        // Where a script tells of no scenes a line stays in its own, and a new one goes to the one before it.
        async Task<Guid> PlaceAsync(int heading, Guid? own)
        {
            if (revision.Places.Count == 0)
                return own ?? last.Id;
            if (!places.TryGetValue(heading, out var scene))
            {
                scene = revision.Places[heading] is { } there ? rows.First(s => s.Id == there) : await ScriptEdits.AddSceneAsync(db, last, play, heading);
                places[heading] = scene;
            }
            return (last = scene).Id;
        }
    }

    // Something of it changes, comes in or goes.
    private static bool IsTouched(LoadedScene scene, ScriptRevision revision, HashSet<Guid> left)
    {
        var own = scene.Lines.Select(l => l.Id).ToHashSet();
        var headings = revision.Places.Where(p => p.Value == scene.Scene.Id).Select(p => p.Key).ToHashSet();
        return revision.Rows.Any(r =>
            r.Line is { } id
                ? !r.IsSame && !left.Contains(id) && (own.Contains(id) || headings.Contains(r.Scene))
                : headings.Contains(r.Scene) || revision.Places.Count == 0
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
