using System.Text.Json;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

/// <summary>
/// Neural voices in the common form, played with graphs made here: one that gives back what it was given, one whose phonemes are stretches of a
/// recorded voice, so that every time is known.
/// </summary>
public sealed class NeuralVoiceTests : IDisposable
{
    private const int Rate = 16000;

    // The order of symbols is ours: each file brings its own.
    private const string Symbols = "_^$ .,!?abdefhijklmnoprstuvwzæðŋɐɑɔəɚɛɜɡɪɹʃʊʌʒθ";

    private readonly string _folder = Directory.CreateTempSubdirectory("zamblo-voices-").FullName;

    public void Dispose() => Directory.Delete(_folder, true);

    private static string Description(string language = "en-us", object? more = null, string symbols = Symbols)
    {
        var root = JsonSerializer.SerializeToNode(more ?? new { })!.AsObject();
        root["audio"] = JsonSerializer.SerializeToNode(new { sample_rate = Rate });
        root["espeak"] = JsonSerializer.SerializeToNode(new { voice = language });
        root["inference"] = JsonSerializer.SerializeToNode(
            new
            {
                noise_scale = 0.5,
                length_scale = 1.2,
                noise_w = 0.8,
            }
        );
        root["phoneme_id_map"] = JsonSerializer.SerializeToNode(symbols.Select((c, i) => (c, i)).ToDictionary(p => $"{p.c}", p => new[] { p.i }));
        return root.ToJsonString();
    }

    private void Place(string name, byte[] model, string description)
    {
        File.WriteAllBytes(Path.Combine(_folder, name + ".onnx"), model);
        File.WriteAllText(Path.Combine(_folder, name + ".onnx.json"), description);
        NeuralVoices.Watch(_folder);
    }

    private static OnnxFile Inputs(bool speakers)
    {
        var file = new OnnxFile().Input("input", false, 1, null).Input("input_lengths", false, 1).Input("scales", true, 3);
        return speakers ? file.Input("sid", false, 1) : file;
    }

    // Numbers / 256, scales / 10, speaker / 256, one after another.
    private static byte[] Echo(bool speakers)
    {
        var file = Inputs(speakers)
            .Constant("flat", -1)
            .Constant("small", [1 / 256f])
            .Constant("tenth", [0.1f])
            .Node("Cast", ["input"], "numbers", ("to", 1))
            .Node("Reshape", ["numbers", "flat"], "row")
            .Node("Mul", ["row", "small"], "told")
            .Node("Mul", ["scales", "tenth"], "how");
        if (speakers)
            file.Node("Cast", ["sid"], "who", ("to", 1)).Node("Mul", ["who", "small"], "speaker");
        return file.Node("Concat", speakers ? ["told", "how", "speaker"] : ["told", "how"], "output", ("axis", 0)).Output("output", (long?)null).Bytes();
    }

    private static (long[] Numbers, float[] Scales, long? Speaker) Told(SpokenText spoken, bool speakers)
    {
        var samples = spoken.Audio.Samples;
        var count = samples.Length - (speakers ? 4 : 3);
        return (
            [.. samples[..count].Select(s => (long)Math.Round(s * 256))],
            [.. samples[count..(count + 3)].Select(s => s * 10)],
            speakers ? (long)Math.Round(samples[^1] * 256) : null
        );
    }

    [Fact]
    public async Task The_voice_is_given_phonemes_between_pads_the_mark_and_how_it_is_to_speak()
    {
        Place("echo", Echo(false), Description());
        var delivery = new Delivery(Speed: 1.5, Range: 0.25);
        // The engine's own transcription of the word is the outside judge: espeak-ng says "mˈɑːmɐ" or "mˈɑːmə".
        var (numbers, scales, _) = Told(await NeuralVoices.SpeakAsync("neural:en-us:echo", "Mama!", delivery), false);
        long Of(char c) => Symbols.IndexOf(c);
        Assert.Equal(Of('^'), numbers[0]);
        Assert.Equal(Of('$'), numbers[^1]);
        // Every second one is the pad.
        Assert.All(Enumerable.Range(0, numbers.Length / 2), i => Assert.Equal(Of('_'), numbers[2 * i + 1]));
        var said = string.Concat(numbers.Where((_, i) => i % 2 == 0).Select(n => Symbols[(int)n]));
        Assert.Matches("^\\^m[ɑæ]m[ɐəʌ]!\\$$", said);
        Assert.Equal([0.25f, 0.8f, 0.4f], scales.Select(s => MathF.Round(s, 3)));
    }

    [Fact]
    public async Task A_word_of_the_list_is_given_in_its_own_sounds()
    {
        Place("echo2", Echo(false), Description());
        var lexicon = new Dictionary<string, Lexeme> { ["bubb"] = new("B UH B", ["B", "UH", "B"]) };
        var (numbers, _, _) = Told(await Synthesis.SpeakAsync("neural:en-us:echo2", "See Bubb now.", new Delivery(), lexicon: lexicon), false);
        var said = string.Concat(numbers.Where((_, i) => i % 2 == 0).Select(n => Symbols[(int)n]));
        Assert.Matches("^\\^si bʊb na", said);
    }

    [Fact]
    public async Task Every_speaker_of_a_file_is_a_voice()
    {
        Place("choir", Echo(true), Description("de", new { num_speakers = 3, speaker_id_map = new { Alto = 0, tenor_2 = 2 } }));
        var voices = (await NeuralVoices.VoicesAsync()).Where(v => v.Key.Contains("choir")).ToArray();
        Assert.Equal(["neural:de:choir:Alto", "neural:de:choir:tenor_2"], voices.Select(v => v.Key));
        Assert.All(voices, v => Assert.Equal("de", v.Language));
        Assert.Equal("de", Synthesis.LanguageOf(voices[1].Key));
        Assert.Equal(2, Told(await Synthesis.SpeakAsync(voices[1].Key, "Mama", new Delivery()), true).Speaker);
        await Assert.ThrowsAsync<MediaException>(() => Synthesis.CheckAsync("neural:de:choir:bass"));
    }

    [Fact]
    public async Task Words_are_found_where_the_voice_says_them()
    {
        const double unit = 0.11;
        const string text = "Rosa sold my bread, and the oven made more bread than Bubb and Tock wanted.";
        Place("units", await UnitsAsync(unit), Description());
        var spoken = await Synthesis.SpeakAsync("neural:en-us:units", text, new Delivery());
        // By the making of it every symbol takes as long as every other one: where each word begins is counted.
        var clauses = NeuralVoice.Clauses(text);
        var sounds = await Espeak.IpaAsync("en-us", [.. clauses.Select(c => c.Text)]);
        var at = 1;
        var starts = new List<double>();
        for (var c = 0; c < clauses.Count; c++)
        {
            foreach (var word in sounds[c].Split(' '))
            {
                starts.Add(at * unit);
                at += word.Count(s => s != '_' && Symbols.Contains(s)) + 1;
            }
            at++;
        }
        Assert.Equal((at + 1 - 1) * unit, spoken.Audio.Duration, 1);
        // espeak-ng joins some words ("and the"): those that are told alone are compared.
        var heard = spoken.Speech.Words;
        Assert.Equal(ScriptText.Words(text).Count, heard.Count);
        var errors = heard.Select(w => starts.Min(s => Math.Abs(s - w.Start))).ToArray();
        Assert.True(errors.Average() < 0.03, $"mean {errors.Average():0.000}");
        Assert.True(errors.Count(e => e < 0.06) >= 0.9 * errors.Length, string.Join(' ', errors.Select(e => $"{e:0.00}")));
    }

    // A graph that says each symbol as a stretch of flite's recorded voice: every second number looked up in a table of samples.
    private static async Task<byte[]> UnitsAsync(double seconds)
    {
        var length = (int)(seconds * Rate);
        var said = await Flite.SpeakAsync(
            "flite:slt",
            "Pack the big judge, she thinks those vague boys hung loose wool. Far birds could measure a yellow oath; new doors shed their huge cozy feather. "
                + "The bread was sold, and Tock wanted more of my oven, mama.",
            new Delivery(0.7)
        );
        var table = new float[Symbols.Length * length];
        for (var i = 0; i < Symbols.Length; i++)
        {
            var phone = Ipa.ToArpabet(Symbols[i].ToString()).FirstOrDefault() ?? (Symbols[i] is 'ɐ' ? "AH" : null);
            var all = said.Speech.Phones.Where(p => p.Phone == phone).ToArray();
            if (all.Length == 0 || "_^$ .,!?".Contains(Symbols[i]))
                continue;
            var best = all.MaxBy(p => p.End - p.Start);
            var own = said.Audio.Slice(best.Start, best.End).Samples;
            for (var n = 0; n < length; n++)
            {
                // To and fro over a sound that is shorter.
                var k = n % (2 * own.Length);
                var edge = Math.Min(1f, Math.Min(n, length - n) / 120f);
                table[i * length + n] = edge * own[k < own.Length ? k : 2 * own.Length - 1 - k];
            }
        }
        return Inputs(false)
            .Constant("flat", -1)
            .Constant("from", 0)
            .Constant("to", int.MaxValue)
            .Constant("axis", 0)
            .Constant("step", 2)
            .Constant("table", table, Symbols.Length, length)
            .Constant("sound", 1, 1, -1)
            .Node("Reshape", ["input", "flat"], "numbers")
            .Node("Slice", ["numbers", "from", "to", "axis", "step"], "symbols")
            .Node("Gather", ["table", "symbols"], "units", ("axis", 0))
            .Node("Reshape", ["units", "sound"], "output")
            .Output("output", 1, 1, null)
            .Bytes();
    }

    [Fact]
    public async Task A_voice_that_does_not_speak_is_refused_with_its_reason()
    {
        async Task<string> Refused(byte[] model, string description)
        {
            var path = Path.Combine(_folder, "tried.onnx");
            await File.WriteAllBytesAsync(path, model);
            return (await Assert.ThrowsAsync<MediaException>(() => NeuralVoices.TryAsync(path, description))).Message;
        }
        Assert.NotEmpty(await Refused("This is a letter."u8.ToArray(), Description()));
        Assert.Contains(
            "silence",
            await Refused(Inputs(false).Constant("z", new float[800], 800).Node("Identity", ["z"], "output").Output("output", 800).Bytes(), Description())
        );
        Assert.Contains(
            "\"picture\"",
            await Refused(new OnnxFile().Input("picture", true, 1).Node("Identity", ["picture"], "output").Output("output", 1).Bytes(), Description())
        );
        Assert.Contains(
            "without an end",
            await Refused(
                Inputs(false).Constant("much", 1, 1, 40_000_000).Node("ConstantOfShape", ["much"], "output").Output("output", 1, 1, null).Bytes(),
                Description()
            )
        );
        Assert.Contains("none of these sounds", await Refused(Echo(false), Description(symbols: "_^$")));
        await NeuralVoices.TryAsync(await WrittenAsync(Echo(false)), Description());
    }

    private async Task<string> WrittenAsync(byte[] model)
    {
        var path = Path.Combine(_folder, "good.onnx");
        await File.WriteAllBytesAsync(path, model);
        return path;
    }

    // The voice that other tests bring is this one; ZAMBLO_WRITE_FIXTURES makes it anew.
    [Fact]
    public async Task The_voice_that_other_tests_bring_is_made_here()
    {
        var folder = AppContext.BaseDirectory;
        while (!Directory.Exists(Path.Combine(folder, "tests", "voices")))
            folder = Path.GetDirectoryName(folder)!;
        var path = Path.Combine(folder, "tests", "voices", "night_owl.onnx");
        var description = Description(more: new { num_speakers = 2, speaker_id_map = new { low = 3, high = 7 } });
        if (Environment.GetEnvironmentVariable("ZAMBLO_WRITE_FIXTURES") != null)
        {
            await File.WriteAllBytesAsync(path, Echo(true));
            await File.WriteAllTextAsync(path + ".json", description);
        }
        Assert.Equal(Echo(true), await File.ReadAllBytesAsync(path));
        Assert.Equal(description, await File.ReadAllTextAsync(path + ".json"));
    }

    [Theory]
    [InlineData("", "cannot be read")]
    [InlineData("[1, 2]", "sample rate")]
    [InlineData("""{"audio":{"sample_rate":"fast"}}""", "cannot be read")]
    [InlineData("""{"audio":{"sample_rate":11}}""", "11 Hz")]
    [InlineData("""{"audio":{"sample_rate":22050}}""", "no table of phonemes")]
    [InlineData("""{"audio":{"sample_rate":22050},"phoneme_id_map":{"_":[0],"^":[1]}}""", "\"$\"")]
    [InlineData("""{"audio":{"sample_rate":22050},"phoneme_id_map":{"_":[0],"^":[1],"$":[2]}}""", "language")]
    [InlineData("""{"audio":{"sample_rate":22050},"phoneme_id_map":{"_":[0],"^":[1],"$":[2]},"espeak":{"voice":"../x"}}""", "language")]
    public void A_description_that_is_none_says_what_is_wrong(string json, string part) =>
        Assert.Contains(part, Assert.Throws<MediaException>(() => NeuralVoice.Read(json)).Message);

    [Fact]
    public void What_lies_in_the_folder_and_is_no_voice_is_told()
    {
        File.WriteAllText(Path.Combine(_folder, "lost.onnx.json"), Description());
        File.WriteAllText(Path.Combine(_folder, "bent.onnx.json"), "{");
        NeuralVoices.Watch(_folder);
        var problems = NeuralVoices.Problems();
        Assert.Contains(problems, p => p.Name == "lost" && p.Reason.Contains("not beside"));
        Assert.Contains(problems, p => p.Name == "bent" && p.Reason.Contains("cannot be read"));
    }

    [Theory]
    [InlineData("Patience, Bubb. Is it 5:30?", "Patience|,|Bubb|.|Is it 5:30|?")]
    [InlineData("Mr. Tock costs 3.50 a day… no", "Mr. Tock costs 3.50 a day|.|no|")]
    [InlineData("\"Hot!\" she said\n\nThen nothing", "\"Hot|!|she said|.|Then nothing|")]
    [InlineData("One line\nand the next", "One line and the next|")]
    [InlineData("?! ... —", "")]
    [InlineData("Far \t  apart\r\n\r\n \n here", "Far apart|.|here|")]
    public void Texts_are_cut_at_their_marks(string text, string clauses) =>
        Assert.Equal(clauses, string.Join('|', NeuralVoice.Clauses(text).SelectMany(c => new[] { c.Text, c.Mark })));
}
