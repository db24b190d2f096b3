using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;
using Zamblo.Media;

namespace Zamblo.Bench;

/// <summary>Talks of two in which one begins before the other has ended: 0.2 to 3 s, the second voice 6 dB under to 6 dB over the first.</summary>
internal static class OverlapBench
{
    // Until the next one begins, in seconds; less than 0 is an overlap.
    private static readonly double[] Gaps = [0.4, 0.3, -0.2, -0.6, 0.3, -1, -3, 0.2, -0.4, -2, 0.3];
    private static readonly double[] Levels = [0, -6, 3, 6, -3];
    private static readonly (string One, string Two, bool IsHeldOut)[] Pairs =
    [
        ("flite-slt", "flite-rms", false),
        ("fest-slt-hts", "flite-kal16", false),
        ("flite-slt", "fest-kal", true),
        ("fest-slt-hts", "flite-awb", true),
        ("flite-awb", "flite-rms", true),
    ];

    private sealed record Part(Utterance Said, double Start, int Speaker, float Gain);

    private sealed record Talk(string Name, bool IsHeldOut, AudioBuffer Audio, IReadOnlyList<Part> Parts);

    private static Talk Make(List<Utterance> set, (string One, string Two, bool IsHeldOut) pair, int number)
    {
        var parts = new List<Part>();
        var at = 0.5;
        for (var s = 0; s < SpeechSets.Sentences.Length; s++)
        {
            var speaker = s % 2;
            var said = set.Single(u => u.Name == $"{(speaker == 0 ? pair.One : pair.Two)}-{(s + 5 * number) % SpeechSets.Sentences.Length}");
            if (s > 0)
            {
                var gap = Gaps[s - 1];
                at += Math.Max(gap, -0.8 * Math.Min(said.Audio.Duration, parts[^1].Said.Audio.Duration));
            }
            var rms = Math.Sqrt(said.Audio.Samples.Average(x => (double)x * x));
            var db = s >= 2 && Gaps[s - 1] < 0 ? Levels[(s + number) % Levels.Length] : 0;
            parts.Add(new Part(said, at, speaker, (float)(0.05 / rms * Math.Pow(10, db / 20))));
            at += said.Audio.Duration;
        }
        var samples = new float[(int)(16000 * (at + 0.5))];
        foreach (var p in parts)
            for (var i = 0; i < p.Said.Audio.Samples.Length && i + (int)(16000 * p.Start) < samples.Length; i++)
                samples[i + (int)(16000 * p.Start)] += p.Gain * p.Said.Audio.Samples[i];
        // A room is never silent.
        var random = new Random(number);
        for (var i = 0; i < samples.Length; i++)
            samples[i] += 1e-4f * (random.NextSingle() - 0.5f);
        return new Talk($"{pair.One}+{pair.Two}", pair.IsHeldOut, new AudioBuffer(samples, 16000), parts);
    }

    public static async Task RunAsync(string folder)
    {
        var set = await SpeechSets.CleanAsync(folder);
        var analyzer = SpeechModels.Analyzer;
        foreach (var isHeldOut in (bool[])[false, true])
        {
            int both = 0,
                found = 0,
                other = 0,
                wrong = 0,
                quiet = 0,
                right = 0,
                mixed = 0;
            foreach (var (pair, number) in Pairs.Select((p, i) => (p, i)).Where(p => p.p.IsHeldOut == isHeldOut))
            {
                var talk = Make(set, pair, number);
                var path = Path.Combine(folder, "talk.wav");
                await using (var file = File.Create(path))
                    WavFile.Write(file, [talk.Audio.Samples], 16000);
                var heard = await TurnFinder.FindAsync(path, "talk", 2);
                int b = 0,
                    f = 0,
                    o = 0,
                    w = 0;
                // Whose number is whose: as most of the time says.
                int Matches(bool isSwapped) =>
                    Enumerable
                        .Range(0, (int)(100 * talk.Audio.Duration))
                        .Count(i => Speaks(talk, i / 100.0, 0) && heard.Turns.Any(x => Covers(x, i / 100.0) && x.Speaker == (isSwapped ? 1 : 0)));
                var swapped = Matches(true) > Matches(false);
                for (var t = 0.005; t < talk.Audio.Duration; t += 0.01)
                {
                    bool one = Speaks(talk, t, 0),
                        two = Speaks(talk, t, 1);
                    var said = heard.Turns.Where(x => Covers(x, t)).Select(x => x.Speaker).Distinct().Count();
                    if (one && two)
                    {
                        b++;
                        f += said == 2 ? 1 : 0;
                    }
                    else if (one || two)
                    {
                        o++;
                        w += said == 2 ? 1 : 0;
                    }
                }
                // The quieter voice of each overlap: what a line of its own hears of it, with the script, and what the mix as it is does.
                int q = 0,
                    r = 0,
                    m = 0;
                for (var i = 1; i < talk.Parts.Count; i++)
                {
                    var (before, after) = (talk.Parts[i - 1], talk.Parts[i]);
                    double from = after.Start,
                        to = before.Start + before.Said.Audio.Duration;
                    if (to - from < 0.1)
                        continue;
                    var quieter = Energy(before, from, to) < Energy(after, from, to) ? before : after;
                    double start = quieter.Start - 0.1,
                        end = quieter.Start + quieter.Said.Audio.Duration + 0.1;
                    var speaker = swapped ? 1 - quieter.Speaker : quieter.Speaker;
                    var apart = heard.Apart(speaker, talk.Audio, start, end) ?? Cut(talk.Audio, start, end);
                    var own = analyzer.Analyze(apart, quieter.Said.Text).Phones;
                    var plain = analyzer.Analyze(Cut(talk.Audio, start, end), quieter.Said.Text).Phones;
                    for (var t = from + 0.005; t < to; t += 0.01)
                    {
                        var truth = Scoring.At(quieter.Said.Truth, t - quieter.Start);
                        if (truth == Arpabet.Silence)
                            continue;
                        q++;
                        r += MouthShapes.Of(truth).First == MouthShapes.Of(Scoring.At(own, t - start)).First ? 1 : 0;
                        m += MouthShapes.Of(truth).First == MouthShapes.Of(Scoring.At(plain, t - start)).First ? 1 : 0;
                    }
                }
                Console.WriteLine(
                    $"  {talk.Name, -28} two heard {100.0 * f / b, 5:0.0} %  wrong elsewhere {100.0 * w / o, 5:0.0} %  "
                        + $"quieter voice {100.0 * r / q, 5:0.0} % (as it was {100.0 * m / q, 5:0.0} %)"
                );
                (both, found, other, wrong, quiet, right, mixed) = (both + b, found + f, other + o, wrong + w, quiet + q, right + r, mixed + m);
            }
            Console.WriteLine(
                $"overlaps {(isHeldOut ? "held out" : "tuned   ")} two heard {100.0 * found / both, 5:0.0} %  "
                    + $"wrong elsewhere {100.0 * wrong / other, 5:0.0} %  "
                    + $"quieter voice {100.0 * right / quiet, 5:0.0} % (as it was {100.0 * mixed / quiet, 5:0.0} %)"
            );
        }
    }

    private static bool Covers(SpeakerTurn turn, double t) => t >= turn.Start && t < turn.End;

    // Pauses within a sentence are a part of it.
    private static bool Speaks(Talk talk, double t, int speaker) =>
        talk.Parts.Any(p => p.Speaker == speaker && t >= p.Start + FirstOf(p) && t < p.Start + LastOf(p));

    private static double FirstOf(Part p) => p.Said.Truth.First(x => x.Phone != Arpabet.Silence).Start;

    private static double LastOf(Part p) => p.Said.Truth.Last(x => x.Phone != Arpabet.Silence).End;

    private static double Energy(Part p, double from, double to)
    {
        int a = Math.Max(0, (int)(16000 * (from - p.Start))),
            b = Math.Min(p.Said.Audio.Samples.Length, (int)(16000 * (to - p.Start)));
        return b <= a ? 0 : p.Gain * p.Gain * p.Said.Audio.Samples[a..b].Average(x => (double)x * x);
    }

    private static AudioBuffer Cut(AudioBuffer audio, double start, double end) =>
        new(audio.Samples[Math.Max(0, (int)(start * 16000))..Math.Min(audio.Samples.Length, (int)(end * 16000))], 16000);
}
