using System.Runtime.InteropServices;
using Wasmtime;
using Zamblo.Core.Audio;

namespace Zamblo.Media;

/// <summary>
/// Takes noise from under a voice: RNNoise (Valin 2018, "A hybrid DSP/deep learning approach to real-time full-band speech enhancement"), a small
/// recurrent network, run as WebAssembly so that it can reach nothing but its own memory.
/// </summary>
public sealed class LearnedSuppressor : IDisposable
{
    /// <summary>The rate that it works at, in Hz.</summary>
    public const int Rate = 48_000;

    // Samples of a frame; it answers one frame late.
    private const int Frame = 480;

    // It was trained on samples of 16 bits.
    private const float FullScale = 32768;

    private static readonly Lazy<(Engine Engine, Module Module)> Code = new(() =>
    {
        using var stream = typeof(LearnedSuppressor).Assembly.GetManifestResourceStream("rnnoise.wasm")!;
        var engine = new Engine();
        return (engine, Module.FromStream(engine, "rnnoise", stream));
    });

    private readonly Store _store;
    private readonly Memory _memory;
    private readonly Action<int> _destroy;
    private readonly Func<int, int, int, float> _process;
    private readonly int _state,
        _samples;

    /// <summary>One voice; frames follow each other.</summary>
    private LearnedSuppressor()
    {
        var (engine, module) = Code.Value;
        _store = new Store(engine);
        using var linker = new Linker(engine);
        // The two things that it asks for: more memory, which it never needs, and a copy within its memory.
        linker.Define("a", "a", Function.FromCallback(_store, (int _) => 0));
        linker.Define(
            "a",
            "b",
            Function.FromCallback(
                _store,
                (Caller caller, int to, int from, int count) =>
                {
                    var memory = caller.GetMemory("c")!;
                    memory.GetSpan(from, count).CopyTo(memory.GetSpan(to, count));
                }
            )
        );
        var instance = linker.Instantiate(_store, module);
        _memory = instance.GetMemory("c")!;
        instance.GetAction("d")!();
        _state = instance.GetFunction<int, int>("f")!(0);
        _samples = instance.GetFunction<int, int>("g")!(Frame * sizeof(float));
        _destroy = instance.GetAction<int>("h")!;
        _process = instance.GetFunction<int, int, int, float>("j")!;
    }

    private Span<float> Samples => MemoryMarshal.Cast<byte, float>(_memory.GetSpan(_samples, Frame * sizeof(float)));

    /// <summary>A voice without its noise.</summary>
    /// <param name="audio">At 48 kHz.</param>
    /// <param name="reduction">So many decibels the noise falls at the most, 0 to 60.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>As long as it came.</returns>
    /// <exception cref="ArgumentException">Another rate.</exception>
    public static AudioBuffer Clean(AudioBuffer audio, double reduction, CancellationToken cancel = default)
    {
        if (audio.SampleRate != Rate)
            throw new ArgumentException($"Noise is taken out at {Rate} Hz, not at {audio.SampleRate}.", nameof(audio));
        var count = audio.Samples.Length;
        var frames = (count + Frame - 1) / Frame;
        var voice = new float[frames * Frame];
        var likely = new float[frames];
        using (var network = new LearnedSuppressor())
            for (var f = 0; f <= frames; f++)
            {
                cancel.ThrowIfCancellationRequested();
                var samples = network.Samples;
                samples.Clear();
                var from = f * Frame;
                for (var i = 0; i < Frame && from + i < count; i++)
                    samples[i] = FullScale * audio.Samples[from + i];
                var probability = network._process(network._state, network._samples, network._samples);
                // What comes is the frame before; its likelihood was told with it.
                if (f > 0)
                    for (var i = 0; i < Frame; i++)
                        voice[from - Frame + i] = network.Samples[i] / FullScale;
                if (f < frames)
                    likely[f] = probability;
            }
        var least = (float)Math.Pow(10, -Math.Max(0, reduction) / 20);
        var open = Openness(likely, least);
        var clean = new float[count];
        for (var i = 0; i < count; i++)
        {
            var gate = Between(open, i);
            clean[i] = gate * voice[i] + least * (audio.Samples[i] - voice[i]);
        }
        return new AudioBuffer(clean, Rate);
    }

    // Where nobody speaks what is left of the noise goes as well: opened a little before a voice, closed a while after it, so that no sound is cut.
    private static float[] Openness(float[] likely, float least)
    {
        const int Before = 6,
            After = 20;
        const float Voice = 0.35f;
        // The network has taken about this much itself; the rest is the gate's (measured: 25 to 30 dB).
        var closed = Math.Max(least * 18, 0.1f);
        var open = new float[likely.Length];
        Array.Fill(open, Math.Min(1, closed));
        for (var f = 0; f < likely.Length; f++)
            if (likely[f] >= Voice)
                Array.Fill(open, 1, Math.Max(0, f - Before), Math.Min(likely.Length - 1, f + After) - Math.Max(0, f - Before) + 1);
        // Over 50 ms in either direction.
        for (var f = 1; f < open.Length; f++)
            open[f] = Math.Max(open[f], open[f - 1] - 0.2f);
        for (var f = open.Length - 2; f >= 0; f--)
            open[f] = Math.Max(open[f], open[f + 1] - 0.2f);
        return open;
    }

    private static float Between(float[] perFrame, int sample)
    {
        var at = (sample - Frame / 2f) / Frame;
        var first = Math.Clamp((int)MathF.Floor(at), 0, perFrame.Length - 1);
        var next = Math.Min(first + 1, perFrame.Length - 1);
        return perFrame[first] + (perFrame[next] - perFrame[first]) * Math.Clamp(at - first, 0, 1);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _destroy(_state);
        _store.Dispose();
    }
}
