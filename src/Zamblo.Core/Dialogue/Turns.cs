using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Dialogue;

/// <summary>A stretch in which one speaker talks.</summary>
/// <param name="Start">In seconds.</param>
/// <param name="End">In seconds.</param>
/// <param name="Speaker">From 0, in order of appearance.</param>
public readonly record struct SpeakerTurn(double Start, double End, int Speaker);

/// <summary>
/// Who speaks when: voice regions are cut where the voice changes (Bayesian information criterion: Chen and Gopalakrishnan, "Speaker,
/// environment and channel change detection and clustering via the Bayesian information criterion", 1998), the pieces are clustered by the
/// same measure, and the whole is segmented anew by Viterbi over one mixture model a speaker. Cepstra carry the throat, pitch the voice.
/// </summary>
public static class Turns
{
    /// <summary>Fewest and most speakers that are looked for.</summary>
    public const int Fewest = 1,
        Most = 6;

    // Of segmentation.
    private const int Rounds = 4;

    /// <summary>Finds turns.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <param name="voiced">Where there is a voice, in order.</param>
    /// <param name="speakers">How many there are, or null to find out.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the work.</param>
    public static IReadOnlyList<SpeakerTurn> Find(
        AudioBuffer audio,
        IReadOnlyList<(double Start, double End)> voiced,
        int? speakers,
        Action<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        if (audio.SampleRate != CepstralFrontEnd.SampleRate)
            throw new ArgumentException("Turns are found at 16 kHz.", nameof(audio));
        if (speakers is { } wanted)
            speakers = Math.Clamp(wanted, Fewest, Most);
        var sound = new VoiceFrames(audio, cancel);
        progress?.Invoke(0.35);
        var pieces = TurnClusters.Cut(sound, voiced);
        if (pieces.Count == 0)
            return [];
        progress?.Invoke(0.45);
        var clusters = TurnClusters.Cluster(sound, pieces, speakers, cancel);
        progress?.Invoke(0.7);
        // Clustering may have gone by what is said, not by who says it. Voices apart in pitch and throat on the whole are a second guess; the one
        // whose models explain the recording better in the end holds.
        int[]? best = null;
        var fit = double.NegativeInfinity;
        var guesses = clusters.Count == 1 ? (List<List<(int, int)>>[])[clusters] : [clusters, TurnClusters.ByVoice(sound, pieces, clusters.Count)];
        for (var g = 0; g < guesses.Length; g++)
        {
            var labels = new int[sound.Count];
            Array.Fill(labels, -1);
            for (var c = 0; c < guesses[g].Count; c++)
                foreach (var (first, last) in guesses[g][c])
                    for (var f = first; f < last; f++)
                        labels[f] = c;
            double now = 0;
            for (var round = 0; round < Rounds; round++)
            {
                now = TurnSegmenter.Resegment(sound, pieces, labels, guesses[g].Count, cancel);
                progress?.Invoke(0.7 + 0.3 * (g * Rounds + round + 1) / (guesses.Length * Rounds));
            }
            if (now > fit)
                (best, fit) = (labels, now);
        }
        if (speakers == null)
            TurnSegmenter.MergeAlike(sound, pieces, best!, cancel);
        return Collect(sound, best!);
    }

    private static IReadOnlyList<SpeakerTurn> Collect(VoiceFrames sound, int[] labels)
    {
        var turns = new List<SpeakerTurn>();
        for (var f = 0; f < labels.Length; f++)
        {
            if (labels[f] < 0)
                continue;
            var first = f;
            while (f + 1 < labels.Length && labels[f + 1] == labels[first])
                f++;
            turns.Add(new SpeakerTurn(sound.TimeOf(first), sound.TimeOf(f + 1), labels[first]));
        }
        return Tidy(turns);
    }

    // In order, numbered as they appear, short pauses within one speaker's talk bridged.
    private static IReadOnlyList<SpeakerTurn> Tidy(List<SpeakerTurn> turns)
    {
        var names = new Dictionary<int, int>();
        var result = new List<SpeakerTurn>();
        foreach (var t in turns.OrderBy(t => t.Start))
        {
            if (!names.TryGetValue(t.Speaker, out var name))
                names[t.Speaker] = name = names.Count;
            if (result.Count > 0 && result[^1].Speaker == name && t.Start - result[^1].End < 0.3)
                result[^1] = result[^1] with { End = t.End };
            else
                result.Add(t with { Speaker = name });
        }
        return result;
    }
}
