using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;

namespace Zamblo.Core.Tests;

/// <summary>Two at once: found in one channel by how each sounds alone, and in two by what is more than the other's voice from afar.</summary>
public class OverlapTests
{
    // A throat of its own: a pulse train whose resonances go from one place to another every 120 ms (Klatt's cascade, "Software for a cascade/parallel formant
    // synthesizer", JASA 1980, with two resonators of it).
    private static float[] Babble(double seconds, double pitch, double low, double high, int seed)
    {
        var random = new Random(seed);
        var samples = new float[(int)(16000 * seconds)];
        var (phase, f1, f2) = (0.0, low, high);
        double[] a = [0, 0],
            b = [0, 0];
        for (var i = 0; i < samples.Length; i++)
        {
            if (i % 1920 == 0)
                (f1, f2) = (low * (0.75 + 0.7 * random.NextDouble()), high * (0.8 + 0.5 * random.NextDouble()));
            phase += pitch * (1 + 0.03 * Math.Sin(i / 9000.0)) / 16000;
            var pulse = phase >= 1 ? 1.0 : 0;
            phase -= Math.Floor(phase);
            var x = pulse + 0.01 * (random.NextDouble() - 0.5);
            foreach (var (y, f, width) in (ReadOnlySpan<(double[], double, double)>)[(a, f1, 90), (b, f2, 130)])
            {
                var r = Math.Exp(-Math.PI * width / 16000);
                var next = (1 - r) * x + 2 * r * Math.Cos(2 * Math.PI * f / 16000) * y[0] - r * r * y[1];
                (y[1], y[0]) = (y[0], next);
                x = next;
            }
            samples[i] = (float)x;
        }
        var gain = (float)(0.08 / Math.Sqrt(samples.Average(s => (double)s * s)));
        return [.. samples.Select(s => gain * s)];
    }

    private static float[] Low(double seconds, int seed) => Babble(seconds, 105, 420, 1100, seed);

    private static float[] High(double seconds, int seed) => Babble(seconds, 230, 700, 2300, seed);

    private static void Add(float[] to, float[] what, double at, float gain = 1)
    {
        for (var i = 0; i < what.Length && i + (int)(16000 * at) < to.Length; i++)
            to[i + (int)(16000 * at)] += gain * what[i];
    }

    // Low, high, low and high together from 12 to 13.5, high alone, low with a short word of the other in the middle.
    private static (AudioBuffer Audio, SpeakerTurn[] Floor) Talk()
    {
        var samples = new float[16000 * 24];
        Add(samples, Low(5, 1), 0);
        Add(samples, High(5, 2), 5);
        Add(samples, Low(3.5, 3), 10);
        Add(samples, High(4.5, 4), 12, 0.7f);
        Add(samples, Low(7, 5), 17);
        Add(samples, High(0.6, 6), 20, 1.2f);
        return (new AudioBuffer(samples, 16000), [new(0, 5, 0), new(5, 10, 1), new(10, 12.8, 0), new(12.8, 16.5, 1), new(17, 24, 0)]);
    }

    [Fact]
    public void Where_two_are_heard_both_have_a_turn_and_nowhere_else()
    {
        var (audio, floor) = Talk();
        var found = VoiceOverlaps.Find(audio, floor);
        (double Start, double End)[] truth = [(12, 13.5), (20, 20.6)];
        bool IsIn(double t, IEnumerable<(double Start, double End)> all) => all.Any(o => t >= o.Start && t < o.End);
        int both = 0,
            seen = 0,
            other = 0,
            wrong = 0;
        for (var t = 0.005; t < 24; t += 0.01)
        {
            var isFound = IsIn(t, found.Found.Select(o => (o.Start, o.End)));
            if (IsIn(t, truth))
                (both, seen) = (both + 1, seen + (isFound ? 1 : 0));
            else
                (other, wrong) = (other + 1, wrong + (isFound ? 1 : 0));
        }
        Assert.True(seen > 0.8 * both, $"{seen} of {both}");
        Assert.True(wrong < 0.02 * other, $"{wrong} of {other}");
        // Who spoke before speaks on, who comes has begun, and a word in between is a turn of its own.
        var turns = found.Turns(floor);
        Assert.Equal(turns.OrderBy(t => t.Start), turns);
        foreach (var own in turns.GroupBy(t => t.Speaker))
            Assert.All(own.Zip(own.Skip(1)), p => Assert.True(p.First.End < p.Second.Start));
        Assert.Contains(turns, t => t.Speaker == 0 && t.Start == 10 && Math.Abs(t.End - 13.5) < 0.3);
        Assert.Contains(turns, t => t.Speaker == 1 && Math.Abs(t.Start - 12) < 0.3 && t.End == 16.5);
        Assert.Contains(turns, t => t.Speaker == 1 && Math.Abs(t.Start - 20) < 0.2 && Math.Abs(t.End - 20.6) < 0.2);
        Assert.Empty(VoiceOverlaps.Find(audio, []).Found);
        // Who waits while somebody else says a word has begun anew; a pause alone ends no turn.
        SpeakerTurn[] waits = [new(0, 5, 0), new(5, 5.2, 1), new(5.2, 9, 0), new(9.2, 10, 0)];
        Assert.Equal([waits[0], waits[1], new(5.2, 10, 0)], VoiceOverlaps.Find(audio, []).Turns(waits));
        Assert.Empty(VoiceOverlaps.Find(audio, [new(0, 24, 0)]).Found);
    }

    [Fact]
    public void What_is_taken_from_one_voice_is_in_the_other_and_alone_nothing_is_changed()
    {
        var (audio, floor) = Talk();
        var found = VoiceOverlaps.Find(audio, floor);
        var turns = found.Turns(floor);
        // At another rate than the one that it was told apart at.
        var large = new AudioBuffer([.. audio.Samples.SelectMany(s => new[] { s, s })], 32000);
        var (low, high) = (found.Apart(0, large, 11, 15, turns), found.Apart(1, large, 11, 15, turns));
        var own = new float[16000 * 24];
        Add(own, Low(3.5, 3), 10);
        double Error(float[] of, double from, double to, float[] truth)
        {
            double off = 0,
                all = 0;
            for (var i = (int)(16000 * from); i < (int)(16000 * to); i++)
                (off, all) = (off + Math.Pow(of[2 * (i - 11 * 16000)] - truth[i], 2), all + truth[i] * truth[i]);
            return 10 * Math.Log10(all / off);
        }
        Assert.Equal(large.Samples[352000..480000], low.Samples.Zip(high.Samples, (a, b) => a + b), (a, b) => Math.Abs(a - b) < 1e-3f);
        // Alone it is what it was; with the other one over it, more of it than the mix has (signal to distortion, in dB).
        Assert.True(Error(low.Samples, 11.1, 11.7, own) > 40);
        var mix = large.Samples[352000..];
        Assert.True(
            Error(low.Samples, 12.2, 13.2, own) > Error(mix, 12.2, 13.2, own) + 3,
            $"{Error(low.Samples, 12.2, 13.2, own)} {Error(mix, 12.2, 13.2, own)}"
        );
    }

    [Fact]
    public void With_a_channel_each_a_voice_from_afar_is_no_turn_and_both_at_once_are_two()
    {
        float[] left = new float[16000 * 16],
            right = new float[left.Length];
        void Say(float[] own, float[] other, float[] what, double at)
        {
            Add(own, what, at);
            // 14 dB under it at the other's microphone.
            Add(other, what, at + 0.004, 0.2f);
        }
        Say(left, right, Low(4, 1), 0.5);
        Say(right, left, High(4, 2), 5);
        Say(left, right, Low(4, 3), 8);
        Say(right, left, High(0.8, 4), 13);
        AudioBuffer l = new(left, 16000),
            r = new(right, 16000);
        (double, double)[] heard = [(0.4, 4.6), (4.9, 12.1), (12.9, 13.9)];
        Assert.True(ChannelTalk.IsOne(l, r, heard));
        Assert.False(ChannelTalk.IsOne(l, l, heard));
        // A voice model hears everybody on both.
        var (turns, channels) = ChannelTalk.Turns(l, r, heard, heard);
        Assert.Equal([0, 1], channels);
        Assert.Equal([0, 1, 0, 1], turns.Select(t => t.Speaker));
        double[] truth = [0.5, 4.5, 5, 9, 8, 12, 13, 13.8];
        Assert.All(turns.SelectMany(t => new[] { t.Start, t.End }).Zip(truth), p => Assert.Equal(p.Second, p.First, 0.12));
        // The one on the right begins.
        Assert.Equal([1, 0], ChannelTalk.Turns(r, l, heard, heard).Channels);
    }
}
