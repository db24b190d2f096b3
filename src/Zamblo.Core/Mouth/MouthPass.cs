using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Mouth;

/// <summary>One mouth shape in time.</summary>
/// <param name="Shape">Which.</param>
/// <param name="Start">In seconds of the take.</param>
/// <param name="Peak">Where it is fullest, in seconds.</param>
/// <param name="End">In seconds.</param>
/// <param name="Strength">0 to 1.5.</param>
/// <param name="Phone">The phone that it came from.</param>
/// <param name="Confidence">That of the phone, 0 to 1.</param>
public readonly record struct Cue(MouthShape Shape, double Start, double Peak, double End, float Strength, string Phone, float Confidence)
{
    /// <summary>The touch-up that made or changed it; empty for an automatic cue.</summary>
    public Guid Touch { get; init; }
}

/// <summary>How the mouth is made to move. Every dial answers without a new analysis.</summary>
public sealed record MouthDials
{
    /// <summary>Overall size of the motion, 0 to 1.5.</summary>
    public float Strength { get; init; } = 1;

    /// <summary>How much loudness and stress change the size, 0 to 1.</summary>
    public float Dynamics { get; init; } = 0.6f;

    /// <summary>Picture before sound in seconds, 0 to 0.08. ITU-R BT.1359-1 gives about 45 ms of early sound as detectable (from memory).</summary>
    public double Lead { get; init; } = 0.03;

    /// <summary>How many shapes are kept, 0 few to 1 all.</summary>
    public float Density { get; init; } = 0.7f;

    /// <summary>0 for smooth motion; 1 or 2 holds a drawn shape for that many frames ("on ones", "on twos": common practice).</summary>
    public int HoldFrames { get; init; }

    /// <summary>
    /// A shape shorter than this gives way to its neighbours, in seconds, 0 to 0.2: the least important shapes from here on, vowels from half of it;
    /// lip contacts never. Two frames at 24 a second (common practice for drawn mouths).
    /// </summary>
    public double Shortest { get; init; } = 2 / 24.0;

    /// <summary>How long the mouth takes from rest to the first sound, in seconds, 0.04 to 0.3.</summary>
    public double Attack { get; init; } = 0.09;

    /// <summary>How long it takes back to rest after the last sound, in seconds, 0.04 to 0.6.</summary>
    public double Release { get; init; } = 0.18;

    /// <summary>Where the corners are while nothing is said: -1 down to 1 up.</summary>
    public float Corners { get; init; }

    /// <summary>Strength of single shapes, 0 to 1.5; 1 where none is given.</summary>
    public IReadOnlyDictionary<MouthShape, float> ShapeStrengths { get; init; } = new Dictionary<MouthShape, float>();

    /// <summary>The same dials, each within its range.</summary>
    public MouthDials Clamped() =>
        this with
        {
            Strength = Math.Clamp(Strength, 0, 1.5f),
            Dynamics = Math.Clamp(Dynamics, 0, 1),
            Lead = Math.Clamp(Lead, 0, 0.08),
            Density = Math.Clamp(Density, 0, 1),
            HoldFrames = Math.Clamp(HoldFrames, 0, 2),
            Shortest = Math.Clamp(Shortest, 0, 0.2),
            Attack = Math.Clamp(Attack, 0.04, 0.3),
            Release = Math.Clamp(Release, 0.04, 0.6),
            Corners = Math.Clamp(Corners, -1, 1),
            ShapeStrengths = ShapeStrengths.Where(s => s.Value != 1).ToDictionary(s => s.Key, s => Math.Clamp(s.Value, 0, 1.5f)),
        };
}

/// <summary>The mouth over a stretch of frames.</summary>
/// <param name="Frames">One set of channels per frame.</param>
/// <param name="Cues">What it was made from.</param>
public sealed record MouthTrack(MouthChannels[] Frames, IReadOnlyList<Cue> Cues);

/// <summary>
/// From speech to mouth motion: shapes with strength per phone (<see cref="Cue"/>), then coarticulation by dominance functions
/// (Cohen and Massaro, "Modeling coarticulation in synthetic visual speech", 1993), then the contacts that must be seen.
/// </summary>
public static class MouthPass
{
    // A pause shorter than this keeps the mouth between its neighbours; a longer one closes it.
    private const double ShortPause = 0.15;

    /// <summary>Evaluates frames.</summary>
    /// <param name="speech">The take.</param>
    /// <param name="dials">How.</param>
    /// <param name="rate">Frame rate.</param>
    /// <param name="origin">Time in the take at which frame 0 is shown; negative when the take starts later.</param>
    /// <param name="frames">Number of frames.</param>
    public static MouthTrack Evaluate(SpeechAnalysis speech, MouthDials dials, FrameRate rate, double origin, int frames)
    {
        var cues = Cues(speech, dials);
        return new MouthTrack(Animate(cues, dials, rate, origin, frames), cues);
    }

    /// <summary>The cues of a take, silences included as Rest.</summary>
    public static IReadOnlyList<Cue> Cues(SpeechAnalysis speech, MouthDials dials)
    {
        var loudness = new Loudness(speech);
        var cues = new List<Cue>();
        for (var i = 0; i < speech.Phones.Count; i++)
        {
            var p = speech.Phones[i];
            if (Arpabet.IsSilent(p.Phone))
            {
                if (speech.Sounds != null && Sounds(speech, p, dials, cues))
                    continue;
                if (p.Duration < ShortPause && i > 0 && i + 1 < speech.Phones.Count)
                    continue;
                cues.Add(new Cue(MouthShape.Rest, p.Start, (p.Start + p.End) / 2, p.End, 1, p.Phone, p.Confidence));
                continue;
            }
            var (first, second) = MouthShapes.Of(p.Phone);
            var strength = Math.Clamp(MouthShapes.StrengthOf(p.Phone) * dials.Strength * loudness.Factor(p, dials.Dynamics), 0, 1.5f);
            if (second is { } glide)
            {
                // A diphthong's first part is the longer one.
                var turn = p.Start + 0.6 * p.Duration;
                cues.Add(new Cue(first, p.Start, p.Start + 0.35 * p.Duration, turn, strength, p.Phone, p.Confidence));
                cues.Add(new Cue(glide, turn, p.Start + 0.85 * p.Duration, p.End, strength * 0.8f, p.Phone, p.Confidence));
            }
            else
                cues.Add(new Cue(first, p.Start, (p.Start + p.End) / 2, p.End, strength, p.Phone, p.Confidence));
        }
        if (dials.ShapeStrengths.Count > 0)
            for (var i = 0; i < cues.Count; i++)
                if (dials.ShapeStrengths.TryGetValue(cues[i].Shape, out var factor))
                    cues[i] = cues[i] with { Strength = Math.Clamp(cues[i].Strength * factor, 0, 1.5f) };
        return Thin(cues, dials.Density, dials.Shortest);
    }

    // A pause in which a voice laughs or the like; false where it does not.
    private static bool Sounds(SpeechAnalysis speech, PhoneSegment pause, MouthDials dials, List<Cue> cues)
    {
        var at = pause.Start;
        foreach (var sound in speech.Sounds!.Where(s => s.Start < pause.End && s.End > pause.Start))
        {
            void Rest(double until)
            {
                if (until > at)
                    cues.Add(new Cue(MouthShape.Rest, at, (at + until) / 2, until, 1, pause.Phone, pause.Confidence));
                at = Math.Max(at, until);
            }
            var own = sound with { Start = Math.Max(at, sound.Start), End = Math.Min(pause.End, sound.End) };
            if (own.Duration < 0.05)
                continue;
            if (own.Start - at >= 0.04)
                Rest(own.Start);
            cues.AddRange(SoundCues.Of(speech, own with { Start = at }, dials.Strength));
            at = own.End;
        }
        if (at == pause.Start)
            return false;
        if (pause.End > at)
            cues.Add(new Cue(MouthShape.Rest, at, (at + pause.End) / 2, pause.End, 1, pause.Phone, pause.Confidence));
        return true;
    }

    /// <summary>Leaves out the least important shapes where they come faster than the density allows; their time goes to the neighbours.</summary>
    private static List<Cue> Thin(List<Cue> cues, float density, double shortest)
    {
        // At full density nothing is left out; at none a shape of the lowest rank needs 160 ms to stay.
        for (var rank = 0; rank < 3; rank++)
        {
            var least = Math.Max((1 - density) * (0.16 - 0.04 * rank), shortest * (1 - 0.25 * rank));
            for (var i = 1; i + 1 < cues.Count; i++)
            {
                var c = cues[i];
                if (c.Shape == MouthShape.Rest || SoundCues.Is(c) || MouthShapes.Priority(c.Shape) != rank || c.End - c.Start >= least)
                    continue;
                var middle = (c.Start + c.End) / 2;
                if (cues[i - 1].Shape == MouthShape.Rest || cues[i + 1].Shape == MouthShape.Rest)
                    continue;
                cues[i - 1] = cues[i - 1] with { End = middle };
                cues[i + 1] = cues[i + 1] with { Start = middle };
                cues.RemoveAt(i--);
            }
        }
        for (var i = 1; i < cues.Count; i++)
        {
            if (cues[i].Shape != cues[i - 1].Shape || cues[i].Shape is MouthShape.Rest || SoundCues.Is(cues[i]) || SoundCues.Is(cues[i - 1]))
                continue;
            cues[i - 1] = cues[i - 1] with
            {
                End = cues[i].End,
                Peak = (cues[i - 1].Start + cues[i].End) / 2,
                Strength = Math.Max(cues[i - 1].Strength, cues[i].Strength),
                Confidence = Math.Min(cues[i - 1].Confidence, cues[i].Confidence),
            };
            cues.RemoveAt(i--);
        }
        return cues;
    }

    /// <summary>Channels per frame from cues.</summary>
    public static MouthChannels[] Animate(IReadOnlyList<Cue> cues, MouthDials dials, FrameRate rate, double origin, int frames)
    {
        var result = new MouthChannels[frames];
        if (cues.Count == 0)
            return result;
        var times = new double[frames];
        for (var f = 0; f < frames; f++)
            times[f] = origin + rate.TimeOf(f) + dials.Lead;
        if (dials.HoldFrames > 0)
            Hold(cues, dials.HoldFrames, times, result);
        else
        {
            var eased = BetweenRests(cues);
            var from = 0;
            for (var f = 0; f < frames; f++)
            {
                var t = times[f];
                if (t < cues[0].Start - dials.Attack || t > cues[^1].End + dials.Release)
                    continue;
                while (from < eased.Count && eased[from].End < t - 0.6)
                    from++;
                result[f] = Coarticulation.At(eased, from, t, dials.Attack, dials.Release);
            }
        }
        Contacts.Enforce(cues, times, rate.FrameSeconds, result);
        return result;
    }

    // A take that is cut close begins and ends in the middle of a sound: the mouth comes out of rest and goes back all the same.
    private static IReadOnlyList<Cue> BetweenRests(IReadOnlyList<Cue> cues)
    {
        static Cue Rest(double start, double end) => new(MouthShape.Rest, start, (start + end) / 2, end, 1, Arpabet.Silence, 1);
        bool isFirst = cues[0].Shape == MouthShape.Rest,
            isLast = cues[^1].Shape == MouthShape.Rest;
        return isFirst && isLast
            ? cues
            : [.. isFirst ? [] : new[] { Rest(cues[0].Start - 1, cues[0].Start) }, .. cues, .. isLast ? [] : new[] { Rest(cues[^1].End, cues[^1].End + 1) }];
    }

    private static void Hold(IReadOnlyList<Cue> cues, int hold, double[] times, MouthChannels[] result)
    {
        var at = 0;
        for (var f = 0; f < times.Length; f += hold)
        {
            double from = times[f],
                to = f + hold < times.Length ? times[f + hold] : from + 0.08;
            while (at < cues.Count && cues[at].End <= from)
                at++;
            // Of the shapes that fall under this drawing the most important one is drawn; the longest among equals.
            Cue? chosen = null;
            double longest = 0;
            for (var i = at; i < cues.Count && cues[i].Start < to; i++)
            {
                var length = Math.Min(to, cues[i].End) - Math.Max(from, cues[i].Start);
                if (chosen is { } c && (Weight(cues[i]), length).CompareTo((Weight(c), longest)) <= 0)
                    continue;
                chosen = cues[i];
                longest = length;
            }
            var drawn = chosen is { } cue ? MouthShapes.TargetOf(cue.Shape, cue.Strength) : default;
            for (var k = f; k < Math.Min(f + hold, times.Length); k++)
                result[k] = drawn;
        }
    }

    // What was put there by hand comes first.
    private static int Weight(Cue cue) => MouthShapes.Priority(cue.Shape) + (cue.Touch != Guid.Empty ? 4 : 0);

    /// <summary>Loudness of phones against the range of their speaker.</summary>
    private sealed class Loudness
    {
        private readonly SpeechAnalysis _speech;
        private readonly float _low,
            _high;

        public Loudness(SpeechAnalysis speech)
        {
            _speech = speech;
            var voiced = new List<float>();
            foreach (var p in speech.Phones)
                if (Arpabet.Vowels.Contains(p.Phone))
                    voiced.Add(speech.PeakDb(p));
            var span = System.Runtime.InteropServices.CollectionsMarshal.AsSpan(voiced);
            _low = LoudnessEnvelope.Percentile(span, 0.1);
            _high = LoudnessEnvelope.Percentile(span, 0.9);
        }

        /// <summary>1 at the middle of the range, less when softer, more when louder.</summary>
        public float Factor(PhoneSegment p, float dynamics)
        {
            if (!Arpabet.Vowels.Contains(p.Phone) || _speech.LevelsDb.Length == 0)
                return 1;
            // A voice that hardly varies is not stretched to a drama: the range counts as at least 9 dB.
            float middle = (_low + _high) / 2,
                range = Math.Max(9, _high - _low);
            return 1 + dynamics * Math.Clamp((_speech.PeakDb(p) - middle) / range, -0.75f, 0.5f);
        }
    }
}
