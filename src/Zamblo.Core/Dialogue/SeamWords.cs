namespace Zamblo.Core.Dialogue;

/// <summary>
/// Words at a boundary between turns that was moved. What lies away from it was heard well and stays; a recogniser listens to the last of that and the
/// seam together, since a word alone is heard badly, and only what it hears beyond the words that stay is new.
/// </summary>
public static class SeamWords
{
    // So many words that stay are looked for in what was heard, nearest to the seam first.
    private const int Context = 3;

    /// <summary>What comes after words that stay.</summary>
    /// <param name="kept">That stay, in order; the last is nearest to the seam.</param>
    /// <param name="heard">Some of them and what follows.</param>
    /// <returns>Null where the last word that stays was not heard again: nothing can be said of what follows.</returns>
    public static IReadOnlyList<string>? After(IReadOnlyList<string> kept, IReadOnlyList<string> heard)
    {
        if (kept.Count == 0)
            return heard;
        var best = -1;
        var most = 0;
        for (var p = 0; p < heard.Count; p++)
        {
            var alike = 0;
            while (alike < Context && alike <= p && alike < kept.Count && Same(heard[p - alike], kept[^(alike + 1)]))
                alike++;
            if (alike > most)
                (best, most) = (p, alike);
        }
        return best < 0 ? null : [.. heard.Skip(best + 1)];
    }

    /// <summary>What comes before words that stay.</summary>
    /// <param name="kept">That stay, in order; the first is nearest to the seam.</param>
    /// <param name="heard">What comes before, and some of them.</param>
    /// <returns>Null where the first word that stays was not heard again.</returns>
    public static IReadOnlyList<string>? Before(IReadOnlyList<string> kept, IReadOnlyList<string> heard) =>
        After([.. kept.Reverse()], [.. heard.Reverse()]) is { } found ? [.. found.Reverse()] : null;

    private static bool Same(string a, string b) => Bare(a) is { Length: > 0 } bare && bare == Bare(b);

    private static string Bare(string word) => string.Concat(word.Where(char.IsLetterOrDigit)).ToLowerInvariant();
}
