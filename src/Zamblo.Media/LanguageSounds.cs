using System.Collections.Frozen;
using System.Text;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>
/// Which sounds follow each other in a language: told by its commonest words (about a hundred for each of eleven languages, from memory; common_words.txt) as
/// espeak-ng says them. Where nobody knows what is said, that is what is listened for.
/// </summary>
internal static class LanguageSounds
{
    private static readonly Lazy<FrozenDictionary<string, string[]>> Words = new(() =>
    {
        using var stream = typeof(LanguageSounds).Assembly.GetManifestResourceStream("common_words.txt")!;
        using var reader = new StreamReader(stream, Encoding.UTF8);
        return reader
            .ReadToEnd()
            .Split('\n', StringSplitOptions.RemoveEmptyEntries)
            .Select(l => l.Split(' ', StringSplitOptions.RemoveEmptyEntries))
            .ToFrozenDictionary(l => l[0], l => l[1..]);
    });

    /// <summary>The languages that are known, as espeak-ng's codes without a region.</summary>
    public static IEnumerable<string> Languages => Words.Value.Keys.Order(StringComparer.Ordinal);

    /// <summary>A code without its region: "fr" of "fr-fr"; null where the language is not known here.</summary>
    public static string? KeyOf(string language) => language.Split('-')[0] is var key && Words.Value.ContainsKey(key) ? key : null;

    /// <summary>The common words of a language and how they are said.</summary>
    /// <param name="language">As espeak-ng names it; one that is known.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="MediaException">The engine is missing.</exception>
    public static async Task<PronunciationDictionary> DictionaryAsync(string language, CancellationToken cancel = default)
    {
        var lines = await LinesAsync(language, cancel);
        return PronunciationDictionary.Read(new StringReader(string.Join('\n', lines)));
    }

    /// <summary>The common words of all of them together: what is listened for where it is none of these, or nobody knows which.</summary>
    /// <exception cref="MediaException">The engine is missing.</exception>
    public static async Task<PronunciationDictionary> AllAsync(CancellationToken cancel = default)
    {
        var lines = new List<string>();
        foreach (var language in Languages)
            // The same word of two languages is two.
            lines.AddRange((await LinesAsync(language, cancel)).Select(l => $"{language}:{l}"));
        return PronunciationDictionary.Read(new StringReader(string.Join('\n', lines)));
    }

    private static async Task<IEnumerable<string>> LinesAsync(string language, CancellationToken cancel)
    {
        var words = Words.Value[KeyOf(language)!];
        var phones = await Espeak.PhonesAsync(language, words, cancel);
        return words.Zip(phones).Where(p => p.Second.Length > 0).Select(p => $"{p.First} {string.Join(' ', p.Second)}");
    }
}
