using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

/// <summary>What is said in another language without a script is listened for in that language's own sounds.</summary>
public class LanguageSoundsTests
{
    [Fact]
    public async Task Each_of_eleven_languages_has_common_words_that_the_engine_can_say()
    {
        Assert.Equal(["cmn", "de", "es", "fr", "hi", "it", "ja", "nl", "pl", "pt", "ru"], LanguageSounds.Languages);
        foreach (var language in LanguageSounds.Languages)
        {
            var words = await LanguageSounds.DictionaryAsync(language);
            Assert.InRange(words.Count, 60, 200);
            var sounds = words.Words.SelectMany(w => words.Lookup(w)).SelectMany(p => p).ToHashSet();
            // A language has twenty sounds and more of the 39 (Maddieson, "Patterns of Sounds", 1984: 20 to 37 segments in most); none is silence.
            Assert.InRange(sounds.Count, 15, 39);
            Assert.DoesNotContain(sounds, Arpabet.IsSilent);
        }
        Assert.Equal("fr", LanguageSounds.KeyOf("fr-fr"));
        Assert.Null(LanguageSounds.KeyOf("eo"));
        // Of all of them every word counts, also one that two have.
        var all = await LanguageSounds.AllAsync();
        Assert.InRange(all.Count, 800, 2000);
        // Spanish has no "sh" and no "z" but before voiced sounds, German no "w" (IPA Handbook, 1999).
        var spanish = await LanguageSounds.DictionaryAsync("es");
        Assert.DoesNotContain(spanish.Words, w => spanish.Lookup(w).Any(p => p.Contains("SH")));
        var german = await LanguageSounds.DictionaryAsync("de");
        Assert.DoesNotContain(german.Words, w => german.Lookup(w).Any(p => p.Contains("W")));
    }

    [Fact]
    public async Task Told_the_language_more_of_the_mouth_is_right()
    {
        double told = 0,
            untold = 0;
        foreach (var text in (string[])["El horno está caliente y el pan todavía no está listo.", "Pon los panecillos en el estante antes de que llueva."])
        {
            var spoken = await Espeak.SpeakAsync("espeak:es", text, new Delivery());
            var audio = await AudioFiles.ResampleAsync(spoken.Audio, 16000);
            told += Right(spoken.Speech, await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(null, "es"))) / 2;
            untold += Right(spoken.Speech, await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(null, "en") { IsTold = true })) / 2;
        }
        Assert.True(told > untold + 0.03, $"{told:0.000} and {untold:0.000}");
    }

    // Share of the frames of speech in which the mouth has the right shape.
    private static double Right(SpeechAnalysis truth, SpeechAnalysis heard)
    {
        static string At(SpeechAnalysis speech, double t) => speech.Phones.FirstOrDefault(p => t >= p.Start && t < p.End).Phone ?? Arpabet.Silence;
        var times = Enumerable.Range(0, (int)(100 * truth.Duration)).Select(f => f / 100.0 + 0.005).Where(t => !Arpabet.IsSilent(At(truth, t))).ToArray();
        return times.Average(t => MouthShapes.Of(At(truth, t)).First == MouthShapes.Of(At(heard, t)).First ? 1.0 : 0);
    }
}
