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
            [.. marks.Select(m => new VoiceMark(m.Start, m.End, m.IsVoice))],
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

    /// <summary>The same rows, to be taken over by another while these change.</summary>
    public LineHandRows Copy() => new(Hands, _touches.Values, _clips.Values);

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
        if (Anchor(sound) is null)
            return;
        var (giver, taker) = by > 0 ? (second, first) : (first, second);
        var at = by > 0 ? by : first.Duration + by;
        var isOfGiver = sound.LineId == giver.Id.Value;
        if (isOfGiver)
            Move(sound, giver.Speech, Guid.Empty, at, giver.Duration);
        // Its part of the giver that was cut off is a line of its own for a moment; the earlier half kept the giver's name.
        var isCutOff = isOfGiver && by > 0 == (sound.LineId == giver.Id.Value);
        if (isOfGiver && !isCutOff)
            sound.LineId = giver.Id.Value;
        else
        {
            var cut = LineHands.Part(giver.Speech, by > 0 ? 0 : at, by > 0 ? at : giver.Duration);
            var (one, two, isLater) = by > 0 ? (taker.Speech, cut, isCutOff) : (cut, taker.Speech, !isCutOff);
            var offset = by > 0 ? taker.Duration + gap : gap - by;
            var before = one?.Words.Count ?? 0;
            var all = before + (two?.Words.Count ?? 0);
            var whole = taker.Duration + gap + Math.Abs(by);
            sound.LineId = taker.Id.Value;
            sound.Anchor = Column.Write(isLater ? Anchor(sound)!.InWhole(two, before, all, offset, whole) : Anchor(sound)!.InWhole(one, 0, all, 0, whole));
        }
    }

    private static WordAnchor? Anchor(SceneSound sound) =>
        sound.Anchor.Length == 0 ? null : JsonSerializer.Deserialize<WordAnchor>(sound.Anchor, JsonSerializerOptions.Web);
}
