using System.Collections.Concurrent;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;

namespace Zamblo.Web.Services;

/// <summary>A scene as it stands, ready to be shown.</summary>
public sealed class LoadedScene(Production production, Scene scene, SceneTicket ticket, IReadOnlyList<Line> lines, IReadOnlyDictionary<Guid, Take> takes, HandWork hand, Func<TicketLine, SpeechAnalysis?> speechOf)
{
    private readonly Lazy<StageScene> _stage = new(() => ticket.ToScene(speechOf));
    private readonly ConcurrentDictionary<Guid, PlacedSpeech?> _placed = new();

    /// <summary>What was changed by hand in this production.</summary>
    public HandWork Hand { get; } = hand;

    /// <summary>A line with its cues, or null while it has no take or nobody has listened.</summary>
    public PlacedSpeech? Placed(Guid line) => _placed.GetOrAdd(line, id =>
        Ticket.Lines.FirstOrDefault(l => l.Id == id) is { } t && SpeechOf(t) is { } speech ? t.Place(speech, Ticket.Members.First(m => m.Id == t.Member).Mouth) : null);

    /// <summary>Where a cast member stands among the others, from 0.</summary>
    /// <exception cref="NotFoundException">There is no such member.</exception>
    public int IndexOf(Guid member) => Ticket.Members.ToList().FindIndex(m => m.Id == member) is var index and >= 0 ? index : throw new NotFoundException("such cast member");

    /// <summary>When the speech of each line with a take starts and ends, as it was laid.</summary>
    public IReadOnlyDictionary<Guid, LineTime> Times { get; init; } = new Dictionary<Guid, LineTime>();

    public Production Production { get; } = production;
    public Scene Scene { get; } = scene;
    public SceneTicket Ticket { get; } = ticket;
    /// <summary>All lines, also those that have no take yet.</summary>
    public IReadOnlyList<Line> Lines { get; } = lines;
    /// <summary>All takes of all lines, also those that are not in use.</summary>
    public IReadOnlyDictionary<Guid, Take> Takes { get; } = takes;
    public StageScene Stage => _stage.Value;
    public SpeechAnalysis? SpeechOf(TicketLine line) => speechOf(line);

    /// <summary>What is said in a line: as somebody wrote it, or else as it was heard; empty where nobody knows.</summary>
    public string WrittenOf(Line line) => line.Text.Trim() is { Length: > 0 } text ? text : Ticket.Lines.FirstOrDefault(l => l.Id == line.Id) is { } t && SpeechOf(t) is { } speech ? speech.Draft : "";
}

/// <summary>What was changed by hand: rows as they are in the database.</summary>
public sealed record HandWork(IReadOnlyList<LineTouch> Touches, IReadOnlyList<TakeMark> Marks, IReadOnlyList<TakePin> Pins, IReadOnlyList<Respelling> Respellings)
{
    /// <summary>Of some lines and takes, as queries: a long scene has hundreds, and they are not to travel.</summary>
    public static async Task<HandWork> LoadAsync(ZambloContext db, Guid production, IQueryable<Guid> lines, IQueryable<Guid> takes) => new(
        await db.Touches.AsNoTracking().Where(t => lines.Contains(t.LineId)).OrderBy(t => t.Order).ToListAsync(),
        await db.Marks.AsNoTracking().Where(m => takes.Contains(m.TakeId)).OrderBy(m => m.Start).ToListAsync(),
        await db.Pins.AsNoTracking().Where(p => takes.Contains(p.TakeId)).OrderBy(p => p.Time).ToListAsync(),
        await db.Respellings.AsNoTracking().Where(r => r.ProductionId == production).OrderBy(r => r.Word).ToListAsync());

    /// <summary>The touch-ups of a line, in order.</summary>
    public IEnumerable<TouchUp> TouchesOf(Guid line, bool onlyOn) => Touches.Where(t => t.LineId == line && (t.IsOn || !onlyOn)).Select(Read);

    public static TouchUp Read(LineTouch row) => JsonSerializer.Deserialize<TouchUp>(row.Data, JsonSerializerOptions.Web)! with { Id = row.Id };

    /// <summary>What is known about the sound of a line.</summary>
    /// <param name="text">Of the line.</param>
    /// <param name="take">Whose sound.</param>
    /// <param name="voice">Of who says it: tells the language.</param>
    /// <param name="part">Of the sound that the take is, or null.</param>
    public SpeechQuery QueryOf(string text, Guid take, string voice, SoundPart? part)
    {
        var script = string.IsNullOrWhiteSpace(text) ? null : text.Trim();
        var words = script == null ? [] : ScriptText.PlainWords(script).Select(w => w.Text.ToLowerInvariant()).ToHashSet();
        return new SpeechQuery(script, VoiceStore.LanguageOf(voice))
        {
            Part = part,
            Marks = [.. Marks.Where(m => m.TakeId == take).Select(m => new VoiceMark(m.Start, m.End, m.IsVoice))],
            Pins = [.. Pins.Where(p => p.TakeId == take).Select(p => new BoundaryPin(p.Word, p.Near, p.Phone, p.Time))],
            Pronunciations = Respellings.Where(r => words.Contains(r.Word)).ToDictionary(r => r.Word, r => r.Phones.Split(' ')),
        };
    }
}

/// <summary>A scene in the list of a production.</summary>
public sealed record SceneCard(Guid Id, string Title, int Lines);

/// <summary>Loads scenes from the database and keeps the last few.</summary>
public sealed class SceneDesk(IDbContextFactory<ZambloContext> contexts, VoiceStore voices)
{
    private readonly ConcurrentDictionary<Guid, (long Revision, int Heard, LoadedScene Scene)> _kept = new();

    /// <summary>A scene at its current revision.</summary>
    /// <exception cref="NotFoundException">There is none.</exception>
    public async Task<LoadedScene> LoadAsync(Guid sceneId)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var scene = await db.Scenes.AsNoTracking().FirstOrDefaultAsync(s => s.Id == sceneId) ?? throw new NotFoundException("such scene");
        var production = await db.Productions.AsNoTracking().FirstAsync(p => p.Id == scene.ProductionId);
        if (_kept.TryGetValue(sceneId, out var kept) && kept.Revision == production.Revision && kept.Heard == Heard(kept.Scene)) return kept.Scene;

        var members = await db.CastMembers.AsNoTracking().Where(m => m.ProductionId == production.Id).OrderBy(m => m.Order).ToListAsync();
        var lines = await db.Lines.AsNoTracking().Where(l => l.SceneId == sceneId).OrderBy(l => l.Order).ToListAsync();
        var lineIds = db.Lines.Where(l => l.SceneId == sceneId).Select(l => l.Id);
        var takes = await db.Takes.AsNoTracking().Where(t => lineIds.Contains(t.LineId)).ToDictionaryAsync(t => t.Id);
        var hand = await HandWork.LoadAsync(db, production.Id, lineIds, db.Lines.Where(l => l.SceneId == sceneId && l.TakeId != null).Select(l => l.TakeId!.Value));
        var ticketLines = new List<TicketLine>();
        foreach (var line in lines)
        {
            if (line.TakeId is not { } id || !takes.TryGetValue(id, out var take)) continue;
            var care = Read<VoiceCare>(take.Care);
            ticketLines.Add(new TicketLine(line.Id, line.CastMemberId, 0, care.DurationOf(take.Duration), take.AssetHash, take.Name,
                hand.QueryOf(line.Text, take.Id, members.First(m => m.Id == line.CastMemberId).Voice, VoiceStore.PartOf(take)), take.GuideHash == null ? take.SpeechHash : null, [.. hand.TouchesOf(line.Id, onlyOn: true)])
            { GuideHash = take.GuideHash, Care = care, IsOffStage = line.IsOffStage, IsMute = line.IsMute, Also = [.. line.Also.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(Guid.Parse)] });
        }
        var written = lines.ToDictionary(l => l.Id);
        LineTime[] times = [.. ticketLines.Select(l => LineTime.Of(l.Duration, SpeechOf(l), written[l.Id].Start, written[l.Id].Pause))];
        var starts = Timing.Lay(times, scene.LeadIn, scene.Gap);
        ticketLines = [.. ticketLines.Zip(starts, (l, start) => l with { Start = start })];
        var clips = await db.Clips.AsNoTracking().Where(c => c.SceneId == sceneId).ToListAsync();
        var end = ticketLines.Count == 0 ? scene.LeadIn + 2 : ticketLines.Max(l => l.Start + l.Duration);
        var ticket = new SceneTicket(scene.Backdrop, production.Rate, production.Width, production.Height, end + scene.LeadOut,
            [.. members.Select(m => new TicketMember(m.Id, m.RoleName, m.Character, m.Voice, m.Ink, Read<MouthDials>(m.MouthDials), Read<PerformanceDials>(m.PerformanceDials)))], ticketLines)
        {
            Sounds = await db.Sounds.AsNoTracking().Where(s => s.SceneId == sceneId).OrderBy(s => s.Start).ToListAsync(),
            Clips = [.. clips.Select(c => new TicketClip(c.Id, c.CastMemberId, c.LineId, c.Kind, c.Name, (float)c.Strength, JsonSerializer.Deserialize<ClipData>(c.Data, JsonSerializerOptions.Web)!))],
        };
        var loaded = new LoadedScene(production, scene, ticket, lines, takes, hand, SpeechOf) { Times = ticketLines.Zip(times).ToDictionary(x => x.First.Id, x => x.Second) };
        _kept[sceneId] = (production.Revision, Heard(loaded), loaded);
        if (_kept.Count > 16) foreach (var old in _kept.Keys.Where(k => k != sceneId).Take(8)) _kept.TryRemove(old, out _);
        return loaded;
    }

    /// <summary>The scenes of a production in order.</summary>
    public async Task<IReadOnlyList<SceneCard>> ScenesAsync(Guid production)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return await db.Scenes.Where(s => s.ProductionId == production).OrderBy(s => s.Order).Select(s => new SceneCard(s.Id, s.Title, db.Lines.Count(l => l.SceneId == s.Id))).ToListAsync();
    }

    /// <summary>What was heard in a line, or null while nobody has listened yet.</summary>
    public SpeechAnalysis? SpeechOf(TicketLine line) => voices.AtHand(line).Speech;

    /// <summary>Whether nothing about a line is still to be listened to.</summary>
    public bool IsFinal(TicketLine line) => voices.AtHand(line).IsFinal;

    /// <summary>The sound of a part of a scene.</summary>
    public Task<AudioBuffer> MixAsync(LoadedScene scene, double from, double to, Guid? bare, CancellationToken cancel) => scene.Ticket.MixAsync(voices, from, to, bare, cancel);

    /// <summary>Grows with every analysis that comes in: that changes the picture without an edit.</summary>
    public int Heard(LoadedScene scene) => scene.Ticket.Lines.Sum(l => voices.AtHand(l) is (var speech, var isFinal) ? isFinal ? 2 : speech != null ? 1 : 0 : 0);

    internal static T Read<T>(string json) => JsonSerializer.Deserialize<T>(json.Length == 0 ? "{}" : json, JsonSerializerOptions.Web)!;
}
