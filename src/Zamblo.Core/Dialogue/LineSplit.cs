using Zamblo.Core.Speech;

namespace Zamblo.Core.Dialogue;

/// <summary>Cuts what is written where the sound is cut.</summary>
public static class LineSplit
{
    /// <summary>The two in one again: as it was before it was cut, or with a space between.</summary>
    public static string Join(string before, string after) =>
        before.Length == 0 || after.Length == 0 || char.IsWhiteSpace(before[^1]) || char.IsWhiteSpace(after[0]) ? before + after : $"{before} {after}";

    /// <summary>The text of the words before a moment, and of those after it; all of it stays in front where there are no words to go by.</summary>
    /// <param name="text">As written.</param>
    /// <param name="words">As heard, in order.</param>
    /// <param name="at">In seconds of the take.</param>
    public static (string Before, string After) Text(string text, IReadOnlyList<WordSegment> words, double at)
    {
        var spans = WrittenSpans.Of(text, words);
        for (var i = 0; i < words.Count; i++)
            if (spans[2 * i] >= 0 && (words[i].Start + words[i].End) / 2 >= at)
                return (text[..spans[2 * i]], text[spans[2 * i]..]);
        return (text, "");
    }
}
