using System.Text;
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
    }

    /// <summary>Cuts words into captions at pauses, after sentences, or where one would be too long.</summary>
    /// <param name="words">In the order of the text.</param>
    /// <param name="text">How it is written, or empty: the bare words.</param>
    /// <param name="maximalCharacters">Longest caption.</param>
    public static IReadOnlyList<Caption> FromWords(IReadOnlyList<WordSegment> words, string text = "", int maximalCharacters = MaximalCharacters) =>
        [.. RowsOf(words, text, maximalCharacters).Select(row => new Caption(row[0].Start, row[^1].End, string.Join(' ', row.Select(w => w.Text))))];

    /// <summary>The words of each caption, as they are written.</summary>
    /// <param name="words">In the order of the text.</param>
    /// <param name="text">How it is written, or empty: the bare words.</param>
    /// <param name="maximalCharacters">Longest caption.</param>
    public static IReadOnlyList<IReadOnlyList<WordSegment>> RowsOf(
        IReadOnlyList<WordSegment> words,
        string text = "",
        int maximalCharacters = MaximalCharacters
    )
    {
        var rows = new List<List<WordSegment>>();
        var length = 0;
        foreach (var w in ScriptText.AsWritten(words, text))
        {
            if (
                rows.Count > 0
                && rows[^1] is var row
                && row[^1] is var last
                && !(last.Text[^1] is '.' or '!' or '?' or '…' && length > ShortSentence)
                && w.Start - last.End < PauseSeconds
                && length + 1 + w.Text.Length <= maximalCharacters
                && w.End - row[0].Start <= MaximalSeconds
            )
            {
                row.Add(w);
                length += 1 + w.Text.Length;
            }
            else
            {
                rows.Add([w]);
                length = w.Text.Length;
            }
        }
        return rows;
    }

    /// <summary>Writes WebVTT.</summary>
    public static void WriteVtt(TextWriter writer, IReadOnlyList<Caption> captions)
    {
        writer.Write("WEBVTT\n");
        foreach (var c in captions)
            writer.Write($"\n{Time(c.Start, '.')} --> {Time(c.End, '.')}\n{(c.Speaker == null ? "" : $"<v {Plain(c.Speaker)}>")}{Plain(c.Text)}\n");
    }

    /// <summary>Writes SubRip.</summary>
    public static void WriteSrt(TextWriter writer, IReadOnlyList<Caption> captions)
    {
        for (var i = 0; i < captions.Count; i++)
            writer.Write(
                $"{i + 1}\n{Time(captions[i].Start, ',')} --> {Time(captions[i].End, ',')}\n"
                    + $"{(captions[i].Speaker is { } who ? who + ": " : "")}{captions[i].Text}\n\n"
            );
    }

    private static string Plain(string text) => text.Replace("&", "&amp;").Replace("<", "&lt;").Replace(">", "&gt;");

    private static string Time(double seconds, char point)
    {
        var ms = (long)Math.Round(seconds * 1000);
        return $"{ms / 3_600_000:00}:{ms / 60_000 % 60:00}:{ms / 1000 % 60:00}{point}{ms % 1000:000}";
    }
}
