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
    private static readonly (Mood Mood, string[] Words)[] Lexicon =
    [
        (
            Mood.Joy,
            [
                "happy",
                "happily",
                "glad",
                "gladly",
                "wonderful",
                "hooray",
                "delighted",
                "lovely",
                "great",
                "cheerful",
                "cheerfully",
                "laughing",
                "smiling",
                "yay",
                "perfect",
                "beautiful",
                "joyful",
            ]
        ),
        (
            Mood.Sadness,
            ["sad", "sadly", "sorry", "alas", "alone", "lonely", "crying", "tears", "lost", "miss", "gone", "nobody", "starving", "weeping", "hopeless"]
        ),
        (Mood.Anger, ["angry", "angrily", "furious", "shouting", "hate", "enough", "stop", "damn", "outrageous", "never", "rude", "annoyed"]),
        (Mood.Fear, ["afraid", "scared", "help", "frightened", "terrified", "danger", "trembling", "nervous", "panic", "burning"]),
        (Mood.Surprise, ["what", "wow", "oh", "surprised", "suddenly", "really", "goodness", "unbelievable", "gasping"]),
        (Mood.Disgust, ["ugh", "yuck", "disgusting", "disgusted", "horrible", "rotten", "stinks", "nasty", "revolting"]),
        (Mood.Doubt, ["maybe", "perhaps", "doubtful", "doubtfully", "hm", "hmm", "unsure", "suspicious", "suspiciously", "probably"]),
        (Mood.Boredom, ["bored", "boring", "whatever", "yawning", "again", "tired", "wearily", "sighing", "flatly"]),
        (Mood.Affection, ["love", "dear", "darling", "sweet", "tenderly", "gently", "warmly", "friend", "thanks"]),
        (Mood.Pride, ["proud", "proudly", "finally", "best", "masterpiece", "triumphant", "triumphantly"]),
        (Mood.Mischief, ["secret", "secretly", "whispering", "trick", "sly", "slyly", "winking", "teasing"]),
    ];

    /// <summary>The mood that a direction asks for: "(sadly)"; null where it asks for none.</summary>
    public static Mood? FromDirection(string direction)
    {
        foreach (var (mood, words) in Lexicon)
            if (Words(direction).Any(w => words.Contains(w)))
                return mood;
        return null;
    }

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
        if (direction.Success)
            foreach (var (mood, words) in Lexicon)
                if (Words(direction.Groups[1].Value).FirstOrDefault(w => words.Contains(w)) is { } w)
                    Vote(mood, 1, $"the direction \"{w}\"");
        var plain = direction.Success ? text[(direction.Index + direction.Length)..] : text;
        foreach (var (mood, words) in Lexicon)
        foreach (var w in Words(plain).Where(w => words.Contains(w)).Distinct().Take(2))
            Vote(mood, 0.35, $"the word \"{w}\"");
        var marks = plain.Count(c => c == '!');
        if (plain.Contains("?!") || plain.Contains("!?"))
            Vote(Mood.Surprise, 0.6, "?!");
        else if (marks > 0)
        {
            // An exclamation strengthens what is there; alone it is anger in a loud voice, else joy.
            var arousal = Arousal(speech, others);
            if (scores.Count > 0)
                foreach (var m in scores.Keys.ToArray())
                    Vote(m, 0.2 * Math.Min(3, marks), "!");
            else
                Vote(arousal > 0.8 ? Mood.Anger : Mood.Joy, 0.3 + 0.1 * Math.Min(3, marks), "!");
        }
        if (plain.Contains("...") || plain.Contains('…'))
            Vote(Mood.Doubt, 0.35, "…");
        if (others.Count > 0)
        {
            var arousal = Arousal(speech, others);
            if (arousal > 1.2)
                Vote(scores.Count > 0 ? scores.MaxBy(s => s.Value.Score).Key : Mood.Surprise, 0.35, "a loud, high voice");
            else if (arousal < -1.2)
                Vote(scores.ContainsKey(Mood.Affection) ? Mood.Affection : Mood.Sadness, 0.35, "a soft, low voice");
        }
        if (scores.Count == 0)
            return null;
        var (best, (score, why)) = scores.MaxBy(s => s.Value.Score);
        return score < 0.33 ? null : new MoodSuggestion(best, (float)Math.Clamp(0.35 + 0.35 * score, 0.4, 0.9), start, end, why);
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

    private static IEnumerable<string> Words(string text) => Word().Matches(text.ToLowerInvariant()).Select(m => m.Value);

    [GeneratedRegex(@"^\s*\(([^)]*)\)")]
    private static partial Regex Parenthetical();

    [GeneratedRegex(@"[\p{L}']+")]
    private static partial Regex Word();
}
