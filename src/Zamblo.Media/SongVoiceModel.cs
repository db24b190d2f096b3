using Microsoft.ML.OnnxRuntime;
using Zamblo.Core.Audio;

namespace Zamblo.Media;

/// <summary>
/// Tells a singer from the band: a network of dilated convolutions, learned from songs that were made for it (<c>bench/songs/learn.py</c>); run by ONNX
/// Runtime.
/// </summary>
public static class SongVoiceModel
{
    private static readonly Lazy<InferenceSession> Session = new(() => OwnModel.Open("song_voice.onnx", 0));

    /// <summary>Runs it.</summary>
    /// <param name="logs">Shape: bins x frames, row by row (<see cref="VoiceOfSong"/>).</param>
    /// <param name="frames">How many.</param>
    public static SongParts Tell(float[] logs, int frames)
    {
        using var options = new RunOptions();
        using var input = OrtValue.CreateTensorValueFromMemory(logs, [1, VoiceOfSong.Bins, frames]);
        using var outputs = Session.Value.Run(options, ["logs"], [input], ["voice", "heads"]);
        var heads = outputs[1].GetTensorDataAsSpan<float>();
        return new SongParts(outputs[0].GetTensorDataAsSpan<float>().ToArray(), heads[..frames].ToArray(), heads[frames..].ToArray());
    }
}
