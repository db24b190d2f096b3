using System.Globalization;
using System.Text.RegularExpressions;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Interchange;

/// <summary>Words and phones in time that come from elsewhere: a phonetician's, or another aligner's.</summary>
public static partial class SpeechTimes
{
    private sealed record Interval(double Start, double End, string Text);

    /// <summary>Reads Praat's TextGrid, long or short, or CSV with start, end, phone and, if wanted, word.</summary>
    /// <param name="text">The file.</param>
    /// <param name="now">The analysis so far: its length holds, and its words where the file has none.</param>
    /// <exception cref="FormatException">It is neither, or it belongs to another recording; the message says what is wrong.</exception>
    public static SpeechAnalysis Read(string text, SpeechAnalysis now)
    {
        text = text.TrimStart('\uFEFF', ' ', '\r', '\n');
        var (words, phones) =
            text.StartsWith("File type", StringComparison.OrdinalIgnoreCase) || text.StartsWith("\"ooTextFile\"", StringComparison.Ordinal)
                ? ReadTextGrid(text)
                : ReadCsv(text);
        var last = phones.Max(p => p.End);
        if (last > now.Duration + 0.25)
            throw new FormatException(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"The times run to {last:0.00} s, but the take is {now.Duration:0.00} s long: they belong to another recording."
                )
            );
        var segments = new List<PhoneSegment>();
        double at = 0;
        foreach (var p in phones.OrderBy(p => p.Start))
        {
            if (p.End <= p.Start)
                continue;
            if (p.Start < at - 0.001)
                throw new FormatException(
                    string.Create(CultureInfo.InvariantCulture, $"The phone \"{p.Text}\" at {p.Start:0.000} s starts before the one ahead of it ends.")
                );
            if (p.Start > at + 1e-6)
                segments.Add(new PhoneSegment(Arpabet.Silence, at, p.Start));
            var names = Phones(p.Text);
            for (var k = 0; k < names.Length; k++)
                segments.Add(new PhoneSegment(names[k], p.Start + (p.End - p.Start) * k / names.Length, p.Start + (p.End - p.Start) * (k + 1) / names.Length));
            at = p.End;
        }
        var named = words
            ?.Where(w => w.Text.Length > 0 && w.End > w.Start && !IsPause(w.Text))
            .OrderBy(w => w.Start)
            .Select(w => new WordSegment(w.Text, w.Start, Math.Min(w.End, now.Duration)))
            .ToArray();
        return new SpeechAnalysis(now.Duration, SegmentLists.Tidy(segments, now.Duration), named ?? now.Words, now.LevelsDb, SpeechSource.Engine)
        {
            PitchHz = now.PitchHz,
            Sounds = now.Sounds == null ? null : VocalSounds.Without(now.Sounds, segments.Where(p => !Arpabet.IsSilent(p.Phone)).Select(p => (p.Start, p.End))),
        };
    }

    private static string[] Phones(string label)
    {
        if (IsPause(label))
            return [Arpabet.Silence];
        var plain = label.ToUpperInvariant().TrimEnd('0', '1', '2');
        if (Arpabet.Phones.Contains(plain))
            return [plain];
        var ipa = Ipa.ToArpabet(label);
        return ipa.Length > 0 ? ipa : throw new FormatException($"\"{label}\" is no phone of ARPAbet or IPA.");
    }

    // What aligners write for a pause (common practice).
    private static bool IsPause(string label) =>
        label.Trim().ToLowerInvariant() is "" or "sil" or "sp" or "spn" or "pau" or "#" or "_" or "<p:>" or "<sil>" or "h#" or "nsn";

    private static (List<Interval>? Words, List<Interval> Phones) ReadTextGrid(string text)
    {
        // The long and the short layout hold the same values in the same order; all else is for the eye.
        var tokens = Token().Matches(Bracket().Replace(text, " ")).Select(m => m.Value).ToArray();
        var at = 0;
        string Next() => at < tokens.Length ? tokens[at++] : throw new FormatException("The TextGrid ends too early.");
        double Number() =>
            double.TryParse(Next(), NumberStyles.Float, CultureInfo.InvariantCulture, out var n)
                ? n
                : throw new FormatException("The TextGrid has a word where a number belongs.");
        string Label() =>
            Next() is var t && t.StartsWith('"')
                ? t[1..^1].Replace("\"\"", "\"")
                : throw new FormatException("The TextGrid has a number where a label belongs.");
        if (Label() != "ooTextFile" || Label() != "TextGrid")
            throw new FormatException("This is not a TextGrid.");
        Number();
        Number();
        Next();
        var tiers = new List<(string Name, List<Interval> Intervals)>();
        for (var n = (int)Number(); n > 0; n--)
        {
            var isInterval = Label() == "IntervalTier";
            var name = Label();
            Number();
            Number();
            var intervals = new List<Interval>();
            for (var i = (int)Number(); i > 0; i--)
                if (isInterval)
                    intervals.Add(new Interval(Number(), Number(), Label()));
                else
                {
                    Number();
                    Label();
                }
            if (isInterval)
                tiers.Add((name.ToLowerInvariant(), intervals));
        }
        var phones =
            tiers
                .FirstOrDefault(t => t.Name.Contains("phon", StringComparison.Ordinal) || t.Name.Contains("seg", StringComparison.Ordinal) || t.Name is "mau")
                .Intervals
            ?? (tiers.Count == 1 ? tiers[0].Intervals : null);
        if (phones is not { Count: > 0 })
            throw new FormatException("The TextGrid has no interval tier named \"phones\".");
        return (
            tiers.FirstOrDefault(t => t.Name.Contains("word", StringComparison.Ordinal) || t.Name.StartsWith("ort", StringComparison.Ordinal)).Intervals,
            phones
        );
    }

    private static (List<Interval>? Words, List<Interval> Phones) ReadCsv(string text)
    {
        var rows = text.Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(l => l.Trim('\r', ' ')).Where(l => l.Length > 0).ToArray();
        var cut =
            rows.Length > 0 && rows[0].Contains('\t') ? '\t'
            : rows.Length > 0 && rows[0].Contains(';') ? ';'
            : ',';
        var head = rows.Length > 0 ? rows[0].ToLowerInvariant().Split(cut).Select(c => c.Trim('"', ' ')).ToArray() : [];
        var hasHead = head.Contains("start");
        int start = hasHead ? Array.IndexOf(head, "start") : 0,
            end = hasHead ? Array.IndexOf(head, "end") : 1,
            phone = hasHead ? Array.IndexOf(head, "phone") : 2,
            word = hasHead ? Array.IndexOf(head, "word") : 3;
        if (start < 0 || end < 0 || phone < 0)
            throw new FormatException("This is neither a TextGrid nor CSV with the columns start, end and phone.");
        var phones = new List<Interval>();
        var words = new List<Interval>();
        for (var r = hasHead ? 1 : 0; r < rows.Length; r++)
        {
            var cells = rows[r].Split(cut).Select(c => c.Trim('"', ' ')).ToArray();
            if (
                cells.Length <= Math.Max(phone, Math.Max(start, end))
                || !double.TryParse(cells[start], NumberStyles.Float, CultureInfo.InvariantCulture, out var from)
                || !double.TryParse(cells[end], NumberStyles.Float, CultureInfo.InvariantCulture, out var to)
            )
                throw new FormatException(
                    r == 0
                        ? "This is neither a TextGrid nor CSV with the columns start, end and phone."
                        : $"Line {r + 1} is not \"start, end, phone\" with the times in seconds."
                );
            phones.Add(new Interval(from, to, cells[phone]));
            if (word < 0 || cells.Length <= word || cells[word].Length == 0)
                continue;
            if (words.Count > 0 && words[^1].Text == cells[word] && Math.Abs(words[^1].End - from) < 0.002)
                words[^1] = words[^1] with { End = to };
            else
                words.Add(new Interval(from, to, cells[word]));
        }
        if (phones.Count == 0)
            throw new FormatException("There are no times in this file.");
        return (words.Count > 0 ? words : null, phones);
    }

    [GeneratedRegex("\"(?:[^\"]|\"\")*\"|<[a-z]+>|(?<![\\w.])[-+]?\\d+(?:\\.\\d+)?(?:[eE][-+]?\\d+)?(?![\\w.])")]
    private static partial Regex Token();

    [GeneratedRegex(@"\[\d*\]")]
    private static partial Regex Bracket();
}
