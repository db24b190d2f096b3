using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>
/// Feature vectors for the acoustic model: cepstra with their mean taken off, differences and second differences
/// over two and three frames to each side, three streams side by side.
/// </summary>
public static class Features
{
    /// <summary>Values per frame: three streams of 13.</summary>
    public const int Length = 39;

    /// <summary>From cepstra (frames x 13) to features (frames x 39).</summary>
    /// <param name="cepstra">Row by row.</param>
    /// <param name="mean">What to take off, 13 values; null for the mean over all frames.</param>
    public static float[] FromCepstra(float[] cepstra, float[]? mean = null)
    {
        const int n = 13;
        var frames = cepstra.Length / n;
        mean ??= Mean(cepstra, n);
        var features = new float[frames * Length];
        // Beyond the ends the first and last frames stand in.
        float C(int f, int k) => cepstra[Math.Clamp(f, 0, frames - 1) * n + k] - mean[k];
        for (var f = 0; f < frames; f++)
        for (var k = 0; k < n; k++)
        {
            features[f * Length + k] = C(f, k);
            features[f * Length + n + k] = C(f + 2, k) - C(f - 2, k);
            features[f * Length + 2 * n + k] = C(f + 3, k) - C(f - 1, k) - (C(f + 1, k) - C(f - 3, k));
        }
        return features;
    }

    /// <summary>Mean over all frames.</summary>
    public static float[] Mean(float[] cepstra, int n)
    {
        var frames = cepstra.Length / n;
        var mean = new float[n];
        if (frames == 0)
            return mean;
        var sum = new double[n];
        for (var f = 0; f < frames; f++)
        for (var k = 0; k < n; k++)
            sum[k] += cepstra[f * n + k];
        for (var k = 0; k < n; k++)
            mean[k] = (float)(sum[k] / frames);
        return mean;
    }
}
