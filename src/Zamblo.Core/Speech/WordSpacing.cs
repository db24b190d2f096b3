using System.Text;

namespace Zamblo.Core.Speech;

/// <summary>A word of a text, or a sign of one that has no spaces, with what is written about it.</summary>
/// <param name="Text">Without spaces.</param>
/// <param name="Index">Where it starts in the text.</param>
public readonly record struct WrittenPiece(string Text, int Index);

/// <summary>
/// Where a text may be parted and how its parts are put together again: at spaces, and in Chinese and Japanese, which have none, between any two signs, but
/// never before a closing sign or a small kana nor after an opening one (kinsoku, JIS X 4051; from memory).
/// </summary>
public static class WordSpacing
{
    // Signs that stand with what is before them, beside punctuation: small kana, sound marks, iteration marks (JIS X 4051; from memory).
    private const string Clinging = "ぁぃぅぇぉっゃゅょゎァィゥェォッャュョヮヵヶー々ゝゞヽヾ";
    private const string Opening = "「『（〔［｛〈《【〖“‘(";

    /// <summary>Parts of a text between which a row may end.</summary>
    public static IReadOnlyList<WrittenPiece> Split(string text)
    {
        var pieces = new List<WrittenPiece>();
        var start = -1;
        for (var i = 0; i < text.Length; i++)
        {
            if (char.IsWhiteSpace(text[i]))
            {
                Close(i);
                continue;
            }
            if (start >= 0 && MayPart(text[i - 1], text[i]))
                Close(i);
            if (start < 0)
                start = i;
        }
        Close(text.Length);
        return pieces;
        void Close(int end)
        {
            if (start >= 0)
                pieces.Add(new WrittenPiece(text[start..end], start));
            start = -1;
        }
    }

    /// <summary>Puts words together, with spaces where their script has them.</summary>
    public static string Join(IEnumerable<string> words)
    {
        var text = new StringBuilder();
        foreach (var word in words.Where(w => w.Length > 0))
        {
            if (text.Length > 0 && HasSpace(text[^1], word[0]))
                text.Append(' ');
            text.Append(word);
        }
        return text.ToString();
    }

    /// <summary>Whether a space stands between two words.</summary>
    public static bool HasSpace(string before, string after) => before.Length > 0 && after.Length > 0 && HasSpace(before[^1], after[0]);

    /// <summary>How much of a row a text takes, in letters: a sign of Chinese or Japanese is as wide as two, and read as slowly (common practice).</summary>
    public static int Measure(string text) => text.Sum(c => IsWide(c) ? 2 : 1);

    private static bool HasSpace(char before, char after) => !IsWide(before) && !IsWide(after);

    private static bool MayPart(char before, char after) =>
        !Opening.Contains(before) && !Clinging.Contains(after) && (IsSign(after) || IsWide(before) && (char.IsLetterOrDigit(after) || Opening.Contains(after)));

    // Ideographs and kana.
    private static bool IsSign(char c) => c is >= '\u3041' and <= '\u30FF' or >= '\u3400' and <= '\u4DBF' or >= '\u4E00' and <= '\u9FFF' && c != '・';

    // Those and their punctuation.
    private static bool IsWide(char c) => IsSign(c) || c is >= '\u3000' and <= '\u3040' or >= '\uFF01' and <= '\uFF60';
}
