namespace Zamblo.Core.Speech;

/// <summary>Where the words that are said stand in a text as it was written.</summary>
public static class WrittenSpans
{
    /// <summary>Start and length of each word, one after the other.</summary>
    /// <param name="text">As written.</param>
    /// <param name="words">As heard, in order.</param>
    /// <returns>Two numbers a word; -1 and 0 for one that is not found.</returns>
    public static int[] Of(string text, IReadOnlyList<WordSegment> words)
    {
        // What is not spoken is blank there; every other character stands where it stood.
        text = Directions.Spoken(text);
        var spans = new int[2 * words.Count];
        var at = 0;
        for (var i = 0; i < words.Count; i++)
        {
            var found = Find(text, words[i].Text, at);
            (spans[2 * i], spans[2 * i + 1]) = found < 0 ? (-1, 0) : (found, words[i].Text.Length);
            if (found >= 0)
                at = found + words[i].Text.Length;
        }
        return spans;
    }

    // Where a word stands in a text from a place on, as a word of its own; less than 0 where it does not.
    private static int Find(string text, string word, int from)
    {
        if (word.Length == 0)
            return -1;
        for (var at = from; (at = text.IndexOf(word, at, StringComparison.OrdinalIgnoreCase)) >= 0; at++)
            if (
                (at == 0 || !char.IsLetterOrDigit(text[at - 1]) || !char.IsLetterOrDigit(word[0]))
                && (at + word.Length == text.Length || !char.IsLetterOrDigit(text[at + word.Length]) || !char.IsLetterOrDigit(word[^1]))
            )
                return at;
        return -1;
    }

    /// <summary>The text with some of its words written anew.</summary>
    /// <param name="text">As written.</param>
    /// <param name="words">As heard, in order.</param>
    /// <param name="first">The first that is replaced.</param>
    /// <param name="count">How many are.</param>
    /// <param name="by">In their place.</param>
    /// <returns>Null where the words do not stand in the text.</returns>
    public static string? Replace(string text, IReadOnlyList<WordSegment> words, int first, int count, string by)
    {
        var spans = Of(text, words);
        var last = first + count - 1;
        if (first < 0 || last >= words.Count || spans[2 * first] < 0 || spans[2 * last] < 0)
            return null;
        return text[..spans[2 * first]] + by + text[(spans[2 * last] + spans[2 * last + 1])..];
    }
}
