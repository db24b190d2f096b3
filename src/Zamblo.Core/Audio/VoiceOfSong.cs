namespace Zamblo.Core.Audio;

/// <summary>What a model tells about a stretch of sound.</summary>
/// <param name="Voice">How much of each bin of each frame is the voice's, 0 to 1. Shape: bins x frames, row by row.</param>
/// <param name="Sings">How likely somebody sings in each frame, 0 to 1.</param>
/// <param name="Music">How likely a band plays in each frame, 0 to 1.</param>
public sealed record SongParts(float[] Voice, float[] Sings, float[] Music);

/// <summary>The voice of a song.</summary>
/// <param name="Alone">Without the band, as far as it can be told: for levels, pitch and where somebody sings.</param>
/// <param name="Nearly">With a little of the band, for phones: a hole in the sound is further from speech than a little of the band is.</param>
/// <param name="Sings">How likely somebody sings, 0 to 1, one value per 10 ms.</param>
public sealed record SongVoice(AudioBuffer Alone, AudioBuffer Nearly, float[] Sings);

/// <summary>Tells voice and band apart.</summary>
/// <param name="logs">Logarithms of the magnitudes, as <see cref="VoiceOfSong"/> evens them. Shape: bins x frames, row by row.</param>
/// <param name="frames">How many.</param>
public delegate SongParts SongModel(float[] logs, int frames);

/// <summary>
/// The voice of a song, without its band: a model says of each bin of a short-time spectrum how much of it is the voice's. For listening only: nobody hears
/// the result.
/// </summary>
public static class VoiceOfSong
{
    /// <summary>Bins of a frame.</summary>
    public const int Bins = ShortTimeSpectrum.Bins;

    // Frames that are told at once, and as many to both sides as the model sees (73 in its layers together, rounded up).
    private const int Piece = 3000,
        Around = 80;

    // Whether a band plays is asked of so many stretches of so many frames; in so many of them it must be heard in so many of the frames. (The model says 0.99
    // of the bench's songs, and of speech, in rooms, noise and crowds, too, at most 0.89: it was taught less about what is no song.)
    private const int Stretches = 12,
        Stretch = 300;
    private const double Least = 0.4,
        Sure = 0.95;

    // A recording in which the quietest tenth, from its first sound to its last, lies further under its loud parts than this has pauses: no band plays in it.
    private const float Pauses = 25,
        Silence = -60;

    // Under the mean of all magnitudes by so much nothing is told apart; logarithms are divided by so much. As the model learned it.
    private const float Floor = 1e-4f,
        Spread = 3;

    // Of what is taken away so much stays (amplitude) where phones are looked for: a hole in the sound is further from speech than a little of the band is.
    private const float Kept = 0.2f;

    /// <summary>Whether a band plays. Where there are pauses, no model is asked.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <param name="levels">Of it in dB, one value per 10 ms.</param>
    /// <param name="model">Tells voice and band apart.</param>
    /// <param name="cancel">Stops the work.</param>
    public static bool IsSong(AudioBuffer audio, float[] levels, SongModel model, CancellationToken cancel = default) =>
        !HasPauses(levels) && Band(new Work(audio.Samples), model, FramesOf(audio), cancel) >= Least;

    private static int FramesOf(AudioBuffer audio) => ShortTimeSpectrum.FramesOf(audio.Samples.Length);

    /// <summary>The voice of a song.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <param name="model">Tells voice and band apart.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <returns>As long as it was.</returns>
    public static SongVoice TakenOut(AudioBuffer audio, SongModel model, CancellationToken cancel = default)
    {
        var frames = FramesOf(audio);
        var work = new Work(audio.Samples);
        var alone = new float[audio.Samples.Length];
        var weight = new float[audio.Samples.Length];
        var sings = new float[frames];
        var even = work.Even(0, frames, Math.Max(1, frames / 2000));
        for (var at = 0; at < frames; at += Piece)
        {
            cancel.ThrowIfCancellationRequested();
            int first = Math.Max(0, at - Around),
                end = Math.Min(frames, at + Piece + Around);
            var parts = model(work.Logs(first, end, even), end - first);
            for (var f = at; f < Math.Min(frames, at + Piece); f++)
            {
                work.Add(f, parts.Voice, f - first, end - first, alone, weight);
                sings[f] = parts.Sings[f - first];
            }
        }
        // An hour is long: what was the weights' place is taken over.
        var nearly = weight;
        for (var i = 0; i < alone.Length; i++)
        {
            alone[i] /= Math.Max(1e-3f, weight[i]);
            nearly[i] = alone[i] + Kept * (audio.Samples[i] - alone[i]);
        }
        return new SongVoice(new AudioBuffer(alone, audio.SampleRate), new AudioBuffer(nearly, audio.SampleRate), sings);
    }

    private static bool HasPauses(float[] levels)
    {
        if (levels.Length == 0)
            return true;
        var top = LoudnessEnvelope.Percentile(levels, 0.97);
        int first = Array.FindIndex(levels, l => l > top - Pauses),
            last = Array.FindLastIndex(levels, l => l > top - Pauses);
        return first < 0 || top < Silence || LoudnessEnvelope.Percentile(levels[first..(last + 1)], 0.1) < top - Pauses;
    }

    // Share of the stretches in which a band is heard nearly all the time.
    private static double Band(Work work, SongModel model, int frames, CancellationToken cancel)
    {
        var found = 0;
        var count = Math.Clamp((frames + Stretch - 1) / Stretch, 1, Stretches);
        for (var i = 0; i < count; i++)
        {
            cancel.ThrowIfCancellationRequested();
            var from = count == 1 ? 0 : (int)((long)(frames - Stretch) * i / (count - 1));
            var end = Math.Min(frames, from + Stretch);
            var share = model(work.Logs(from, end, work.Even(from, end, 1)), end - from).Music.Average();
            found += share > Sure ? 1 : 0;
        }
        return (double)found / count;
    }

    /// <summary>Frames of a sound, there and back.</summary>
    private sealed class Work(float[] samples)
    {
        private readonly ShortTimeSpectrum _spectrum = new(samples);

        /// <summary>The magnitudes' root of mean squares, and the mean of their logarithms over it.</summary>
        public (float Scale, float Mean) Even(int first, int end, int step)
        {
            double power = 0,
                logs = 0;
            var n = 0;
            for (var f = first; f < end; f += step, n += Bins)
                foreach (var bin in _spectrum.At(f))
                    power += bin.Power;
            var scale = (float)Math.Sqrt(power / n) + 1e-6f;
            for (var f = first; f < end; f += step)
                foreach (var bin in _spectrum.At(f))
                    logs += MathF.Log(MathF.Sqrt(bin.Power) / scale + Floor);
            return (scale, (float)(logs / n));
        }

        public float[] Logs(int first, int end, (float Scale, float Mean) even)
        {
            var frames = end - first;
            var logs = new float[Bins * frames];
            for (var f = 0; f < frames; f++)
            {
                var line = _spectrum.At(first + f);
                for (var k = 0; k < Bins; k++)
                    logs[k * frames + f] = (MathF.Log(MathF.Sqrt(line[k].Power) / even.Scale + Floor) - even.Mean) / Spread;
            }
            return logs;
        }

        public void Add(int frame, float[] voice, int at, int frames, float[] alone, float[] weight)
        {
            var line = _spectrum.At(frame);
            for (var k = 0; k < Bins; k++)
            {
                var own = voice[k * frames + at];
                line[k] = new Complex32(own * line[k].Re, own * line[k].Im);
            }
            _spectrum.Add(frame, line, alone, weight);
        }
    }
}
