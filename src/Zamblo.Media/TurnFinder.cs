using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>Who speaks when, and how to hear each alone where two speak at once.</summary>
/// <param name="Turns">In order of their starts; turns of different speakers may overlap.</param>
public sealed record FoundTurns(IReadOnlyList<SpeakerTurn> Turns)
{
    /// <summary>Channel of each speaker, where each has one of their own; empty where all are in all of them.</summary>
    public IReadOnlyList<int> Channels { get; init; } = [];

    /// <summary>Where two voices of one channel speak at once; null where that is not so.</summary>
    internal VoiceOverlaps? Overlaps { get; init; }

    /// <summary>Whether somebody else speaks within a turn.</summary>
    public bool IsOverlapped(SpeakerTurn turn) => Turns.Any(o => o.Speaker != turn.Speaker && o.Start < turn.End && o.End > turn.Start);

    /// <summary>What one speaker says, where others speak at the same time in the same channel.</summary>
    /// <param name="speaker">Whose voice.</param>
    /// <param name="audio">The recording, at any rate.</param>
    /// <param name="start">In seconds.</param>
    /// <param name="end">In seconds.</param>
    /// <returns>From start to end; null where nobody else speaks meanwhile, or each has a channel.</returns>
    public AudioBuffer? Apart(int speaker, AudioBuffer audio, double start, double end) =>
        Overlaps?.Found.Any(o => (o.One == speaker || o.Two == speaker) && o.Start < end && o.End > start) == true
            ? Overlaps.Apart(speaker, audio, start, end, Turns)
            : null;
}

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
    public static async Task<FoundTurns> FindAsync(string path, string name, int? speakers, Action<double>? progress = null, CancellationToken cancel = default)
    {
        var probe = await AudioFiles.ProbeAsync(path, name, cancel);
        var mono = await AudioFiles.DecodeAsync(path, name, CepstralFrontEnd.SampleRate, cancel);
        progress?.Invoke(0.1);
        var voiced = Voiced(mono, p => progress?.Invoke(0.1 + 0.3 * p), cancel);
        progress?.Invoke(0.4);
        if (voiced.Count == 0)
            return new FoundTurns([]);
        if (probe.Channels == 2 && speakers is null or 2)
        {
            var left = await AudioFiles.ChannelAsync(path, name, 0, CepstralFrontEnd.SampleRate, null, cancel);
            var right = await AudioFiles.ChannelAsync(path, name, 1, CepstralFrontEnd.SampleRate, null, cancel);
            if (ChannelTalk.IsOne(left, right, voiced))
            {
                var byChannel = ChannelTalk.Turns(
                    left,
                    right,
                    Voiced(left, p => progress?.Invoke(0.4 + 0.3 * p), cancel),
                    Voiced(right, p => progress?.Invoke(0.7 + 0.3 * p), cancel)
                );
                return new FoundTurns(byChannel.Turns) { Channels = byChannel.Channels };
            }
        }
        var turns = Turns.Find(mono, voiced, speakers, p => progress?.Invoke(0.4 + 0.4 * p), cancel);
        if (turns.Select(t => t.Speaker).Distinct().Count() < 2)
            return new FoundTurns(turns);
        var overlaps = VoiceOverlaps.Find(mono, turns, cancel);
        progress?.Invoke(1);
        return overlaps.Found.Count == 0 ? new FoundTurns(turns) : new FoundTurns(overlaps.Turns(turns)) { Overlaps = overlaps };
    }

    private static IReadOnlyList<(double Start, double End)> Voiced(AudioBuffer audio, Action<double> progress, CancellationToken cancel) =>
        VoiceActivity.FromLevelsAndModel(LoudnessEnvelope.LevelsDb(audio), VoiceModel.Probabilities(audio, progress, cancel));
}
