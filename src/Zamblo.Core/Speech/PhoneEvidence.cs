using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>How much likelier than usual each phone is in each frame, in nats. Shape of the answer: phones x frames, row by row.</summary>
/// <param name="logs">
/// Mel bands of a sound (<see cref="MelLogs"/>); of a song, and under it of its voice. Shape: bands, or twice as many, x frames, row by row.
/// </param>
/// <param name="frames">How many.</param>
public delegate float[] PhoneModel(float[] logs, int frames);

/// <summary>
/// What a network of ours hears beside the acoustic model, which learned from people who read in quiet: one that learned from speech in rooms, in noise and
/// over bands, or one that learned from songs, where the harmonics of a high voice lie further apart than the filters of the acoustic model are wide.
/// </summary>
public sealed class PhoneEvidence
{
    /// <summary>Values of a frame that a network of speech is given, and one of songs.</summary>
    public const int SpokenInputs = MelLogs.Bands,
        SungInputs = 2 * MelLogs.Bands;

    /// <summary>How evidence counts.</summary>
    /// <param name="Acoustic">How much the acoustic model counts beside it.</param>
    /// <param name="Own">How much it counts itself.</param>
    /// <param name="Held">How much of that a frame does at least that says the same as its neighbours.</param>
    /// <param name="IsOfSong">Whether it is of a song: there a consonant costs more than a vowel, and the loop of sounds has a narrower beam.</param>
    public sealed record Weights(float Acoustic, float Own, float Held, bool IsOfSong);

    // Of songs chosen on the tuned voices of the bench; of speech between what is best for synthesized voices (more of the network) and for people (less).
    private static readonly Weights Spoken = new(0.7f, 0.5f, 0.5f, false),
        Sung = new(0.3f, 1, 0.5f, true);

    // What the networks tell, in their order.
    private static readonly string[] Phones = [Arpabet.Silence, .. Arpabet.Phones];

    private static readonly Dictionary<string, int> Places = Phones.Select((p, i) => (p, i)).ToDictionary(p => p.p, p => p.i);

    // Frames to both sides that a network sees (62 in its layers together, rounded up). They learned from stretches of 256.
    private const int Around = 64;

    // Where a sound is silent.
    private static readonly float Silence = MathF.Log(1e-6f) / 4 + 1;

    // What at most speaks against a phone in a frame, and for it, in nats; kept in steps of a sixteenth: an hour of it is long.
    private const float Least = -6,
        Step = 1 / 16f;

    private readonly sbyte[] _told;
    private readonly int _frames;

    private PhoneEvidence(sbyte[] told, int frames, Weights weight) => (_told, _frames, Weight) = (told, frames, weight);

    /// <summary>How it counts.</summary>
    public Weights Weight { get; }

    /// <summary>Listens to speech.</summary>
    /// <param name="speech">At 16 kHz.</param>
    /// <param name="model">Tells phones from <see cref="SpokenInputs"/> values a frame.</param>
    /// <param name="cancel">Stops the work.</param>
    public static PhoneEvidence OfSpeech(AudioBuffer speech, PhoneModel model, CancellationToken cancel = default) => Of([speech], model, 512, Spoken, cancel);

    /// <summary>Listens to a song.</summary>
    /// <param name="song">At 16 kHz.</param>
    /// <param name="voice">What was taken out of it; the song itself where somebody sings alone.</param>
    /// <param name="model">Tells phones from <see cref="SungInputs"/> values a frame.</param>
    /// <param name="cancel">Stops the work.</param>
    public static PhoneEvidence OfSong(AudioBuffer song, AudioBuffer voice, PhoneModel model, CancellationToken cancel = default) =>
        Of([song, voice], model, 256, Sung, cancel);

    private static PhoneEvidence Of(AudioBuffer[] sounds, PhoneModel model, int piece, Weights weight, CancellationToken cancel)
    {
        var frames = ShortTimeSpectrum.FramesOf(sounds[0].Samples.Length);
        var told = new sbyte[Phones.Length * frames];
        ShortTimeSpectrum[] spectra = [.. sounds.Select(s => new ShortTimeSpectrum(s.Samples))];
        for (var at = 0; at < frames; at += piece)
        {
            cancel.ThrowIfCancellationRequested();
            int first = Math.Max(0, at - Around),
                end = Math.Min(frames, at + piece + Around),
                count = end - first;
            var logs = new float[spectra.Length * MelLogs.Bands * count];
            Array.Fill(logs, Silence);
            for (var s = 0; s < spectra.Length; s++)
                MelLogs.Of(spectra[s], first, end)?.CopyTo(logs, s * MelLogs.Bands * count);
            var answer = model(logs, count);
            for (var p = 0; p < Phones.Length; p++)
            for (var f = at; f < Math.Min(frames, at + piece); f++)
                told[f * Phones.Length + p] = (sbyte)
                    Math.Clamp(MathF.Round(MathF.Max(Least, answer[p * count + f - first]) / Step), sbyte.MinValue, sbyte.MaxValue);
        }
        return new PhoneEvidence(told, frames, weight);
    }

    /// <summary>The places of an acoustic model's phones among those that are told; its phones that are no speech are silence.</summary>
    /// <param name="model">The acoustic model.</param>
    public static int[] PlacesOf(AcousticModel model) => [.. model.PhoneNames.Select(PlaceOf)];

    /// <summary>The place of a phone among those that are told.</summary>
    /// <param name="phone">By its name.</param>
    internal static int PlaceOf(string phone) => Places.GetValueOrDefault(phone);

    /// <summary>What speaks for phones at a time, in nats.</summary>
    /// <param name="time">In seconds of the sound.</param>
    /// <param name="places">Of the phones.</param>
    /// <param name="values">Takes one for each.</param>
    public void At(double time, ReadOnlySpan<int> places, Span<float> values)
    {
        var own = _told.AsSpan(Math.Clamp((int)Math.Round(100 * time), 0, _frames - 1) * Phones.Length, Phones.Length);
        for (var p = 0; p < places.Length; p++)
            values[p] = Step * own[places[p]];
    }

    /// <summary>How much more speaks for one phone than for another at a time, in nats; between two frames part of both.</summary>
    /// <param name="time">In seconds of the sound.</param>
    /// <param name="one">Its place.</param>
    /// <param name="other">The other's.</param>
    internal float Between(double time, int one, int other)
    {
        var at = Math.Clamp(100 * time, 0, _frames - 1);
        var frame = (int)at;
        float Of(int f) => _told[f * Phones.Length + one] - _told[f * Phones.Length + other];
        var own = Of(frame);
        return Step * (float)(own + (at - frame) * (Of(Math.Min(frame + 1, _frames - 1)) - own));
    }
}

/// <summary>Evidence at the frames of a search.</summary>
/// <param name="Of">Of the sound.</param>
/// <param name="Places">Of the acoustic model's phones (<see cref="PhoneEvidence.PlacesOf"/>).</param>
/// <param name="TimeOf">The middle of a frame of the search, in seconds of the sound.</param>
internal sealed record FrameEvidence(PhoneEvidence Of, int[] Places, Func<int, double> TimeOf)
{
    /// <summary>How it counts.</summary>
    public PhoneEvidence.Weights Weight => Of.Weight;

    /// <summary>What speaks for each phone of the acoustic model, in nats.</summary>
    /// <param name="frame">Of the search.</param>
    /// <param name="values">Takes one for each.</param>
    public void At(int frame, Span<float> values) => Of.At(TimeOf(frame), Places, values);
}
