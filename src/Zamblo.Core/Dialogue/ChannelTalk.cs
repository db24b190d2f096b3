using Zamblo.Core.Audio;

namespace Zamblo.Core.Dialogue;

/// <summary>Recordings of two people with a microphone and a channel each. Where both speak at once both have a turn.</summary>
public static class ChannelTalk
{
    // So many dB louder in one channel, it is that one's voice.
    private const float Louder = 8;

    // Of a voice that arrives at the other's microphone: so many dB over it there is a second voice. Nothing is further away than the last.
    private const float OverBleed = 6,
        Furthest = 40;

    // In seconds: over which levels are evened out, what ends no turn, and what is none.
    private const double Smooth = 0.06,
        Pause = 0.3,
        Shortest = 0.2;

    /// <summary>Whether it is such a recording: each has the floor for some time, and hardly ever are both channels as loud.</summary>
    /// <param name="left">At any rate.</param>
    /// <param name="right">Of the same length.</param>
    /// <param name="voiced">Where there is a voice on either.</param>
    public static bool IsOne(AudioBuffer left, AudioBuffer right, IReadOnlyList<(double Start, double End)> voiced)
    {
        var difference = Difference(left, right);
        int first = 0,
            second = 0,
            all = 0;
        foreach (var (start, end) in voiced)
            for (var i = Math.Max(0, (int)(100 * start)); i < Math.Min(difference.Length, (int)(100 * end)); i++)
            {
                all++;
                first += difference[i] > Louder ? 1 : 0;
                second += difference[i] < -Louder ? 1 : 0;
            }
        return all > 0 && first >= 0.08 * all && second >= 0.08 * all && first + second >= 0.5 * all;
    }

    /// <summary>Its turns.</summary>
    /// <param name="left">At any rate.</param>
    /// <param name="right">Of the same length.</param>
    /// <param name="onLeft">Where there is a voice on the left channel.</param>
    /// <param name="onRight">On the right one.</param>
    /// <returns>In order of their starts, and the channel of each speaker, from 0.</returns>
    public static (IReadOnlyList<SpeakerTurn> Turns, IReadOnlyList<int> Channels) Turns(
        AudioBuffer left,
        AudioBuffer right,
        IReadOnlyList<(double Start, double End)> onLeft,
        IReadOnlyList<(double Start, double End)> onRight
    )
    {
        var difference = Difference(left, right);
        var even = Even(difference);
        var turns = Own(even, onLeft, 0).Concat(Own([.. even.Select(d => -d)], onRight, 1)).OrderBy(t => t.Start).ThenBy(t => t.End).ToArray();
        int[] channels = [.. turns.Select(t => t.Speaker).Distinct()];
        return ([.. turns.Select(t => t with { Speaker = Array.IndexOf(channels, t.Speaker) })], channels);
    }

    private static float[] Difference(AudioBuffer left, AudioBuffer right)
    {
        float[] l = LoudnessEnvelope.LevelsDb(left),
            r = LoudnessEnvelope.LevelsDb(right);
        var difference = new float[Math.Min(l.Length, r.Length)];
        for (var i = 0; i < difference.Length; i++)
            difference[i] = Math.Max(l[i], -60) - Math.Max(r[i], -60);
        return difference;
    }

    private static float[] Even(float[] values)
    {
        var reach = (int)(100 * Smooth);
        var result = new float[values.Length];
        for (var i = 0; i < values.Length; i++)
        {
            var (from, to) = (Math.Max(0, i - reach), Math.Min(values.Length, i + reach + 1));
            result[i] = LoudnessEnvelope.Percentile(values[from..to], 0.5);
        }
        return result;
    }

    // Of one channel: where it has a voice that is more than what the other one's leaves there.
    private static IEnumerable<SpeakerTurn> Own(float[] louder, IReadOnlyList<(double Start, double End)> voiced, int channel)
    {
        float[] others = [.. louder.Where(d => d < -Louder)];
        var bleed = others.Length == 0 ? -Furthest : Math.Max(-Furthest, LoudnessEnvelope.Percentile(others, 0.5));
        SpeakerTurn? open = null;
        foreach (var (start, end) in voiced)
        {
            var last = Math.Min(louder.Length, (int)(100 * end));
            for (var i = Math.Max(0, (int)(100 * start)); i < last; i++)
            {
                if (louder[i] <= bleed + OverBleed)
                    continue;
                var first = i;
                while (i + 1 < last && louder[i + 1] > bleed + OverBleed)
                    i++;
                if (i + 1 - first < 100 * Shortest / 2)
                    continue;
                if (open is { } o && first / 100.0 - o.End < Pause)
                    open = o with { End = (i + 1) / 100.0 };
                else
                {
                    if (open is { } done && done.End - done.Start >= Shortest)
                        yield return done;
                    open = new SpeakerTurn(first / 100.0, (i + 1) / 100.0, channel);
                }
            }
        }
        if (open is { } left && left.End - left.Start >= Shortest)
            yield return left;
    }
}
