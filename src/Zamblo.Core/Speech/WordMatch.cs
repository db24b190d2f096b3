namespace Zamblo.Core.Speech;

/// <summary>Which words of two texts are the same ones.</summary>
public static class WordMatch
{
    /// <summary>A word without its signs and capitals, as it is compared.</summary>
    public static string Plain(string word) => string.Concat(word.Where(char.IsLetterOrDigit)).ToLowerInvariant();

    /// <summary>
    /// For each old word the index of the same word in the new list, or -1, by a longest common subsequence (Wagner and Fischer 1974); equal
    /// ends are taken off first, so a small change costs little. Letters' case does not count.
    /// </summary>
    public static int[] Partners(IReadOnlyList<string> old, IReadOnlyList<string> now)
    {
        var result = new int[old.Count];
        Array.Fill(result, -1);
        bool Same(int i, int j) => string.Equals(old[i], now[j], StringComparison.OrdinalIgnoreCase);
        int head = 0,
            tail = 0;
        while (head < Math.Min(old.Count, now.Count) && Same(head, head))
        {
            result[head] = head;
            head++;
        }
        while (tail < Math.Min(old.Count, now.Count) - head && Same(old.Count - 1 - tail, now.Count - 1 - tail))
        {
            result[old.Count - 1 - tail] = now.Count - 1 - tail;
            tail++;
        }
        int n = old.Count - head - tail,
            m = now.Count - head - tail;
        // A text that is all new is not worth the table.
        if ((long)n * m > 25_000_000)
            return result;
        var length = new int[n + 1, m + 1];
        for (var i = n - 1; i >= 0; i--)
        for (var j = m - 1; j >= 0; j--)
            length[i, j] = Same(head + i, head + j) ? length[i + 1, j + 1] + 1 : Math.Max(length[i + 1, j], length[i, j + 1]);
        for (int i = 0, j = 0; i < n && j < m; )
            if (Same(head + i, head + j))
            {
                result[head + i] = head + j;
                i++;
                j++;
            }
            else if (length[i + 1, j] >= length[i, j + 1])
                i++;
            else
                j++;
        return result;
    }
}
