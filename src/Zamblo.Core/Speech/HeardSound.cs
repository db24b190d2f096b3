using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>Sound made ready for the search: features, and how well the best of all phones explains each frame.</summary>
internal sealed class HeardSound
{
    private readonly float[] _features,
        _held;
    private readonly CepstralFrontEnd _frontEnd;
    private readonly double _shift;
    private readonly AcousticModel _model;

    // All of a take, or a slice of it that starts at an offset in seconds.
    public HeardSound(AcousticModel model, CepstralFrontEnd frontEnd, AudioBuffer audio, double offset, CancellationToken cancel)
    {
        (_model, _frontEnd) = (model, frontEnd);
        // A frame's state describes the middle of its window; a boundary lies half a shift before the middle of the first frame after it.
        _shift = offset - model.FrontEnd.ShiftSamples / 2.0 / CepstralFrontEnd.SampleRate;
        var cepstra = frontEnd.Compute(audio.Samples, cancel);
        _features = Features.FromCepstra(cepstra);
        _held = HeldSounds.Weights(cepstra, model.FrontEnd.Coefficients);
        Audio = audio;
        Offset = offset;
        Background = new Background(model, _features, cancel);
        Quiet = new float[Frames];
        Weights = [.. Enumerable.Repeat(1f, Frames)];
    }

    // Where a model of songs hears nobody with less than this, so much speaks against words, in nats a frame.
    private const float Silent = 0.3f,
        Certain = 12;

    /// <summary>Takes in what level and voice model say: one value per 10 ms, and one per step of the model or null.</summary>
    public void Doubt(float[] levels, float[]? voice, float[]? sings = null)
    {
        var doubt = VoiceActivity.AgainstSilence(levels, voice);
        for (var f = 0; f < Frames; f++)
            Quiet[f] = doubt[Math.Clamp((int)(100 * _frontEnd.CentreOf(f)), 0, doubt.Length - 1)];
        if (sings != null)
            for (var f = 0; f < Frames; f++)
                if (sings[Math.Clamp((int)(100 * _frontEnd.CentreOf(f)), 0, sings.Length - 1)] < Silent)
                    Quiet[f] = MathF.Max(Quiet[f], Certain);
        // Less than 25 dB between the loud parts and the quietest: pauses are not silent.
        var range = LoudnessEnvelope.Percentile(levels, 0.97) - LoudnessEnvelope.Percentile(levels, 0.1);
        (IsNoisy, IsDrowned) = (range < 25, range < 20);
        Weights = HeldSounds.InSong(_held, Quiet, IsNoisy);
        IsSung = sings != null || Weights.Any(w => w < 1);
    }

    /// <summary>Takes in where a voice is heard that does not speak.</summary>
    /// <param name="sounds">In seconds of the take; null for nowhere.</param>
    public void Doubt(IReadOnlyList<VocalSound>? sounds)
    {
        foreach (var s in sounds ?? [])
            for (int f = FrameAt(s.Start), end = FrameAt(s.End); f < end; f++)
                Quiet[f] = MathF.Max(Quiet[f], Unspoken);
    }

    /// <summary>What a network of phones hears in the same sound; null where none was asked.</summary>
    public PhoneEvidence? Evidence { get; set; }

    // As much speaks against words where somebody laughs, in nats a frame. (Of a script that is there all the same a word is laid there yet.)
    private const float Unspoken = 4;

    /// <summary>Whether there is noise in the pauses.</summary>
    public bool IsNoisy { get; private set; }

    /// <summary>Whether somebody sings.</summary>
    public bool IsSung { get; private set; }

    /// <summary>Whether notes are held for so long, in all, that it is no sentence with a few drawn-out vowels.</summary>
    public bool HoldsNotes => IsSung && Weights.Count(w => w < 1) >= Notes;

    // Frames: of 575 recordings of people who talk, read or call out at most 70 are held, of the bench's songs 120 and more.
    private const int Notes = 100;

    /// <summary>Whether the noise lies so close under the speech that boundaries and confidences have tables of their own.</summary>
    public bool IsDrowned { get; private set; }

    /// <summary>Whether an echo was taken away.</summary>
    public bool IsInRoom { get; init; }

    /// <summary>By which table boundaries are placed.</summary>
    public Surroundings Around =>
        IsDrowned ? Surroundings.Noise
        : IsInRoom ? Surroundings.Room
        : Surroundings.Quiet;

    private HeardSound(HeardSound other, float[] features, Background background) =>
        (_features, _held, _model, _frontEnd, _shift, Evidence, IsSung, Audio, Offset, Background, Quiet, Weights, IsNoisy, IsDrowned, IsInRoom) = (
            features,
            other._held,
            other._model,
            other._frontEnd,
            other._shift,
            other.Evidence,
            other.IsSung,
            other.Audio,
            other.Offset,
            background,
            other.Quiet,
            other.Weights,
            other.IsNoisy,
            other.IsDrowned,
            other.IsInRoom
        );

    /// <summary>The same sound, its features fitted to the model.</summary>
    public HeardSound Adapted(AcousticModel model, IReadOnlyList<(int Frame, int Senone)> states, CancellationToken cancel)
    {
        var features = SpeakerTransform.Adapt(model, _features, states);
        return new HeardSound(this, features, new Background(model, features, cancel));
    }

    public AudioBuffer Audio { get; }
    public double Offset { get; }
    public Background Background { get; }

    /// <summary>For each frame what speaks against silence there (less than 0) or against speech (more than 0), in nats.</summary>
    public float[] Quiet { get; }

    /// <summary>How much each frame counts, 0 to 1 (<see cref="HeldSounds"/>).</summary>
    public float[] Weights { get; private set; }
    public int Frames => _features.Length / Features.Length;
    public ReadOnlySpan<float> this[int frame] => _features.AsSpan(frame * Features.Length, Features.Length);

    /// <summary>The boundary before a frame, in seconds of the take.</summary>
    public double TimeOf(int frame) => _frontEnd.CentreOf(frame) + _shift;

    /// <summary>The middle of a frame, in seconds of the sound.</summary>
    public double CentreOf(int frame) => _frontEnd.CentreOf(frame);

    /// <summary>The frame that starts nearest to a time of the take.</summary>
    public int FrameAt(double seconds) => Math.Clamp((int)Math.Round((seconds - TimeOf(0)) / (TimeOf(1) - TimeOf(0))), 0, Frames);
}
