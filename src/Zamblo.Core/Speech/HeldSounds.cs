namespace Zamblo.Core.Speech;

/// <summary>
/// How much each frame of a sound says that the one before did not. A held note is one sound said again and again: where each of its frames counted like a
/// frame of speech, a vowel that is sung a little otherwise than the model's would be torn apart or taken for silence. Frames are left out for the same
/// reason in variable frame rate analysis (Zhu and Alwan, "On the use of variable frame rate analysis in speech recognition", ICASSP 2000).
/// </summary>
internal static class HeldSounds
{
    // Cepstra (liftered, without the first) are evened out over two frames to both sides and compared four frames to both sides: in held vowels of sung voices
    // they are 27 apart in the median, in vowels of speech 60, and 37 or more in nine of ten frames (measured on the bench's voices).
    private const int Even = 2,
        Reach = 4;
    private const float Steady = 42;

    // So many steady frames count as they do in speech, those after them so much.
    private const int Counted = 10;
    private const float Weight = 0.15f;

    /// <summary>Weights of the frames, 0 to 1.</summary>
    /// <param name="cepstra">Frames x coefficients.</param>
    /// <param name="coefficients">Of one frame.</param>
    public static float[] Weights(float[] cepstra, int coefficients)
    {
        var frames = cepstra.Length / coefficients;
        var even = new float[cepstra.Length];
        for (var f = 0; f < frames; f++)
        {
            int first = Math.Max(0, f - Even),
                last = Math.Min(frames - 1, f + Even);
            for (var k = 1; k < coefficients; k++)
            {
                float sum = 0;
                for (var j = first; j <= last; j++)
                    sum += cepstra[j * coefficients + k];
                even[f * coefficients + k] = sum / (last - first + 1);
            }
        }
        var weights = new float[frames];
        var run = 0;
        for (var f = 0; f < frames; f++)
        {
            int before = Math.Max(0, f - Reach) * coefficients,
                after = Math.Min(frames - 1, f + Reach) * coefficients;
            float change = 0;
            for (var k = 1; k < coefficients; k++)
            {
                var d = even[after + k] - even[before + k];
                change += d * d;
            }
            run = change < Steady * Steady ? run + 1 : 0;
            weights[f] = run > Counted ? Weight : 1;
        }
        return weights;
    }

    // Of the frames with a voice so many are held in a song: 9 to 38 % of the bench's songs, at most 6 % of what is spoken there.
    private const double Sung = 0.08;

    /// <summary>
    /// The weights where somebody sings. Where somebody speaks, and in noise, which changes little itself, every frame counts; and so does every frame of a
    /// pause.
    /// </summary>
    /// <param name="weights">From <see cref="Weights"/>.</param>
    /// <param name="quiet">What speaks for a voice in each frame (less than 0), in nats.</param>
    /// <param name="isNoisy">Whether there is noise in the pauses.</param>
    public static float[] InSong(float[] weights, float[] quiet, bool isNoisy)
    {
        int voiced = 0,
            held = 0;
        var result = new float[weights.Length];
        for (var f = 0; f < weights.Length; f++)
        {
            result[f] = quiet[f] < 0 ? weights[f] : 1;
            voiced += quiet[f] < 0 ? 1 : 0;
            held += result[f] < 1 ? 1 : 0;
        }
        if (isNoisy || held < Sung * voiced)
            Array.Fill(result, 1);
        return result;
    }
}
