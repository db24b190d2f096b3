using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Scenes;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Farm;
using Zamblo.Studio.Hearings;

namespace Zamblo.Studio.Jobs;

/// <summary>A text is spoken and becomes a take, with the engine's own times.</summary>
internal sealed class SpeakJob(VoiceStore voices, SpokenAhead ahead, AssetStore assets, EditRunner edits, IDbContextFactory<ZambloContext> contexts)
    : IJobHandler
{
    public string Kind => TakeOrder.Speak;

    public async Task HelpAheadAsync(Job job, CancellationToken cancel)
    {
        var (speaking, _) = await SpeakingAsync(job, cancel);
        await ahead.SpeakAsync(job.Id, await speaking.WithFilesAsync(cancel), cancel);
    }

    public async Task<string?> RunAsync(Job job, JobContext context)
    {
        var order = JsonSerializer.Deserialize<TakeOrder>(job.Payload)!;
        context.Report(0, "Speaking");
        var (speaking, own) = await SpeakingAsync(job, context.Cancel);
        var clock = System.Diagnostics.Stopwatch.StartNew();
        var spoken = await ahead.TakeAsync(job.Id, speaking, context.Cancel) ?? await speaking.SpeakAsync(context.Cancel);
        var seconds = clock.Elapsed.TotalSeconds;
        var sound = await assets.KeepAsync(contexts, spoken.Audio, "spoken.wav", context.Cancel);
        var times = await assets.KeepAsync(contexts, JsonSerializer.SerializeToUtf8Bytes(spoken.Speech), "times.json", context.Cancel);
        context.Report(0.7, "Preparing the sound");
        await voices.MasterAsync(sound, order.Name, context.Cancel);
        var take = new Take
        {
            Id = Guid.NewGuid(),
            Kind = TakeKind.Synthesis,
            AssetHash = sound,
            SpeechHash = times,
            Name = speaking.Voice,
            Duration = spoken.Audio.Duration,
            SpokenSounds = Takes.SoundsOf(own, order.Text),
            Created = DateTime.UtcNow,
        };
        var result = FormattableString.Invariant($"Spoken in {seconds:0.0} s: {spoken.Audio.Duration:0.0} s of voice.");
        await edits.RunAsync(new FileTake(order, take, job.Id, result), context.Cancel);
        return result;
    }

    // What is to be spoken as things stand, and the production's own words in it.
    private async Task<(Speaking What, IReadOnlyList<Respelling> Own)> SpeakingAsync(Job job, CancellationToken cancel)
    {
        var order = JsonSerializer.Deserialize<TakeOrder>(job.Payload)!;
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var all = await db.Respellings.AsNoTracking().Where(r => r.ProductionId == job.ProductionId).ToListAsync(cancel);
        Respelling[] own = [.. Takes.OwnSounds(all, order.Text)];
        var voice =
            order.Voice
            ?? await db.CastMembers.Where(m => m.Id == order.MemberId).Select(m => m.Voice).FirstOrDefaultAsync(cancel)
            ?? throw new NotFoundException("cast member for this line");
        var lexicon = own.ToDictionary(r => r.Word, r => new Lexeme(r.Written, r.Phones.Split(' ')));
        return (new Speaking(voice, order.Text, order.Delivery ?? new Delivery(), lexicon), own);
    }
}
