namespace Zamblo.Core.Audio;

/// <summary>Keeps peaks under a limit without clipping and without delay.</summary>
public static class Limiter
{
    // So long before and after a peak the level goes down and comes back, in seconds (common practice for speech: some milliseconds).
    private const double Reach = 0.005;

    /// <summary>Amplifies, and where that would go over the limit takes back as much as it needs, smoothly.</summary>
    /// <param name="samples">Changed; full scale is 1.</param>
    /// <param name="sampleRate">In Hz.</param>
    /// <param name="gain">Factor.</param>
    /// <param name="limit">Greatest magnitude of a sample afterwards.</param>
    public static void Apply(float[] samples, int sampleRate, double gain, double limit)
    {
        for (var i = 0; i < samples.Length; i++)
            samples[i] = (float)(samples[i] * gain);
        var reach = Math.Max(1, (int)(Reach * sampleRate));
        // The least share that any sample within reach allows: it stays that far on both sides, so the mean over it never allows more.
        var least = new float[samples.Length];
        var queue = new LinkedList<int>();
        float Share(int i) => Math.Abs(samples[i]) <= limit ? 1 : (float)(limit / Math.Abs(samples[i]));
        for (int i = 0, ahead = 0; i < samples.Length; i++)
        {
            for (; ahead < samples.Length && ahead <= i + reach; ahead++)
            {
                while (queue.Last is { } last && Share(last.Value) >= Share(ahead))
                    queue.RemoveLast();
                queue.AddLast(ahead);
            }
            while (queue.First!.Value < i - reach)
                queue.RemoveFirst();
            least[i] = Share(queue.First.Value);
        }
        double sum = 0;
        int from = 0,
            to = 0;
        for (var i = 0; i < samples.Length; i++)
        {
            for (; to < samples.Length && to <= i + reach; to++)
                sum += least[to];
            for (; from < i - reach; from++)
                sum -= least[from];
            // Beyond the ends it would be as at the ends.
            var share = Math.Min(1, sum / (to - from));
            if (share < 1 - 1e-6)
                samples[i] = (float)Math.Clamp(samples[i] * share, -limit, limit);
        }
    }
}
