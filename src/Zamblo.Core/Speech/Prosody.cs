namespace Zamblo.Core.Speech;

/// <summary>A syllable: a vowel with what leads to it.</summary>
/// <param name="Start">In seconds of the take.</param>
/// <param name="End">In seconds of the take.</param>
/// <param name="Nucleus">Middle of its vowel, in seconds.</param>
/// <param name="Prominence">How much it stands out, 0 not at all to 1 the most of the take.</param>
/// <param name="IsAccented">It stands out against the syllables on both sides.</param>
public readonly record struct Syllable(double Start, double End, double Nucleus, float Prominence, bool IsAccented);

/// <summary>A stretch of speech between pauses.</summary>
/// <param name="Start">In seconds.</param>
/// <param name="End">In seconds.</param>
/// <param name="Rise">How far the pitch goes up (or down, less than 0) at its end, in semitones.</param>
public readonly record struct Phrase(double Start, double End, float Rise = 0)
{
    /// <summary>A final rise of this many semitones and more is heard as a question or as going on (common practice: two to four).</summary>
    public const float QuestionRise = 2.5f;

    /// <summary>Whether it ends on a rise.</summary>
    public bool IsRising => Rise >= QuestionRise;
}

/// <summary>What the voice does beside the sounds: syllables and their prominence, phrases and how they end.</summary>
public sealed class Prosody
{
    /// <summary>Pauses of this length and more end a phrase, in seconds (150 ms: common practice in prosody work).</summary>
    public const double PhrasePause = 0.15;

    // Words that carry the sentence rather than its meaning are seldom accented (common practice).
    private static readonly HashSet<string> Small = new(StringComparer.OrdinalIgnoreCase)
    {
        "a",
        "an",
        "the",
        "and",
        "or",
        "but",
        "if",
        "as",
        "at",
        "by",
        "for",
        "from",
        "in",
        "into",
        "of",
        "on",
        "than",
        "to",
        "with",
        "is",
        "are",
        "was",
        "were",
        "be",
        "been",
        "am",
        "has",
        "have",
        "had",
        "do",
        "does",
        "did",
        "will",
        "would",
        "shall",
        "should",
        "can",
        "could",
        "may",
        "might",
        "must",
        "it",
        "its",
        "he",
        "she",
        "we",
        "they",
        "you",
        "i",
        "me",
        "him",
        "her",
        "us",
        "them",
        "my",
        "your",
        "his",
        "our",
        "their",
        "that",
        "this",
        "there",
        "which",
        "who",
        "so",
        "it's",
        "i'm",
        "you're",
    };

    private readonly float[] _semitones;

    private Prosody(IReadOnlyList<Syllable> syllables, IReadOnlyList<Phrase> phrases, float[] semitones) =>
        (Syllables, Phrases, _semitones) = (syllables, phrases, semitones);

    /// <summary>Syllables in order of time.</summary>
    public IReadOnlyList<Syllable> Syllables { get; }

    /// <summary>Phrases in order of time.</summary>
    public IReadOnlyList<Phrase> Phrases { get; }

    /// <summary>The syllables that stand out.</summary>
    public IEnumerable<Syllable> Accents => Syllables.Where(s => s.IsAccented);

    /// <summary>Pitch against this voice's own middle, in semitones; smooth, and drawn to 0 where there is no voice.</summary>
    /// <param name="time">In seconds of the take.</param>
    public float PitchAt(double time)
    {
        var at = 100 * time - 0.5;
        var i = (int)Math.Floor(at);
        if (i < 0 || i + 1 >= _semitones.Length)
            return 0;
        var share = (float)(at - i);
        return _semitones[i] * (1 - share) + _semitones[i + 1] * share;
    }

    /// <summary>Finds it all.</summary>
    public static Prosody Of(SpeechAnalysis speech)
    {
        var raw = new float[speech.PitchHz.Length];
        var middle = Median([.. speech.PitchHz.Where(p => p > 0)]);
        for (var i = 0; i < raw.Length; i++)
            raw[i] = speech.PitchHz[i] > 0 ? 12 * MathF.Log2(speech.PitchHz[i] / middle) : float.NaN;
        var phrases = FindPhrases(speech, raw);
        return new Prosody(FindSyllables(speech, raw, phrases), phrases, Smooth(raw));
    }

    private static List<Phrase> FindPhrases(SpeechAnalysis speech, float[] semitones)
    {
        var phrases = new List<Phrase>();
        foreach (var p in speech.Phones)
        {
            if (Arpabet.IsSilent(p.Phone))
                continue;
            if (phrases.Count > 0 && p.Start - phrases[^1].End < PhrasePause)
                phrases[^1] = phrases[^1] with { End = p.End };
            else
                phrases.Add(new Phrase(p.Start, p.End));
        }
        for (var i = 0; i < phrases.Count; i++)
            phrases[i] = phrases[i] with { Rise = RiseAt(semitones, phrases[i]) };
        return phrases;
    }

    // The last 60 ms of voice against what was 220 to 550 ms before its end.
    private static float RiseAt(float[] semitones, Phrase phrase)
    {
        var last = Math.Min(semitones.Length - 1, (int)(100 * phrase.End));
        var first = Math.Max(0, (int)(100 * phrase.Start));
        while (last > first && float.IsNaN(semitones[last]))
            last--;
        if (last - first < 30 || phrase.End - last / 100.0 > 0.25)
            return 0;
        var end = Median([.. semitones[Math.Max(first, last - 5)..(last + 1)].Where(s => !float.IsNaN(s))]);
        var before = semitones[Math.Max(first, last - 55)..Math.Max(first, last - 22)].Where(s => !float.IsNaN(s)).ToArray();
        return before.Length < 4 ? 0 : Math.Clamp(end - Median(before), -12, 12);
    }

    private static List<Syllable> FindSyllables(SpeechAnalysis speech, float[] semitones, List<Phrase> phrases)
    {
        var vowels = speech.Phones.Select((p, i) => (p, i)).Where(x => Arpabet.Vowels.Contains(x.p.Phone)).ToArray();
        if (vowels.Length == 0)
            return [];
        var scores = new double[vowels.Length];
        var levels = vowels.Select(v => speech.PeakDb(v.p)).ToArray();
        var meanLength = vowels.Average(v => v.p.Duration);
        var word = 0;
        for (var i = 0; i < vowels.Length; i++)
        {
            var vowel = vowels[i].p;
            double around = 0;
            int from = Math.Max(0, i - 3),
                to = Math.Min(vowels.Length - 1, i + 3);
            for (var k = from; k <= to; k++)
                around += levels[k] / (to - from + 1);
            var length = vowel.Duration / meanLength;
            // The last syllable before a pause is long anyway (Wightman, Shattuck-Hufnagel, Ostendorf and Price, JASA 91, 1992).
            if (phrases.Exists(p => vowel.End > p.End - 0.12 && vowel.End <= p.End + 1e-6))
                length *= 0.7;
            scores[i] = (levels[i] - around) / 6 + Math.Min(1, (length - 1) * 0.8) + 0.8 * Excursion(semitones, vowel);
            while (word < speech.Words.Count && speech.Words[word].End <= vowel.Start + 1e-6)
                word++;
            if (word < speech.Words.Count && speech.Words[word] is var w && w.Start <= vowel.Start + 1e-6)
            {
                if (Small.Contains(w.Text))
                    scores[i] -= 0.35;
                if (w.Text.Length > 1 && w.Text.All(c => !char.IsLetter(c) || char.IsUpper(c)) && w.Text.Any(char.IsLetter))
                    scores[i] += 0.6;
            }
        }
        var top = Math.Max(0.6, scores.Max());
        var syllables = new List<Syllable>();
        for (var i = 0; i < vowels.Length; i++)
        {
            var (vowel, at) = vowels[i];
            // A consonant belongs to the vowel after it; of several between two vowels all but the first do.
            var first = at;
            while (first > 0 && speech.Phones[first - 1] is var p && !Arpabet.IsSilent(p.Phone) && !Arpabet.Vowels.Contains(p.Phone))
                first--;
            if (i > 0 && vowels[i - 1].i == first - 1 && at - first > 1)
                first++;
            var accented = scores[i] >= 0.12 && (i == 0 || scores[i - 1] <= scores[i]) && (i + 1 == vowels.Length || scores[i + 1] < scores[i]);
            if (syllables.Count > 0)
                syllables[^1] = syllables[^1] with { End = Math.Min(speech.Phones[first].Start, PauseAfter(speech, vowels[i - 1].i)) };
            syllables.Add(
                new Syllable(
                    speech.Phones[first].Start,
                    PauseAfter(speech, at),
                    (vowel.Start + vowel.End) / 2,
                    (float)Math.Clamp(scores[i] / top, accented ? 0.1 : 0, 1),
                    accented
                )
            );
        }
        return syllables;
    }

    private static double PauseAfter(SpeechAnalysis speech, int at)
    {
        while (at + 1 < speech.Phones.Count && !Arpabet.IsSilent(speech.Phones[at + 1].Phone))
            at++;
        return speech.Phones[at].End;
    }

    // How far the pitch of a vowel goes over the pitch of the second and a half around it; four semitones count as one.
    private static double Excursion(float[] semitones, PhoneSegment vowel)
    {
        if (semitones.Length == 0)
            return 0;
        int from = Math.Clamp((int)(100 * vowel.Start), 0, semitones.Length - 1),
            to = Math.Clamp((int)(100 * vowel.End), from, semitones.Length - 1);
        var own = semitones[from..(to + 1)].Where(s => !float.IsNaN(s)).ToArray();
        var around = semitones[Math.Max(0, from - 75)..Math.Min(semitones.Length, to + 75)].Where(s => !float.IsNaN(s)).ToArray();
        return own.Length < 2 || around.Length < 10 ? 0 : Math.Clamp((own.Order().ElementAt(own.Length * 4 / 5) - Median(around)) / 4, -0.5, 1.5);
    }

    private static float Median(float[] values)
    {
        if (values.Length == 0)
            return 0;
        Array.Sort(values);
        return values[values.Length / 2];
    }

    // A Hann window of 0.4 s over what is voiced; unvoiced stretches count as the voice's middle, so that a pause eases back.
    private static float[] Smooth(float[] semitones)
    {
        const int half = 20;
        var result = new float[semitones.Length];
        for (var i = 0; i < result.Length; i++)
        {
            double sum = 0,
                weights = 0;
            for (var k = -half; k <= half; k++)
            {
                if (i + k < 0 || i + k >= semitones.Length)
                    continue;
                var w = 0.5 + 0.5 * Math.Cos(Math.PI * k / (half + 1));
                var isVoiced = !float.IsNaN(semitones[i + k]);
                sum += w * (isVoiced ? Math.Clamp(semitones[i + k], -8, 8) : 0);
                weights += w * (isVoiced ? 1 : 0.3);
            }
            result[i] = (float)(sum / Math.Max(1e-9, weights));
        }
        return result;
    }
}
