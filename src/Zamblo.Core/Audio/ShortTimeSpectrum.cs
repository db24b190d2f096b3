namespace Zamblo.Core.Audio;

/// <summary>
/// Spectra of a sound at 16 kHz, frame by frame, as our own models learned to see them: Hann windows of 40 ms, one every 10 ms as hearing has its frames,
/// filled up with silence to a power of two. Not for several threads.
/// </summary>
/// <param name="samples">The sound.</param>
internal sealed class ShortTimeSpectrum(float[] samples)
{
    /// <summary>Bins of a frame.</summary>
    public const int Bins = Length / 2 + 1;

    /// <summary>Samples of a transform, and from one frame to the next.</summary>
    public const int Length = 1024,
        Shift = 160;

    private const int Window = 640;

    private static readonly float[] Shape =
    [
        .. Enumerable
            .Range(0, Length)
            .Select(i => i - (Length - Window) / 2)
            .Select(i => i < 0 || i >= Window ? 0 : 0.5f - 0.5f * MathF.Cos(2 * MathF.PI * i / Window)),
    ];

    private readonly RealFft _fft = new(Length);
    private readonly float[] _part = new float[Length];
    private readonly Complex32[] _line = new Complex32[Bins];

    /// <summary>How many frames a sound has.</summary>
    public static int FramesOf(int samples) => samples / Shift + 1;

    /// <summary>A frame's spectrum; it may be changed, and holds until the next is asked for.</summary>
    public Complex32[] At(int frame)
    {
        for (var i = 0; i < Length; i++)
        {
            var at = frame * Shift + i - Length / 2;
            _part[i] = (uint)at < (uint)samples.Length && float.IsFinite(samples[at]) ? Shape[i] * samples[at] : 0;
        }
        _fft.Spectrum(_part, _line);
        return _line;
    }

    /// <summary>Adds a frame to a sound that is put together again.</summary>
    /// <param name="frame">Which.</param>
    /// <param name="line">Its spectrum.</param>
    /// <param name="sound">Grows.</param>
    /// <param name="weight">How much has been added to each sample.</param>
    public void Add(int frame, Complex32[] line, float[] sound, float[] weight)
    {
        _fft.Inverse(line, _part);
        for (var i = (Length - Window) / 2; i < (Length + Window) / 2; i++)
        {
            var to = frame * Shift + i - Length / 2;
            if ((uint)to >= (uint)sound.Length)
                continue;
            sound[to] += Shape[i] * _part[i];
            weight[to] += Shape[i] * Shape[i];
        }
    }
}
