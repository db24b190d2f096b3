using System.Collections.Concurrent;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;

namespace Zamblo.Web.Services;

/// <summary>A scene as it stands, ready to be shown.</summary>
public sealed class LoadedScene(Production production, Scene scene, SceneTicket ticket, IReadOnlyList<Line> lines, IReadOnlyDictionary<Guid, Take> takes, Func<TicketLine, SpeechAnalysis?> speechOf)
{
    private readonly Lazy<StageScene> _stage = new(() => ticket.ToScene(speechOf));

    public Production Production { get; } = production;
    public Scene Scene { get; } = scene;
    public SceneTicket Ticket { get; } = ticket;
    /// <summary>All lines, also those that have no take yet.</summary>
    public IReadOnlyList<Line> Lines { get; } = lines;
    public IReadOnlyDictionary<Guid, Take> Takes { get; } = takes;
    public StageScene Stage => _stage.Value;
    public SpeechAnalysis? SpeechOf(TicketLine line) => speechOf(line);
}

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
        var takeIds = lines.Where(l => l.TakeId != null).Select(l => l.TakeId!.Value).ToArray();
        var takes = await db.Takes.AsNoTracking().Where(t => takeIds.Contains(t.Id)).ToDictionaryAsync(t => t.Id);
        var ticketLines = new List<TicketLine>();
        var at = scene.LeadIn;
        foreach (var line in lines)
        {
            if (line.TakeId is not { } id || !takes.TryGetValue(id, out var take)) continue;
            var start = line.Start ?? at;
            ticketLines.Add(new TicketLine(line.Id, line.CastMemberId, start, take.Duration, take.AssetHash, take.Name,
                take.SpeechHash ?? VoiceStore.KeyOf(take.AssetHash, string.IsNullOrWhiteSpace(line.Text) ? null : line.Text, VoiceStore.LanguageOf(members.First(m => m.Id == line.CastMemberId).Voice)), take.SpeechHash != null));
            at = start + take.Duration + SceneBuilder.TurnGap;
        }
        var end = ticketLines.Count == 0 ? scene.LeadIn + 2 : ticketLines.Max(l => l.Start + l.Duration);
        var ticket = new SceneTicket(scene.Backdrop, production.Rate, production.Width, production.Height, end + scene.LeadOut,
            [.. members.Select(m => new TicketMember(m.Id, m.RoleName, m.Character, m.Voice, m.Ink, Read<MouthDials>(m.MouthDials), Read<PerformanceDials>(m.PerformanceDials)))], ticketLines);
        var loaded = new LoadedScene(production, scene, ticket, lines, takes, SpeechOf);
        _kept[sceneId] = (production.Revision, Heard(loaded), loaded);
        if (_kept.Count > 16) foreach (var old in _kept.Keys.Where(k => k != sceneId).Take(8)) _kept.TryRemove(old, out _);
        return loaded;
    }

    /// <summary>What was heard in a line, or null while nobody has listened yet.</summary>
    public SpeechAnalysis? SpeechOf(TicketLine line) => line.IsEngine ? voices.Engine(line.SpeechKey) : voices.Find(line.SpeechKey);

    /// <summary>The sound of a scene.</summary>
    public Task<AudioBuffer> MixAsync(LoadedScene scene, CancellationToken cancel) => scene.Ticket.MixAsync(voices, scene.Stage.Duration, cancel);

    // An analysis that comes in later changes the picture without an edit.
    private int Heard(LoadedScene scene) => scene.Ticket.Lines.Count(l => SpeechOf(l) != null);

    private static T Read<T>(string json) where T : new() => json.Length == 0 ? new T() : JsonSerializer.Deserialize<T>(json, JsonSerializerOptions.Web) ?? new T();
}
