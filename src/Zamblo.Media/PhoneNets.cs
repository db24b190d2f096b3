using Microsoft.ML.OnnxRuntime;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>
/// Tells which phone is sung: a network of dilated convolutions, learned from songs that were made for it (<c>bench/songs/phones.py</c>); run by ONNX Runtime.
/// </summary>
public static class SungPhoneNet
{
    private static readonly Lazy<InferenceSession> Session = new(() => OwnModel.Open("song_phones.onnx", 0));

    /// <summary>Runs it (<see cref="SungPhoneModel"/>).</summary>
    /// <param name="logs">Shape: <see cref="SungPhones.Inputs"/> x frames, row by row.</param>
    /// <param name="frames">How many.</param>
    public static float[] Tell(float[] logs, int frames)
    {
        using var options = new RunOptions();
        using var input = OrtValue.CreateTensorValueFromMemory(logs, [1, SungPhones.Inputs, frames]);
        using var outputs = Session.Value.Run(options, ["logs"], [input], ["phones"]);
        return outputs[0].GetTensorDataAsSpan<float>().ToArray();
    }
}
