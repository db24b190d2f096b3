using System.Text.RegularExpressions;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Performance;

/// <summary>A mood that words or voice suggest for a line; a suggestion only.</summary>
/// <param name="Mood">Which.</param>
/// <param name="Intensity">0 to 1.</param>
/// <param name="Start">In seconds of the take.</param>
/// <param name="End">In seconds of the take.</param>
/// <param name="Why">In words.</param>
public sealed record MoodSuggestion(Mood Mood, float Intensity, double Start, double End, string Why);

/// <summary>
/// Suggests moods from a screenplay's parentheticals, from feeling words and punctuation, and from how the voice of a line differs from the
/// same member's other lines: loud, high and wide is aroused, soft, low and flat is subdued (Banse and Scherer, "Acoustic profiles in vocal
/// emotion expression", J. Personality and Social Psychology 70, 1996; the thresholds are common practice).
/// </summary>
public static partial class MoodSuggestions
{
    // From here on something stands out; two moods that are nearer to each other than the second tell nothing.
    private const double Enough = 0.5,
        Apart = 0.15;

    /// <summary>The mood that a direction asks for: "(sadly)"; null where it asks for none.</summary>
    public static Mood? FromDirection(string direction) => MoodWords.OfDirection(direction)?.Mood;

    /// <summary>At most one suggestion for a line; null where nothing stands out.</summary>
    /// <param name="text">The words as written, with punctuation; a parenthetical may stand in front: "(sadly) Goodbye."</param>
    /// <param name="speech">What was heard.</param>
    /// <param name="others">The same member's other takes: what is usual for this voice.</param>
    public static MoodSuggestion? For(string text, SpeechAnalysis speech, IReadOnlyList<SpeechAnalysis> others)
    {
        var spoken = speech.Phones.Where(p => !Arpabet.IsSilent(p.Phone)).ToArray();
        if (spoken.Length == 0)
            return null;
        double start = spoken[0].Start,
            end = spoken[^1].End;
        var scores = new Dictionary<Mood, (double Score, string Why)>();
        void Vote(Mood mood, double score, string why) =>
            scores[mood] = scores.TryGetValue(mood, out var known) ? (known.Score + score, known.Why + ", " + why) : (score, why);
        var direction = Parenthetical().Match(text);
        if (direction.Success && MoodWords.OfDirection(direction.Groups[1].Value) is { } asked)
            Vote(asked.Mood, 1, $"the direction \"{asked.Word}\"");
        var plain = direction.Success ? text[(direction.Index + direction.Length)..] : text;
        foreach (var words in MoodWords.Of(plain).GroupBy(w => w.Mood))
        {
            // The most telling words, and a little for each further hint.
            var best = words.MaxBy(w => w.Weight);
            var hints = words.Count(w => !best.Said.Contains(w.Said, StringComparison.Ordinal) && !w.Said.Contains(best.Said, StringComparison.Ordinal));
            Vote(words.Key, best.Weight + 0.15 * Math.Min(2, hints), $"\"{best.Said}\"");
        }
        var arousal = Arousal(speech, others);
        if (plain.Contains("?!") || plain.Contains("!?"))
            Vote(Mood.Surprise, 0.6, "?!");
        else if (plain.Contains('!'))
        {
            // An exclamation strengthens what is there; alone, in a loud voice, it is anger.
            if (scores.Count > 0)
                foreach (var m in scores.Keys.Where(m => m is not (Mood.Sadness or Mood.Boredom or Mood.Doubt)).ToArray())
                    Vote(m, 0.15, "!");
            else if (arousal > 0.8)
                Vote(Mood.Anger, Enough, "! in a loud voice");
        }
        if (plain.Contains("...") || plain.Contains('…'))
            Vote(Mood.Doubt, 0.35, "…");
        if (others.Count > 0)
        {
            if (arousal > 1.2)
                Vote(scores.Count > 0 ? scores.MaxBy(s => s.Value.Score).Key : Mood.Surprise, Enough, "a loud, high voice");
            else if (arousal < -1.2)
                Vote(scores.ContainsKey(Mood.Affection) ? Mood.Affection : Mood.Sadness, Enough, "a soft, low voice");
        }
        if (scores.Count == 0)
            return null;
        var (likeliest, (score, why)) = scores.MaxBy(s => s.Value.Score);
        var next = scores.Where(s => s.Key != likeliest).Select(s => s.Value.Score).DefaultIfEmpty(0).Max();
        // Better none than a wrong one.
        return score < Enough || score - next < Apart ? null : new MoodSuggestion(likeliest, (float)Math.Clamp(0.35 + 0.35 * score, 0.4, 0.9), start, end, why);
    }

    /// <summary>
    /// How aroused a take sounds against others of the same voice: the mean of level, pitch and pitch range in deviations common for speech (4 dB,
    /// 2.5 and 1.5 semitones).
    /// </summary>
    private static double Arousal(SpeechAnalysis speech, IReadOnlyList<SpeechAnalysis> others)
    {
        if (others.Count == 0)
            return 0;
        var (level, pitch, range) = Voice(speech);
        var usual = others.Select(Voice).ToArray();
        return ((level - usual.Average(u => u.Level)) / 4 + (pitch - usual.Average(u => u.Pitch)) / 2.5 + (range - usual.Average(u => u.Range)) / 1.5) / 2;
    }

    private static (double Level, double Pitch, double Range) Voice(SpeechAnalysis speech)
    {
        var vowels = speech.Phones.Where(p => Arpabet.Vowels.Contains(p.Phone)).Select(p => (double)speech.PeakDb(p)).DefaultIfEmpty(-60).ToArray();
        var tones = speech.PitchHz.Where(p => p > 0).Select(p => 12 * Math.Log2(p)).Order().ToArray();
        return tones.Length < 10
            ? (vowels.Average(), 0, 0)
            : (vowels.Average(), tones[tones.Length / 2], (tones[tones.Length * 9 / 10] - tones[tones.Length / 10]) / 2);
    }

    [GeneratedRegex(@"^\s*\(([^)]*)\)")]
    private static partial Regex Parenthetical();
}
