using System.Runtime.Intrinsics;

namespace Zamblo.Core.Dialogue;

/// <summary>How somebody sounds: a mixture of Gaussians over the bands of <see cref="VoiceBands"/>, with diagonal covariances.</summary>
internal sealed class BandMixture
{
    private const int D = VoiceBands.Bands;

    // Frames that a component needs, components at most, rounds of learning, and the least variance in nats²: what a voice varies by within one sound.
    private const int FramesEach = 25,
        Most = 40,
        Rounds = 8,
        MostFrames = 8000;
    private const float LeastVariance = 0.7f;

    private readonly float[] _weight,
        _mean,
        _variance,
        _norm;

    /// <param name="bands">The recording.</param>
    /// <param name="frames">Those in which this voice is heard alone; at least one.</param>
    public BandMixture(VoiceBands bands, IReadOnlyList<int> frames)
    {
        var stride = Math.Max(1, frames.Count / MostFrames);
        int[] own = [.. frames.Where((_, i) => i % stride == 0)];
        Size = Math.Clamp(own.Length / FramesEach, 1, Most);
        (_weight, _mean, _variance, _norm) = (new float[Size], new float[Size * D], new float[Size * D], new float[Size]);
        var (mean, spread) = (new double[D], new double[D]);
        foreach (var f in own)
            for (var d = 0; d < D; d++)
                mean[d] += bands[f][d] / own.Length;
        foreach (var f in own)
            for (var d = 0; d < D; d++)
                spread[d] += (bands[f][d] - mean[d]) * (bands[f][d] - mean[d]) / own.Length;
        for (var c = 0; c < Size; c++)
        {
            _weight[c] = 1f / Size;
            var seed = bands[own[(int)((c + 0.5) * own.Length / Size)]];
            for (var d = 0; d < D; d++)
                (_mean[c * D + d], _variance[c * D + d]) = (seed[d], (float)Math.Max(LeastVariance, spread[d] / 2));
        }
        for (var round = 0; round < Rounds; round++)
        {
            Normalise();
            Learn(bands, own);
        }
        Normalise();
    }

    // What does not depend on the frame.
    private void Normalise()
    {
        for (var c = 0; c < Size; c++)
        {
            _norm[c] = 2 * MathF.Log(_weight[c]) - D * MathF.Log(2 * MathF.PI);
            for (var d = 0; d < D; d++)
                _norm[c] -= MathF.Log(_variance[c * D + d]);
        }
    }

    /// <summary>How many components there are.</summary>
    public int Size { get; }

    private void Learn(VoiceBands bands, int[] own)
    {
        var (count, sum, square) = (new double[Size], new double[Size * D], new double[Size * D]);
        var share = new float[Size];
        foreach (var f in own)
        {
            var x = bands[f];
            Score(x, share);
            for (var c = 0; c < Size; c++)
            {
                if (share[c] < 1e-3f)
                    continue;
                count[c] += share[c];
                for (var d = 0; d < D; d++)
                {
                    sum[c * D + d] += share[c] * x[d];
                    square[c * D + d] += share[c] * x[d] * x[d];
                }
            }
        }
        for (var c = 0; c < Size; c++)
        {
            _weight[c] = (float)Math.Max(1e-5, count[c] / own.Length);
            // Components that lost their frames keep what they were.
            if (count[c] < 3)
                continue;
            for (var d = 0; d < D; d++)
            {
                var m = sum[c * D + d] / count[c];
                (_mean[c * D + d], _variance[c * D + d]) = ((float)m, (float)Math.Max(LeastVariance, square[c * D + d] / count[c] - m * m));
            }
        }
    }

    /// <summary>How likely a frame is in this voice.</summary>
    /// <param name="x">Bands.</param>
    /// <param name="share">Filled with each component's share of it, where it is given.</param>
    /// <returns>Log likelihood in nats.</returns>
    public float Score(ReadOnlySpan<float> x, Span<float> share = default)
    {
        Span<float> logs = stackalloc float[Size];
        var top = float.NegativeInfinity;
        for (var c = 0; c < Size; c++)
        {
            var log = _norm[c];
            for (var d = 0; d < D; d++)
            {
                var off = x[d] - _mean[c * D + d];
                log -= off * off / _variance[c * D + d];
            }
            logs[c] = 0.5f * log;
            top = MathF.Max(top, logs[c]);
        }
        float sum = 0;
        for (var c = 0; c < Size; c++)
            sum += logs[c] = MathF.Exp(logs[c] - top);
        for (var c = 0; c < share.Length; c++)
            share[c] = logs[c] / sum;
        return top + MathF.Log(sum);
    }

    // Of each component: density of each band, and how likely it is that the voice is no louder there.
    private (float[] Density, float[] Below) Of(ReadOnlySpan<float> x)
    {
        var (density, below) = (new float[Size * D], new float[Size * D]);
        for (var c = 0; c < Size; c++)
        for (var d = 0; d < D; d++)
        {
            var deviation = MathF.Sqrt(_variance[c * D + d]);
            var z = (x[d] - _mean[c * D + d]) / deviation;
            density[c * D + d] = MathF.Exp(-0.5f * z * z) / (deviation * MathF.Sqrt(2 * MathF.PI)) + Least;
            // The normal distribution function, nearly (Bowling et al., "A logistic approximation to the cumulative normal distribution", 2009).
            below[c * D + d] = 1 / (1 + MathF.Exp(-0.07056f * z * z * z - 1.5976f * z)) + Least;
        }
        return (density, below);
    }

    // Nothing is quite impossible.
    private const float Least = 1e-5f;

    /// <summary>
    /// How likely a frame is when two speak at once: in each band the louder one is heard (Nádas, Nahamoo and Picheny, "Speech recognition using noise-adaptive
    /// prototypes", IEEE TASSP 37, 1989; for two voices Roweis, "Factorial models and refiltering for speech separation and denoising", Eurospeech 2003).
    /// </summary>
    /// <param name="one">The one voice.</param>
    /// <param name="two">The other.</param>
    /// <param name="x">Bands.</param>
    /// <param name="mask">Filled with how likely the one voice is the louder in each band, where it is given.</param>
    /// <returns>Log likelihood in nats.</returns>
    public static float Both(BandMixture one, BandMixture two, ReadOnlySpan<float> x, Span<float> mask = default)
    {
        var (a, b) = (one.Of(x), two.Of(x));
        var logs = new float[one.Size * two.Size];
        var top = float.NegativeInfinity;
        for (var i = 0; i < one.Size; i++)
        for (var j = 0; j < two.Size; j++)
        {
            var log = MathF.Log(one._weight[i] * two._weight[j]);
            // Eight bands at a time, and products of four: logarithms are dear.
            var product = Vector256<float>.One;
            for (var d = 0; d < D; d += 8)
                product *=
                    Vector256.Create(a.Density, i * D + d) * Vector256.Create(b.Below, j * D + d)
                    + Vector256.Create(b.Density, j * D + d) * Vector256.Create(a.Below, i * D + d);
            log += Vector256.Sum(Vector256.Log(product));
            logs[i * two.Size + j] = log;
            top = MathF.Max(top, log);
        }
        float sum = 0;
        for (var p = 0; p < logs.Length; p++)
            sum += logs[p] = MathF.Exp(logs[p] - top);
        if (mask.Length > 0)
        {
            mask.Clear();
            for (var i = 0; i < one.Size; i++)
            for (var j = 0; j < two.Size; j++)
            {
                var share = logs[i * two.Size + j] / sum;
                if (share < 1e-4f)
                    continue;
                for (var d = 0; d < D; d++)
                {
                    var own = a.Density[i * D + d] * b.Below[j * D + d];
                    mask[d] += share * own / (own + b.Density[j * D + d] * a.Below[i * D + d]);
                }
            }
        }
        return top + MathF.Log(sum);
    }
}
