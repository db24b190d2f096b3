using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Score;

/// <summary>A touch-up with its place among those of its line.</summary>
/// <param name="Order">Later ones lie over earlier ones.</param>
/// <param name="Touch">As it was made.</param>
public sealed record OrderedTouch(int Order, TouchUp Touch);

/// <summary>
/// Everything that hands have done to a line: its words, touch-ups, clips, marks, boundaries and care. A line that is split keeps all of it in
/// its halves, and halves that are joined are what the whole was.
/// </summary>
/// <param name="Text">As written.</param>
/// <param name="Touches">In seconds of the line.</param>
/// <param name="Clips">On the line.</param>
/// <param name="Marks">In seconds of the take as it came.</param>
/// <param name="Pins">In seconds of the take as it came.</param>
/// <param name="Care">Of the take.</param>
public sealed record LineHands(
    string Text,
    IReadOnlyList<OrderedTouch> Touches,
    IReadOnlyList<LaneClip> Clips,
    IReadOnlyList<VoiceMark> Marks,
    IReadOnlyList<BoundaryPin> Pins,
    VoiceCare Care
)
{
    /// <summary>Cuts a line.</summary>
    /// <param name="whole">The line.</param>
    /// <param name="speech">What was heard in it, or null.</param>
    /// <param name="duration">Of the line, in seconds.</param>
    /// <param name="at">Where it is cut, in seconds of the line.</param>
    public static (LineHands First, LineHands Second) Split(LineHands whole, SpeechAnalysis? speech, double duration, double at)
    {
        IReadOnlyList<WordSegment> words = speech?.Words ?? [];
        var before = words.Count(w => (w.Start + w.End) / 2 < at);
        var (text, rest) = LineSplit.Text(whole.Text, words, at);
        var cut = whole.Care.ToOriginal(at);
        var sequence = speech == null ? null : PhoneMap.Sequence(speech);
        bool IsLater(TouchUp t)
        {
            var here = (sequence == null ? null : PhoneMap.Find(t, sequence)) ?? t;
            return (here.Start + here.End) / 2 >= at;
        }
        bool Holds(LaneClip c)
        {
            var (start, end) = c.Place(0, speech);
            return c.Hold(start, end) >= at;
        }
        var first = new LineHands(
            text,
            [.. whole.Touches.Where(t => !IsLater(t.Touch))],
            [.. whole.Clips.Where(c => !Holds(c)).Select(c => c.Moved(a => a.InPart(speech, 0, before, 0, at)))],
            [.. whole.Marks.Where(m => m.Start < cut).Select(m => m with { End = Math.Min(m.End, cut) })],
            [.. whole.Pins.Where(p => p.Time < cut)],
            whole.Care with
            {
                TrimEnd = 0,
                FadeOut = 0,
            }
        );
        var second = new LineHands(
            rest,
            [.. whole.Touches.Where(t => IsLater(t.Touch)).Select(t => t with { Touch = t.Touch.Moved(x => x - at) })],
            [.. whole.Clips.Where(Holds).Select(c => c.Moved(a => a.InPart(speech, before, words.Count - before, at, duration - at)))],
            [.. whole.Marks.Where(m => m.End > cut).Select(m => m with { Start = Math.Max(m.Start, cut) - cut, End = m.End - cut })],
            [.. whole.Pins.Where(p => p.Time >= cut).Select(p => p with { Near = p.Near - cut, Time = p.Time - cut })],
            whole.Care with
            {
                TrimStart = 0,
                FadeIn = 0,
            }
        );
        return (first, second);
    }

    /// <summary>Makes two lines one.</summary>
    /// <param name="first">The earlier line.</param>
    /// <param name="second">The later one.</param>
    /// <param name="speech">What was heard in the earlier one, or null.</param>
    /// <param name="later">What was heard in the later one, or null.</param>
    /// <param name="offset">From the start of the one to that of the other, in seconds.</param>
    /// <param name="duration">Of the joined line, in seconds.</param>
    /// <param name="isOneSound">Whether the two are neighbouring parts of one sound with the same care; else the sound is made anew, as it is heard.</param>
    public static LineHands Join(
        LineHands first,
        LineHands second,
        SpeechAnalysis? speech,
        SpeechAnalysis? later,
        double offset,
        double duration,
        bool isOneSound
    )
    {
        int before = speech?.Words.Count ?? 0,
            all = before + (later?.Words.Count ?? 0);
        // Where their places among each other are known they are kept.
        var last = first.Touches.Count == 0 ? 0 : first.Touches.Max(t => t.Order);
        var isApart = !first.Touches.Select(t => t.Order).Intersect(second.Touches.Select(t => t.Order)).Any();
        OrderedTouch[] moved = [.. second.Touches.Select((t, i) => new OrderedTouch(isApart ? t.Order : last + 1 + i, t.Touch.Moved(x => x + offset)))];
        var seam = isOneSound ? first.Care.ToOriginal(offset) : 0;
        double Early(double t) => isOneSound ? t : Math.Max(0, first.Care.ToTake(t));
        double Late(double t) => isOneSound ? t + seam : offset + Math.Max(0, second.Care.ToTake(t));
        var marks = first.Marks.Select(m => m with { Start = Early(m.Start), End = Early(m.End) }).ToList();
        foreach (var mark in second.Marks.Select(m => m with { Start = Late(m.Start), End = Late(m.End) }))
        {
            // A mark that the cut went through is one again.
            var other = isOneSound
                ? marks.FindIndex(m =>
                    m.IsVoice == mark.IsVoice && m.Sound == mark.Sound && Math.Abs(m.End - seam) < 1e-6 && Math.Abs(mark.Start - seam) < 1e-6
                )
                : -1;
            if (other >= 0)
                marks[other] = marks[other] with { End = mark.End };
            else
                marks.Add(mark);
        }
        return new LineHands(
            LineSplit.Join(first.Text, second.Text),
            [.. first.Touches.Concat(moved).OrderBy(t => t.Order)],
            [
                .. first.Clips.Select(c => c.Moved(a => a.InWhole(speech, 0, all, 0, duration))),
                .. second.Clips.Select(c => c.Moved(a => a.InWhole(later, before, all, offset, duration))),
            ],
            marks,
            [
                .. first.Pins.Select(p => p with { Near = Early(p.Near), Time = Early(p.Time) }),
                .. second.Pins.Select(p => p with { Near = Late(p.Near), Time = Late(p.Time) }),
            ],
            isOneSound ? first.Care with { TrimEnd = second.Care.TrimEnd, FadeOut = second.Care.FadeOut } : new VoiceCare()
        );
    }

    /// <summary>
    /// Moves the boundary between two neighbouring parts of one sound: what hands have done to what lies between goes over to the other line. The same
    /// back again gives what was, but for order among touch-ups of the two lines.
    /// </summary>
    /// <param name="first">The earlier line.</param>
    /// <param name="second">The later one; its tempo is the same.</param>
    /// <param name="speech">What was heard in the earlier one, or null.</param>
    /// <param name="later">What was heard in the later one, or null.</param>
    /// <param name="lengths">Of the two lines, in seconds.</param>
    /// <param name="gap">Of the sound, in seconds of the lines, what lay between them and belonged to neither.</param>
    /// <param name="by">More than 0: so much of the later line goes to the earlier; less: so much of the earlier to the later. Both keep something.</param>
    public static (LineHands First, LineHands Second) MoveBoundary(
        LineHands first,
        LineHands second,
        SpeechAnalysis? speech,
        SpeechAnalysis? later,
        (double First, double Second) lengths,
        double gap,
        double by
    )
    {
        // Outer edges and everything else about the sound of a line are its own.
        var (care, laterCare) = (first.Care, second.Care);
        if (by > 0)
        {
            var (moved, rest) = Split(second, later, lengths.Second, by);
            first = Join(first, moved, speech, Part(later, 0, by), lengths.First + gap, lengths.First + gap + by, isOneSound: true);
            second = rest;
        }
        else if (by < 0)
        {
            var at = lengths.First + by;
            var (rest, moved) = Split(first, speech, lengths.First, at);
            second = Join(moved, second, Part(speech, at, lengths.First), later, gap - by, lengths.Second + gap - by, isOneSound: true);
            first = rest;
        }
        return (first with { Care = care }, second with { Care = laterCare });
    }

    /// <summary>What was heard in a part of a line: a word belongs to where its middle is.</summary>
    /// <param name="speech">In the line, or null.</param>
    /// <param name="from">In seconds of the line.</param>
    /// <param name="to">In seconds of the line.</param>
    public static SpeechAnalysis? Part(SpeechAnalysis? speech, double from, double to) =>
        speech == null
            ? null
            : CaredSpeech.Map(
                speech with
                {
                    Words = [.. speech.Words.Where(w => (w.Start + w.End) / 2 is var middle && middle >= from && middle < to)],
                },
                new VoiceCare { TrimStart = from, TrimEnd = Math.Max(0, speech.Duration - to) }
            );

    /// <summary>Whether two cares are those of one take that was cut between them.</summary>
    public static bool AreHalves(VoiceCare first, VoiceCare second) =>
        first.TrimEnd == 0
        && first.FadeOut == 0
        && second.TrimStart == 0
        && second.FadeIn == 0
        && first with { TrimEnd = second.TrimEnd, FadeOut = second.FadeOut } == second with { TrimStart = first.TrimStart, FadeIn = first.FadeIn };
}
