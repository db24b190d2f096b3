using System.Text.Json;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

/// <summary>
/// A recogniser of another language that lies in a folder is used like the English one. None of another language is at hand: the English one, with its pieces
/// written as a tokenizer.json, stands in for one.
/// </summary>
[Collection("ffmpeg")]
public class RecogniserTests : InFolder
{
    private static string Own(string name) => Path.Combine(WordRecogniser.Folder, name);

    private static string Tokens()
    {
        using var stream = typeof(WordRecogniser).Assembly.GetManifestResourceStream("moonshine_pieces.txt")!;
        var pieces = new StreamReader(stream).ReadToEnd().TrimEnd('\n').Split('\n');
        var vocabulary = pieces.Select((p, i) => (p, i)).DistinctBy(p => p.p).ToDictionary(p => p.p, p => p.i);
        return JsonSerializer.Serialize(
            new
            {
                added_tokens = new[] { new { id = 0, content = "<unk>" }, new { id = 1, content = "<s>" }, new { id = 2, content = "</s>" } },
                model = new { type = "BPE", vocab = vocabulary },
            }
        );
    }

    private string Bring(string language, string tokens, string encoder = "encoder_model.onnx", string decoder = "decoder_model_merged.onnx")
    {
        var folder = Directory.CreateDirectory(InFolderOf(language)).FullName;
        File.CreateSymbolicLink(Path.Combine(folder, "encoder_model.onnx"), Own(encoder));
        File.CreateSymbolicLink(Path.Combine(folder, "decoder_model_merged.onnx"), Own(decoder));
        File.WriteAllText(Path.Combine(folder, "tokenizer.json"), tokens);
        return folder;
    }

    private string InFolderOf(string language) => Path.Combine(Folder, "recognisers", language);

    [Fact]
    public async Task What_lies_in_the_folder_of_a_language_writes_down_what_is_said_in_it()
    {
        Assert.False(WordRecogniser.Writes("eu"));
        Bring("eu", Tokens());
        Recognisers.Watch(Path.Combine(Folder, "recognisers"));
        Assert.True(WordRecogniser.Writes("eu"));
        Assert.Null(Assert.Single(Recognisers.All(), r => r.Language == "eu").Problem);
        var spoken = await Flite.SpeakAsync("flite:slt", "The baker puts the bread into the oven.", new Delivery());
        var audio = await AudioFiles.ResampleAsync(spoken.Audio, 16000);
        var speech = await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(null, "eu"));
        Assert.Equal(SpeechSource.Recognised, speech.Source);
        Assert.Equal("The baker puts the bread into the oven.", speech.Draft);
        Assert.Equal("the baker puts the bread into the oven", string.Join(' ', speech.Words.Select(w => w.Text)).ToLowerInvariant());
        // Said as that language says them: of five vowels (Hualde and Ortiz de Urbina, "A Grammar of Basque", 2003), without those of "the" and "puts".
        Assert.DoesNotContain(speech.Phones, p => p.Phone is "AH" or "UH" or "IH" or "AE");
        // Its files taken away, it is gone.
        Directory.Delete(InFolderOf("eu"), true);
        Assert.False(WordRecogniser.Writes("eu"));
    }

    [Fact]
    public void What_is_none_says_why()
    {
        Recognisers.Watch(Path.Combine(Folder, "recognisers"));
        Bring("fo", Tokens());
        File.Delete(Path.Combine(InFolderOf("fo"), "tokenizer.json"));
        Bring("ga", "{ \"model\": { \"vocab\": { \"a\": 0 } } }");
        Bring("is", "no JSON");
        Bring("mt", Tokens(), "decoder_model_merged.onnx", "encoder_model.onnx");
        Directory.CreateDirectory(InFolderOf("my notes"));
        string ProblemOf(string language) => Recognisers.All().First(r => r.Language == language).Problem ?? "";
        Assert.Equal("tokenizer.json is missing.", ProblemOf("fo"));
        Assert.Contains("has no \"<s>\"", ProblemOf("ga"));
        Assert.StartsWith("tokenizer.json is none of this form", ProblemOf("is"));
        Assert.StartsWith("decoder_model_merged.onnx is no decoder of this form", ProblemOf("mt"));
        Assert.DoesNotContain(Recognisers.All(), r => r.Language == "my notes");
        Assert.False(WordRecogniser.Writes("ga"));
        var refused = Assert.Throws<MediaException>(() =>
            WordRecogniser.Recognise(new Core.Audio.AudioBuffer(new float[16000], 16000), [(0, 1)], language: "ga")
        );
        Assert.Contains("no recogniser for \"ga\"", refused.Message);
    }

    [Fact]
    public void Pieces_are_read_by_their_numbers_and_what_is_no_text_is_left_out()
    {
        var (pieces, begin, end) = RecogniserModel.ReadTokens(
            """{ "added_tokens": [{ "id": 4, "content": "<pad>" }], "model": { "vocab": { "▁pan": 3, "<s>": 0, "</s>": 1, "<0xC3>": 2, "<pad>": 4 } } }"""
        );
        Assert.Equal((0, 1), (begin, end));
        Assert.Equal(new[] { null, null, "<0xC3>", "▁pan", null }, (IEnumerable<string?>)pieces);
        Assert.Throws<MediaException>(() => RecogniserModel.ReadTokens("""{ "model": { "vocab": { "<s>": 0, "</s>": 2000000000 } } }"""));
    }
}
