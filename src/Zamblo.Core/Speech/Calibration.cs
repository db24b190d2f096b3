namespace Zamblo.Core.Speech;

/// <summary>
/// From how well phones fit their sound to how often such phones are right: "90 % sure" is to mean that about nine of ten are. Piecewise linear through what
/// the tuned half of the benchmark's sentences showed, by where the words come from. Phones of a correct script are nearly always right, those of a wrong one
/// fit badly: between them nothing was measured, so low values there stay as they are.
/// </summary>
internal static class Calibration
{
    private static readonly float[] Fit = [0, 0.3f, 0.5f, 0.7f, 0.85f, 0.95f, 1];
    private static readonly float[] Script = [0, 0.3f, 0.5f, 0.75f, 0.92f, 0.97f, 0.99f];

    // Of a draft, how well a phone fits is weighed with how sure the recogniser was of the word; a wrong word still has many right phones.
    private static readonly float[] Recognised = [0.1f, 0.7f, 0.82f, 0.9f, 0.91f, 0.93f, 0.95f];
    private static readonly float[] RecognisedWords = [0, 0.42f, 0.75f, 0.91f, 0.94f, 0.98f, 1];
    private static readonly float[] Sounds = [0, 0.35f, 0.5f, 0.62f, 0.74f, 0.81f, 0.85f];
    private static readonly float[] SoundsInNoise = [0, 0.35f, 0.5f, 0.6f, 0.64f, 0.65f, 0.65f];

    /// <summary>How likely a phone is right.</summary>
    /// <param name="fit">0 to 1.</param>
    /// <param name="source">Where its words come from.</param>
    /// <param name="isDrowned">Whether loud noise lies over the sound.</param>
    public static float Of(float fit, SpeechSource source, bool isDrowned) =>
        Of(
            fit,
            source switch
            {
                SpeechSource.Script => Script,
                SpeechSource.Recognised => Recognised,
                _ => isDrowned ? SoundsInNoise : Sounds,
            }
        );

    private static float Of(float fit, float[] table)
    {
        for (var i = 1; i < Fit.Length; i++)
            if (fit <= Fit[i])
                return table[i - 1] + (table[i] - table[i - 1]) * Math.Max(0, fit - Fit[i - 1]) / (Fit[i] - Fit[i - 1]);
        return table[^1];
    }

    /// <summary>The same for lists.</summary>
    public static List<PhoneSegment> Of(IEnumerable<PhoneSegment> phones, SpeechSource source, bool isDrowned) =>
        [.. phones.Select(p => Arpabet.IsSilent(p.Phone) ? p : p with { Confidence = Of(p.Confidence, source, isDrowned) })];

    /// <summary>The same for words.</summary>
    public static List<WordSegment> Of(IEnumerable<WordSegment> words, SpeechSource source, bool isDrowned) =>
        [
            .. words.Select(w =>
                w with
                {
                    Confidence = source == SpeechSource.Recognised ? Of(w.Confidence, RecognisedWords) : Of(w.Confidence, source, isDrowned),
                }
            ),
        ];
}
