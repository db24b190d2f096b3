using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Light;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>An edit of a scene.</summary>
public abstract record SceneEdit : Edit
{
    [JsonIgnore]
    public Guid Scene { get; init; }
    public override EditTarget Target => new(TargetKind.Scene, Scene);
}

/// <summary>Backdrop, pauses, title, place or camera of a scene. Of the camera only what is named changes.</summary>
public sealed record ChangeScene(string? Backdrop, double? Gap, double? LeadIn, double? LeadOut, string? Title, int? Move) : SceneEdit
{
    public JsonObject? Camera { get; init; }
    public JsonObject? Light { get; init; }
}

/// <summary>A new scene at the end.</summary>
public sealed record AddScene(string? Title) : Edit
{
    [JsonIgnore]
    public Guid Production { get; init; }
    public override EditTarget Target => new(TargetKind.Production, Production);
}

/// <summary>A scene is taken out with all that is in it.</summary>
public sealed record RemoveScene : SceneEdit;

/// <summary>Lines that begin at or after a moment become a scene of their own, with what hangs on them, in the same rhythm.</summary>
public sealed record CutScene(double At) : SceneEdit;

/// <summary>All pauses between lines at once: longer or shorter by a factor, or, without one, the scene's own.</summary>
public sealed record ChangeGaps(double? Factor) : SceneEdit;

/// <summary>Stillness at a moment: what begins after it comes later.</summary>
public sealed record PutBeat(double At, double Seconds) : SceneEdit;

/// <summary>What could not be read as it stands is from now on as it is shown; of what nothing can be shown is taken out.</summary>
public sealed record MendScene : SceneEdit;

internal sealed class SceneEdits(CastLibrary library)
    : IEditHandler<ChangeScene>,
        IEditHandler<AddScene>,
        IEditHandler<RemoveScene>,
        IEditHandler<CutScene>,
        IEditHandler<ChangeGaps>,
        IEditHandler<PutBeat>,
        IEditHandler<MendScene>
{
    private const int LongestTitle = 120;

    public async Task ApplyAsync(ChangeScene edit, EditScope scope)
    {
        if (edit.Backdrop != null && !library.HasBackdrop(edit.Backdrop))
            throw new RequestException($"There is no backdrop \"{edit.Backdrop}\".");
        scope.Name =
            edit.Backdrop != null ? "Change the backdrop"
            : edit.Title != null ? "Rename the scene"
            : edit.Move != null ? "Move the scene"
            : edit.Camera != null ? "Change the camera"
            : edit.Light != null ? "Change the light"
            : "Change the pauses";
        var scene = await scope.Db.Scenes.FirstAsync(s => s.Id == edit.Scene);
        if (edit.Backdrop != null)
            (scene.Backdrop, scene.BackdropHash) = (PictureSet.Read(edit.Backdrop)?.Key ?? edit.Backdrop, await PictureOfAsync(scope.Db, edit.Backdrop));
        if (edit.Camera != null)
            scene.Camera = Column.Write(Dials.Turned(Column.Read<CameraDials>(scene.Camera), edit.Camera).Clamped());
        if (edit.Light != null)
            scene.Light = Column.Write(Dials.Turned(Column.Read<LightDials>(scene.Light), edit.Light).Clamped());
        if (edit.Gap is { } gap)
            scene.Gap = Check.Range(gap, -1, 10, "A pause");
        if (edit.LeadIn is { } before)
            scene.LeadIn = Check.Range(before, 0, 60, "A lead");
        if (edit.LeadOut is { } after)
            scene.LeadOut = Check.Range(after, 0, 60, "A lead");
        if (edit.Title != null)
            scene.Title = Check.Name(edit.Title, LongestTitle, "The title of a scene");
        if (edit.Move is { } places)
        {
            var all = await scope.Db.Scenes.Where(s => s.ProductionId == scene.ProductionId).OrderBy(s => s.Order).ToListAsync();
            var from = all.IndexOf(scene);
            all.RemoveAt(from);
            all.Insert((int)Math.Clamp((long)from + places, 0, all.Count), scene);
            for (var i = 0; i < all.Count; i++)
                all[i].Order = i + 1;
        }
    }

    public async Task ApplyAsync(MendScene edit, EditScope scope)
    {
        scope.Name = "Keep what is shown";
        var mender = new RowMender(library);
        foreach (var spoilt in (await scope.SceneAsync(edit.Scene)).Spoilt)
        {
            var id = scope.Db.Entry(spoilt.Row).Property("Id").CurrentValue;
            if (await scope.Db.FindAsync(spoilt.Row.GetType(), id) is not { } row)
                continue;
            if (spoilt.Fields.Count > 0)
                mender.Mend(row);
            else
                await ProductionRows.RemoveAsync(scope.Db, [row]);
        }
    }

    public async Task ApplyAsync(AddScene edit, EditScope scope)
    {
        scope.Name = "Add a scene";
        var last = await scope.Db.Scenes.Where(s => s.ProductionId == scope.Production.Id).OrderBy(s => s.Order).LastAsync();
        var scene = await AddAfterAsync(scope.Db, last, edit.Title == null ? null : Check.Name(edit.Title, LongestTitle, "The title of a scene"));
        // The set goes on: so does whatever is under way when the last scene ends.
        var before = await scope.SceneAsync(last.Id);
        await new Carry(scope.Db, before, before.Evaluated.Duration, scene, 0).ApplyAsync(new HashSet<Guid>());
        scope.Answer = new EditAnswer { Id = scene.Id };
    }

    public async Task ApplyAsync(RemoveScene edit, EditScope scope)
    {
        scope.Name = "Take out a scene";
        if (await scope.Db.Scenes.CountAsync(s => s.ProductionId == scope.Production.Id) < 2)
            throw new RequestException("A production has at least one scene.");
        await ProductionRows.RemoveAsync(scope.Db, [await scope.Db.Scenes.FirstAsync(s => s.Id == edit.Scene)]);
    }

    public async Task ApplyAsync(CutScene edit, EditScope scope)
    {
        scope.Name = "Cut the scene in two";
        var db = scope.Db;
        var loaded = await scope.SceneAsync(edit.Scene);
        var lines = loaded.Evaluated.Lines;
        var later = lines.Where(l => l.Start >= edit.At - 1e-6).Select(l => l.Id.Value).ToHashSet();
        if (later.Count == 0 || later.Count == lines.Count)
            throw new RequestException("Put the playhead between two lines: what begins after it becomes the next scene.");
        var scene = await db.Scenes.FirstAsync(s => s.Id == edit.Scene);
        var second = await AddAfterAsync(db, scene, null);
        (second.Backdrop, second.BackdropHash) = (scene.Backdrop, scene.BackdropHash);
        (second.Gap, second.LeadIn, second.LeadOut) = (scene.Gap, scene.LeadIn, scene.LeadOut);
        var shift = scene.LeadIn - lines.Where(l => later.Contains(l.Id.Value)).Min(l => l.Start);
        // What goes on over the cut goes on in the second scene.
        var props = await new Carry(db, loaded, -shift, second, loaded.Evaluated.Duration + shift).ApplyAsync(later);
        // What sounds after the cut goes along, and what hangs on a line that goes; what goes on over it, such as music, stays.
        foreach (var sound in await db.Sounds.Where(s => s.SceneId == edit.Scene).ToListAsync())
            if (sound.LineId is { } on ? later.Contains(on) : sound.Start >= edit.At)
                (sound.SceneId, sound.Start) = (second.Id, Math.Max(0, sound.Start + shift));
        var order = 0;
        // Lines without a voice yet go with the line before them.
        var goes = false;
        foreach (var line in await db.Lines.Where(l => l.SceneId == edit.Scene).OrderBy(l => l.Order).ToListAsync())
        {
            if (loaded.Find(line.Id) is { } placed)
            {
                goes = later.Contains(line.Id);
                // Each keeps its moment: who follows whom may have changed.
                if (goes)
                    (line.Start, line.Pause) = (Math.Max(0, placed.Start + shift), null);
            }
            if (goes)
                (line.SceneId, line.Order) = (second.Id, ++order);
        }
        var free = loaded.Document.Clips.Where(c => c.Line == null).ToDictionary(c => c.Id.Value, c => (Clip: c, Span: loaded.Evaluated.SpanOf(c)));
        foreach (var clip in await db.Clips.Where(c => c.SceneId == edit.Scene).ToListAsync())
        {
            if (clip.LineId is { } on ? !later.Contains(on) : !(free.TryGetValue(clip.Id, out var own) && own.Span.Start >= edit.At))
                continue;
            // What stands in the scene by itself keeps its moment, as lines do.
            if (clip.LineId == null && free[clip.Id] is var (laid, (from, to)))
                ClipRows.Write(laid.At(null, 0, null, Math.Max(0, from + shift), to + shift), clip);
            (clip.SceneId, clip.PropId) = (second.Id, clip.PropId is { } held ? props[new PropId(held)].Value : null);
        }
        scope.Answer = new EditAnswer { Id = second.Id };
    }

    public async Task ApplyAsync(ChangeGaps edit, EditScope scope)
    {
        if (edit.Factor is not (null or (>= 0.1 and <= 10)))
            throw new RequestException("Pauses can become ten times as long, or a tenth.");
        scope.Name = edit.Factor switch
        {
            null => "Even out the pauses",
            > 1 => "Longer pauses",
            _ => "Shorter pauses",
        };
        var scene = await scope.SceneAsync(edit.Scene);
        var (times, starts) = scene.Timing();
        var lines = await scope.Db.Lines.Where(l => l.SceneId == edit.Scene).ToDictionaryAsync(l => l.Id);
        for (var i = 1; i < starts.Length; i++)
        {
            var line = lines[scene.Evaluated.Lines[i].Id.Value];
            var pause = Timing.PauseFor(times, starts, i, starts[i]);
            // Who interrupts goes on interrupting: an overlap is no gap.
            if (edit.Factor is { } factor)
                (line.Start, line.Pause) = (null, pause > 0 ? Math.Round(pause.Value * factor, 3) : pause);
            else
                (line.Start, line.Pause) = (null, null);
        }
    }

    public async Task ApplyAsync(PutBeat edit, EditScope scope)
    {
        if (edit.Seconds is not (>= 0.04 and <= 60))
            throw new RequestException("A beat lasts 0.04 to 60 seconds.");
        scope.Name = "Put in a beat";
        var scene = await scope.SceneAsync(edit.Scene);
        var next =
            scene.Evaluated.Lines.Where(l => l.Start >= edit.At - 1e-6).OrderBy(l => l.Start).FirstOrDefault()
            ?? throw new RequestException("Put the playhead before the line that is to come later.");
        await LineTiming.MoveAsync(
            scope.Db,
            scene,
            await scope.Db.Lines.FirstAsync(l => l.Id == next.Id.Value),
            next.Start + edit.Seconds,
            null,
            isAlone: false
        );
    }

    /// <summary>The asset that a backdrop needs: a picture of one's own; null for one that comes with the program.</summary>
    /// <exception cref="RequestException">The picture has not come in.</exception>
    internal static async Task<string?> PictureOfAsync(ZambloContext db, string backdrop)
    {
        if (PictureSet.Read(backdrop) is not { } picture)
            return null;
        return await db.Assets.AnyAsync(a => a.Hash == picture.Hash) ? picture.Hash : throw new RequestException("This picture is not there: bring it again.");
    }

    /// <summary>A new scene behind another one.</summary>
    public static async Task<Scene> AddAfterAsync(ZambloContext db, Scene before, string? title)
    {
        await db.Scenes.Where(s => s.ProductionId == before.ProductionId).LoadAsync();
        var all = db.Scenes.Local.Where(s => s.ProductionId == before.ProductionId).ToList();
        foreach (var later in all.Where(s => s.Order > before.Order))
            later.Order++;
        var number = all.Count;
        for (; title == null || all.Exists(s => s.Title == title); title = $"Scene {number}")
            number++;
        var scene = new Scene
        {
            Id = Guid.NewGuid(),
            ProductionId = before.ProductionId,
            Order = before.Order + 1,
            Title = title,
            Backdrop = before.Backdrop,
            BackdropHash = before.BackdropHash,
            // A fade is of the scene that has it.
            Camera = Column.Write(Column.Read<CameraDials>(before.Camera).Faded(default)),
            Light = before.Light,
        };
        db.Scenes.Add(scene);
        return scene;
    }
}
