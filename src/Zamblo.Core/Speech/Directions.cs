using System.Text.RegularExpressions;

namespace Zamblo.Core.Speech;

/// <summary>A stage direction within what a line says.</summary>
/// <param name="Start">Of its opening mark, in characters of the line.</param>
/// <param name="Length">With both marks.</param>
/// <param name="Text">Without its marks.</param>
public readonly record struct Direction(int Start, int Length, string Text);

/// <summary>
/// Directions within what a line says: "(whispering) Come.", "You came! (beat) I waited.", "[laughs]", "*sighs*". They are shown and acted, and
/// never spoken; nor are times within lyrics (<see cref="LyricTimes"/>). Parentheses that are part of a sentence stay words: "the rolls (all forty) are done".
/// </summary>
public static partial class Directions
{
    // A direction is short: longer text between marks is a sentence.
    private const int Longest = 80;

    // Beginnings of words that say what somebody does or how it is said (common practice in screenplays and captions).
    private static readonly string[] Acting =
    [
        .. (
            "laugh chuckl giggl snigger sigh sob cry cries weep cough gasp groan moan yawn sniff snort snore snoring whisper shout yell scream mutter mumbl "
            + "murmur hum clear pause beat smil frown nod shrug wink wav bow point think grin smirk breath exhal inhal hesitat stammer sing shak roll turn "
            + "aside gestur whistl grunt growl hiss hushed joyful angry angri sad happy happi afraid proud excited annoyed bored tired nervous furious "
            + "deadpan sarcas ironic quiet soft loud slow fast warm cold stern calm gentl beaming crying tear trembl shiver applau music looks looking "
            + "glanc stares staring gazes gazing"
        ).Split(' '),
    ];

    /// <summary>The directions in a line, in order.</summary>
    public static IReadOnlyList<Direction> In(string text)
    {
        if (text.AsSpan().IndexOfAny("([*<") < 0)
            return [];
        var found = new List<Direction>();
        var spokenBefore = false;
        var at = 0;
        while (at < text.Length)
        {
            if (text[at] is '[' or '<' && LyricTimes.LengthAt(text, at) is var time and > 0)
            {
                found.Add(new Direction(at, time, text[(at + 1)..(at + time - 1)]));
                at += time;
                continue;
            }
            var close = text[at] switch
            {
                '(' => ')',
                // Two of them are sounds that are written for an engine, or a note.
                '[' when (at + 1 == text.Length || text[at + 1] != '[') && (at == 0 || text[at - 1] != '[') => ']',
                '*' => '*',
                _ => '\0',
            };
            if (close != '\0' && Closing(text, at, close) is var end and > 0 && IsDirection(text, at, end, spokenBefore))
            {
                found.Add(new Direction(at, end - at + 1, text[(at + 1)..end].Trim()));
                at = end + 1;
                continue;
            }
            spokenBefore |= char.IsLetterOrDigit(text[at]);
            at++;
        }
        return found;
    }

    /// <summary>
    /// What is spoken of a line: directions and marks of emphasis are blanks, every other character stands where it stood. Only blanks where the
    /// line is nothing but directions.
    /// </summary>
    public static string Spoken(string text)
    {
        var marks = In(text);
        if (marks.Count == 0 && !text.Contains('*'))
            return text;
        var spoken = text.ToCharArray();
        foreach (var d in marks)
            Array.Fill(spoken, ' ', d.Start, d.Length);
        for (var i = 0; i < spoken.Length; i++)
            if (spoken[i] == '*')
                spoken[i] = ' ';
        return new string(spoken);
    }

    /// <summary>The direction that a line begins with: how all of it is said; null where there is none.</summary>
    public static string? Leading(string text) =>
        In(text) is [var first, ..] && !text.AsSpan(0, first.Start).ContainsAnyExcept(" \t\n\"“'") ? first.Text : null;

    // The closing mark of what opens at a place, less than 0 where it is not closed, or too late.
    private static int Closing(string text, int open, char close)
    {
        var last = Math.Min(text.Length - 1, open + Longest + 1);
        var depth = 1;
        for (var i = open + 1; i <= last && text[i] != '\n'; i++)
            if (text[i] == close && --depth == 0)
                return i;
            else if (text[i] == text[open])
                depth++;
        return -1;
    }

    private static bool IsDirection(string text, int open, int end, bool spokenBefore)
    {
        var inner = text.AsSpan(open + 1, end - open - 1).Trim();
        if (!inner.ContainsAnyInRange('A', 'z') && !Letter().IsMatch(inner))
            return false;
        if (text[open] == '[')
            return true;
        // Stars are emphasis as well: only what somebody does is a direction.
        var acts = Acts(inner.ToString(), text[open] != '*');
        if (text[open] == '*')
            return acts;
        // A whole sentence in parentheses is said; so is an aside within a sentence, unless it tells what somebody does.
        if (inner[^1] is '.' or '!' or '?' && char.IsUpper(inner[0]))
            return false;
        return acts || !spokenBefore || (EndsSentence(text.AsSpan(0, open)) && inner.Count(' ') < 6);
    }

    private static bool Acts(string inner, bool byAdverb)
    {
        foreach (var word in Word().Matches(inner).Select(m => m.Value.ToLowerInvariant()))
            if (
                Array.Exists(Acting, a => word.StartsWith(a, StringComparison.Ordinal))
                || (byAdverb && word.Length > 4 && word.EndsWith("ly", StringComparison.Ordinal))
            )
                return true;
        return false;
    }

    private static bool EndsSentence(ReadOnlySpan<char> before)
    {
        before = before.TrimEnd().TrimEnd("\"”’')]*");
        return before.Length > 0 && before[^1] is '.' or '!' or '?' or '…' or ':' or ';' or '-' or '–' or '—';
    }

    [GeneratedRegex(@"\p{L}")]
    private static partial Regex Letter();

    [GeneratedRegex(@"\p{L}+")]
    private static partial Regex Word();
}
