using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>A stretch of a file that becomes a line.</summary>
public sealed record FilePart(double Start, double End, Guid Member, string? Text);

/// <summary>A file is cut into lines by hand.</summary>
public sealed record CutFile(string Hash, string? Name, FilePart[] Parts) : SceneEdit;

/// <summary>A line is cut in two at a moment of the scene; all hand work stays.</summary>
public sealed record SplitLine(double At) : LineEdit;

/// <summary>With the next line of the same member: one line, one take, the pause between them and all hand work kept.</summary>
public sealed record JoinLines : LineEdit;

internal sealed class CutEdits(VoiceStore voices, AssetStore assets, IDbContextFactory<ZambloContext> contexts, SceneDesk scenes)
    : IEditHandler<CutFile>,
        IEditHandler<SplitLine>,
        IEditHandler<JoinLines>
{
    private const int MostParts = 500;

    // So near, in seconds, two turns of a recording touch.
    private const double Touching = 0.02;
    private const double LongestLine = 3600;

    public async Task<object?> PrepareAsync(CutFile edit, CancellationToken cancel)
    {
        if (edit.Parts is not { Length: > 0 and <= MostParts })
            throw new RequestException($"Mark 1 to {MostParts} stretches: each becomes a line.");
        var length = await voices.LengthAsync(edit.Hash, await assets.NameOfAsync(contexts, edit.Hash, cancel), cancel);
        FilePart[] parts =
        [
            .. edit
                .Parts.Select(p => p with { Start = Check.Range(p.Start, 0, length, "A start"), End = Check.Range(p.End, 0, length, "An end") })
                .OrderBy(p => p.Start),
        ];
        if (parts.Any(p => p.End - p.Start < 0.1))
            throw new RequestException("A stretch lasts at least a tenth of a second.");
        return parts;
    }

    public async Task ApplyAsync(CutFile edit, EditScope scope)
    {
        var name = Check.FileName(edit.Name, "recording");
        scope.Name = $"Lines from {name}";
        var parts = scope.Prepared<FilePart[]>();
        var order = await scope.Db.Lines.Where(l => l.SceneId == edit.Scene).MaxAsync(l => (int?)l.Order) ?? 0;
        foreach (var p in parts)
        {
            var line = new Line
            {
                Id = Guid.NewGuid(),
                SceneId = edit.Scene,
                CastMemberId = (await scope.MemberAsync(p.Member)).Id,
                Order = ++order,
                Text = p.Text?.Trim() ?? "",
            };
            var take = new Take
            {
                Id = Guid.NewGuid(),
                LineId = line.Id,
                Kind = TakeKind.File,
                AssetHash = edit.Hash,
                Name = name,
                Duration = p.End - p.Start,
                PartStart = p.Start,
                PartEnd = p.End,
                Created = DateTime.UtcNow,
            };
            line.TakeId = take.Id;
            scope.Db.Lines.Add(line);
            scope.Db.Takes.Add(take);
        }
        scope.Answer = new EditAnswer { Lines = parts.Length };
    }

    public async Task ApplyAsync(SplitLine edit, EditScope scope)
    {
        scope.Name = "Split a line";
        var db = scope.Db;
        var (scene, line) = await scope.LineAsync(edit.Line);
        var placed = scene.Voiced(edit.Line);
        var at = edit.At - placed.Start;
        if (!(at >= 0.1 && at <= placed.Duration - 0.1))
            throw new RequestException("Put the playhead inside the line to split it.");
        var take = await db.Takes.FirstAsync(t => t.Id == line.TakeId);
        var hands = await LineHandRows.LoadAsync(db, line, take);
        var (first, rest) = LineHands.Split(hands.Hands, placed.Speech, placed.Duration, at);
        var cut = placed.Line.Care.ToOriginal(at) + (take.PartStart ?? 0);
        foreach (var later in await db.Lines.Where(l => l.SceneId == line.SceneId && l.Order > line.Order).ToListAsync())
        {
            // Who begins with this line does not begin with its second half.
            if (later.IsTogether && later.Order == line.Order + 1 && scene.Find(later.Id) is { } other)
                later.Start = other.Start;
            later.Order++;
        }
        var second = new Line
        {
            Id = Guid.NewGuid(),
            SceneId = line.SceneId,
            CastMemberId = line.CastMemberId,
            Order = line.Order + 1,
            Start = placed.Start + at,
            Delivery = line.Delivery,
            Language = line.Language,
            IsOffStage = line.IsOffStage,
            Acting = line.Acting,
            IsMute = line.IsMute,
        };
        (line.Captions, second.Captions) = CaptionEdits.Split(line, placed, at);
        db.Lines.Add(second);
        foreach (var voice in await db.LineVoices.AsNoTracking().Where(v => v.LineId == line.Id).ToListAsync())
            db.LineVoices.Add(
                new LineVoice
                {
                    Id = Guid.NewGuid(),
                    LineId = second.Id,
                    CastMemberId = voice.CastMemberId,
                }
            );
        // The take that was is kept: the two are new ones, so that undo and going back to it are the same.
        Take Part(Guid owner, double from, double to, string spoken) =>
            new()
            {
                Id = Guid.NewGuid(),
                LineId = owner,
                Kind = take.Kind,
                AssetHash = take.AssetHash,
                Name = take.Name,
                Duration = to - from,
                SpeechHash = take.SpeechHash,
                GuideHash = take.GuideHash,
                GuideName = take.GuideName,
                PartStart = from,
                PartEnd = to,
                SpokenText = take.SpokenText.Length > 0 ? spoken : "",
                SpokenDelivery = take.SpokenDelivery,
                SpokenSounds = Takes.SoundsWithin(take.SpokenSounds, spoken),
                Created = DateTime.UtcNow,
            };
        var (one, two) = (Part(line.Id, take.PartStart ?? 0, cut, first.Text), Part(second.Id, cut, take.PartEnd ?? take.Duration, rest.Text));
        db.Takes.AddRange(one, two);
        (line.TakeId, second.TakeId) = (one.Id, two.Id);
        hands.Write(db, line, one, first);
        hands.Write(db, second, two, rest);
        foreach (var sound in await db.Sounds.Where(s => s.LineId == line.Id).ToListAsync())
            LineHandRows.Move(sound, placed.Speech, second.Id, at, placed.Duration);
        scope.Answer = new EditAnswer { Id = second.Id };
    }

    private sealed record Joined(Guid First, Guid Second, AudioBuffer? Sound, string? Hash);

    // Where the two are not parts of one sound, that of both is made anew, as the film has it.
    public async Task<object?> PrepareAsync(JoinLines edit, CancellationToken cancel)
    {
        var scene = await scenes.LoadOfLineAsync(edit.Line);
        var (first, second) = Pair(scene, edit.Line);
        if (IsOneSound(scene, first, second))
            return new Joined(first.Line.Take.Value, second.Line.Take.Value, null, null);
        Task<AudioBuffer> CaredAsync(SceneLine l) => voices.CaredAsync(l.SoundHash, l.SoundName, l.Query.Part, l.Care, cancel);
        AudioBuffer before = await CaredAsync(first.Line),
            after = await CaredAsync(second.Line);
        var offset = second.Start - first.Start;
        var sound = Mixer.Mix([new(before, 0), new(after, offset)], Math.Max(before.Duration, offset + after.Duration), AudioFiles.MasterRate);
        return new Joined(first.Line.Take.Value, second.Line.Take.Value, sound, await assets.KeepAsync(contexts, sound, "joined.wav", cancel));
    }

    public async Task ApplyAsync(JoinLines edit, EditScope scope)
    {
        scope.Name = "Join two lines";
        var db = scope.Db;
        var (scene, line) = await scope.LineAsync(edit.Line);
        var (first, second) = Pair(scene, edit.Line);
        var made = scope.Prepared<Joined>();
        if (made.First != first.Line.Take.Value || made.Second != second.Line.Take.Value)
            throw new RequestException("One of the lines has another take now; join them once more.");
        var other = await db.Lines.FirstAsync(l => l.Id == second.Id.Value);
        Take a = await db.Takes.FirstAsync(t => t.Id == line.TakeId),
            b = await db.Takes.FirstAsync(t => t.Id == other.TakeId);
        var offset = second.Start - first.Start;
        var isOne = made.Hash == null;
        var duration = isOne ? offset + second.Duration : made.Sound!.Duration;
        var (mine, theirs) = (await LineHandRows.LoadAsync(db, line, a), await LineHandRows.LoadAsync(db, other, b));
        // Half a script would make strangers of the other half's words: what was only heard stands for it. Where nobody wrote anything it is heard anew.
        var isWritten = line.Text.Length + other.Text.Length > 0;
        var hands = LineHands.Join(
            mine.Hands with
            {
                Text = isWritten ? Written(line) : "",
            },
            theirs.Hands with
            {
                Text = isWritten ? Written(other) : "",
            },
            first.Speech,
            second.Speech,
            offset,
            duration,
            isOne
        );
        line.Captions = CaptionEdits.Join(line, first, other, second);
        string Written(Line l) => l.Text.Length > 0 ? l.Text : scene.WrittenOf(l);
        var take = new Take
        {
            Id = Guid.NewGuid(),
            LineId = line.Id,
            Created = DateTime.UtcNow,
        };
        if (isOne)
            (
                take.Kind,
                take.AssetHash,
                take.Name,
                take.SpeechHash,
                take.GuideHash,
                take.GuideName,
                take.PartStart,
                take.PartEnd,
                take.Duration,
                take.SpokenText,
                take.SpokenDelivery,
                take.SpokenSounds
            ) = (
                a.Kind,
                a.AssetHash,
                a.Name,
                a.SpeechHash,
                a.GuideHash,
                a.GuideName,
                a.PartStart,
                b.PartEnd,
                b.PartEnd!.Value - a.PartStart!.Value,
                a.SpokenText.Length > 0 ? hands.Text : "",
                a.SpokenDelivery,
                Takes.Together(a.SpokenSounds, b.SpokenSounds)
            );
        else
            (take.Kind, take.AssetHash, take.Name, take.Duration) = (TakeKind.File, made.Hash!, "joined", duration);
        db.Takes.Add(take);
        line.TakeId = take.Id;
        foreach (var sound in await db.Sounds.Where(s => s.LineId == other.Id).ToListAsync())
            LineHandRows.MoveBack(sound, first.Speech, second.Speech, line.Id, offset, duration);
        mine.Take(theirs);
        mine.Write(db, line, take, hands);
        await ProductionRows.RemoveAsync(db, [other]);
    }

    private static (PlacedLine First, PlacedLine Second) Pair(LoadedScene scene, Guid line)
    {
        var first = scene.Voiced(line);
        var second =
            scene.Evaluated.Lines.Where(l => l.Line.Member == first.Line.Member && l.Id != first.Id && l.Start >= first.Start).MinBy(l => l.Start)
            ?? throw new RequestException("Nothing of the same member comes after this line to be joined with.");
        return second.End - first.Start > LongestLine ? throw new RequestException("A line lasts at most an hour.") : (first, second);
    }

    private static bool IsOneSound(LoadedScene scene, PlacedLine first, PlacedLine second)
    {
        Take a = scene.Takes[first.Line.Take.Value],
            b = scene.Takes[second.Line.Take.Value];
        return a.AssetHash == b.AssetHash
            && a.GuideHash == b.GuideHash
            && a.SpeechHash == b.SpeechHash
            && LineHands.AreHalves(first.Line.Care, second.Line.Care)
            && a.PartEnd is { } end
            && b.PartStart is { } start
            && Math.Abs(end - start) < Touching
            && Math.Abs(second.Start - first.End) < Touching;
    }
}
