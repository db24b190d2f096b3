using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Props;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Hearings;

namespace Zamblo.Studio.Scenes;

/// <summary>A scene as it stands, ready to be shown.</summary>
public sealed class LoadedScene(SceneRows rows, EvaluatedScene evaluated, int heard)
{
    private readonly ConcurrentDictionary<(Guid, string), StageScene> _alternates = new();
    private readonly ConcurrentDictionary<FrameSize, StageScene> _sizes = new();

    /// <summary>Whose scene.</summary>
    public Production Production => rows.Production;

    /// <summary>The scene itself.</summary>
    public Scene Scene => rows.Scene;

    /// <summary>All lines, also those that have no take yet.</summary>
    public IReadOnlyList<Line> Lines => rows.Lines;

    /// <summary>All takes of all lines, also those that are not in use.</summary>
    public IReadOnlyDictionary<Guid, Take> Takes => rows.Takes;

    /// <summary>What was changed by hand in this production.</summary>
    public HandWork Hand => rows.Hand;

    /// <summary>Clips as rows.</summary>
    public IReadOnlyList<ScoreClip> ClipRows => rows.Clips;

    /// <summary>Rows that are not as they ought to be, as they are shown.</summary>
    public IReadOnlyList<SpoiltRow> Spoilt => rows.Spoilt;

    /// <summary>What is decided, as plain values.</summary>
    public SceneDocument Document => evaluated.Document;

    /// <summary>Lines with a voice in their places, sounds, spans of clips.</summary>
    public EvaluatedScene Evaluated => evaluated;

    /// <summary>What is seen.</summary>
    public StageScene Stage => evaluated.Stage;

    /// <summary>Grows with every analysis that comes in: that changes the picture without an edit.</summary>
    public int Heard => heard;

    /// <summary>Everybody on stage.</summary>
    public IReadOnlyList<SceneMember> Members => Document.Members;

    /// <summary>A line in its place, or null while it has no voice.</summary>
    public PlacedLine? Find(Guid line) => evaluated.Find(new LineId(line));

    /// <summary>A line in its place.</summary>
    /// <exception cref="RequestException">It has no voice yet.</exception>
    public PlacedLine Voiced(Guid line) => Find(line) ?? throw new RequestException("This line has no voice yet.");

    /// <summary>A line with its cues, or null while it has no take or nobody has listened.</summary>
    public PlacedSpeech? Spoken(Guid line) => evaluated.Spoken(new LineId(line));

    /// <summary>Someone on stage.</summary>
    /// <exception cref="NotFoundException">There is no such member.</exception>
    public SceneMember Member(Guid id) => Members.FirstOrDefault(m => m.Id.Value == id) ?? throw new NotFoundException("such cast member");

    /// <summary>Where a cast member stands among the others, from 0.</summary>
    /// <exception cref="NotFoundException">There is no such member.</exception>
    public int IndexOf(Guid member) =>
        Members.ToList().FindIndex(m => m.Id.Value == member) is var index and >= 0 ? index : throw new NotFoundException("such cast member");

    /// <summary>A clip of this scene.</summary>
    /// <exception cref="NotFoundException">There is none.</exception>
    public LaneClip Clip(Guid id) => Document.Clips.FirstOrDefault(c => c.Id.Value == id) ?? throw new NotFoundException("such clip");

    /// <summary>What people call a clip.</summary>
    public string TitleOf(LaneClip clip) =>
        clip is HoldClip hold && PropStock.Find(Document.Props.FirstOrDefault(p => p.Id == hold.Prop)?.Art) is { } held
            ? $"Holds {held.Name.ToLowerInvariant()}"
            : Scenes.ClipRows.Title(clip, Members.Select(m => (m.Id, m.RoleName)));

    /// <summary>What is said in a line: as somebody wrote it, or else as it was heard; empty where nobody knows.</summary>
    public string WrittenOf(Line line) => line.Text.Trim() is { Length: > 0 } text ? text : Find(line.Id)?.Speech?.Draft ?? "";

    /// <summary>When the speech of each line with a voice starts and ends, and where its take lies.</summary>
    public (LineTime[] Times, double[] Starts) Timing() => ([.. evaluated.Lines.Select(l => l.Time)], [.. evaluated.Lines.Select(l => l.Start)]);

    /// <summary>The same scene with something else decided: nothing is kept.</summary>
    public EvaluatedScene With(SceneDocument other, CastLibrary library) =>
        SceneEvaluator.Evaluate(other, l => evaluated.Find(l.Id)?.Speech, library, Typesetter.Shared);

    /// <summary>The stage as it is in a picture of another size, where what is written is laid out anew.</summary>
    /// <param name="size">Of the picture.</param>
    /// <param name="library">Characters.</param>
    public StageScene In(FrameSize size, CastLibrary library)
    {
        // Whoever tries all sizes that there are does not fill the memory.
        if (_sizes.Count > MostSizes)
            _sizes.Clear();
        return _sizes.GetOrAdd(size, s => With(Document with { Width = s.Width, Height = s.Height }, library).Stage);
    }

    private const int MostSizes = 16;

    /// <summary>The stage with other dials of one member: for looking at alternatives side by side.</summary>
    /// <param name="member">Whose.</param>
    /// <param name="key">Of the dials.</param>
    /// <param name="dials">The dials.</param>
    /// <param name="library">Characters.</param>
    public StageScene Alternate(Guid member, string key, PerformanceDials dials, CastLibrary library) =>
        _alternates.GetOrAdd(
            (member, key),
            _ => With(Document with { Members = [.. Members.Select(m => m.Id.Value == member ? m with { Performance = dials } : m)] }, library).Stage
        );
}

/// <summary>A scene in the list of a production.</summary>
public sealed record SceneCard(Guid Id, string Title, int Lines);

/// <summary>Loads scenes from the database and keeps the last few.</summary>
public sealed class SceneDesk(
    IDbContextFactory<ZambloContext> contexts,
    VoiceStore voices,
    CastLibrary library,
    AssetStore assets,
    Characters.PlateStore plates
)
{
    private const int Kept = 16;
    private readonly ConcurrentDictionary<Guid, (long Revision, LoadedScene Scene)> _kept = new();

    /// <summary>A scene at its current revision.</summary>
    /// <exception cref="NotFoundException">There is none.</exception>
    public async Task<LoadedScene> LoadAsync(Guid sceneId)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var revision =
            await db.Scenes.Where(s => s.Id == sceneId).Join(db.Productions, s => s.ProductionId, p => p.Id, (_, p) => (long?)p.Revision).FirstOrDefaultAsync()
            ?? throw new NotFoundException("such scene");
        if (_kept.TryGetValue(sceneId, out var kept) && kept.Revision == revision && kept.Scene.Heard == HeardIn(kept.Scene.Document))
            return kept.Scene;
        var (rows, document) = await SceneReader.ReadAsync(db, sceneId, library);
        foreach (var hash in document.Pictures)
            PictureShelf.Know(hash, assets.PathOf(hash));
        plates.Ready(document.Film);
        var heard = HeardIn(document);
        var loaded = new LoadedScene(rows, SceneEvaluator.Evaluate(document, l => voices.AtHand(l).Speech, library, Typesetter.Shared), heard);
        _kept[sceneId] = (rows.Production.Revision, loaded);
        if (_kept.Count > Kept)
            foreach (var old in _kept.Keys.Where(k => k != sceneId).Take(Kept / 2))
                _kept.TryRemove(old, out _);
        return loaded;
    }

    /// <summary>The scene that a line is in.</summary>
    /// <exception cref="NotFoundException">There is no such line.</exception>
    public async Task<LoadedScene> LoadOfLineAsync(Guid line)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return await LoadAsync(
            await db.Lines.Where(l => l.Id == line).Select(l => (Guid?)l.SceneId).FirstOrDefaultAsync() ?? throw new NotFoundException("such line")
        );
    }

    /// <summary>The scenes of a production in order.</summary>
    public async Task<IReadOnlyList<SceneCard>> ScenesAsync(Guid production)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return await db
            .Scenes.Where(s => s.ProductionId == production)
            .OrderBy(s => s.Order)
            .Select(s => new SceneCard(s.Id, s.Title, db.Lines.Count(l => l.SceneId == s.Id)))
            .ToListAsync();
    }

    /// <summary>The cast of a scene's production, in order.</summary>
    /// <exception cref="NotFoundException">There is no such scene.</exception>
    public async Task<IReadOnlyList<CastMember>> CastOfAsync(Guid scene)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var row = await db.Scenes.AsNoTracking().FirstOrDefaultAsync(s => s.Id == scene) ?? throw new NotFoundException("such scene");
        return await db.CastMembers.AsNoTracking().Where(m => m.ProductionId == row.ProductionId).OrderBy(m => m.Order).ToListAsync();
    }

    private int HeardIn(SceneDocument document) =>
        document.Lines.Sum(l =>
            voices.AtHand(l) is (var speech, var isFinal)
                ? isFinal
                    ? 2
                    : speech != null
                        ? 1
                        : 0
                : 0
        );
}
