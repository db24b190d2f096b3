namespace Zamblo.Core.Audio;

/// <summary>Lays sounds over each other in time.</summary>
public static class Mixer
{
    /// <summary>Peaks are held under this amplitude: -0.2 dB relative to full scale.</summary>
    public const float Ceiling = 0.98f;

    // Half of the stretch over which the limiter leans into a peak, in seconds.
    private const double Reach = 0.005;

    /// <summary>One sound in the mix.</summary>
    /// <param name="Audio">At the rate of the mix.</param>
    /// <param name="Start">In seconds; may be negative, what lies before 0 is cut.</param>
    /// <param name="Gain">Factor.</param>
    public readonly record struct Placed(AudioBuffer Audio, double Start, float Gain = 1);

    /// <summary>
    /// The sum of all, exactly as long as asked for. Around peaks that would clip it is turned down, as smoothly as <see cref="Limit"/> does.
    /// </summary>
    /// <exception cref="ArgumentException">A sound is at another rate.</exception>
    public static AudioBuffer Mix(IEnumerable<Placed> sounds, double duration, int sampleRate) => MixPart(sounds, 0, duration, sampleRate);

    /// <summary>A part of the mix: the same samples, to the last bit, as the whole has there.</summary>
    /// <param name="sounds">All that reaches the part or <see cref="Margin"/> around it.</param>
    /// <param name="from">In seconds.</param>
    /// <param name="to">In seconds.</param>
    /// <param name="sampleRate">In Hz.</param>
    /// <param name="isLimited">Peaks are held; else the parts of a mix add up to it, whatever that comes to.</param>
    /// <exception cref="ArgumentException">A sound is at another rate.</exception>
    public static AudioBuffer MixPart(IEnumerable<Placed> sounds, double from, double to, int sampleRate, bool isLimited = true)
    {
        var margin = (int)Math.Ceiling(Margin * sampleRate);
        long first = (long)Math.Round(from * sampleRate) - margin;
        var mix = new float[Math.Max(0, (int)((long)Math.Round(to * sampleRate) - first + margin))];
        foreach (var (audio, start, gain) in sounds)
        {
            if (audio.SampleRate != sampleRate)
                throw new ArgumentException($"A sound is at {audio.SampleRate} Hz and the mix at {sampleRate} Hz.", nameof(sounds));
            var at = (long)Math.Round(start * sampleRate) - first;
            var skip = (int)Math.Clamp(-at, 0, audio.Samples.Length);
            var count = (int)Math.Min(audio.Samples.Length - skip, mix.Length - (at + skip));
            for (var i = 0; i < count; i++)
                mix[at + skip + i] += audio.Samples[skip + i] * gain;
        }
        if (isLimited)
            Limit(mix, sampleRate);
        return new AudioBuffer(mix.Length <= 2 * margin ? [] : mix[margin..^margin], sampleRate);
    }

    /// <summary>What is outside of a part and may still be felt in it, in seconds.</summary>
    public const double Margin = 4 * Reach;

    /// <summary>
    /// A look-ahead limiter: the gain that each sample would need, its least value within 5 ms on both sides, and the mean of that over the
    /// same stretch. No sample comes out over the ceiling, and what is further than 10 ms from a peak is not touched.
    /// </summary>
    /// <param name="samples">Changed in place.</param>
    /// <param name="sampleRate">In Hz.</param>
    public static void Limit(Span<float> samples, int sampleRate)
    {
        var reach = (int)(Reach * sampleRate);
        for (var i = 0; i < samples.Length; i++)
        {
            if (Math.Abs(samples[i]) <= Ceiling)
                continue;
            // A run of peaks that reach into each other, with the air around it.
            int last = i,
                end = i;
            while (++end < samples.Length && end - last <= 4 * reach)
                if (Math.Abs(samples[end]) > Ceiling)
                    last = end;
            int from = Math.Max(0, i - 2 * reach),
                to = Math.Min(samples.Length, last + 2 * reach + 1);
            LimitRun(samples[from..to], reach);
            i = to - 1;
        }
    }

    private static void LimitRun(Span<float> samples, int reach)
    {
        var least = new float[samples.Length];
        var window = new LinkedList<int>();
        float Need(Span<float> s, int i) => Math.Min(1, Ceiling / Math.Max(Ceiling, Math.Abs(s[i])));
        for (int i = 0, next = 0; i < samples.Length; i++)
        {
            for (; next < samples.Length && next <= i + reach; next++)
            {
                while (window.Last is { } last && Need(samples, last.Value) >= Need(samples, next))
                    window.RemoveLast();
                window.AddLast(next);
            }
            while (window.First!.Value < i - reach)
                window.RemoveFirst();
            least[i] = Need(samples, window.First.Value);
        }
        // Beyond the run no sample needs anything: the mean there counts as 1.
        double sum = 0;
        for (var k = -reach; k <= reach; k++)
            sum += At(k);
        double At(int k) => k < 0 || k >= least.Length ? 1 : least[k];
        for (var i = 0; i < samples.Length; i++)
        {
            samples[i] *= (float)Math.Min(1, sum / (2 * reach + 1));
            sum += At(i + reach + 1) - At(i - reach);
        }
    }
}
