using System.Text.RegularExpressions;

namespace Zamblo.Core.Interchange;

/// <summary>One speech of a screenplay.</summary>
/// <param name="Role">Role name as written, without extensions such as (V.O.).</param>
/// <param name="Text">What is said, on one line.</param>
/// <param name="Parenthetical">How, or null.</param>
/// <param name="Scene">Number of the scene heading above it, from 0.</param>
public sealed record ScreenplayLine(string Role, string Text, string? Parenthetical, int Scene);

/// <summary>A screenplay as far as it is spoken.</summary>
/// <param name="Title">From the title page, or null.</param>
/// <param name="Scenes">Scene headings in order; at least one, empty when there is none.</param>
/// <param name="Lines">Speeches in order.</param>
/// <param name="Problems">What could not be understood, with line numbers from 1.</param>
public sealed record Screenplay(string? Title, IReadOnlyList<string> Scenes, IReadOnlyList<ScreenplayLine> Lines, IReadOnlyList<string> Problems)
{
    // A row that is longer, in characters, is no role's name with its direction.
    private const int LongestCue = 200;

    // In a caption row that is longer nobody looks for markup.
    private const int LongestCaption = 5000;

    private static readonly Regex Heading = new(@"^(\.(?!\.)|(INT|EXT|EST|INT\./EXT|INT/EXT|I/E)[. ])", RegexOptions.IgnoreCase);

    /// <summary>Reads a script in any of the forms that are understood: Fountain, "NAME: words", and captions with speakers (WebVTT, SubRip).</summary>
    public static Screenplay Read(string text)
    {
        text = text.TrimStart('\uFEFF');
        return
            text.TrimStart().StartsWith("WEBVTT", StringComparison.Ordinal)
            || Regex.IsMatch(text, @"\A\s*(\d+\s*\n)?\s*[\d:]+[.,]\d{3}\s*-->", RegexOptions.NonBacktracking)
            ? FromCaptions(text)
            : Parse(text);
    }

    // WebVTT names a speaker in a voice span, "<v Maro>"; SubRip has no form for it, and people write "MARO: words" (common practice).
    private static Screenplay FromCaptions(string text)
    {
        var rows = text.ReplaceLineEndings("\n").Split('\n');
        var lines = new List<ScreenplayLine>();
        var problems = new List<string>();
        var speaker = "";
        for (var i = 0; i < rows.Length; i++)
        {
            if (!rows[i].Contains("-->"))
                continue;
            var said = new List<(string Role, string Text)>();
            var at = i + 1;
            for (i++; i < rows.Length && rows[i].Trim().Length > 0; i++)
            {
                var row = rows[i].Trim();
                var voice = Regex.Match(row, @"^<v(?:\.[^ >]*)*\s+([^>]+)>", RegexOptions.NonBacktracking);
                var inline = Regex.Match(row, @"^-?\s*([\p{L}][\p{L}\p{N} .'_-]{0,30}):\s+(.+)$");
                if (voice.Success)
                    speaker = voice.Groups[1].Value.Trim();
                else if (inline.Success)
                    (speaker, row) = (inline.Groups[1].Value.Trim(), inline.Groups[2].Value);
                row = Regex
                    .Replace(
                        (row.Length > LongestCaption ? row : Regex.Replace(row, "<[^>]*>|\\{[^}]*\\}", ""))
                            .Replace("&lt;", "<")
                            .Replace("&gt;", ">")
                            .Replace("&nbsp;", " ")
                            .Replace("&amp;", "&"),
                        @"^\s*-\s*",
                        ""
                    )
                    .Trim();
                if (row.Length > 0)
                    said.Add((speaker, row));
            }
            if (said.Count > 0 && speaker.Length == 0)
            {
                problems.Add($"Line {at + 1}: nobody is named who says this; it is given to \"Speaker\".");
                speaker = "Speaker";
            }
            foreach (var (role, words) in said)
            {
                var who = role.Length == 0 ? speaker : role;
                // Captions cut sentences: what goes on in the next one belongs to the same line.
                if (lines.Count > 0 && lines[^1].Role == who && lines[^1].Text.Length < 300 && lines[^1].Text[^1] is not ('.' or '!' or '?' or '…'))
                    lines[^1] = lines[^1] with { Text = lines[^1].Text + " " + words };
                else
                    lines.Add(new ScreenplayLine(who, words, null, 0));
            }
        }
        if (lines.Count == 0)
            problems.Add("There are no captions with words in it.");
        return new Screenplay(null, [""], lines, problems);
    }

    /// <summary>
    /// Reads Fountain (the open screenplay markup, "Fountain syntax" 1.1): title page, scene headings, role names in capitals or after
    /// "@", dialogue, parentheticals, notes and boneyard; and plain "NAME: words" lines.
    /// </summary>
    public static Screenplay Parse(string text)
    {
        text = WithoutNotes(text.ReplaceLineEndings("\n"));
        var rows = text.Split('\n');
        string? title = null;
        var scenes = new List<string>();
        var lines = new List<ScreenplayLine>();
        var problems = new List<string>();
        var i = 0;
        if (Regex.IsMatch(rows[0], @"^(title|credit|author|authors|source|draft date|contact|copyright|notes):", RegexOptions.IgnoreCase))
            for (; i < rows.Length && rows[i].Trim().Length > 0; i++)
                if (rows[i].StartsWith("title:", StringComparison.OrdinalIgnoreCase))
                    title = Plain(rows[i][6..]);
        for (; i < rows.Length; i++)
        {
            var row = rows[i].Trim();
            if (row.Length == 0 || row.StartsWith('=') || row.StartsWith('#') || row.StartsWith('~'))
                continue;
            if (Heading.IsMatch(row))
            {
                scenes.Add(row.TrimStart('.'));
                continue;
            }
            if (row.StartsWith('>') || Regex.IsMatch(row, @"^[A-Z ]+TO:$"))
                continue;
            var afterBlank = i == 0 || rows[i - 1].Trim().Length == 0;
            var nextIsText = i + 1 < rows.Length && rows[i + 1].Trim().Length > 0;
            var name = row.Length > LongestCue ? "" : Regex.Replace(row.TrimStart('@'), @"\s*\([^)]*\)|\s*\^$", "").Trim();
            if (
                name.Length > 0
                && !row.StartsWith('!')
                && (row.StartsWith('@') || (afterBlank && name.Any(char.IsLetter) && !name.Any(char.IsLower) && !name.Contains(':')))
            )
            {
                if (!nextIsText)
                {
                    problems.Add($"Line {i + 1}: \"{row}\" looks like a role name, but nothing is said under it.");
                    continue;
                }
                string? how = null;
                var said = new List<string>();
                var first = i + 1;
                for (i++; i < rows.Length && rows[i].Trim().Length > 0; i++)
                {
                    var speech = rows[i].Trim();
                    if (speech.StartsWith('(') && speech.EndsWith(')'))
                    {
                        // A parenthetical in the middle of a speech starts a new line with its own delivery.
                        if (said.Count > 0)
                        {
                            lines.Add(new ScreenplayLine(name, Plain(string.Join(' ', said)), how, Math.Max(0, scenes.Count - 1)));
                            said.Clear();
                        }
                        how = speech[1..^1].Trim();
                    }
                    else
                        said.Add(speech);
                }
                if (said.Count > 0)
                    lines.Add(new ScreenplayLine(name, Plain(string.Join(' ', said)), how, Math.Max(0, scenes.Count - 1)));
                else
                    problems.Add($"Line {first}: {name} has a direction but says nothing.");
                continue;
            }
            var inline = Regex.Match(row, @"^([\p{L}][\p{L}\p{N} .'_-]{0,30}):\s+(.+)$");
            if (inline.Success)
                lines.Add(new ScreenplayLine(inline.Groups[1].Value.Trim(), Plain(inline.Groups[2].Value), null, Math.Max(0, scenes.Count - 1)));
            // Everything else is action: seen by the reader, not spoken.
        }
        if (scenes.Count == 0)
            scenes.Add("");
        if (lines.Count == 0)
            problems.Add("There is no dialogue: write a role name in capitals and what it says on the line below, or \"NAME: words\".");
        return new Screenplay(title, scenes, lines, problems);
    }

    // Notes ("[[", "]]") and boneyard ("/*", "*/") leave only their line ends. One that is not closed is text; each is looked for once.
    internal static string WithoutNotes(string text)
    {
        var result = new System.Text.StringBuilder(text.Length);
        var closable = (Notes: true, Boneyard: true);
        var i = 0;
        while (i < text.Length)
        {
            var isNote = closable.Notes && string.CompareOrdinal(text, i, "[[", 0, 2) == 0;
            var isBoneyard = closable.Boneyard && string.CompareOrdinal(text, i, "/*", 0, 2) == 0;
            var end = isNote || isBoneyard ? text.IndexOf(isNote ? "]]" : "*/", i + 2, StringComparison.Ordinal) : -1;
            if (end >= 0)
            {
                result.Append('\n', text.AsSpan(i, end - i).Count('\n'));
                i = end + 2;
                continue;
            }
            if (isNote)
                closable.Notes = false;
            else if (isBoneyard)
                closable.Boneyard = false;
            result.Append(text[i++]);
        }
        return result.ToString();
    }

    /// <summary>
    /// Writes Fountain that reads back as the same: title, headings (forced with a point), roles (after "@" where they are not in capitals),
    /// directions, words.
    /// </summary>
    public void WriteFountain(TextWriter writer)
    {
        // What Fountain would take for emphasis is escaped.
        static string Escaped(string text) => Regex.Replace(text.ReplaceLineEndings(" "), @"[*_\\]", m => "\\" + m.Value);
        if (Title != null)
            writer.Write($"Title: {Escaped(Title)}\n\n");
        var scene = -1;
        foreach (var line in Lines)
        {
            for (; scene < line.Scene; scene++)
                if (Scenes.ElementAtOrDefault(scene + 1) is { Length: > 0 } heading)
                    writer.Write($"{(Heading.IsMatch(heading) ? "" : ".")}{heading.ReplaceLineEndings(" ")}\n\n");
            writer.Write($"{(line.Role.Any(char.IsLower) || !line.Role.Any(char.IsLetter) ? "@" : "")}{line.Role}\n");
            if (line.Parenthetical != null)
                writer.Write($"({line.Parenthetical})\n");
            writer.Write($"{Escaped(line.Text)}\n\n");
        }
    }

    private static string Plain(string text) => Regex.Replace(Regex.Replace(text, @"(?<!\\)[*_]+", ""), @"\\(.)", "$1").Trim();
}
