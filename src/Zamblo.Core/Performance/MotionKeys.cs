namespace Zamblo.Core.Performance;

/// <summary>Makes keys of motion that was performed by hand.</summary>
public static class MotionKeys
{
    /// <summary>How far keys may leave what was performed, in the channel's unit: less than is seen.</summary>
    public static double ToleranceOf(string channel) =>
        channel switch
        {
            "headTurn" or "headNod" or "headTilt" or "lean" => 0.4,
            "armLeft" or "armRight" or "elbowLeft" or "elbowRight" => 1,
            "shiftX" or "rise" or "stretch" or "crouch" or "footLeftX" or "footRightX" or "footLeftUp" or "footRightUp" => 0.003,
            _ => 0.02,
        };

    /// <summary>
    /// Takes the tremor out of samples: each becomes a mean of those around it, weighted by a Gaussian; at the ends the window gets shorter, so
    /// that the first and the last sample stay where they are.
    /// </summary>
    /// <param name="samples">Pairs of time in seconds and value, in order of time.</param>
    /// <param name="seconds">Standard deviation of the weights; 0 leaves all as it is. Samples closer than a sixteenth of it are one.</param>
    public static double[][] Smooth(IReadOnlyList<double[]> samples, double seconds)
    {
        if (seconds <= 0)
            return [.. samples];
        samples = Thinned(samples, seconds / 16);
        var result = new double[samples.Count][];
        for (var i = 0; i < samples.Count; i++)
        {
            var t = samples[i][0];
            // The same reach on both sides, else a slope would bend at the ends.
            var reach = Math.Min(3 * seconds, Math.Min(t - samples[0][0], samples[^1][0] - t));
            double sum = 0,
                weight = 0;
            int from = i,
                to = i;
            while (from > 0 && t - samples[from - 1][0] <= reach + 1e-9)
                from--;
            while (to < samples.Count - 1 && samples[to + 1][0] - t <= reach + 1e-9)
                to++;
            for (var k = from; k <= to; k++)
            {
                // Samples do not come evenly: each counts for the time that it stands for.
                double lasts = (samples[Math.Min(k + 1, samples.Count - 1)][0] - samples[Math.Max(k - 1, 0)][0]) / 2,
                    x = (samples[k][0] - t) / seconds;
                var w = Math.Max(1e-9, lasts) * Math.Exp(-0.5 * x * x);
                sum += w * samples[k][1];
                weight += w;
            }
            result[i] = [t, sum / weight];
        }
        return result;
    }

    /// <summary>
    /// Few keys whose curve (<see cref="Keys.At"/>) nowhere leaves the samples by more than a tolerance: the two ends, and then, round by round,
    /// in each stretch between two keys the sample that is furthest off (the idea of Ramer 1972 and of Douglas and Peucker 1973, on a curve).
    /// </summary>
    /// <param name="samples">Pairs of time in seconds and value, in order of time.</param>
    /// <param name="tolerance">In the unit of the values, more than 0.</param>
    public static double[][] Reduce(IReadOnlyList<double[]> samples, double tolerance)
    {
        if (samples.Count == 0 || samples.All(s => Math.Abs(s[1] - samples[0][1]) <= tolerance))
            return [.. samples.Take(1)];
        // A key at each end of a stretch, so that a stretch is never longer to go through than that.
        List<int> taken = [.. Enumerable.Range(0, (samples.Count - 1) / Stretch + 1).Select(k => k * Stretch)];
        if (taken[^1] != samples.Count - 1)
            taken.Add(samples.Count - 1);
        // A key bends the curve up to the second key away on both sides; further away nothing has to be looked at again.
        var stale = Enumerable.Repeat(true, taken.Count - 1).ToList();
        while (stale.Contains(true))
        {
            double[][] keys = [.. taken.Select(i => samples[i])];
            var next = new List<int>();
            var isNew = new List<bool>();
            for (var k = 0; k < taken.Count - 1; k++)
            {
                next.Add(taken[k]);
                isNew.Add(false);
                if (!stale[k])
                    continue;
                var (worst, most) = (-1, tolerance);
                var around = new ArraySegment<double[]>(keys, Math.Max(0, k - 1), Math.Min(keys.Length, k + 3) - Math.Max(0, k - 1));
                for (var i = taken[k] + 1; i < taken[k + 1]; i++)
                    if (Math.Abs(Keys.At(around, samples[i][0]) - samples[i][1]) is var off && off > most)
                        (worst, most) = (i, off);
                if (worst < 0)
                    continue;
                next.Add(worst);
                isNew.Add(true);
            }
            next.Add(taken[^1]);
            isNew.Add(false);
            taken = next;
            stale = [.. Enumerable.Range(0, next.Count - 1).Select(k => Enumerable.Range(k - 1, 4).Any(i => i >= 0 && i < isNew.Count && isNew[i]))];
        }
        return [.. taken.Select(i => samples[i])];
    }

    private const int Stretch = 512;

    // One mean for those that are closer together than a gap; the first and the last stay as they are.
    private static IReadOnlyList<double[]> Thinned(IReadOnlyList<double[]> samples, double gap)
    {
        if (samples.Count < 3)
            return samples;
        var result = new List<double[]> { samples[0] };
        for (var i = 1; i < samples.Count - 1; )
        {
            double from = samples[i][0],
                time = 0,
                value = 0;
            var count = 0;
            for (; i < samples.Count - 1 && (count == 0 || samples[i][0] - from < gap); i++, count++)
                (time, value) = (time + samples[i][0], value + samples[i][1]);
            result.Add([time / count, value / count]);
        }
        result.Add(samples[^1]);
        return result;
    }
}
