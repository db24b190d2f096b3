using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>What is told by the shape of a sound itself, where a learned model is no help: whistling is one tone, a sigh is breath and lasts.</summary>
internal static class SoundShapes
{
    // People whistle at 0.5 to 5 kHz, mostly over 1 (common practice); under that a voice that cries out high is as much one tone as a whistle is.
    private const double WhistleHz = 1000,
        WhistleHighestHz = 5000;

    // So much of a frame's power lies in one tone (the main lobe of the window around it), and so many frames of a whistle are like that.
    private const float ToneShare = 0.8f,
        ToneFrames = 0.7f;
    private const int ToneLobe = 4;

    // A tone that stands as still as this, as a share of its frequency, comes from a machine.
    private const double Stillness = 0.0015;

    // In frames of 10 ms: the shortest whistle, and the longest hole in one.
    private const int WhistleLeast = 20,
        WhistleHole = 5;

    // Under what is loud in the take, in dB.
    private const double Under = 25;

    // A breath that is heard for longer than one is drawn in (0.3 to 0.6 s in speech), its level within so many dB all along.
    private const double SighLeast = 0.7,
        SighRange = 14;
    private const double SighVoiced = 0.1;

    /// <summary>The strongest tone of a frame.</summary>
    /// <param name="Hz">Between bins, by a parabola through the logarithms of three (Smith, "Spectral Audio Signal Processing", 2011).</param>
    /// <param name="Share">Of the frame's power over 100 Hz, 0 to 1.</param>
    /// <param name="LevelDb">Of the frame.</param>
    public readonly record struct Tone(float Hz, float Share, float LevelDb);

    /// <summary>The strongest tone.</summary>
    /// <param name="power">By bin of <see cref="ShortTimeSpectrum"/>.</param>
    public static Tone ToneOf(ReadOnlySpan<float> power)
    {
        const double bin = (double)CepstralFrontEnd.SampleRate / ShortTimeSpectrum.Length;
        const int first = (int)(100 / bin) + 1;
        var at = first;
        double all = 1e-12;
        for (var k = first; k < power.Length - 1; k++)
        {
            all += power[k];
            if (power[k] > power[at])
                at = k;
        }
        double tone = 0;
        for (var k = Math.Max(first, at - ToneLobe); k <= Math.Min(power.Length - 2, at + ToneLobe); k++)
            tone += power[k];
        double a = Math.Log(power[at - 1] + 1e-20),
            b = Math.Log(power[at] + 1e-20),
            c = Math.Log(power[at + 1] + 1e-20);
        var bend = a - 2 * b + c;
        var aside = bend < 0 ? 0.5 * (a - c) / bend : 0;
        return new Tone((float)((at + aside) * bin), (float)(tone / all), (float)(10 * Math.Log10(all)));
    }

    /// <summary>Where somebody whistles.</summary>
    /// <param name="tones">One for each 10 ms.</param>
    /// <returns>In order, apart.</returns>
    public static IEnumerable<VocalSound> Whistles(IReadOnlyList<Tone> tones)
    {
        if (tones.Count == 0)
            yield break;
        var least = LoudnessEnvelope.Percentile(tones.Select(t => t.LevelDb).ToArray(), 0.95) - Under;
        bool Is(int f) => tones[f].Share >= ToneShare && tones[f].Hz is >= (float)WhistleHz and <= (float)WhistleHighestHz && tones[f].LevelDb > least;
        for (var f = 0; f < tones.Count; f++)
        {
            if (!Is(f))
                continue;
            int from = f,
                last = f;
            for (var k = f + 1; k < tones.Count && k - last <= WhistleHole; k++)
                if (Is(k))
                    last = k;
            f = last;
            Tone[] own = [.. Enumerable.Range(from, last + 1 - from).Where(Is).Select(k => tones[k])];
            var length = last + 1 - from;
            if (length >= WhistleLeast && own.Length >= ToneFrames * length && !StandsStill(own))
                yield return new VocalSound(VocalSoundKind.Whistle, from / 100.0, (last + 1) / 100.0, MathF.Round(own.Average(t => t.Share), 3));
        }
    }

    private static bool StandsStill(Tone[] tones)
    {
        var mean = tones.Average(t => (double)t.Hz);
        return Math.Sqrt(tones.Average(t => (t.Hz - mean) * (t.Hz - mean))) < Stillness * mean;
    }

    /// <summary>What was found, with long breaths out as sighs, whatever they were taken for. One found in pieces is there as a whole for each.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <param name="found">In any order.</param>
    /// <param name="tones">One for each 10 ms.</param>
    public static IEnumerable<VocalSound> WithSighs(AudioBuffer audio, IEnumerable<VocalSound> found, IReadOnlyList<Tone> tones) =>
        found.Select(s => (s.Kind is VocalSoundKind.Hum or VocalSoundKind.Cough ? null : SighAround(audio, s, tones)) ?? s);

    // Null where it is no breath that lasts.
    private static VocalSound? SighAround(AudioBuffer audio, VocalSound sound, IReadOnlyList<Tone> tones)
    {
        int from = Math.Clamp((int)(100 * sound.Start), 0, tones.Count - 1),
            end = Math.Clamp((int)(100 * sound.End), from + 1, tones.Count);
        float top = LoudnessEnvelope.Percentile(Enumerable.Range(from, end - from).Select(f => tones[f].LevelDb).ToArray(), 0.9);
        bool Lasts(int f) => tones[f].LevelDb > top - SighRange;
        // From the middle of what is loud in it, as far as the sound goes on.
        var middle = Enumerable.Range(from, end - from).MaxBy(f => tones[f].LevelDb);
        int first = middle,
            last = middle;
        while (first > 0 && Lasts(first - 1))
            first--;
        while (last + 1 < tones.Count && Lasts(last + 1))
            last++;
        var sigh = new VocalSound(VocalSoundKind.Sigh, first / 100.0, (last + 1) / 100.0, sound.Confidence);
        // A sound that is only part of something much longer is no sigh, nor is one that goes on elsewhere.
        if (sigh.Duration is < SighLeast or > 4 || Math.Min(sigh.End, sound.End) - Math.Max(sigh.Start, sound.Start) < 0.5 * sound.Duration)
            return null;
        var pitch = PitchTracker.Track(audio.Slice(sigh.Start, sigh.End));
        return pitch.Count(p => p > 0) <= SighVoiced * pitch.Length ? sigh : null;
    }
}
