using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>What was heard in an original, as it lies in the trimmed and stretched take: nothing is listened to again.</summary>
public static class CaredSpeech
{
    /// <summary>The analysis in the times of the take.</summary>
    public static SpeechAnalysis Map(SpeechAnalysis speech, VoiceCare care)
    {
        if (care.KeepsTimes)
            return speech;
        var duration = care.DurationOf(speech.Duration);
        double At(double t) => Math.Clamp(care.ToTake(t), 0, duration);
        var phones = speech.Phones.Select(p => p with { Start = At(p.Start), End = At(p.End) }).Where(p => p.End > p.Start + 1e-6).ToList();
        var words = speech.Words.Select(w => w with { Start = At(w.Start), End = At(w.End) }).Where(w => w.End > w.Start + 0.01).ToArray();
        return speech with
        {
            Duration = duration,
            Phones = SegmentLists.Tidy(phones, duration),
            Words = words,
            LevelsDb = Resample(speech.LevelsDb, care, duration),
            PitchHz = Resample(speech.PitchHz, care, duration),
        };
    }

    /// <summary>Trims that leave a little air around the speech; what lies further out is dead.</summary>
    /// <param name="speech">Of the original.</param>
    /// <returns>Seconds to cut off in front and at the end.</returns>
    public static (double Start, double End) DeadAir(SpeechAnalysis speech)
    {
        var spoken = speech.Phones.Where(p => !Arpabet.IsSilent(p.Phone)).ToArray();
        if (spoken.Length == 0)
            return (0, 0);
        return (Math.Max(0, spoken[0].Start - 0.12), Math.Max(0, speech.Duration - spoken[^1].End - 0.2));
    }

    // Values of 10 ms each, nearest neighbour: pitch must not be averaged with silence.
    private static float[] Resample(float[] values, VoiceCare care, double duration)
    {
        if (values.Length == 0)
            return [];
        var result = new float[(int)Math.Ceiling(100 * duration)];
        for (var i = 0; i < result.Length; i++)
            result[i] = values[Math.Clamp((int)(100 * care.ToOriginal((i + 0.5) / 100)), 0, values.Length - 1)];
        return result;
    }
}
