using System.Collections.Concurrent;
using System.Runtime.InteropServices;
using System.Text.Json;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>
/// Neural voices that somebody has put into a folder, as an engine: phonemes by espeak-ng, sound by ONNX Runtime in a sandbox of its own, times by our own
/// alignment. Nothing is fetched.
/// </summary>
public static class NeuralVoices
{
    /// <summary>What the keys of its voices start with: "neural:en-us:amber", with a speaker "neural:en-us:choir:alto".</summary>
    public const string Prefix = "neural:";

    /// <summary>Largest model, in bytes.</summary>
    public const long Largest = 512L << 20;

    /// <summary>Largest description, in bytes.</summary>
    public const int LargestDescription = 4 << 20;

    // Sentences are spoken together up to so many phonemes, for a sentence alone begins anew; a piece is never much longer than the second.
    private const int Together = 90,
        MostAtOnce = 500;

    // Between pieces, in seconds (common practice).
    private const double Gap = 0.22;

    // Of a phoneme, in seconds: more is no speech.
    private const double LongestPhoneme = 0.8;

    /// <summary>A voice that cannot be used, and why.</summary>
    public sealed record Problem(string Name, string Reason);

    private sealed record Known(DateTime Written, long Length, NeuralVoice? Voice, string? Reason);

    private static readonly ConcurrentDictionary<string, Known> Read = new();
    private static readonly ConcurrentDictionary<string, byte> Folders = new();

    /// <summary>Voices in this folder can be used from now on, and those that are put into it later.</summary>
    public static void Watch(string folder) => Folders.TryAdd(Path.GetFullPath(folder), 0);

    private static IEnumerable<string> Descriptions() =>
        Folders
            .Keys.Concat(Environment.GetEnvironmentVariable("ZAMBLO_VOICES") is { Length: > 0 } own ? [own] : [])
            .Where(Directory.Exists)
            .SelectMany(f => Directory.EnumerateFiles(f, "*.onnx.json"))
            .Order(StringComparer.Ordinal);

    private static string NameOf(string description) => Path.GetFileName(description)[..^".onnx.json".Length];

    private static string ModelOf(string description) => description[..^".json".Length];

    private static string LicenceOf(string description) => ModelOf(description)[..^".onnx".Length] + ".licence.txt";

    private static Known Look(string description)
    {
        var file = new FileInfo(description);
        if (Read.TryGetValue(description, out var known) && known.Written == file.LastWriteTimeUtc && known.Length == file.Length)
            return known;
        try
        {
            if (file.Length > LargestDescription)
                throw new MediaException("The voice's description is too long to be one.");
            known = new Known(file.LastWriteTimeUtc, file.Length, NeuralVoice.Read(File.ReadAllText(description)), null);
        }
        catch (Exception e) when (e is MediaException or IOException or UnauthorizedAccessException)
        {
            known = new Known(file.LastWriteTimeUtc, file.Exists ? file.Length : 0, null, e.Message);
        }
        return Read[description] = known;
    }

    /// <summary>All of them, every speaker a voice.</summary>
    public static Task<IReadOnlyList<Voice>> VoicesAsync(CancellationToken cancel = default)
    {
        cancel.ThrowIfCancellationRequested();
        return Task.FromResult<IReadOnlyList<Voice>>([.. All().Select(v => v.Voice).DistinctBy(v => v.Key)]);
    }

    /// <summary>What lies in the folders and is no voice, with the reason.</summary>
    public static IReadOnlyList<Problem> Problems() =>
        [
            .. Descriptions()
                .Select(d => new Problem(NameOf(d), Look(d).Reason ?? (File.Exists(ModelOf(d)) ? "" : "The model (.onnx) is not beside its description.")))
                .Where(p => p.Reason.Length > 0),
        ];

    private sealed record Found(Voice Voice, string Description, NeuralVoice How, long? Speaker);

    private static IEnumerable<Found> All()
    {
        foreach (var description in Descriptions())
        {
            if (Look(description).Voice is not { } how || !File.Exists(ModelOf(description)))
                continue;
            var name = NameOf(description);
            var key = $"{Prefix}{how.Language}:{NeuralVoice.Slug(name)}";
            string? licence = File.Exists(LicenceOf(description)) ? File.ReadAllText(LicenceOf(description)).Trim() : null;
            if (how.Speakers.Count == 0)
                yield return new Found(new Voice(key, how.Language, NeuralVoice.Title(name), "") { Licence = licence }, description, how, null);
            foreach (var (speaker, number) in how.Speakers)
                yield return new Found(
                    new Voice($"{key}:{NeuralVoice.Slug(speaker)}", how.Language, $"{NeuralVoice.Title(name)}, {speaker}", "") { Licence = licence },
                    description,
                    how,
                    number
                );
        }
    }

    /// <summary>The keys of the voices whose files lie in a folder.</summary>
    public static IReadOnlyList<string> KeysIn(string folder) =>
        [.. All().Where(v => Path.GetDirectoryName(v.Description) == folder).Select(v => v.Voice.Key).Distinct()];

    /// <summary>The files of a voice: model, description, licence; null where there is no such voice.</summary>
    public static IReadOnlyList<string>? FilesOf(string key) =>
        All().FirstOrDefault(v => v.Voice.Key == key) is { } found ? [ModelOf(found.Description), found.Description, LicenceOf(found.Description)] : null;

    /// <summary>Speaks a text.</summary>
    /// <exception cref="MediaException">No such voice, nothing to speak, text too long, or the model failed.</exception>
    public static Task<SpokenText> SpeakAsync(string key, string text, Delivery delivery, CancellationToken cancel = default) =>
        SpeakAsync(key, text, delivery, Reading.Plain, cancel);

    internal static async Task<SpokenText> SpeakAsync(string key, string text, Delivery delivery, Reading reading, CancellationToken cancel)
    {
        delivery = delivery.Clamped();
        Synthesis.CheckText(text);
        var found = All().FirstOrDefault(v => v.Voice.Key == key) ?? throw new MediaException($"There is no voice \"{key}\" here: its files are gone.");
        var sound = await SoundAsync(ModelOf(found.Description), found.How, found.Speaker, text, reading, delivery, cancel);
        sound = await Synthesis.ColouredAsync(sound, delivery, cancel);
        return await Synthesis.HeardAsync(sound, text, found.How.Language, reading, cancel);
    }

    /// <summary>Tries a voice before it is kept: a word is spoken.</summary>
    /// <exception cref="MediaException">It does not speak; why.</exception>
    public static async Task TryAsync(string model, string description, CancellationToken cancel = default)
    {
        var how = NeuralVoice.Read(description);
        var sound = await SoundAsync(model, how, how.Speakers.Count > 0 ? how.Speakers[0].Number : null, "Mama, papa.", Reading.Plain, new Delivery(), cancel);
        if (sound.Samples.All(s => Math.Abs(s) < 1e-4f))
            throw new MediaException("The model gives silence where it is to speak.");
    }

    private static async Task<AudioBuffer> SoundAsync(
        string model,
        NeuralVoice how,
        long? speaker,
        string text,
        Reading reading,
        Delivery delivery,
        CancellationToken cancel
    )
    {
        var pieces = await PiecesAsync(how, text, reading, delivery.Pauses > 0, cancel);
        if (pieces.Count == 0)
            throw new MediaException("This voice has nothing to say here: it knows none of these sounds. Write words of the voice's language.");
        var spoken = await RunAsync(model, how, pieces, speaker, delivery, cancel);
        var gap = new float[(int)((Gap + 2 * delivery.Pauses) * how.SampleRate)];
        var samples = new List<float>();
        foreach (var piece in spoken)
        {
            if (samples.Count > 0)
                samples.AddRange(gap);
            samples.AddRange(piece);
        }
        var sound = samples.ToArray();
        for (var i = 0; i < sound.Length; i++)
            if (!float.IsFinite(sound[i]))
                sound[i] = 0;
        // One factor for the whole: what was soft stays soft beside what was loud.
        var peak = sound.Max(Math.Abs);
        if (peak > 0.98f)
            for (var i = 0; i < sound.Length; i++)
                sound[i] *= 0.98f / peak;
        return new AudioBuffer(sound, how.SampleRate);
    }

    // What is spoken in one go: whole sentences where they are short enough.
    private static async Task<List<long[]>> PiecesAsync(NeuralVoice how, string text, Reading reading, bool eachSentence, CancellationToken cancel)
    {
        var clauses = NeuralVoice.Clauses(text);
        var sounds = how.IsText
            ? [.. clauses.Select(c => c.Text.ToLowerInvariant())]
            : await SoundsAsync(how.Language, [.. clauses.Select(c => c.Text)], reading, cancel);
        var pieces = new List<long[]>();
        var piece = new List<(string, string)>();
        var length = 0;
        void Close()
        {
            if (how.Encode(piece) is { Length: > 0 } ids)
                pieces.Add(ids);
            piece.Clear();
            length = 0;
        }
        for (var i = 0; i < clauses.Count; i++)
        {
            // A clause without an end in sight is cut between words.
            var words = sounds[i].Split(' ', StringSplitOptions.RemoveEmptyEntries);
            var part = new List<string>();
            foreach (var word in words)
            {
                if (length + word.Length > MostAtOnce && length > 0)
                {
                    if (part.Count > 0)
                        piece.Add((string.Join(' ', part), ","));
                    part.Clear();
                    Close();
                }
                part.Add(word.Length > MostAtOnce ? word[..MostAtOnce] : word);
                length += word.Length;
            }
            piece.Add((string.Join(' ', part), clauses[i].Mark));
            if (clauses[i].EndsSentence && (eachSentence || length >= Together))
                Close();
        }
        Close();
        return pieces;
    }

    // What clauses sound like; words that are said in their own way stand between stretches that the engine reads.
    private static async Task<IReadOnlyList<string>> SoundsAsync(string language, string[] clauses, Reading reading, CancellationToken cancel)
    {
        var stretches = new List<(int Clause, string? Text, string? Sounds)>();
        for (var i = 0; i < clauses.Length; i++)
        {
            var at = 0;
            foreach (var (start, length, lexeme) in reading.In(clauses[i]))
            {
                stretches.Add((i, clauses[i][at..start], null));
                stretches.Add((i, null, WrittenSounds.ToIpa(lexeme.Phones)));
                at = start + length;
            }
            stretches.Add((i, clauses[i][at..], null));
        }
        var isEnglish = language.StartsWith("en", StringComparison.Ordinal);
        string[] unread =
        [
            .. stretches.Where(s => s.Text?.Any(char.IsLetterOrDigit) == true).Select(s => isEnglish ? s.Text! : WrittenNumbers.ReadOut(s.Text!, language)),
        ];
        var read = new Queue<string>(unread.Length == 0 ? [] : await Espeak.IpaAsync(language, unread, cancel));
        var sounds = new string[clauses.Length];
        foreach (var (clause, text, own) in stretches)
            sounds[clause] = $"{sounds[clause]} {own ?? (text!.Any(char.IsLetterOrDigit) ? read.Dequeue() : "")}".Trim();
        return sounds;
    }

    private static async Task<List<float[]>> RunAsync(
        string model,
        NeuralVoice how,
        List<long[]> pieces,
        long? speaker,
        Delivery delivery,
        CancellationToken cancel
    )
    {
        var folder = Scratch.NewFolder();
        var path = Path.Combine(folder, "spoken.f32");
        try
        {
            var phonemes = pieces.Sum(p => (long)p.Length);
            var order = JsonSerializer.SerializeToUtf8Bytes(
                new
                {
                    pieces,
                    scales = how.Scales(delivery),
                    speaker,
                    mostSamples = (long)((5 + LongestPhoneme * phonemes) * how.SampleRate),
                },
                JsonSerializerOptions.Web
            );
            await SpeechEngine.RunAsync(
                ["model", model, path],
                order,
                TimeSpan.FromSeconds(60 + phonemes / 20.0),
                cancel,
                reads: [model],
                writes: folder,
                who: "The neural voice"
            );
            var spoken = new List<float[]>();
            using var file = File.OpenRead(path);
            using var reader = new BinaryReader(file);
            while (file.Position < file.Length)
            {
                var piece = new float[reader.ReadInt32()];
                file.ReadExactly(MemoryMarshal.AsBytes(piece.AsSpan()));
                spoken.Add(piece);
            }
            return spoken;
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    }
}
