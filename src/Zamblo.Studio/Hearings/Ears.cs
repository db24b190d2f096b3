using System.Text.Json;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;
using Zamblo.Media;

namespace Zamblo.Studio.Hearings;

/// <summary>A sound that nothing is known of yet, to be listened to.</summary>
/// <param name="Hash">Of the sound as it came.</param>
/// <param name="Name">For messages.</param>
/// <param name="Query">What is known about it.</param>
public sealed record Listening(string Hash, string Name, SpeechQuery Query);

/// <summary>Listening where the sound lies, and what is kept of it.</summary>
internal static class Ears
{
    /// <summary>Listens, here.</summary>
    /// <param name="path">Of the sound.</param>
    /// <param name="what">Which.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="MediaException">It cannot be decoded, or something that is needed is not installed.</exception>
    public static async Task<SpeechAnalysis> ListenAsync(string path, Listening what, Action<double>? progress, CancellationToken cancel) =>
        await SpeechModels.AnalyzeAsync(
            await AudioFiles.DecodeAsync(path, what.Name, CepstralFrontEnd.SampleRate, what.Query.Part, cancel),
            what.Query,
            null,
            progress,
            cancel
        );

    /// <summary>An analysis that was made elsewhere; null where it cannot be read, or is none.</summary>
    public static SpeechAnalysis? Read(byte[] json)
    {
        try
        {
            var speech = JsonSerializer.Deserialize<SpeechAnalysis>(json);
            if (speech?.Phones == null || speech.Words == null || speech.LevelsDb == null || !double.IsFinite(speech.Duration))
                return null;
            var at = 0.0;
            foreach (var p in speech.Phones)
            {
                if (p.Phone == null || !(p.Start >= at - 1e-6 && p.End > p.Start && p.End <= speech.Duration + 1e-3))
                    return null;
                at = p.End;
            }
            return speech.Words.Any(w => w.Text == null || !(w.End > w.Start)) ? null : speech;
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
