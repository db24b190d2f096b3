using System.Numerics;

namespace Zamblo.Core.Audio;

/// <summary>
/// Fourier transform of real input by the radix-2 algorithm of Cooley and Tukey
/// ("An Algorithm for the Machine Calculation of Complex Fourier Series", Math. Comp. 19, 1965).
/// One instance keeps its scratch memory: use one per thread.
/// </summary>
public sealed class RealFft
{
    private readonly int _half;
    private readonly float[] _re,
        _im,
        _cos,
        _sin;
    private readonly int[] _reverse;

    /// <param name="size">Number of real samples; a power of two, at least 4.</param>
    public RealFft(int size)
    {
        if (size < 4 || !BitOperations.IsPow2(size))
            throw new ArgumentException("The size must be a power of two, at least 4.", nameof(size));
        Size = size;
        _half = size / 2;
        _re = new float[_half];
        _im = new float[_half];
        _cos = new float[_half];
        _sin = new float[_half];
        for (var i = 0; i < _half; i++)
        {
            _cos[i] = (float)Math.Cos(2 * Math.PI * i / size);
            _sin[i] = (float)-Math.Sin(2 * Math.PI * i / size);
        }
        _reverse = new int[_half];
        var bits = BitOperations.Log2((uint)_half);
        for (var i = 0; i < _half; i++)
        for (var b = 0; b < bits; b++)
            if ((i >> b & 1) != 0)
                _reverse[i] |= 1 << (bits - 1 - b);
    }

    /// <summary>Number of real samples.</summary>
    public int Size { get; }

    /// <summary>Squared magnitudes of the bins 0 to Size/2.</summary>
    /// <param name="input">Up to Size samples; the rest counts as zero.</param>
    /// <param name="power">Size/2 + 1 values.</param>
    public void PowerSpectrum(ReadOnlySpan<float> input, Span<float> power)
    {
        Pack(input);
        Butterflies();
        power[0] = (_re[0] + _im[0]) * (_re[0] + _im[0]);
        power[_half] = (_re[0] - _im[0]) * (_re[0] - _im[0]);
        for (var k = 1; k < _half; k++)
        {
            int m = _half - k;
            float er = 0.5f * (_re[k] + _re[m]),
                ei = 0.5f * (_im[k] - _im[m]);
            float or = 0.5f * (_im[k] + _im[m]),
                oi = -0.5f * (_re[k] - _re[m]);
            var r = er + or * _cos[k] - oi * _sin[k];
            var j = ei + or * _sin[k] + oi * _cos[k];
            power[k] = r * r + j * j;
        }
    }

    /// <summary>The bins 0 to Size/2.</summary>
    /// <param name="input">Up to Size samples; the rest counts as zero.</param>
    /// <param name="bins">Size/2 + 1 values.</param>
    public void Spectrum(ReadOnlySpan<float> input, Span<Complex32> bins)
    {
        Pack(input);
        Butterflies();
        bins[0] = new Complex32(_re[0] + _im[0], 0);
        bins[_half] = new Complex32(_re[0] - _im[0], 0);
        for (var k = 1; k < _half; k++)
        {
            int m = _half - k;
            float er = 0.5f * (_re[k] + _re[m]),
                ei = 0.5f * (_im[k] - _im[m]),
                or = 0.5f * (_im[k] + _im[m]),
                oi = -0.5f * (_re[k] - _re[m]);
            bins[k] = new Complex32(er + or * _cos[k] - oi * _sin[k], ei + or * _sin[k] + oi * _cos[k]);
        }
    }

    /// <summary>Back from the bins to samples.</summary>
    /// <param name="bins">Size/2 + 1 values.</param>
    /// <param name="output">Size samples.</param>
    public void Inverse(ReadOnlySpan<Complex32> bins, Span<float> output)
    {
        // The conjugate goes through the same transform.
        for (var k = 0; k < _half; k++)
        {
            Complex32 x = bins[k],
                y = bins[_half - k];
            float er = 0.5f * (x.Re + y.Re),
                ei = 0.5f * (x.Im - y.Im),
                dr = 0.5f * (x.Re - y.Re),
                di = 0.5f * (x.Im + y.Im);
            // Times the conjugate of the twiddle.
            float or = dr * _cos[k] + di * _sin[k],
                oi = di * _cos[k] - dr * _sin[k];
            var at = _reverse[k];
            _re[at] = er - oi;
            _im[at] = -(ei + or);
        }
        Butterflies();
        for (var i = 0; i < _half; i++)
        {
            output[2 * i] = _re[i] / _half;
            output[2 * i + 1] = -_im[i] / _half;
        }
    }

    // Two real samples are packed into one complex sample; the half-size transform is then untangled.
    private void Pack(ReadOnlySpan<float> input)
    {
        for (var i = 0; i < _half; i++)
        {
            var at = _reverse[i];
            _re[at] = 2 * i < input.Length ? input[2 * i] : 0;
            _im[at] = 2 * i + 1 < input.Length ? input[2 * i + 1] : 0;
        }
    }

    private void Butterflies()
    {
        for (var length = 2; length <= _half; length <<= 1)
        {
            var step = Size / length;
            for (var start = 0; start < _half; start += length)
            for (var k = 0; k < length / 2; k++)
            {
                float wr = _cos[k * step],
                    wi = _sin[k * step];
                int a = start + k,
                    b = a + length / 2;
                var tr = _re[b] * wr - _im[b] * wi;
                var ti = _re[b] * wi + _im[b] * wr;
                _re[b] = _re[a] - tr;
                _im[b] = _im[a] - ti;
                _re[a] += tr;
                _im[a] += ti;
            }
        }
    }
}

/// <summary>A complex number of two floats.</summary>
/// <param name="Re">Real part.</param>
/// <param name="Im">Imaginary part.</param>
public readonly record struct Complex32(float Re, float Im)
{
    /// <summary>Squared magnitude.</summary>
    public float Power => Re * Re + Im * Im;
}
