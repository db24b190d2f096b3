using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Web.Jobs;
using Zamblo.Web.Services;

namespace Zamblo.Web.Api;

/// <summary>Sound cut and joined: a file into lines by hand, a line at its edges, two lines into one.</summary>
internal static class CutEndpoints
{
    /// <summary>A stretch of a file that becomes a line.</summary>
    public sealed record Part(double Start, double End, Guid Member, string? Text);
    public sealed record CutFile(long? Revision, string Hash, string Name, Part[] Parts);
    public sealed record MoveEdge(long? Revision, string Edge, double At, bool? Alone);
    public sealed record JoinLines(long? Revision);

    private const int MostParts = 500;
    // So near, in seconds, two turns of a recording touch.
    private const double Touching = 0.02;

    public static void Map(RouteGroupBuilder api)
    {
        // For drawing: greatest amplitudes, 0 to 255, one per column.
        api.MapGet("/assets/{hash}/peaks", async (string hash, double from, double to, int columns, VoiceStore voices, IDbContextFactory<ZambloContext> contexts, CancellationToken cancel) =>
        {
            if (columns is < 1 or > 4000 || !(to > from)) throw new RequestException("There is nothing to draw.");
            var sound = await voices.CaredAsync(hash, await NameAsync(hash, contexts, cancel), new SoundPart(from, to), new VoiceCare(), cancel);
            var peaks = sound.Peaks(columns);
            var bytes = new byte[columns];
            for (var i = 0; i < columns; i++) bytes[i] = (byte)Math.Clamp(255 * Math.Max(-peaks[2 * i], peaks[2 * i + 1]), 0, 255);
            return Results.Json(new { peaks = Convert.ToBase64String(bytes) });
        });
        api.MapGet("/assets/{hash}/sound", async (string hash, double from, double to, VoiceStore voices, IDbContextFactory<ZambloContext> contexts, CancellationToken cancel) =>
        {
            var sound = await voices.CaredAsync(hash, await NameAsync(hash, contexts, cancel), new SoundPart(from, Math.Min(to, from + 600)), new VoiceCare(), cancel);
            var stream = new MemoryStream();
            WavFile.Write(stream, [sound.Samples], sound.SampleRate);
            return Results.Bytes(stream.ToArray(), "audio/wav");
        });
        api.MapPost("/scenes/{id:guid}/parts", async (Guid id, CutFile body, ProductionStore store, VoiceStore voices, MouthEndpoints.Desk hands, IDbContextFactory<ZambloContext> contexts, CancellationToken cancel) =>
        {
            if (body.Parts.Length is 0 or > MostParts) throw new RequestException($"Mark 1 to {MostParts} stretches: each becomes a line.");
            var length = await voices.LengthAsync(body.Hash, await NameAsync(body.Hash, contexts, cancel), cancel);
            var parts = body.Parts.Select(p => p with { Start = Math.Clamp(p.Start, 0, length), End = Math.Clamp(p.End, 0, length) }).OrderBy(p => p.Start).ToArray();
            if (parts.Any(p => !(p.End - p.Start >= 0.1))) throw new RequestException("A stretch lasts at least a tenth of a second.");
            var production = await SceneEndpoints.ProductionOf(contexts, id);
            var revision = await store.EditAsync(production, body.Revision, $"Lines from {body.Name}", async db =>
            {
                var cast = await db.CastMembers.Where(m => m.ProductionId == production).Select(m => m.Id).ToListAsync();
                var order = await db.Lines.Where(l => l.SceneId == id).MaxAsync(l => (int?)l.Order) ?? 0;
                foreach (var p in parts)
                {
                    if (!cast.Contains(p.Member)) throw new NotFoundException("such cast member");
                    var line = new Line { Id = Guid.NewGuid(), SceneId = id, CastMemberId = p.Member, Order = ++order, Text = p.Text?.Trim() ?? "" };
                    var take = new Take { Id = Guid.NewGuid(), LineId = line.Id, Kind = TakeKind.File, AssetHash = body.Hash, Name = body.Name, Duration = p.End - p.Start, PartStart = p.Start, PartEnd = p.End, Created = DateTime.UtcNow };
                    line.TakeId = take.Id;
                    db.Lines.Add(line);
                    db.Takes.Add(take);
                }
            });
            await hands.ListenWhereNeededAsync(production);
            return Results.Json(new { revision, lines = parts.Length });
        });
        api.MapPatch("/lines/{id:guid}/edge", async (Guid id, MoveEdge body, SceneDesk desk, ProductionStore store, VoiceStore voices, MouthEndpoints.Desk hands, IDbContextFactory<ZambloContext> contexts, CancellationToken cancel) =>
        {
            if (body.Edge is not ("start" or "end") || !double.IsFinite(body.At)) throw new RequestException("An edge is the start or the end.");
            var (scene, ticket) = await FindAsync(id, desk, contexts);
            var isStart = body.Edge == "start";
            var whole = await voices.LengthAsync(ticket.AssetHash, ticket.TakeName, cancel);
            var revision = await store.EditAsync(scene.Production.Id, body.Revision, isStart ? "Move the start of a line" : "Move the end of a line", async db =>
            {
                var line = await db.Lines.FirstAsync(l => l.Id == id);
                var take = await db.Takes.FirstAsync(t => t.Id == line.TakeId);
                var care = ticket.Care;
                // By how much the edge moves, in seconds of the sound.
                var by = (body.At - (isStart ? ticket.Start : ticket.Start + ticket.Duration)) * care.Speed;
                var isPart = take is { PartStart: not null, PartEnd: not null };
                if (isPart && (isStart ? care.TrimStart : care.TrimEnd) == 0)
                {
                    var (from, to) = (take.PartStart!.Value, take.PartEnd!.Value);
                    by = isStart ? Math.Clamp(from + by, 0, to - care.TrimEnd - 0.1) - from : Math.Clamp(to + by, from + care.TrimStart + 0.1, whole) - to;
                    if (body.Alone != true) await PushAsync(db, scene, take, isStart ? from : to, by, isStart);
                    await ShiftAsync(db, take, isStart ? from + by : from, isStart ? to : to + by);
                }
                else
                {
                    var trimmed = isStart ? care with { TrimStart = care.TrimStart + by } : care with { TrimEnd = care.TrimEnd - by };
                    trimmed = trimmed.Clamped(take.Duration);
                    by = isStart ? trimmed.TrimStart - care.TrimStart : care.TrimEnd - trimmed.TrimEnd;
                    take.Care = trimmed == new VoiceCare() ? "" : JsonSerializer.Serialize(trimmed, JsonSerializerOptions.Web);
                }
                if (isStart) KeepInPlace(scene, line, by / care.Speed);
            });
            await hands.ListenWhereNeededAsync(scene.Production.Id);
            return Results.Json(new { revision });
        });
        // With the next line of the same member: one line, one take, the pause between them kept.
        api.MapPost("/lines/{id:guid}/join", async (Guid id, JoinLines body, SceneDesk desk, ProductionStore store, VoiceStore voices, AssetStore assets, MouthEndpoints.Desk hands, IDbContextFactory<ZambloContext> contexts, CancellationToken cancel) =>
        {
            var (scene, first) = await FindAsync(id, desk, contexts);
            var second = scene.Ticket.Lines.Where(l => l.Member == first.Member && l.Id != id && l.Start >= first.Start).MinBy(l => l.Start) ?? throw new RequestException("Nothing of the same member comes after this line to be joined with.");
            var offset = second.Start - first.Start;
            if (offset + second.Duration > 3600) throw new RequestException("A line lasts at most an hour.");
            Take a = scene.Takes[scene.Lines.First(l => l.Id == id).TakeId!.Value], b = scene.Takes[scene.Lines.First(l => l.Id == second.Id).TakeId!.Value];
            var joined = new Take { Id = Guid.NewGuid(), LineId = id, Created = DateTime.UtcNow };
            var isOneSound = a.AssetHash == b.AssetHash && first.Care == new VoiceCare() && second.Care == new VoiceCare() && a.GuideHash == null && b.GuideHash == null
                && a.PartStart != null && b.PartEnd != null && Math.Abs(b.PartStart!.Value - a.PartStart.Value - offset) < Touching;
            if (isOneSound)
                (joined.Kind, joined.AssetHash, joined.Name, joined.SpeechHash, joined.PartStart, joined.PartEnd, joined.Duration) = (a.Kind, a.AssetHash, a.Name, a.SpeechHash, a.PartStart, b.PartEnd, b.PartEnd!.Value - a.PartStart!.Value);
            else
            {
                // As the film has them.
                AudioBuffer before = await CaredAsync(first), after = await CaredAsync(second);
                var sound = Mixer.Mix([new(before, 0), new(after, offset)], Math.Max(before.Duration, offset + after.Duration), AudioFiles.MasterRate);
                (joined.Kind, joined.AssetHash, joined.Name, joined.Duration) = (TakeKind.File, await assets.KeepAsync(contexts, sound, "joined.wav", cancel), "joined", sound.Duration);
            }
            Task<AudioBuffer> CaredAsync(TicketLine l) => voices.CaredAsync(l.AssetHash, l.TakeName, l.Query.Part, l.Care, cancel);
            var revision = await store.EditAsync(scene.Production.Id, body.Revision, "Join two lines", async db =>
            {
                var line = await db.Lines.FirstAsync(l => l.Id == id);
                var other = await db.Lines.FirstAsync(l => l.Id == second.Id);
                // Half a script would make strangers of the other half's words: what was only heard stands for it. Where nobody wrote anything it is heard anew.
                if (line.Text.Length + other.Text.Length > 0) line.Text = $"{scene.WrittenOf(line)} {scene.WrittenOf(other)}".Trim();
                // What hangs on the second line moves over, in its own times, until its words are heard here.
                var order = await db.Touches.Where(t => t.LineId == id).MaxAsync(t => (int?)t.Order) ?? 0;
                foreach (var touch in await db.Touches.Where(t => t.LineId == other.Id).OrderBy(t => t.Order).ToListAsync()) (touch.LineId, touch.Order) = (id, ++order);
                var words = scene.SpeechOf(first)?.Words.Count ?? 0;
                foreach (var clip in await db.Clips.Where(c => c.LineId == other.Id).ToListAsync())
                {
                    var data = JsonSerializer.Deserialize<ClipData>(clip.Data, JsonSerializerOptions.Web)!;
                    Core.Score.WordAnchor Later(Core.Score.WordAnchor x) => x with { Word = x.Word < 0 ? x.Word : x.Word + words, Seconds = x.Seconds + offset, Of = 0 };
                    clip.Data = JsonSerializer.Serialize(data with { Start = Later(data.Start), End = data.End is { } end ? Later(end) : null }, JsonSerializerOptions.Web);
                    clip.LineId = id;
                }
                await db.RemoveLinesAsync([other]);
                db.Takes.Add(joined);
                line.TakeId = joined.Id;
            });
            await hands.ListenWhereNeededAsync(scene.Production.Id);
            return Results.Json(new { revision });
        });
    }

    // A turn that touches the edge of this one goes along with it; one that it runs into gives way.
    private static async Task PushAsync(ZambloContext db, LoadedScene scene, Take take, double edge, double by, bool isStart)
    {
        foreach (var ticket in scene.Ticket.Lines.Where(l => l.AssetHash == take.AssetHash))
        {
            var id = scene.Lines.First(l => l.Id == ticket.Id).TakeId!.Value;
            if (id == take.Id || scene.Takes[id] is not { PartStart: { } from, PartEnd: { } to }) continue;
            var near = isStart ? to : from;
            var touches = Math.Abs(near - edge) < Touching;
            var runsInto = isStart ? near < edge && near > edge + by : near > edge && near < edge + by;
            if (!touches && !runsInto) continue;
            var place = edge + by;
            if (isStart ? place < from + 0.1 : place > to - 0.1) throw new RequestException("The line beside it would have nothing left; delete it or join the two.");
            await ShiftAsync(db, await db.Takes.FirstAsync(t => t.Id == id), isStart ? from : place, isStart ? place : to);
            var line = await db.Lines.FirstAsync(l => l.Id == ticket.Id);
            if (!isStart) KeepInPlace(scene, line, (place - from) / ticket.Care.Speed);
        }
    }

    // Another part of the same sound; marks and boundaries by hand stay on the sound.
    private static async Task ShiftAsync(ZambloContext db, Take take, double from, double to)
    {
        var by = take.PartStart!.Value - from;
        foreach (var mark in await db.Marks.Where(m => m.TakeId == take.Id).ToListAsync()) (mark.Start, mark.End) = (mark.Start + by, mark.End + by);
        foreach (var pin in await db.Pins.Where(p => p.TakeId == take.Id).ToListAsync()) (pin.Near, pin.Time) = (pin.Near + by, pin.Time + by);
        (take.PartStart, take.PartEnd, take.Duration) = (from, to, to - from);
    }

    // When its start moves by so many seconds, what is left of a line stays where it was in the scene.
    private static void KeepInPlace(LoadedScene scene, Line line, double by)
    {
        var index = scene.Ticket.Lines.ToList().FindIndex(l => l.Id == line.Id);
        LineTime[] times = [.. scene.Ticket.Lines.Select(l => scene.Times[l.Id])];
        double[] starts = [.. scene.Ticket.Lines.Select(l => l.Start)];
        var was = times[index];
        times[index] = was with { Duration = was.Duration - by, First = Math.Max(0, was.First - by), Last = Math.Max(0, was.Last - by) };
        var place = starts[index] + by;
        if (line.Start != null) line.Start = place;
        else if (was.First < by || was.First == 0)
        {
            if (Timing.PauseFor(times, starts, index, place) is { } pause) line.Pause = pause;
            else line.Start = Math.Max(0, place);
        }
    }

    private static async Task<string> NameAsync(string hash, IDbContextFactory<ZambloContext> contexts, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.Assets.Where(a => a.Hash == hash).Select(a => a.Name).FirstOrDefaultAsync(cancel) ?? throw new NotFoundException("such sound");
    }

    private static async Task<(LoadedScene Scene, TicketLine Line)> FindAsync(Guid id, SceneDesk desk, IDbContextFactory<ZambloContext> contexts)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var scene = await db.Lines.Where(l => l.Id == id).Select(l => (Guid?)l.SceneId).FirstOrDefaultAsync() ?? throw new NotFoundException("such line");
        var loaded = await desk.LoadAsync(scene);
        return (loaded, loaded.Ticket.Lines.FirstOrDefault(l => l.Id == id) ?? throw new RequestException("This line has no voice yet."));
    }
}
