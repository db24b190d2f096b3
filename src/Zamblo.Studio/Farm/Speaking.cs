using System.Text.Json;
using System.Text.Json.Serialization;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;
using Zamblo.Media;
using Zamblo.Studio.Hearings;

namespace Zamblo.Studio.Farm;

/// <summary>A file of a voice.</summary>
/// <param name="Name">Of the file; a voice's key follows from it.</param>
/// <param name="Hash">SHA-256.</param>
public sealed record VoiceFile(string Name, string Hash)
{
    /// <summary>Where it lies, in the studio.</summary>
    [JsonIgnore]
    public string? Path { get; init; }
}

/// <summary>A text to be spoken.</summary>
/// <param name="Voice">Key of the voice.</param>
/// <param name="Text">What is said.</param>
/// <param name="Delivery">How.</param>
/// <param name="Lexicon">Words that are said in their own way.</param>
public sealed record Speaking(string Voice, string Text, Delivery Delivery, IReadOnlyDictionary<string, Lexeme> Lexicon)
{
    private const int FewestHertz = 4000,
        MostHertz = 192_000;

    // Between the sound and where its times say that it ends, in seconds.
    private const double Slack = 0.1;

    // What was made of it, on its way: samples as 32-bit floats, little endian.
    private sealed record Parcel(int Rate, byte[] Samples, SpeechAnalysis Speech);

    /// <summary>Of a voice that is not installed but lies in the studio's folder.</summary>
    public IReadOnlyList<VoiceFile> Files { get; init; } = [];

    /// <summary>Speaks, here.</summary>
    /// <exception cref="MediaException">There is no such voice, or the engine failed.</exception>
    public async Task<SpokenText> SpeakAsync(CancellationToken cancel)
    {
        await Synthesis.CheckAsync(Voice, cancel);
        return await Synthesis.SpeakAsync(Voice, Text, Delivery, cancel, Lexicon);
    }

    /// <summary>The same, with the files that the voice is made of.</summary>
    public async Task<Speaking> WithFilesAsync(CancellationToken cancel)
    {
        var files = new List<VoiceFile>();
        // Model and description; the licence does not speak.
        foreach (var path in (NeuralVoices.FilesOf(Voice) ?? []).Take(2))
            files.Add(new VoiceFile(Path.GetFileName(path), await HashedCopy.OfAsync(path, cancel)) { Path = path });
        return this with { Files = files };
    }

    /// <summary>Whether the same is said in the same way.</summary>
    public bool IsSame(Speaking other) =>
        Voice == other.Voice
        && Text == other.Text
        && Delivery == other.Delivery
        && JsonSerializer.Serialize(Lexicon) == JsonSerializer.Serialize(other.Lexicon);

    /// <summary>What was spoken, to be sent.</summary>
    public static byte[] Write(SpokenText spoken)
    {
        var samples = new byte[4 * spoken.Audio.Samples.Length];
        Buffer.BlockCopy(spoken.Audio.Samples, 0, samples, 0, samples.Length);
        return JsonSerializer.SerializeToUtf8Bytes(new Parcel(spoken.Audio.SampleRate, samples, spoken.Speech));
    }

    /// <summary>What was spoken elsewhere; null where it cannot be read, or is none.</summary>
    public static SpokenText? Read(byte[] bytes)
    {
        try
        {
            var parcel = JsonSerializer.Deserialize<Parcel>(bytes);
            if (parcel is not { Rate: >= FewestHertz and <= MostHertz, Samples: { Length: > 0 } data, Speech: not null } || data.Length % 4 != 0)
                return null;
            var samples = new float[data.Length / 4];
            Buffer.BlockCopy(data, 0, samples, 0, data.Length);
            var audio = new AudioBuffer(samples, parcel.Rate);
            return
                samples.All(float.IsFinite)
                && Ears.Read(JsonSerializer.SerializeToUtf8Bytes(parcel.Speech)) is { } speech
                && Math.Abs(speech.Duration - audio.Duration) < Slack
                ? new SpokenText(audio, speech)
                : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
