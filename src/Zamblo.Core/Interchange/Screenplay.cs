using System.Text.RegularExpressions;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Interchange;

/// <summary>One speech of a screenplay.</summary>
/// <param name="Role">Role name as written, without extensions such as (V.O.).</param>
/// <param name="Text">What is said, on one line.</param>
/// <param name="Parenthetical">How, or null.</param>
/// <param name="Scene">Number of the scene heading above it, from 0.</param>
/// <param name="Row">Where it stands in the script, from 1.</param>
/// <param name="IsOffStage">Heard, not seen: (V.O.), (O.S.).</param>
public sealed record ScreenplayLine(string Role, string Text, string? Parenthetical, int Scene, int Row = 0, bool IsOffStage = false)
{
    /// <summary>Said while the speech before is said: dual dialogue, "NAME ^".</summary>
    public bool IsTogether { get; init; }

    /// <summary>The words with the direction in front of them, as a line keeps them.</summary>
    public string WithDirection => Parenthetical == null ? Text : $"({Parenthetical}) {Text}";
}

/// <summary>A row of a script that nobody says.</summary>
/// <param name="Row">Where it stands, from 1.</param>
/// <param name="Kind">"action", "heading", "transition", "note" or "lyric".</param>
/// <param name="Text">As written.</param>
public sealed record UnspokenRow(int Row, string Kind, string Text);

/// <summary>A screenplay as far as it is spoken.</summary>
/// <param name="Title">From the title page, or null.</param>
/// <param name="Scenes">Scene headings in order; at least one, empty when there is none.</param>
/// <param name="Lines">Speeches in order.</param>
/// <param name="Problems">What could not be understood, with line numbers from 1.</param>
public sealed partial record Screenplay(string? Title, IReadOnlyList<string> Scenes, IReadOnlyList<ScreenplayLine> Lines, IReadOnlyList<string> Problems)
{
    /// <summary>Rows that nobody says, so that none is left out in silence.</summary>
    public IReadOnlyList<UnspokenRow> Unspoken { get; init; } = [];

    /// <summary>Scenes that come out of black (FADE IN:) or go into it (FADE OUT., FADE TO BLACK.), by their index.</summary>
    public IReadOnlyDictionary<int, (bool In, bool Out)> Fades { get; init; } = new Dictionary<int, (bool, bool)>();

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
                    lines.Add(new ScreenplayLine(who, words, null, 0, at + 1));
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
        var unspoken = new List<UnspokenRow>();
        void Leave(int at, string kind) => unspoken.Add(new UnspokenRow(at + 1, kind, rows[at].Trim()));
        var fades = new Dictionary<int, (bool In, bool Out)>();
        void Fade(string how)
        {
            var scene = Math.Max(0, scenes.Count - 1);
            if (how.Contains("FADE OUT", StringComparison.Ordinal) || how.Contains("TO BLACK", StringComparison.Ordinal))
                fades[scene] = (fades.GetValueOrDefault(scene).In, true);
            else if (how.Contains("FADE IN", StringComparison.Ordinal))
            {
                // Before the heading that it belongs to, or after it.
                var next = scenes.Count > 0 && lines.Count > 0 && lines[^1].Scene == scene ? scene + 1 : scene;
                fades[next] = (true, fades.GetValueOrDefault(next).Out);
            }
        }
        var cueAt = 0;
        void Say(string cue, string? how, string words, int at)
        {
            var (role, direction) = Cue(cue);
            var text = Plain(words);
            if (!Directions.Spoken(text).Any(char.IsLetterOrDigit))
                problems.Add($"Line {at + 1}: {role} says nothing here but a direction.");
            else
            {
                var scene = Math.Max(0, scenes.Count - 1);
                // Of a speech in several pieces only the first goes with what is said before it.
                var isFirst = lines.Count == 0 || lines[^1].Role != role || lines[^1].Row < cueAt;
                lines.Add(
                    new ScreenplayLine(role, text, how ?? direction, scene, at + 1, OffStage().IsMatch(cue))
                    {
                        IsTogether = cue.EndsWith('^') && isFirst && lines.Count > 0 && lines[^1].Scene == scene,
                    }
                );
            }
        }
        for (; i < rows.Length; i++)
        {
            var row = rows[i].Trim();
            if (row.Length == 0)
                continue;
            if (row[0] is '=' or '#' or '~')
            {
                Leave(i, row[0] == '~' ? "lyric" : "note");
                continue;
            }
            if (Heading.IsMatch(row))
            {
                scenes.Add(row.TrimStart('.'));
                Leave(i, "heading");
                continue;
            }
            if (row.StartsWith('>') || Transition().IsMatch(row))
            {
                Leave(i, "transition");
                Fade(row.ToUpperInvariant());
                continue;
            }
            if (row.StartsWith('!'))
            {
                Leave(i, "action");
                continue;
            }
            var afterBlank = i == 0 || rows[i - 1].Trim().Length == 0;
            var nextIsText = i + 1 < rows.Length && rows[i + 1].Trim().Length > 0;
            if (row.StartsWith('@') || (afterBlank && row.Length <= LongestCue && IsCue(row)))
            {
                if (!nextIsText)
                {
                    problems.Add($"Line {i + 1}: \"{row}\" looks like a role name, but nothing is said under it.");
                    continue;
                }
                string? how = null;
                cueAt = i + 1;
                var said = new List<string>();
                var (first, from) = (i + 1, i + 1);
                var says = false;
                for (i++; i < rows.Length && rows[i].Trim().Length > 0; i++)
                {
                    var speech = rows[i].Trim().TrimStart('~');
                    if (speech.StartsWith('(') && speech.EndsWith(')'))
                    {
                        // A parenthetical in the middle of a speech starts a new line with its own delivery.
                        if (said.Count > 0)
                            Say(row, how, string.Join(' ', said), from);
                        (says, from) = (says || said.Count > 0, i);
                        said.Clear();
                        how = speech[1..^1].Trim();
                    }
                    else
                    {
                        from = said.Count == 0 ? i : from;
                        said.Add(speech);
                    }
                }
                if (said.Count > 0)
                    Say(row, how, string.Join(' ', said), from);
                else
                    problems.Add($"Line {(says ? from + 1 : first)}: {Cue(row).Role} has a direction but says nothing{(says ? " after it" : "")}.");
                continue;
            }
            var inline = Inline().Match(row);
            if (inline.Success)
                Say(inline.Groups[1].Value, null, inline.Groups[2].Value, i);
            else
                Leave(i, "action");
        }
        if (scenes.Count == 0)
            scenes.Add("");
        if (lines.Count == 0)
            problems.Add("There is no dialogue: write a role name in capitals and what it says on the line below, or \"NAME: words\".");
        return new Screenplay(title, scenes, lines, problems) { Unspoken = unspoken, Fades = fades };
    }

    // A row that names who speaks: capitals, with whatever stands in parentheses after it.
    private static bool IsCue(string row)
    {
        var name = Extension().Replace(row, "").Trim().Replace("Mc", "MC", StringComparison.Ordinal);
        return name.Length > 0 && name.Any(char.IsLetter) && !name.Any(char.IsLower) && !name.Contains(':');
    }

    // "@McKay (V.O.) (whispering) ^": the role, and the direction where there is one; (V.O.), (O.S.), (CONT'D) are no directions.
    private static (string Role, string? Direction) Cue(string cue)
    {
        var how = Extension().Matches(cue).Select(m => m.Groups[1].Value.Trim()).FirstOrDefault(e => e.Length > 0 && !Technical().IsMatch(e));
        return (Extension().Replace(cue.TrimStart('@'), "").Trim(), how);
    }

    [GeneratedRegex(@"\s*\(([^)]*)\)|\s*\^$")]
    private static partial Regex Extension();

    // Extensions of a role name (common practice; Fountain syntax, "Character").
    [GeneratedRegex(@"^(V\.?\s?O\.?|O\.?\s?[SC]\.?|OFF|CONT['’]?D\.?|CONTINUED|ON PHONE|FILTERED)$", RegexOptions.IgnoreCase)]
    private static partial Regex Technical();

    [GeneratedRegex(@"\((V\.?\s?O\.?|O\.?\s?[SC]\.?|OFF)\)", RegexOptions.IgnoreCase)]
    private static partial Regex OffStage();

    [GeneratedRegex(@"^[A-Z ]+(TO|OUT|IN|TO BLACK)[:.]$")]
    private static partial Regex Transition();

    // "ANNA: words", "Anna (whispering): words".
    [GeneratedRegex(@"^([\p{L}][\p{L}\p{N} .'’_-]{0,30}(?:\s*\([^)]{0,80}\))?)\s*:\s+(.+)$")]
    private static partial Regex Inline();

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
            writer.Write($"{(line.Role.Any(char.IsLower) || !line.Role.Any(char.IsLetter) ? "@" : "")}{line.Role}{(line.IsTogether ? " ^" : "")}\n");
            var leading = line.Parenthetical == null && Directions.In(line.Text) is [{ Start: 0 } d, ..] ? d : default;
            if ((line.Parenthetical ?? leading.Text) is { Length: > 0 } how)
                writer.Write($"({how})\n");
            writer.Write($"{Escaped(line.Text[leading.Length..].TrimStart())}\n\n");
        }
    }

    // Emphasis goes; the stars of a direction, "*sighs*", stay.
    private static string Plain(string text)
    {
        var kept = text.ToCharArray();
        foreach (var d in Directions.In(text).Where(d => text[d.Start] == '*'))
            (kept[d.Start], kept[d.Start + d.Length - 1]) = ('[', ']');
        return Regex.Replace(Regex.Replace(new string(kept), @"(?<!\\)[*_]+", ""), @"\\(.)", "$1").Trim();
    }
}
