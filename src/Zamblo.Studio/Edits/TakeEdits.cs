using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Interchange;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>An edit of a take.</summary>
public abstract record TakeEdit : Edit
{
    [JsonIgnore]
    public Guid TakeId { get; init; }
    public override EditTarget Target => new(TargetKind.Take, TakeId);
}

/// <summary>Another take of a line is in use.</summary>
public sealed record UseTake(Guid Take) : LineEdit;

/// <summary>A take goes; its line falls back to its newest other one.</summary>
public sealed record DeleteTake : TakeEdit;

/// <summary>A take is starred, or something is written about it.</summary>
public sealed record NoteTake : TakeEdit
{
    public bool? IsStarred { get; init; }
    public string? Note { get; init; }
}

/// <summary>What is done to the sound of a take.</summary>
public sealed record ChangeCare(VoiceCare Care) : TakeEdit;

/// <summary>How a line is to be spoken.</summary>
public sealed record ChangeDelivery(Delivery Delivery) : LineEdit;

/// <summary>Sound that drives the mouth and is not heard; none takes it away.</summary>
public sealed record SetGuide(string? Hash, string? Name) : TakeEdit;

/// <summary>Times of words and phones from elsewhere.</summary>
public sealed record BringTimes(string Text) : LineEdit;

/// <summary>A finished take is put under its line, or makes one.</summary>
/// <param name="Order">What was asked for.</param>
/// <param name="Take">The take; its line is not set yet.</param>
/// <param name="Job">The job that made it: it ends in the same transaction.</param>
/// <param name="Result">What the job is to say.</param>
public sealed record FileTake(TakeOrder Order, Take Take, Guid Job, string? Result) : Edit
{
    public override EditTarget Target => new(TargetKind.Scene, Order.SceneId);
}

/// <summary>All that is stale in a scene is spoken again.</summary>
public sealed record SpeakStale : SceneEdit;

internal sealed class TakeEdits(VoiceStore voices, AssetStore assets, IDbContextFactory<ZambloContext> contexts, SceneDesk scenes)
    : IEditHandler<UseTake>,
        IEditHandler<DeleteTake>,
        IEditHandler<NoteTake>,
        IEditHandler<ChangeCare>,
        IEditHandler<ChangeDelivery>,
        IEditHandler<SetGuide>,
        IEditHandler<BringTimes>,
        IEditHandler<FileTake>,
        IEditHandler<SpeakStale>
{
    private const int LongestTimes = 20 << 20,
        LongestNote = 200;

    public async Task ApplyAsync(UseTake edit, EditScope scope)
    {
        scope.Name = "Use another take";
        var (_, line) = await scope.LineAsync(edit.Line);
        var take =
            await scope.Db.Takes.AsNoTracking().FirstOrDefaultAsync(t => t.Id == edit.Take && t.LineId == line.Id) ?? throw new NotFoundException("such take");
        Takes.Use(line, take);
    }

    public async Task ApplyAsync(DeleteTake edit, EditScope scope)
    {
        scope.Name = "Delete a take";
        var take = await scope.Db.Takes.FirstAsync(t => t.Id == edit.TakeId);
        var line = await scope.Db.Lines.FirstAsync(l => l.Id == take.LineId);
        // The last one leaves it without a voice.
        if (line.TakeId == take.Id)
            line.TakeId = await scope
                .Db.Takes.Where(t => t.LineId == line.Id && t.Id != take.Id)
                .OrderByDescending(t => t.Created)
                .Select(t => (Guid?)t.Id)
                .FirstOrDefaultAsync();
        await ProductionRows.RemoveAsync(scope.Db, [take]);
    }

    public async Task ApplyAsync(NoteTake edit, EditScope scope)
    {
        var take = await scope.Db.Takes.FirstAsync(t => t.Id == edit.TakeId);
        scope.Name = edit.IsStarred is { } star ? (star ? "Star a take" : "Take a star off") : "Note on a take";
        take.IsStarred = edit.IsStarred ?? take.IsStarred;
        if (edit.Note is { } note)
            take.Note = note.Trim() is { Length: <= LongestNote } text ? text : throw new RequestException($"A note has at most {LongestNote} characters.");
    }

    // Made before it is filed: a filter that fails changes nothing.
    public async Task<object?> PrepareAsync(ChangeCare edit, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var take = await db.Takes.AsNoTracking().FirstOrDefaultAsync(t => t.Id == edit.TakeId, cancel) ?? throw new NotFoundException("such take");
        await voices.CaredAsync(take.AssetHash, take.Name, SceneReader.PartOf(take), CareOf(take, edit), cancel);
        return null;
    }

    public async Task ApplyAsync(ChangeCare edit, EditScope scope)
    {
        scope.Name = "Change the sound of a take";
        var take = await scope.Db.Takes.FirstAsync(t => t.Id == edit.TakeId);
        take.Care = Column.Write(CareOf(take, edit));
    }

    private static VoiceCare CareOf(Take take, ChangeCare edit) => edit.Care.Clamped(take.Duration);

    public async Task ApplyAsync(ChangeDelivery edit, EditScope scope)
    {
        scope.Name = "Change the delivery";
        var (_, line) = await scope.LineAsync(edit.Line);
        line.Delivery = Column.Write(edit.Delivery.Clamped());
    }

    // A file that holds no sound is refused before anything changes.
    public async Task<object?> PrepareAsync(SetGuide edit, CancellationToken cancel)
    {
        if (edit.Hash == null)
            return null;
        await using (var db = await contexts.CreateDbContextAsync(cancel))
            await Takes.UploadedAsync(db, edit.Hash, "The guide has not been uploaded.");
        await voices.MasterAsync(edit.Hash, Check.FileName(edit.Name, "guide"), cancel);
        return null;
    }

    public async Task ApplyAsync(SetGuide edit, EditScope scope)
    {
        scope.Name = edit.Hash == null ? "Take the guide away" : "Set a guide";
        var take = await scope.Db.Takes.FirstAsync(t => t.Id == edit.TakeId);
        (take.GuideHash, take.GuideName) = (edit.Hash, edit.Hash == null ? "" : Check.FileName(edit.Name, "guide"));
    }

    public async Task<object?> PrepareAsync(BringTimes edit, CancellationToken cancel)
    {
        if (edit.Text.Length > LongestTimes)
            throw new RequestException("A file of times has at most 20 MB.");
        var scene = await scenes.LoadOfLineAsync(edit.Line);
        var line = scene.Voiced(edit.Line);
        if (!line.Line.Care.KeepsTimes)
            throw new RequestException("The times of a file are those of the whole sound: take trim and speed off, bring them in, and trim again.");
        var speech = SpeechTimes.Read(edit.Text, line.Speech ?? throw new RequestException("This line has not been listened to yet."));
        return (line.Line.Take.Value, await assets.KeepAsync(contexts, JsonSerializer.SerializeToUtf8Bytes(speech), "times.json", cancel));
    }

    public async Task ApplyAsync(BringTimes edit, EditScope scope)
    {
        scope.Name = "Bring in times";
        var (id, hash) = scope.Prepared<(Guid, string)>();
        (await scope.Db.Takes.FirstOrDefaultAsync(t => t.Id == id) ?? throw new NotFoundException("such take")).SpeechHash = hash;
    }

    public async Task ApplyAsync(FileTake edit, EditScope scope)
    {
        var (order, take) = (edit.Order, edit.Take);
        var text = order.Text.Trim();
        scope.Name =
            order.LineId != null
                ? "Another take"
                : order.Kind switch
                {
                    TakeKind.Synthesis => "Speak a line",
                    TakeKind.Recording => "Record a line",
                    _ => $"Import {order.Name}",
                };
        Line line;
        if (order.LineId is { } id)
            line = await scope.Db.Lines.FirstOrDefaultAsync(l => l.Id == id) ?? throw new NotFoundException("line for this take");
        else
        {
            var last = await scope.Db.Lines.Where(l => l.SceneId == order.SceneId).MaxAsync(l => (int?)l.Order) ?? 0;
            line = new Line
            {
                Id = Guid.NewGuid(),
                SceneId = order.SceneId,
                CastMemberId = (await scope.MemberAsync(order.MemberId)).Id,
                Order = last + 1,
                Text = text,
            };
            scope.Db.Lines.Add(line);
            if (order.Kind == TakeKind.Synthesis)
                ScriptEdits.Act(scope.Db, line, Directions.Leading(text), (await scope.CastAsync()).Select(m => (m.RoleName, m.Id)));
        }
        if (order.Kind == TakeKind.Synthesis)
        {
            take.SpokenText = text;
            take.SpokenDelivery = Column.Write(order.Delivery ?? new Delivery());
            take.IsOwnVoice = order.Voice != null;
            // One to compare changes nothing of its line.
            if (!order.IsBeside)
                (line.Text, line.Delivery) = (text, take.SpokenDelivery);
        }
        take.LineId = line.Id;
        scope.Db.Takes.Add(take);
        if (!order.IsBeside || line.TakeId == null)
            line.TakeId = take.Id;
        await JobDesk.EndAsync(scope.Db, edit.Job, edit.Result);
    }

    public async Task ApplyAsync(SpeakStale edit, EditScope scope)
    {
        scope.Name = "Speak what is stale";
        var scene = await scope.SceneAsync(edit.Scene);
        var count = 0;
        foreach (var line in scene.Lines)
        {
            if (line.TakeId is not { } t || !scene.Takes.TryGetValue(t, out var take) || line.Text.Length == 0)
                continue;
            if (!Takes.IsStale(line, take, scene.Member(line.CastMemberId).Voice, scene.Hand.Respellings))
                continue;
            LineEdits.SpeakAgain(scope, line);
            count++;
        }
        scope.Answer = new EditAnswer { Count = count };
    }
}

/// <summary>What is known of takes.</summary>
public static class Takes
{
    /// <summary>Puts a take of a line into use; the dials of its delivery come with it.</summary>
    public static void Use(Line line, Take take)
    {
        line.TakeId = take.Id;
        if (take.SpokenDelivery.Length > 0)
            line.Delivery = take.SpokenDelivery;
    }

    /// <summary>How a line is to be spoken.</summary>
    public static Delivery DeliveryOf(Line line) => Column.Read<Delivery>(line.Delivery);

    /// <summary>The words of a text that are said in their own way in its production.</summary>
    public static IEnumerable<Respelling> OwnSounds(IReadOnlyList<Respelling> all, string text)
    {
        if (all.Count == 0)
            return [];
        var words = ScriptText.Words(Directions.Spoken(text)).Select(w => PhoneMap.Plain(w.Text)).ToHashSet();
        return all.Where(r => words.Contains(r.Word));
    }

    /// <summary>The same as a take keeps it.</summary>
    public static string SoundsOf(IReadOnlyList<Respelling> all, string text) =>
        string.Concat(OwnSounds(all, text).OrderBy(r => r.Word, StringComparer.Ordinal).Select(r => $"{r.Word}={r.Phones};"));

    /// <summary>What a take keeps, for a part of its text.</summary>
    public static string SoundsWithin(string sounds, string text)
    {
        if (sounds.Length == 0)
            return "";
        var words = ScriptText.Words(Directions.Spoken(text)).Select(w => PhoneMap.Plain(w.Text)).ToHashSet();
        return string.Concat(sounds.Split(';', StringSplitOptions.RemoveEmptyEntries).Where(s => words.Contains(s.Split('=')[0])).Select(s => s + ";"));
    }

    /// <summary>What two takes keep, as that of both.</summary>
    public static string Together(string a, string b) =>
        string.Concat(
            (a + b).Split(';', StringSplitOptions.RemoveEmptyEntries).Distinct().OrderBy(s => s.Split('=')[0], StringComparer.Ordinal).Select(s => s + ";")
        );

    /// <summary>Whether a synthesized take no longer says what the line says, in the voice that the member has now.</summary>
    public static bool IsStale(Line line, Take take, string voice, IReadOnlyList<Respelling> respellings) =>
        take.Kind == TakeKind.Synthesis
        && (
            (take.Name != voice && !take.IsOwnVoice)
            || (take.SpokenText.Length > 0 && take.SpokenText != line.Text)
            || (take.SpokenDelivery.Length > 0 && Column.Read<Delivery>(take.SpokenDelivery) != DeliveryOf(line))
            || (take.SpokenText.Length > 0 && take.SpokenSounds != SoundsOf(respellings, line.Text))
        );

    /// <summary>Refuses a sound that is not in the store.</summary>
    /// <exception cref="RequestException">It is not.</exception>
    public static async Task UploadedAsync(ZambloContext db, string? hash, string otherwise = "The sound has not been uploaded.")
    {
        if (hash == null || !await db.Assets.AnyAsync(a => a.Hash == hash))
            throw new RequestException(otherwise);
    }
}
