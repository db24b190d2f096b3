using System.Numerics;

namespace Zamblo.Core.Audio;

/// <summary>
/// Fundamental frequency of a voice: peaks of the normalised cross-correlation are candidates, and a path of least cost is laid through
/// them (Talkin, "A robust algorithm for pitch tracking (RAPT)", in Kleijn and Paliwal, "Speech Coding and Synthesis", 1995).
/// </summary>
public static class PitchTracker
{
    /// <summary>Lowest and highest frequency that is looked for, in Hz.</summary>
    public const double LowestHz = 60,
        HighestHz = 500;

    private const int Candidates = 7;
    private const double Window = 0.025;

    // Costs: a voiced frame one minus its correlation (a little more for long periods, which would else win over the true one as its
    // multiples); an unvoiced frame what is left when nothing correlates; a leap by an octave; a change of voicing.
    private const float LongLag = 0.12f,
        Unvoiced = 0.47f,
        Octave = 1.2f,
        Change = 0.16f;

    /// <summary>Pitch every 10 ms.</summary>
    /// <param name="audio">At 8 kHz or more.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <returns>In Hz, 0 where there is no voice; value i belongs to the time i x 10 ms + 5 ms.</returns>
    public static float[] Track(AudioBuffer audio, CancellationToken cancel = default)
    {
        int rate = audio.SampleRate,
            hop = rate / 100,
            window = (int)(Window * rate);
        int shortest = (int)(rate / HighestHz),
            longest = (int)Math.Ceiling(rate / LowestHz);
        var count = (int)(((long)audio.Samples.Length * 100 + rate - 1) / rate);
        int Centre(int f) => (int)((2L * f + 1) * rate / 200);
        var result = new float[count];
        if (count == 0)
            return result;
        // A copy is made only where there is something to mend.
        var x = audio.Samples.Any(s => !float.IsFinite(s)) ? [.. audio.Samples.Select(s => float.IsFinite(s) ? s : 0)] : audio.Samples;
        double loudest = 0;
        for (var f = 0; f < count; f++)
            loudest = Math.Max(loudest, Energy(x, Centre(f) - hop / 2, hop) / hop);
        if (loudest < 1e-9)
            return result;

        var lags = new float[count * Candidates];
        var costs = new float[count * (Candidates + 1)];
        // Peaks are looked for at half the rate, and each is then placed at the full one, as RAPT does.
        int halfWindow = window / 2,
            low = shortest / 2,
            high = longest / 2 + 1;
        // Blocks of frames share the sound at half the rate around them.
        const int block = 512;
        Parallel.For(
            0,
            (count + block - 1) / block,
            new ParallelOptions { CancellationToken = cancel },
            b =>
            {
                int first = b * block,
                    last = Math.Min(count, first + block);
                var origin = (Centre(first) - window - longest) / 2 - 2;
                var half = Halve(x, origin, (Centre(last - 1) + window + longest) / 2 + 2 - origin);
                var coarse = new float[high + 2];
                Span<float> fine = stackalloc float[7];
                for (var f = first; f < last; f++)
                {
                    Array.Fill(costs, float.PositiveInfinity, f * (Candidates + 1), Candidates);
                    // What is far under the loudest (25 dB and more, ever surer) is rather no voice.
                    var quiet = Math.Clamp(1 - Energy(x, Centre(f) - window, 2 * window) / (2 * window * loudest * 3e-3), 0, 1);
                    costs[f * (Candidates + 1) + Candidates] = Unvoiced - 0.4f * (float)quiet;
                    var centre = Centre(f);
                    for (var k = low - 1; k <= high + 1; k++)
                        coarse[k] = Correlate(half, (centre - window / 2) / 2 - k / 2 - origin, k, halfWindow);
                    var found = 0;
                    for (var peak = low; peak <= high; peak++)
                    {
                        if (coarse[peak] < 0.2f || coarse[peak] < coarse[peak - 1] || coarse[peak] <= coarse[peak + 1])
                            continue;
                        for (var i = 0; i < fine.Length; i++)
                            fine[i] = Correlate(x, centre - (window + 2 * peak - 3 + i) / 2, 2 * peak - 3 + i, window);
                        var at = 1;
                        for (var i = 2; i < fine.Length - 1; i++)
                            if (fine[i] > fine[at])
                                at = i;
                        var k = 2 * peak - 3 + at;
                        float left = fine[at - 1],
                            top = fine[at],
                            right = fine[at + 1];
                        if (top < 0.3f || top < left || top <= right || k < shortest || k > longest)
                            continue;
                        // A parabola through three points gives the peak between samples.
                        var bend = left - 2 * top + right;
                        var shift = bend < -1e-9f ? 0.5f * (left - right) / bend : 0;
                        var height = top - 0.25f * (left - right) * shift;
                        var cost = 1 - height * (1 - LongLag * k / longest);
                        // The best few are kept, the worst of them first to go.
                        var slot = found < Candidates ? found++ : Worst(costs, f * (Candidates + 1));
                        if (cost >= costs[f * (Candidates + 1) + slot])
                            continue;
                        costs[f * (Candidates + 1) + slot] = cost;
                        lags[f * Candidates + slot] = k + shift;
                    }
                }
            }
        );

        var from = new byte[count * (Candidates + 1)];
        var total = new float[Candidates + 1];
        var next = new float[Candidates + 1];
        for (var s = 0; s <= Candidates; s++)
            total[s] = costs[s];
        for (var f = 1; f < count; f++)
        {
            for (var s = 0; s <= Candidates; s++)
            {
                var (best, at) = (float.PositiveInfinity, 0);
                if (float.IsFinite(costs[f * (Candidates + 1) + s]))
                    for (var p = 0; p <= Candidates; p++)
                    {
                        if (!float.IsFinite(total[p]))
                            continue;
                        var step =
                            s == Candidates && p == Candidates ? 0
                            : s == Candidates || p == Candidates ? Change
                            : Octave * Math.Abs(MathF.Log2(lags[f * Candidates + s] / lags[(f - 1) * Candidates + p]));
                        if (total[p] + step < best)
                            (best, at) = (total[p] + step, p);
                    }
                next[s] = best + costs[f * (Candidates + 1) + s];
                from[f * (Candidates + 1) + s] = (byte)at;
            }
            (total, next) = (next, total);
        }
        var state = Array.IndexOf(total, total.Min());
        for (var f = count - 1; f >= 0; f--)
        {
            result[f] = state == Candidates ? 0 : rate / lags[f * Candidates + state];
            state = from[f * (Candidates + 1) + state];
        }
        return result;
    }

    // Every second sample from 2 x origin on, behind a half-band filter of seven taps; silence outside the sound.
    private static float[] Halve(float[] x, int origin, int count)
    {
        var half = new float[count];
        float At(int i) => (uint)i < (uint)x.Length ? x[i] : 0;
        for (var i = 0; i < count; i++)
        {
            var c = 2 * (origin + i);
            half[i] = 0.5f * At(c) + 0.28125f * (At(c - 1) + At(c + 1)) - 0.03125f * (At(c - 3) + At(c + 3));
        }
        return half;
    }

    private static int Worst(float[] costs, int at)
    {
        var worst = 0;
        for (var i = 1; i < Candidates; i++)
            if (costs[at + i] > costs[at + worst])
                worst = i;
        return worst;
    }

    private static double Energy(float[] x, int start, int length)
    {
        double sum = 0;
        for (var i = Math.Max(0, start); i < Math.Min(x.Length, start + length); i++)
            sum += (double)x[i] * x[i];
        return sum;
    }

    // Correlation of two windows a lag apart, -1 to 1; outside the sound there is silence.
    private static float Correlate(float[] x, int start, int lag, int window)
    {
        int first = Math.Max(0, start),
            last = Math.Min(start + window, x.Length - lag);
        if (last - first < window / 2)
            return 0;
        var width = Vector<float>.Count;
        Vector<float> ab = default,
            aa = default,
            bb = default;
        var i = first;
        for (; i + width <= last; i += width)
        {
            Vector<float> a = new(x, i),
                b = new(x, i + lag);
            ab += a * b;
            aa += a * a;
            bb += b * b;
        }
        float sumAb = Vector.Sum(ab),
            sumAa = Vector.Sum(aa),
            sumBb = Vector.Sum(bb);
        for (; i < last; i++)
        {
            sumAb += x[i] * x[i + lag];
            sumAa += x[i] * x[i];
            sumBb += x[i + lag] * x[i + lag];
        }
        return sumAb / MathF.Sqrt(sumAa * sumBb + 1e-9f);
    }
}
