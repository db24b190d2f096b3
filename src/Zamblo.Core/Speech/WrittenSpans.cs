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
        var spans = new int[2 * words.Count];
        var at = 0;
        for (var i = 0; i < words.Count; i++)
        {
            var found = words[i].Text.Length == 0 ? -1 : text.IndexOf(words[i].Text, at, StringComparison.OrdinalIgnoreCase);
            (spans[2 * i], spans[2 * i + 1]) = found < 0 ? (-1, 0) : (found, words[i].Text.Length);
            if (found >= 0) at = found + words[i].Text.Length;
        }
        return spans;
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
        if (first < 0 || last >= words.Count || spans[2 * first] < 0 || spans[2 * last] < 0) return null;
        return text[..spans[2 * first]] + by + text[(spans[2 * last] + spans[2 * last + 1])..];
    }
}
