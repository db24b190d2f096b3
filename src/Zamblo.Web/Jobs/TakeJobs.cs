using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Web.Api;
using Zamblo.Web.Services;

namespace Zamblo.Web.Jobs;

/// <summary>A take to be made: for an existing line, or for a line that comes into being with it.</summary>
public sealed record TakeOrder(Guid SceneId, Guid? LineId, Guid MemberId, string Text, TakeKind Kind, string? Hash, string Name, Delivery? Delivery = null, PunchIn? Punch = null);

/// <summary>A recording that is laid into an earlier take.</summary>
/// <param name="Take">Into which.</param>
/// <param name="At">Where it starts, in seconds of that take's sound as it came.</param>
/// <param name="KeepsRest">What comes after as much as was recorded stays; else the recording is the end.</param>
public sealed record PunchIn(Guid Take, double At, bool KeepsRest);

/// <summary>Puts a finished take under its line, as one edit.</summary>
internal static class TakeFiling
{
    public static async Task FileAsync(ProductionStore store, Guid production, TakeOrder order, Take take)
    {
        var text = order.Text.Trim();
        var what = order.LineId != null ? "Another take" : order.Kind switch { TakeKind.Synthesis => "Speak a line", TakeKind.Recording => "Record a line", _ => $"Import {order.Name}" };
        await store.EditAsync(production, null, what, async db =>
        {
            Line line;
            if (order.LineId is { } id) line = await db.Lines.FirstOrDefaultAsync(l => l.Id == id) ?? throw new NotFoundException("line for this take");
            else
            {
                var last = await db.Lines.Where(l => l.SceneId == order.SceneId).MaxAsync(l => (int?)l.Order) ?? 0;
                line = new Line { Id = Guid.NewGuid(), SceneId = order.SceneId, CastMemberId = order.MemberId, Order = last + 1, Text = text };
                db.Lines.Add(line);
            }
            if (order.Kind == TakeKind.Synthesis)
            {
                line.Text = take.SpokenText = text;
                line.Delivery = take.SpokenDelivery = JsonSerializer.Serialize(order.Delivery ?? new Delivery(), JsonSerializerOptions.Web);
            }
            take.LineId = line.Id;
            db.Takes.Add(take);
            line.TakeId = take.Id;
        });
    }
}

/// <summary>What jobs look up.</summary>
internal static class JobQueries
{
    /// <summary>What is known about the sound of a take that a cast member gives.</summary>
    public static async Task<SpeechQuery> QueryAsync(this IDbContextFactory<ZambloContext> contexts, Guid production, Guid member, string text, Guid take)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var voice = await db.CastMembers.Where(m => m.Id == member).Select(m => m.Voice).FirstOrDefaultAsync() ?? throw new NotFoundException("cast member for this line");
        var row = await db.Takes.AsNoTracking().FirstOrDefaultAsync(t => t.Id == take);
        return (await HandWork.LoadAsync(db, production, db.Lines.Where(l => false).Select(l => l.Id), db.Takes.Where(t => t.Id == take).Select(t => t.Id))).QueryOf(text, take, voice, row == null ? null : VoiceStore.PartOf(row));
    }
}

/// <summary>A file or a recording becomes a take: decoded, listened to, filed.</summary>
public sealed class TakeJob(VoiceStore voices, AssetStore assets, ProductionStore store, IDbContextFactory<ZambloContext> contexts) : IJobHandler
{
    public string Kind => "take";

    public async Task<string?> RunAsync(Job job, JobContext context)
    {
        var order = JsonSerializer.Deserialize<TakeOrder>(job.Payload)!;
        context.Report(0, "Decoding");
        var master = await voices.MasterAsync(order.Hash!, order.Name, context.Cancel);
        var care = "";
        if (order.Punch is { } punch)
        {
            (master, care) = await PunchAsync(punch, master, context.Cancel);
            order = order with { Hash = await assets.KeepAsync(contexts, master, "punched.wav", context.Cancel) };
        }
        var query = await contexts.QueryAsync(job.ProductionId, order.MemberId, order.Text, Guid.Empty);
        await voices.ListenAsync(order.Hash!, order.Name, query, null, p => context.Report(0.1 + 0.9 * p, $"Listening: {p * master.Duration:0} of {master.Duration:0} s"), context.Cancel);
        await TakeFiling.FileAsync(store, job.ProductionId, order,
            new Take { Id = Guid.NewGuid(), Kind = order.Kind, AssetHash = order.Hash!, Name = order.Name, Duration = master.Duration, Care = care, Created = DateTime.UtcNow });
        return null;
    }

    private async Task<(AudioBuffer Sound, string Care)> PunchAsync(PunchIn punch, AudioBuffer recorded, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var take = await db.Takes.AsNoTracking().FirstOrDefaultAsync(t => t.Id == punch.Take, cancel) ?? throw new NotFoundException("take to record into");
        // As it came: what is done to its sound is done to the whole afterwards.
        var sound = await voices.CaredAsync(take.AssetHash, take.Name, VoiceStore.PartOf(take), new VoiceCare(), cancel);
        var at = Math.Clamp(punch.At, 0, sound.Duration);
        return (Splice.Insert(sound, recorded, at, punch.KeepsRest ? Math.Min(sound.Duration, at + recorded.Duration) : sound.Duration), take.Care);
    }
}

/// <summary>A text is spoken and becomes a take, with the engine's own times.</summary>
public sealed class SpeakJob(VoiceStore voices, AssetStore assets, ProductionStore store, IDbContextFactory<ZambloContext> contexts) : IJobHandler
{
    public string Kind => "speak";

    public async Task<string?> RunAsync(Job job, JobContext context)
    {
        var order = JsonSerializer.Deserialize<TakeOrder>(job.Payload)!;
        context.Report(0, "Speaking");
        string voice;
        await using (var db = await contexts.CreateDbContextAsync(context.Cancel))
            voice = await db.CastMembers.Where(m => m.Id == order.MemberId).Select(m => m.Voice).FirstOrDefaultAsync(context.Cancel) ?? throw new NotFoundException("cast member for this line");
        var clock = System.Diagnostics.Stopwatch.StartNew();
        var spoken = await Synthesis.SpeakAsync(voice, order.Text, order.Delivery ?? new Delivery(), context.Cancel);
        var seconds = clock.Elapsed.TotalSeconds;
        var sound = await assets.KeepAsync(contexts, spoken.Audio, "spoken.wav", context.Cancel);
        var times = await assets.KeepAsync(contexts, JsonSerializer.SerializeToUtf8Bytes(spoken.Speech), "times.json", context.Cancel);
        context.Report(0.7, "Preparing the sound");
        await voices.MasterAsync(sound, order.Name, context.Cancel);
        await TakeFiling.FileAsync(store, job.ProductionId, order,
            new Take { Id = Guid.NewGuid(), Kind = TakeKind.Synthesis, AssetHash = sound, SpeechHash = times, Name = voice, Duration = spoken.Audio.Duration, Created = DateTime.UtcNow });
        return FormattableString.Invariant($"Spoken in {seconds:0.0} s: {spoken.Audio.Duration:0.0} s of voice.");
    }
}

/// <summary>A take is listened to again, with another script.</summary>
public sealed class ListenJob(VoiceStore voices, IDbContextFactory<ZambloContext> contexts) : IJobHandler
{
    public string Kind => "listen";

    public async Task<string?> RunAsync(Job job, JobContext context)
    {
        var order = JsonSerializer.Deserialize<ListenOrder>(job.Payload)!;
        await using var db = await contexts.CreateDbContextAsync(context.Cancel);
        var line = await db.Lines.AsNoTracking().FirstOrDefaultAsync(l => l.Id == order.Line, context.Cancel) ?? throw new NotFoundException("such line");
        var take = await db.Takes.AsNoTracking().FirstOrDefaultAsync(t => t.Id == line.TakeId, context.Cancel);
        if (take != null && (take.SpeechHash == null || take.GuideHash != null))
            await voices.ListenAsync(take.GuideHash ?? take.AssetHash, take.GuideHash == null ? take.Name : take.GuideName, await contexts.QueryAsync(job.ProductionId, line.CastMemberId, line.Text, take.Id), order.Before, p => context.Report(p, $"Listening: {p * take.Duration:0} of {take.Duration:0} s"), context.Cancel);
        return null;
    }
}

/// <summary>A line to be listened to again.</summary>
/// <param name="Line">Which.</param>
/// <param name="Before">What was known when it was listened to last, or null: then only what has changed is listened to.</param>
public sealed record ListenOrder(Guid Line, SpeechQuery? Before);

/// <summary>Scenes to be rendered one after another.</summary>
public sealed record FilmTicket(IReadOnlyList<SceneTicket> Scenes);

/// <summary>Scenes become a film.</summary>
public sealed class RenderJob(VoiceStore voices, DataFolder folder) : IJobHandler
{
    public string Kind => "render";

    public async Task<string?> RunAsync(Job job, JobContext context)
    {
        // The ticket has all there is to know: no database from here on.
        var film = JsonSerializer.Deserialize<FilmTicket>(job.Payload)!;
        // Ordered by an earlier version: one scene.
        if (film.Scenes == null) film = new FilmTicket([JsonSerializer.Deserialize<SceneTicket>(job.Payload)!]);
        foreach (var line in film.Scenes.SelectMany(s => s.Lines).Where(l => !voices.AtHand(l).IsFinal))
            throw new MediaException($"\"{line.TakeName}\" has not been listened to yet: wait for it, then render again.");
        var parts = film.Scenes.Select(ticket =>
        {
            var scene = ticket.ToScene(l => voices.AtHand(l).Speech);
            return new FilmPart(scene, stop => ticket.MixAsync(voices, 0, scene.Duration, null, stop));
        }).ToArray();
        var frames = parts.Sum(p => p.Scene.FrameCount);
        var output = Path.Combine(folder.Renders, job.Id.ToString("N") + ".mp4");
        await FilmRenderer.RenderAsync(parts, new FrameSize(film.Scenes[0].Width, film.Scenes[0].Height), output, Path.Combine(folder.Renders, job.Id.ToString("N")),
            done => context.Report((double)done / frames, $"{done} of {frames} frames"), context.Cancel);
        return Path.GetFileName(output);
    }
}

/// <summary>A recording of several people to be cut into lines.</summary>
public sealed record TurnsOrder(Guid SceneId, string Hash, string Name, int? Speakers);

/// <summary>A recording of several people becomes lines, each a part of the same sound, in the times that they were said in.</summary>
public sealed class TurnsJob(VoiceStore voices, AssetStore assets, ProductionStore store, SceneDesk desk) : IJobHandler
{
    // Air around a turn, where its neighbours leave any, in seconds.
    private const double Before = 0.12, After = 0.2;

    public string Kind => "turns";

    public async Task<string?> RunAsync(Job job, JobContext context)
    {
        var order = JsonSerializer.Deserialize<TurnsOrder>(job.Payload)!;
        context.Report(0, "Decoding");
        var master = await voices.MasterAsync(order.Hash, order.Name, context.Cancel);
        var turns = await TurnFinder.FindAsync(assets.PathOf(order.Hash), order.Name, order.Speakers, p => context.Report(p, $"Telling voices apart: {100 * p:0} %"), context.Cancel);
        if (turns.Count == 0) throw new MediaException($"\"{order.Name}\" has no voice in it.");
        var scene = await desk.LoadAsync(order.SceneId);
        // A long talk becomes scenes of a few minutes, each with the rhythm of the recording; the first follows what is there already.
        var cuts = SceneCuts.Find([.. turns.Select(t => (t.Start, t.End))]);
        var shift = (scene.Ticket.Lines.Count == 0 ? scene.Scene.LeadIn : scene.Ticket.Lines.Max(l => l.Start + l.Duration) + scene.Scene.Gap) - turns[0].Start;
        await store.EditAsync(job.ProductionId, null, $"Lines from {order.Name}", async db =>
        {
            var members = await db.CastMembers.Where(m => m.ProductionId == job.ProductionId).OrderBy(m => m.Order).ToListAsync();
            var count = turns.Max(t => t.Speaker) + 1;
            // A guess: the speakers in order of appearance are the cast in its order; who is missing joins.
            var missing = Math.Max(0, count - members.Count);
            var casting = SceneBuilder.Casting([.. Enumerable.Range(1, missing).Select(i => $"Speaker {members.Count + i}")], [.. members.Select(m => m.Voice)]);
            var last = members.Count == 0 ? 0 : members.Max(m => m.Order);
            foreach (var (character, voice) in casting)
            {
                var unused = Core.Stage.Cast.CharacterKeys.FirstOrDefault(k => !members.Exists(m => m.Character == k)) ?? character;
                var member = ProductionList.Member(job.ProductionId, ++last, unused);
                if (members.Exists(m => m.RoleName == member.RoleName)) member.RoleName = $"Speaker {last}";
                member.Voice = voice;
                db.CastMembers.Add(member);
                members.Add(member);
            }
            var at = await db.Lines.Where(l => l.SceneId == order.SceneId).MaxAsync(l => (int?)l.Order) ?? 0;
            var target = await db.Scenes.FirstAsync(s => s.Id == order.SceneId);
            for (var i = 0; i < turns.Count; i++)
            {
                var t = turns[i];
                if (i > 0 && cuts.Contains(i))
                {
                    target = await SceneList.AddAfterAsync(db, target, null);
                    (at, shift) = (0, target.LeadIn - t.Start);
                }
                double from = Math.Max(i == 0 ? 0 : (turns[i - 1].End + t.Start) / 2, t.Start - Before), to = Math.Min(i + 1 == turns.Count ? master.Duration : (t.End + turns[i + 1].Start) / 2, t.End + After);
                if (to - from < 0.1) continue;
                var line = new Line { Id = Guid.NewGuid(), SceneId = target.Id, CastMemberId = members[t.Speaker].Id, Order = ++at, Start = Math.Max(0, from + shift) };
                var take = new Take { Id = Guid.NewGuid(), LineId = line.Id, Kind = TakeKind.File, AssetHash = order.Hash, Name = order.Name, Duration = to - from, PartStart = from, PartEnd = to, Created = DateTime.UtcNow };
                line.TakeId = take.Id;
                db.Lines.Add(line);
                db.Takes.Add(take);
            }
        });
        // Whoever opens the scene has its lines listened to.
        return null;
    }
}
