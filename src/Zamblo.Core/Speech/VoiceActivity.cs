using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>Where somebody speaks.</summary>
public static class VoiceActivity
{
    /// <summary>Nothing under this level is ever voice, in dB relative to full scale (chosen by ear: under it is room tone).</summary>
    public const float AbsoluteFloorDb = -62;

    /// <summary>
    /// Regions whose level stands out from the noise floor of this recording, with hysteresis; short dips are bridged, short blips
    /// dropped, and edges widened a little for soft onsets.
    /// </summary>
    /// <param name="levels">dB, one value per 10 ms.</param>
    public static IReadOnlyList<(double Start, double End)> FromLevels(float[] levels)
    {
        if (levels.Length == 0)
            return [];
        float floor = LoudnessEnvelope.Percentile(levels, 0.1),
            top = LoudnessEnvelope.Percentile(levels, 0.97);
        if (top < AbsoluteFloorDb)
            return [];
        // The floor of a recording without pauses is speech itself: never ask for more than 25 dB under the loud parts.
        floor = Math.Min(floor, top - 25);
        float open = Math.Max(AbsoluteFloorDb, floor + 0.35f * (top - floor)),
            shut = Math.Max(AbsoluteFloorDb - 3, floor + 0.2f * (top - floor));
        var regions = new List<(double Start, double End)>();
        for (var i = 0; i < levels.Length; i++)
        {
            if (levels[i] < open)
                continue;
            int from = i,
                to = i;
            while (from > 0 && levels[from - 1] > shut)
                from--;
            while (to + 1 < levels.Length && levels[to + 1] > shut)
                to++;
            double start = Math.Max(0, from - 3) / 100.0,
                end = Math.Min(levels.Length, to + 6) / 100.0;
            if (regions.Count > 0 && start - regions[^1].End < 0.12)
                regions[^1] = (regions[^1].Start, end);
            else
                regions.Add((start, end));
            i = to;
        }
        regions.RemoveAll(r => r.End - r.Start < 0.13);
        return regions;
    }

    /// <summary>
    /// What level and voice model say against silence, or for it, frame by frame: loud voice is no pause, whatever its spectrum looks like to a model of
    /// other speakers. Without it a word in an unusual voice is passed over as noise.
    /// </summary>
    /// <param name="levels">dB, one value per 10 ms.</param>
    /// <param name="voice">Probability of voice, one value per <see cref="ModelStep"/>, or null.</param>
    /// <returns>Nats, less than 0 against silence, more than 0 against speech; one value per 10 ms.</returns>
    public static float[] AgainstSilence(float[] levels, float[]? voice)
    {
        var result = new float[Math.Max(1, levels.Length)];
        if (levels.Length == 0)
            return result;
        float floor = LoudnessEnvelope.Percentile(levels, 0.1),
            top = LoudnessEnvelope.Percentile(levels, 0.97);
        // In a clean recording everything 30 dB under the loud parts may be a pause; in a noisy one what lies near the noise.
        float low = Math.Max(top - 30, floor + 0.35f * (top - floor)),
            high = Math.Max(top - 18, floor + 0.65f * (top - floor));
        if (top < AbsoluteFloorDb || high - low < 1)
            return result;
        for (var i = 0; i < levels.Length; i++)
        {
            var share = Math.Clamp((levels[i] - low) / (high - low), 0, 1);
            // Where pauses are silent, level alone says much: a voice model does not know every voice.
            var heard =
                voice == null || voice.Length == 0
                    ? 1
                    : Math.Clamp(voice[Math.Min(voice.Length - 1, (int)(i * 0.01 / ModelStep))] * 2, top - floor > 25 ? 0.6f : 0, 1);
            result[i] = -AgainstSilenceNats * share * heard;
        }
        if (voice == null)
            return result;
        // And the other way round: a quarter of a second and more from anything that resembles a voice nobody says a word.
        var far = (int)(0.25 / ModelStep);
        for (var i = 0; i < levels.Length; i++)
        {
            var at = Math.Min(voice.Length - 1, (int)(i * 0.01 / ModelStep));
            var near = false;
            for (var k = Math.Max(0, at - far); k <= Math.Min(voice.Length - 1, at + far) && !near; k++)
                near = voice[k] > 0.2f;
            if (!near)
                result[i] = AgainstSilenceNats;
        }
        if (IsCrowd(levels, voice, floor))
            for (var i = 0; i < levels.Length; i++)
            {
                // The nearest voice is the loudest; a closure within its words is shorter than that.
                var most = float.MinValue;
                for (var k = Math.Max(0, i - Reach); k <= Math.Min(levels.Length - 1, i + Reach); k++)
                    most = Math.Max(most, levels[k]);
                if (most < floor + OfCrowd * (top - floor))
                    result[i] = AgainstSilenceNats;
            }
        return result;
    }

    // Of a recording in which others talk all the time: where it is at its quietest somebody is heard. Up to such a share of the way to the loud parts it is
    // them; so many hundredths of a second to both sides are looked at (chosen on the bench's crowd of eight, 5 dB under the speaker).
    private const float OfCrowd = 0.58f;
    private const int Reach = 14;

    private static bool IsCrowd(float[] levels, float[] voice, float floor)
    {
        double sum = 0;
        var n = 0;
        for (var i = 0; i < levels.Length; i++)
            if (levels[i] <= floor)
            {
                sum += voice[Math.Min(voice.Length - 1, (int)(i * 0.01 / ModelStep))];
                n++;
            }
        return n > 0 && sum / n > 0.5;
    }

    // Chosen on synthesized voices of other accents: fewer words are lost the higher it is; from 6 on closures of stops suffer.
    private const float AgainstSilenceNats = 4;

    /// <summary>Seconds per value of a voice model's answer: 512 samples at 16 kHz.</summary>
    public const double ModelStep = 0.032;

    /// <summary>
    /// Regions where the level stands out and a voice model hears a voice: level alone takes music and keyboards for voice, the model alone
    /// is slow at edges.
    /// </summary>
    /// <param name="levels">dB, one value per 10 ms.</param>
    /// <param name="voice">Probability of voice, one value per <see cref="ModelStep"/>.</param>
    public static IReadOnlyList<(double Start, double End)> FromLevelsAndModel(float[] levels, float[] voice)
    {
        // On above a half, off below 0.35 for a fifth of a second, a quarter of a second around it for soft edges (the model's own advice, from memory).
        var heard = new List<(double Start, double End)>();
        var on = false;
        var quiet = 0.0;
        for (var i = 0; i < voice.Length; i++)
        {
            var t = i * ModelStep;
            if (!on && voice[i] >= 0.5f)
            {
                on = true;
                quiet = 0;
                var start = Math.Max(0, t - 0.15);
                if (heard.Count > 0 && start <= heard[^1].End)
                    heard[^1] = (heard[^1].Start, t);
                else
                    heard.Add((start, t));
            }
            if (!on)
                continue;
            quiet = voice[i] < 0.35f ? quiet + ModelStep : 0;
            heard[^1] = (heard[^1].Start, t + ModelStep + 0.12);
            if (quiet >= 0.2)
            {
                on = false;
                heard[^1] = (heard[^1].Start, t - quiet + ModelStep + 0.12);
            }
        }
        // A voice lasts: single blips are clicks.
        heard.RemoveAll(h => h.End - h.Start < 0.4);
        var result = new List<(double Start, double End)>();
        foreach (var level in FromLevels(levels))
        foreach (var h in heard)
        {
            double from = Math.Max(level.Start, h.Start),
                to = Math.Min(level.End, h.End);
            if (to - from > 0.05)
                result.Add((from, to));
        }
        return result;
    }
}
