namespace Zamblo.Core.Dialogue;

/// <summary>Sums of a Gaussian, to which pitch is added as a dimension of its own where there is any.</summary>
internal sealed class VoiceStats
{
    public double Frames;
    private readonly double[] _sum = new double[VoiceFrames.Dimensions];
    private readonly double[,] _square = new double[VoiceFrames.Dimensions, VoiceFrames.Dimensions];
    private double _tones,
        _tone,
        _toneSquare;

    public void Add(VoiceFrames sound, int first, int last)
    {
        for (var f = first; f < last; f++)
        {
            var x = sound[f];
            for (var a = 0; a < VoiceFrames.Dimensions; a++)
            {
                _sum[a] += x[a];
                for (var b = 0; b <= a; b++)
                    _square[a, b] += x[a] * x[b];
            }
            if (float.IsNaN(sound.Tone[f]))
                continue;
            _tones++;
            _tone += sound.Tone[f];
            _toneSquare += sound.Tone[f] * sound.Tone[f];
        }
        Frames += last - first;
    }

    public static VoiceStats Sum(VoiceStats a, VoiceStats b)
    {
        var s = new VoiceStats
        {
            Frames = a.Frames + b.Frames,
            _tones = a._tones + b._tones,
            _tone = a._tone + b._tone,
            _toneSquare = a._toneSquare + b._toneSquare,
        };
        for (var i = 0; i < VoiceFrames.Dimensions; i++)
        {
            s._sum[i] = a._sum[i] + b._sum[i];
            for (var k = 0; k <= i; k++)
                s._square[i, k] = a._square[i, k] + b._square[i, k];
        }
        return s;
    }

    /// <summary>Frames times the logarithm of the determinant of the covariance; the more spread, the larger.</summary>
    public double Spread()
    {
        // Cholesky; a little is added to the diagonal so that short pieces have a determinant.
        var l = new double[VoiceFrames.Dimensions, VoiceFrames.Dimensions];
        double log = 0;
        for (var i = 0; i < VoiceFrames.Dimensions; i++)
        for (var j = 0; j <= i; j++)
        {
            var sum = _square[i, j] / Frames - _sum[i] / Frames * (_sum[j] / Frames) + (i == j ? 0.02 : 0);
            for (var k = 0; k < j; k++)
                sum -= l[i, k] * l[j, k];
            if (i == j)
                log += Math.Log(l[i, i] = Math.Sqrt(Math.Max(sum, 1e-6)));
            else
                l[i, j] = sum / l[j, j];
        }
        var spread = 2 * log * Frames;
        // Tones are far from independent from frame to frame: they count as a third.
        if (_tones > 5)
            spread += 0.33 * _tones * Math.Log(Math.Max(0.6, _toneSquare / _tones - _tone / _tones * (_tone / _tones)));
        return spread;
    }

    /// <summary>How much worse one Gaussian explains two pieces than two do, less the penalty for the second; more than 0: two speakers.</summary>
    public static double Bic(VoiceStats a, VoiceStats b, double spreadA, double spreadB, double penalty)
    {
        double n = a.Frames + b.Frames,
            parameters = VoiceFrames.Dimensions + VoiceFrames.Dimensions * (VoiceFrames.Dimensions + 1) / 2.0 + 2;
        return 0.5 * (Sum(a, b).Spread() - spreadA - spreadB) - 0.5 * penalty * parameters * Math.Log(n);
    }
}
