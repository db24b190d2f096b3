using System.Globalization;
using System.Text;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Interchange;

/// <summary>
/// Praat's long TextGrid (Boersma and Weenink, Praat manual, "TextGrid file formats"), with the interval tiers <c>words</c> and <c>phones</c>.
/// </summary>
public static class TextGrid
{
    /// <summary>Writes an analysis; silence is an interval without a label.</summary>
    public static void Write(TextWriter writer, SpeechAnalysis speech)
    {
        writer.Write(
            $"File type = \"ooTextFile\"\nObject class = \"TextGrid\"\n\nxmin = 0 \nxmax = {N(speech.Duration)} \ntiers? <exists> \nsize = 2 \nitem []: \n"
        );
        var words = new List<(double Start, double End, string Text)>();
        double at = 0;
        foreach (var w in speech.Words)
        {
            // Words may touch but not overlap; what is left between them is silence.
            var start = Math.Max(at, w.Start);
            if (w.End <= start + 1e-9)
                continue;
            if (start > at + 1e-9)
                words.Add((at, start, ""));
            words.Add((start, w.End, w.Text));
            at = w.End;
        }
        if (speech.Duration > at + 1e-9)
            words.Add((at, speech.Duration, ""));
        Tier(writer, 1, "words", speech.Duration, words);
        Tier(writer, 2, "phones", speech.Duration, [.. speech.Phones.Select(p => (p.Start, p.End, Arpabet.IsSilent(p.Phone) ? "" : p.Phone))]);
    }

    private static void Tier(TextWriter writer, int number, string name, double duration, List<(double Start, double End, string Text)> intervals)
    {
        writer.Write(
            $"    item [{number}]:\n        class = \"IntervalTier\" \n        name = \"{name}\" \n        xmin = 0 \n        xmax = "
                + $"{N(duration)} \n        intervals: size = {intervals.Count} \n"
        );
        for (var i = 0; i < intervals.Count; i++)
            writer.Write(
                $"        intervals [{i + 1}]:\n            xmin = {N(intervals[i].Start)} \n            xmax = {N(intervals[i].End)} \n       "
                    + $"     text = \"{intervals[i].Text.Replace("\"", "\"\"")}\" \n"
            );
    }

    private static string N(double value) => value.ToString("0.######", CultureInfo.InvariantCulture);
}
