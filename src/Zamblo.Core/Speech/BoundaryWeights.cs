using System.Text.Json;

namespace Zamblo.Core.Speech;

/// <summary>What lies about a voice where boundaries are looked for.</summary>
internal enum Surroundings
{
    /// <summary>Nothing to speak of.</summary>
    Quiet,

    /// <summary>Noise, close under the speech: there the spectrum says less, and where the decoder put a boundary says more.</summary>
    Noise,

    /// <summary>What is left of an echo.</summary>
    Room,
}

/// <summary>
/// How much each value that describes a candidate counts for a boundary, per pair of phone classes: a log-linear choice among the candidates,
/// learned from synthesized speech whose boundaries are known (<c>./zamblo bench boundaries</c> learns and writes it).
/// </summary>
internal static class BoundaryWeights
{
    /// <summary>What the file holds: mean and spread of the logarithm of each phone's seconds, and weights by pair in quiet, in noise and in a room.</summary>
    internal sealed record Tables(Dictionary<string, double[]> Durations, double[][] Quiet, double[][] Noise, double[][] Room);

    private static readonly Lazy<Tables> Table = new(() =>
    {
        using var stream = typeof(BoundaryWeights).Assembly.GetManifestResourceStream("Zamblo.Core.Speech.boundaries.json")!;
        return JsonSerializer.Deserialize<Tables>(stream, JsonSerializerOptions.Web)!;
    });

    /// <summary>How long phones usually are.</summary>
    public static PhoneDurations Durations { get; } = new(Table.Value.Durations);

    /// <summary>Weights of a pair.</summary>
    /// <param name="pair">As <see cref="BoundaryRefiner.PairOf"/> says.</param>
    /// <param name="around">Where they were learned.</param>
    public static double[] Of(int pair, Surroundings around) =>
        (
            around switch
            {
                Surroundings.Noise => Table.Value.Noise,
                Surroundings.Room => Table.Value.Room,
                _ => Table.Value.Quiet,
            }
        )[pair];
}
