namespace Zamblo.Core.Speech;

/// <summary>Words and how they are said, from a dictionary in the CMU layout: one line a pronunciation, "word(2) PH ON ES".</summary>
public sealed class PronunciationDictionary
{
    private readonly Dictionary<string, string[][]> _words = new(StringComparer.Ordinal);

    /// <summary>Number of words.</summary>
    public int Count => _words.Count;

    /// <summary>All words, in the order of the file.</summary>
    public IEnumerable<string> Words => _words.Keys;

    /// <summary>Reads a dictionary. Lines that are not entries are passed over.</summary>
    public static PronunciationDictionary Read(TextReader reader)
    {
        var result = new PronunciationDictionary();
        while (reader.ReadLine() is { } line)
        {
            var parts = line.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
            if (parts.Length < 2 || parts[0].StartsWith('#') || parts[0].StartsWith(";;;", StringComparison.Ordinal))
                continue;
            var word = parts[0].ToLowerInvariant();
            var mark = word.IndexOf('(');
            if (mark > 0)
                word = word[..mark];
            var phones = parts[1..].Select(p => string.Intern(p.TrimEnd('0', '1', '2'))).ToArray();
            result._words[word] = result._words.TryGetValue(word, out var known) ? [.. known, phones] : [phones];
        }
        return result;
    }

    /// <summary>Every pronunciation of a word (in lower case), or nothing when it is unknown.</summary>
    public IReadOnlyList<string[]> Lookup(string word) => _words.TryGetValue(word, out var found) ? found : [];
}
