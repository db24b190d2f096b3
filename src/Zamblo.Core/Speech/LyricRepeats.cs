using System.Globalization;
using System.Text.RegularExpressions;

namespace Zamblo.Core.Speech;

/// <summary>
/// Lyrics with their repeats written out. What is sung several times is often written once (common practice of lyric sheets and LRC files): a heading
/// stands alone where its part comes back, "[Refrain]"; "(x2)" stands behind a row or under a part; a row has several times, "[00:12.00][01:15.00] words".
/// </summary>
public static partial class LyricRepeats
{
    // More of the same than this is a mistake.
    private const int Most = 8;

    // What a part of a song that comes back is called, in the languages that we read (from memory), with a number perhaps.
    private const string Parts =
        "refrain|chorus|hook|bridge|verse|pre-?chorus|post-?chorus|intro|outro|interlude|kehrreim|kehrvers|strophe|estribillo|coro|puente|estrofa|couplet|pont"
        + "|ritornello|strofa|ponte|refrão|refrein|brug|refren|zwrotka|припев|куплет";

    /// <summary>The same text with every repeat in its place; the very text where nothing is repeated.</summary>
    /// <param name="text">With directions and times.</param>
    public static string WrittenOut(string text)
    {
        if (!text.Contains('\n') && !Times().IsMatch(text) && !Count().IsMatch(text))
            return text;
        string[] rows = text.ReplaceLineEndings("\n").Split('\n');
        var written = Repeated(InTime(rows));
        return written.SequenceEqual(rows) ? text : string.Join('\n', written);
    }

    /// <summary>The same text with rows that are sung again in their places.</summary>
    /// <param name="text">With directions.</param>
    /// <param name="repeats">Rows of what is spoken of it (<see cref="SpeechQuery.Of"/>).</param>
    public static string WithSung(string text, IReadOnlyList<SungRepeat> repeats)
    {
        string[] rows = text.ReplaceLineEndings("\n").Split('\n');
        // Rows before the first that is spoken are none of the script's.
        var spoken = Directions.Spoken(string.Join('\n', rows));
        var before = spoken.AsSpan(0, spoken.Length - spoken.TrimStart().Length).Count('\n');
        var written = new List<string>();
        for (var i = 0; i < rows.Length; i++)
        {
            written.Add(rows[i]);
            foreach (var repeat in repeats.Where(r => r.After + before == i))
            {
                if (rows.Any(r => r.Trim().Length == 0))
                    written.Add("");
                written.AddRange(rows.Skip(repeat.First + before).Take(repeat.Last - repeat.First + 1));
            }
        }
        return string.Join('\n', written);
    }

    // Rows of several times stand at each of them, and rows with times in their order; what has none stays behind the row before it.
    private static IReadOnlyList<string> InTime(string[] rows)
    {
        if (!rows.Any(r => Times().Match(r).Groups[1].Captures.Count > 1))
            return rows;
        var timed = new List<(double Time, List<string> Rows)> { (double.NegativeInfinity, []) };
        foreach (var row in rows)
        {
            var match = Times().Match(row);
            var captures = match.Groups[1].Captures;
            if (captures.Count == 0)
            {
                timed[^1].Rows.Add(row);
                continue;
            }
            foreach (var (mark, time) in captures.Select(c => (c.Value, LyricTimes.In(c.Value)[0].Time)))
                timed.Add((time, [$"{mark} {row[match.Length..].Trim()}".TrimEnd()]));
        }
        return [.. timed.OrderBy(t => t.Time).SelectMany(t => t.Rows)];
    }

    private static List<string> Repeated(IReadOnlyList<string> rows)
    {
        var written = new List<string>();
        var parts = new Dictionary<string, List<string>>(StringComparer.OrdinalIgnoreCase);
        // The rows since the last blank one or heading.
        var part = new List<string>();
        for (var i = 0; i < rows.Count; i++)
        {
            var row = rows[i];
            if (Heading(row) is { } heading)
            {
                List<string> own = [.. rows.Skip(i + 1).TakeWhile(r => IsSung(r) && CountAlone(r) == null)];
                i += own.Count;
                part = [.. own.SelectMany(Counted)];
                if (part.Count > 0 && Bare(part[0]) == part[0])
                    part[0] = (heading.Time + part[0]).Trim();
                written.Add($"[{heading.Name}]");
                if (own.Count > 0)
                {
                    parts[heading.Name] = part;
                    written.AddRange(part);
                }
                else if (parts.TryGetValue(heading.Name, out var known))
                    // Sung at another time than it was.
                    AddAgain(known, heading.Time);
                for (var n = 1; n < heading.Count; n++)
                    AddAgain(parts.GetValueOrDefault(heading.Name, []));
                continue;
            }
            if (CountAlone(row) is { } count && part.Count > 0)
            {
                // The part above it.
                for (var n = 1; n < count; n++)
                    AddAgain(part);
                continue;
            }
            var said = Counted(row);
            written.AddRange(said);
            if (IsSung(row))
                part.AddRange(said);
            else
                part = [];
        }
        return written;

        void AddAgain(List<string> again, string time = "") => written.AddRange(again.Select((r, n) => n == 0 ? (time + Bare(r)).Trim() : Bare(r)));
    }

    // A row as often as it says.
    private static IEnumerable<string> Counted(string row)
    {
        var count = Count().Match(row);
        if (!count.Success || CountAlone(row) != null)
            return [row];
        var once = row[..count.Index].TrimEnd();
        return [once, .. Enumerable.Repeat(Bare(once), Number(count) - 1)];
    }

    // How often what stands above a row is sung that says nothing else.
    private static int? CountAlone(string row) => Count().Match(row) is { Success: true } count && Bare(row[..count.Index]).Length == 0 ? Number(count) : null;

    // Its time is that of the first.
    private static string Bare(string row) => Times().Replace(row, "").Trim();

    private static bool IsSung(string row) => row.Trim().Length > 0 && Heading(row) == null;

    private static (string Name, int Count, string Time)? Heading(string row)
    {
        var time = Times().Match(row).Value;
        var found = PartName().Match(row, time.Length);
        return found.Success ? (found.Groups["name"].Value, found.Groups["count"].Success ? Number(found.Groups["count"]) : 1, time) : null;
    }

    private static int Number(Group count) => Math.Clamp(int.Parse(Figure().Match(count.Value).Value, CultureInfo.InvariantCulture), 1, Most);

    // Several times at the front of a row.
    [GeneratedRegex(@"^\s*(?:(\[\d{1,3}:\d{2}(?:[.:]\d{1,3})?\])\s*)+")]
    private static partial Regex Times();

    // "(x2)", "(2x)", "[×2]" at the end of a row.
    [GeneratedRegex(@"[(\[]\s*(?:[x×]\s*\d{1,2}|\d{1,2}\s*[x×])\s*[)\]]\s*$", RegexOptions.IgnoreCase)]
    private static partial Regex Count();

    [GeneratedRegex(@"\d{1,2}")]
    private static partial Regex Figure();

    // "[Refrain]", "(Chorus)", "Refrain:", "[Chorus x2]", "[Refrain] (2x)".
    [GeneratedRegex(
        @"\G\s*(?:[\[(]\s*(?<name>(?:"
            + Parts
            + @")(?:\s+\d{1,2})?)\s*:?(?<count>\s*[,–-]?\s*(?:[x×]\s*\d{1,2}|\d{1,2}\s*[x×]))?\s*[\])]\s*:?"
            + @"|(?<name>(?:"
            + Parts
            + @")(?:\s+\d{1,2})?)\s*:)"
            + @"(?<count>\s*[(\[]\s*(?:[x×]\s*\d{1,2}|\d{1,2}\s*[x×])\s*[)\]])?\s*$",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex PartName();
}
