namespace Zamblo.Core.Audio;

/// <summary>Turns music down while somebody speaks: known beforehand, so it is down when the first word starts and never pumps between words.</summary>
public static class Ducking
{
    /// <summary>How long it takes to go down before speech, and to come up again after it, in seconds (common practice: down quickly, up slowly).</summary>
    public const double Down = 0.25,
        Up = 0.6;

    /// <summary>Between two pieces of speech nearer than this, in seconds, it stays down.</summary>
    public const double Bridge = 1.5;

    /// <summary>Multiplies samples by the gain of each moment.</summary>
    /// <param name="samples">Changed in place.</param>
    /// <param name="sampleRate">In Hz.</param>
    /// <param name="speech">When somebody speaks, in seconds of these samples; any order, may overlap and lie outside.</param>
    /// <param name="db">How far it goes down, 0 and more.</param>
    /// <param name="offset">Where these samples lie in the sound whose seconds are meant, in samples.</param>
    public static void Apply(Span<float> samples, int sampleRate, IEnumerable<(double Start, double End)> speech, double db, int offset = 0)
    {
        if (db <= 0)
            return;
        var joined = new List<(double Start, double End)>();
        foreach (var (start, end) in speech.OrderBy(s => s.Start))
            if (joined.Count > 0 && start < joined[^1].End + Bridge)
                joined[^1] = (joined[^1].Start, Math.Max(joined[^1].End, end));
            else
                joined.Add((start, end));
        // Bridge is longer than both ramps, so no two ramps meet.
        foreach (var (start, end) in joined)
        {
            int from = Math.Clamp((int)Math.Ceiling((start - Down) * sampleRate) - offset, 0, samples.Length),
                to = Math.Clamp((int)Math.Floor((end + Up) * sampleRate) + 1 - offset, from, samples.Length);
            for (var i = from; i < to; i++)
            {
                var t = (double)(i + offset) / sampleRate;
                var share =
                    t < start ? (t - start + Down) / Down
                    : t > end ? (end + Up - t) / Up
                    : 1;
                samples[i] *= (float)Math.Pow(10, -db * Math.Clamp(share, 0, 1) / 20);
            }
        }
    }
}
