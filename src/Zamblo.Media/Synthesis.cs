using System.Collections.Concurrent;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>All synthesis voices, whatever engine they belong to: "espeak:en-gb+f3", "flite:slt".</summary>
public static class Synthesis
{
    /// <summary>Every voice that can speak here.</summary>
    /// <exception cref="MediaException">No engine has any; why.</exception>
    public static async Task<IReadOnlyList<Voice>> VoicesAsync(CancellationToken cancel = default)
    {
        var voices = new List<Voice>();
        MediaException? failure = null;
        // Each engine by itself: one that is broken does not silence the others.
        foreach (var engine in (Func<CancellationToken, Task<IReadOnlyList<Voice>>>[])[Flite.VoicesAsync, Espeak.VoicesAsync])
            try
            {
                voices.AddRange(await engine(cancel));
            }
            catch (MediaException e)
            {
                failure = e;
            }
        return voices.Count == 0 && failure != null ? throw failure : voices;
    }

    /// <summary>The language of a voice: "espeak:de+f3" speaks "de", and whoever has that voice is heard in it.</summary>
    public static string LanguageOf(string voice) => voice[(voice.IndexOf(':') + 1)..].Split('+')[0];

    // The lists are the engines' own and do not change while the program runs; a failure is not kept.
    private static readonly ConcurrentDictionary<string, Task<IReadOnlyList<Voice>>> Known = new();

    /// <summary>Refuses a voice that no engine here has: nothing else ever reaches an engine as a name.</summary>
    /// <exception cref="MediaException">There is no such voice.</exception>
    public static async Task CheckAsync(string voice, CancellationToken cancel = default)
    {
        var isFlite = voice.StartsWith(Flite.Prefix, StringComparison.Ordinal);
        var engine = isFlite ? nameof(Flite) : nameof(Espeak);
        if (!Known.TryGetValue(engine, out var known) || known.IsFaulted || known.IsCanceled)
            Known[engine] = known = isFlite ? Flite.VoicesAsync(CancellationToken.None) : Espeak.VoicesAsync(CancellationToken.None);
        var all = await known.WaitAsync(cancel);
        var parts = voice.Split('+');
        var isVariant =
            parts.Length == 1 || (parts.Length == 2 && parts[1].Length is > 0 and <= 24 && parts[1].All(c => char.IsAsciiLetterOrDigit(c) || c is '_' or '-'));
        // Without the name of an engine it is espeak's.
        var name = parts[0].Contains(':', StringComparison.Ordinal) ? parts[0] : "espeak:" + parts[0];
        if (voice.Length > 80 || !isVariant || !all.Any(v => v.Key == name))
            throw new MediaException($"There is no voice \"{(voice.Length > 80 ? voice[..80] : voice)}\" here.");
    }

    /// <summary>Speaks a text; directions in it ("(whispering)", "[laughs]") are not spoken.</summary>
    /// <param name="voice">Key of a voice.</param>
    /// <param name="text">What is said.</param>
    /// <param name="delivery">How.</param>
    /// <param name="cancel">Stops the engine.</param>
    /// <exception cref="MediaException">No such voice, nothing to speak, text too long, or the engine failed.</exception>
    public static Task<SpokenText> SpeakAsync(string voice, string text, Delivery delivery, CancellationToken cancel = default)
    {
        var spoken = Directions.Spoken(text);
        if (text.Length > 0 && string.IsNullOrWhiteSpace(spoken))
            throw new MediaException("There is only a direction: write what is said as well.");
        return voice.StartsWith(Flite.Prefix, StringComparison.Ordinal)
            ? Flite.SpeakAsync(voice, spoken, delivery, cancel)
            : Espeak.SpeakAsync(voice, spoken, delivery, cancel);
    }
}
