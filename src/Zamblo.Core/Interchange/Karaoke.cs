using System.Globalization;
using System.Text;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Interchange;

/// <summary>A row of words that stand together, said by somebody.</summary>
/// <param name="Speaker">Who; empty where nobody is named.</param>
/// <param name="Ink">Colour of that one, #rrggbb.</param>
/// <param name="Words">As they are written, with their times in seconds.</param>
public sealed record KaraokeRow(string Speaker, string Ink, IReadOnlyList<WordSegment> Words);

/// <summary>
/// Words that are lit as they are said, in the Advanced SubStation Alpha format (script type v4.00+: styles, events, and the override <c>\k</c> with
/// hundredths of a second; from memory).
/// </summary>
public static class Karaoke
{
    // The row is there a little before its first word and stays a little, in seconds (common practice).
    private const double Before = 0.3,
        After = 0.4;

    // Not yet said, as ASS writes it: blue, green, red.
    private const string Waiting = "&H00A0A0A0";

    /// <summary>Writes a file.</summary>
    /// <param name="writer">Where to.</param>
    /// <param name="title">Of the film.</param>
    /// <param name="width">Of the picture.</param>
    /// <param name="height">Of the picture.</param>
    /// <param name="rows">In order of their first words.</param>
    public static void Write(TextWriter writer, string title, int width, int height, IReadOnlyList<KaraokeRow> rows)
    {
        // Names in styles have no commas: a comma ends a field.
        var speakers = rows.Select(r => (r.Speaker, r.Ink)).Distinct().ToArray();
        string StyleOf(KaraokeRow r) => $"Speaker{Array.IndexOf(speakers, (r.Speaker, r.Ink)) + 1}";
        writer.Write($"[Script Info]\nTitle: {OneRow(title)}\nScriptType: v4.00+\nPlayResX: {width}\nPlayResY: {height}\n");
        writer.Write("WrapStyle: 0\nScaledBorderAndShadow: yes\n\n");
        writer.Write("[V4+ Styles]\nFormat: Name, Fontname, Fontsize, PrimaryColour, SecondaryColour, OutlineColour, BackColour, Bold, Italic, ");
        writer.Write("Underline, StrikeOut, ScaleX, ScaleY, Spacing, Angle, BorderStyle, Outline, Shadow, Alignment, MarginL, MarginR, MarginV, Encoding\n");
        var size = Math.Max(12, height / 18);
        for (var i = 0; i < speakers.Length; i++)
            writer.Write(
                $"Style: Speaker{i + 1},Sans,{size},{Bgr(speakers[i].Ink)},{Waiting},&H00FFFFFF,&H80000000,-1,0,0,0,100,100,0,0,1,{size / 12},0,2,"
                    + $"{width / 20},{width / 20},{height / 20},1\n"
            );
        writer.Write("\n[Events]\nFormat: Layer, Start, End, Style, Name, MarginL, MarginR, MarginV, Effect, Text\n");
        for (var i = 0; i < rows.Count; i++)
        {
            var words = rows[i].Words;
            if (words.Count == 0)
                continue;
            // Never over the row before or after it.
            double from = Math.Max(0, words[0].Start - Before),
                to = words[^1].End + After;
            if (i > 0 && rows[i - 1].Words is { Count: > 0 } before)
                from = Math.Min(words[0].Start, Math.Max(from, before[^1].End));
            if (i + 1 < rows.Count && rows[i + 1].Words is { Count: > 0 } next)
                to = Math.Max(words[^1].End, Math.Min(to, next[0].Start));
            var text = new StringBuilder();
            // Rounded against the start of the row, so that nothing adds up.
            long Until(double t) => (long)Math.Round(100 * (t - from));
            long told = 0;
            for (var k = 0; k < words.Count; k++)
            {
                var w = words[k];
                if (Until(w.Start) - told is > 0 and var gap)
                {
                    text.Append(CultureInfo.InvariantCulture, $"{{\\k{gap}}}");
                    told += gap;
                }
                var length = Math.Max(0, Until(w.End) - told);
                text.Append(
                    CultureInfo.InvariantCulture,
                    $"{{\\k{length}}}{Plain(w.Text)}{(k + 1 < words.Count && WordSpacing.HasSpace(w.Text, words[k + 1].Text) ? " " : "")}"
                );
                told += length;
            }
            var name = OneRow(rows[i].Speaker).Replace(',', ' ');
            writer.Write($"Dialogue: 0,{Time(from)},{Time(to)},{StyleOf(rows[i])},{name},0,0,0,,{text.ToString().TrimEnd()}\n");
        }
    }

    private static string OneRow(string text) => text.ReplaceLineEndings(" ");

    // Braces begin overrides, a backslash escapes.
    private static string Plain(string text) => OneRow(text).Replace('{', '(').Replace('}', ')').Replace('\\', '/');

    private static string Bgr(string ink) => ink.Length == 7 ? $"&H00{ink[5..7]}{ink[3..5]}{ink[1..3]}".ToUpperInvariant() : "&H00FFFFFF";

    private static string Time(double seconds)
    {
        var hundredths = (long)Math.Round(seconds * 100);
        return $"{hundredths / 360_000}:{hundredths / 6000 % 60:00}:{hundredths / 100 % 60:00}.{hundredths % 100:00}";
    }
}
