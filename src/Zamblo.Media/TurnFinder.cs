using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>Who speaks when in a recording: by channel where each holds one speaker, else by voice.</summary>
public static class TurnFinder
{
    /// <summary>Finds turns.</summary>
    /// <param name="path">The file on disk.</param>
    /// <param name="name">What the person calls it.</param>
    /// <param name="speakers">1 to 6, or null to find out.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="MediaException">It holds no sound that can be read.</exception>
    public static async Task<IReadOnlyList<SpeakerTurn>> FindAsync(
        string path,
        string name,
        int? speakers,
        Action<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        var probe = await AudioFiles.ProbeAsync(path, name, cancel);
        var mono = await AudioFiles.DecodeAsync(path, name, CepstralFrontEnd.SampleRate, cancel);
        progress?.Invoke(0.1);
        var voiced = VoiceActivity.FromLevelsAndModel(
            LoudnessEnvelope.LevelsDb(mono),
            VoiceModel.Probabilities(mono, p => progress?.Invoke(0.1 + 0.3 * p), cancel)
        );
        progress?.Invoke(0.4);
        if (voiced.Count == 0)
            return [];
        if (probe.Channels == 2 && speakers is null or 2)
        {
            var left = await AudioFiles.ChannelAsync(path, name, 0, CepstralFrontEnd.SampleRate, cancel);
            var right = await AudioFiles.ChannelAsync(path, name, 1, CepstralFrontEnd.SampleRate, cancel);
            if (Turns.FromChannels(left, right, voiced) is { } byChannel)
                return byChannel;
        }
        return Turns.Find(mono, voiced, speakers, p => progress?.Invoke(0.4 + 0.6 * p), cancel);
    }
}
