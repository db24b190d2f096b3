namespace Zamblo.Core.Audio;

/// <summary>What a front end does to sound; the names are those of an acoustic model's <c>feat.params</c>.</summary>
public sealed record CepstralOptions
{
    /// <summary>Lower edge of the mel filters in Hz.</summary>
    public double LowerHz { get; init; } = 130;

    /// <summary>Upper edge of the mel filters in Hz.</summary>
    public double UpperHz { get; init; } = 6800;

    /// <summary>Number of mel filters.</summary>
    public int Filters { get; init; } = 25;

    /// <summary>Sinusoidal liftering length; 0 turns it off.</summary>
    public int Lifter { get; init; } = 22;

    /// <summary>Number of cepstral coefficients.</summary>
    public int Coefficients { get; init; } = 13;

    /// <summary>Take steady noise out of the filter energies first (<see cref="NoiseSuppressor"/>).</summary>
    public bool SuppressNoise { get; init; }

    /// <summary>Time between frames in samples at 16 kHz; the models are trained at 160 (10 ms).</summary>
    public int ShiftSamples { get; init; } = 160;
}

/// <summary>
/// Mel-frequency cepstral coefficients of 16 kHz sound (Davis and Mermelstein, "Comparison of parametric representations for
/// monosyllabic word recognition", IEEE ASSP 28, 1980), with the constants that the open Sphinx acoustic models are trained with:
/// pre-emphasis 0.97, Hamming window of 410 samples (25.6 ms), 512-point spectrum, unit-area triangular filters rounded to bins.
/// </summary>
public sealed class CepstralFrontEnd
{
    /// <summary>Sample rate that the front end works at, in Hz.</summary>
    public const int SampleRate = 16000;
    private const int WindowSamples = 410;
    private const int FftSize = 512;
    private readonly CepstralOptions _options;
    private readonly float[] _window = new float[WindowSamples];
    private readonly (int Start, float[] Weights)[] _filters;
    private readonly float[] _dct;

    /// <summary>Prepares filters and tables.</summary>
    public CepstralFrontEnd(CepstralOptions options)
    {
        _options = options;
        for (var i = 0; i < WindowSamples; i++)
            _window[i] = (float)(0.54 - 0.46 * Math.Cos(2 * Math.PI * i / (WindowSamples - 1)));
        _filters = MelFilterBank.Triangles(options.Filters, options.LowerHz, options.UpperHz, SampleRate, FftSize);
        _dct = new float[options.Coefficients * options.Filters];
        for (var k = 0; k < options.Coefficients; k++)
        {
            var lift = options.Lifter > 0 ? 1 + options.Lifter / 2.0 * Math.Sin(Math.PI * k / options.Lifter) : 1;
            for (var j = 0; j < options.Filters; j++)
            {
                var cosine = Math.Cos(Math.PI * k * (j + 0.5) / options.Filters);
                var scale = Math.Sqrt((k == 0 ? 1.0 : 2.0) / options.Filters);
                _dct[k * options.Filters + j] = (float)(lift * scale * cosine);
            }
        }
    }

    /// <summary>Number of whole frames in a sound of so many samples.</summary>
    public int FrameCount(int samples) => samples < WindowSamples ? 0 : 1 + (samples - WindowSamples) / _options.ShiftSamples;

    /// <summary>Time of the middle of a frame, in seconds.</summary>
    public double CentreOf(int frame) => (frame * _options.ShiftSamples + WindowSamples / 2.0) / SampleRate;

    /// <summary>Cepstra of the whole sound. Shape: frames x coefficients, row by row.</summary>
    /// <param name="samples">16 kHz, -1 to 1. Values that are not finite count as 0.</param>
    /// <param name="cancel">Stops the work.</param>
    public float[] Compute(ReadOnlySpan<float> samples, CancellationToken cancel = default)
    {
        var frames = FrameCount(samples.Length);
        int nf = _options.Filters,
            nc = _options.Coefficients;
        var cepstra = new float[frames * nc];
        var fft = new RealFft(FftSize);
        Span<float> block = stackalloc float[WindowSamples];
        Span<float> power = stackalloc float[FftSize / 2 + 1];
        Span<float> mel = stackalloc float[nf];
        var suppressor = _options.SuppressNoise ? new NoiseSuppressor(nf) : null;
        for (var f = 0; f < frames; f++)
        {
            if ((f & 1023) == 0)
                cancel.ThrowIfCancellationRequested();
            var at = f * _options.ShiftSamples;
            var previous = at > 0 ? Finite(samples[at - 1]) : 0;
            for (var i = 0; i < WindowSamples; i++)
            {
                var x = Finite(samples[at + i]);
                block[i] = (x - 0.97f * previous) * 32768f * _window[i];
                previous = x;
            }
            fft.PowerSpectrum(block, power);
            for (var j = 0; j < nf; j++)
            {
                var (start, weights) = _filters[j];
                float sum = 0;
                for (var k = 0; k < weights.Length; k++)
                    sum += power[start + k] * weights[k];
                mel[j] = sum;
            }
            suppressor?.Apply(mel);
            for (var j = 0; j < nf; j++)
                mel[j] = MathF.Log(mel[j] + 1e-4f);
            for (var k = 0; k < nc; k++)
            {
                float sum = 0;
                for (var j = 0; j < nf; j++)
                    sum += mel[j] * _dct[k * nf + j];
                cepstra[f * nc + k] = sum;
            }
        }
        return cepstra;
    }

    private static float Finite(float x) => float.IsFinite(x) ? Math.Clamp(x, -1f, 1f) : 0;
}

/// <summary>Triangular filters on the mel scale.</summary>
public static class MelFilterBank
{
    /// <summary>Mel value of a frequency: 2595 log10(1 + f/700) (O'Shaughnessy, "Speech Communication", 1987).</summary>
    public static double Mel(double hz) => 2595 * Math.Log10(1 + hz / 700);

    /// <summary>Frequency of a mel value.</summary>
    public static double Hz(double mel) => 700 * (Math.Pow(10, mel / 2595) - 1);

    /// <summary>Unit-area triangles whose corners lie on spectrum bins.</summary>
    /// <returns>Per filter the first bin and the weights of the bins from there on.</returns>
    public static (int Start, float[] Weights)[] Triangles(int count, double lowerHz, double upperHz, int sampleRate, int fftSize)
    {
        double low = Mel(lowerHz),
            step = (Mel(upperHz) - low) / (count + 1),
            bin = (double)sampleRate / fftSize;
        double Corner(int i) => Math.Floor(Hz(low + i * step) / bin + 0.5) * bin;
        var filters = new (int, float[])[count];
        for (var i = 0; i < count; i++)
        {
            double left = Corner(i),
                centre = Corner(i + 1),
                right = Corner(i + 2);
            int start = -1,
                end = fftSize / 2;
            for (var j = 0; j < fftSize / 2; j++)
            {
                var hz = j * bin;
                if (hz < left)
                    continue;
                if (hz > right)
                {
                    end = j;
                    break;
                }
                if (start < 0)
                    start = j;
            }
            var weights = new float[Math.Max(0, end - start)];
            for (var k = 0; k < weights.Length; k++)
            {
                var hz = (start + k) * bin;
                var slope = Math.Min((hz - left) / (centre - left), (right - hz) / (right - centre));
                weights[k] = (float)(slope * 2 / (right - left));
            }
            filters[i] = (Math.Max(0, start), weights);
        }
        return filters;
    }
}

/// <summary>
/// Takes steady noise out of filter energies: the floor of each band is tracked by an envelope that rises slowly and falls fast, what is
/// left is masked in time, and the gain is smoothed over bands (after Kim and Stern, "Power-normalized cepstral coefficients for robust
/// speech recognition", ICASSP 2012; constants of the open Sphinx front end, which the models are trained behind).
/// </summary>
public sealed class NoiseSuppressor(int bands)
{
    private const float PowerSmoothing = 0.7f,
        NoiseRise = 0.995f,
        NoiseFall = 0.5f,
        MaskingDecay = 0.85f,
        MaskingShare = 0.2f,
        MaximalGain = 20f;
    private readonly float[] _power = new float[bands],
        _noise = new float[bands],
        _floor = new float[bands],
        _peak = new float[bands],
        _gain = new float[bands];
    private bool _started;

    /// <summary>Changes the energies of one frame in place.</summary>
    public void Apply(Span<float> mel)
    {
        if (!_started)
        {
            for (var j = 0; j < bands; j++)
            {
                _power[j] = mel[j];
                _noise[j] = mel[j] / MaximalGain;
                _floor[j] = mel[j] / MaximalGain;
                _peak[j] = 0;
            }
            _started = true;
        }
        for (var j = 0; j < bands; j++)
        {
            _power[j] = PowerSmoothing * _power[j] + (1 - PowerSmoothing) * mel[j];
            _noise[j] = Envelope(_noise[j], _power[j]);
            var signal = Math.Max(1f, _power[j] - _noise[j]);
            _floor[j] = Envelope(_floor[j], signal);
            // Temporal masking: what follows a peak closely and lies under it is not heard.
            var input = signal;
            _peak[j] *= MaskingDecay;
            if (signal < MaskingDecay * _peak[j])
                signal = _peak[j] * MaskingShare;
            if (input > _peak[j])
                _peak[j] = input;
            if (signal < _floor[j])
                signal = _floor[j];
            _gain[j] = signal < MaximalGain * _power[j] ? Math.Max(signal / Math.Max(_power[j], 1e-10f), 1 / MaximalGain) : MaximalGain;
        }
        for (var j = 0; j < bands; j++)
        {
            // Neighbouring bands share their gain (a window of four to each side), so that no single band rings.
            int from = Math.Max(0, j - 4),
                to = Math.Min(bands - 1, j + 4);
            float sum = 0;
            for (var i = from; i <= to; i++)
                sum += _gain[i];
            mel[j] *= sum / (to - from + 1);
        }
    }

    private static float Envelope(float state, float input) =>
        input >= state ? NoiseRise * state + (1 - NoiseRise) * input : NoiseFall * state + (1 - NoiseFall) * input;
}
