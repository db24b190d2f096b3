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
    /// <summary>
    /// For a moment outside of its line, after the line was split: index of the word that it hangs on, counted in its line (less than 0, or beyond
    /// the end).
    /// </summary>
    public int? FarWord { get; init; }

    /// <summary>That word.</summary>
    public string? FarText { get; init; }

    /// <summary>The same moment as it lies in a part of its line.</summary>
    /// <param name="speech">What is said in the whole line, or null.</param>
    /// <param name="words">So many words lie before the part.</param>
    /// <param name="count">So many words lie in it.</param>
    /// <param name="from">Where the part starts, in seconds of the line.</param>
    /// <param name="length">Of the part, in seconds.</param>
    public WordAnchor InPart(SpeechAnalysis? speech, int words, int count, double from, double length)
    {
        var seconds = Find(speech) - from;
        var (word, text) = FarWord is { } far ? (far, FarText ?? "") : (Word, Text);
        if (text.Length == 0)
            return new WordAnchor(-1, "", 0, seconds, seconds >= 0 && seconds <= length ? length : 0);
        word -= words;
        return word >= 0 && word < count
            ? new WordAnchor(word, text, Share, seconds, length)
            : new WordAnchor(-1, "", Share, seconds, 0) { FarWord = word, FarText = text };
    }

    /// <summary>The same moment as it lies in a line that this one has become a part of.</summary>
    /// <param name="speech">What is said in this line, or null.</param>
    /// <param name="words">So many words lie before this line there.</param>
    /// <param name="count">So many words there are there.</param>
    /// <param name="from">Where this line starts there, in seconds.</param>
    /// <param name="length">Of the other line, in seconds.</param>
    public WordAnchor InWhole(SpeechAnalysis? speech, int words, int count, double from, double length)
    {
        var seconds = Find(speech) + from;
        var (word, text) = FarWord is { } far ? (far, FarText ?? "") : (Word, Text);
        if (text.Length == 0)
            return new WordAnchor(-1, "", 0, seconds, seconds >= 0 && seconds <= length ? length : 0);
        word += words;
        return word >= 0 && word < count
            ? new WordAnchor(word, text, Share, seconds, length)
            : new WordAnchor(-1, "", Share, seconds, 0) { FarWord = word, FarText = text };
    }

    /// <summary>Takes hold of a moment: of the word that it lies in, else of the nearest.</summary>
    /// <param name="speech">What is said; null where there is no take or nobody has listened.</param>
    /// <param name="seconds">In seconds of the take.</param>
    public static WordAnchor At(SpeechAnalysis? speech, double seconds)
    {
        if (speech == null || speech.Words.Count == 0)
            return new WordAnchor(-1, "", 0, seconds, speech?.Duration ?? 0);
        double Away(WordSegment w) =>
            seconds < w.Start ? w.Start - seconds
            : seconds > w.End ? seconds - w.End
            : 0;
        var best = Enumerable.Range(0, speech.Words.Count).MinBy(i => Away(speech.Words[i]));
        var word = speech.Words[best];
        return new WordAnchor(best, word.Text, (seconds - word.Start) / Math.Max(1e-3, word.End - word.Start), seconds, speech.Duration);
    }

    /// <summary>Whether its word is said in what is said now.</summary>
    public bool IsIn(SpeechAnalysis? speech) => speech?.Words.Any(w => w.Text.Equals(Text, StringComparison.OrdinalIgnoreCase)) == true;

    /// <summary>The moment in what is said now: at the nearest place where the word is said, else at the same share of the take.</summary>
    public double Find(SpeechAnalysis? speech)
    {
        if (speech == null)
            return Seconds;
        var same =
            Word < 0 ? [] : Enumerable.Range(0, speech.Words.Count).Where(i => speech.Words[i].Text.Equals(Text, StringComparison.OrdinalIgnoreCase)).ToArray();
        if (same.Length == 0)
            return Of > 0 ? Seconds * speech.Duration / Of : Seconds;
        var word = speech.Words[same.MinBy(i => Math.Abs(i - Word))];
        return word.Start + Share * (word.End - word.Start);
    }
}
