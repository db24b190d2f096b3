using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Scenes;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Hearings;

/// <summary>A line to be listened to.</summary>
/// <param name="Line">Which.</param>
/// <param name="Before">What was known when it was listened to last, or null: then only what has changed is listened to.</param>
/// <param name="SceneId">The scene that it is in.</param>
/// <param name="Seconds">Of its sound.</param>
public sealed record ListenOrder(Guid Line, SpeechQuery? Before, Guid? SceneId = null, double Seconds = 0)
{
    /// <summary>What was known when another part of the same sound was listened to, which overlaps with what the line has of it now.</summary>
    public SpeechQuery? Beside { get; init; }
}

/// <summary>How far the hearing of a line is.</summary>
/// <param name="State">Asked, running, there or failed.</param>
/// <param name="Error">Why it failed.</param>
public sealed record HearingView(HearingState State, string? Error);

/// <summary>
/// Has sounds listened to, once each: a sound with what is known about it has a row that says how far it is. What has failed is not asked
/// for again until somebody says so, or knows more.
/// </summary>
public sealed class HearingDesk(IDbContextFactory<ZambloContext> contexts, VoiceStore voices, JobDesk jobs)
{
    /// <summary>The kind of its jobs.</summary>
    public const string Job = "listen";

    /// <summary>Asks for whatever has not been heard yet.</summary>
    /// <param name="production">Whose.</param>
    /// <param name="only">The lines that may sound new; null for all of the production.</param>
    public async Task AskAsync(Guid production, IReadOnlySet<Guid>? only = null)
    {
        // Two who ask for the same sound at once would both order it.
        await _gate.WaitAsync();
        try
        {
            await AskOneAsync(production, only);
        }
        finally
        {
            _gate.Release();
        }
    }

    private readonly SemaphoreSlim _gate = new(1);

    private async Task AskOneAsync(Guid production, IReadOnlySet<Guid>? only)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var lines = await SceneReader.LinesAsync(db, production, only, isHeard: true);
        if (lines.Count == 0)
            return;
        var own = (await db.Hearings.Where(h => h.ProductionId == production).ToListAsync()).ToDictionary(h => h.Key);
        var orders = new List<Job>();
        var ids = lines.Select(l => l.Id.Value).ToArray();
        var scenes = await db.Lines.Where(l => ids.Contains(l.Id)).ToDictionaryAsync(l => l.Id, l => l.SceneId);
        foreach (var line in lines.Where(l => l.EngineHash == null).DistinctBy(VoiceStore.KeyOf))
        {
            var key = VoiceStore.KeyOf(line);
            var isThere = voices.IsThere(key);
            // The same sound with the same words may be another production's, too.
            var row = own.GetValueOrDefault(key) ?? await db.Hearings.FirstOrDefaultAsync(h => h.Key == key);
            if (row != null && (row.State != HearingState.There || isThere))
            {
                // What holds now is what the next change is compared with.
                if (row.State == HearingState.There && row.LineId == line.Id.Value)
                    row.Asked = DateTime.UtcNow;
                continue;
            }
            var before = QueryOf(own.Values.Where(h => h.LineId == line.Id.Value && h.State == HearingState.There && h.Query.Length > 0).MaxBy(h => h.Asked));
            if (row == null)
                db.Hearings.Add(row = new Hearing { Key = key, Query = Column.Write(line.Query) });
            (row.ProductionId, row.LineId, row.State, row.Error, row.Asked) = (
                production,
                line.Id.Value,
                isThere ? HearingState.There : HearingState.Asked,
                null,
                DateTime.UtcNow
            );
            if (!isThere)
                orders.Add(
                    JobDesk.New(
                        Job,
                        production,
                        "Listen",
                        new ListenOrder(line.Id.Value, before, scenes[line.Id.Value], line.TakeDuration)
                        {
                            Beside = before == null ? null : Beside(line, before, own.Values),
                        }
                    )
                );
        }
        db.Jobs.AddRange(orders);
        await db.SaveChangesAsync();
        foreach (var job in orders)
            jobs.Enqueue(job);
    }

    private static SpeechQuery? QueryOf(Hearing? row) => row == null ? null : JsonSerializer.Deserialize<SpeechQuery>(row.Query, JsonSerializerOptions.Web);

    // Where a line has another part of its recording now: the newest hearing of a part that has of it what this line had not.
    private static SpeechQuery? Beside(SceneLine line, SpeechQuery before, IEnumerable<Hearing> known) =>
        line.Query.Part is { } now && before.Part is { } was && now != was
            ? known
                .Where(h => h.LineId != line.Id.Value && h.State == HearingState.There && h.Query.Length > 0)
                .OrderByDescending(h => h.Asked)
                .Select(h => (h.Key, Query: QueryOf(h)!))
                .FirstOrDefault(h =>
                    h.Query.Part is { } p
                    && (p.Start < was.Start && p.End > now.Start && now.Start < was.Start || p.End > was.End && p.Start < now.End && now.End > was.End)
                    && VoiceStore.KeyOf(line.DrivingHash, h.Query) == h.Key
                )
                .Query
            : null;

    /// <summary>Asks for what is missing in every production: once, when the program starts.</summary>
    public async Task AskEverywhereAsync(CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        // Where something is listened to at all.
        var heard = db
            .Takes.Where(t => t.SpeechHash == null || t.GuideHash != null)
            .Join(db.Lines, t => t.LineId, l => l.Id, (_, l) => l.SceneId)
            .Join(db.Scenes, l => l, s => s.Id, (_, s) => s.ProductionId);
        var productions = db.Productions.Where(p => p.DeletedAt == null && heard.Contains(p.Id)).OrderByDescending(p => p.Modified);
        foreach (var id in await productions.Select(p => p.Id).ToListAsync(cancel))
        {
            cancel.ThrowIfCancellationRequested();
            await AskAsync(id);
        }
    }

    /// <summary>Asks once more for what has failed in a line.</summary>
    public async Task RetryAsync(Guid production, Guid line)
    {
        await using (var db = await contexts.CreateDbContextAsync())
            await db.Hearings.Where(h => h.ProductionId == production && h.LineId == line && h.State == HearingState.Failed).ExecuteDeleteAsync();
        await AskAsync(production);
    }

    /// <summary>How far the hearings of lines are; those that are there are left out.</summary>
    public async Task<IReadOnlyDictionary<string, HearingView>> OpenAsync(Guid production)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return await db
            .Hearings.AsNoTracking()
            .Where(h => h.ProductionId == production && h.State != HearingState.There)
            .ToDictionaryAsync(h => h.Key, h => new HearingView(h.State, h.Error));
    }

    internal async Task SetAsync(SceneLine line, HearingState state, string? error)
    {
        var key = VoiceStore.KeyOf(line);
        await using var db = await contexts.CreateDbContextAsync();
        await db.Hearings.Where(h => h.Key == key).ExecuteUpdateAsync(u => u.SetProperty(h => h.State, state).SetProperty(h => h.Error, error));
    }
}
