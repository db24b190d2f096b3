namespace Zamblo.Core.Audio;

/// <summary>Short-time level of a sound.</summary>
public static class LoudnessEnvelope
{
    /// <summary>Level that stands for digital silence, in dB relative to full scale.</summary>
    public const float SilenceDb = -96;

    /// <summary>
    /// Root-mean-square level in dB relative to full scale, one value per 10 ms, over Hann windows of 40 ms
    /// (value i belongs to the time i x 10 ms + 5 ms).
    /// </summary>
    public static float[] LevelsDb(AudioBuffer audio)
    {
        var half = audio.SampleRate / 50;
        // A hundredth of a second is no whole number of samples at every rate: the places must not drift.
        var count = (int)(((long)audio.Samples.Length * 100 + audio.SampleRate - 1) / audio.SampleRate);
        var window = new float[2 * half];
        double total = 0;
        for (var i = 0; i < window.Length; i++)
            total += window[i] = (float)(0.5 - 0.5 * Math.Cos(2 * Math.PI * (i + 0.5) / window.Length));
        var levels = new float[count];
        for (var f = 0; f < count; f++)
        {
            var centre = (int)((2L * f + 1) * audio.SampleRate / 200);
            double sum = 0;
            for (var i = Math.Max(0, centre - half); i < Math.Min(audio.Samples.Length, centre + half); i++)
            {
                var x = audio.Samples[i];
                if (float.IsFinite(x))
                    sum += (double)x * x * window[i - centre + half];
            }
            levels[f] = Math.Max(SilenceDb, (float)(10 * Math.Log10(sum / total + 1e-12)));
        }
        return levels;
    }

    /// <summary>The level below which a share of the values lies.</summary>
    /// <param name="levels">In any order; not changed.</param>
    /// <param name="share">0 to 1.</param>
    public static float Percentile(ReadOnlySpan<float> levels, double share)
    {
        if (levels.Length == 0)
            return SilenceDb;
        var sorted = levels.ToArray();
        Array.Sort(sorted);
        return sorted[Math.Clamp((int)(share * (sorted.Length - 1) + 0.5), 0, sorted.Length - 1)];
    }
}
