using System.Collections.Concurrent;

namespace Zamblo.Media;

/// <summary>How words are said that no dictionary has: by espeak-ng, asked once for each.</summary>
internal static class Saying
{
    // A recording of an hour has some two thousand different words.
    private const int Most = 50_000;

    private static readonly ConcurrentDictionary<(string Language, string Word), string[]> Known = new();

    /// <summary>In the model's phones; nothing where nobody knows.</summary>
    /// <param name="language">As the engine names it.</param>
    /// <param name="word">As it is spoken.</param>
    public static IReadOnlyList<string[]> Of(string language, string word)
    {
        if (!Known.TryGetValue((language, word), out var phones))
        {
            try
            {
                LearnAsync(language, [word]).GetAwaiter().GetResult();
            }
            catch (MediaException)
            {
                return [];
            }
            phones = Known.GetValueOrDefault((language, word), []);
        }
        return phones.Length == 0 ? [] : [phones];
    }

    /// <summary>Asks for many at once: afterwards each of them is known.</summary>
    /// <exception cref="MediaException">The engine is missing, or has no such language.</exception>
    public static async Task LearnAsync(string language, IEnumerable<string> words, CancellationToken cancel = default)
    {
        string[] missing = [.. words.Distinct().Where(w => !Known.ContainsKey((language, w)))];
        if (missing.Length == 0)
            return;
        if (Known.Count > Most)
            Known.Clear();
        var phones = await Espeak.PhonesAsync(language, missing, cancel);
        foreach (var (word, said) in missing.Zip(phones))
            Known[(language, word)] = said;
    }
}
