using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Mouth;
using Zamblo.Core.Score;
using Zamblo.Data;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>Mouths of a line are changed: shape, strength, place, or back to automatic.</summary>
public sealed record EditCues(CueOperation Operation, int[] Cues, MouthShape Shape, double By) : LineEdit;

/// <summary>A shape is put on a stretch of a line.</summary>
public sealed record PutShape(MouthShape Shape, double Start, double End) : LineEdit;

/// <summary>Touch-ups of a scene are lifted off.</summary>
public sealed record LiftTouches(Guid[] Ids) : SceneEdit;

/// <summary>Touch-ups of a scene are switched on or off.</summary>
public sealed record SwitchTouches(Guid[] Ids, bool On) : SceneEdit;

/// <summary>A word of a line.</summary>
public sealed record WordPlace(Guid Line, int Word);

/// <summary>The mouth of a word is laid on the same word elsewhere.</summary>
public sealed record ApplyWord(int Word, WordPlace[] Places) : LineEdit;

/// <summary>A mouth that was copied from a line of the same production.</summary>
public sealed record PasteMouth(Guid Source, double Start, double End, double At) : LineEdit;

/// <summary>A saved motion becomes the mouth of a line.</summary>
public sealed record LayMouth(Guid Motion) : LineEdit;

internal sealed class MouthEdits
    : IEditHandler<EditCues>,
        IEditHandler<PutShape>,
        IEditHandler<LiftTouches>,
        IEditHandler<SwitchTouches>,
        IEditHandler<ApplyWord>,
        IEditHandler<PasteMouth>,
        IEditHandler<LayMouth>
{
    private static async Task<MouthWork> OpenAsync(EditScope scope, Guid line) => MouthWork.Open((await scope.LineAsync(line)).Scene, line);

    private static async Task SaveAsync(EditScope scope, MouthWork work, IReadOnlyList<TouchUp> touches) =>
        scope.Answer = new EditAnswer { Touched = [.. scope.Answer.Touched ?? [], .. await work.SaveAsync(scope.Db, touches)] };

    public async Task ApplyAsync(EditCues edit, EditScope scope)
    {
        var work = await OpenAsync(scope, edit.Line);
        Check.Known(edit.Operation, "operation");
        if (edit.Operation == CueOperation.Shape)
            Check.Known(edit.Shape, "shape");
        if (!double.IsFinite(edit.By))
            throw new RequestException("By how much is a number.");
        var name = edit.Operation switch
        {
            CueOperation.Shape => $"Mouth: {edit.Shape}",
            CueOperation.Strength => "Strength of a mouth",
            CueOperation.Remove => "Take out a mouth",
            CueOperation.Reset => "Mouth back to automatic",
            _ => "Time of a mouth",
        };
        var cues = edit.Cues ?? [];
        var word = work.WordAt(cues.Length > 0 && cues[0] >= 0 && cues[0] < work.Placed.Cues.Count ? work.Placed.Cues[cues[0]].Peak : 0);
        scope.Name = name + (word.Length > 0 ? $" in \"{word}\"" : "");
        await SaveAsync(
            scope,
            work,
            CueEdits.Apply(work.Placed.Cues, work.Touches, new CueEdit(edit.Operation, cues) { Shape = edit.Shape, By = edit.By }, work.Placed.Speech.Duration)
        );
    }

    public async Task ApplyAsync(PutShape edit, EditScope scope)
    {
        var work = await OpenAsync(scope, edit.Line);
        Check.Known(edit.Shape, "shape");
        double start = Math.Max(0, Math.Min(edit.Start, edit.End)),
            end = Math.Min(work.Placed.Speech.Duration, Math.Max(edit.Start, edit.End));
        if (!(end - start >= 0.01))
            throw new RequestException("That stretch is too short for a mouth.");
        scope.Name = edit.Shape == MouthShape.Rest ? "Close the mouth" : $"Add a mouth: {edit.Shape}";
        await SaveAsync(scope, work, [.. work.Touches, CueEdits.Put(edit.Shape, start, end)]);
    }

    // Only those of this scene, whatever ids are given.
    private static Task<List<LineTouch>> OfAsync(EditScope scope, Guid scene, Guid[]? ids)
    {
        var own = ids ?? [];
        return scope.Db.Touches.Where(t => own.Contains(t.Id) && scope.Db.Lines.Any(l => l.Id == t.LineId && l.SceneId == scene)).ToListAsync();
    }

    public async Task ApplyAsync(LiftTouches edit, EditScope scope)
    {
        var rows = await OfAsync(scope, edit.Scene, edit.Ids);
        scope.Name = rows.Count == 1 ? "Lift off a touch-up" : $"Lift off {rows.Count} touch-ups";
        scope.Db.Touches.RemoveRange(rows);
    }

    public async Task ApplyAsync(SwitchTouches edit, EditScope scope)
    {
        scope.Name = edit.On ? "Switch touch-ups on" : "Switch touch-ups off";
        foreach (var row in await OfAsync(scope, edit.Scene, edit.Ids))
            row.IsOn = edit.On;
    }

    public async Task ApplyAsync(ApplyWord edit, EditScope scope)
    {
        var work = await OpenAsync(scope, edit.Line);
        var places = edit.Places ?? [];
        if (places.Length == 0)
            throw new RequestException("There is nothing to change.");
        scope.Name = $"Apply the mouth of \"{work.Word(edit.Word).Text}\" in {places.Length} {(places.Length == 1 ? "place" : "places")}";
        foreach (var group in places.GroupBy(p => p.Line))
        {
            var other = group.Key == edit.Line ? work : await OpenAsync(scope, group.Key);
            await SaveAsync(scope, other, group.Aggregate(other.Touches, (touches, place) => work.Transfer(edit.Word, other, place.Word, touches)));
        }
    }

    public async Task ApplyAsync(PasteMouth edit, EditScope scope)
    {
        var (work, source) = (await OpenAsync(scope, edit.Line), await OpenAsync(scope, edit.Source));
        if (!double.IsFinite(edit.At) || !double.IsFinite(edit.Start) || !double.IsFinite(edit.End))
            throw new RequestException("A place is a number of seconds.");
        // On the same word it is fitted to that word; elsewhere it keeps its length.
        int here = work.WordIndexAt(edit.At),
            there = source.WordIndexAt((edit.Start + edit.End) / 2);
        if (
            here >= 0
            && there >= 0
            && PhoneMap.Plain(work.Words[here].Text) == PhoneMap.Plain(source.Words[there].Text)
            && CueEdits.Copy(source.Placed.Cues, edit.Start, edit.End, t => t) is { } copy
        )
        {
            scope.Name = $"Paste a mouth on \"{work.Words[here].Text}\"";
            await SaveAsync(scope, work, [.. work.Touches, PhoneMap.Fit(copy, source.PhonesOf(there), work.PhonesOf(here))]);
            return;
        }
        scope.Name = "Paste a mouth";
        var pasted =
            CueEdits.Copy(source.Placed.Cues, edit.Start, edit.End, t => edit.At + (t - edit.Start))
            ?? throw new RequestException("There is no mouth to paste.");
        await SaveAsync(scope, work, [.. work.Touches, pasted]);
    }

    public async Task ApplyAsync(LayMouth edit, EditScope scope)
    {
        var work = await OpenAsync(scope, edit.Line);
        var motion = await scope.Db.MouthMotions.AsNoTracking().FirstOrDefaultAsync(m => m.Id == edit.Motion) ?? throw new NotFoundException("such motion");
        scope.Name = $"Lay the mouth \"{motion.Name}\"";
        var end = work.Placed.Speech.Duration;
        TouchCue[] cues =
        [
            .. (JsonSerializer.Deserialize<TouchCue[]>(motion.Cues, JsonSerializerOptions.Web) ?? [])
                .Where(c => c.Start < end)
                .Select(c => c with { End = Math.Min(c.End, end), Peak = Math.Min(c.Peak, end) }),
        ];
        // The whole mouth of the line is the saved one; what it had by hand gives way.
        await SaveAsync(
            scope,
            work,
            [
                new TouchUp
                {
                    Id = Guid.NewGuid(),
                    Kind = TouchKind.Replace,
                    Start = 0,
                    End = end,
                    Cues = cues,
                },
            ]
        );
    }
}
