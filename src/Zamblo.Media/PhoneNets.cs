using Microsoft.ML.OnnxRuntime;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>
/// Networks of dilated convolutions that tell phones (<see cref="PhoneModel"/>), run by ONNX Runtime: one learned from speech
/// (<c>bench/speech/learn.py</c>), one from songs that were made for it (<c>bench/songs/phones.py</c>).
/// </summary>
public static class PhoneNets
{
    private static readonly Lazy<InferenceSession> OfSpeech = new(() => OwnModel.Open("speech_phones.onnx", 0)),
        OfSongs = new(() => OwnModel.Open("song_phones.onnx", 0));

    /// <summary>Which phone is said.</summary>
    /// <param name="logs">Shape: <see cref="PhoneEvidence.SpokenInputs"/> x frames, row by row.</param>
    /// <param name="frames">How many.</param>
    public static float[] Spoken(float[] logs, int frames) => Run(OfSpeech.Value, logs, PhoneEvidence.SpokenInputs, frames);

    /// <summary>Which phone is sung.</summary>
    /// <param name="logs">Shape: <see cref="PhoneEvidence.SungInputs"/> x frames, row by row.</param>
    /// <param name="frames">How many.</param>
    public static float[] Sung(float[] logs, int frames) => Run(OfSongs.Value, logs, PhoneEvidence.SungInputs, frames);

    private static float[] Run(InferenceSession session, float[] logs, int inputs, int frames)
    {
        using var options = new RunOptions();
        using var input = OrtValue.CreateTensorValueFromMemory(logs, [1, inputs, frames]);
        using var outputs = session.Run(options, ["logs"], [input], ["phones"]);
        return outputs[0].GetTensorDataAsSpan<float>().ToArray();
    }
}
