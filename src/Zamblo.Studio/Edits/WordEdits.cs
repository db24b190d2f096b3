using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>A stretch of a take is voice, or is not, but laughter or the like. Seconds of the line.</summary>
public sealed record MarkTake(double Start, double End, bool IsVoice) : TakeEdit
{
    public VocalSoundKind? Sound { get; init; }
}

/// <summary>A mark of a take is lifted off.</summary>
public sealed record LiftMark(Guid Mark) : TakeEdit;

/// <summary>
/// A boundary of a word or phone is put in its place. Seconds of the line. Either the word and which of its phones it lies before (999 for its end), or the
/// number of a phone of the line and whether its end is meant.
/// </summary>
public sealed record PinBoundary(int Word, int Phone, double Time) : LineEdit
{
    public int? PhoneOfLine { get; init; }
    public bool AtEnd { get; init; }
}

/// <summary>All boundaries of a line back to automatic.</summary>
public sealed record LiftPins : LineEdit;

/// <summary>How a word is said in a production; nothing written is as the dictionary says.</summary>
public sealed record Respell(string Word, string? Written) : Edit
{
    [JsonIgnore]
    public Guid Production { get; init; }
    public override EditTarget Target => new(TargetKind.Production, Production);
}

internal sealed class WordEdits : IEditHandler<MarkTake>, IEditHandler<LiftMark>, IEditHandler<PinBoundary>, IEditHandler<LiftPins>, IEditHandler<Respell>
{
    private const int LongestWord = 80,
        LongestWriting = 200;

    public async Task ApplyAsync(MarkTake edit, EditScope scope)
    {
        var sound = edit.IsVoice ? null : edit.Sound;
        if (sound is { } kind && !Enum.IsDefined(kind))
            throw new RequestException("There is no such sound of a voice.");
        scope.Name =
            edit.IsVoice ? "Mark as voice"
            : sound is { } heard ? $"Mark as what {VocalSounds.NameOf(heard)}"
            : "Mark as not voice";
        var (db, id) = (scope.Db, edit.TakeId);
        var take = await db.Takes.FirstAsync(t => t.Id == id);
        var care = Column.Read<VoiceCare>(take.Care);
        // Marks belong to the sound as it came: another trim does not move them against it.
        double start = Math.Max(0, care.ToOriginal(Math.Min(edit.Start, edit.End))),
            end = Math.Min(take.Duration, care.ToOriginal(Math.Max(edit.Start, edit.End)));
        if (!(end - start >= 0.03))
            throw new RequestException("That stretch is too short to mark.");
        // The newest word counts: older marks give way where they overlap.
        foreach (var old in await db.Marks.Where(m => m.TakeId == id && m.Start < end && m.End > start).ToListAsync())
        {
            if (old.End > end)
                db.Marks.Add(
                    new TakeMark
                    {
                        Id = Guid.NewGuid(),
                        TakeId = id,
                        Start = end,
                        End = old.End,
                        IsVoice = old.IsVoice,
                        Sound = old.Sound,
                    }
                );
            if (old.Start < start)
                old.End = start;
            else
                db.Marks.Remove(old);
        }
        db.Marks.Add(
            new TakeMark
            {
                Id = Guid.NewGuid(),
                TakeId = id,
                Start = start,
                End = end,
                IsVoice = edit.IsVoice,
                Sound = sound?.ToString() ?? "",
            }
        );
    }

    /// <summary>A row as hearing has it.</summary>
    public static VoiceMark Read(TakeMark row) =>
        new(row.Start, row.End, row.IsVoice, !row.IsVoice && Enum.TryParse<VocalSoundKind>(row.Sound, out var kind) ? kind : null);

    public async Task ApplyAsync(LiftMark edit, EditScope scope)
    {
        scope.Name = "Lift off a mark";
        scope.Db.Marks.Remove(
            await scope.Db.Marks.FirstOrDefaultAsync(m => m.Id == edit.Mark && m.TakeId == edit.TakeId) ?? throw new NotFoundException("such mark")
        );
    }

    public async Task ApplyAsync(PinBoundary edit, EditScope scope)
    {
        var work = MouthWork.Open((await scope.LineAsync(edit.Line)).Scene, edit.Line);
        var (index, at) = edit.PhoneOfLine is { } number ? PlaceOf(work, number, edit.AtEnd) : (edit.Word, edit.Phone);
        var word = work.Word(index);
        scope.Name = $"Boundary of \"{word.Text}\"";
        var phones = work.PhonesOf(index);
        var care = Column.Read<VoiceCare>((await scope.Db.Takes.FirstAsync(t => t.Id == work.Take)).Care);
        var phone = Math.Clamp(at, 0, phones.Count);
        var near = care.ToOriginal(phone < phones.Count ? phones[phone].Start : word.End);
        // One pin for one boundary.
        scope.Db.Pins.RemoveRange(
            (await scope.Db.Pins.Where(p => p.TakeId == work.Take && p.Phone == phone).ToListAsync()).Where(p =>
                string.Equals(p.Word, word.Text, StringComparison.OrdinalIgnoreCase) && Math.Abs(p.Time - near) < 0.02
            )
        );
        scope.Db.Pins.Add(
            new TakePin
            {
                Id = Guid.NewGuid(),
                TakeId = work.Take,
                Word = word.Text,
                Near = near,
                Phone = phone,
                Time = care.ToOriginal(Check.Range(edit.Time, 0, work.Placed.Speech.Duration, "A time")),
            }
        );
    }

    // The edge of a phone as the place of a phone within its word.
    private static (int Word, int Phone) PlaceOf(MouthWork work, int number, bool atEnd)
    {
        var spoken = work.Placed.Speech.Phones.Where(p => p.Phone != Arpabet.Silence).ToArray();
        if (number < 0 || number >= spoken.Length)
            throw new RequestException("There is no such sound any more.");
        var middle = (spoken[number].Start + spoken[number].End) / 2;
        var word = work.WordIndexAt(middle);
        if (word < 0)
            throw new RequestException("This sound belongs to no word: there is nothing to hold its boundary.");
        var place = work.PhonesOf(word).ToList().FindIndex(p => middle >= p.Start && middle < p.End);
        return (word, Math.Max(0, place) + (atEnd ? 1 : 0));
    }

    public async Task ApplyAsync(LiftPins edit, EditScope scope)
    {
        scope.Name = "Boundaries back to automatic";
        var (_, line) = await scope.LineAsync(edit.Line);
        scope.Db.Pins.RemoveRange(await scope.Db.Pins.Where(p => p.TakeId == line.TakeId).ToListAsync());
    }

    public Task<object?> PrepareAsync(Respell edit, CancellationToken cancel)
    {
        var written = (edit.Written ?? "").Trim();
        if (PhoneMap.Plain(edit.Word ?? "") is not { Length: > 0 and <= LongestWord })
            throw new RequestException("That is no word.");
        if (written.Length > LongestWriting)
            throw new RequestException($"A pronunciation has at most {LongestWriting} characters.");
        var phones = written.Length == 0 ? [] : WrittenSounds.Read(written, SpeechModels.Analyzer.Say);
        if (written.Length > 0 && phones.Length == 0)
            throw new RequestException($"\"{written}\" is neither ARPAbet, nor IPA, nor a spelling with sounds.");
        return Task.FromResult<object?>(phones);
    }

    public async Task ApplyAsync(Respell edit, EditScope scope)
    {
        var word = PhoneMap.Plain(edit.Word);
        var phones = scope.Prepared<string[]>();
        scope.Name = $"How \"{word}\" is said";
        scope.Db.Respellings.RemoveRange(await scope.Db.Respellings.Where(r => r.ProductionId == scope.Production.Id && r.Word == word).ToListAsync());
        if (phones.Length > 0)
            scope.Db.Respellings.Add(
                new Respelling
                {
                    Id = Guid.NewGuid(),
                    ProductionId = scope.Production.Id,
                    Word = word,
                    Written = edit.Written!.Trim(),
                    Phones = string.Join(' ', phones),
                }
            );
    }
}
