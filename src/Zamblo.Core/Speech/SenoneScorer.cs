using System.Numerics;

namespace Zamblo.Core.Speech;

/// <summary>
/// Logarithms of how likely each tied state makes one frame of features. Codebooks and senones are worked out when first asked
/// for in a frame, so a search that looks at few states pays for few. One instance per thread.
/// </summary>
public sealed class SenoneScorer
{
    // A Gaussian this many nats under its stream's best adds nothing that 32-bit sums would show in a decision.
    private const float Negligible = 9f;
    private readonly AcousticModel _model;
    private readonly float[] _density, _best;
    private readonly int[] _kept, _keptCount, _codebookStamp, _senoneStamp;
    private readonly float[] _score;
    private readonly float[] _frame = new float[Features.Length];
    private int _stamp;

    /// <summary>A scorer for a model.</summary>
    /// <exception cref="ArgumentException">The number of Gaussians per codebook is no multiple of four vectors.</exception>
    public SenoneScorer(AcousticModel model)
    {
        if (model.Densities % (4 * Vector<float>.Count) != 0) throw new ArgumentException($"The scorer works on codebooks of a multiple of {4 * Vector<float>.Count} Gaussians.", nameof(model));
        _model = model;
        var codebooks = model.PhoneNames.Length;
        _density = new float[codebooks * model.Streams * model.Densities];
        _kept = new int[_density.Length];
        _keptCount = new int[codebooks * model.Streams];
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
        if (_senoneStamp[senone] == _stamp) return _score[senone];
        var codebook = _model.CodebookOfSenone[senone];
        if (_codebookStamp[codebook] != _stamp) Evaluate(codebook);
        float total = 0;
        int streams = _model.Streams, nd = _model.Densities;
        var weights = _model.MixtureWeights;
        for (var f = 0; f < streams; f++)
        {
            int cs = codebook * streams + f, w = (senone * streams + f) * nd, at = cs * nd;
            float sum = 0;
            for (var i = 0; i < _keptCount[cs]; i++) sum += weights[w + _kept[at + i]] * _density[at + i];
            total += _best[cs] + MathF.Log(sum + 1e-30f);
        }
        _senoneStamp[senone] = _stamp;
        return _score[senone] = total;
    }

    private void Evaluate(int codebook)
    {
        _codebookStamp[codebook] = _stamp;
        int streams = _model.Streams, nd = _model.Densities, dim = _model.StreamLength;
        Span<float> logs = stackalloc float[nd];
        var width = Vector<float>.Count;
        for (var f = 0; f < streams; f++)
        {
            var cs = codebook * streams + f;
            // Four vectors of Gaussians at a time stay in registers while the dimensions go by.
            ref var mean = ref _model.Means[cs * dim * nd];
            ref var half = ref _model.HalfPrecisions[cs * dim * nd];
            ref var norm = ref _model.LogNormalisers[cs * nd];
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
                l0.CopyTo(logs[d..]);
                l1.CopyTo(logs[(d + width)..]);
                l2.CopyTo(logs[(d + 2 * width)..]);
                l3.CopyTo(logs[(d + 3 * width)..]);
            }
            var best = float.NegativeInfinity;
            for (var d = 0; d < nd; d++) best = MathF.Max(best, logs[d]);
            var kept = 0;
            for (var d = 0; d < nd; d++)
                if (logs[d] > best - Negligible)
                {
                    _kept[cs * nd + kept] = d;
                    _density[cs * nd + kept++] = MathF.Exp(logs[d] - best);
                }
            _keptCount[cs] = kept;
            _best[cs] = best;
        }
    }
}
