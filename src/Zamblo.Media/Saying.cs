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
            Learn(language, [word], CancellationToken.None);
            phones = Known.GetValueOrDefault((language, word), []);
        }
        return phones.Length == 0 ? [] : [phones];
    }

    /// <summary>Asks for many at once. Where the engine is missing or has no such language nothing is known of them.</summary>
    public static void Learn(string language, IReadOnlyCollection<string> words, CancellationToken cancel)
    {
        string[] missing = [.. words.Distinct().Where(w => !Known.ContainsKey((language, w)))];
        if (missing.Length == 0)
            return;
        if (Known.Count > Most)
            Known.Clear();
        try
        {
            var phones = Espeak.PhonesAsync(language, missing, cancel).GetAwaiter().GetResult();
            foreach (var (word, said) in missing.Zip(phones))
                Known[(language, word)] = said;
        }
        catch (MediaException)
        {
            // Nobody says them: they are left out.
        }
    }
}
