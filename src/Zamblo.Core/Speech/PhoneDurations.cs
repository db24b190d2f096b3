namespace Zamblo.Core.Speech;

/// <summary>
/// How long each phone usually is: the logarithm of a duration is about normal (Rosen, "Analysis of speech segment duration with the lognormal distribution",
/// Journal of Phonetics 33, 2005), with a mean and a spread of each phone's own; all of a neighbourhood are longer or shorter together, as fast as
/// somebody talks.
/// </summary>
internal sealed class PhoneDurations(IReadOnlyDictionary<string, double[]> logs)
{
    // Phones on either side by which the pace is judged.
    private const int Around = 20;

    /// <summary>Learned from phones whose times are known.</summary>
    /// <param name="phones">Silences are passed over.</param>
    public static IReadOnlyDictionary<string, double[]> Learn(IEnumerable<PhoneSegment> phones) =>
        phones
            .Where(p => !Arpabet.IsSilent(p.Phone) && p.Duration > 0.005)
            .GroupBy(p => p.Phone)
            .Where(g => g.Count() > 4)
            .OrderBy(g => g.Key, StringComparer.Ordinal)
            .ToDictionary(
                g => g.Key,
                g =>
                {
                    var mean = g.Average(p => Math.Log(p.Duration));
                    return new[] { Math.Round(mean, 3), Math.Round(Math.Max(0.15, Math.Sqrt(g.Average(p => Math.Pow(Math.Log(p.Duration) - mean, 2)))), 3) };
                }
            );

    /// <summary>For each phone how much longer than usual, as a logarithm, those around it are.</summary>
    public double[] Pace(IReadOnlyList<PhoneSegment> phones)
    {
        // Running sums of what is known.
        double[] sums = new double[phones.Count + 1],
            counts = new double[phones.Count + 1];
        for (var i = 0; i < phones.Count; i++)
        {
            var known = logs.TryGetValue(phones[i].Phone, out var log) && phones[i].Duration > 0.005;
            sums[i + 1] = sums[i] + (known ? Math.Clamp(Math.Log(phones[i].Duration) - log![0], -1, 1) : 0);
            counts[i + 1] = counts[i] + (known ? 1 : 0);
        }
        var pace = new double[phones.Count];
        for (var i = 0; i < phones.Count; i++)
        {
            int from = Math.Max(0, i - Around),
                to = Math.Min(phones.Count, i + Around + 1);
            // Few phones say little: eight of the usual pace are added.
            pace[i] = (sums[to] - sums[from]) / (counts[to] - counts[from] + 8);
        }
        return pace;
    }

    /// <summary>How unusual a duration is: half the square of its distance from the mean in spreads, at most 8; 0 where nothing is known.</summary>
    /// <param name="phone">ARPAbet.</param>
    /// <param name="seconds">More than 0.</param>
    /// <param name="pace">As <see cref="Pace"/> gives it.</param>
    public float Oddness(string phone, double seconds, double pace)
    {
        if (!logs.TryGetValue(phone, out var log))
            return 0;
        var away = (Math.Log(Math.Max(0.001, seconds)) - log[0] - pace) / log[1];
        return (float)Math.Min(8, away * away / 2);
    }
}
