using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>What somebody tells of a voice before it is listened to.</summary>
/// <param name="Script">What it says; null for nothing.</param>
/// <param name="Language">BCP 47 tag; null for nothing, which is English as far as it sounds like it.</param>
public sealed record Said(string? Script, string? Language = null)
{
    /// <summary>What it says, with directions and with what comes back written out; null for nothing.</summary>
    public string? Script { get; } = Script == null ? null : LyricRepeats.WrittenOut(Script);

    /// <summary>The same as what is known about a take.</summary>
    public SpeechQuery Query => SpeechQuery.Of(Script ?? "", Language ?? "en") with { IsTold = Language != null };

    /// <summary>Listens to a voice that says this.</summary>
    /// <param name="audio">16 kHz only.</param>
    /// <param name="names">That may be said, as they are written.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <returns>What was heard, and what it says: with the rows that are sung again where they are.</returns>
    public async Task<(SpeechAnalysis Speech, Said Said)> HearAsync(
        AudioBuffer audio,
        IReadOnlyList<string> names,
        Action<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        var speech = await SpeechModels.AnalyzeAsync(audio, Query with { Names = names }, null, progress, cancel);
        if (speech.Repeats == null)
            return (speech, this);
        var sung = new Said(LyricRepeats.WithSung(Script!, speech.Repeats), Language);
        return (await SpeechModels.AnalyzeAsync(audio, sung.Query with { Names = names }, null, progress, cancel) with { Repeats = null }, sung);
    }
}
