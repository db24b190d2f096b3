using Zamblo.Core.Mouth;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Performance;

/// <summary>How a figure is made to live. Sizes are factors: 0 off, 1 as designed, up to 2.</summary>
public sealed record PerformanceDials
{
    /// <summary>Turning from side to side.</summary>
    public float Turn { get; init; } = 1;
    /// <summary>Nods on stressed syllables.</summary>
    public float Nod { get; init; } = 1;
    /// <summary>Tilting.</summary>
    public float Tilt { get; init; } = 1;
    /// <summary>Brows.</summary>
    public float Brows { get; init; } = 1;
    /// <summary>Blinks per minute while speaking are about 26 at 1 (Bentivoglio et al. 1997: 26 in conversation, 17 at rest; from memory).</summary>
    public float Blinks { get; init; } = 1;
    /// <summary>Hands and body.</summary>
    public float Body { get; init; } = 1;
    /// <summary>Seed of every random choice.</summary>
    public int Seed { get; init; } = 1;
}

/// <summary>A take where it stands in the scene. Immutable.</summary>
/// <param name="speech">What is said.</param>
/// <param name="start">When the take starts, in seconds of the scene.</param>
/// <param name="mouth">How the mouth moves with it.</param>
/// <param name="touches">What was changed by hand, in its place within this speech, in order.</param>
public sealed class PlacedSpeech(SpeechAnalysis speech, double start, MouthDials mouth, IReadOnlyList<TouchUp>? touches = null)
{
    private readonly Lazy<IReadOnlyList<Cue>> _cues = new(() => TouchUps.Apply(MouthPass.Cues(speech, mouth), touches ?? []));

    /// <summary>What was changed by hand.</summary>
    public IReadOnlyList<TouchUp> Touches => touches ?? [];
    /// <summary>What is said.</summary>
    public SpeechAnalysis Speech => speech;
    /// <summary>When the take starts, in seconds of the scene.</summary>
    public double Start => start;
    /// <summary>How the mouth moves with it.</summary>
    public MouthDials Mouth => mouth;
    /// <summary>The mouth's cues in seconds of the take: automatic, with the touch-ups over them.</summary>
    public IReadOnlyList<Cue> Cues => _cues.Value;
}

/// <summary>
/// Poses of one figure over a stretch of a scene: mouth from its own lines; head, brows, blinks, gaze, breath and hands from the
/// stresses and phrases of its voice, and a quiet life of its own where it is silent. Deterministic in its inputs.
/// </summary>
public static class PerformancePass
{
    /// <summary>Evaluates poses.</summary>
    /// <param name="lines">Own lines, in order of start.</param>
    /// <param name="dials">How.</param>
    /// <param name="rate">Frame rate.</param>
    /// <param name="firstFrame">First frame of the scene that is wanted.</param>
    /// <param name="count">Number of frames.</param>
    public static Pose[] Evaluate(IReadOnlyList<PlacedSpeech> lines, PerformanceDials dials, FrameRate rate, int firstFrame, int count)
    {
        var poses = new Pose[count];
        var random = new SeededRandom((ulong)(uint)dials.Seed * 7919 + 17);
        var accents = new List<Accent>();
        var phrases = new List<Phrase>();
        foreach (var line in lines)
        {
            accents.AddRange(Accents.Find(line.Speech).Select(a => a with { Time = a.Time + line.Start }));
            phrases.AddRange(Accents.Phrases(line.Speech).Select(p => new Phrase(p.Start + line.Start, p.End + line.Start)));
        }
        phrases.Sort((a, b) => a.Start.CompareTo(b.Start));
        var nods = Nods(accents, random.Fork(1));
        var brows = BrowRaises(accents, random.Fork(2));
        var beats = Beats(accents, random.Fork(8));
        double end = rate.TimeOf(firstFrame + count);
        var blinks = Blinks.Times(phrases, end + 1, dials.Blinks, random.Fork(3));
        var turnDrift = new Drift(random.Fork(4));
        var tiltDrift = new Drift(random.Fork(5));
        var nodDrift = new Drift(random.Fork(6));
        var gaze = new Gaze(phrases, random.Fork(7));
        var breathPhase = random.Fork(9).Uniform(0);
        for (var i = 0; i < count; i++)
        {
            var t = rate.TimeOf(firstFrame + i);
            var talk = Activity(phrases, t);
            var calm = 0.35f + 0.65f * talk;
            var pose = Pose.Neutral;
            var (gx, gy) = gaze.At(t, 0.06);
            // The head follows the eyes later and slower.
            var (hx, hy) = gaze.At(t - 0.06, 0.45);
            pose.HeadTurn = dials.Turn * (calm * 7f * turnDrift.At(t, 0.23) + 5f * hx);
            pose.HeadTilt = dials.Tilt * calm * 3.6f * tiltDrift.At(t, 0.19);
            pose.HeadNod = dials.Nod * (calm * 2.2f * nodDrift.At(t, 0.27) + Pulses(nods, t) * 7f + 3f * hy);
            var lift = dials.Brows * Pulses(brows, t);
            pose.BrowLeft = lift + dials.Brows * 0.12f * turnDrift.At(t, 0.4);
            pose.BrowRight = lift - dials.Brows * 0.12f * turnDrift.At(t, 0.4);
            var lid = Blinks.LidAt(blinks, t);
            pose.LidLeft = pose.LidRight = lid * (1 + 0.12f * Math.Max(0, lift) - 0.25f * Math.Max(0, gy));
            pose.GazeX = gx;
            pose.GazeY = gy;
            pose.Breath = Breathing(phrases, t, breathPhase);
            pose.Lean = dials.Body * calm * 1.1f * turnDrift.At(t, 0.11);
            pose.ArmRight = dials.Body * (20f * Pulses(beats, t) + 2f * pose.Breath);
            pose.ElbowRight = dials.Body * (34f * Pulses(beats, t));
            pose.ArmLeft = dials.Body * (5f * Pulses(beats, t) + 2f * pose.Breath);
            pose.ElbowLeft = dials.Body * 8f * Pulses(beats, t);
            poses[i] = pose;
        }
        foreach (var line in lines)
        {
            // Only the frames that the line reaches are touched: another line's mouth stays as it is.
            int from = Math.Max(firstFrame, rate.FrameAt(line.Start - 0.3)), to = Math.Min(firstFrame + count, rate.FrameAt(line.Start + line.Speech.Duration) + 2);
            if (to <= from) continue;
            var track = MouthPass.Animate(line.Cues, line.Mouth, rate, rate.TimeOf(from) - line.Start, to - from);
            for (var f = from; f < to; f++)
            {
                var mouth = track[f - from];
                if (mouth.Openness > 0 || mouth[MouthChannel.Press] > 0 || Math.Abs(mouth[MouthChannel.Spread]) > 0.01f) poses[f - firstFrame].Mouth = mouth;
            }
        }
        return poses;
    }

    /// <summary>A bump with a smooth start, peak and end.</summary>
    private readonly record struct Pulse(double Start, double Peak, double End, float Size);

    // Nods: a share of the accents, most of them small; down on the vowel, 200 to 450 ms long.
    private static List<Pulse> Nods(List<Accent> accents, SeededRandom random)
    {
        var nods = new List<Pulse>();
        for (var i = 0; i < accents.Count; i++)
        {
            if (random.Uniform(3 * i) > 0.25 + 0.7 * accents[i].Prominence) continue;
            var length = 0.2 + 0.25 * accents[i].Prominence;
            var size = accents[i].Prominence * accents[i].Prominence * (0.6f + 0.4f * (float)random.Uniform(3 * i + 1)) + 0.12f;
            nods.Add(new Pulse(accents[i].Time - length * 0.45, accents[i].Time, accents[i].Time + length * 0.75, size));
        }
        return nods;
    }

    private static List<Pulse> BrowRaises(List<Accent> accents, SeededRandom random)
    {
        var raises = new List<Pulse>();
        double last = -10;
        for (var i = 0; i < accents.Count; i++)
        {
            if (accents[i].Prominence < 0.45 || accents[i].Time - last < 0.7 || random.Uniform(i) > 0.7) continue;
            last = accents[i].Time;
            raises.Add(new Pulse(last - 0.16, last + 0.02, last + 0.42, 0.4f + 0.5f * accents[i].Prominence));
        }
        return raises;
    }

    // The stroke of a beat comes with or just before the stressed syllable (McNeill, "Hand and Mind", 1992).
    private static List<Pulse> Beats(List<Accent> accents, SeededRandom random)
    {
        var beats = new List<Pulse>();
        double last = -10;
        for (var i = 0; i < accents.Count; i++)
        {
            if (accents[i].Prominence < 0.5 || accents[i].Time - last < 1.1 || random.Uniform(i) > 0.75) continue;
            last = accents[i].Time;
            beats.Add(new Pulse(last - 0.34, last - 0.04, last + 0.65, 0.35f + 0.65f * (float)random.Uniform(1000 + i)));
        }
        return beats;
    }

    private static float Pulses(List<Pulse> pulses, double t)
    {
        float sum = 0;
        foreach (var p in pulses)
        {
            if (t <= p.Start || t >= p.End) continue;
            var x = t < p.Peak ? (t - p.Start) / (p.Peak - p.Start) : (p.End - t) / (p.End - p.Peak);
            sum += p.Size * (float)(x * x * x * (x * (6 * x - 15) + 10));
        }
        return Math.Min(sum, 1.2f);
    }

    /// <summary>0 in silence, 1 in speech, with ends of a third of a second.</summary>
    private static float Activity(List<Phrase> phrases, double t)
    {
        double most = 0;
        foreach (var p in phrases)
        {
            if (t < p.Start - 0.35 || t > p.End + 0.6) continue;
            var x = t < p.Start ? 1 - (p.Start - t) / 0.35 : t > p.End ? 1 - (t - p.End) / 0.6 : 1;
            most = Math.Max(most, x * x * (3 - 2 * x));
        }
        return (float)most;
    }

    // 15 breaths a minute at rest; the chest is full as a phrase begins.
    private static float Breathing(List<Phrase> phrases, double t, double phase)
    {
        var calm = 0.5 - 0.5 * Math.Cos(2 * Math.PI * (t / 4 + phase));
        foreach (var p in phrases)
            if (p.End - p.Start > 1 && t > p.Start - 0.5 && t < p.Start + 0.8)
            {
                var x = t < p.Start ? (t - p.Start + 0.5) / 0.5 : 1 - (t - p.Start) / 0.8;
                calm = Math.Max(calm, x * x * (3 - 2 * x));
            }
        return (float)calm;
    }

    /// <summary>A slow wander between -1 and 1: a sum of sines whose periods have no common measure.</summary>
    private sealed class Drift(SeededRandom random)
    {
        public float At(double t, double hz) => (float)(
            0.55 * Math.Sin(2 * Math.PI * (hz * t + random.Uniform(0)))
            + 0.3 * Math.Sin(2 * Math.PI * (hz * 1.618 * t + random.Uniform(1)))
            + 0.15 * Math.Sin(2 * Math.PI * (hz * 2.718 * t + random.Uniform(2))));
    }
}

/// <summary>Blinks at irregular intervals, likelier where a phrase ends.</summary>
internal static class Blinks
{
    // Closing and opening times in seconds: 70 to 100 ms and 150 to 250 ms.
    private const double Close = 0.085, Open = 0.19;

    public static List<double> Times(List<Phrase> phrases, double end, float rate, SeededRandom random)
    {
        var times = new List<double>();
        if (rate <= 0) return times;
        var ends = phrases.Select(p => p.End + 0.03).ToArray();
        double t = 0.9 * random.Uniform(0);
        for (var i = 1; t < end && i < 100_000; i++)
        {
            // Log-normal intervals; the median of 2.1 s (talking) and 3.2 s (silent) gives about 26 and 17 a minute with this spread.
            var talking = phrases.Exists(p => t > p.Start - 1 && t < p.End + 1);
            var interval = (talking ? 2.1 : 3.2) / rate * Math.Exp(0.5 * random.Normal(i));
            t += Math.Max(0.5, interval);
            foreach (var e in ends)
                if (Math.Abs(e - t) < 0.45 && (times.Count == 0 || e - times[^1] > 0.5)) { t = e; break; }
            times.Add(t);
        }
        return times;
    }

    public static float LidAt(List<double> times, double t)
    {
        foreach (var b in times)
        {
            if (t < b || t > b + Close + Open) continue;
            var x = t < b + Close ? (t - b) / Close : 1 - (t - b - Close) / Open;
            return (float)(1 - x * x * (3 - 2 * x));
        }
        return 1;
    }
}

/// <summary>Where the eyes look: at the camera, with glances aside as a turn begins and now and then.</summary>
internal sealed class Gaze
{
    private readonly List<(double Time, float X, float Y)> _shifts = [(double.NegativeInfinity, 0, 0)];

    public Gaze(List<Phrase> phrases, SeededRandom random)
    {
        var n = 0;
        foreach (var p in phrases)
        {
            // Away as a long phrase begins, back before it ends (Argyle and Cook, "Gaze and Mutual Gaze", 1976).
            if (p.End - p.Start < 1.2 || random.Uniform(n) > 0.55) { n += 4; continue; }
            var side = random.Uniform(n + 1) < 0.5 ? -1 : 1;
            _shifts.Add((p.Start + 0.1, side * (0.3f + 0.35f * (float)random.Uniform(n + 2)), -0.15f + 0.4f * (float)random.Uniform(n + 3)));
            _shifts.Add((p.Start + 0.1 + 0.5 + 0.5 * random.Uniform(n + 2), 0, 0));
            n += 4;
        }
    }

    // About 2.2 ms a degree plus 21 ms (Bahill, Clark and Stark 1975); a glance here is up to 20 degrees: 60 ms.
    public (float X, float Y) At(double t, double seconds)
    {
        var i = _shifts.Count - 1;
        while (i > 0 && _shifts[i].Time > t) i--;
        var (time, x, y) = _shifts[i];
        if (i == 0) return (x, y);
        var share = Math.Clamp((t - time) / seconds, 0, 1);
        share = share * share * (3 - 2 * share);
        var (_, px, py) = _shifts[i - 1];
        return (px + (x - px) * (float)share, py + (y - py) * (float)share);
    }
}
