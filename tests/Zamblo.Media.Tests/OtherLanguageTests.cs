using System.Runtime.InteropServices;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

/// <summary>
/// A person who reads announcements in Spanish (Debian's asterisk-core-sounds-es-g722, CC BY-SA 3.0, with what they say), beside people who read English
/// (LibriVox, in pocketsphinx-testdata).
/// </summary>
[Collection("ffmpeg")]
public class OtherLanguageTests
{
    private static readonly (string File, string Said)[] Announcements =
    [
        ("queue-youarenext", "Su llamada es la primera en línea y será atendida por el próximo representante."),
        ("invalid", "Lo siento, esa es una extensión inválida. Por favor intente de nuevo."),
        ("conf-onlyperson", "Por el momento, usted es la única persona en la conferencia."),
        ("vm-rec-busy", "Después del tono grabe su mensaje de ocupado y presione la tecla de número."),
    ];

    private static string Text => string.Join(' ', Announcements.Select(a => a.Said));

    private static readonly Lazy<Task<AudioBuffer>> Reading = new(async () =>
    {
        var samples = new List<float>();
        foreach (var (file, _) in Announcements)
        {
            string[] arguments =
            [
                "-v",
                "error",
                "-f",
                "g722",
                "-i",
                $"/usr/share/asterisk/sounds/es/{file}.g722",
                "-f",
                "f32le",
                "-ar",
                "16000",
                "-ac",
                "1",
                "-",
            ];
            samples.AddRange(MemoryMarshal.Cast<byte, float>((await OutsideProgram.RunAsync("ffmpeg", arguments)).Output));
            samples.AddRange(new float[4800]);
        }
        return new AudioBuffer([.. samples], 16000);
    });

    private static async Task<double> ErrorAsync(SpeechAnalysis heard)
    {
        string[] truth = [.. (await Espeak.PhonesAsync("es", Text.Split(' '))).SelectMany(p => p)],
            found = [.. heard.Phones.Select(p => p.Phone).Where(p => !Arpabet.IsSilent(p))];
        return (double)WordRecogniserTests.Edits(truth, found) / truth.Length;
    }

    [Fact]
    public async Task Spanish_is_not_written_down_as_english_and_told_which_it_is_its_sounds_are_found_more_often()
    {
        var audio = await Reading.Value;
        var untold = await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(null, "en"));
        Assert.True(untold.IsForeign);
        Assert.Empty(untold.Words);
        Assert.Equal("", untold.Draft);
        // Whoever says that it is English is believed, and gets words that nobody said.
        var english = await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(null, "en") { IsTold = true });
        Assert.False(english.IsForeign);
        Assert.NotEmpty(english.Words);
        var told = await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(null, "es"));
        double[] errors = [await ErrorAsync(told), await ErrorAsync(untold), await ErrorAsync(english)];
        Assert.True(errors[0] + 0.03 < errors[1] && errors[0] + 0.03 < errors[2], string.Join(", ", errors));
    }

    [Fact]
    public async Task With_its_words_each_of_them_is_found()
    {
        var audio = await Reading.Value;
        var speech = await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(Text, "es"));
        Assert.Equal(Text.Split(' ').Length, speech.Words.Count);
        // Where one announcement ends and the next begins is known to the sample.
        var pauses = speech.Words.Zip(speech.Words.Skip(1)).Where(p => p.Second.Start - p.First.End > 0.25).Select(p => p.First.Text).ToArray();
        foreach (var (_, said) in Announcements[..^1])
            Assert.Contains(said.Split(' ')[^1].Trim('.'), pauses);
    }

    [Fact]
    public async Task People_who_read_english_are_not_taken_for_others()
    {
        foreach (var path in Directory.EnumerateFiles("/usr/share/pocketsphinx/test/data/librivox", "*.wav"))
        {
            var audio = await AudioFiles.DecodeAsync(path, Path.GetFileName(path), 16000);
            var speech = await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(null, "en"));
            Assert.False(speech.IsForeign, path);
            Assert.NotEmpty(speech.Words);
        }
    }

    [Theory]
    [InlineData(2.9, 8, 0.1, false)]
    [InlineData(2.9, 0, 0.1, false)]
    [InlineData(9.1, 2, 0.9, true)]
    [InlineData(9.1, 3, 0.2, false)]
    [InlineData(9, 20, 0.6, true)]
    [InlineData(9, 20, 0.77, false)]
    [InlineData(3.5, 11, 0.55, false)]
    [InlineData(3.5, 11, 0.4, true)]
    public void What_is_too_short_is_not_judged_and_unlikely_words_tell(double seconds, int words, float likelihood, bool isForeign) =>
        Assert.Equal(isForeign, DraftWord.SoundForeign([.. Enumerable.Repeat(new DraftWord("word", likelihood), words)], seconds));
}
