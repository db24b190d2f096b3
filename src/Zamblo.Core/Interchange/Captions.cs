using System.Text;
using Zamblo.Core.Lettering;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Interchange;

/// <summary>Captions cut from words: WebVTT (W3C, "WebVTT: The Web Video Text Tracks Format") and SubRip.</summary>
public static class Captions
{
    // Two rows of 37 characters at most, five seconds at most (common practice for captions).
    /// <summary>Longest caption, where nothing else is asked for.</summary>
    public const int MaximalCharacters = 74;
    private const double MaximalSeconds = 5,
        PauseSeconds = 0.45;

    // Shorter sentences share a caption: nobody can read one that is gone at once.
    private const int ShortSentence = 25;

    /// <summary>One caption.</summary>
    /// <param name="Start">In seconds.</param>
    /// <param name="End">In seconds.</param>
    /// <param name="Text">One line of text.</param>
    public readonly record struct Caption(double Start, double End, string Text)
    {
        /// <summary>Who says it; null where nobody is named.</summary>
        public string? Speaker { get; init; }

        /// <summary>Where that one is in the picture, 0 left to 1 right; null for below in the middle.</summary>
        public double? Across { get; init; }
    }

    /// <summary>Cuts words into captions at pauses, after sentences, or where one would be too long.</summary>
    /// <param name="words">In the order of the text.</param>
    /// <param name="text">How it is written, or empty: the bare words.</param>
    /// <param name="maximalCharacters">Longest caption.</param>
    public static IReadOnlyList<Caption> FromWords(IReadOnlyList<WordSegment> words, string text = "", int maximalCharacters = MaximalCharacters) =>
        [.. RowsOf(words, text, maximalCharacters).Select(row => new Caption(row[0].Start, row[^1].End, WordSpacing.Join(row.Select(w => w.Text))))];

    /// <summary>The words of each caption, as they are written.</summary>
    /// <param name="words">In the order of the text.</param>
    /// <param name="text">How it is written, or empty: the bare words.</param>
    /// <param name="maximalCharacters">Longest caption.</param>
    public static IReadOnlyList<IReadOnlyList<WordSegment>> RowsOf(
        IReadOnlyList<WordSegment> words,
        string text = "",
        int maximalCharacters = MaximalCharacters
    ) => Cut(ScriptText.AsWritten(words, text), maximalCharacters);

    /// <summary>Words as they stand in captions, cut into them.</summary>
    /// <param name="words">In their order.</param>
    /// <param name="maximalCharacters">Longest caption.</param>
    public static IReadOnlyList<IReadOnlyList<WordSegment>> Cut(IReadOnlyList<WordSegment> words, int maximalCharacters = MaximalCharacters)
    {
        var rows = new List<List<WordSegment>>();
        var length = 0;
        foreach (var w in words)
        {
            if (
                rows.Count > 0
                && rows[^1] is var row
                && row[^1] is var last
                && !(EndsSentence(last.Text) && length > ShortSentence)
                && w.Start - last.End < PauseSeconds
                && length + LengthAfter(last, w) <= maximalCharacters
                && w.End - row[0].Start <= MaximalSeconds
            )
            {
                length += LengthAfter(last, w);
                row.Add(w);
            }
            else
            {
                rows.Add([w]);
                length = WordSpacing.Measure(w.Text);
            }
        }
        for (var i = 1; i < rows.Count; i++)
            if (!EndsSentence(rows[i - 1][^1].Text) && rows[i][0].Start - rows[i - 1][^1].End < PauseSeconds)
                Even(rows, i, maximalCharacters);
        return rows;
    }

    private static int LengthAfter(WordSegment last, WordSegment w) => (WordSpacing.HasSpace(last.Text, w.Text) ? 1 : 0) + WordSpacing.Measure(w.Text);

    private static bool EndsSentence(string word) => word[^1] is '.' or '!' or '?' or '…' or '。' or '！' or '？';

    // A sentence that needs two captions is not cut before its last word: both get about as much, and a comma is a good place.
    private static void Even(List<List<WordSegment>> rows, int i, int maximalCharacters)
    {
        List<WordSegment> both = [.. rows[i - 1], .. rows[i]];
        int LengthOf(int from, int to) => WordSpacing.Measure(WordSpacing.Join(both.Skip(from).Take(to - from).Select(w => w.Text)));
        int own = LengthOf(0, rows[i - 1].Count),
            rest = LengthOf(rows[i - 1].Count, both.Count);
        if (rest >= own / 2 || EndsSentence(both[rows[i - 1].Count - 1].Text))
            return;
        var best = rows[i - 1].Count;
        var least = double.MaxValue;
        for (var cut = best; cut > 0; cut--)
        {
            var (before, after) = (LengthOf(0, cut), LengthOf(cut, both.Count));
            if (after > maximalCharacters || both[^1].End - both[cut].Start > MaximalSeconds)
                break;
            var cost =
                Math.Abs(before - after) / (double)(before + after)
                - (both[cut - 1].Text[^1] is ',' or ';' or ':' or '–' or '—' or '，' or '、' or '；' ? 0.3 : 0);
            if (cost < least)
                (least, best) = (cost, cut);
        }
        (rows[i - 1], rows[i]) = (both[..best], both[best..]);
    }

    /// <summary>Writes WebVTT; below whoever speaks (cue setting "position", in percent of the picture's width).</summary>
    public static void WriteVtt(TextWriter writer, IReadOnlyList<Caption> captions)
    {
        writer.Write("WEBVTT\n");
        foreach (var c in captions)
        {
            // A cue is as wide as it is from its middle to the nearer edge, twice: further out there is no room for the words.
            var place = c.Across is { } across ? $" position:{(int)Math.Round(100 * Math.Clamp(across, Outermost, 1 - Outermost))}%" : "";
            writer.Write($"\n{Time(c.Start, '.')} --> {Time(c.End, '.')}{place}\n");
            writer.Write($"{(c.Speaker == null ? "" : $"<v {Plain(c.Speaker)}>")}{Plain(Rows(c.Text))}\n");
        }
    }

    private const double Outermost = 0.3;

    // Two rows of 42 characters (common practice).
    private const int RowCharacters = 42;

    private static string Rows(string text) => string.Join('\n', CaptionRows.Break(text, RowCharacters, s => WordSpacing.Measure(s)));

    /// <summary>Writes SubRip.</summary>
    public static void WriteSrt(TextWriter writer, IReadOnlyList<Caption> captions)
    {
        for (var i = 0; i < captions.Count; i++)
            writer.Write(
                $"{i + 1}\n{Time(captions[i].Start, ',')} --> {Time(captions[i].End, ',')}\n"
                    + $"{Rows((captions[i].Speaker is { } who ? who + ": " : "") + captions[i].Text)}\n\n"
            );
    }

    private static string Plain(string text) => text.Replace("&", "&amp;").Replace("<", "&lt;").Replace(">", "&gt;");

    private static string Time(double seconds, char point)
    {
        var ms = (long)Math.Round(seconds * 1000);
        return $"{ms / 3_600_000:00}:{ms / 60_000 % 60:00}:{ms / 1000 % 60:00}{point}{ms % 1000:000}";
    }
}
