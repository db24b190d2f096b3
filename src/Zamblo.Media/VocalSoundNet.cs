using Microsoft.ML.OnnxRuntime;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>
/// Names laughs, sobs, breaths and the like: a network of dilated convolutions, learned from sounds that were made for it (<c>bench/sounds/learn.py</c>);
/// run by ONNX Runtime.
/// </summary>
public static class VocalSoundNet
{
    private static readonly Lazy<InferenceSession> Session = new(() => OwnModel.Open("vocal_sounds.onnx", 1));

    /// <summary>Runs it (<see cref="VocalSoundModel"/>).</summary>
    /// <param name="logs">Shape: bands x frames, row by row.</param>
    /// <param name="frames">How many.</param>
    public static float[] Tell(float[] logs, int frames)
    {
        using var options = new RunOptions();
        using var input = OrtValue.CreateTensorValueFromMemory(logs, [1, VocalSounds.Bands, frames]);
        using var outputs = Session.Value.Run(options, ["logs"], [input], ["told"]);
        return outputs[0].GetTensorDataAsSpan<float>().ToArray();
    }
}
