using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Scenes;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Jobs;

/// <summary>A take to be made: for an existing line, or for a line that comes into being with it.</summary>
public sealed record TakeOrder(
    Guid SceneId,
    Guid? LineId,
    Guid MemberId,
    string Text,
    TakeKind Kind,
    string? Hash,
    string Name,
    Delivery? Delivery = null,
    PunchIn? Punch = null,
    double Seconds = 0
)
{
    /// <summary>Kinds of jobs: a sound that is taken in, a text that is spoken.</summary>
    public const string TakeIn = "take",
        Speak = "speak";

    /// <summary>In another voice than the member's; null for the member's.</summary>
    public string? Voice { get; init; }

    /// <summary>To be compared: the take that is in use stays in use.</summary>
    public bool IsBeside { get; init; }
}

/// <summary>A recording that is laid into an earlier take.</summary>
/// <param name="Take">Into which.</param>
/// <param name="At">Where it starts, in seconds of that take's sound as it came.</param>
/// <param name="KeepsRest">What comes after as much as was recorded stays; else the recording is the end.</param>
public sealed record PunchIn(Guid Take, double At, bool KeepsRest);

/// <summary>Where in a line's take of now a recording is laid in: seconds of the line.</summary>
public sealed record NewPunch(double At, bool KeepsRest);

/// <summary>A voice for a new line.</summary>
public sealed record NewLine(Guid Member, string? Text, TakeKind Kind, string? Hash, string? Name, Delivery? Delivery);

/// <summary>Another take for a line.</summary>
public sealed record NewTake(TakeKind Kind, string? Hash, string? Name, string? Text, Delivery? Delivery, NewPunch? Punch)
{
    /// <summary>For one that is spoken: another voice than the member's.</summary>
    public string? Voice { get; init; }

    /// <summary>To be compared: the take that is in use stays in use.</summary>
    public bool IsBeside { get; init; }
}

/// <summary>Orders takes.</summary>
public sealed class TakeDesk(IDbContextFactory<ZambloContext> contexts, AssetStore assets, SceneDesk scenes, JobDesk jobs)
{
    // In bytes.
    private const long Small = 1 << 20;

    /// <summary>A line that comes into being with its voice; gives the job.</summary>
    public async Task<Guid> OrderLineAsync(Guid scene, NewLine body)
    {
        var loaded = await scenes.LoadAsync(scene);
        loaded.IndexOf(body.Member);
        var text = LyricRepeats.WrittenOut(body.Text ?? "");
        return await OrderAsync(
            loaded.Production.Id,
            new TakeOrder(
                scene,
                null,
                body.Member,
                text,
                Check.Known(body.Kind, "way for a voice to arrive"),
                body.Hash,
                Check.FileName(body.Name, "voice"),
                (body.Delivery ?? Delivery.FromDirection(Directions.Leading(text))).Clamped()
            )
        );
    }

    /// <summary>Another take for a line; gives the job.</summary>
    public async Task<Guid> OrderTakeAsync(Guid id, NewTake body)
    {
        var scene = await scenes.LoadOfLineAsync(id);
        var line = scene.Lines.First(l => l.Id == id);
        Check.Known(body.Kind, "way for a voice to arrive");
        if (body.Voice != null)
            await Synthesis.CheckAsync(body.Voice);
        PunchIn? punch = null;
        if (body.Punch is { } p)
        {
            if (line.TakeId is not { } take || !scene.Takes.TryGetValue(take, out var row))
                throw new RequestException("There is no take to record into yet.");
            if (!double.IsFinite(p.At) || body.Kind == TakeKind.Synthesis)
                throw new RequestException("Only a recording is laid into a take.");
            punch = new PunchIn(take, Column.Read<VoiceCare>(row.Care).ToOriginal(Math.Max(0, p.At)), p.KeepsRest);
        }
        return await OrderAsync(
            scene.Production.Id,
            new TakeOrder(
                line.SceneId,
                id,
                line.CastMemberId,
                body.Text == null ? line.Text : LyricRepeats.WrittenOut(body.Text),
                body.Kind,
                body.Hash,
                Check.FileName(body.Name, "voice"),
                (body.Delivery ?? Takes.DeliveryOf(line)).Clamped(),
                punch
            )
            {
                Voice = body.Kind == TakeKind.Synthesis ? body.Voice : null,
                IsBeside = body.IsBeside,
            }
        );
    }

    /// <summary>A recording of several people is cut into turns; gives the job.</summary>
    public async Task<Guid> FindTurnsAsync(Guid id, string? hash, string? name, int? speakers)
    {
        if (speakers is < Core.Dialogue.Turns.Fewest or > Core.Dialogue.Turns.Most)
            throw new RequestException($"There can be {Core.Dialogue.Turns.Fewest} to {Core.Dialogue.Turns.Most} speakers.");
        var scene = await scenes.LoadAsync(id);
        var called = Check.FileName(name, "recording");
        var order = new TurnsOrder(id, hash ?? "", called, speakers, await SecondsAsync(hash, called));
        return await jobs.AddAsync(TurnsOrder.Kind, scene.Production.Id, $"Find who speaks in {called}", order);
    }

    /// <summary>A recording of a whole scene becomes new takes of its lines; gives the job.</summary>
    public async Task<Guid> FindLinesAsync(Guid id, string? hash, string? name)
    {
        var scene = await scenes.LoadAsync(id);
        if (!scene.Lines.Any(l => Directions.Spoken(scene.WrittenOf(l)).Any(char.IsLetterOrDigit)))
            throw new RequestException("No line of this scene has words to be found in a recording: write them first.");
        var called = Check.FileName(name, "recording");
        var order = new ReadingOrder(id, hash ?? "", called, await SecondsAsync(hash, called));
        return await jobs.AddAsync(ReadingOrder.Kind, scene.Production.Id, $"Find the lines in {called}", order);
    }

    // How long a sound that was uploaded is; of a small file nobody asks, for it is no long work.
    private async Task<double> SecondsAsync(string? hash, string name)
    {
        await using var db = await contexts.CreateDbContextAsync();
        await Takes.UploadedAsync(db, hash);
        var path = assets.PathOf(hash!);
        return new FileInfo(path).Length < Small ? 0 : (await AudioFiles.ProbeAsync(path, name)).Duration ?? 0;
    }

    private async Task<Guid> OrderAsync(Guid production, TakeOrder order)
    {
        order = order with { Text = order.Text.Replace("\0", "", StringComparison.Ordinal) };
        if (order.Text.Length > Espeak.MaximalText)
            throw new RequestException($"A line has at most {Espeak.MaximalText:N0} characters; this one has {order.Text.Length:N0}. Cut it into lines.");
        if (order.Kind == TakeKind.Synthesis)
        {
            if (string.IsNullOrWhiteSpace(Directions.Spoken(order.Text)))
                throw new RequestException(
                    order.Text.Trim().Length == 0 ? "Write what is to be said first." : "This is only a direction: write what is said too."
                );
            return await jobs.AddAsync(TakeOrder.Speak, production, "Speak a line", order);
        }
        order = order with { Seconds = await SecondsAsync(order.Hash, order.Name) };
        return await jobs.AddAsync(TakeOrder.TakeIn, production, order.Kind == TakeKind.Recording ? "Take in a recording" : $"Take in {order.Name}", order);
    }
}

/// <summary>A file or a recording becomes a take: decoded, listened to, filed.</summary>
internal sealed class TakeJob(VoiceStore voices, AssetStore assets, EditRunner edits, IDbContextFactory<ZambloContext> contexts) : IJobHandler
{
    // -60 dB below full scale.
    private const float Silence = 0.001f;

    public string Kind => TakeOrder.TakeIn;

    public async Task HelpAheadAsync(Job job, CancellationToken cancel)
    {
        var order = JsonSerializer.Deserialize<TakeOrder>(job.Payload)!;
        // What is laid into another take is a sound that does not exist yet.
        if (order is { Punch: null, Hash: { } hash })
            await voices.HearAheadAsync(hash, order.Name, await QueryAsync(job.ProductionId, order), cancel);
    }

    public async Task<string?> RunAsync(Job job, JobContext context)
    {
        var order = JsonSerializer.Deserialize<TakeOrder>(job.Payload)!;
        context.Report(0, "Decoding");
        var master = await voices.MasterAsync(order.Hash!, order.Name, context.Cancel);
        if (master.Samples.All(s => Math.Abs(s) < Silence))
            throw new RequestException(
                $"\"{order.Name}\" is silent: nothing in it is louder than -60 dB. Check the microphone or the file; no line was made of it."
            );
        var care = "";
        if (order.Punch is { } punch)
        {
            (master, care) = await PunchAsync(punch, master, context.Cancel);
            order = order with { Hash = await assets.KeepAsync(contexts, master, "punched.wav", context.Cancel) };
        }
        var query = await QueryAsync(job.ProductionId, order);
        await voices.ListenAsync(
            order.Hash!,
            order.Name,
            query,
            null,
            p => context.Report(0.1 + 0.9 * p, $"Listening: {p * master.Duration:0} of {master.Duration:0} s"),
            context.Cancel
        );
        var take = new Take
        {
            Id = Guid.NewGuid(),
            Kind = order.Kind,
            AssetHash = order.Hash!,
            Name = order.Name,
            Duration = master.Duration,
            Care = care,
            Created = DateTime.UtcNow,
        };
        await edits.RunAsync(new FileTake(order, take, job.Id, null), context.Cancel);
        return null;
    }

    // What is known about the sound before it is a take.
    private async Task<Core.Speech.SpeechQuery> QueryAsync(Guid production, TakeOrder order)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var voice =
            await db.CastMembers.Where(m => m.Id == order.MemberId && m.ProductionId == production).Select(m => m.Voice).FirstOrDefaultAsync()
            ?? throw new NotFoundException("cast member for this line");
        var hand = await HandWork.LoadAsync(db, production, db.Lines.Where(l => false).Select(l => l.Id), db.Takes.Where(t => false).Select(t => t.Id));
        var told = await db.Lines.Where(l => l.Id == order.LineId).Select(l => l.Language).FirstOrDefaultAsync();
        return await SpokenNames.WithAsync(db, production, hand.QueryOf(order.Text, Guid.Empty, voice, null, told));
    }

    private async Task<(AudioBuffer Sound, string Care)> PunchAsync(PunchIn punch, AudioBuffer recorded, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var take = await db.Takes.AsNoTracking().FirstOrDefaultAsync(t => t.Id == punch.Take, cancel) ?? throw new NotFoundException("take to record into");
        // As it came: what is done to its sound is done to the whole afterwards.
        var sound = await voices.CaredAsync(take.AssetHash, take.Name, SceneReader.PartOf(take), new VoiceCare(), cancel);
        var at = Math.Clamp(punch.At, 0, sound.Duration);
        return (Splice.Insert(sound, recorded, at, punch.KeepsRest ? Math.Min(sound.Duration, at + recorded.Duration) : sound.Duration), take.Care);
    }
}

/// <summary>A line is listened to: as it is now, whatever it was when it was asked for.</summary>
internal sealed class ListenJob(VoiceStore voices, HearingDesk hearings, NewsDesk news, IDbContextFactory<ZambloContext> contexts) : IJobHandler
{
    public string Kind => HearingDesk.Job;

    public async Task<string?> RunAsync(Job job, JobContext context)
    {
        var order = JsonSerializer.Deserialize<ListenOrder>(job.Payload)!;
        SceneLine? line;
        Core.Speech.SpeechQuery? query;
        await using (var db = await contexts.CreateDbContextAsync(context.Cancel))
        {
            line = (await SceneReader.LinesAsync(db, job.ProductionId, new HashSet<Guid> { order.Line })).FirstOrDefault();
            query = line == null ? null : await SpokenNames.WithAsync(db, job.ProductionId, line.Query);
        }
        // Taken out meanwhile, or given a take that brings its own times.
        if (line == null || line.EngineHash != null)
            return null;
        await hearings.SetAsync(line, HearingState.Running, null);
        try
        {
            await voices.ListenAsync(
                line.DrivingHash,
                line.SoundName,
                query!,
                order.Before,
                p => context.Report(p, $"Listening: {p * line.TakeDuration:0} of {line.TakeDuration:0} s"),
                context.Cancel,
                order.Beside
            );
        }
        catch (Exception e)
        {
            await hearings.SetAsync(
                line,
                HearingState.Failed,
                context.Cancel.IsCancellationRequested ? "Cancelled."
                    : e is MediaException ? e.Message
                    : "Something went wrong that should not have."
            );
            news.Tell(job.ProductionId, new News("changed"));
            throw;
        }
        await hearings.SetAsync(line, HearingState.There, null);
        news.Tell(job.ProductionId, new News("changed"));
        return null;
    }
}
