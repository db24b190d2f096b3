using Microsoft.ML.OnnxRuntime;
using Zamblo.Core.Audio;

namespace Zamblo.Media;

/// <summary>Silero VAD (MIT License), a small recurrent network that tells voice from everything else; run by ONNX Runtime on one core.</summary>
public static class VoiceModel
{
    private const int Step = 512, Context = 64;

    private static readonly Lazy<InferenceSession> Session = new(() =>
    {
        using var stream = typeof(VoiceModel).Assembly.GetManifestResourceStream("silero_vad_v5.onnx") ?? throw new InvalidOperationException("The program lacks its own voice model.");
        var bytes = new byte[stream.Length];
        stream.ReadExactly(bytes);
        return new InferenceSession(bytes, new SessionOptions { IntraOpNumThreads = 1, InterOpNumThreads = 1, LogSeverityLevel = OrtLoggingLevel.ORT_LOGGING_LEVEL_ERROR });
    });

    /// <summary>Probability of voice, one value per 512 samples.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <param name="cancel">Stops the work.</param>
    public static float[] Probabilities(AudioBuffer audio, CancellationToken cancel)
    {
        var count = (audio.Samples.Length + Step - 1) / Step;
        var result = new float[count];
        // Each step sees the last 64 samples of the one before, and hands its state on.
        var input = new float[Context + Step];
        var state = new float[2 * 128];
        using var options = new RunOptions();
        using var rate = OrtValue.CreateTensorValueFromMemory(new long[] { 16000 }, [1]);
        for (var i = 0; i < count; i++)
        {
            if ((i & 255) == 0) cancel.ThrowIfCancellationRequested();
            Array.Copy(input, Step, input, 0, Context);
            for (var k = 0; k < Step; k++)
            {
                var at = i * Step + k;
                var x = at < audio.Samples.Length ? audio.Samples[at] : 0;
                input[Context + k] = float.IsFinite(x) ? x : 0;
            }
            using var sound = OrtValue.CreateTensorValueFromMemory(input, [1, Context + Step]);
            using var memory = OrtValue.CreateTensorValueFromMemory(state, [2, 1, 128]);
            using var outputs = Session.Value.Run(options, ["input", "state", "sr"], [sound, memory, rate], ["output", "stateN"]);
            result[i] = outputs[0].GetTensorDataAsSpan<float>()[0];
            outputs[1].GetTensorDataAsSpan<float>().CopyTo(state);
        }
        return result;
    }
}
