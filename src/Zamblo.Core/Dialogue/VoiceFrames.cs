using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Dialogue;

/// <summary>Cepstra and pitch of a whole recording.</summary>
internal sealed class VoiceFrames
{
    // Cepstra 1 to 18 of 10 ms frames; the first one is loudness, which belongs to the microphone.
    private const int Coefficients = 19;

    /// <summary>Cepstra of a frame.</summary>
    public const int Dimensions = 18;

    private readonly float[] _cepstra;
    private readonly CepstralFrontEnd _frontEnd;

    /// <summary>Pitch of each frame in semitones over 100 Hz; not a number where there is none.</summary>
    public readonly float[] Tone;

    public VoiceFrames(AudioBuffer audio, CancellationToken cancel)
    {
        var frontEnd = _frontEnd = new CepstralFrontEnd(
            new CepstralOptions
            {
                Coefficients = Coefficients,
                Filters = 30,
                LowerHz = 100,
                UpperHz = 7200,
            }
        );
        var pitch = PitchTracker.Track(audio, cancel);
        _cepstra = frontEnd.Compute(audio.Samples, cancel);
        Count = _cepstra.Length / Coefficients;
        Tone = new float[Count];
        for (var f = 0; f < Count; f++)
            Tone[f] = pitch[Math.Clamp((int)(100 * frontEnd.CentreOf(f)), 0, pitch.Length - 1)] is var hz and > 0 ? 12 * MathF.Log2(hz / 100) : float.NaN;
    }

    public int Count { get; }
    public ReadOnlySpan<float> this[int f] => _cepstra.AsSpan(f * Coefficients + 1, Dimensions);

    public int FrameAt(double time) => Math.Clamp((int)Math.Round((time - _frontEnd.CentreOf(0)) * 100), 0, Count);

    public double TimeOf(int frame) => _frontEnd.CentreOf(0) + (frame - 0.5) / 100;
}
