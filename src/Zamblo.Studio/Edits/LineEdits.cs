using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Interchange;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>An edit of a line.</summary>
public abstract record LineEdit : Edit
{
    [JsonIgnore]
    public Guid Line { get; init; }
    public override EditTarget Target => new(TargetKind.Line, Line);
}

/// <summary>Other words. A spoken line is spoken again, another one is listened to again.</summary>
public sealed record WriteLine(string Text) : LineEdit;

/// <summary>Words of a line written anew, the rest as it is: one that is corrected, two that are joined.</summary>
public sealed record WriteWords(int Word, int Count, string Text) : LineEdit;

/// <summary>Rows of a song that are sung again are written there, too.</summary>
public sealed record WriteRepeats : LineEdit;

/// <summary>Somebody else says it, with all that hangs on it.</summary>
public sealed record GiveLine(Guid Member) : LineEdit;

/// <summary>
/// A line in time: At puts its take at a moment of the scene, By moves it by so many seconds; those after it follow unless Alone. Pause is the
/// time before it, less than 0 comes in before the other ends; Follow gives it back to the scene's pause.
/// </summary>
public sealed record MoveLine(double? At, double? By, bool IsAlone, double? Pause, bool Follow, bool IsTogether = false) : LineEdit;

/// <summary>By so many places in the script.</summary>
public sealed record ReorderLine(int Places) : LineEdit;

/// <summary>Heard without a mouth, seen without a voice, or said by others, too.</summary>
public sealed record SetLineManner(bool? OffStage, bool? Mute, Guid[]? Also) : LineEdit;

/// <summary>
/// Says which language a line is in; an empty tag for the language of who says it. Other lines of the same recording that were told the same go along.
/// </summary>
public sealed record SetLineLanguage(string? Language) : LineEdit;

/// <summary>More or less moves over a line; dials that are not given stay.</summary>
public sealed record SetLineActing(JsonObject Acting) : LineEdit;

/// <summary>A line is taken out with its takes and all that hangs on it.</summary>
public sealed record RemoveLine : LineEdit;

internal sealed class LineEdits
    : IEditHandler<WriteLine>,
        IEditHandler<WriteWords>,
        IEditHandler<WriteRepeats>,
        IEditHandler<GiveLine>,
        IEditHandler<MoveLine>,
        IEditHandler<ReorderLine>,
        IEditHandler<SetLineManner>,
        IEditHandler<SetLineLanguage>,
        IEditHandler<SetLineActing>,
        IEditHandler<RemoveLine>
{
    public async Task ApplyAsync(WriteLine edit, EditScope scope)
    {
        scope.Name = "Change the words";
        var text = LyricRepeats.WrittenOut(edit.Text.Replace("\0", "", StringComparison.Ordinal).Trim());
        if (text.Length > Espeak.MaximalText)
            throw new RequestException($"A line has at most {Espeak.MaximalText:N0} characters.");
        var (_, line) = await scope.LineAsync(edit.Line);
        if (await WriteAsync(scope, line, text) is { } job)
            scope.Answer = new EditAnswer { Job = job };
    }

    /// <summary>A line says something else; one that was spoken is spoken again.</summary>
    /// <returns>The job that speaks it.</returns>
    internal static async Task<Guid?> WriteAsync(EditScope scope, Line line, string text)
    {
        var isOther = text != line.Text;
        // Another direction in front asks for another delivery.
        if (Directions.Leading(text) is { } how && how != Directions.Leading(line.Text) && Delivery.NameOf(how) != null)
            line.Delivery = Column.Write(Delivery.FromDirection(how));
        line.Text = text;
        // In a version other words are in its language, whichever the line was left in.
        if (isOther && line.OriginalId != null)
            line.Language = "";
        var take = await scope.Db.Takes.AsNoTracking().FirstOrDefaultAsync(t => t.Id == line.TakeId);
        return isOther && take is { Kind: TakeKind.Synthesis } && text.Length > 0 ? SpeakAgain(scope, line) : null;
    }

    /// <summary>Orders that a line is spoken as it is written now.</summary>
    internal static Guid SpeakAgain(EditScope scope, Line line) =>
        scope.Order(
            TakeOrder.Speak,
            "Speak a line",
            new TakeOrder(line.SceneId, line.Id, line.CastMemberId, line.Text, TakeKind.Synthesis, null, "", Takes.DeliveryOf(line))
        );

    public async Task ApplyAsync(WriteWords edit, EditScope scope)
    {
        var work = MouthWork.Open((await scope.LineAsync(edit.Line)).Scene, edit.Line);
        var count = Math.Clamp(edit.Count, 1, Math.Max(1, work.Words.Count - edit.Word));
        work.Word(edit.Word);
        var written = work.Scene.WrittenOf(work.Scene.Lines.First(l => l.Id == edit.Line));
        var whole =
            WrittenSpans.Replace(written, work.Words, edit.Word, count, (edit.Text ?? "").Trim())
            ?? throw new RequestException("This word does not stand in the line's text: change the text itself.");
        await ApplyAsync(new WriteLine(whole) { Line = edit.Line }, scope);
    }

    public async Task ApplyAsync(WriteRepeats edit, EditScope scope)
    {
        var (scene, line) = await scope.LineAsync(edit.Line);
        if (scene.Find(edit.Line)?.Speech?.Repeats is not { } repeats)
            throw new RequestException("Nothing of this line is sung again without being written.");
        await ApplyAsync(new WriteLine(LyricRepeats.WithSung(line.Text.Trim(), repeats)) { Line = edit.Line }, scope);
    }

    public async Task ApplyAsync(GiveLine edit, EditScope scope)
    {
        scope.Name = "Give the line to another";
        var member = await scope.MemberAsync(edit.Member);
        var (_, line) = await scope.LineAsync(edit.Line);
        await GiveAsync(scope.Db, line, member);
    }

    /// <summary>Somebody else says a line, with all that hangs on it.</summary>
    internal static async Task GiveAsync(ZambloContext db, Line line, CastMember member)
    {
        line.CastMemberId = member.Id;
        foreach (var clip in await db.Clips.Where(c => c.LineId == line.Id).ToListAsync())
            clip.CastMemberId = member.Id;
        db.LineVoices.RemoveRange(await db.LineVoices.Where(v => v.LineId == line.Id && v.CastMemberId == member.Id).ToListAsync());
    }

    public async Task ApplyAsync(MoveLine edit, EditScope scope)
    {
        var (scene, line) = await scope.LineAsync(edit.Line);
        scope.Name = edit.Pause != null || edit.Follow ? "Change a pause" : "Move a line";
        if (edit.IsTogether)
        {
            if (scene.Lines.MinBy(l => l.Order)?.Id == line.Id)
                throw new RequestException("The first line of a scene has none before it to be said with.");
            scope.Name = "Say a line with the one before";
            (line.Start, line.Pause, line.IsTogether) = (null, null, true);
            return;
        }
        if (edit.Follow)
            await LineTiming.MoveAsync(scope.Db, scene, line, null, null, false);
        if (edit.Pause is { } pause)
            await LineTiming.MoveAsync(scope.Db, scene, line, null, Check.Range(pause, -60, 600, "A pause"), false);
        var at = edit.By is { } by ? scene.Voiced(edit.Line).Start + Check.Range(by, -7200, 7200, "A step") : edit.At;
        if (at is { } moment)
            await LineTiming.MoveAsync(scope.Db, scene, line, Check.Range(moment, 0, 7200, "A moment"), null, edit.IsAlone);
    }

    public async Task ApplyAsync(ReorderLine edit, EditScope scope)
    {
        scope.Name = "Move a line";
        var (_, line) = await scope.LineAsync(edit.Line);
        var lines = await scope.Db.Lines.Where(l => l.SceneId == line.SceneId).OrderBy(l => l.Order).ToListAsync();
        var before = LineTiming.Before(lines);
        var from = lines.FindIndex(l => l.Id == line.Id);
        var to = (int)Math.Clamp((long)from + edit.Places, 0, lines.Count - 1);
        lines.RemoveAt(from);
        lines.Insert(to, line);
        // A pause belongs to the place in the talk that it was made for.
        if (from != to)
            line.Pause = null;
        for (var i = 0; i < lines.Count; i++)
            lines[i].Order = i + 1;
        LineTiming.Apart(lines, before);
    }

    public async Task ApplyAsync(SetLineActing edit, EditScope scope)
    {
        scope.Name = "How much moves over a line";
        var (_, line) = await scope.LineAsync(edit.Line);
        var acting = Dials.Turned(Column.Read<LineActing>(line.Acting), edit.Acting).Clamped();
        line.Acting = acting == new LineActing() ? "" : Column.Write(acting);
    }

    public async Task ApplyAsync(SetLineManner edit, EditScope scope)
    {
        scope.Name = edit.OffStage is { } off
            ? off
                ? "Send a voice off stage"
                : "Bring a voice on stage"
            : edit.Mute is { } mute
                ? mute
                    ? "Make a pantomime"
                    : "Make a line heard"
                : "Change who speaks in unison";
        var (_, line) = await scope.LineAsync(edit.Line);
        if (edit.OffStage is { } isOff)
            line.IsOffStage = isOff;
        if (edit.Mute is { } isMute)
            line.IsMute = isMute;
        if (edit.Also is not { } also)
            return;
        var there = await scope.Db.LineVoices.Where(v => v.LineId == edit.Line).ToListAsync();
        scope.Db.LineVoices.RemoveRange(there.Where(v => !also.Contains(v.CastMemberId)));
        foreach (var id in also.Distinct().Where(id => id != line.CastMemberId && !there.Exists(v => v.CastMemberId == id)))
            scope.Db.LineVoices.Add(
                new LineVoice
                {
                    Id = Guid.NewGuid(),
                    LineId = edit.Line,
                    CastMemberId = (await scope.MemberAsync(id)).Id,
                }
            );
    }

    public async Task ApplyAsync(SetLineLanguage edit, EditScope scope)
    {
        scope.Name = "Say which language it is";
        var (loaded, line) = await scope.LineAsync(edit.Line);
        var (was, now) = (line.Language, Check.Language(edit.Language));
        line.Language = now;
        var take = await scope.Db.Takes.AsNoTracking().FirstOrDefaultAsync(t => t.Id == line.TakeId);
        if (take?.PartStart == null)
            return;
        var scenes = scope.Db.Scenes.Where(s => s.ProductionId == loaded.Production.Id).Select(s => s.Id);
        var others = scope.Db.Lines.Where(l =>
            scenes.Contains(l.SceneId) && l.Language == was && scope.Db.Takes.Any(t => t.Id == l.TakeId && t.AssetHash == take.AssetHash)
        );
        foreach (var other in await others.ToListAsync())
            other.Language = now;
    }

    public async Task ApplyAsync(RemoveLine edit, EditScope scope)
    {
        scope.Name = "Delete a line";
        var (_, line) = await scope.LineAsync(edit.Line);
        // Who was said at once with it follows what was before.
        if (
            !line.IsTogether
            && await scope.Db.Lines.Where(l => l.SceneId == line.SceneId && l.Order > line.Order).OrderBy(l => l.Order).FirstOrDefaultAsync() is { } next
        )
            next.IsTogether = false;
        await ProductionRows.RemoveAsync(scope.Db, [line]);
    }
}
