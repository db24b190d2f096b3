using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Productions;

namespace Zamblo.Studio.Jobs;

/// <summary>A recording of several people to be cut into lines.</summary>
public sealed record TurnsOrder(Guid SceneId, string Hash, string Name, int? Speakers, double Seconds = 0)
{
    /// <summary>The kind of its job.</summary>
    public const string Kind = "turns";
}

/// <summary>Turns that were found become lines, each a part of the same sound, in the times that they were said in.</summary>
/// <param name="Order">What was asked for.</param>
/// <param name="Turns">In order of their starts.</param>
/// <param name="Length">Of the recording, in seconds.</param>
/// <param name="Job">The job that found them: it ends in the same transaction.</param>
public sealed record FileTurns(TurnsOrder Order, IReadOnlyList<SpeakerTurn> Turns, double Length, Guid Job) : Edit
{
    /// <summary>Sounds of turns within which somebody else speaks, by their index: that one voice. The others are parts of the recording.</summary>
    public IReadOnlyDictionary<int, TurnSound> Apart { get; init; } = new Dictionary<int, TurnSound>();

    public override EditTarget Target => new(TargetKind.Scene, Order.SceneId);
}

/// <summary>A voice that was taken from among others.</summary>
/// <param name="Hash">Of the sound.</param>
/// <param name="Start">Where it begins in the recording, in seconds.</param>
/// <param name="End">Where it ends there.</param>
public sealed record TurnSound(string Hash, double Start, double End);

/// <summary>Finds who speaks when in a recording.</summary>
internal sealed class TurnsJob(VoiceStore voices, AssetStore assets, EditRunner edits, IDbContextFactory<ZambloContext> contexts) : IJobHandler
{
    public string Kind => TurnsOrder.Kind;

    public async Task<string?> RunAsync(Job job, JobContext context)
    {
        var order = JsonSerializer.Deserialize<TurnsOrder>(job.Payload)!;
        context.Report(0, "Decoding");
        var length = await voices.LengthAsync(order.Hash, order.Name, context.Cancel);
        var found = await TurnFinder.FindAsync(
            assets.PathOf(order.Hash),
            order.Name,
            order.Speakers,
            p => context.Report(p, $"Telling voices apart: {100 * p:0} %"),
            context.Cancel
        );
        if (found.Turns.Count == 0)
            throw new MediaException($"\"{order.Name}\" has no voice in it.");
        var apart = await ApartAsync(order, found, length, context);
        await edits.RunAsync(new FileTurns(order, found.Turns, length, job.Id) { Apart = apart }, context.Cancel);
        return null;
    }

    // Where two speak at once each gets a sound of their own: from their channel, or what the mix has of their voice.
    private async Task<IReadOnlyDictionary<int, TurnSound>> ApartAsync(TurnsOrder order, FoundTurns found, double length, JobContext context)
    {
        var result = new Dictionary<int, TurnSound>();
        int[] overlapped = [.. Enumerable.Range(0, found.Turns.Count).Where(i => found.IsOverlapped(found.Turns[i]))];
        if (overlapped.Length == 0)
            return result;
        context.Report(1, "Taking voices apart");
        var path = assets.PathOf(order.Hash);
        // A channel is half of the mix that all other lines have.
        async Task<AudioBuffer> HalfAsync(int channel, double start, double end)
        {
            var whole = await AudioFiles.ChannelAsync(path, order.Name, channel, AudioFiles.MasterRate, new SoundPart(start, end), context.Cancel);
            return new AudioBuffer([.. whole.Samples.Select(s => s / 2)], whole.SampleRate);
        }
        var mix = found.Channels.Count > 0 ? null : await voices.MasterAsync(order.Hash, order.Name, context.Cancel);
        foreach (var i in overlapped)
        {
            var turn = found.Turns[i];
            double start = Math.Max(0, turn.Start - TurnEdits.Before),
                end = Math.Min(length, turn.End + TurnEdits.After);
            var sound = mix == null ? await HalfAsync(found.Channels[turn.Speaker], start, end) : found.Apart(turn.Speaker, mix, start, end);
            if (sound is { Samples.Length: > 0 })
                result[i] = new TurnSound(await assets.KeepAsync(contexts, sound, order.Name, context.Cancel), start, start + sound.Duration);
        }
        return result;
    }
}

internal sealed class TurnEdits(CastLibrary library) : IEditHandler<FileTurns>
{
    // Air around a turn, where its neighbours leave any, in seconds.
    public const double Before = 0.12,
        After = 0.2;

    public async Task ApplyAsync(FileTurns edit, EditScope scope)
    {
        var (order, turns) = (edit.Order, edit.Turns);
        scope.Name = $"Lines from {order.Name}";
        var db = scope.Db;
        var scene = await scope.SceneAsync(order.SceneId);
        // A long talk becomes scenes of a few minutes, each with the rhythm of the recording; the first follows what is there already.
        var cuts = SceneCuts.Find([.. turns.Select(t => (t.Start, t.End))]);
        var placed = scene.Evaluated.Lines;
        var shift = (placed.Count == 0 ? scene.Scene.LeadIn : placed.Max(l => l.End) + scene.Scene.Gap) - turns[0].Start;
        var members = await SpeakersAsync(scope, turns.Max(t => t.Speaker) + 1);
        var at = await db.Lines.Where(l => l.SceneId == order.SceneId).MaxAsync(l => (int?)l.Order) ?? 0;
        var target = await db.Scenes.FirstAsync(s => s.Id == order.SceneId);
        for (var i = 0; i < turns.Count; i++)
        {
            var t = turns[i];
            if (i > 0 && cuts.Contains(i))
            {
                target = await SceneEdits.AddAfterAsync(db, target, null);
                (at, shift) = (0, target.LeadIn - t.Start);
            }
            var apart = edit.Apart.GetValueOrDefault(i);
            double from = apart?.Start ?? Math.Max(i == 0 ? 0 : (turns[i - 1].End + t.Start) / 2, t.Start - Before),
                to = apart?.End ?? Math.Min(i + 1 == turns.Count ? edit.Length : (t.End + turns[i + 1].Start) / 2, t.End + After);
            if (to - from < 0.1)
                continue;
            var line = new Line
            {
                Id = Guid.NewGuid(),
                SceneId = target.Id,
                CastMemberId = members[t.Speaker].Id,
                Order = ++at,
                Start = Math.Max(0, from + shift),
            };
            var take = new Take
            {
                Id = Guid.NewGuid(),
                LineId = line.Id,
                Kind = TakeKind.File,
                AssetHash = apart?.Hash ?? order.Hash,
                Name = order.Name,
                Duration = to - from,
                PartStart = apart == null ? from : null,
                PartEnd = apart == null ? to : null,
                Created = DateTime.UtcNow,
            };
            line.TakeId = take.Id;
            db.Lines.Add(line);
            db.Takes.Add(take);
        }
        await JobDesk.EndAsync(db, edit.Job, null);
    }

    // A guess: the speakers in order of appearance are the cast in its order; who is missing joins.
    private async Task<List<CastMember>> SpeakersAsync(EditScope scope, int count)
    {
        var members = await scope.CastAsync();
        var missing = Math.Max(0, count - members.Count);
        var casting = SceneBuilder.Casting(
            library,
            [.. Enumerable.Range(1, missing).Select(i => $"Speaker {members.Count + i}")],
            [.. members.Select(m => m.Voice)]
        );
        var last = members.Count == 0 ? 0 : members.Max(m => m.Order);
        foreach (var (character, voice) in casting)
        {
            var unused = library.CharacterKeys.FirstOrDefault(k => !members.Exists(m => m.Character == k)) ?? character;
            var member = ProductionList.Member(library, scope.Production.Id, ++last, unused);
            if (members.Exists(m => m.RoleName == member.RoleName))
                member.RoleName = $"Speaker {last}";
            member.Voice = voice;
            scope.Db.CastMembers.Add(member);
            members.Add(member);
        }
        return members;
    }
}
