using Zamblo.Core.Speech;

namespace Zamblo.Core.Interchange;

/// <summary>A speech of a script.</summary>
/// <param name="Role">Who says it.</param>
/// <param name="Text">What is said.</param>
public sealed record ScriptSpeechText(string Role, string Text);

/// <summary>What has become of a speech in another version of its script.</summary>
/// <param name="Old">Its index in the old script; null for one that is new.</param>
/// <param name="New">Its index in the new script; null for one that is gone.</param>
/// <param name="IsMoved">It stands elsewhere among the others.</param>
public readonly record struct SpeechMatch(int? Old, int? New, bool IsMoved = false);

/// <summary>A stretch of words of two versions of a text.</summary>
/// <param name="Text">The words.</param>
/// <param name="Kind">-1 only in the old version, 1 only in the new one, 0 in both.</param>
public readonly record struct WordChange(string Text, int Kind);

/// <summary>
/// Which speech of a new version of a script is which one of the old: so that what hangs on a line stays on it. Speeches go together in their order by
/// the words that they share (a global alignment, Needleman and Wunsch 1970); what is nearly the same elsewhere has been moved; where the same roles in the
/// same order are left on both sides of a gap, they are the same speeches written anew.
/// </summary>
public static class ScriptMatch
{
    // Share of common words from which two speeches are one: of one role, and of two. Chosen on made-up changes of scripts.
    private const double Alike = 0.4,
        AlikeOfAnother = 0.7,
        AlikeElsewhere = 0.75;

    // More pairs than this are not looked at one by one: only speeches that are equal are found then.
    private const long MostPairs = 9_000_000;

    private sealed record Speech(string Role, string[] Words)
    {
        public bool IsEqual(Speech other) => Role == other.Role && Words.AsSpan().SequenceEqual(other.Words);
    }

    /// <summary>Matches two versions of a script.</summary>
    /// <param name="old">Speeches of the old one, in order.</param>
    /// <param name="now">Speeches of the new one, in order.</param>
    /// <returns>Every speech of both once: in the order of the new script, what is gone where it stood.</returns>
    public static IReadOnlyList<SpeechMatch> Of(IReadOnlyList<ScriptSpeechText> old, IReadOnlyList<ScriptSpeechText> now)
    {
        Speech[] a = [.. old.Select(Prepared)],
            b = [.. now.Select(Prepared)];
        var partner = InOrder(a, b);
        var moved = Elsewhere(a, b, partner);
        WrittenAnew(a, b, partner, moved);
        var ofNew = new int[b.Length];
        Array.Fill(ofNew, -1);
        for (var i = 0; i < a.Length; i++)
            if (partner[i] >= 0)
                ofNew[partner[i]] = i;
        // Until which old speech what is gone stands before each new one: the next that stayed in its place.
        var until = new int[b.Length + 1];
        until[^1] = a.Length;
        for (var j = b.Length - 1; j >= 0; j--)
            until[j] = ofNew[j] >= 0 && !moved.Contains(ofNew[j]) ? ofNew[j] : until[j + 1];
        var result = new List<SpeechMatch>();
        var next = 0;
        for (var j = 0; j <= b.Length; j++)
        {
            for (; next < until[j]; next++)
                if (partner[next] < 0)
                    result.Add(new SpeechMatch(next, null));
            if (j < b.Length)
                result.Add(new SpeechMatch(ofNew[j] >= 0 ? ofNew[j] : null, j, moved.Contains(ofNew[j])));
        }
        return result;
    }

    /// <summary>The words of two versions of a text, in one row.</summary>
    public static IReadOnlyList<WordChange> Words(string old, string now)
    {
        string[] a = Split(old),
            b = Split(now);
        var partner = WordMatch.Partners(a, b);
        var result = new List<WordChange>();
        var next = 0;
        for (var i = 0; i <= a.Length; i++)
        {
            var until = i == a.Length ? b.Length : partner[i];
            if (until < 0)
            {
                Add(a[i], -1);
                continue;
            }
            for (; next < until; next++)
                Add(b[next], 1);
            if (i < a.Length)
                Add(b[next++], 0);
        }
        return result;
        void Add(string word, int kind)
        {
            if (result.Count > 0 && result[^1].Kind == kind)
                result[^1] = new WordChange($"{result[^1].Text} {word}", kind);
            else
                result.Add(new WordChange(word, kind));
        }
    }

    private static string[] Split(string text) => text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);

    private static Speech Prepared(ScriptSpeechText s) =>
        new(s.Role.Trim().ToUpperInvariant(), [.. Split(s.Text).Select(WordMatch.Plain).Where(w => w.Length > 0)]);

    // Share of words in common: 2 * common / all (Dice's coefficient over the longest common subsequence).
    private static double Likeness(Speech a, Speech b)
    {
        var all = a.Words.Length + b.Words.Length;
        if (all == 0)
            return 1;
        // Never more than if the shorter one were whole in the longer.
        if (2.0 * Math.Min(a.Words.Length, b.Words.Length) / all < Alike)
            return 0;
        return 2.0 * WordMatch.Partners(a.Words, b.Words).Count(p => p >= 0) / all;
    }

    private static int[] InOrder(Speech[] a, Speech[] b)
    {
        var partner = new int[a.Length];
        Array.Fill(partner, -1);
        // Equal ends first: most of a long script.
        int head = 0,
            tail = 0;
        while (head < Math.Min(a.Length, b.Length) && a[head].IsEqual(b[head]))
        {
            partner[head] = head;
            head++;
        }
        while (tail < Math.Min(a.Length, b.Length) - head && a[a.Length - 1 - tail].IsEqual(b[b.Length - 1 - tail]))
        {
            partner[a.Length - 1 - tail] = b.Length - 1 - tail;
            tail++;
        }
        int n = a.Length - head - tail,
            m = b.Length - head - tail;
        var isLong = (long)n * m > MostPairs;
        var score = new float[n, m];
        for (var i = 0; i < n; i++)
        for (var j = 0; j < m; j++)
        {
            Speech x = a[head + i],
                y = b[head + j];
            if (isLong)
                score[i, j] = x.IsEqual(y) ? 1.1f : 0;
            else if (Likeness(x, y) is var alike && alike >= (x.Role == y.Role ? Alike : AlikeOfAnother))
                score[i, j] = (float)(alike + (x.Role == y.Role ? 0.1 : 0));
        }
        var best = new float[n + 1, m + 1];
        for (var i = n - 1; i >= 0; i--)
        for (var j = m - 1; j >= 0; j--)
            best[i, j] = Math.Max(score[i, j] > 0 ? score[i, j] + best[i + 1, j + 1] : 0, Math.Max(best[i + 1, j], best[i, j + 1]));
        for (int i = 0, j = 0; i < n && j < m; )
            if (score[i, j] > 0 && best[i, j] == score[i, j] + best[i + 1, j + 1])
                partner[head + i++] = head + j++;
            else if (best[i + 1, j] >= best[i, j + 1])
                i++;
            else
                j++;
        return partner;
    }

    // Between two speeches that stayed: the same roles in the same order say something else now.
    private static void WrittenAnew(Speech[] a, Speech[] b, int[] partner, HashSet<int> moved)
    {
        var taken = partner.ToHashSet();
        int from = 0,
            start = 0;
        for (var i = 0; i <= a.Length; i++)
        {
            if (i < a.Length && (partner[i] < 0 || moved.Contains(i)))
                continue;
            var end = i == a.Length ? b.Length : partner[i];
            int[] old = [.. Enumerable.Range(from, i - from).Where(k => partner[k] < 0)],
                now = [.. Enumerable.Range(start, end - start).Where(k => !taken.Contains(k))];
            if (old.Select(k => a[k].Role).SequenceEqual(now.Select(k => b[k].Role)))
                foreach (var (o, n) in old.Zip(now))
                    partner[o] = n;
            (from, start) = (i + 1, end + 1);
        }
    }

    private static HashSet<int> Elsewhere(Speech[] a, Speech[] b, int[] partner)
    {
        int[] old = [.. Enumerable.Range(0, a.Length).Where(i => partner[i] < 0)],
            now = [.. Enumerable.Range(0, b.Length).Except(partner)];
        var moved = new HashSet<int>();
        if ((long)old.Length * now.Length > MostPairs)
            return moved;
        var pairs = old.SelectMany(i => now.Where(j => a[i].Role == b[j].Role).Select(j => (Old: i, New: j, Alike: Likeness(a[i], b[j]))));
        var taken = new HashSet<int>();
        foreach (var (i, j, _) in pairs.Where(p => p.Alike >= AlikeElsewhere && a[p.Old].Words.Length > 0).OrderByDescending(p => p.Alike).ToArray())
            if (!moved.Contains(i) && taken.Add(j))
            {
                partner[i] = j;
                moved.Add(i);
            }
        return moved;
    }
}
