using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Dialogue;

/// <summary>How much of a recording lies in each of some bands, frame by frame: in bands, of two sounds together the louder one is what is there.</summary>
internal sealed class VoiceBands
{
    /// <summary>Bands of a frame, evenly spaced in mel from <see cref="Lowest"/> to <see cref="Highest"/> Hz.</summary>
    public const int Bands = 32;

    private const float Lowest = 60,
        Highest = 7600;
    private const int Length = 512;

    /// <summary>Samples at 16 kHz from one frame to the next.</summary>
    public const int Hop = 160;

    // What lies further under the loud parts is nothing, in nats of power (60 dB).
    private const float Deep = 13.8f;

    private readonly float[] _logs;

    /// <param name="audio">At 16 kHz.</param>
    /// <param name="cancel">Stops the work.</param>
    public VoiceBands(AudioBuffer audio, CancellationToken cancel)
    {
        if (audio.SampleRate != CepstralFrontEnd.SampleRate)
            throw new ArgumentException("Voices are told apart at 16 kHz.", nameof(audio));
        Count = audio.Samples.Length / Hop + 1;
        _logs = new float[Count * Bands];
        // Corners of a filter bank lie on bins, which is too coarse here: with those two were heard in 86 % of their frames in place of 91.
        float[] edges = [.. Enumerable.Range(0, Bands + 2).Select(i => (float)(MelFilterBank.Hz(Low + i * Step) * Length / audio.SampleRate))];
        var window = new float[Length];
        for (var i = 0; i < Length; i++)
            window[i] = 0.5f - 0.5f * MathF.Cos(2 * MathF.PI * (i + 0.5f) / Length);
        Parallel.For(
            0,
            (Count + 999) / 1000,
            new ParallelOptions { CancellationToken = cancel },
            part =>
            {
                var fft = new RealFft(Length);
                var (sound, power) = (new float[Length], new float[Length / 2 + 1]);
                for (var f = 1000 * part; f < Math.Min(Count, 1000 * part + 1000); f++)
                {
                    for (var i = 0; i < Length; i++)
                        sound[i] = f * Hop + i - Length / 2 is var at and >= 0 && at < audio.Samples.Length ? window[i] * audio.Samples[at] : 0;
                    fft.PowerSpectrum(sound, power);
                    for (var b = 0; b < Bands; b++)
                    {
                        var sum = 1e-12f;
                        for (var k = (int)MathF.Ceiling(edges[b]); k < edges[b + 2]; k++)
                            sum +=
                                power[k] * (k < edges[b + 1] ? (k - edges[b]) / (edges[b + 1] - edges[b]) : (edges[b + 2] - k) / (edges[b + 2] - edges[b + 1]));
                        _logs[f * Bands + b] = MathF.Log(sum);
                    }
                }
            }
        );
        var floor = LoudnessEnvelope.Percentile(_logs, 0.97) - Deep;
        for (var i = 0; i < _logs.Length; i++)
            _logs[i] = MathF.Max(_logs[i], floor);
    }

    /// <summary>How many frames there are.</summary>
    public int Count { get; }

    /// <summary>Power in each band, in nats.</summary>
    public ReadOnlySpan<float> this[int f] => _logs.AsSpan(f * Bands, Bands);

    /// <summary>Middle of a frame, in seconds.</summary>
    public static double TimeOf(int frame) => (double)frame * Hop / CepstralFrontEnd.SampleRate;

    /// <summary>The frame whose middle is nearest.</summary>
    public int FrameAt(double time) => Math.Clamp((int)Math.Round(time * CepstralFrontEnd.SampleRate / Hop), 0, Count);

    /// <summary>Where a frequency lies among the middles of the bands: 1.5 is half way from the second to the third.</summary>
    /// <param name="hz">Of 0 or more.</param>
    /// <returns>From 0 to the last band: what lies outside belongs to the outermost.</returns>
    public static float PlaceOf(double hz) => (float)Math.Clamp((MelFilterBank.Mel(hz) - Low) / Step - 1, 0, Bands - 1);

    private static readonly double Low = MelFilterBank.Mel(Lowest),
        Step = (MelFilterBank.Mel(Highest) - Low) / (Bands + 1);
}
