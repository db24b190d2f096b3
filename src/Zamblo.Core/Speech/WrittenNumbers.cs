using System.Collections.Frozen;
using System.Text.RegularExpressions;

namespace Zamblo.Core.Speech;

/// <summary>A number in a text, with its unit or money where it has one.</summary>
/// <param name="Start">In characters of the text.</param>
/// <param name="Length">With its unit.</param>
/// <param name="Reading">The same with the unit in words: digits are read by whoever pronounces the language.</param>
/// <param name="Number">How long the number is with all that is written to it without a blank, from <paramref name="Start"/> on.</param>
/// <param name="Unit">The unit in words where it stands apart as a word of its own; else null.</param>
public readonly record struct WrittenNumber(int Start, int Length, string Reading, int Number, string? Unit);

/// <summary>
/// Numbers, times, dates, percents, money and measures in texts of other languages than English (which <see cref="ScriptText.Words"/> reads out by itself):
/// "3,5" and "10:30" stay one word, "5 kg" and "€5" are said in words of the language.
/// </summary>
public static partial class WrittenNumbers
{
    private static readonly Lazy<FrozenDictionary<string, FrozenDictionary<string, string>>> Names = new(Read);

    /// <summary>The languages whose units are known, as BCP 47 tags without regions.</summary>
    public static IReadOnlyCollection<string> Languages => Names.Value.Keys;

    /// <summary>What a sign such as "kg", "%" or "€" is called after a number, "#" where that comes in between; null where nobody knows.</summary>
    public static string? NameOf(string sign, string language) => Names.Value.GetValueOrDefault(language.Split('-')[0])?.GetValueOrDefault(sign);

    /// <summary>The numbers of a text, in order.</summary>
    /// <param name="text">As it is written.</param>
    /// <param name="language">BCP 47 tag.</param>
    public static IReadOnlyList<WrittenNumber> In(string text, string language)
    {
        if (!text.AsSpan().ContainsAnyInRange('0', '9'))
            return [];
        var found = new List<WrittenNumber>();
        foreach (Match m in Number().Matches(text))
        {
            Group before = m.Groups["before"],
                number = m.Groups["number"],
                after = m.Groups["after"];
            var sign =
                before.Success ? before.Value.Trim()
                : after.Success ? Blanks().Replace(after.Value, "")
                : null;
            var name = sign == null ? null : NameOf(sign, language);
            var reading =
                name == null ? number.Value
                : name.Contains('#') ? name.Replace("#", number.Value)
                : $"{number.Value} {name}";
            // A sign that nobody knows a name of is left to the engine, with what is written to it.
            if (name == null && sign != null)
                reading = m.Value;
            var isApart = after.Success && name?.Contains('#') == false && after.Value.Length > 0 && char.IsWhiteSpace(after.Value[0]);
            var first = isApart ? after.Index : m.Index + m.Length;
            found.Add(new WrittenNumber(m.Index, m.Length, reading, first - m.Index, isApart ? name : null));
        }
        return found;
    }

    /// <summary>A text with the units of its numbers in words.</summary>
    /// <param name="text">As it is written.</param>
    /// <param name="language">BCP 47 tag.</param>
    public static string ReadOut(string text, string language)
    {
        foreach (var number in In(text, language).Reverse())
            text = string.Concat(text.AsSpan(0, number.Start), number.Reading, text.AsSpan(number.Start + number.Length));
        return text;
    }

    /// <summary>The words of a script, with numbers as whole words whose <see cref="ScriptWord.Spoken"/> is what a pronouncer of the language reads.</summary>
    /// <param name="script">As it is written.</param>
    /// <param name="language">BCP 47 tag.</param>
    public static IReadOnlyList<ScriptWord> Words(string script, string language)
    {
        var words = ScriptText.PlainWords(script).ToList();
        foreach (var figure in In(script, language))
        {
            var at = words.FindIndex(w => w.Offset + w.Text.Length > figure.Start);
            if (at < 0)
                at = words.Count;
            words.RemoveAll(w => w.Offset < figure.Start + figure.Length && w.Offset + w.Text.Length > figure.Start);
            var number = script.Substring(figure.Start, figure.Number);
            var spoken = figure.Unit == null ? figure.Reading : figure.Reading[..^(figure.Unit.Length + 1)];
            words.Insert(at, new ScriptWord(number, [spoken], figure.Start));
            if (figure.Unit == null)
                continue;
            var sign = script.AsSpan(figure.Start + figure.Number, figure.Length - figure.Number).TrimStart();
            words.Insert(at + 1, new ScriptWord(sign.ToString(), [figure.Unit], figure.Start + figure.Length - sign.Length));
        }
        return words;
    }

    private static FrozenDictionary<string, FrozenDictionary<string, string>> Read()
    {
        using var stream = typeof(WrittenNumbers).Assembly.GetManifestResourceStream("units.txt")!;
        using var reader = new StreamReader(stream);
        string[][] rows = [.. reader.ReadToEnd().Split('\n').Where(r => r.Length > 0 && r[0] != '#').Select(r => r.TrimEnd('\r').Split('\t'))];
        return rows.Skip(1)
            .ToFrozenDictionary(r => r[0], r => r.Skip(1).Select((name, i) => (Sign: rows[0][i + 1], name)).ToFrozenDictionary(x => x.Sign, x => x.name));
    }

    [GeneratedRegex(
        @"(?<![\d.,:/])(?<before>[€$£]\s?)?(?<number>\d+(?:[.,:/]\d+)*)(?<after>\s?(?:%|°\s?C(?!\p{L})|[€$£]|(?:kg|km|cm|mm|ml|min|g|m|l|h)(?![\p{L}\d])))?"
    )]
    private static partial Regex Number();

    [GeneratedRegex(@"\s")]
    private static partial Regex Blanks();
}
