namespace Zamblo.Core.Speech;

/// <summary>
/// Finds words among phones whose times are known, by aligning what the dictionary expects with what was said (least cost, as Needleman and Wunsch
/// 1970).
/// </summary>
public static class WordFinder
{
    /// <summary>Words in time; a word none of whose phones were said is left out.</summary>
    /// <param name="words">In order.</param>
    /// <param name="phones">In order of time, silence included.</param>
    /// <param name="pronounce">Pronunciations of a lower-case word, the likeliest first.</param>
    public static IReadOnlyList<WordSegment> Find(
        IReadOnlyList<ScriptWord> words,
        IReadOnlyList<PhoneSegment> phones,
        Func<string, IReadOnlyList<string[]>> pronounce
    )
    {
        var said = phones.Where(p => !Arpabet.IsSilent(p.Phone)).ToArray();
        var expected = new List<(string Phone, int Word)>();
        for (var w = 0; w < words.Count; w++)
            foreach (var spoken in words[w].Spoken)
            foreach (var phone in pronounce(spoken).FirstOrDefault() ?? [])
                if (!Arpabet.IsSilent(phone))
                    expected.Add((phone, w));
        var owner = Align(expected, said);
        var result = new List<WordSegment>();
        for (var w = 0; w < words.Count; w++)
        {
            var own = Enumerable.Range(0, said.Length).Where(i => owner[i] == w).ToArray();
            if (own.Length > 0)
                result.Add(new WordSegment(words[w].Text, said[own[0]].Start, said[own[^1]].End));
        }
        return result;
    }

    // The word of each phone that was said; what nothing was expected for goes with its neighbour.
    private static int[] Align(List<(string Phone, int Word)> expected, PhoneSegment[] said)
    {
        int n = expected.Count,
            m = said.Length;
        var owner = new int[m];
        Array.Fill(owner, -1);
        if (n == 0 || m == 0)
            return owner;
        var cost = new float[n + 1, m + 1];
        for (var i = 1; i <= n; i++)
            cost[i, 0] = i;
        for (var j = 1; j <= m; j++)
            cost[0, j] = j;
        for (var i = 1; i <= n; i++)
        for (var j = 1; j <= m; j++)
            cost[i, j] = Math.Min(cost[i - 1, j - 1] + Distance(expected[i - 1].Phone, said[j - 1].Phone), Math.Min(cost[i - 1, j], cost[i, j - 1]) + 1);
        for (int i = n, j = m; i > 0 && j > 0; )
        {
            if (Math.Abs(cost[i, j] - cost[i - 1, j - 1] - Distance(expected[i - 1].Phone, said[j - 1].Phone)) < 1e-4f)
                owner[--j] = expected[--i].Word;
            else if (Math.Abs(cost[i, j] - cost[i - 1, j] - 1) < 1e-4f)
                i--;
            else
                owner[--j] = expected[i - 1].Word;
        }
        for (var j = 1; j < m; j++)
            if (owner[j] < 0)
                owner[j] = owner[j - 1];
        for (var j = m - 2; j >= 0; j--)
            if (owner[j] < 0)
                owner[j] = owner[j + 1];
        return owner;
    }

    private static float Distance(string a, string b) =>
        a == b ? 0
        : Arpabet.Vowels.Contains(a) == Arpabet.Vowels.Contains(b) ? 0.6f
        : 1.5f;
}
