using System.Runtime.InteropServices;
using System.Text.Json;
using Microsoft.ML.OnnxRuntime;

namespace Zamblo.SpeechHost;

/// <summary>What a neural voice is to say.</summary>
/// <param name="Pieces">For each piece the numbers of its phonemes, as the voice counts them.</param>
/// <param name="Scales">Noise, length and noise of lengths, as the voice takes them.</param>
/// <param name="Speaker">Its number, or null for a voice of one speaker.</param>
/// <param name="MostSamples">More than that is no speech any more.</param>
internal sealed record ModelOrder(long[][] Pieces, float[] Scales, long? Speaker, long MostSamples);

/// <summary>
/// A voice in the common form of open VITS voices (Kim, Kong and Son, "Conditional Variational Autoencoder with Adversarial Learning for End-to-End
/// Text-to-Speech", ICML 2021), an ONNX graph: phonemes as numbers in ("input" 1 x T, "input_lengths", "scales", "sid"), samples out.
/// </summary>
internal static class NeuralVoice
{
    /// <summary>Writes the samples of every piece, each after its count: a 32-bit integer, then 32-bit floats, little-endian.</summary>
    /// <exception cref="InvalidOperationException">The model is none that speaks, or says too much.</exception>
    public static void Speak(string model, string json, string path)
    {
        var order = JsonSerializer.Deserialize<ModelOrder>(json, JsonSerializerOptions.Web)!;
        using var session = new InferenceSession(
            model,
            new SessionOptions { LogSeverityLevel = OrtLoggingLevel.ORT_LOGGING_LEVEL_FATAL, IntraOpNumThreads = Environment.ProcessorCount }
        );
        var known = new[] { "input", "input_lengths", "scales", "sid" };
        foreach (var (name, about) in session.InputMetadata)
            if (!known.Contains(name) || about.ElementType != (name == "scales" ? typeof(float) : typeof(long)))
                throw new InvalidOperationException($"The model wants an input \"{name}\", which no voice has.");
        if (!session.InputMetadata.ContainsKey("input"))
            throw new InvalidOperationException("The model has no input for phonemes.");
        var output = session.OutputMetadata.FirstOrDefault(o => o.Value.ElementType == typeof(float)).Key;
        if (output == null)
            throw new InvalidOperationException("The model gives no sound.");
        using var file = new BinaryWriter(File.Create(path));
        long all = 0;
        foreach (var ids in order.Pieces)
        {
            var inputs = new Dictionary<string, OrtValue>();
            try
            {
                foreach (var name in session.InputMetadata.Keys)
                    inputs[name] = name switch
                    {
                        "input" => OrtValue.CreateTensorValueFromMemory(ids, [1, ids.Length]),
                        "input_lengths" => OrtValue.CreateTensorValueFromMemory(new[] { (long)ids.Length }, [1]),
                        "scales" => OrtValue.CreateTensorValueFromMemory(order.Scales, [order.Scales.Length]),
                        _ => OrtValue.CreateTensorValueFromMemory(new[] { order.Speaker ?? 0 }, [1]),
                    };
                using var options = new RunOptions();
                using var told = session.Run(options, inputs, [output]);
                var samples = told[0].GetTensorDataAsSpan<float>();
                all += samples.Length;
                if (all > order.MostSamples)
                    throw new InvalidOperationException("The voice speaks on without an end.");
                file.Write(samples.Length);
                file.Write(MemoryMarshal.AsBytes(samples));
            }
            finally
            {
                foreach (var input in inputs.Values)
                    input.Dispose();
            }
        }
    }
}
