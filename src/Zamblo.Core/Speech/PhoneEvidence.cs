using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>How much likelier than usual each phone is in each frame of a song, in nats. Shape of the answer: phones x frames, row by row.</summary>
/// <param name="logs">Of the song and under it of its voice (<see cref="MelLogs"/>). Shape: twice the bands x frames, row by row.</param>
/// <param name="frames">How many.</param>
public delegate float[] SungPhoneModel(float[] logs, int frames);

/// <summary>
/// What a network hears in a song that learned from sung voices over bands: the acoustic model learned from people who read, and the harmonics of a high voice
/// lie further apart than its filters are wide. Both are heard together.
/// </summary>
public sealed class SungPhones
{
    /// <summary>Values of a frame that the network is given.</summary>
    public const int Inputs = 2 * MelLogs.Bands;

    // What the network tells, in its order.
    private static readonly string[] Phones = [Arpabet.Silence, .. Arpabet.Phones];

    // Frames that are told at once, and as many to both sides as the network sees (62 in its layers together, rounded up). It learned from stretches of 256.
    private const int Piece = 256,
        Around = 64;

    // Where a sound is silent.
    private static readonly float Silence = MathF.Log(1e-6f) / 4 + 1;

    // What at most speaks against a phone in a frame, in nats.
    private const float Least = -6;

    /// <summary>How much the acoustic model counts beside it, and how much a held frame does at least (chosen on the tuned voices of the bench).</summary>
    internal const float AcousticShare = 0.3f,
        HeldShare = 0.5f;

    private readonly float[] _told;
    private readonly int _frames;

    private SungPhones(float[] told, int frames) => (_told, _frames) = (told, frames);

    /// <summary>Listens to a song.</summary>
    /// <param name="song">At 16 kHz.</param>
    /// <param name="voice">What was taken out of it.</param>
    /// <param name="model">Tells phones.</param>
    /// <param name="cancel">Stops the work.</param>
    public static SungPhones Find(AudioBuffer song, AudioBuffer voice, SungPhoneModel model, CancellationToken cancel = default)
    {
        var frames = ShortTimeSpectrum.FramesOf(song.Samples.Length);
        var told = new float[Phones.Length * frames];
        ShortTimeSpectrum whole = new(song.Samples),
            alone = new(voice.Samples);
        for (var at = 0; at < frames; at += Piece)
        {
            cancel.ThrowIfCancellationRequested();
            int first = Math.Max(0, at - Around),
                end = Math.Min(frames, at + Piece + Around),
                count = end - first;
            var logs = new float[Inputs * count];
            Array.Fill(logs, Silence);
            MelLogs.Of(whole, first, end)?.CopyTo(logs, 0);
            MelLogs.Of(alone, first, end)?.CopyTo(logs, MelLogs.Bands * count);
            var answer = model(logs, count);
            for (var p = 0; p < Phones.Length; p++)
            for (var f = at; f < Math.Min(frames, at + Piece); f++)
                told[f * Phones.Length + p] = MathF.Max(Least, answer[p * count + f - first]);
        }
        return new SungPhones(told, frames);
    }

    /// <summary>What speaks for each phone of an acoustic model, in nats. Shape: times x phones of the model, row by row.</summary>
    /// <param name="model">Its phones that are no speech are silence.</param>
    /// <param name="times">In seconds of the sound.</param>
    public float[] At(AcousticModel model, IReadOnlyCollection<double> times)
    {
        int[] places = [.. model.PhoneNames.Select(p => Math.Max(0, Array.IndexOf(Phones, p)))];
        var values = new float[times.Count * places.Length];
        var at = 0;
        foreach (var time in times)
        {
            var own = _told.AsSpan(Math.Clamp((int)Math.Round(100 * time), 0, _frames - 1) * Phones.Length, Phones.Length);
            foreach (var place in places)
                values[at++] = own[place];
        }
        return values;
    }
}
