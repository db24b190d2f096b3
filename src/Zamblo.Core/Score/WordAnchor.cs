using Zamblo.Core.Speech;

namespace Zamblo.Core.Score;

/// <summary>A moment of a take that hangs on a word, so that it is found again in another take or after the words have changed.</summary>
/// <param name="Word">Index of the word; less than 0 where there was none.</param>
/// <param name="Text">The word.</param>
/// <param name="Share">Where in the word: 0 its start, 1 its end; may lie outside.</param>
/// <param name="Seconds">The moment as it was, in seconds of the take.</param>
/// <param name="Of">Length of the take as it was, in seconds.</param>
public sealed record WordAnchor(int Word, string Text, double Share, double Seconds, double Of)
{
    /// <summary>Takes hold of a moment: of the word that it lies in, else of the nearest.</summary>
    /// <param name="speech">What is said; null where there is no take or nobody has listened.</param>
    /// <param name="seconds">In seconds of the take.</param>
    public static WordAnchor At(SpeechAnalysis? speech, double seconds)
    {
        if (speech == null || speech.Words.Count == 0) return new WordAnchor(-1, "", 0, seconds, speech?.Duration ?? 0);
        double Away(WordSegment w) => seconds < w.Start ? w.Start - seconds : seconds > w.End ? seconds - w.End : 0;
        var best = Enumerable.Range(0, speech.Words.Count).MinBy(i => Away(speech.Words[i]));
        var word = speech.Words[best];
        return new WordAnchor(best, word.Text, (seconds - word.Start) / Math.Max(1e-3, word.End - word.Start), seconds, speech.Duration);
    }

    /// <summary>The moment in what is said now: at the nearest place where the word is said, else at the same share of the take.</summary>
    public double Find(SpeechAnalysis? speech)
    {
        if (speech == null) return Seconds;
        var same = Word < 0 ? [] : Enumerable.Range(0, speech.Words.Count).Where(i => speech.Words[i].Text.Equals(Text, StringComparison.OrdinalIgnoreCase)).ToArray();
        if (same.Length == 0) return Of > 0 ? Seconds * speech.Duration / Of : Seconds;
        var word = speech.Words[same.MinBy(i => Math.Abs(i - Word))];
        return word.Start + Share * (word.End - word.Start);
    }
}
