using System.Text.Json;

namespace Zamblo.Core.Speech;

/// <summary>
/// How much each value that describes a candidate counts for a boundary, per pair of phone classes: a log-linear choice among the candidates,
/// learned from synthesized speech whose boundaries are known (<c>./zamblo bench boundaries</c> learns and writes it).
/// </summary>
internal static class BoundaryWeights
{
    private static readonly Lazy<double[][][]> Table = new(() =>
    {
        using var stream = typeof(BoundaryWeights).Assembly.GetManifestResourceStream("Zamblo.Core.Speech.boundaries.json")!;
        return JsonSerializer.Deserialize<double[][][]>(stream)!;
    });

    /// <summary>Weights of a pair.</summary>
    /// <param name="pair">As <see cref="BoundaryRefiner.PairOf"/> says.</param>
    /// <param name="isNoisy">Learned in noise: there the spectrum says less, and where the decoder put the boundary says more.</param>
    public static double[] Of(int pair, bool isNoisy) => Table.Value[isNoisy ? 1 : 0][pair];
}
