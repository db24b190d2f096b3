using Zamblo.Core.Speech;

namespace Zamblo.Core.Performance;

/// <summary>A syllable that stands out.</summary>
/// <param name="Time">Middle of its vowel, in seconds.</param>
/// <param name="Prominence">0 just noticeable to 1 the strongest of the take.</param>
public readonly record struct Accent(double Time, float Prominence);

/// <summary>A stretch of speech between pauses.</summary>
/// <param name="Start">In seconds.</param>
/// <param name="End">In seconds.</param>
public readonly record struct Phrase(double Start, double End);

/// <summary>Finds what the voice stresses: the vowels that are louder and longer than those around them.</summary>
public static class Accents
{
    /// <summary>Pauses of this length and more end a phrase, in seconds (150 ms: common practice in prosody work).</summary>
    public const double PhrasePause = 0.15;

    /// <summary>Accents in order of time.</summary>
    public static IReadOnlyList<Accent> Find(SpeechAnalysis speech)
    {
        var vowels = speech.Phones.Where(p => Arpabet.Vowels.Contains(p.Phone)).ToArray();
        if (vowels.Length == 0) return [];
        var scores = new double[vowels.Length];
        double meanLength = vowels.Average(v => v.Duration);
        for (var i = 0; i < vowels.Length; i++)
        {
            var level = speech.PeakDb(vowels[i]);
            double around = 0;
            var count = 0;
            for (var k = Math.Max(0, i - 3); k <= Math.Min(vowels.Length - 1, i + 3); k++, count++) around += speech.PeakDb(vowels[k]);
            scores[i] = (level - around / count) / 6 + Math.Min(1, (vowels[i].Duration / meanLength - 1) * 0.8);
        }
        var accents = new List<Accent>();
        double top = scores.Max();
        for (var i = 0; i < vowels.Length; i++)
        {
            // A local peak over its two neighbours that lies above the average.
            if (scores[i] < 0.12 || (i > 0 && scores[i - 1] > scores[i]) || (i + 1 < vowels.Length && scores[i + 1] >= scores[i])) continue;
            accents.Add(new Accent((vowels[i].Start + vowels[i].End) / 2, (float)Math.Clamp(scores[i] / Math.Max(0.6, top), 0.1, 1)));
        }
        return accents;
    }

    /// <summary>Phrases in order of time.</summary>
    public static IReadOnlyList<Phrase> Phrases(SpeechAnalysis speech)
    {
        var phrases = new List<Phrase>();
        foreach (var p in speech.Phones)
        {
            if (Arpabet.IsSilent(p.Phone)) continue;
            if (phrases.Count > 0 && p.Start - phrases[^1].End < PhrasePause) phrases[^1] = phrases[^1] with { End = p.End };
            else phrases.Add(new Phrase(p.Start, p.End));
        }
        return phrases;
    }
}
