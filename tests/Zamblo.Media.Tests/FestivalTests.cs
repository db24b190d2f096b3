using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

/// <summary>The engine festival with Debian's voices: of diphones, modelled, and of another language.</summary>
[Collection("ffmpeg")]
public class FestivalTests : InFolder
{
    private const string Diphones = "festival:en-us:kal_diphone",
        Modelled = "festival:en-us:cmu_us_slt_arctic_hts",
        Italian = "festival:it:lp_diphone";

    [Fact]
    public async Task Its_voices_are_listed_with_their_languages_and_nothing_else_is_a_name()
    {
        var voices = await Synthesis.VoicesAsync();
        foreach (var (key, language) in ((string, string)[])[(Diphones, "en-us"), (Modelled, "en-us"), (Italian, "it")])
        {
            Assert.Equal(language, Assert.Single(voices, v => v.Key == key).Language);
            Assert.Equal(language, Synthesis.LanguageOf(key));
            await Synthesis.CheckAsync(key);
        }
        foreach (var wrong in (string[])["festival:en-us:../../etc", "festival:en-us:kal_diphone)(exit", "festival:kal_diphone", "festival:de:kal_diphone"])
            await Assert.ThrowsAsync<MediaException>(() => Synthesis.CheckAsync(wrong));
        // Flite's have their language in no key: whoever has one and is recorded is heard in it all the same.
        Assert.Equal(("en-us", "en-gb-scotland"), (Synthesis.LanguageOf("flite:slt"), Synthesis.LanguageOf("flite:awb")));
        Assert.True(new SpeechQuery("Go forward.", Synthesis.LanguageOf("flite:kal16")).IsNative);
    }

    [Theory]
    [InlineData(Diphones, 1)]
    [InlineData(Modelled, 1)]
    [InlineData(Modelled, 1.4)]
    public async Task Its_own_times_fit_its_sound_at_any_pace(string voice, double speed)
    {
        const string text = "Fresh rolls at six, and not a minute later. The oven is hot; who has the butter?";
        var (sound, speech) = await Synthesis.SpeakAsync(voice, text, new Delivery { Speed = speed });
        Assert.Equal(ScriptText.Words(text).Select(w => w.Text), speech.Words.Select(w => w.Text));
        Assert.Equal(sound.Duration, speech.Phones[^1].End, 6);
        Assert.True(speech.Phones.Zip(speech.Phones.Skip(1)).All(p => Math.Abs(p.First.End - p.Second.Start) < 1e-9));
        Assert.True(speech.Words.Zip(speech.Words.Skip(1)).All(w => w.First.End <= w.Second.Start + 1e-6));
        // Against something that knows nothing of the engine: our alignment of the sound with its words, and where it is silent.
        var heard = await SpeechModels.AnalyzeAsync(await AudioFiles.ResampleAsync(sound, 16000, default), new SpeechQuery(text, "en-us"));
        var errors = speech.Words.Zip(heard.Words).Select(w => Math.Abs(w.First.Start - w.Second.Start)).ToArray();
        Assert.Equal(speech.Words.Count, heard.Words.Count);
        Assert.True(errors.Average() < 0.03, $"mean {errors.Average():0.000}: {string.Join(' ', errors.Select(e => $"{e:0.00}"))}");
        double Level(bool isSilent) =>
            speech.Phones.Where(p => Arpabet.IsSilent(p.Phone) == isSilent && p.Duration > 0.05).Average(p => Loud(sound, p.Start + 0.02, p.End - 0.02));
        Assert.True(Level(false) > 20 * Level(true), $"{Level(false)} {Level(true)}");
    }

    private static double Loud(AudioBuffer sound, double from, double to) => sound.Slice(from, to).Samples.Average(s => Math.Abs(s));

    [Fact]
    public async Task Slower_is_longer_by_as_much_and_higher_is_not_longer()
    {
        const string text = "The flour has arrived.";
        var plain = await Synthesis.SpeakAsync(Diphones, text, new Delivery());
        var slow = await Synthesis.SpeakAsync(Diphones, text, new Delivery { Speed = 0.8 });
        var high = await Synthesis.SpeakAsync(Diphones, text, new Delivery { Pitch = 0.8 });
        Assert.Equal(plain.Audio.Duration / 0.8, slow.Audio.Duration, 0.01);
        Assert.Equal(plain.Speech.Words[^1].Start / 0.8, slow.Speech.Words[^1].Start, 0.01);
        Assert.Equal(plain.Audio.Duration, high.Audio.Duration, 0.01);
        double Pitch(SpokenText t) => t.Speech.PitchHz.Where(p => p > 0).Order().ElementAt(t.Speech.PitchHz.Count(p => p > 0) / 2);
        Assert.InRange(Pitch(high) / Pitch(plain), 1.12, 1.35);
    }

    [Fact]
    public async Task A_word_is_said_as_the_production_has_it()
    {
        var lexicon = new Dictionary<string, Lexeme> { ["tock"] = new("TEKKA", ["T", "EH", "K", "AH"]) };
        var spoken = await Synthesis.SpeakAsync(Diphones, "Where is Tock now?", new Delivery(), lexicon: lexicon);
        Assert.Contains("T EH K AH N AW", string.Join(' ', spoken.Speech.Phones.Select(p => p.Phone)));
        Assert.Equal(["Where", "is", "Tock", "now"], spoken.Speech.Words.Select(w => w.Text));
    }

    [Fact]
    public async Task What_would_be_a_command_is_only_text()
    {
        var file = PathOf("made");
        var spoken = await Synthesis.SpeakAsync(Diphones, $"He said: \") (system \"touch {file}\") (set! x \"\\\" and left.", new Delivery());
        Assert.False(File.Exists(file));
        Assert.Contains(spoken.Speech.Words, w => w.Text == "left");
        await Assert.ThrowsAsync<MediaException>(() => Synthesis.SpeakAsync(Diphones, "…!?", new Delivery()));
    }

    [Fact]
    public async Task Another_language_is_spoken_and_its_words_are_found()
    {
        var (sound, speech) = await Synthesis.SpeakAsync(Italian, "Il pane è caldo, perché è già tardi.", new Delivery());
        Assert.InRange(sound.Duration, 1.5, 5);
        Assert.Equal(["Il", "pane", "è", "caldo", "perché", "è", "già", "tardi"], speech.Words.Select(w => w.Text));
        Assert.Equal(SpeechSource.Engine, speech.Source);
        // "pane" begins with shut lips.
        var pane = speech.Words[1];
        Assert.Equal("P", speech.Phones.First(p => p.Start >= pane.Start - 1e-6).Phone);
    }
}
