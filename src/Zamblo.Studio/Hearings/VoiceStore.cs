using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Microsoft.Extensions.Caching.Memory;
using Zamblo.Core.Audio;
using Zamblo.Core.Scenes;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Farm;

namespace Zamblo.Studio.Hearings;

/// <summary>
/// Master sound and speech analyses, kept by what they were made from. Everything here can be made again from the assets; nothing is
/// the only copy.
/// </summary>
public sealed class VoiceStore(DataFolder folder, AssetStore assets, ErrandBoard? board = null)
{
    // Part of every key: raise it when the analysis changes.
    private const string AnalysisVersion = "10";
    private const string CareVersion = "1";
    private static readonly VoiceCare Plain = new();

    private sealed record Last(string Hash, WeakReference<AudioBuffer> Audio);

    private volatile Last? _last;

    // What is at hand of analyses, in bytes; the longest unused go first, and are read again when they are wanted.
    private const long KeptBytes = 256L << 20;
    private readonly MemoryCache _speech = new(new MemoryCacheOptions { SizeLimit = KeptBytes });
    private readonly System.Runtime.CompilerServices.ConditionalWeakTable<SpeechAnalysis, ConcurrentDictionary<VoiceCare, SpeechAnalysis>> _mapped = [];

    /// <summary>The sound at 48 kHz, decoded on first use.</summary>
    /// <exception cref="MediaException">It cannot be decoded.</exception>
    public async Task<AudioBuffer> MasterAsync(string hash, string name, CancellationToken cancel = default)
    {
        // Many takes may be parts of one recording: it is not read again for each.
        if (_last is { } last && last.Hash == hash && last.Audio.TryGetTarget(out var there))
            return there;
        var path = await MasterFileAsync(hash, name, cancel);
        // Read back even when it was just made: the sound is the same, to the last bit, the first time and ever after.
        await using var kept = File.OpenRead(path);
        var audio = WavFile.ReadMono(kept);
        _last = new Last(hash, new WeakReference<AudioBuffer>(audio));
        return audio;
    }

    /// <summary>How long the sound is, in seconds; decoded on first use, but not read.</summary>
    /// <exception cref="MediaException">It cannot be decoded.</exception>
    public async Task<double> LengthAsync(string hash, string name, CancellationToken cancel = default)
    {
        await using var kept = File.OpenRead(await MasterFileAsync(hash, name, cancel));
        return WavFile.Length(kept);
    }

    private async Task<string> MasterFileAsync(string hash, string name, CancellationToken cancel)
    {
        var path = Path.Combine(folder.Cache, hash + "-master.wav");
        if (File.Exists(path))
            return path;
        await WriteAsync(path, stream => AudioFiles.DecodeToAsync(assets.PathOf(hash), name, AudioFiles.MasterRate, stream, cancel));
        return path;
    }

    /// <summary>The sound as it is to be heard, at 48 kHz; made on first use.</summary>
    /// <exception cref="MediaException">It cannot be decoded.</exception>
    public async Task<AudioBuffer> CaredAsync(string hash, string name, SoundPart? part, VoiceCare care, CancellationToken cancel = default)
    {
        if (care == Plain)
            return await PlainAsync(hash, name, part, cancel);
        var key = Convert.ToHexStringLower(
            SHA256.HashData(
                JsonSerializer.SerializeToUtf8Bytes(
                    new
                    {
                        CareVersion,
                        hash,
                        part,
                        care,
                    }
                )
            )
        );
        var path = Path.Combine(folder.Cache, key + "-cared.wav");
        if (File.Exists(path))
        {
            await using var kept = File.OpenRead(path);
            return WavFile.ReadMono(kept);
        }
        var audio = await VoiceBooth.ApplyAsync(await PlainAsync(hash, name, part, cancel), care, cancel);
        await WriteAsync(path, stream => WavFile.Write(stream, [audio.Samples], audio.SampleRate));
        return audio;
    }

    // Of a long recording only the part is read, where the whole is not at hand.
    private async Task<AudioBuffer> PlainAsync(string hash, string name, SoundPart? part, CancellationToken cancel)
    {
        if (part is not { } p)
            return await MasterAsync(hash, name, cancel);
        if (_last is { } last && last.Hash == hash && last.Audio.TryGetTarget(out var whole))
            return whole.Slice(p.Start, p.End);
        await using var kept = File.OpenRead(await MasterFileAsync(hash, name, cancel));
        return WavFile.ReadPart(kept, p.Start, p.End);
    }

    private static SpeechAnalysis Cut(SpeechAnalysis speech, SoundPart? part) =>
        part is { } p ? CaredSpeech.Map(speech, new VoiceCare { TrimStart = p.Start, TrimEnd = Math.Max(0, speech.Duration - p.End) }) : speech;

    /// <summary>Key of the analysis of a sound with what is known about it.</summary>
    public static string KeyOf(string hash, SpeechQuery query) =>
        Convert.ToHexStringLower(
            SHA256.HashData(
                JsonSerializer.SerializeToUtf8Bytes(
                    new
                    {
                        AnalysisVersion,
                        hash,
                        query,
                    }
                )
            )
        );

    /// <summary>Key of what is heard in a line.</summary>
    public static string KeyOf(SceneLine line) => LineKeys.GetValue(line, l => KeyOf(l.EngineHash ?? l.DrivingHash, l.Query));

    // Worked out once for each.
    private static readonly System.Runtime.CompilerServices.ConditionalWeakTable<SceneLine, string> LineKeys = [];

    /// <summary>The file of an analysis that was made, or null: to be taken along to another machine.</summary>
    /// <param name="key">As <see cref="KeyOf(SceneLine)"/> gives it.</param>
    public string? FileOf(string key) => File.Exists(SpeechPath(key)) ? SpeechPath(key) : null;

    /// <summary>Takes in an analysis that was made elsewhere; one that cannot be read, or is none, is left out.</summary>
    /// <param name="key">Under which.</param>
    /// <param name="json">As it was kept there.</param>
    public async Task TakeAsync(string key, byte[] json)
    {
        if (!AssetStore.IsHash(key) || File.Exists(SpeechPath(key)) || Ears.Read(json) == null)
            return;
        await WriteAsync(SpeechPath(key), stream => stream.WriteAsync(json).AsTask());
    }

    /// <summary>Whether a sound with what is known about it has been listened to.</summary>
    public bool IsThere(string key) => _speech.TryGetValue(key, out _) || File.Exists(SpeechPath(key));

    /// <summary>An analysis that has been made, or null.</summary>
    public SpeechAnalysis? Find(string hash, SpeechQuery query) => Find(KeyOf(hash, query));

    private SpeechAnalysis? Find(string key)
    {
        if (_speech.TryGetValue<SpeechAnalysis>(key, out var known))
            return known;
        var path = SpeechPath(key);
        if (!File.Exists(path))
            return null;
        try
        {
            using var file = File.OpenRead(path);
            return Keep(key, JsonSerializer.Deserialize<SpeechAnalysis>(file)!);
        }
        catch (JsonException)
        {
            // A file cut short by a crash is as good as none.
            File.Delete(path);
            return null;
        }
    }

    /// <summary>The analysis of a line, or the best that is at hand while it is listened to again.</summary>
    /// <returns>What was heard, null while nobody has listened; and whether that is the last word.</returns>
    public (SpeechAnalysis? Speech, bool IsFinal) AtHand(SceneLine line)
    {
        var (speech, isFinal) = AtHandUntrimmed(line);
        if (speech == null || line.Care.KeepsTimes)
            return (speech, isFinal);
        // The mapping is cheap, but the cues that hang on it are kept by reference.
        return (_mapped.GetValue(speech, _ => new()).GetOrAdd(line.Care.Bare, care => CaredSpeech.Map(speech, care)), isFinal);
    }

    /// <summary>The same in the times of the original.</summary>
    public (SpeechAnalysis? Speech, bool IsFinal) AtHandUntrimmed(SceneLine line)
    {
        if (line.EngineHash != null)
            return (KeptOr("adjusted " + KeyOf(line), () => Adjust(Cut(Engine(line.EngineHash), line.Query.Part), line.Query)), true);
        if (Find(KeyOf(line)) is { } exact)
            return (exact, true);
        // Marks and boundaries set by hand are laid over what was heard without them: that takes no time.
        foreach (var query in (SpeechQuery[])[line.Query with { Pins = [] }, line.Query with { Pins = [], Marks = [] }])
            if (Find(line.DrivingHash, query) is { } nearly)
                return (Adjust(nearly, line.Query), false);
        return (null, false);
    }

    private static SpeechAnalysis Adjust(SpeechAnalysis speech, SpeechQuery query) => BoundaryPins.Apply(VoiceMarks.Silence(speech, query.Marks), query.Pins);

    /// <summary>The analysis of a sound, made now if it has not been.</summary>
    /// <param name="hash">The sound.</param>
    /// <param name="name">For messages.</param>
    /// <param name="query">What is known about it.</param>
    /// <param name="before">What was known when it was listened to before: then only what has changed is listened to.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <param name="beside">What is known of another part of the sound, where words may have come from.</param>
    public async Task<SpeechAnalysis> ListenAsync(
        string hash,
        string name,
        SpeechQuery query,
        SpeechQuery? before,
        Action<double>? progress,
        CancellationToken cancel,
        SpeechQuery? beside = null
    )
    {
        if (Find(hash, query) is { } done)
            return done;
        if (_ahead.TryGetValue(KeyOf(hash, query), out var coming))
        {
            progress?.Invoke(0);
            if (await coming.WaitAsync(cancel) is { } heard)
                return heard;
        }
        // Without the boundaries that are set by hand first: they are laid over that.
        var plain = query.Pins.Count == 0 ? null : await ListenAsync(hash, name, query with { Pins = [] }, before, progress, cancel, beside);
        var known = plain ?? await KnownAsync(hash, name, query, before, beside, cancel);
        var what = new Listening(hash, name, query);
        var speech =
            known != null
                ? await SpeechModels.AnalyzeAsync(await SoundAsync(hash, name, query, cancel), query, known, progress, cancel)
                : (board == null ? null : await board.HearAsync(what, progress, cancel)) ?? await Ears.ListenAsync(assets.PathOf(hash), what, progress, cancel);
        return await FileAsync(KeyOf(hash, query), speech);
    }

    private async Task<SpeechAnalysis> FileAsync(string key, SpeechAnalysis speech)
    {
        await WriteAsync(SpeechPath(key), stream => JsonSerializer.Serialize(stream, speech));
        return Keep(key, speech);
    }

    // What workers listen to before it is asked for; whoever asks for it meanwhile waits for them.
    private readonly ConcurrentDictionary<string, Task<SpeechAnalysis?>> _ahead = new();

    /// <summary>Has a worker listen to a sound that will be asked for; nothing happens where none was found for it.</summary>
    /// <param name="hash">The sound.</param>
    /// <param name="name">For messages.</param>
    /// <param name="query">What is known about it.</param>
    /// <param name="cancel">Stops the work.</param>
    public async Task HearAheadAsync(string hash, string name, SpeechQuery query, CancellationToken cancel)
    {
        var key = KeyOf(hash, query);
        var end = new TaskCompletionSource<SpeechAnalysis?>(TaskCreationOptions.RunContinuationsAsynchronously);
        if (board == null || IsThere(key) || !_ahead.TryAdd(key, end.Task))
            return;
        SpeechAnalysis? speech = null;
        try
        {
            if (await board.HearAsync(new Listening(hash, name, query), null, cancel) is { } heard)
                speech = await FileAsync(key, heard);
        }
        finally
        {
            end.SetResult(speech);
            _ahead.TryRemove(key, out _);
        }
    }

    // What was heard before, as far as it still holds; in another part of the recording as it lies there, with the words that came over from beside it.
    private async Task<SpeechAnalysis?> KnownAsync(
        string hash,
        string name,
        SpeechQuery query,
        SpeechQuery? before,
        SpeechQuery? beside,
        CancellationToken cancel
    )
    {
        if (before == null || !IsOnlyOtherWords(before, query) || Find(hash, before) is not { } known)
            return null;
        if (before.Part == query.Part)
            return known;
        // Where no word came or went its sounds are not known, and of a song its voice is not: all of it is listened to.
        if (before.Part is not { } was || query.Part is not { } now || before.Script == query.Script || known.HasBand)
            return null;
        List<(SpeechAnalysis, double)> parts = [(known, was.Start)];
        if (beside?.Part is { } part && Find(hash, beside) is { } other)
            parts.Add((other, part.Start));
        return CaredSpeech.Elsewhere(parts, now.Start, await SoundAsync(hash, name, query, cancel));
    }

    private Task<AudioBuffer> SoundAsync(string hash, string name, SpeechQuery query, CancellationToken cancel) =>
        AudioFiles.DecodeAsync(assets.PathOf(hash), name, CepstralFrontEnd.SampleRate, query.Part, cancel);

    private static bool IsOnlyOtherWords(SpeechQuery before, SpeechQuery now) =>
        now.Script != null
        && now.Language == before.Language
        && now.Marks.SequenceEqual(before.Marks)
        && (now.Times ?? []).Select(t => t.Time).SequenceEqual((before.Times ?? []).Select(t => t.Time))
        && now.Pronunciations.All(p => before.Pronunciations.TryGetValue(p.Key, out var same) && same.SequenceEqual(p.Value));

    /// <summary>An engine's own times, kept as an asset.</summary>
    public SpeechAnalysis Engine(string hash) =>
        KeptOr(
            hash,
            () =>
            {
                using var file = File.OpenRead(assets.PathOf(hash));
                return JsonSerializer.Deserialize<SpeechAnalysis>(file)!;
            }
        );

    private SpeechAnalysis KeptOr(string key, Func<SpeechAnalysis> make) =>
        _speech.TryGetValue<SpeechAnalysis>(key, out var known) ? known! : Keep(key, make());

    private SpeechAnalysis Keep(string key, SpeechAnalysis speech)
    {
        long bytes = 4L * (speech.LevelsDb.Length + speech.PitchHz.Length) + 64L * (speech.Phones.Count + speech.Words.Count) + 1024;
        _speech.Set(key, speech, new MemoryCacheEntryOptions { Size = bytes });
        return speech;
    }

    private string SpeechPath(string key) => Path.Combine(folder.Cache, key + "-speech.json");

    private static Task WriteAsync(string path, Action<Stream> write) =>
        WriteAsync(
            path,
            stream =>
            {
                write(stream);
                return Task.CompletedTask;
            }
        );

    private static async Task WriteAsync(string path, Func<Stream, Task> write)
    {
        var partial = path + "." + Guid.NewGuid().ToString("N") + ".part";
        try
        {
            await using (var file = File.Create(partial))
                await write(file);
            File.Move(partial, path, overwrite: true);
        }
        catch
        {
            File.Delete(partial);
            throw;
        }
    }
}
