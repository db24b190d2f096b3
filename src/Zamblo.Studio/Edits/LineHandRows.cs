using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>What hands have done to a line, as rows: for lines that are split and joined.</summary>
internal sealed class LineHandRows
{
    private readonly Dictionary<Guid, LineTouch> _touches;
    private readonly Dictionary<Guid, ScoreClip> _clips;

    private LineHandRows(LineHands hands, IEnumerable<LineTouch> touches, IEnumerable<ScoreClip> clips) =>
        (Hands, _touches, _clips) = (hands, touches.ToDictionary(t => t.Id), clips.ToDictionary(c => c.Id));

    public LineHands Hands { get; }

    /// <summary>Of a line and its take.</summary>
    public static async Task<LineHandRows> LoadAsync(ZambloContext db, Line line, Take take)
    {
        var touches = await db.Touches.Where(t => t.LineId == line.Id).OrderBy(t => t.Order).ToListAsync();
        var clips = await db.Clips.Where(c => c.LineId == line.Id).ToListAsync();
        var marks = await db.Marks.AsNoTracking().Where(m => m.TakeId == take.Id).OrderBy(m => m.Start).ToListAsync();
        var pins = await db.Pins.AsNoTracking().Where(p => p.TakeId == take.Id).OrderBy(p => p.Time).ToListAsync();
        var hands = new LineHands(
            line.Text,
            [.. touches.Select(t => new OrderedTouch(t.Order, HandWork.Read(t)))],
            [.. clips.Select(ClipRows.Read).OfType<LaneClip>()],
            [.. marks.Select(WordEdits.Read)],
            [.. pins.Select(p => new BoundaryPin(p.Word, p.Near, p.Phone, p.Time))],
            Column.Read<VoiceCare>(take.Care)
        );
        return new LineHandRows(hands, touches, clips);
    }

    /// <summary>Takes over the rows of another line.</summary>
    public void Take(LineHandRows other)
    {
        foreach (var (id, row) in other._touches)
            _touches[id] = row;
        foreach (var (id, row) in other._clips)
            _clips[id] = row;
    }

    /// <summary>Gives a line and its new take what is theirs.</summary>
    public void Write(ZambloContext db, Line line, Take take, LineHands hands)
    {
        line.Text = hands.Text;
        take.Care = Column.Write(hands.Care);
        foreach (var (order, touch) in hands.Touches)
        {
            var row = _touches[touch.Id];
            (row.LineId, row.Order, row.Data) = (line.Id, order, Column.Write(touch));
        }
        foreach (var clip in hands.Clips)
            ClipRows.Write(clip with { Line = new LineId(line.Id) }, _clips[clip.Id.Value]);
        foreach (var m in hands.Marks)
            db.Marks.Add(
                new TakeMark
                {
                    Id = Guid.NewGuid(),
                    TakeId = take.Id,
                    Start = m.Start,
                    End = m.End,
                    IsVoice = m.IsVoice,
                    Sound = m.Sound?.ToString() ?? "",
                }
            );
        foreach (var p in hands.Pins)
            db.Pins.Add(
                new TakePin
                {
                    Id = Guid.NewGuid(),
                    TakeId = take.Id,
                    Word = p.Word,
                    Near = p.Near,
                    Phone = p.Phone,
                    Time = p.Time,
                }
            );
    }

    /// <summary>An effect on a line that is split: it goes with the half that it starts in.</summary>
    public static void Move(SceneSound sound, SpeechAnalysis? speech, Guid second, double at, double duration)
    {
        if (Anchor(sound) is not { } anchor)
            return;
        var words = speech?.Words.Count(w => (w.Start + w.End) / 2 < at) ?? 0;
        if (anchor.Find(speech) < at)
            sound.Anchor = Column.Write(anchor.InPart(speech, 0, words, 0, at));
        else
            (sound.LineId, sound.Anchor) = (second, Column.Write(anchor.InPart(speech, words, (speech?.Words.Count ?? 0) - words, at, duration - at)));
    }

    /// <summary>An effect on a line that becomes part of another.</summary>
    public static void MoveBack(SceneSound sound, SpeechAnalysis? first, SpeechAnalysis? own, Guid line, double offset, double duration)
    {
        if (Anchor(sound) is not { } anchor)
            return;
        var words = first?.Words.Count ?? 0;
        (sound.LineId, sound.Anchor) = (line, Column.Write(anchor.InWhole(own, words, words + (own?.Words.Count ?? 0), offset, duration)));
    }

    /// <summary>An effect on one of two turns whose boundary moves (<see cref="LineHands.MoveBoundary"/>): it goes where its moment goes.</summary>
    public static void MoveBoundary(SceneSound sound, PlacedLine first, PlacedLine second, double gap, double by)
    {
        if (Anchor(sound) is not { } anchor)
            return;
        var isLater = by > 0;
        var (giver, taker) = isLater ? (second, first) : (first, second);
        var at = isLater ? by : first.Duration + by;
        var speech = taker.Speech;
        var cut = LineHands.Part(giver.Speech, isLater ? 0 : at, isLater ? at : giver.Duration);
        var isGoing = false;
        if (sound.LineId == giver.Id.Value)
        {
            // In its half of the giver first.
            var isInFront = anchor.Find(giver.Speech) < at;
            int all = giver.Speech?.Words.Count ?? 0,
                front = giver.Speech?.Words.Count(w => (w.Start + w.End) / 2 < at) ?? 0;
            anchor = isInFront ? anchor.InPart(giver.Speech, 0, front, 0, at) : anchor.InPart(giver.Speech, front, all - front, at, giver.Duration - at);
            isGoing = isInFront == isLater;
            if (!isGoing)
            {
                sound.Anchor = Column.Write(anchor);
                return;
            }
            (sound.LineId, speech) = (taker.Id.Value, cut);
        }
        // In the taker what came over lies behind its own words, or before them.
        var other = isGoing ? taker.Speech : cut;
        int own = speech?.Words.Count ?? 0,
            others = other?.Words.Count ?? 0;
        var whole = taker.Duration + gap + Math.Abs(by);
        sound.Anchor = Column.Write(
            isGoing == isLater
                ? anchor.InWhole(speech, others, own + others, isLater ? taker.Duration + gap : gap - by, whole)
                : anchor.InWhole(speech, 0, own + others, 0, whole)
        );
    }

    private static WordAnchor? Anchor(SceneSound sound) =>
        sound.Anchor.Length == 0 ? null : JsonSerializer.Deserialize<WordAnchor>(sound.Anchor, JsonSerializerOptions.Web);
}
