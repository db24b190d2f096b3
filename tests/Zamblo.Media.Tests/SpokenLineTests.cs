using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

/// <summary>Plain signs in what is typed, and words that are said in their own way, by every engine.</summary>
public class SpokenLineTests
{
    private static readonly Dictionary<string, Lexeme> Own = new()
    {
        ["bubb"] = new("B UH B", ["B", "UH", "B"]),
        ["maro"] = new("/mɑːɹoʊ/", ["M", "AA", "R", "OW"]),
    };

    private static string[] PhonesOf(SpokenText spoken, string word)
    {
        var at = spoken.Speech.Words.First(w => w.Text == word);
        return [.. spoken.Speech.Phones.Where(p => p.Phone != Arpabet.Silence && p.Start > at.Start - 0.005 && p.End < at.End + 0.005).Select(p => p.Phone)];
    }

    [Theory]
    [InlineData("espeak:en-us")]
    [InlineData("flite:slt")]
    public async Task A_word_is_said_as_the_list_says(string voice)
    {
        const string text = "Good night, Bubb and Maro: sleep.";
        var usual = await Synthesis.SpeakAsync(voice, text, new Delivery());
        var own = await Synthesis.SpeakAsync(voice, text, new Delivery(), lexicon: Own);
        Assert.Equal(["B", "AH", "B"], PhonesOf(usual, "Bubb"));
        Assert.Equal(["B", "UH", "B"], PhonesOf(own, "Bubb"));
        Assert.Equal(["M", "AA", "R", "OW"], PhonesOf(own, "Maro"));
        // The other words are where they were among them.
        Assert.Equal(usual.Speech.Words.Select(w => w.Text), own.Speech.Words.Select(w => w.Text));
    }

    [Fact]
    public async Task Letters_are_read_by_voices_of_other_languages_and_sounds_are_left_alone()
    {
        var lexicon = new Dictionary<string, Lexeme> { ["tock"] = new("tuck", ["T", "AH", "K"]), ["bubb"] = Own["bubb"] };
        var usual = await Synthesis.SpeakAsync("espeak:de", "Tock und Bubb", new Delivery());
        var own = await Synthesis.SpeakAsync("espeak:de", "Tock und Bubb", new Delivery(), lexicon: lexicon);
        Assert.NotEqual(PhonesOf(usual, "Tock"), PhonesOf(own, "Tock"));
        Assert.Equal(PhonesOf(usual, "Bubb"), PhonesOf(own, "Bubb"));
    }

    [Theory]
    [InlineData("espeak:en-us")]
    [InlineData("flite:slt")]
    public async Task A_pause_is_silence_of_its_length_and_what_follows_is_where_it_is_heard(string voice)
    {
        var spoken = await Synthesis.SpeakAsync(voice, "You came! (pause 2 s) I waited. (beat)", new Delivery());
        var words = spoken.Speech.Words;
        Assert.Equal(["You", "came", "I", "waited"], words.Select(w => w.Text));
        var gap = words[2].Start - words[1].End;
        // The engine's own rest after a sentence comes on top.
        Assert.InRange(gap, 2, 3.1);
        var silence = spoken.Audio.Slice(words[1].End + 0.8, words[2].Start - 0.6);
        Assert.All(silence.Samples, s => Assert.InRange(s, -0.003f, 0.003f));
        Assert.True(spoken.Audio.Slice(words[2].Start, words[3].End).Samples.Max() > 0.05);
        var at = 0.0;
        foreach (var p in spoken.Speech.Phones)
        {
            Assert.Equal(at, p.Start, 6);
            at = p.End;
        }
        Assert.Equal(spoken.Audio.Duration, at, 6);
    }

    [Theory]
    [InlineData("Now. (pause) Go.", "Now. |0.8; Go.|0")]
    [InlineData("Now (long pause) go (beat) on", "Now |1.4; go |0.5; on|0")]
    [InlineData("(beat) Well.", "|0.5; Well.|0")]
    [InlineData("A (pause 1.5 s) b", "A |1.5; b|0")]
    [InlineData("A [pause 90 seconds] b", "A |10; b|0")]
    [InlineData("We pause here (all of us).", "We pause here (all of us).|0")]
    public void Pauses_are_found(string text, string expected) =>
        Assert.Equal(expected, string.Join(';', SpokenLine.Parts(text).Select(p => FormattableString.Invariant($"{p.Text}|{p.Pause}"))));

    [Theory]
    [InlineData("I said *rye*, not wheat.", "rye")]
    [InlineData("STOP (beat) the *old* OVEN, *laughs* now", "STOP|old|OVEN")]
    [InlineData("The BBC is on", "")]
    public void Stressed_words_are_found(string text, string expected) =>
        Assert.Equal(expected, string.Join('|', SpokenLine.Parts(text).SelectMany(p => p.Stressed.OrderBy(s => s.Start).Select(s => p.Text[s.Start..s.End]))));

    [Theory]
    [InlineData("espeak:en-us")]
    [InlineData("flite:rms")]
    public async Task A_stressed_word_is_louder(string voice)
    {
        double Level(SpokenText spoken)
        {
            double Of(string word)
            {
                var w = spoken.Speech.Words.First(x => x.Text == word);
                return Math.Sqrt(spoken.Audio.Slice(w.Start, w.End).Samples.Average(x => (double)x * x));
            }
            return Of("rye") / Of("wheat");
        }
        var usual = await Synthesis.SpeakAsync(voice, "We bake with rye and not with wheat today.", new Delivery());
        var loud = await Synthesis.SpeakAsync(voice, "We bake with *rye* and not with wheat today.", new Delivery());
        Assert.True(Level(loud) > 1.2 * Level(usual), $"{Level(loud):0.00} {Level(usual):0.00}");
        Assert.Equal(usual.Speech.Words.Select(w => w.Text), loud.Speech.Words.Select(w => w.Text));
    }
}
