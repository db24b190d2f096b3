using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Score;

/// <summary>A phone with the word that it belongs to.</summary>
/// <param name="Word">Lower case, without punctuation; empty where there is no word.</param>
/// <param name="Phone">ARPAbet.</param>
/// <param name="Start">In seconds.</param>
/// <param name="End">In seconds.</param>
public readonly record struct ContextPhone(string Word, string Phone, double Start, double End);

/// <summary>
/// Finds a place of one take in another by aligning their phones: global in the remembered stretch, free at the ends of the new take
/// (Needleman and Wunsch 1970, with free end gaps in one sequence).
/// </summary>
public static class PhoneMap
{
    // So many phones on each side are remembered: eight words or so, enough to tell most repeats apart.
    private const int Reach = 24;
    private const int Gap = -2;

    /// <summary>The phones of an analysis, silences left out.</summary>
    public static IReadOnlyList<ContextPhone> Sequence(SpeechAnalysis speech)
    {
        var result = new List<ContextPhone>(speech.Phones.Count);
        var word = 0;
        foreach (var p in speech.Phones)
        {
            if (Arpabet.IsSilent(p.Phone))
                continue;
            var middle = (p.Start + p.End) / 2;
            while (word < speech.Words.Count && speech.Words[word].End <= middle)
                word++;
            var owner = word < speech.Words.Count && speech.Words[word].Start <= middle ? Plain(speech.Words[word].Text) : "";
            result.Add(new ContextPhone(owner, p.Phone, p.Start, p.End));
        }
        return result;
    }

    /// <summary>The phones about a stretch: what a touch-up hangs on.</summary>
    public static IReadOnlyList<ContextPhone> About(IReadOnlyList<ContextPhone> sequence, double start, double end)
    {
        int first = 0,
            last = sequence.Count;
        while (first < sequence.Count && sequence[first].End <= start)
            first++;
        while (last > first && sequence[last - 1].Start >= end)
            last--;
        var from = Math.Max(0, first - Reach);
        return [.. sequence.Skip(from).Take(Math.Min(sequence.Count, last + Reach) - from)];
    }

    /// <summary>A word as it is compared.</summary>
    public static string Plain(string word) => new([.. word.ToLowerInvariant().Where(c => char.IsLetterOrDigit(c) || c == '\'')]);

    /// <summary>
    /// A touch-up in its place within another take, or null when its place is not there any more: fewer than half of the phones under it
    /// were found in the same word, or, for one that lies in a pause, the sounds beside it.
    /// </summary>
    public static TouchUp? Find(TouchUp touch, IReadOnlyList<ContextPhone> sequence)
    {
        var context = touch.Context;
        if (context.Count == 0)
            return touch;
        if (IsSame(context, sequence))
            return touch;
        var match = Align(context, sequence, context[0].Start);
        double start = Math.Min(touch.Start, touch.From?.Start ?? touch.Start),
            end = Math.Max(touch.End, touch.From?.End ?? touch.End);
        int under = 0,
            found = 0;
        for (var i = 0; i < context.Count; i++)
        {
            if (Math.Min(context[i].End, end) - Math.Max(context[i].Start, start) < 0.3 * (context[i].End - context[i].Start))
                continue;
            under++;
            if (IsAtHome(context, sequence, match, i))
                found++;
        }
        if (under == 0)
            for (var i = 0; i < context.Count; i++)
            {
                var isBefore = context[i].End <= start + 1e-6 && (i + 1 == context.Count || context[i + 1].End > start + 1e-6);
                var isAfter = context[i].Start >= end - 1e-6 && (i == 0 || context[i - 1].Start < end - 1e-6);
                if (!isBefore && !isAfter)
                    continue;
                under++;
                if (IsAtHome(context, sequence, match, i))
                    found++;
            }
        if (under == 0 || found * 2 < under)
            return null;
        var moved = touch.Moved(t => Map(context, sequence, match, t));
        return moved.End - moved.Start < 0.005 ? null : moved;
    }

    /// <summary>A touch-up of one word laid on the same word said elsewhere, or elsewhere in the same take; fitted to that word's length.</summary>
    /// <param name="touch">Made on the first word.</param>
    /// <param name="word">Phones of the word that it was made on.</param>
    /// <param name="other">Phones of the other word.</param>
    public static TouchUp Fit(TouchUp touch, IReadOnlyList<ContextPhone> word, IReadOnlyList<ContextPhone> other)
    {
        if (word.Count == 0 || other.Count == 0)
            return touch;
        var match = Align(word, other, other[0].Start);
        // Pronounced quite differently: by length alone.
        if (match.Count(m => m >= 0) * 2 < word.Count)
        {
            var scale = (other[^1].End - other[0].Start) / (word[^1].End - word[0].Start);
            return touch.Moved(t => other[0].Start + (t - word[0].Start) * scale);
        }
        return touch.Moved(t => Map(word, other, match, t));
    }

    /// <summary>
    /// For every phone of the remembered stretch the index of its partner in the take, or -1. Among equally good places the one nearest to <paramref
    /// name="expected"/> wins.
    /// </summary>
    public static int[] Align(IReadOnlyList<ContextPhone> context, IReadOnlyList<ContextPhone> sequence, double expected)
    {
        int n = context.Count,
            m = sequence.Count;
        var score = new int[n + 1, m + 1];
        for (var i = 1; i <= n; i++)
            score[i, 0] = i * Gap;
        for (var i = 1; i <= n; i++)
        for (var j = 1; j <= m; j++)
            score[i, j] = Math.Max(
                score[i - 1, j - 1] + Likeness(context[i - 1], sequence[j - 1]),
                Math.Max(score[i - 1, j] + Gap, score[i, j - 1] + (i == n ? 0 : Gap))
            );
        var partner = new int[n];
        Array.Fill(partner, -1);
        // The end: of the best scores the one whose time fits best.
        var end = 0;
        var nearest = double.MaxValue;
        var best = int.MinValue;
        for (var j = 0; j <= m; j++)
            best = Math.Max(best, score[n, j]);
        var length = context[^1].End - context[0].Start;
        for (var j = 1; j <= m; j++)
        {
            // Only where the last phone has its partner: a score that is carried on is no place of its own.
            if (score[n, j] != best || (score[n - 1, j - 1] + Likeness(context[n - 1], sequence[j - 1]) != best && score[n, j] == score[n, j - 1]))
                continue;
            var distance = Math.Abs(sequence[j - 1].End - (expected + length));
            if (distance < nearest)
                (nearest, end) = (distance, j);
        }
        for (int i = n, j = end; i > 0 && j > 0; )
        {
            if (score[i, j] == score[i - 1, j - 1] + Likeness(context[i - 1], sequence[j - 1]))
            {
                if (Likeness(context[i - 1], sequence[j - 1]) > 0)
                    partner[i - 1] = j - 1;
                i--;
                j--;
            }
            else if (score[i, j] == score[i - 1, j] + Gap)
                i--;
            else
                j--;
        }
        return partner;
    }

    private static int Likeness(ContextPhone a, ContextPhone b)
    {
        var sameWord = a.Word == b.Word;
        if (a.Phone == b.Phone)
            return sameWord ? 4 : 1;
        // The same mouth is nearly the same sound: a vowel that was reduced, a voice that was lost.
        return MouthShapes.Of(a.Phone).First == MouthShapes.Of(b.Phone).First || (Arpabet.Vowels.Contains(a.Phone) && Arpabet.Vowels.Contains(b.Phone))
            ? sameWord
                ? 2
                : -1
            : -3;
    }

    private static bool IsAtHome(IReadOnlyList<ContextPhone> context, IReadOnlyList<ContextPhone> sequence, int[] match, int i) =>
        match[i] >= 0 && (context[i].Word == sequence[match[i]].Word || context[i].Word.Length == 0 || sequence[match[i]].Word.Length == 0);

    private static bool IsSame(IReadOnlyList<ContextPhone> context, IReadOnlyList<ContextPhone> sequence)
    {
        var low = Sorted.Below(sequence, context[0].Start - 1e-6, static p => p.Start);
        if (low + context.Count > sequence.Count)
            return false;
        for (var i = 0; i < context.Count; i++)
        {
            var (a, b) = (context[i], sequence[low + i]);
            if (a.Phone != b.Phone || a.Word != b.Word || Math.Abs(a.Start - b.Start) > 1e-6 || Math.Abs(a.End - b.End) > 1e-6)
                return false;
        }
        return true;
    }

    private static double Map(IReadOnlyList<ContextPhone> context, IReadOnlyList<ContextPhone> sequence, int[] match, double t)
    {
        // Known pairs of times: both ends of every phone that has a partner. Between them time runs evenly; outside it is shifted.
        double oldBefore = double.NaN,
            newBefore = 0;
        for (var i = 0; i < context.Count; i++)
        {
            if (match[i] < 0)
                continue;
            var (a, b) = (context[i], sequence[match[i]]);
            foreach (var (o, n) in (ReadOnlySpan<(double, double)>)[(a.Start, b.Start), (a.End, b.End)])
            {
                if (t <= o)
                    return double.IsNaN(oldBefore) ? n - (o - t)
                        : o - oldBefore < 1e-9 ? n
                        : newBefore + (t - oldBefore) * (n - newBefore) / (o - oldBefore);
                (oldBefore, newBefore) = (o, n);
            }
        }
        return double.IsNaN(oldBefore) ? t : newBefore + (t - oldBefore);
    }
}
