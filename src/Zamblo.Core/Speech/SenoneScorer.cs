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
    public SenoneScorer(AcousticModel model)
    {
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
        for (var f = 0; f < streams; f++)
        {
            var cs = codebook * streams + f;
            _model.LogNormalisers.AsSpan(cs * nd, nd).CopyTo(logs);
            for (var k = 0; k < dim; k++)
            {
                var x = new Vector<float>(_frame[f * dim + k]);
                var mean = _model.Means.AsSpan((cs * dim + k) * nd, nd);
                var half = _model.HalfPrecisions.AsSpan((cs * dim + k) * nd, nd);
                for (var d = 0; d < nd; d += Vector<float>.Count)
                {
                    var delta = x - new Vector<float>(mean[d..]);
                    (new Vector<float>(logs[d..]) - delta * delta * new Vector<float>(half[d..])).CopyTo(logs[d..]);
                }
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
