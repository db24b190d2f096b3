using System.Text;
using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>A word of the script and how it is spoken.</summary>
/// <param name="Text">As written, without the punctuation around it.</param>
/// <param name="Spoken">What is said, one or more plain lower-case words: "23" is "twenty", "three".</param>
/// <param name="Offset">Where it starts in the script, in characters.</param>
public sealed record ScriptWord(string Text, IReadOnlyList<string> Spoken, int Offset)
{
    /// <summary>How likely it is that this word is said, 0 to 1: less than 1 where nobody wrote it.</summary>
    public float Likelihood { get; init; } = 1;

    /// <summary>Row of the script, from 0.</summary>
    public int Row { get; init; }

    /// <summary>Whether it is sung again and does not stand here in the script (<see cref="SungRepeat"/>).</summary>
    public bool IsAgain { get; init; }

    /// <summary>It begins no earlier, in seconds of the take; null where nobody says so.</summary>
    public double? Earliest { get; init; }

    /// <summary>Words with their rows.</summary>
    /// <param name="words">In the order of the script.</param>
    /// <param name="script">That they stand in.</param>
    public static IReadOnlyList<ScriptWord> InRows(IReadOnlyList<ScriptWord> words, string script)
    {
        var (at, row) = (0, 0);
        return
        [
            .. words.Select(w =>
            {
                row += script.AsSpan(at, Math.Max(0, w.Offset - at)).Count('\n');
                at = Math.Max(at, w.Offset);
                return w with { Row = row };
            }),
        ];
    }

    /// <summary>It begins no later, in seconds of the take; null where nobody says so.</summary>
    public double? Latest { get; init; }
}

/// <summary>A word that a recogniser heard.</summary>
/// <param name="Text">With the punctuation about it.</param>
/// <param name="Likelihood">0 to 1, as the recogniser says.</param>
public readonly record struct DraftWord(string Text, float Likelihood)
{
    // Mean likelihoods of words. Of 46 recordings and voices of English with 2 to 17 s (five people, eleven voices of engines, accents, also in noise, by
    // telephone, made smaller) the least have 0.77; of 40 with 11 to 19 s of people speaking Spanish, French, Italian and Russian the most have 0.60. Of single
    // sentences of 2 to 4 s, however, in accents of engines and in noise at 10 dB, one in eight of English has 0.5 to 0.63: the less, the less likely.
    private const double LeastOfMuch = 0.63,
        LeastOfLittle = 0.5,
        Much = 8,
        Little = 3;

    // Who speaks says more than a word in so many seconds.
    private const double LongestWord = 3;
    private const int LeastWords = 5;

    /// <summary>Whether what was written down as English is none: its words are unlikely, or there are hardly any.</summary>
    /// <param name="words">Of a take.</param>
    /// <param name="seconds">Of voice in it.</param>
    public static bool SoundForeign(IReadOnlyCollection<DraftWord> words, double seconds) =>
        words.Count >= LeastWords
            ? seconds >= Little
                && words.Average(w => w.Likelihood) < double.Lerp(LeastOfLittle, LeastOfMuch, Math.Clamp((seconds - Little) / (Much - Little), 0, 1))
            : seconds > LongestWord * (words.Count + 1);
}

/// <summary>Writes down what is said in a sound at 16 kHz; nothing where it does not know.</summary>
/// <param name="audio">At 16 kHz.</param>
/// <param name="voiced">Where a voice is, in seconds.</param>
/// <param name="names">That may be said, as they are written.</param>
/// <param name="progress">Shares from 0 to 1, or null.</param>
/// <param name="cancel">Stops the work.</param>
public delegate IReadOnlyList<DraftWord> Recogniser(
    AudioBuffer audio,
    IReadOnlyList<(double Start, double End)> voiced,
    IReadOnlyList<string> names,
    Action<double>? progress,
    CancellationToken cancel
);

/// <summary>From written text to the words that are spoken (English rules).</summary>
public static class ScriptText
{
    private static readonly string[] Ones =
    [
        "zero",
        "one",
        "two",
        "three",
        "four",
        "five",
        "six",
        "seven",
        "eight",
        "nine",
        "ten",
        "eleven",
        "twelve",
        "thirteen",
        "fourteen",
        "fifteen",
        "sixteen",
        "seventeen",
        "eighteen",
        "nineteen",
    ];
    private static readonly string[] Tens = ["", "", "twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty", "ninety"];
    private static readonly Dictionary<string, string> Abbreviations = new(StringComparer.OrdinalIgnoreCase)
    {
        ["mr."] = "mister",
        ["mrs."] = "missus",
        ["ms."] = "miss",
        ["dr."] = "doctor",
        ["st."] = "saint",
        ["vs."] = "versus",
        ["etc."] = "et cetera",
        ["e.g."] = "for example",
        ["i.e."] = "that is",
        ["no."] = "number",
        ["jr."] = "junior",
        ["sr."] = "senior",
    };
    private static readonly Dictionary<char, string> Signs = new()
    {
        ['&'] = "and",
        ['%'] = "percent",
        ['+'] = "plus",
        ['='] = "equals",
        ['@'] = "at",
        ['°'] = "degrees",
        ['€'] = "euros",
        ['$'] = "dollars",
        ['£'] = "pounds",
    };

    /// <summary>Cuts a script into words. Emoji and other signs without a reading are left out.</summary>
    public static IReadOnlyList<ScriptWord> Words(string script)
    {
        var words = new List<ScriptWord>();
        for (var i = 0; i < script.Length; )
        {
            if (char.IsWhiteSpace(script[i]) || script[i] is '-' or '–' or '—' or '/' or '_')
            {
                i++;
                continue;
            }
            var start = i;
            while (
                i < script.Length
                && !char.IsWhiteSpace(script[i])
                && script[i] is not ('–' or '—' or '/' or '_')
                && !(script[i] == '-' && !(i > start && i + 1 < script.Length && char.IsDigit(script[i + 1]) && i == start))
            )
                i++;
            Add(words, script[start..i], start);
        }
        return words;
    }

    /// <summary>
    /// Cuts a script of any language into words, as they are written: at spaces, and in Chinese and Japanese at every character but a small
    /// kana or a long-vowel sign. The reading of figures and signs is left to whoever pronounces them.
    /// </summary>
    public static IReadOnlyList<ScriptWord> PlainWords(string script)
    {
        var words = new List<ScriptWord>();
        for (var i = 0; i < script.Length; )
        {
            var start = i;
            while (
                i < script.Length
                && (
                    char.IsLetterOrDigit(script[i])
                    || script[i] is '\'' or '’'
                    || char.GetUnicodeCategory(script[i])
                        is System.Globalization.UnicodeCategory.NonSpacingMark
                            or System.Globalization.UnicodeCategory.SpacingCombiningMark
                )
            )
            {
                i++;
                if (IsIdeographic(script[i - 1]) && !(i < script.Length && "ゃゅょっァィゥェォャュョッーぁぃぅぇぉんン".Contains(script[i])))
                    break;
            }
            if (i > start)
                words.Add(new ScriptWord(script[start..i], [script[start..i]], start));
            else
                i++;
        }
        return words;
    }

    /// <summary>
    /// The words of an analysis with what is written about them: capitals, commas, full stops and quotation marks; two with only a hyphen between are
    /// one, where the script has spaces.
    /// </summary>
    /// <param name="words">In the order of the text.</param>
    /// <param name="text">What is written; words that are not in it stay as they are.</param>
    public static IReadOnlyList<WordSegment> AsWritten(IReadOnlyList<WordSegment> words, string text)
    {
        var written = new List<WordSegment>();
        var (at, last) = (0, -1);
        foreach (var word in words)
        {
            var found = text.IndexOf(word.Text, at, StringComparison.OrdinalIgnoreCase);
            if (found < 0)
            {
                written.Add(word);
                continue;
            }
            int start = found,
                end = found + word.Text.Length;
            while (start > at && !char.IsWhiteSpace(text[start - 1]) && !IsOfWord(text[start - 1]))
                start--;
            while (end < text.Length && !char.IsWhiteSpace(text[end]) && !IsOfWord(text[end]))
                end++;
            // A dash of its own belongs to the word before it.
            if (end + 1 < text.Length && text[end] == ' ' && text[end + 1] is '–' or '—' && (end + 2 == text.Length || text[end + 2] == ' '))
                end += 2;
            // What is written without a space between, "ill-disposed", is one word.
            if (at > 0 && start == at && last == written.Count - 1 && !char.IsWhiteSpace(text[at - 1]) && WordSpacing.HasSpace(written[^1].Text, word.Text))
                written[^1] = written[^1] with { Text = written[^1].Text + text[start..end], End = word.End };
            else
                written.Add(word with { Text = text[start..end] });
            (at, last) = (end, written.Count - 1);
        }
        return written;
    }

    // Letters, figures, and fractions such as ½.
    private static bool IsOfWord(char c) => char.IsLetterOrDigit(c) || char.GetUnicodeCategory(c) == System.Globalization.UnicodeCategory.OtherNumber;

    /// <summary>Whether a letter is of a script that sets no spaces between words: Chinese, Japanese, Thai, Lao, Burmese, Khmer.</summary>
    public static bool HasNoSpaces(char c) =>
        IsIdeographic(c) || c is >= '\u0E00' and <= '\u0EFF' or >= '\u1000' and <= '\u109F' or >= '\u1780' and <= '\u17FF';

    private static bool IsIdeographic(char c) => c is >= '\u3040' and <= '\u30FF' or >= '\u4E00' and <= '\u9FFF';

    private static void Add(List<ScriptWord> words, string token, int offset)
    {
        if (Abbreviations.TryGetValue(token.Trim('"', '(', ')', ','), out var expansion))
        {
            words.Add(new ScriptWord(token, expansion.Split(' '), offset));
            return;
        }
        var lead = 0;
        while (lead < token.Length && !char.IsLetterOrDigit(token[lead]) && !Signs.ContainsKey(token[lead]))
            lead++;
        var tail = token.Length;
        while (tail > lead && !char.IsLetterOrDigit(token[tail - 1]) && !Signs.ContainsKey(token[tail - 1]))
            tail--;
        if (lead == tail)
            return;
        var core = token[lead..tail];
        var spoken = new List<string>();
        for (var i = 0; i < core.Length; )
        {
            if (Signs.TryGetValue(core[i], out var sign))
            {
                spoken.Add(sign);
                i++;
            }
            else if (char.IsAsciiDigit(core[i]))
                i = Number(core, i, spoken);
            else if (char.IsLetter(core[i]))
            {
                var run = new StringBuilder();
                for (; i < core.Length && (char.IsLetter(core[i]) || core[i] is '\'' or '’'); i++)
                    run.Append(core[i] == '’' ? '\'' : char.ToLowerInvariant(core[i]));
                // An English ordinal or plural ending after a number belongs to the number's last word and is close enough without it.
                if (spoken.Count > 0 && run.ToString() is "st" or "nd" or "rd" or "th" or "s" && char.IsAsciiDigit(core[0]))
                    continue;
                spoken.Add(run.ToString().Trim('\''));
            }
            else
                i++;
        }
        // A price is read with its unit last.
        if (spoken.Count > 1 && core[0] is '€' or '$' or '£')
        {
            var unit = spoken[0];
            spoken.RemoveAt(0);
            spoken.Add(unit);
        }
        spoken.RemoveAll(s => s.Length == 0);
        if (spoken.Count > 0)
            words.Add(new ScriptWord(core, spoken, offset + lead));
    }

    private static int Number(string text, int at, List<string> spoken)
    {
        var digits = new StringBuilder();
        while (at < text.Length && (char.IsAsciiDigit(text[at]) || (text[at] == ',' && at + 3 < text.Length && char.IsAsciiDigit(text[at + 1]))))
        {
            if (text[at] != ',')
                digits.Append(text[at]);
            at++;
        }
        var run = digits.ToString();
        if (run.Length > 9 || (run.Length > 1 && run[0] == '0'))
            foreach (var d in run)
                spoken.Add(Ones[d - '0']);
        else if (run.Length == 4 && run[0] == '1' && run[1] != '0' && at == text.Length)
        {
            // Four digits that begin with 11 to 19 are nearly always a year.
            Whole(int.Parse(run[..2]), spoken);
            if (run[2..] == "00")
                spoken.Add("hundred");
            else
            {
                if (run[2] == '0')
                    spoken.Add("oh");
                Whole(int.Parse(run[2..]), spoken);
            }
        }
        else
            Whole(int.Parse(run), spoken);
        if (at + 1 < text.Length && text[at] is '.' && char.IsAsciiDigit(text[at + 1]))
        {
            spoken.Add("point");
            for (at++; at < text.Length && char.IsAsciiDigit(text[at]); at++)
                spoken.Add(Ones[text[at] - '0']);
        }
        else if (at + 2 < text.Length && text[at] == ':')
            at++;
        return at;
    }

    private static void Whole(int n, List<string> spoken)
    {
        if (n >= 1_000_000)
        {
            Whole(n / 1_000_000, spoken);
            spoken.Add("million");
            if (n % 1_000_000 > 0)
                Whole(n % 1_000_000, spoken);
        }
        else if (n >= 1000)
        {
            Whole(n / 1000, spoken);
            spoken.Add("thousand");
            if (n % 1000 > 0)
                Whole(n % 1000, spoken);
        }
        else if (n >= 100)
        {
            spoken.Add(Ones[n / 100]);
            spoken.Add("hundred");
            if (n % 100 > 0)
                Whole(n % 100, spoken);
        }
        else if (n >= 20)
        {
            spoken.Add(Tens[n / 10]);
            if (n % 10 > 0)
                spoken.Add(Ones[n % 10]);
        }
        else
            spoken.Add(Ones[n]);
    }
}
