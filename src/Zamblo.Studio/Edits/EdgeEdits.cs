using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>The start or the end of a line shows more or less of its sound; a turn that it touches goes along, with the words that lie between.</summary>
public sealed record MoveEdge(string Edge, double At, bool? Alone) : LineEdit;

/// <summary>Where lines begin and end in their recordings.</summary>
internal sealed class EdgeEdits(VoiceStore voices, SceneDesk scenes, AssetStore assets) : IEditHandler<MoveEdge>
{
    // So near, in seconds, two turns of a recording touch.
    private const double Touching = 0.02;

    // A line keeps as much, in seconds.
    private const double Least = 0.1;

    // So much of what stays is listened to with a seam, in seconds: a word alone is heard badly.
    private const double Context = 1.5;

    // So near are turns of one talk, in seconds: what is taken from one is the other's.
    private const double Near = 1;

    // The boundary of two turns of one recording, at one tempo: in seconds of the recording, where the one ends, the other begins, and both are to meet.
    private sealed record Boundary(PlacedLine First, PlacedLine Second, double End, double Start, double To)
    {
        public double Speed => First.Line.Care.Speed;

        // Of the lines, as LineHands has it.
        public double Gap => Math.Max(0, Start - End) / Speed;

        public double By => To > Start ? (To - Start) / Speed : (To - End) / Speed;
    }

    // What is known before the edit; texts where nobody has written any.
    private sealed record Ready(double Whole, Boundary? Boundary, (string First, string Second)? Texts);

    public async Task<object?> PrepareAsync(MoveEdge edit, CancellationToken cancel)
    {
        if (edit.Edge is not ("start" or "end") || !double.IsFinite(edit.At))
            throw new RequestException("An edge is the start or the end.");
        var scene = await scenes.LoadOfLineAsync(edit.Line);
        var line = scene.Voiced(edit.Line).Line;
        var whole = await voices.LengthAsync(line.SoundHash, line.SoundName, cancel);
        var boundary = BoundaryOf(scene, edit);
        return new Ready(whole, boundary, boundary == null ? null : await HeardAsync(scene, boundary, cancel));
    }

    public async Task ApplyAsync(MoveEdge edit, EditScope scope)
    {
        var (scene, line) = await scope.LineAsync(edit.Line);
        var placed = scene.Voiced(edit.Line);
        var isStart = edit.Edge == "start";
        var ready = scope.Prepared<Ready>();
        if (BoundaryOf(scene, edit) is { } boundary)
        {
            var isSame =
                ready.Boundary is { } b
                && (b.First.Line.Take, b.Second.Line.Take, b.End, b.Start, b.To)
                    == (boundary.First.Line.Take, boundary.Second.Line.Take, boundary.End, boundary.Start, boundary.To);
            await MoveAsync(scope, scene, boundary, isSame ? ready.Texts : null);
            return;
        }
        scope.Name = isStart ? "Move the start of a line" : "Move the end of a line";
        var take = await scope.Db.Takes.FirstAsync(t => t.Id == line.TakeId);
        var care = placed.Line.Care;
        // By how much the edge moves, in seconds of the sound.
        var by = (edit.At - (isStart ? placed.Start : placed.End)) * care.Speed;
        if (take is { PartStart: { } from, PartEnd: { } to } && (isStart ? care.TrimStart : care.TrimEnd) == 0)
        {
            by = isStart ? Math.Clamp(from + by, 0, to - care.TrimEnd - Least) - from : Math.Clamp(to + by, from + care.TrimStart + Least, ready.Whole) - to;
            if (edit.Alone != true)
                await PushAsync(scope.Db, scene, take, isStart ? from : to, by, isStart);
            await ShiftAsync(scope.Db, take, isStart ? from + by : from, isStart ? to : to + by);
        }
        else
        {
            var trimmed = (isStart ? care with { TrimStart = care.TrimStart + by } : care with { TrimEnd = care.TrimEnd - by }).Clamped(take.Duration);
            by = isStart ? trimmed.TrimStart - care.TrimStart : care.TrimEnd - trimmed.TrimEnd;
            take.Care = Column.Write(trimmed);
        }
        if (isStart)
            LineTiming.KeepInPlace(scene, line, by / care.Speed);
    }

    // Where the edge of a turn touches that of another in the recording, both as they came but for sound and gain.
    private static Boundary? BoundaryOf(LoadedScene scene, MoveEdge edit)
    {
        var placed = scene.Voiced(edit.Line);
        var isStart = edit.Edge == "start";
        if (edit.Alone == true || PartOf(scene, placed) is not { } part)
            return null;
        // Of those beside it in the recording the nearest.
        var beside = scene
            .Evaluated.Lines.Where(l => l.Id != placed.Id && l.Line.SoundHash == placed.Line.SoundHash)
            .Select(l => (Line: l, Part: PartOf(scene, l)))
            .Where(o => o.Part != null)
            .Select(o => (o.Line, Part: o.Part!.Value, Apart: isStart ? part.Start - o.Part.Value.End : o.Part.Value.Start - part.End))
            .Where(o => o.Apart is > -Touching and < Near)
            .OrderBy(o => o.Apart)
            .FirstOrDefault();
        if (beside.Line == null)
            return null;
        var (first, second) = isStart ? (beside.Line, placed) : (placed, beside.Line);
        var (one, two) = isStart ? (beside.Part, part) : (part, beside.Part);
        VoiceCare a = first.Line.Care,
            b = second.Line.Care;
        if (a.TrimEnd != 0 || b.TrimStart != 0 || a.Speed != b.Speed)
            return null;
        var to = isStart ? two.Start + (edit.At - placed.Start) * a.Speed : one.End + (edit.At - placed.End) * a.Speed;
        if (to < one.Start + a.TrimStart + Least || to > two.End - b.TrimEnd - Least)
            throw new RequestException(NothingLeft);
        // Between them there is nothing to be given.
        return two.Start - one.End > Touching && to >= one.End && to <= two.Start ? null : new Boundary(first, second, one.End, two.Start, to);
    }

    private const string NothingLeft = "The line beside it would have nothing left; delete it or join the two.";

    // Only of what was recorded: an engine's words have their own times.
    private static SoundPart? PartOf(LoadedScene scene, PlacedLine line) =>
        scene.Takes[line.Line.Take.Value] is { PartStart: { } from, PartEnd: { } to, SpeechHash: null, GuideHash: null } ? new(from, to) : null;

    private async Task MoveAsync(EditScope scope, LoadedScene scene, Boundary boundary, (string First, string Second)? texts)
    {
        scope.Name = "Move the boundary between two turns";
        var db = scope.Db;
        var (first, second) = (boundary.First, boundary.Second);
        var (line, other) = (await db.Lines.FirstAsync(l => l.Id == first.Id.Value), await db.Lines.FirstAsync(l => l.Id == second.Id.Value));
        Take take = await db.Takes.FirstAsync(t => t.Id == line.TakeId),
            later = await db.Takes.FirstAsync(t => t.Id == other.TakeId);
        var (mine, theirs) = (await LineHandRows.LoadAsync(db, line, take), await LineHandRows.LoadAsync(db, other, later));
        var by = boundary.By;
        // Half a script would make strangers of the other half's words: what was only heard stands for it.
        LineHands Written(LineHands hands, Line l) => hands with { Text = scene.WrittenOf(l) };
        var (a, b) = LineHands.MoveBoundary(
            Written(mine.Hands, line),
            Written(theirs.Hands, other),
            first.Speech,
            second.Speech,
            (first.Duration, second.Duration),
            boundary.Gap,
            by
        );
        if (texts is { } heard)
            (a, b) = (a with { Text = heard.First }, b with { Text = heard.Second });
        (a, b) = (a with { Text = a.Text.Trim() }, b with { Text = b.Text.Trim() });
        // Of whom nobody knows what is said, it is not known now either.
        if (scene.WrittenOf(by > 0 ? line : other).Length == 0)
            (a, b) = by > 0 ? (a with { Text = "" }, b) : (a, b with { Text = "" });
        (line.Captions, other.Captions) = CaptionEdits.MoveBoundary(line, first, other, second, by);
        await SoundsAsync(db, boundary, by);
        await ForgetAsync(db, take, later);
        // Either may get rows of the other.
        mine.Take(theirs);
        theirs.Take(mine);
        mine.Write(db, line, take, a);
        theirs.Write(db, other, later, b);
        (take.PartEnd, later.PartStart) = (boundary.To, boundary.To);
        (take.Duration, later.Duration) = (take.PartEnd.Value - take.PartStart!.Value, later.PartEnd!.Value - later.PartStart.Value);
        LineTiming.KeepBoundary(scene, first, second, other, boundary.Gap, by);
        scope.Answer = new EditAnswer { Said = Said(scene, boundary, by) };
    }

    // In numbers, and in the words that went over.
    private static string Said(LoadedScene scene, Boundary boundary, double by)
    {
        var (giver, taker) = by > 0 ? (boundary.Second, boundary.First) : (boundary.First, boundary.Second);
        var words = (giver.Speech?.Words ?? []).Where(w => by > 0 ? (w.Start + w.End) / 2 < by : (w.Start + w.End) / 2 >= giver.Duration + by).ToArray();
        var who = scene.Member(taker.Line.Member.Value).RoleName;
        var said = words.Length switch
        {
            0 => "no word went over",
            <= 4 => $"“{string.Join(' ', words.Select(w => w.Text))}” went to {who}",
            _ => $"{words.Length} words went to {who}",
        };
        return FormattableString.Invariant($"Boundary moved by {by:+0.00;-0.00} s: {said}.");
    }

    // Effects that hang on words go where their words go.
    private static async Task SoundsAsync(ZambloContext db, Boundary boundary, double by)
    {
        Guid first = boundary.First.Id.Value,
            second = boundary.Second.Id.Value;
        foreach (var sound in await db.Sounds.Where(s => s.LineId == first || s.LineId == second).ToListAsync())
            LineHandRows.MoveBoundary(sound, boundary.First, boundary.Second, boundary.Gap, by);
    }

    // Marks and boundaries by hand are written anew.
    private static async Task ForgetAsync(ZambloContext db, params Take[] takes)
    {
        foreach (var take in takes)
        {
            db.Marks.RemoveRange(await db.Marks.Where(m => m.TakeId == take.Id).ToListAsync());
            db.Pins.RemoveRange(await db.Pins.Where(p => p.TakeId == take.Id).ToListAsync());
        }
    }

    // What is said on both sides where nobody has written it: what lies away from the seam stays, the seam is listened to anew. Null where there is no
    // recogniser for it, or it has nothing to hold on to.
    private async Task<(string First, string Second)?> HeardAsync(LoadedScene scene, Boundary boundary, CancellationToken cancel)
    {
        SceneLine a = boundary.First.Line,
            b = boundary.Second.Line;
        var (one, two) = (scene.Lines.First(l => l.Id == a.Id.Value), scene.Lines.First(l => l.Id == b.Id.Value));
        if (one.Text.Length + two.Text.Length > 0 || a.Query.Language != b.Query.Language || !WordRecogniser.Writes(a.Query.Language))
            return null;
        // What does not sound like English has no English words.
        if (boundary.First.Speech is { IsForeign: true } || boundary.Second.Speech is { IsForeign: true })
            return null;
        double low = Math.Min(boundary.End, boundary.To),
            high = Math.Max(boundary.Start, boundary.To);
        var starts = (PartOf(scene, boundary.First)!.Value.Start, PartOf(scene, boundary.Second)!.Value.Start);
        WordSegment[] Words(PlacedLine l, double start) =>
            [.. (l.Speech?.Words ?? []).Select(w => w with { Start = start + l.Line.Care.ToOriginal(w.Start), End = start + l.Line.Care.ToOriginal(w.End) })];
        WordSegment[] before = Words(boundary.First, starts.Item1),
            after = Words(boundary.Second, starts.Item2);
        WordSegment[] stayFirst = [.. before.Where(w => w.End <= low + Touching)],
            stay = [.. after.Where(w => w.Start >= high - Touching)];
        var from = stayFirst.LastOrDefault(w => w.Start <= low - Context) is { Text: not null } f ? f.Start : starts.Item1;
        var to = stay.FirstOrDefault(w => w.End >= high + Context) is { Text: not null } t ? t.End : PartOf(scene, boundary.Second)!.Value.End;
        var heard = await ListenAsync(a, from, boundary.To, cancel);
        var rest = await ListenAsync(a, boundary.To, to, cancel);
        if (SeamWords.After([.. stayFirst.Select(w => w.Text)], heard) is not { } end || SeamWords.Before([.. stay.Select(w => w.Text)], rest) is not { } begin)
            return null;
        var (kept, _) = LineSplit.Text(scene.WrittenOf(one), before, stayFirst.Length > 0 ? stayFirst[^1].End : 0);
        var (_, left) = LineSplit.Text(scene.WrittenOf(two), after, stay.Length > 0 ? stay[0].Start : double.MaxValue);
        if (stayFirst.Length == 0)
            kept = "";
        return (LineSplit.Join(kept.TrimEnd(), string.Join(' ', end)), LineSplit.Join(string.Join(' ', begin), left));
    }

    private async Task<IReadOnlyList<string>> ListenAsync(SceneLine line, double from, double to, CancellationToken cancel)
    {
        if (to - from < Least)
            return [];
        var audio = await AudioFiles.DecodeAsync(assets.PathOf(line.SoundHash), line.SoundName, CepstralFrontEnd.SampleRate, new SoundPart(from, to), cancel);
        return [.. WordRecogniser.Recognise(audio, [(0, audio.Duration)], cancel: cancel, language: line.Query.Language).Select(w => w.Text)];
    }

    // A turn that touches the edge of this one goes along with it; one that it runs into gives way.
    private static async Task PushAsync(ZambloContext db, LoadedScene scene, Take take, double edge, double by, bool isStart)
    {
        foreach (var placed in scene.Evaluated.Lines.Where(l => l.Line.SoundHash == take.AssetHash && l.Line.Take.Value != take.Id))
        {
            var id = placed.Line.Take.Value;
            if (scene.Takes[id] is not { PartStart: { } from, PartEnd: { } to })
                continue;
            var near = isStart ? to : from;
            var touches = Math.Abs(near - edge) < Touching;
            var runsInto = isStart ? near < edge && near > edge + by : near > edge && near < edge + by;
            if (!touches && !runsInto)
                continue;
            var place = edge + by;
            if (isStart ? place < from + Least : place > to - Least)
                throw new RequestException(NothingLeft);
            await ShiftAsync(db, await db.Takes.FirstAsync(t => t.Id == id), isStart ? from : place, isStart ? place : to);
            var line = await db.Lines.FirstAsync(l => l.Id == placed.Id.Value);
            if (!isStart)
                LineTiming.KeepInPlace(scene, line, (place - from) / placed.Line.Care.Speed);
        }
    }

    // Another part of the same sound; marks and boundaries by hand stay on the sound.
    private static async Task ShiftAsync(ZambloContext db, Take take, double from, double to)
    {
        var by = take.PartStart!.Value - from;
        foreach (var mark in await db.Marks.Where(m => m.TakeId == take.Id).ToListAsync())
            (mark.Start, mark.End) = (mark.Start + by, mark.End + by);
        foreach (var pin in await db.Pins.Where(p => p.TakeId == take.Id).ToListAsync())
            (pin.Near, pin.Time) = (pin.Near + by, pin.Time + by);
        (take.PartStart, take.PartEnd, take.Duration) = (from, to, to - from);
    }
}
