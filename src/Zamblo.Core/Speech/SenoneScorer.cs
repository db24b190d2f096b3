using System.Numerics;
using System.Runtime.CompilerServices;

namespace Zamblo.Core.Speech;

/// <summary>
/// Logarithms of how likely each tied state makes one frame of features. Codebooks and senones are worked out when first asked
/// for in a frame, so a search that looks at few states pays for few. One instance per thread.
/// </summary>
public sealed class SenoneScorer
{
    private readonly AcousticModel _model;
    private readonly float[] _density,
        _best;
    private readonly int[] _codebookStamp,
        _senoneStamp;
    private readonly float[] _score;
    private readonly float[] _frame = new float[Features.Length];
    private int _stamp;

    /// <summary>A scorer for a model.</summary>
    /// <exception cref="ArgumentException">The number of Gaussians per codebook is no multiple of four vectors.</exception>
    public SenoneScorer(AcousticModel model)
    {
        if (model.Densities % (4 * Vector<float>.Count) != 0)
            throw new ArgumentException($"The scorer works on codebooks of a multiple of {4 * Vector<float>.Count} Gaussians.", nameof(model));
        _model = model;
        var codebooks = model.PhoneNames.Length;
        _density = new float[codebooks * model.Streams * model.Densities];
        _best = new float[codebooks * model.Streams];
        _codebookStamp = new int[codebooks];
        _senoneStamp = new int[model.SenoneCount];
        _score = new float[model.SenoneCount];
    }

    /// <summary>Goes to a frame; 39 values.</summary>
    public void SetFrame(ReadOnlySpan<float> features)
    {
        features.CopyTo(_frame);
        _stamp++;
    }

    /// <summary>Log likelihood of the current frame in a senone, in nats.</summary>
    public float Score(int senone)
    {
        if (_senoneStamp[senone] == _stamp)
            return _score[senone];
        var codebook = _model.CodebookOfSenone[senone];
        if (_codebookStamp[codebook] != _stamp)
            Evaluate(codebook);
        // The streams' sums are multiplied before one logarithm is taken of them; each is kept from vanishing so that the product is a number.
        float total = 0,
            product = 1;
        int streams = _model.Streams,
            nd = _model.Densities;
        ref var weights = ref _model.MixtureWeights[senone * streams * nd];
        for (var f = 0; f < streams; f++)
        {
            var cs = codebook * streams + f;
            product *= MathF.Max(Dot(ref Unsafe.Add(ref weights, f * nd), ref _density[cs * nd], nd), 1e-12f);
            total += _best[cs];
        }
        _senoneStamp[senone] = _stamp;
        return _score[senone] = total + MathF.Log(product);
    }

    /// <summary>Shares of the Gaussians of a stream in the current frame's score of a senone, which must have been asked for; they sum to one.</summary>
    public void Posteriors(int senone, int stream, Span<float> shares)
    {
        int nd = _model.Densities,
            w = (senone * _model.Streams + stream) * nd,
            d = (_model.CodebookOfSenone[senone] * _model.Streams + stream) * nd;
        float sum = 1e-30f;
        for (var i = 0; i < nd; i++)
            sum += shares[i] = _model.MixtureWeights[w + i] * _density[d + i];
        for (var i = 0; i < nd; i++)
            shares[i] /= sum;
    }

    private static float Dot(ref float a, ref float b, int count)
    {
        var width = Vector<float>.Count;
        Vector<float> s0 = default,
            s1 = default;
        for (var i = 0; i < count; i += 2 * width)
        {
            s0 += Vector.LoadUnsafe(ref a, (nuint)i) * Vector.LoadUnsafe(ref b, (nuint)i);
            s1 += Vector.LoadUnsafe(ref a, (nuint)(i + width)) * Vector.LoadUnsafe(ref b, (nuint)(i + width));
        }
        return Vector.Sum(s0 + s1);
    }

    private void Evaluate(int codebook)
    {
        _codebookStamp[codebook] = _stamp;
        int streams = _model.Streams,
            nd = _model.Densities,
            dim = _model.StreamLength;
        var width = Vector<float>.Count;
        for (var f = 0; f < streams; f++)
        {
            var cs = codebook * streams + f;
            // Four vectors of Gaussians at a time stay in registers while the dimensions go by.
            ref var mean = ref _model.Means[cs * dim * nd];
            ref var half = ref _model.HalfPrecisions[cs * dim * nd];
            ref var norm = ref _model.LogNormalisers[cs * nd];
            ref var density = ref _density[cs * nd];
            var top = new Vector<float>(float.NegativeInfinity);
            for (var d = 0; d < nd; d += 4 * width)
            {
                var l0 = Vector.LoadUnsafe(ref norm, (nuint)d);
                var l1 = Vector.LoadUnsafe(ref norm, (nuint)(d + width));
                var l2 = Vector.LoadUnsafe(ref norm, (nuint)(d + 2 * width));
                var l3 = Vector.LoadUnsafe(ref norm, (nuint)(d + 3 * width));
                for (var k = 0; k < dim; k++)
                {
                    var x = new Vector<float>(_frame[f * dim + k]);
                    var at = (nuint)(k * nd + d);
                    var e0 = x - Vector.LoadUnsafe(ref mean, at);
                    var e1 = x - Vector.LoadUnsafe(ref mean, at + (nuint)width);
                    var e2 = x - Vector.LoadUnsafe(ref mean, at + (nuint)(2 * width));
                    var e3 = x - Vector.LoadUnsafe(ref mean, at + (nuint)(3 * width));
                    l0 -= e0 * e0 * Vector.LoadUnsafe(ref half, at);
                    l1 -= e1 * e1 * Vector.LoadUnsafe(ref half, at + (nuint)width);
                    l2 -= e2 * e2 * Vector.LoadUnsafe(ref half, at + (nuint)(2 * width));
                    l3 -= e3 * e3 * Vector.LoadUnsafe(ref half, at + (nuint)(3 * width));
                }
                l0.StoreUnsafe(ref density, (nuint)d);
                l1.StoreUnsafe(ref density, (nuint)(d + width));
                l2.StoreUnsafe(ref density, (nuint)(d + 2 * width));
                l3.StoreUnsafe(ref density, (nuint)(d + 3 * width));
                top = Vector.Max(Vector.Max(top, Vector.Max(l0, l1)), Vector.Max(l2, l3));
            }
            var best = float.NegativeInfinity;
            for (var i = 0; i < width; i++)
                best = MathF.Max(best, top[i]);
            // Relative to the best Gaussian, out of the logarithm: the sum over a senone's weights is then a plain product of vectors.
            var shift = new Vector<float>(best);
            for (var d = 0; d < nd; d += width)
                Vector.Exp(Vector.LoadUnsafe(ref density, (nuint)d) - shift).StoreUnsafe(ref density, (nuint)d);
            _best[cs] = best;
        }
    }
}
