using System.Text.RegularExpressions;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Interchange;

/// <summary>
/// Captions in other words than those that are said: shortened, with sounds in brackets, or in another language. Each word gets its time from what is said
/// in its place: words that are the same stand where they are said, what lies between goes by its share of the letters, so that pauses stay pauses.
/// </summary>
public static partial class CaptionWording
{
    // Where fewer of the words are the same it is another text, and what is the same is so by chance.
    private const double LeastSame = 0.4;

    // Longer texts are laid by their share of the letters alone: the search for what is the same takes the product of both.
    private const int LongestSearch = 3000;

    /// <summary>Longest text of a line's captions, in characters.</summary>
    public const int LongestText = 20_000;

    // Ends the first half of a line that was split within a caption, so that joining both makes one of them again.
    private const char Seam = ' ';

    /// <summary>Lays a text over what is said.</summary>
    /// <param name="said">Words with their times, in order.</param>
    /// <param name="text">The text; a new row begins a new caption.</param>
    /// <returns>Words of each caption, in order; none where nothing is said or written.</returns>
    public static IReadOnlyList<IReadOnlyList<WordSegment>> Lay(IReadOnlyList<WordSegment> said, string text)
    {
        var blocks = text.Split('\n').Select(row => WordSpacing.Split(row).Select(w => w.Text).ToArray()).Where(b => b.Length > 0).ToArray();
        var tokens = blocks.SelectMany(b => b).ToArray();
        if (said.Count == 0 || tokens.Length == 0)
            return [];
        var timed = Timed(said, tokens);
        var laid = new List<IReadOnlyList<WordSegment>>();
        var at = 0;
        foreach (var block in blocks)
        {
            laid.Add(timed[at..(at + block.Length)]);
            at += block.Length;
        }
        return laid;
    }

    private static WordSegment[] Timed(IReadOnlyList<WordSegment> said, string[] tokens)
    {
        var same = Same([.. said.Select(w => WordMatch.Plain(w.Text))], [.. tokens.Select(WordMatch.Plain)]);
        var timed = new WordSegment[tokens.Length];
        var (token, word) = (0, 0);
        foreach (var (t, w) in same.Append((tokens.Length, said.Count)))
        {
            Between(said, word, w, tokens, token, t, timed);
            if (t < tokens.Length)
                timed[t] = said[w] with { Text = tokens[t] };
            (token, word) = (t + 1, w + 1);
        }
        return timed;
    }

    // Tokens that stand for a run of words, by their share of the letters.
    private static void Between(IReadOnlyList<WordSegment> said, int firstWord, int endWord, string[] tokens, int first, int end, WordSegment[] timed)
    {
        if (first == end)
            return;
        // Where nothing is said they share the time until the next word.
        var isSilent = firstWord == endWord;
        WordSegment[] run = isSilent
            ?
            [
                new WordSegment(
                    "·",
                    firstWord > 0 ? said[firstWord - 1].End : said[0].Start,
                    endWord < said.Count ? Math.Max(said[endWord].Start, firstWord > 0 ? said[firstWord - 1].End : 0) : said[^1].End
                ),
            ]
            : [.. said.Skip(firstWord).Take(endWord - firstWord)];
        double of = run.Sum(w => w.Text.Length),
            all = tokens[first..end].Sum(t => t.Length),
            before = 0;
        for (var i = first; i < end; i++)
        {
            var from = before / all * of;
            before += tokens[i].Length;
            timed[i] = new WordSegment(tokens[i], At(run, from, isEnd: false), At(run, before / all * of, isEnd: true));
        }
    }

    // When so many letters have been said. On the seam of two words a start is that of the later one, an end that of the earlier.
    private static double At(WordSegment[] run, double letters, bool isEnd)
    {
        const double tiny = 1e-9;
        foreach (var w in run)
        {
            if (isEnd ? letters <= w.Text.Length + tiny : letters < w.Text.Length - tiny)
                return w.Start + Math.Clamp(letters / w.Text.Length, 0, 1) * (w.End - w.Start);
            letters -= w.Text.Length;
        }
        return run[^1].End;
    }

    // Words that are the same, as pairs of indices: token, word; none where it is another text.
    private static List<(int Token, int Word)> Same(string[] words, string[] tokens)
    {
        if (words.Length > LongestSearch || tokens.Length > LongestSearch)
            return [];
        var partners = WordMatch.Partners(tokens, words);
        var found = Enumerable.Range(0, tokens.Length).Where(t => tokens[t].Length > 0 && partners[t] >= 0).Select(t => (t, partners[t])).ToList();
        return found.Count < LeastSame * tokens.Count(t => t.Length > 0) ? [] : found;
    }

    /// <summary>Cuts a text where its line is cut.</summary>
    /// <param name="said">Words of the line with their times.</param>
    /// <param name="text">The text.</param>
    /// <param name="at">Seconds of the line.</param>
    public static (string First, string Second) Split(IReadOnlyList<WordSegment> said, string text, double at)
    {
        var first = Lay(said, text).SelectMany(b => b).Count(w => (w.Start + w.End) / 2 < at);
        var end = WordSpacing.Split(text).Skip(first).Select(w => w.Index).FirstOrDefault(text.Length);
        var before = text[..end];
        return before.TrimEnd().Length > 0 && end < text.Length && !before.EndsWith('\n')
            ? (before.TrimEnd() + Seam, text[end..])
            : (before.TrimEnd(), text[end..]);
    }

    /// <summary>The text of two lines that are joined.</summary>
    public static string Join(string first, string second) =>
        first.Length == 0 || second.Length == 0 ? first + second
        : first[^1] == Seam ? first + second
        : first + "\n" + second;

    /// <summary>Whether a text is the tag of a language (BCP 47, its plain part), or empty for the language that is spoken.</summary>
    public static bool IsLanguage(string? tag) => tag != null && (tag.Length == 0 || tag.Length <= 20 && Tag().IsMatch(tag));

    [GeneratedRegex(@"^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8}){0,3}\z")]
    private static partial Regex Tag();
}
