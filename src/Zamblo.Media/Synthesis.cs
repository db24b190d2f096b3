namespace Zamblo.Media;

/// <summary>All synthesis voices, whatever engine they belong to: "espeak:en-gb+f3", "flite:slt".</summary>
public static class Synthesis
{
    /// <summary>Every voice that can speak here.</summary>
    public static async Task<IReadOnlyList<Voice>> VoicesAsync(CancellationToken cancel = default) => [.. await Flite.VoicesAsync(cancel), .. await Espeak.VoicesAsync(cancel)];

    /// <summary>Speaks a text.</summary>
    /// <param name="voice">Key of a voice.</param>
    /// <param name="text">What is said.</param>
    /// <param name="delivery">How.</param>
    /// <param name="cancel">Stops the engine.</param>
    /// <exception cref="MediaException">No such voice, nothing to speak, text too long, or the engine failed.</exception>
    public static Task<SpokenText> SpeakAsync(string voice, string text, Delivery delivery, CancellationToken cancel = default) =>
        voice.StartsWith(Flite.Prefix, StringComparison.Ordinal) ? Flite.SpeakAsync(voice, text, delivery, cancel) : Espeak.SpeakAsync(voice, text, delivery, cancel);
}
