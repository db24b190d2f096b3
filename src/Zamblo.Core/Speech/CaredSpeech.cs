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
            Sounds = speech.Sounds?.Select(s => s with { Start = At(s.Start), End = At(s.End) }).Where(s => s.End > s.Start + 0.05).ToArray()
                is { Length: > 0 } sounds
                ? sounds
                : null,
            Repeats = speech.Repeats?.Select(r => r with { Start = At(r.Start) }).ToArray(),
            LevelsDb = Resample(speech.LevelsDb, care, duration),
            PitchHz = Resample(speech.PitchHz, care, duration),
        };
    }

    /// <summary>What was heard in parts of a recording, as it lies in another part of it; what nobody has heard of that is silent.</summary>
    /// <param name="known">Analyses and where in the recording their parts begin, in seconds; where they overlap the earlier of the list counts.</param>
    /// <param name="start">Where the other part begins in the recording, in seconds.</param>
    /// <param name="audio">The sound of the other part.</param>
    public static SpeechAnalysis Elsewhere(IReadOnlyList<(SpeechAnalysis Speech, double Start)> known, double start, AudioBuffer audio)
    {
        var duration = audio.Duration;
        var phones = new List<PhoneSegment>();
        var words = new List<WordSegment>();
        var sounds = new List<VocalSound>();
        // Stretches that are told already.
        var told = new List<(double Start, double End)>();
        foreach (var (speech, at) in known)
        {
            var by = at - start;
            double from = Math.Max(0, by),
                to = Math.Min(duration, by + speech.Duration);
            // Neighbours lie on one side of what is told: a stretch within it is not asked for.
            foreach (var t in told)
                (from, to) = from < t.Start ? (from, Math.Min(to, t.Start)) : (Math.Max(from, t.End), to);
            if (to <= from + 1e-6)
                continue;
            told.Add((from, to));
            phones.AddRange(
                speech.Phones.Select(p => p with { Start = Math.Max(from, p.Start + by), End = Math.Min(to, p.End + by) }).Where(p => p.End > p.Start + 1e-6)
            );
            sounds.AddRange(
                (speech.Sounds ?? [])
                    .Select(s => s with { Start = Math.Max(from, s.Start + by), End = Math.Min(to, s.End + by) })
                    .Where(s => s.End > s.Start + 0.05)
            );
            // A word that is cut through is another one now.
            words.AddRange(
                speech
                    .Words.Select(w => w with { Start = w.Start + by, End = w.End + by })
                    .Where(w => w.Start >= from - CutThrough && w.End <= to + CutThrough)
                    .Select(w => w with { Start = Math.Max(from, w.Start), End = Math.Min(to, w.End) })
            );
        }
        var reached = 0.0;
        foreach (var (from, to) in told.Order())
        {
            if (from > reached + 1e-6)
                phones.Add(new PhoneSegment(Arpabet.Silence, reached, from));
            reached = to;
        }
        return known[0].Speech with
        {
            Duration = duration,
            Phones = SegmentLists.Tidy([.. phones.OrderBy(p => p.Start)], duration),
            Words = [.. words.OrderBy(w => w.Start)],
            Sounds = sounds.Count == 0 ? null : [.. sounds.OrderBy(s => s.Start)],
            LevelsDb = LoudnessEnvelope.LevelsDb(audio),
            PitchHz = known[0].Speech.PitchHz.Length == 0 ? [] : PitchTracker.Track(audio),
        };
    }

    // So little of a word, in seconds, may be missing.
    private const double CutThrough = 0.02;

    /// <summary>Trims that leave a little air around the speech; what lies further out is dead.</summary>
    /// <param name="speech">Of the original.</param>
    /// <returns>Seconds to cut off in front and at the end.</returns>
    public static (double Start, double End) DeadAir(SpeechAnalysis speech)
    {
        (double Start, double End)[] heard =
        [
            .. speech.Phones.Where(p => !Arpabet.IsSilent(p.Phone)).Select(p => (p.Start, p.End)),
            // Breath before and after is what is cut off.
            .. (speech.Sounds ?? []).Where(s => s.Kind != VocalSoundKind.Breath).Select(s => (s.Start, s.End)),
        ];
        if (heard.Length == 0)
            return (0, 0);
        return (Math.Max(0, heard.Min(h => h.Start) - 0.12), Math.Max(0, speech.Duration - heard.Max(h => h.End) - 0.2));
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
