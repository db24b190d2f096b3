using System.Globalization;
using System.Text.RegularExpressions;

namespace Zamblo.Core.Performance;

/// <summary>What words say about moods: <c>moods.txt</c> of our own, and how it is read.</summary>
internal static partial class MoodWords
{
    // How far back a negation reaches, in words.
    private const int NegationReach = 3;

    private static readonly HashSet<string> Negations = new(StringComparer.Ordinal)
    {
        "not",
        "no",
        "never",
        "nobody",
        "nothing",
        "without",
        "hardly",
        "isn't",
        "aren't",
        "wasn't",
        "weren't",
        "don't",
        "doesn't",
        "didn't",
        "won't",
        "can't",
        "cannot",
        "couldn't",
        "wouldn't",
    };

    private sealed record Phrase(Mood Mood, double Weight, string[] Words)
    {
        public bool IsWord => Words.Count(w => w is not ("^" or "$")) == 1;
    }

    private static readonly Lazy<(IReadOnlyList<(Mood Mood, string[] Words)> Directions, ILookup<string, Phrase> Phrases)> Book = new(Read);

    private static (IReadOnlyList<(Mood, string[])> Directions, ILookup<string, Phrase> Phrases) Read()
    {
        using var stream = typeof(MoodWords).Assembly.GetManifestResourceStream("Zamblo.Core.Performance.moods.txt")!;
        using var reader = new StreamReader(stream);
        var directions = new List<(Mood, string[])>();
        var phrases = new List<Phrase>();
        var mood = Mood.Neutral;
        while (reader.ReadLine() is { } line)
        {
            if (line.Length == 0 || line[0] == '#')
                continue;
            if (line[0] == '[')
            {
                mood = Enum.Parse<Mood>(line[1..^1]);
                continue;
            }
            var colon = line.IndexOf(':');
            var (head, rest) = (line[..colon], line[(colon + 1)..]);
            if (head == "directions")
                directions.Add((mood, rest.Split(' ', StringSplitOptions.RemoveEmptyEntries)));
            else
                foreach (var phrase in rest.Split('|', StringSplitOptions.TrimEntries))
                    phrases.Add(
                        new Phrase(
                            mood,
                            double.Parse(head, CultureInfo.InvariantCulture),
                            phrase.Replace("^", "^ ").Split(' ', StringSplitOptions.RemoveEmptyEntries)
                        )
                    );
        }
        // By the first letter of the first word: few are looked at for each word of a line.
        return (directions, phrases.ToLookup(p => p.Words[0] == "^" ? p.Words[1][..1] : p.Words[0][..1]));
    }

    /// <summary>The mood that a direction names, and the word that does; null for none.</summary>
    public static (Mood Mood, string Word)? OfDirection(string direction)
    {
        string[] words = [.. Split(direction)];
        foreach (var word in words)
        foreach (var (mood, known) in Book.Value.Directions)
            if (known.Any(k => Is(k, word)))
                return (mood, word);
        return null;
    }

    /// <summary>What the words of a line say: mood, how much (0 to 1), and the words themselves.</summary>
    public static IEnumerable<(Mood Mood, double Weight, string Said)> Of(string text)
    {
        string[] words = [.. Split(text)];
        for (var i = 0; i < words.Length; i++)
            foreach (var phrase in Book.Value.Phrases[words[i][..1]])
                if (Length(phrase.Words, words, i) is > 0 and var length && !(phrase.IsWord && IsNegated(words, i)))
                    yield return (phrase.Mood, phrase.Weight, string.Join(' ', words[i..(i + length)]));
    }

    // How many words of the line a phrase takes from a place on; 0 where it is not there.
    private static int Length(string[] phrase, string[] words, int at)
    {
        var i = at;
        foreach (var p in phrase)
        {
            switch (p)
            {
                case "^" when i != 0:
                case "$" when i != words.Length:
                    return 0;
                case "^" or "$":
                    continue;
            }
            if (i >= words.Length || !Is(p, words[i]))
                return 0;
            i++;
        }
        return i - at;
    }

    private static bool IsNegated(string[] words, int at)
    {
        for (var i = Math.Max(0, at - NegationReach); i < at; i++)
            if (Negations.Contains(words[i]))
                return true;
        return false;
    }

    private static bool Is(string known, string word) => known[^1] == '*' ? word.StartsWith(known[..^1], StringComparison.Ordinal) : known == word;

    private static IEnumerable<string> Split(string text) => Word().Matches(text.ToLowerInvariant().Replace('\u2019', '\'')).Select(m => m.Value);

    [GeneratedRegex(@"[\p{L}\d]+(?:['-][\p{L}\d]+)*")]
    private static partial Regex Word();
}
