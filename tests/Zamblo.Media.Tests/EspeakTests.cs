using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

[Collection("ffmpeg")]
public class EspeakTests
{
    [Theory]
    [InlineData("espeak:en-us")]
    [InlineData("espeak:en-gb+f3")]
    public async Task The_engines_times_agree_with_the_sound(string voice)
    {
        var spoken = await Espeak.SpeakAsync(voice, "Stop. The oven is hot, Bubb.", new Delivery());
        Assert.Equal(["Stop", "The", "oven", "is", "hot", "Bubb"], spoken.Speech.Words.Select(w => w.Text));
        Assert.Equal(SpeechSource.Engine, spoken.Speech.Source);
        double at = 0;
        foreach (var p in spoken.Speech.Phones)
        {
            Assert.Equal(at, p.Start, 6);
            at = p.End;
        }
        Assert.Equal(spoken.Audio.Duration, at, 6);
        // Where the engine says it is silent, the sound is; in the vowels it is loud.
        foreach (var p in spoken.Speech.Phones.Where(p => p.Phone == Arpabet.Silence && p.Duration > 0.12))
            Assert.InRange(Rms(spoken, p.Start + 0.05, p.End - 0.03), 0, 0.01);
        foreach (var p in spoken.Speech.Phones.Where(p => Arpabet.Vowels.Contains(p.Phone)))
            Assert.InRange(Rms(spoken, p.Start, p.End), 0.02, 1);
    }

    [Theory]
    [InlineData("He is ill-disposed at 5:30, I say.", "He|is|ill-disposed|at|5:30|I|say")]
    [InlineData("That is ill-disposed.", "That|is|ill-disposed")]
    [InlineData("Dr. Crumb — “no”… four rolls, don’t!", "Dr|Crumb|no|four|rolls|don’t")]
    [InlineData("It's 1,200.50 in 2026, isn't it?", "It's|1,200.50|in|2026|isn't|it")]
    [InlineData("Mr. O'Neil and McKay went home.", "Mr|O'Neil|and|McKay|went|home")]
    [InlineData("The 1st, 2nd and 23rd of May.", "The|1st|2nd|and|23rd|of|May")]
    [InlineData("Do not wake it, I am not asleep, it is on the tray.", "Do|not|wake|it|I|am|not|asleep|it|is|on|the|tray")]
    [InlineData("I have been in the house of the baker.", "I|have|been|in|the|house|of|the|baker")]
    [InlineData("Rock'n'roll (all of it) at home now.", "Rock'n'roll|all|of|it|at|home|now")]
    public async Task Words_are_told_as_they_are_written(string text, string expected)
    {
        var spoken = await Espeak.SpeakAsync("espeak:en-us", text, new Delivery());
        Assert.Equal(expected.Split('|'), spoken.Speech.Words.Select(w => w.Text.TrimEnd('.')));
        Assert.All(spoken.Speech.Words, w => Assert.True(w.End > w.Start));
        Assert.All(spoken.Speech.Words.Zip(spoken.Speech.Words.Skip(1)), p => Assert.True(p.Second.Start >= p.First.End - 1e-6));
    }

    [Theory]
    [InlineData(
        "de",
        "Um 10:30 kosten 3,5 kg Brot €5.",
        "Um|10:30|kosten|3,5|kg|Brot|€5",
        "Um zehn Uhr dreißig kosten drei Komma fünf Kilogramm Brot fünf Euro."
    )]
    [InlineData("es", "Son 20 °C y el 50 % de 3 m.", "Son|20|°C|y|el|50|%|de|3|m", "Son veinte grados Celsius y el cincuenta por ciento de tres metros.")]
    [InlineData("pl", "Mamy 5 € i 250 g.", "Mamy|5|€|i|250|g", "Mamy pięć euro i dwieście pięćdziesiąt gramów.")]
    public async Task Numbers_and_measures_are_said_and_heard_in_words_of_their_language(string language, string text, string words, string inWords)
    {
        async Task<string> SoundsAsync(string said) =>
            string.Join(
                ' ',
                (await Espeak.SpeakAsync("espeak:" + language, said, new Delivery())).Speech.Phones.Where(p => p.Phone != Arpabet.Silence).Select(p => p.Phone)
            );
        var (figures, written) = (await SoundsAsync(text), await SoundsAsync(inWords));
        // But for a sound or two at the seams of words it is what is said when it is written out.
        string[] a = figures.Split(' '),
            b = written.Split(' ');
        Assert.InRange(a.Length, b.Length - 2, b.Length + 2);
        Assert.True(WordMatch.Partners(a, b).Count(p => p >= 0) >= 0.9 * b.Length, $"{figures} | {written}");
        // Heard with its script every word has its place, also those that are figures.
        var spoken = await Espeak.SpeakAsync("espeak:" + language, text, new Delivery());
        var path = Path.Combine(Path.GetTempPath(), $"{Guid.NewGuid():N}.wav");
        await using (var file = File.Create(path))
            WavFile.Write(file, [spoken.Audio.Samples], spoken.Audio.SampleRate);
        var audio = await AudioFiles.DecodeAsync(path, "figures.wav", 16000);
        File.Delete(path);
        var heard = await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(text, language));
        Assert.Equal(words.Split('|'), heard.Words.Select(w => w.Text));
        foreach (var (own, told) in heard.Words.Where(w => w.Text.Any(char.IsDigit)).Zip(spoken.Speech.Words.Where(w => w.Text.Any(char.IsDigit))))
            Assert.InRange(own.Start - told.Start, -0.12, 0.12);
    }

    [Fact]
    public async Task Phones_are_those_of_the_dictionary()
    {
        // CMU pronouncing dictionary: baker B EY K ER, three TH R IY.
        Assert.Equal("B EY K ER", string.Join(' ', (await Espeak.PhonesAsync("en-us", ["baker"]))[0]));
        Assert.Equal("TH R IY", string.Join(' ', (await Espeak.PhonesAsync("en-us", ["oven", "three"]))[1]));
    }

    [Fact]
    public async Task Variants_of_a_voice_are_other_voices_in_every_language()
    {
        double Pitch(SpokenText s) => s.Speech.PitchHz.Where(p => p > 0).Order().ElementAt(s.Speech.PitchHz.Count(p => p > 0) / 2);
        foreach (var language in (string[])["en-gb", "en-us", "de"])
        {
            var man = await Espeak.SpeakAsync($"espeak:{language}+m3", "Bubb und Maro, Maro und Bubb.", new Delivery());
            var woman = await Espeak.SpeakAsync($"espeak:{language}+f4", "Bubb und Maro, Maro und Bubb.", new Delivery());
            // The variants' own files say pitch 80 to 100 and 142 to 200 Hz.
            Assert.True(Pitch(woman) > 1.25 * Pitch(man), language);
        }
    }

    [Fact]
    public async Task Twice_the_speed_is_about_half_the_length()
    {
        const string text = "Forty loaves by sunrise, one baker, and nobody to complain to.";
        var slow = await Espeak.SpeakAsync("en-us", text, new Delivery(0.8));
        var fast = await Espeak.SpeakAsync("en-us", text, new Delivery(1.6));
        Assert.InRange(slow.Audio.Duration / fast.Audio.Duration, 1.6, 2.4);
    }

    [Fact]
    public async Task There_are_many_voices_the_English_ones_first()
    {
        var voices = await Espeak.VoicesAsync();
        Assert.True(voices.Count > 80);
        Assert.StartsWith("en", voices[0].Language, StringComparison.Ordinal);
        foreach (var language in new[] { "de", "es", "fr-fr", "it", "pl", "hi", "cmn", "ja" })
            Assert.Contains(voices, v => v.Language == language);
    }

    [Theory]
    [InlineData("espeak:en-us", "", "no text")]
    [InlineData("espeak:en-us", "   \n ", "no text")]
    [InlineData("espeak:xx-nowhere", "Hello.", "no voice")]
    [InlineData("espeak:../../etc/passwd", "Hello.", "no voice")]
    [InlineData("espeak:en-us", "...", "nothing to say")]
    public async Task What_cannot_be_spoken_is_said_in_a_sentence(string voice, string text, string part)
    {
        var e = await Assert.ThrowsAsync<MediaException>(() => Espeak.SpeakAsync(voice, text, new Delivery()));
        Assert.Contains(part, e.Message);
    }

    [Fact]
    public async Task A_text_beyond_all_measure_is_refused()
    {
        var e = await Assert.ThrowsAsync<MediaException>(() => Espeak.SpeakAsync("en-us", new string('a', 60_001), new Delivery()));
        Assert.Contains("60,000", e.Message);
    }

    [Theory]
    [InlineData("de", "Der Ofen ist heiß, und das Brot ist noch nicht fertig.")]
    [InlineData("es", "El horno está caliente y el pan todavía no está listo.")]
    [InlineData("fr-fr", "Le four est chaud et le pain n'est pas encore prêt.")]
    [InlineData("it", "Il forno è caldo e il pane non è ancora pronto.")]
    [InlineData("pt", "O forno está quente e o pão ainda não está pronto.")]
    [InlineData("nl", "De oven is heet en het brood is nog niet klaar.")]
    [InlineData("pl", "Piec jest gorący, a chleb nie jest jeszcze gotowy.")]
    [InlineData("hi", "तंदूर गरम है और रोटी अभी तैयार नहीं है।")]
    [InlineData("cmn", "炉子很热，面包还没好。")]
    [InlineData("ja", "パンはまだできていません。")]
    public async Task A_script_in_another_language_is_aligned(string language, string text)
    {
        // The engine's own phone times are the truth; where a phone of ours lies nearest to one of its own, the starts are compared.
        var spoken = await Espeak.SpeakAsync("espeak:" + language, text, new Delivery());
        var audio = await AudioFiles.ResampleAsync(spoken.Audio, 16000);
        var heard = await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(text, language));
        Assert.Equal(SpeechSource.Script, heard.Source);
        var truth = spoken.Speech.Phones.Where(p => p.Phone != Arpabet.Silence).Select(p => p.Start).ToArray();
        var starts = heard.Phones.Where(p => p.Phone != Arpabet.Silence).Select(p => p.Start).ToArray();
        Assert.InRange((double)starts.Length / truth.Length, 0.8, 1.2);
        var errors = truth.Select(t => starts.Min(s => Math.Abs(s - t))).ToArray();
        // Measured when written: 16 to 30 ms; the distance of the languages' sounds from the English model is what is left.
        Assert.True(errors.Average() < 0.032, $"{language}: {errors.Average() * 1000:0.0} ms");
    }

    private static double Rms(SpokenText spoken, double start, double end)
    {
        var part = spoken.Audio.Slice(start, end).Samples;
        return part.Length == 0 ? 0 : Math.Sqrt(part.Average(x => (double)x * x));
    }
}
