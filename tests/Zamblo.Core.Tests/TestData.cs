using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>The acoustic model and the recordings of Debian's pocketsphinx-en-us and pocketsphinx-testdata.</summary>
internal static class TestData
{
    public const string ModelFolder = "/usr/share/pocketsphinx/model/en-us/en-us/";
    public const string Folder = "/usr/share/pocketsphinx/test/data/";

    /// <summary>The characters and backdrops that ship.</summary>
    public static Stage.CastLibrary Cast { get; } = Stage.CastLibrary.Shipped();

    private static readonly Lazy<AcousticModel> LazyModel = new(() =>
        AcousticModel.Read(n => File.Exists(ModelFolder + n) ? File.OpenRead(ModelFolder + n) : null)
    );
    private static readonly Lazy<PronunciationDictionary> LazyDictionary = new(() =>
    {
        using var reader = new StreamReader("/usr/share/pocketsphinx/model/en-us/cmudict-en-us.dict");
        return PronunciationDictionary.Read(reader);
    });
    private static readonly Lazy<SpeechAnalyzer> LazyAnalyzer = new(() => new SpeechAnalyzer(LazyModel.Value, LazyDictionary.Value));

    public static AcousticModel Model => LazyModel.Value;
    public static PronunciationDictionary Dictionary => LazyDictionary.Value;
    public static SpeechAnalyzer Analyzer => LazyAnalyzer.Value;

    /// <summary>16-bit samples without a header, 16 kHz.</summary>
    public static AudioBuffer Raw(string name)
    {
        var bytes = File.ReadAllBytes(Folder + name);
        return new AudioBuffer([.. Enumerable.Range(0, bytes.Length / 2).Select(i => BitConverter.ToInt16(bytes, 2 * i) / 32768f)], 16000);
    }

    public static AudioBuffer Wav(string name)
    {
        using var file = File.OpenRead(Folder + name);
        return WavFile.ReadMono(file);
    }

    /// <summary>People reading, with transcripts.</summary>
    public static IEnumerable<(string File, string Text)> Read()
    {
        foreach (var row in File.ReadLines(Folder + "librivox/transcription"))
        {
            var at = row.LastIndexOf('(');
            yield return ($"librivox/{row[(at + 1)..^1]}.wav", row[..at].Replace("<s>", "").Replace("</s>", "").Trim());
        }
    }

    public static AudioBuffer Noise(double seconds, float amplitude, int seed = 1)
    {
        var random = new Random(seed);
        return new AudioBuffer([.. Enumerable.Range(0, (int)(seconds * 16000)).Select(_ => (float)(random.NextDouble() * 2 - 1) * amplitude)], 16000);
    }
}
