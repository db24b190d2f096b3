using Xunit.Abstractions;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

/// <summary>Names that the recogniser is told: found where they are said, and nowhere else.</summary>
[Collection("ffmpeg")]
public class KnownNamesTests(ITestOutputHelper output) : InFolder
{
    private static readonly string[] Cast = ["Maro", "Ilka", "Old Tobin", "Quenby", "Zerrin", "Fenna Hask", "Brisa", "Odo"];

    private static DraftWord[] Draft(string text, float likelihood = 0.5f) => [.. text.Split(' ').Select(w => new DraftWord(w, likelihood))];

    [Fact]
    public void Words_that_sound_like_a_name_are_told_from_others()
    {
        var names = KnownNames.Of(Cast)!;
        Assert.Contains("Tobin", names.Written);
        // What is an everyday word, too, and what is too short, is left to the recogniser.
        Assert.Equal("Brisa Fenna Hask Ilka Maro Quenby Tobin Zerrin", names.Written);
        Assert.Null(KnownNames.Of(["Will", "Rose Hope", "Odo"]));
        Assert.True(names.MayBeIn(Draft("Then moral said nothing.")));
        Assert.True(names.MayBeIn(Draft("I saw ill car yesterday.")));
        // What the recogniser is sure of, and what sounds otherwise, is none.
        Assert.False(names.MayBeIn(Draft("Then moral said nothing.", 0.99f)));
        Assert.False(names.MayBeIn(Draft("Everybody listened.")));
        // Who is heard already is not looked for, and is spelled as it is written.
        Assert.False(names.MayBeIn(Draft("Then maro left.", 0.95f)));
        Assert.Equal(["Then", "Maro's", "left."], names.Spelled(Draft("Then maro's left.")).Select(w => w.Text));
        Assert.Null(KnownNames.Of(["the crowd", "a", "42"]));
    }

    [Fact]
    public void A_name_is_taken_only_in_place_of_what_sounds_like_it()
    {
        var names = KnownNames.Of(Cast)!;
        string Named(string plain, string named) => string.Join(' ', names.Named(Draft(plain), Draft(named)).Select(w => w.Text));
        Assert.Equal("Where did Maro go?", Named("Where did moral go?", "Where did Maro go"));
        Assert.Equal("I saw Ilka, there.", Named("I saw ill car, there.", "I saw Ilka there"));
        Assert.Equal("Quenby, met Maro.", Named("Quinby, met moral.", "Quenby met Maro"));
        // Nothing but names is taken over, and none where nothing sounds like it.
        Assert.Equal("Where did Maro go today?", Named("Where did moral go today?", "When did Maro go to bed?"));
        Assert.Equal("It was Fenna who left.", Named("It was Fen of you left.", "It was Fenna who left"));
        Assert.Equal("The oven is hot.", Named("The oven is hot.", "The Brisa is hot."));
        Assert.Equal("Maro met moral.", Named("Maro met moral.", "Maro met moral."));
        Assert.Equal("Maro met Maro.", Named("Maro met moral.", "Maro met Maro."));
    }

    [Fact]
    public void What_speaks_for_a_name_grows_with_each_letter_and_goes_when_it_is_another_word()
    {
        var names = KnownNames.Of(["Maro"])!;
        double After(params string[] pieces) => pieces.Aggregate(default(NameTrail), names.After).Bonus;
        Assert.True(After("▁M") > 0);
        Assert.True(After("▁M", "ar") > After("▁M"));
        Assert.Equal(0, After("▁M", "oral"));
        Assert.Equal(0, After("▁Mar", "ble", "▁is"));
        Assert.Equal(After("▁Maro"), After("▁Mar", "o", "'", "s", "▁hat"));
        Assert.Equal(2 * After("▁Maro", "▁is"), After("▁Maro", "▁is", "▁Maro", ".", "▁so"));
    }

    private static async Task<AudioBuffer> SoundAsync(string path) => await AudioFiles.DecodeAsync(path, Path.GetFileName(path), 16000);

    private static string Heard(AudioBuffer audio, KnownNames? names)
    {
        var voiced = VoiceActivity.FromLevelsAndModel(LoudnessEnvelope.LevelsDb(audio), VoiceModel.Probabilities(audio, default));
        return string.Join(' ', WordRecogniser.Recognise(audio, voiced, names: names).Select(w => w.Text));
    }

    [Fact]
    public async Task Names_of_the_cast_are_heard_and_ordinary_words_stay_what_they_are()
    {
        var names = KnownNames.Of(Cast);
        (string Text, string? Name)[] said =
        [
            ("Where did Maro go this morning?", "Maro"),
            ("I told Ilka that the bread was burnt.", "Ilka"),
            ("Quenby, come down from there at once!", "Quenby"),
            ("We waited for Zerrin until the lamp went out.", "Zerrin"),
            ("The moral of it is plain to everybody here.", null),
            ("It is still called the breeze of the hill.", null),
        ];
        int plain = 0,
            told = 0,
            all = 0,
            wrong = 0;
        foreach (var voice in new[] { "slt", "awb" })
        foreach (var (text, name) in said)
        {
            var path = PathOf("said.wav");
            await OutsideProgram.RunAsync("flite", ["-voice", voice, "-t", text, "-o", path]);
            var audio = await SoundAsync(path);
            string before = Heard(audio, null),
                after = Heard(audio, names);
            output.WriteLine($"{voice}: {text} | {before} | {after}");
            if (name != null)
            {
                all++;
                plain += before.Contains(name, StringComparison.Ordinal) ? 1 : 0;
                told += after.Contains(name, StringComparison.Ordinal) ? 1 : 0;
            }
            else if (before != after)
                wrong++;
        }
        output.WriteLine($"{plain} of {all} names without being told, {told} told; {wrong} words made names");
        Assert.Equal(0, wrong);
        Assert.True(told >= 0.75 * all, $"{told} of {all}");
        Assert.True(told - plain >= 0.5 * all, $"{plain}, then {told}");
    }

    [Fact]
    public async Task People_reading_say_none_of_the_names()
    {
        var names = KnownNames.Of(Cast);
        foreach (var path in Directory.EnumerateFiles(Recordings + "librivox", "*.wav").Order().Take(2))
        {
            var audio = await SoundAsync(path);
            Assert.Equal(Heard(audio, null), Heard(audio, names));
        }
    }
}
