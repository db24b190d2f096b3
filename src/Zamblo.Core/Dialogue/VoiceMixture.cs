namespace Zamblo.Core.Dialogue;

/// <summary>A mixture of Gaussians with diagonal covariances, and one of tones.</summary>
internal sealed class VoiceMixture
{
    private const int Components = 12;
    private readonly double[] _weight,
        _norm;
    private readonly double[,] _mean,
        _precision;
    private readonly double _tone,
        _toneSpread;

    public VoiceMixture(VoiceFrames sound, List<int> frames)
    {
        var k = Math.Clamp(frames.Count / 60, 1, Components);
        (_weight, _norm, _mean, _precision) = (new double[k], new double[k], new double[k, VoiceFrames.Dimensions], new double[k, VoiceFrames.Dimensions]);
        double[] mean = new double[VoiceFrames.Dimensions],
            spread = new double[VoiceFrames.Dimensions];
        foreach (var f in frames)
            for (var d = 0; d < VoiceFrames.Dimensions; d++)
                mean[d] += sound[f][d] / frames.Count;
        foreach (var f in frames)
            for (var d = 0; d < VoiceFrames.Dimensions; d++)
                spread[d] += (sound[f][d] - mean[d]) * (sound[f][d] - mean[d]) / frames.Count;
        for (var c = 0; c < k; c++)
        {
            _weight[c] = 1.0 / k;
            // Started on frames spread over what there is.
            var seed = sound[frames[(int)((c + 0.5) * frames.Count / k)]];
            for (var d = 0; d < VoiceFrames.Dimensions; d++)
                (_mean[c, d], _precision[c, d]) = (k == 1 ? mean[d] : seed[d], 1 / (spread[d] + 0.01));
        }
        var share = new double[k];
        // At most so many frames are looked at: more do not change a model of this size.
        var stride = Math.Max(1, frames.Count / 6000);
        for (var round = 0; round < 6; round++)
        {
            Normalise();
            double[] count = new double[k];
            double[,] sum = new double[k, VoiceFrames.Dimensions],
                square = new double[k, VoiceFrames.Dimensions];
            for (var n = 0; n < frames.Count; n += stride)
            {
                var x = sound[frames[n]];
                Cepstral(x, share);
                for (var c = 0; c < k; c++)
                {
                    if (share[c] < 1e-4)
                        continue;
                    count[c] += share[c];
                    for (var d = 0; d < VoiceFrames.Dimensions; d++)
                    {
                        sum[c, d] += share[c] * x[d];
                        square[c, d] += share[c] * x[d] * x[d];
                    }
                }
            }
            for (var c = 0; c < k; c++)
            {
                // Components that lost their frames keep what they were.
                if (count[c] < 5)
                {
                    _weight[c] = 1e-4;
                    continue;
                }
                _weight[c] = count[c] / count.Sum();
                for (var d = 0; d < VoiceFrames.Dimensions; d++)
                {
                    _mean[c, d] = sum[c, d] / count[c];
                    _precision[c, d] = 1 / (Math.Max(0, square[c, d] / count[c] - _mean[c, d] * _mean[c, d]) + 0.02 + 0.1 * spread[d]);
                }
            }
        }
        Normalise();
        var tones = frames.Where(f => !float.IsNaN(sound.Tone[f])).Select(f => (double)sound.Tone[f]).ToArray();
        _tone = tones.Length == 0 ? 0 : tones.Average();
        _toneSpread = tones.Length < 20 ? 6 : Math.Max(1.5, Math.Sqrt(tones.Average(t => (t - _tone) * (t - _tone))));
    }

    private void Normalise()
    {
        for (var c = 0; c < _weight.Length; c++)
        {
            _norm[c] = Math.Log(_weight[c] + 1e-10) - 0.5 * VoiceFrames.Dimensions * Math.Log(2 * Math.PI);
            for (var d = 0; d < VoiceFrames.Dimensions; d++)
                _norm[c] += 0.5 * Math.Log(_precision[c, d]);
        }
    }

    private double Cepstral(ReadOnlySpan<float> x, double[]? share)
    {
        Span<double> logs = stackalloc double[_weight.Length];
        var top = double.NegativeInfinity;
        for (var c = 0; c < _weight.Length; c++)
        {
            var log = _norm[c];
            for (var d = 0; d < VoiceFrames.Dimensions; d++)
                log -= 0.5 * _precision[c, d] * (x[d] - _mean[c, d]) * (x[d] - _mean[c, d]);
            logs[c] = log;
            top = Math.Max(top, log);
        }
        double sum = 0;
        for (var c = 0; c < logs.Length; c++)
            sum += logs[c] = Math.Exp(logs[c] - top);
        if (share != null)
            for (var c = 0; c < logs.Length; c++)
                share[c] = logs[c] / sum;
        return top + Math.Log(sum);
    }

    public double Score(VoiceFrames sound, int f)
    {
        var score = Cepstral(sound[f], null);
        if (float.IsNaN(sound.Tone[f]))
            return score;
        // An octave's error of the tracker must not decide.
        var z = Math.Min(3, Math.Abs(sound.Tone[f] - _tone) / _toneSpread);
        return score - 0.5 * z * z - Math.Log(_toneSpread);
    }
}
