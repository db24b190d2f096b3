using System.Runtime.InteropServices;
using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Performance;

/// <summary>All that a figure's motion follows from.</summary>
public sealed record Part
{
    /// <summary>What it says, in order of start.</summary>
    public IReadOnlyList<PlacedSpeech> Lines { get; init; } = [];

    /// <summary>How it moves.</summary>
    public PerformanceDials Dials { get; init; } = new();

    /// <summary>The others on stage.</summary>
    public IReadOnlyList<Partner> Partners { get; init; } = [];

    /// <summary>How it feels, and when.</summary>
    public IReadOnlyList<MoodSpan> Moods { get; init; } = [];

    /// <summary>What it does, and when.</summary>
    public IReadOnlyList<GestureSpan> Gestures { get; init; } = [];

    /// <summary>Where it looks, as far as a hand has set it.</summary>
    public IReadOnlyList<LookSpan> Looks { get; init; } = [];

    /// <summary>Where it goes; null stays in its place.</summary>
    public StagePath? Path { get; init; }

    /// <summary>What its hands do while they have nothing to do.</summary>
    public HandRest Rest { get; init; }

    /// <summary>What its hands carry, and when.</summary>
    public IReadOnlyList<CarrySpan> Carries { get; init; } = [];

    /// <summary>To which side it is turned when it looks at nobody: -1 to the picture's left, 0 to the camera, 1 to the right.</summary>
    public float Facing { get; init; }

    /// <summary>Where the corners of the mouth are while nothing is said, -1 down to 1 up.</summary>
    public float RestCorners { get; init; }
}

/// <summary>
/// Poses of one figure over a scene: mouth from its own lines; head, brows, blinks, gaze, breath and hands from the stresses, the pitch and
/// the phrases of its voice; attention to whoever else speaks; moods and gestures over it. Deterministic in its inputs; one instance is made
/// for a scene and asked for stretches of frames, from any thread.
/// </summary>
public sealed class Performer
{
    // A stressed syllable, with the number of its line and its place in it.
    private readonly record struct Stress(double Time, float Prominence, int Line, int Index)
    {
        public SeededRandom Of(SeededRandom random) => random.Fork(Line).Fork(Index);
    }

    private readonly Part _part;
    private readonly Floor _floor;
    private readonly List<Phrase> _phrases = [];

    // Where a mouth has something to say, in seconds of the scene, apart and in order.
    private readonly List<(double Start, double End)> _mouthed = [];
    private readonly PulseTrack _nods,
        _brows,
        _beats,
        _answers,
        _reactions,
        _questions;
    private readonly BlinkPass _blinks;
    private readonly Answers _shown;
    private readonly SoundActing _sounds;
    private readonly IReadOnlyList<MoodSpan> _moods;
    private readonly RestingHands _hands;
    private readonly WeightShifts _shifts;
    private readonly GazePass _gaze;
    private readonly Drift _turn,
        _tilt,
        _nod;
    private readonly ActingClock _clock;
    private readonly HeldMoments _held;

    /// <summary>Makes the schedules of a whole scene.</summary>
    /// <param name="part">What the motion follows from.</param>
    /// <param name="duration">Of the scene, in seconds.</param>
    public Performer(Part part, double duration)
    {
        _part = part;
        var dials = part.Dials;
        SeededRandom Of(int own) => new((ulong)(uint)(own == 0 ? dials.Seed : own) * 7919 + 17);
        SeededRandom random = Of(0),
            head = Of(dials.HeadSeed),
            eyes = Of(dials.EyesSeed),
            hands = Of(dials.HandsSeed);
        var accents = new List<Stress>();
        foreach (var (line, key) in part.Lines.Zip(LineKeys.Of(part.Lines)))
        {
            accents.AddRange(line.Prosody.Accents.Select((a, i) => new Stress(a.Nucleus + line.Start, a.Prominence, key, i)));
            _phrases.AddRange(line.Prosody.Phrases.Select(p => p with { Start = p.Start + line.Start, End = p.End + line.Start }));
        }
        _phrases.Sort((a, b) => a.Start.CompareTo(b.Start));
        foreach (
            var (start, end) in part
                .Lines.Where(l => l.Acting.Mouth > 0)
                .SelectMany(l => l.Cues.Where(c => c.Shape != MouthShape.Rest).Select(c => (l.Start + c.Start, l.Start + c.End)))
                .Order()
        )
            if (_mouthed.Count > 0 && start <= _mouthed[^1].End)
                _mouthed[^1] = (_mouthed[^1].Start, Math.Max(_mouthed[^1].End, end));
            else
                _mouthed.Add((start, end));
        _sounds = new SoundActing(part.Lines);
        _moods = [.. part.Moods, .. _sounds.Feelings];
        _floor = new Floor(part.Lines, part.Partners);
        _held = new HeldMoments(_floor);
        _nods = new PulseTrack(Nods(accents, head.Fork(1)));
        _brows = new PulseTrack(BrowRaises(accents, head.Fork(2)));
        _beats = new PulseTrack(Beats(accents, hands.Fork(8)));
        _questions = new PulseTrack(
            _phrases.Where(p => p.IsRising).Select(p => new Pulse(Math.Max(p.Start, p.End - 0.55), p.End, p.End + 0.7, Math.Min(1, p.Rise / 6)))
        );
        _shown = new Answers(part, _floor, head.Fork(11));
        (_answers, _reactions) = Listening(part, _floor, _shown, head.Fork(10));
        _gaze = new GazePass(_floor, part.Partners, dials, duration + 1, eyes.Fork(7), [.. dials.Listening > 0 ? _shown.Away : [], .. part.Looks]);
        _hands = new RestingHands(part.Rest, _floor, part.Moods, duration + 1, hands.Fork(12));
        _shifts = new WeightShifts(hands.Fork(13));
        _blinks = new BlinkPass(_phrases, _floor, _gaze, duration + 1, dials.Blinks, eyes.Fork(3));
        _turn = new Drift(head.Fork(4));
        _tilt = new Drift(head.Fork(5));
        _nod = new Drift(head.Fork(6));
        _clock = new ActingClock(_floor, part.Moods, duration, random.Fork(9));
    }

    /// <summary>The partner that is looked at; -1 for the camera, -2 for nothing in particular.</summary>
    public int LooksAt(double t) => _gaze.At(t).Target;

    /// <summary>Poses of a stretch of frames.</summary>
    /// <param name="rate">Frame rate.</param>
    /// <param name="first">First frame of the scene that is wanted.</param>
    /// <param name="count">Number of frames.</param>
    public Pose[] Evaluate(FrameRate rate, int first, int count)
    {
        var poses = new Pose[count];
        for (var i = 0; i < count; i++)
            poses[i] = Still(rate.TimeOf(first + i));
        foreach (var line in _part.Lines.Where(l => l.Acting.Mouth > 0))
        {
            // Only the frames that the line reaches are touched: another line's mouth stays as it is.
            int from = Math.Max(first, rate.FrameAt(line.Start - 0.3)),
                to = Math.Min(first + count, rate.FrameAt(line.End + line.Mouth.Release) + 2);
            if (to <= from)
                continue;
            var track = MouthPass.Animate(line.Cues, line.Mouth, rate, rate.TimeOf(from) - line.Start, to - from);
            for (var f = from; f < to; f++)
            {
                var mouth = track[f - from];
                // Into and out of the line another one of its own may be said: that one has the mouth.
                var t = rate.TimeOf(f);
                if ((t < line.Start || t > line.End) && poses[f - first].Mouth.Openness > mouth.Openness)
                    continue;
                if (mouth.Openness > 0 || mouth[MouthChannel.Press] > 0 || Math.Abs(mouth[MouthChannel.Spread]) > 0.01f)
                    poses[f - first].Mouth = mouth;
            }
        }
        if (_moods.Count + _shown.Feelings.Count > 0 || _part.RestCorners != 0)
            for (var i = 0; i < count; i++)
            {
                var t = rate.TimeOf(first + i);
                var rest = RestAt(t);
                MoodOnMouth(ref poses[i].Mouth, MoodAt(t), rest);
                if (_part.RestCorners != 0)
                    foreach (var corner in (ReadOnlySpan<MouthChannel>)[MouthChannel.CornerLeft, MouthChannel.CornerRight])
                        poses[i].Mouth[corner] = Math.Clamp(poses[i].Mouth[corner] + rest * _part.RestCorners, -1, 1);
            }
        Settle(poses);
        return poses;
    }

    // To what could ever be seen of it: sums that end in other last digits, because all of it lies elsewhere in the scene, are the same pose.
    private static void Settle(Span<Pose> poses)
    {
        const float fine = 65536;
        foreach (ref var value in MemoryMarshal.Cast<Pose, float>(poses))
            value = MathF.Round(value * fine) / fine + 0f;
    }

    // Everything but the mouth.
    private Pose Still(double t)
    {
        var dials = _part.Dials;
        var mood = MoodAt(t);
        var start = Math.Min(1, dials.Listening) * _shown.Starts.At(t);
        var size = dials.Expressiveness * Math.Clamp(1 + mood.Size, 0.2f, 1.7f);
        // What goes along with one's own voice stops where one is cut off; eyes, lids and feelings do not.
        var held = _held.At(t);
        var now = _clock.At(held);
        var talk = Activity(held);
        var calm = 0.35f + 0.65f * talk;
        var pose = Pose.Neutral;
        var (gx, gy) = _gaze.EyesAt(t);
        // The head follows the eyes later and slower.
        var (hx, hy) = _gaze.HeadAt(t - 0.06, 0.5);
        float nods = _nods.At(held),
            answers = dials.Listening * _answers.At(t),
            react = dials.Listening * _reactions.At(t),
            asks = _questions.At(t),
            pitch = Pitch(t);
        var turn = size * calm * 6f * now.Of(_turn, 0.23);
        var look = Follow(hx);
        pose.HeadTurn = dials.Turn * (turn + look + mood.Turn);
        pose.HeadTilt = dials.Tilt * (size * (calm * 3.4f * now.Of(_tilt, 0.19) + 4f * asks) + mood.Tilt);
        // A higher pitch comes with a raised head (Yehia, Kuratate and Vatikiotis-Bateson, J. Phonetics 30, 2002).
        pose.HeadNod =
            dials.Nod
            * (
                size * (calm * 1.8f * now.Of(_nod, 0.27) + 7f * nods - 0.55f * pitch - 3.5f * asks)
                + 5.5f * answers
                - 2f * react
                - 4.5f * start
                + 3f * hy
                + mood.Nod
            );
        if (mood.Tremble > 0)
        {
            pose.HeadTurn += 0.9f * mood.Tremble * now.Of(_nod, 5.3);
            pose.HeadTilt += 0.5f * mood.Tremble * now.Of(_turn, 4.1);
        }
        if (dials.IsSteady)
        {
            // Soft limits, so that nothing stops dead at them.
            pose.HeadTurn = 2 * MathF.Tanh(pose.HeadTurn / 4);
            pose.HeadTilt = 2 * MathF.Tanh(pose.HeadTilt / 4);
            pose.HeadNod = 2 * MathF.Tanh(pose.HeadNod / 4);
        }
        pose.HeadTurn += Turned * _part.Facing;
        var lift = dials.Brows * (size * (_brows.At(held) + 0.75f * asks) + 0.8f * react + 0.9f * start);
        var wander = dials.Brows * size * 0.12f * now.Of(_turn, 0.4);
        pose.BrowLeft = Math.Clamp(lift + wander + mood.Brows - 0.5f * mood.BrowSkew, -1.1f, 1.2f);
        pose.BrowRight = Math.Clamp(lift - wander + mood.Brows + 0.5f * mood.BrowSkew, -1.1f, 1.2f);
        pose.BrowKnit = Math.Clamp(mood.Knit, -1, 1);
        gy += mood.GazeDown;
        var open = Math.Clamp(1 + 0.12f * Math.Max(0, lift) - 0.25f * Math.Max(0, gy) + mood.Lids + 0.25f * start, 0.35f, 1.3f);
        pose.LidLeft = pose.LidRight = _blinks.At(t) * open;
        pose.Squint = Math.Max(0, mood.Squint);
        // With the head turned the eyes have less far to go.
        pose.GazeX = Math.Clamp(gx - look / 30 - 0.35f * _part.Facing, -1, 1);
        pose.GazeY = Math.Clamp(gy, -1, 1);
        pose.Breath = Breathing(t, now);
        var body = dials.Body * size;
        // On legs, from one to the other; jars and clocks stand as they stand.
        var shift = _part.Rest == HandRest.None ? 0 : body * (1 - 0.5f * talk) * now.Of(_shifts, static (s, at) => s.At(at));
        pose.Lean = body * (calm * 1.1f * now.Of(_turn, 0.11) + 0.6f * hx) + 1.1f * shift + dials.Body * (mood.Lean - 2f * Math.Sign(hx) * start);
        // What is leaned below is kept level above.
        if (!dials.IsSteady)
            pose.HeadTilt -= 0.5f * dials.Tilt * shift;
        var beats = _beats.At(held);
        pose.ArmRight = body * 20f * beats + dials.Body * (2f * pose.Breath + mood.Arms);
        pose.ElbowRight = body * 34f * beats;
        pose.ArmLeft = body * 5f * beats + dials.Body * (2f * pose.Breath + mood.Arms);
        pose.ElbowLeft = body * 8f * beats;
        pose.Stretch = dials.Body * (mood.Stretch + 0.012f * start);
        HandShapes.OfMood(_part.Moods, t, ref pose);
        _sounds.Apply(t, Math.Min(1, dials.Nod) * size, dials.Body * size, ref pose);
        foreach (var line in _part.Lines)
            line.Acting.Apply(t, line.Start, line.End, ref pose);
        _hands.Apply(t, Math.Min(1, dials.Body), beats, ref pose);
        foreach (var carry in _part.Carries)
            carry.Apply(t, ref pose);
        _part.Path?.Apply(t, ref pose);
        Gestures.Apply(_part.Gestures, t, ref pose, dials.Swing);
        return pose;
    }

    // How far a head is turned by itself that faces to a side, in degrees: as in a walk there. Chosen by eye.
    private const float Turned = 14;

    // How it feels, and where it feels nothing of its own, what it shows of what it hears.
    private MoodShape MoodAt(double t)
    {
        var mood = _moods.Count == 0 ? default : Moods.MixAt(_moods, t);
        if (_shown.Feelings.Count == 0 || _part.Dials.Listening <= 0)
            return mood;
        var own = Moods.Strongest(_moods, t).Weight;
        // Lips stay together: an open mouth would be somebody speaking.
        mood.Add(Moods.MixAt(_shown.Feelings, t) with { RestJaw = 0, RestPart = 0 }, Math.Min(1.5f, _part.Dials.Listening) * Math.Max(0, 1 - 2 * own));
        return mood;
    }

    // Turns of the head towards what is looked at: little up to 10 or 15 degrees, then half of the way.
    private static float Follow(float x) => 15f * x * x * x / (x * x + 0.12f) * 1.12f;

    // A smile while speaking moves the corners; nothing here opens a mouth that is shut for a sound. At rest the mood has the mouth, and gives it back
    // before the first sound.
    private static void MoodOnMouth(ref MouthChannels mouth, in MoodShape mood, float rest)
    {
        rest *= Math.Clamp(1 - 12 * mouth.Openness, 0, 1) * Math.Clamp(1 - 8 * mouth[MouthChannel.Press], 0, 1);
        if (rest > 0)
        {
            mouth[MouthChannel.Jaw] = Math.Clamp(mouth[MouthChannel.Jaw] + rest * mood.RestJaw, 0, 1);
            mouth[MouthChannel.Part] = Math.Clamp(mouth[MouthChannel.Part] + rest * mood.RestPart, 0, 1);
            mouth[MouthChannel.Spread] = Math.Clamp(mouth[MouthChannel.Spread] + rest * mood.RestSpread, -1, 1);
            mouth[MouthChannel.Press] = Math.Clamp(mouth[MouthChannel.Press] + rest * mood.RestPress, 0, 1);
        }

        mouth[MouthChannel.CornerLeft] = Math.Clamp(mouth[MouthChannel.CornerLeft] + mood.Corners - mood.CornerSkew, -1, 1);
        mouth[MouthChannel.CornerRight] = Math.Clamp(mouth[MouthChannel.CornerRight] + mood.Corners + mood.CornerSkew, -1, 1);
        var open = Math.Clamp(5 * mouth.Openness, 0, 1);
        mouth[MouthChannel.UpperRaise] = Math.Clamp(mouth[MouthChannel.UpperRaise] + open * mood.UpperLip, 0, 1);
        mouth[MouthChannel.Spread] = Math.Clamp(mouth[MouthChannel.Spread] + open * mood.Spread * (1 - Math.Max(0, -mouth[MouthChannel.Spread])), -1, 1);
    }

    // Nods: a share of the accents, most of them small; down on the vowel, 200 to 450 ms long.
    private static IEnumerable<Pulse> Nods(List<Stress> accents, SeededRandom random)
    {
        foreach (var accent in accents)
        {
            var (time, prominence) = (accent.Time, accent.Prominence);
            var draw = accent.Of(random);
            if (draw.Uniform(0) > 0.25 + 0.7 * prominence)
                continue;
            var length = 0.2 + 0.25 * prominence;
            var size = prominence * prominence * (0.6f + 0.4f * (float)draw.Uniform(1)) + 0.12f;
            yield return new Pulse(time - length * 0.45, time, time + length * 0.75, size);
        }
    }

    private static IEnumerable<Pulse> BrowRaises(List<Stress> accents, SeededRandom random)
    {
        double last = -10;
        for (var i = 0; i < accents.Count; i++)
        {
            if (accents[i].Prominence < 0.45 || accents[i].Time - last < 0.7 || accents[i].Of(random).Uniform(0) > 0.7)
                continue;
            last = accents[i].Time;
            yield return new Pulse(last - 0.16, last + 0.02, last + 0.42, 0.4f + 0.5f * accents[i].Prominence);
        }
    }

    // The stroke of a beat comes with or just before the stressed syllable (McNeill, "Hand and Mind", 1992).
    private static IEnumerable<Pulse> Beats(List<Stress> accents, SeededRandom random)
    {
        double last = -10;
        for (var i = 0; i < accents.Count; i++)
        {
            if (accents[i].Prominence < 0.5 || accents[i].Time - last < 1.1 || accents[i].Of(random).Uniform(0) > 0.75)
                continue;
            last = accents[i].Time;
            yield return new Pulse(last - 0.34, last - 0.04, last + 0.65, 0.35f + 0.65f * (float)accents[i].Of(random).Uniform(1));
        }
    }

    // Small nods 300 to 700 ms long after others' phrases; brows at the end of a question and when one is interrupted.
    private static (PulseTrack Nods, PulseTrack Brows) Listening(Part part, Floor floor, Answers shown, SeededRandom random)
    {
        var nods = new List<Pulse>(shown.Nods);
        var brows = new List<Pulse>();
        var busy = floor.Turns.Where(t => t.Who < 0).ToArray();
        bool Speaks(double t) => Array.Exists(busy, b => t > b.Start - 0.4 && t < b.End + 0.1);
        for (var p = 0; p < part.Partners.Count; p++)
            foreach (var (line, key) in part.Partners[p].Lines.Zip(LineKeys.Of(part.Partners[p].Lines)))
            foreach (var (phrase, at) in line.Prosody.Phrases.Select((phrase, i) => (phrase, i)))
            {
                var draw = random.Fork(p).Fork(key).Fork(at);
                var end = line.Start + phrase.End;
                if (Speaks(end + 0.2))
                    continue;
                if (phrase.IsRising)
                    brows.Add(new Pulse(end - 0.05, end + 0.25, end + 1, 0.8f));
                if (draw.Uniform(0) > 0.55 || phrase.End - phrase.Start < 0.5)
                    continue;
                var start = end + 0.03 + 0.25 * draw.Uniform(1);
                var length = 0.3 + 0.4 * draw.Uniform(2);
                var size = 0.35f + 0.5f * (float)draw.Uniform(3);
                nods.Add(new Pulse(start, start + 0.42 * length, start + length, size));
                // A nod is often two, the second one smaller.
                if (draw.Uniform(4) < 0.35)
                    nods.Add(new Pulse(start + length * 0.9, start + length * 1.3, start + length * 1.9, 0.6f * size));
            }
        foreach (var own in busy)
        foreach (var turn in floor.Turns)
            if (turn.Who >= 0 && turn.Start > own.Start + 0.3 && turn.Start < own.End - 0.08)
                brows.Add(new Pulse(turn.Start + 0.08, turn.Start + 0.28, turn.Start + 0.95, 1));
        return (new PulseTrack(nods), new PulseTrack(brows));
    }

    /// <summary>0 in silence, 1 in speech, with ends of a third of a second.</summary>
    // How much the mouth is its own: nothing from a little before a phrase to a little after it, so that every sound finds it as it was.
    private float RestAt(double t)
    {
        var low = Sorted.Below(_mouthed, t, static x => x.End);
        var gap = low < _mouthed.Count ? Math.Max(0, _mouthed[low].Start - t) : double.MaxValue;
        if (low > 0)
            gap = Math.Min(gap, t - _mouthed[low - 1].End);
        return (float)Ease.Smooth((gap - 0.2) / 0.3);
    }

    private float Activity(double t)
    {
        double most = 0;
        for (var i = PhraseAfter(t - 0.6); i < _phrases.Count && _phrases[i].Start < t + 0.35; i++)
            most = Math.Max(most, Ease.Window(t, _phrases[i].Start, _phrases[i].End, 0.35, 0.6));
        return (float)most;
    }

    private int PhraseAfter(double t) => Sorted.Below(_phrases, t, static x => x.End);

    private float Pitch(double t)
    {
        foreach (var line in _part.Lines)
        {
            if (t < line.Start)
                break;
            if (t < line.End)
                return line.Prosody.PitchAt(t - line.Start);
        }
        return 0;
    }

    // 15 breaths a minute at rest; the chest is full as a phrase begins.
    private float Breathing(double t, ActingClock.Moment now)
    {
        var calm = 0.5 - 0.5 * Math.Clamp(now.Of(4.0, static (every, at) => (float)Math.Cos(2 * Math.PI * at / every)), -1, 1);
        for (var i = PhraseAfter(t - 0.8); i < _phrases.Count && _phrases[i].Start < t + 0.5; i++)
        {
            var p = _phrases[i];
            if (p.End - p.Start > 1 && t > p.Start - 0.5 && t < p.Start + 0.8)
                calm = Math.Max(calm, Ease.Smooth(t < p.Start ? (t - p.Start + 0.5) / 0.5 : 1 - (t - p.Start) / 0.8));
        }
        return (float)calm;
    }
}
