namespace Zamblo.Core.Audio;

/// <summary>One channel of sound.</summary>
/// <param name="Samples">Amplitudes, nominally -1 to 1.</param>
/// <param name="SampleRate">Samples per second, in Hz.</param>
public sealed record AudioBuffer(float[] Samples, int SampleRate)
{
    /// <summary>Length in seconds.</summary>
    public double Duration => (double)Samples.Length / SampleRate;

    /// <summary>A part of the sound, clipped to what there is.</summary>
    public AudioBuffer Slice(double start, double end)
    {
        var from = Math.Clamp((int)Math.Round(start * SampleRate), 0, Samples.Length);
        var to = Math.Clamp((int)Math.Round(end * SampleRate), from, Samples.Length);
        return new AudioBuffer(Samples[from..to], SampleRate);
    }

    /// <summary>
    /// Peaks for drawing a waveform: for each of <paramref name="columns"/> equal stretches the least and greatest sample.
    /// Shape: 2 x columns, interleaved min, max.
    /// </summary>
    public float[] Peaks(int columns)
    {
        var peaks = new float[columns * 2];
        for (var c = 0; c < columns; c++)
        {
            var from = (int)((long)c * Samples.Length / columns);
            var to = Math.Max(from + 1, (int)((long)(c + 1) * Samples.Length / columns));
            float lo = 0,
                hi = 0;
            for (var i = from; i < to && i < Samples.Length; i++)
            {
                lo = Math.Min(lo, Samples[i]);
                hi = Math.Max(hi, Samples[i]);
            }
            peaks[2 * c] = lo;
            peaks[2 * c + 1] = hi;
        }
        return peaks;
    }
}
