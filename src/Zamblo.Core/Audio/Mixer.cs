namespace Zamblo.Core.Audio;

/// <summary>Lays sounds over each other in time.</summary>
public static class Mixer
{
    /// <summary>One sound in the mix.</summary>
    /// <param name="Audio">At the rate of the mix.</param>
    /// <param name="Start">In seconds; may be negative, what lies before 0 is cut.</param>
    /// <param name="Gain">Factor.</param>
    public readonly record struct Placed(AudioBuffer Audio, double Start, float Gain = 1);

    /// <summary>The sum of all, exactly as long as asked for. Where it would clip, the whole mix is turned down to -0.2 dB.</summary>
    /// <exception cref="ArgumentException">A sound is at another rate.</exception>
    public static AudioBuffer Mix(IEnumerable<Placed> sounds, double duration, int sampleRate)
    {
        var mix = new float[(int)Math.Round(duration * sampleRate)];
        foreach (var (audio, start, gain) in sounds)
        {
            if (audio.SampleRate != sampleRate) throw new ArgumentException($"A sound is at {audio.SampleRate} Hz and the mix at {sampleRate} Hz.", nameof(sounds));
            var at = (long)Math.Round(start * sampleRate);
            var from = (int)Math.Max(0, -at);
            var count = (int)Math.Min(audio.Samples.Length - from, mix.Length - (at + from));
            for (var i = 0; i < count; i++) mix[at + from + i] += audio.Samples[from + i] * gain;
        }
        float peak = 0;
        foreach (var x in mix) peak = Math.Max(peak, Math.Abs(x));
        if (peak > 0.98f)
            for (var i = 0; i < mix.Length; i++) mix[i] *= 0.98f / peak;
        return new AudioBuffer(mix, sampleRate);
    }
}
