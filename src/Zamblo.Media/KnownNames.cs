using System.Collections.Frozen;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>What speaks for the names in a reading.</summary>
/// <param name="Word">The word that it is in, in small letters.</param>
/// <param name="Earned">By the names that it has.</param>
/// <param name="Bonus">The same with the name that it may be in: taken away when it turns out to be another word.</param>
internal readonly record struct NameTrail(string? Word, double Earned, double Bonus);

/// <summary>
/// Names that are likely to be said. While a reading spells one it is preferred, letter by letter; where it becomes another word, that is taken back (shallow
/// fusion with contextual biasing; Zhao et al., "Shallow-fusion end-to-end contextual biasing", Interspeech 2019, here over letters in place of a model's own
/// pieces). A name is only taken where something that sounds like it was heard without it.
/// </summary>
public sealed class KnownNames
{
    // Log likelihood by which a letter of a name is preferred, and what a whole one gets at the most (by the made set of the tests).
    private const double ByLetter = 1.3,
        Most = 7;

    // How much two words may differ in sound, as a share of the name: one is the other, misheard.
    private const double Alike = 0.5;

    // Of a word that is at least so likely there is no doubt; a name is taken for no more than so many words.
    private const float Sure = 0.93f;
    private const int MostWords = 3;
    private const int ShortestName = 4,
        MostNames = 200;

    private readonly FrozenDictionary<string, string> _names;
    private readonly FrozenSet<string> _beginnings;
    private readonly string[] _keys;

    private KnownNames(Dictionary<string, string> names)
    {
        _names = names.ToFrozenDictionary();
        _beginnings = names.Keys.SelectMany(n => Enumerable.Range(1, n.Length).Select(i => n[..i])).ToFrozenSet();
        _keys = [.. names.Keys.Select(SoundOf).Distinct()];
        Written = string.Join(' ', names.Values.Order(StringComparer.Ordinal));
    }

    /// <summary>All of them, as they are written.</summary>
    public string Written { get; }

    /// <summary>
    /// Names with a capital letter, word by word; null for none. Those that are everyday words, too, are left to the recogniser: it writes them small and
    /// great.
    /// </summary>
    public static KnownNames? Of(IReadOnlyList<string> names)
    {
        var words = new Dictionary<string, string>();
        foreach (var word in names.SelectMany(n => n.Split([' ', '-', '_', '/', '(', ')', ',', '.'], StringSplitOptions.RemoveEmptyEntries)))
            if (words.Count < MostNames && word.Length >= ShortestName && char.IsUpper(word[0]) && word.All(char.IsLetter) && !WordRecogniser.IsEveryday(word))
                words.TryAdd(word.ToLowerInvariant(), word.Skip(1).All(char.IsUpper) ? word[0] + word[1..].ToLowerInvariant() : word);
        return words.Count == 0 ? null : new KnownNames(words);
    }

    /// <summary>How it is after one more piece of a word.</summary>
    /// <param name="trail">Before it.</param>
    /// <param name="piece">"▁" begins a word; null where all is over.</param>
    internal NameTrail After(NameTrail trail, string? piece)
    {
        var (word, earned) = (trail.Word ?? "", trail.Earned);
        if (piece == null || piece.StartsWith('▁'))
            (word, earned) = ("", earned + WholeOf(word));
        if (piece != null)
            word += piece.TrimStart('▁').ToLowerInvariant();
        // Punctuation and an apostrophe end a name within its word.
        var plain = Plain(word);
        var now =
            plain.Length < word.Length ? WholeOf(word)
            : _beginnings.Contains(plain) ? Math.Min(Most, ByLetter * plain.Length)
            : 0;
        return new NameTrail(word, earned, earned + now);
    }

    private double WholeOf(string word) => _names.ContainsKey(Plain(word)) ? Math.Min(Most, ByLetter * Plain(word).Length) : 0;

    private static string Plain(string word)
    {
        var end = 0;
        while (end < word.Length && char.IsLetter(word[end]))
            end++;
        return word[..end];
    }

    /// <summary>Whether something in it sounds like a name that it has not.</summary>
    internal bool MayBeIn(IReadOnlyList<DraftWord> words) => Heard(words).Any();

    // Words, and two together, that sound like a name and are none, and of which the recogniser is not sure.
    private IEnumerable<(string Key, int At)> Heard(IReadOnlyList<DraftWord> words)
    {
        string[] plain = [.. words.Select(w => Plain(w.Text.ToLowerInvariant()))];
        for (var i = 0; i < plain.Length; i++)
        {
            if (_names.ContainsKey(plain[i]) || words[i].Likelihood > Sure)
                continue;
            foreach (var key in _keys)
                if (IsAlike(SoundOf(plain[i]), key) || i + 1 < plain.Length && IsAlike(SoundOf(plain[i] + plain[i + 1]), key))
                    yield return (key, i);
        }
    }

    /// <summary>A reading with the names that were found when they were in mind: each where the plain one has something that sounds like it.</summary>
    /// <param name="plain">The reading without names in mind; all else stays as it says.</param>
    /// <param name="named">The one with them.</param>
    internal IReadOnlyList<DraftWord> Named(IReadOnlyList<DraftWord> plain, IReadOnlyList<DraftWord> named)
    {
        static string[] Words(IReadOnlyList<DraftWord> words) => [.. words.Select(w => WordMatch.Plain(w.Text))];
        var partners = WordMatch.Partners(Words(plain), Words(named));
        var heard = Heard(plain).ToHashSet();
        var result = new List<DraftWord>();
        // From one word that both have to the next: what lies between is taken from the other reading where that finds a name in it.
        int from = 0,
            fromNamed = 0;
        for (var i = 0; i <= plain.Count; i++)
        {
            if (i < plain.Count && partners[i] < 0)
                continue;
            var toNamed = i < plain.Count ? partners[i] : named.Count;
            var (was, now) = (plain.Skip(from).Take(i - from).ToArray(), named.Skip(fromNamed).Take(toNamed - fromNamed).ToArray());
            result.AddRange(IsName(was, now, from, heard) ? WithSigns(was, now) : was);
            if (i < plain.Count)
                result.Add(plain[i]);
            (from, fromNamed) = (i + 1, toNamed + 1);
        }
        return result;
    }

    private bool IsName(DraftWord[] was, DraftWord[] now, int from, HashSet<(string Key, int At)> heard) =>
        was.Length is > 0 and <= MostWords
        && now.Length > 0
        && now.Length <= was.Length
        && !was.Any(w => _names.ContainsKey(Plain(w.Text.ToLowerInvariant())))
        && now.Select(w => Plain(w.Text.ToLowerInvariant()))
            .Any(n => _names.ContainsKey(n) && Enumerable.Range(from, was.Length).Any(at => heard.Contains((SoundOf(n), at))));

    // As it ended before.
    private static DraftWord[] WithSigns(DraftWord[] was, DraftWord[] now)
    {
        const string signs = ".,;:!?\u2026\"";
        var end = was[^1].Text[was[^1].Text.AsSpan().TrimEnd(signs).Length..];
        return [.. now[..^1], now[^1] with { Text = string.Concat(now[^1].Text.AsSpan().TrimEnd(signs), end) }];
    }

    /// <summary>Names as they are written here.</summary>
    internal IReadOnlyList<DraftWord> Spelled(IReadOnlyList<DraftWord> words) =>
        [
            .. words.Select(w =>
                Plain(w.Text) is { Length: > 0 } plain && _names.TryGetValue(plain.ToLowerInvariant(), out var name)
                    ? w with
                    {
                        Text = name + w.Text[plain.Length..],
                    }
                    : w
            ),
        ];

    private static bool IsAlike(string word, string name) => word.Length >= 2 && Distance(word, name) <= Alike * name.Length;

    // Edit distance (Wagner and Fischer 1974): a vowel more or less is half a step.
    private static double Distance(string a, string b)
    {
        static double Cost(char c) => c == 'a' ? 0.5 : 1;
        var row = new double[b.Length + 1];
        for (var j = 1; j <= b.Length; j++)
            row[j] = row[j - 1] + Cost(b[j - 1]);
        foreach (var c in a)
        {
            var before = row[0];
            row[0] += Cost(c);
            for (var j = 1; j <= b.Length; j++)
            {
                var swap = before + (c == b[j - 1] ? 0 : 1);
                before = row[j];
                row[j] = Math.Min(swap, Math.Min(row[j] + Cost(c), row[j - 1] + Cost(b[j - 1])));
            }
        }
        return row[^1];
    }

    /// <summary>Roughly how a word sounds: letters that are said alike are one, all vowels, too, and what is doubled is single.</summary>
    internal static string SoundOf(string word)
    {
        var sound = new System.Text.StringBuilder();
        var plain = word.Replace("ph", "f").Replace("ck", "k").Replace("wh", "w").Replace("kn", "n").Replace("th", "t").Replace("gh", "");
        foreach (var c in plain)
        {
            var s = c switch
            {
                'a' or 'e' or 'i' or 'o' or 'u' or 'y' or 'h' => 'a',
                'c' or 'q' or 'k' or 'x' or 'g' => 'k',
                'z' or 's' or 'j' => 's',
                'v' or 'f' => 'f',
                'd' or 't' => 't',
                'b' or 'p' => 'p',
                _ => c,
            };
            if (sound.Length == 0 || sound[^1] != s)
                sound.Append(s);
        }
        return sound.ToString();
    }
}
