using System.Globalization;
using System.Text;

namespace Zamblo.Core.Lettering;

/// <summary>A stretch of text that runs in one direction.</summary>
/// <param name="Start">Index of its first UTF-16 unit.</param>
/// <param name="Length">In UTF-16 units.</param>
/// <param name="IsFromRight">It runs from the right to the left.</param>
public readonly record struct BidiRun(int Start, int Length, bool IsFromRight);

/// <summary>
/// In which order texts of several directions stand in a row: the Unicode Bidirectional Algorithm (Unicode Standard Annex #9) for one paragraph, without
/// explicit embeddings and isolates, which nobody types into a caption: their marks are passed over. Classes of characters are told by blocks and general
/// categories.
/// </summary>
public static class BidiText
{
    private enum Class : byte
    {
        L,
        R,
        AL,
        EN,
        ES,
        ET,
        AN,
        CS,
        NSM,
        BN,
        B,
        S,
        WS,
        ON,
    }

    private const string Opening = "([{",
        Closing = ")]}";

    // Pairs that are nested deeper are left as they are (BD16).
    private const int Deepest = 63;

    /// <summary>Stretches of a row, from the left to the right of what is seen.</summary>
    /// <param name="text">In the order in which it is read.</param>
    public static IReadOnlyList<BidiRun> Runs(string text)
    {
        var levels = Levels(text).Levels;
        // Most texts have nothing that runs from the right.
        if (Array.TrueForAll(levels, l => l == 0))
            return text.Length == 0 ? [] : [new BidiRun(0, text.Length, false)];
        var runs = new List<(int Start, int Length, byte Level)>();
        for (var i = 0; i < levels.Length; i++)
            if (runs.Count > 0 && runs[^1].Level == levels[i])
                runs[^1] = runs[^1] with { Length = runs[^1].Length + 1 };
            else
                runs.Add((i, 1, levels[i]));
        // From the highest level to the lowest odd one, what is at it or above is turned round (L2).
        for (var level = levels.Max(); level >= 1; level--)
        for (var i = 0; i < runs.Count; i++)
        {
            var end = i;
            while (end < runs.Count && runs[end].Level >= level)
                end++;
            if (end - i > 1)
                runs.Reverse(i, end - i);
            i = Math.Max(i, end);
        }
        return [.. runs.Select(r => new BidiRun(r.Start, r.Length, r.Level % 2 == 1))];
    }

    /// <summary>Embedding levels: of the paragraph, and of each UTF-16 unit.</summary>
    /// <param name="text">One row.</param>
    public static (byte Base, byte[] Levels) Levels(string text)
    {
        var own = new Class[text.Length];
        for (var i = 0; i < text.Length; )
        {
            var isRune = Rune.TryGetRuneAt(text, i, out var rune);
            var length = isRune ? rune.Utf16SequenceLength : 1;
            Array.Fill(own, isRune ? ClassOf(rune) : Class.ON, i, length);
            i += length;
        }
        // The first letter with a direction tells that of the whole (P2, P3).
        var first = Array.Find(own, c => c is Class.L or Class.R or Class.AL);
        var level = (byte)(first is Class.R or Class.AL ? 1 : 0);
        var levels = new byte[text.Length];
        // What is passed over is not there (X9).
        int[] seen = [.. Enumerable.Range(0, text.Length).Where(i => own[i] != Class.BN)];
        var classes = seen.Select(i => own[i]).ToArray();
        var side = level == 1 ? Class.R : Class.L;
        Weak(classes, side);
        Brackets(classes, seen, text, own, side);
        Neutral(classes, side);
        for (var k = 0; k < seen.Length; k++)
            levels[seen[k]] = (byte)(
                level
                + (
                    level == 0
                        ? (
                            classes[k] == Class.R ? 1
                            : classes[k] is Class.AN or Class.EN ? 2
                            : 0
                        )
                    : classes[k] is Class.R ? 0
                    : 1
                )
            );
        // What is passed over is at the level of what is before it; spaces at the end and before tabs are at that of the paragraph (L1).
        for (var i = 0; i < levels.Length; i++)
            if (own[i] == Class.BN)
                levels[i] = i == 0 ? level : levels[i - 1];
        var isEnd = true;
        for (var i = text.Length - 1; i >= 0; i--)
        {
            if (own[i] is Class.S or Class.B)
                isEnd = true;
            else if (own[i] is not (Class.WS or Class.BN))
                isEnd = false;
            if (isEnd)
                levels[i] = level;
        }
        return (level, levels);
    }

    // Numbers and what belongs to them, and marks on letters (W1 to W7).
    private static void Weak(Class[] c, Class side)
    {
        Class before = side,
            strong = side;
        for (var i = 0; i < c.Length; i++)
        {
            if (c[i] == Class.NSM)
                c[i] = before;
            before = c[i];
        }
        for (var i = 0; i < c.Length; i++)
        {
            if (c[i] is Class.L or Class.R or Class.AL)
                strong = c[i];
            else if (c[i] == Class.EN && strong == Class.AL)
                c[i] = Class.AN;
        }
        for (var i = 0; i < c.Length; i++)
            if (c[i] == Class.AL)
                c[i] = Class.R;
        for (var i = 1; i < c.Length - 1; i++)
            if (c[i] is Class.ES or Class.CS && c[i - 1] == Class.EN && c[i + 1] == Class.EN)
                c[i] = Class.EN;
            else if (c[i] == Class.CS && c[i - 1] == Class.AN && c[i + 1] == Class.AN)
                c[i] = Class.AN;
        for (var i = 0; i < c.Length; i++)
        {
            if (c[i] != Class.ET)
                continue;
            var end = i;
            while (end < c.Length && c[end] == Class.ET)
                end++;
            if (i > 0 && c[i - 1] == Class.EN || end < c.Length && c[end] == Class.EN)
                Array.Fill(c, Class.EN, i, end - i);
            i = end - 1;
        }
        strong = side;
        for (var i = 0; i < c.Length; i++)
        {
            if (c[i] is Class.ES or Class.ET or Class.CS)
                c[i] = Class.ON;
            else if (c[i] is Class.L or Class.R)
                strong = c[i];
            else if (c[i] == Class.EN && strong == Class.L)
                c[i] = Class.L;
        }
    }

    // Numbers count as running from the right here.
    private static Class? StrongOf(Class c) =>
        c switch
        {
            Class.L => Class.L,
            Class.R or Class.EN or Class.AN => Class.R,
            _ => null,
        };

    // Both brackets of a pair run as what is between them, or before them (N0).
    private static void Brackets(Class[] c, int[] seen, string text, Class[] own, Class side)
    {
        var open = new Stack<(char Closes, int At)>();
        var pairs = new List<(int Start, int End)>();
        for (var k = 0; k < c.Length; k++)
        {
            if (c[k] != Class.ON)
                continue;
            var sign = text[seen[k]];
            if (Opening.IndexOf(sign, StringComparison.Ordinal) is >= 0 and var which)
            {
                if (open.Count >= Deepest)
                    break;
                open.Push((Closing[which], k));
            }
            else if (Closing.Contains(sign, StringComparison.Ordinal) && open.Any(o => o.Closes == sign))
            {
                (char Closes, int At) last;
                do last = open.Pop();
                while (last.Closes != sign);
                pairs.Add((last.At, k));
            }
        }
        foreach (var (start, end) in pairs.OrderBy(p => p.Start))
        {
            var within = Enumerable.Range(start + 1, end - start - 1).Select(k => StrongOf(c[k])).OfType<Class>().ToArray();
            if (within.Length == 0)
                continue;
            var takes = side;
            if (!within.Contains(side))
            {
                var context = Enumerable.Range(0, start).Reverse().Select(k => StrongOf(c[k])).FirstOrDefault(s => s != null) ?? side;
                takes = context == side ? side : context;
            }
            foreach (var at in (ReadOnlySpan<int>)[start, end])
            {
                c[at] = takes;
                // Marks on a bracket go with it.
                for (var k = at + 1; k < c.Length && own[seen[k]] == Class.NSM; k++)
                    c[k] = takes;
            }
        }
    }

    // Spaces and signs between two of one direction run that way, others as the paragraph (N1, N2).
    private static void Neutral(Class[] c, Class side)
    {
        for (var i = 0; i < c.Length; i++)
        {
            if (StrongOf(c[i]) != null)
                continue;
            var end = i;
            while (end < c.Length && StrongOf(c[end]) == null)
                end++;
            Class before = i == 0 ? side : StrongOf(c[i - 1])!.Value,
                after = end == c.Length ? side : StrongOf(c[end])!.Value;
            Array.Fill(c, before == after ? before : side, i, end - i);
            i = end - 1;
        }
    }

    private static Class ClassOf(Rune rune)
    {
        var v = rune.Value;
        switch (v)
        {
            case '\t' or 0x0B or 0x1F:
                return Class.S;
            case '\n' or '\r' or 0x85 or 0x2029 or (>= 0x1C and <= 0x1E):
                return Class.B;
            case 0x200E:
                return Class.L;
            case 0x200F:
                return Class.R;
            case 0x061C:
                return Class.AL;
            case (>= '0' and <= '9') or (>= 0x6F0 and <= 0x6F9) or 0xB2 or 0xB3 or 0xB9 or (>= 0xFF10 and <= 0xFF19):
                return Class.EN;
            case 0x2070 or (>= 0x2074 and <= 0x2079) or (>= 0x2080 and <= 0x2089):
                return Class.EN;
            case (>= 0x660 and <= 0x669) or 0x66B or 0x66C or (>= 0x600 and <= 0x605) or 0x6DD:
                return Class.AN;
            case '+' or '-' or 0x2212 or 0x207A or 0x207B or 0x208A or 0x208B or 0xFB29:
                return Class.ES;
            case '#'
            or '$'
            or '%'
            or (>= 0xA2 and <= 0xA5)
            or 0xB0
            or 0xB1
            or 0x609
            or 0x60A
            or 0x66A
            or (>= 0x2030 and <= 0x2034)
            or (>= 0x20A0 and <= 0x20CF):
            case 0x212E or 0x2213:
                return Class.ET;
            case ',' or '.' or '/' or ':' or 0xA0 or 0x60C or 0x202F or 0x2044:
                return Class.CS;
        }
        var category = Rune.GetUnicodeCategory(rune);
        if (category is UnicodeCategory.NonSpacingMark or UnicodeCategory.EnclosingMark)
            return Class.NSM;
        if (category is UnicodeCategory.Control or UnicodeCategory.Format)
            return Class.BN;
        if (category is UnicodeCategory.SpaceSeparator or UnicodeCategory.LineSeparator)
            return Class.WS;
        if (v is 0x606 or 0x607 or 0x60E or 0x60F or 0x6DE or 0x6E9 or 0xFD3E or 0xFD3F)
            return Class.ON;
        if (v is (>= 0x600 and <= 0x7BF) or (>= 0x860 and <= 0x8FF) or (>= 0xFB50 and <= 0xFDFF) or (>= 0xFE70 and <= 0xFEFF) or (>= 0x1EE00 and <= 0x1EEFF))
            return Class.AL;
        if (v is (>= 0x590 and <= 0x5FF) or (>= 0x7C0 and <= 0x85F) or (>= 0xFB1D and <= 0xFB4F) or (>= 0x10800 and <= 0x10FFF) or (>= 0x1E800 and <= 0x1EDFF))
            return Class.R;
        return category switch
        {
            UnicodeCategory.UppercaseLetter
            or UnicodeCategory.LowercaseLetter
            or UnicodeCategory.TitlecaseLetter
            or UnicodeCategory.ModifierLetter
            or UnicodeCategory.OtherLetter
            or UnicodeCategory.SpacingCombiningMark
            or UnicodeCategory.DecimalDigitNumber
            or UnicodeCategory.LetterNumber
            or UnicodeCategory.PrivateUse => Class.L,
            _ => Class.ON,
        };
    }
}
