using System.Globalization;
using System.Text.RegularExpressions;

namespace Zamblo.Core.Stage;

/// <summary>What may stand in the attributes of a drawing: what is let through is fit for every painter as it is.</summary>
internal static partial class ArtText
{
    /// <summary>Longest path, in characters: far more than a hand draws.</summary>
    public const int LongestPath = 100_000;

    /// <summary>Furthest point, in the drawing's units.</summary>
    public const float Furthest = 100_000;

    /// <summary>The hash of a file that belongs to a character: SHA-256 in small hexadecimal digits.</summary>
    public static bool IsHash(string text) => text.Length == 64 && text.All(char.IsAsciiHexDigitLower);

    /// <summary>A colour as #rrggbb.</summary>
    public static bool IsColor(string text) => ColorPattern().IsMatch(text);

    /// <summary>A name of a part: a letter, then letters, digits, "-", "_" and "."; at most 64 characters.</summary>
    public static bool IsName(string text) => NamePattern().IsMatch(text);

    /// <summary>A finite number that is not further than <see cref="Furthest"/>.</summary>
    public static bool TryNumber(ReadOnlySpan<char> text, out float value) =>
        float.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out value) && Math.Abs(value) <= Furthest;

    /// <summary>
    /// Path data by the grammar of SVG 1.1 (W3C Recommendation, second edition, 8.3.9): commands, each with whole sets of numbers, the first
    /// of them a move.
    /// </summary>
    /// <returns>What is wrong, or null.</returns>
    public static string? ErrorOfPath(string d)
    {
        if (d.Length > LongestPath)
            return $"is longer than {LongestPath} characters";
        var at = 0;
        var isFirst = true;
        while (Skip(d, ref at, false))
        {
            var command = d[at++];
            var kind = char.ToUpperInvariant(command);
            var count = kind switch
            {
                'M' or 'L' or 'T' => 2,
                'H' or 'V' => 1,
                'S' or 'Q' => 4,
                'C' => 6,
                'A' => 7,
                'Z' => 0,
                _ => -1,
            };
            if (count < 0)
                return $"has \"{command}\" where a command should be";
            if (isFirst && kind != 'M')
                return "does not begin with a move";
            isFirst = false;
            var taken = 0;
            while (count > 0 && Skip(d, ref at, taken > 0) && !char.IsAsciiLetter(d[at]))
            {
                // The flags of an arc are one digit each and may stand without a gap.
                var ok = kind == 'A' && taken % 7 is 3 or 4 ? d[at] is '0' or '1' && ++at > 0 : Number(d, ref at);
                if (!ok)
                    return $"has a number that cannot be read, at character {at + 1}";
                taken++;
            }
            if (count > 0 && (taken == 0 || taken % count != 0))
                return $"has {taken} numbers after \"{command}\"";
        }
        return null;
    }

    // Over blanks, and over one comma where one may stand; false at the end.
    private static bool Skip(string d, ref int at, bool comma)
    {
        for (; at < d.Length; at++)
            if (comma && d[at] == ',')
                comma = false;
            else if (d[at] is not (' ' or '\t' or '\n' or '\r' or '\f'))
                return true;
        return false;
    }

    private static bool Number(string d, ref int at)
    {
        var match = NumberPattern().Match(d, at, Math.Min(40, d.Length - at));
        if (!match.Success || match.Index != at || !TryNumber(match.ValueSpan, out _))
            return false;
        at += match.Length;
        return true;
    }

    [GeneratedRegex(@"\A#[0-9A-Fa-f]{6}\z", RegexOptions.CultureInvariant)]
    private static partial Regex ColorPattern();

    [GeneratedRegex(@"\A[A-Za-z][A-Za-z0-9_.-]{0,63}\z", RegexOptions.CultureInvariant)]
    private static partial Regex NamePattern();

    [GeneratedRegex(@"[+-]?(?:[0-9]+\.?[0-9]*|\.[0-9]+)(?:[eE][+-]?[0-9]+)?", RegexOptions.CultureInvariant)]
    private static partial Regex NumberPattern();
}
