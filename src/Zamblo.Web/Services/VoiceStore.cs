using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;

namespace Zamblo.Web.Services;

/// <summary>
/// Master sound and speech analyses, kept by what they were made from. Everything here can be made again from the assets; nothing is
/// the only copy.
/// </summary>
public sealed class VoiceStore(DataFolder folder, AssetStore assets)
{
    // Part of every key: raise it when the analysis changes.
    private const string AnalysisVersion = "3";
    private readonly ConcurrentDictionary<string, SpeechAnalysis> _speech = new();

    /// <summary>The sound at 48 kHz, decoded on first use.</summary>
    /// <exception cref="MediaException">It cannot be decoded.</exception>
    public async Task<AudioBuffer> MasterAsync(string hash, string name, CancellationToken cancel = default)
    {
        var path = Path.Combine(folder.Cache, hash + "-master.wav");
        if (File.Exists(path))
        {
            await using var kept = File.OpenRead(path);
            return WavFile.ReadMono(kept);
        }
        var audio = await AudioFiles.DecodeAsync(assets.PathOf(hash), name, AudioFiles.MasterRate, cancel);
        await WriteAsync(path, stream => WavFile.Write(stream, [audio.Samples], audio.SampleRate));
        return audio;
    }

    /// <summary>Key of the analysis of a sound with a script in a language.</summary>
    public static string KeyOf(string hash, string? script, string language) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes($"{AnalysisVersion}\n{hash}\n{language}\n{script?.Trim()}")));

    /// <summary>The language of a voice: "espeak:de+f3" speaks "de", and whoever has that voice is heard in it.</summary>
    public static string LanguageOf(string voice) => voice[(voice.IndexOf(':') + 1)..].Split('+')[0];

    /// <summary>An analysis that has been made, or null.</summary>
    public SpeechAnalysis? Find(string key)
    {
        if (_speech.TryGetValue(key, out var known)) return known;
        var path = SpeechPath(key);
        if (!File.Exists(path)) return null;
        try
        {
            using var file = File.OpenRead(path);
            return _speech[key] = JsonSerializer.Deserialize<SpeechAnalysis>(file)!;
        }
        catch (JsonException)
        {
            // A file cut short by a crash is as good as none.
            File.Delete(path);
            return null;
        }
    }

    /// <summary>The analysis of a sound, made now if it has not been.</summary>
    public async Task<SpeechAnalysis> ListenAsync(string hash, string name, string? script, string language, Action<double>? progress, CancellationToken cancel)
    {
        script = string.IsNullOrWhiteSpace(script) ? null : script;
        var key = KeyOf(hash, script, language);
        if (Find(key) is { } known) return known;
        var audio = await AudioFiles.DecodeAsync(assets.PathOf(hash), name, CepstralFrontEnd.SampleRate, cancel);
        var speech = await SpeechModels.AnalyzeAsync(audio, script, language, progress, cancel);
        await WriteAsync(SpeechPath(key), stream => JsonSerializer.Serialize(stream, speech));
        return _speech[key] = speech;
    }

    /// <summary>An engine's own times, kept as an asset.</summary>
    public SpeechAnalysis Engine(string hash) => _speech.GetOrAdd(hash, h =>
    {
        using var file = File.OpenRead(assets.PathOf(h));
        return JsonSerializer.Deserialize<SpeechAnalysis>(file)!;
    });

    private string SpeechPath(string key) => Path.Combine(folder.Cache, key + "-speech.json");

    private static async Task WriteAsync(string path, Action<Stream> write)
    {
        var partial = path + "." + Guid.NewGuid().ToString("N") + ".part";
        try
        {
            await using (var file = File.Create(partial)) write(file);
            File.Move(partial, path, overwrite: true);
        }
        catch
        {
            File.Delete(partial);
            throw;
        }
    }
}
