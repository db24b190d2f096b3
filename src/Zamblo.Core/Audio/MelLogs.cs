using Zamblo.Core.Speech;

namespace Zamblo.Core.Audio;

/// <summary>Logarithms of a sound's power in mel bands, as our own networks learned to see them.</summary>
internal static class MelLogs
{
    /// <summary>Bands of a frame: triangles of weight one, evenly over the mel scale from 60 to 7600 Hz.</summary>
    public const int Bands = 80;

    private const double LowestHz = 60,
        HighestHz = 7600;

    private static readonly (int Start, float[] Weights)[] Filters = Triangles();

    /// <summary>What a network is given of the frames from one to before another.</summary>
    /// <param name="spectrum">Of the sound.</param>
    /// <param name="first">From 0.</param>
    /// <param name="end">One past the last.</param>
    /// <param name="look">Sees the number and the power spectrum of each frame.</param>
    /// <returns>Shape: bands x frames, row by row; null where all is silent.</returns>
    public static float[]? Of(ShortTimeSpectrum spectrum, int first, int end, Action<int, float[]>? look = null)
    {
        var frames = end - first;
        var bands = new float[Bands * frames];
        double loud = 0,
            all = 0;
        var power = new float[ShortTimeSpectrum.Bins];
        for (var f = 0; f < frames; f++)
        {
            var line = spectrum.At(first + f);
            for (var k = 0; k < power.Length; k++)
                power[k] = line[k].Power;
            look?.Invoke(first + f, power);
            double mean = 0;
            for (var b = 0; b < Bands; b++)
            {
                var (start, weights) = Filters[b];
                float sum = 0;
                for (var k = 0; k < weights.Length; k++)
                    sum += weights[k] * power[start + k];
                bands[b * frames + f] = sum;
                mean += sum;
            }
            mean = mean / Bands + 1e-12;
            loud += Math.Pow(mean, 1.5);
            all += mean;
        }
        // The amplitude of what is loud, whatever silence lies around it; as the models learned it.
        var level = (float)Math.Pow(loud / all, 2) + 1e-9f;
        if (level < 2e-9f)
            return null;
        for (var i = 0; i < bands.Length; i++)
            bands[i] = MathF.Log(bands[i] / level + 1e-6f) / 4 + 1;
        return bands;
    }

    private static (int Start, float[] Weights)[] Triangles()
    {
        double low = MelFilterBank.Mel(LowestHz),
            step = (MelFilterBank.Mel(HighestHz) - low) / (Bands + 1),
            bin = (double)CepstralFrontEnd.SampleRate / ShortTimeSpectrum.Length;
        var filters = new (int, float[])[Bands];
        for (var b = 0; b < Bands; b++)
        {
            double left = MelFilterBank.Hz(low + b * step),
                centre = MelFilterBank.Hz(low + (b + 1) * step),
                right = MelFilterBank.Hz(low + (b + 2) * step);
            var start = (int)(left / bin) + 1;
            double[] weights =
            [
                .. Enumerable
                    .Range(start, Math.Max(0, (int)Math.Ceiling(right / bin) - start))
                    .Select(k => Math.Max(0, Math.Min((k * bin - left) / (centre - left), (right - k * bin) / (right - centre)))),
            ];
            var sum = weights.Sum();
            filters[b] = sum > 0 ? (start, [.. weights.Select(w => (float)(w / sum))]) : ((int)Math.Round(centre / bin), [1f]);
        }
        return filters;
    }
}
