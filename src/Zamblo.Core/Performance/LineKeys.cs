namespace Zamblo.Core.Performance;

/// <summary>
/// Numbers that name lines by what is said in them: what is drawn by chance hangs on its own line, so that a change in one leaves how the others are acted
/// as it was, wherever they come to lie.
/// </summary>
internal static class LineKeys
{
    /// <summary>Of lines in order of their start; one that says the same as an earlier one has another number.</summary>
    public static int[] Of(IReadOnlyList<PlacedSpeech> lines)
    {
        var seen = new Dictionary<uint, int>();
        return
        [
            .. lines.Select(l =>
            {
                var said = Said(l);
                var times = seen[said] = seen.GetValueOrDefault(said) + 1;
                return (int)(said * 31 + (uint)times);
            }),
        ];
    }

    // FNV-1a (Fowler, Noll and Vo) over the words, or over the sounds where nobody knows the words.
    private static uint Said(PlacedSpeech line)
    {
        var hash = 2166136261;
        void Put(string text)
        {
            foreach (var c in text)
                hash = (hash ^ char.ToLowerInvariant(c)) * 16777619;
            hash = (hash ^ ' ') * 16777619;
        }
        foreach (var word in line.Speech.Words)
            Put(word.Text);
        if (line.Speech.Words.Count == 0)
            foreach (var phone in line.Speech.Phones)
                Put(phone.Phone);
        return hash;
    }
}
