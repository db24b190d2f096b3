using Microsoft.ML.OnnxRuntime;
using Zamblo.Core.Audio;

namespace Zamblo.Media;

/// <summary>Silero VAD (MIT License), a small recurrent network that tells voice from everything else; run by ONNX Runtime on one core.</summary>
public static class VoiceModel
{
    private const int Step = 512,
        Context = 64;

    private static readonly Lazy<InferenceSession> Session = new(() => OwnModel.Open("silero_vad_v5.onnx", 1));

    /// <summary>Probability of voice, one value per 512 samples.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <param name="cancel">Stops the work.</param>
    public static float[] Probabilities(AudioBuffer audio, CancellationToken cancel) => Probabilities(audio, null, cancel);

    /// <summary>The same, saying how far it is.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the work.</param>
    public static float[] Probabilities(AudioBuffer audio, Action<double>? progress, CancellationToken cancel)
    {
        var count = (audio.Samples.Length + Step - 1) / Step;
        var result = new float[count];
        // Stretches of fixed length are worked out side by side, each after a run-up in which its state settles: a step alone is mostly overhead.
        var stretches = (count + Stretch - 1) / Stretch;
        for (var first = 0; first < stretches; first += Lanes)
        {
            progress?.Invoke((double)first / stretches);
            var lanes = Math.Min(Lanes, stretches - first);
            // Each step sees the last 64 samples of the one before, and hands its state on.
            var input = new float[lanes * (Context + Step)];
            var state = new float[2 * lanes * 128];
            using var options = new RunOptions();
            using var rate = OrtValue.CreateTensorValueFromMemory(new long[] { 16000 }, [1]);
            for (var i = first == 0 && lanes == 1 ? 0 : -RunUp; i < Math.Min(Stretch, count - first * Stretch); i++)
            {
                if ((i & 63) == 0)
                    cancel.ThrowIfCancellationRequested();
                for (var lane = 0; lane < lanes; lane++)
                {
                    var own = input.AsSpan(lane * (Context + Step), Context + Step);
                    own[Step..].CopyTo(own);
                    var start = ((first + lane) * Stretch + i) * Step;
                    for (var k = 0; k < Step; k++)
                        own[Context + k] =
                            (uint)(start + k) < (uint)audio.Samples.Length && float.IsFinite(audio.Samples[start + k]) ? audio.Samples[start + k] : 0;
                    // Before the beginning there is nothing to run up on.
                    if (start >= 0)
                        continue;
                    state.AsSpan(lane * 128, 128).Clear();
                    state.AsSpan((lanes + lane) * 128, 128).Clear();
                }
                using var sound = OrtValue.CreateTensorValueFromMemory(input, [lanes, Context + Step]);
                using var memory = OrtValue.CreateTensorValueFromMemory(state, [2, lanes, 128]);
                using var outputs = Session.Value.Run(options, ["input", "state", "sr"], [sound, memory, rate], ["output", "stateN"]);
                var told = outputs[0].GetTensorDataAsSpan<float>();
                for (var lane = 0; lane < lanes; lane++)
                    if (i >= 0 && (first + lane) * Stretch + i is var at && at < count)
                        result[at] = told[lane];
                outputs[1].GetTensorDataAsSpan<float>().CopyTo(state);
            }
        }
        return result;
    }

    // 64 s and 3 s in steps of 32 ms.
    private const int Stretch = 2000,
        RunUp = 94,
        Lanes = 16;
}
