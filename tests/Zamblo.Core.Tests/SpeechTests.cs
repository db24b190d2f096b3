using Zamblo.Core.Audio;
using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

public class SpeechTests
{
    [Fact]
    public void The_model_is_read_with_the_counts_that_it_was_trained_with()
    {
        // README and mdef of the US-English model in Debian's pocketsphinx-en-us: 42 phones, 128 Gaussians, three streams of 13.
        Assert.Equal(42, TestData.Model.PhoneNames.Length);
        Assert.Equal((128, 3, 13), (TestData.Model.Densities, TestData.Model.Streams, TestData.Model.StreamLength));
        Assert.All(Arpabet.Phones, p => Assert.True(TestData.Model.HasPhone(p)));
        for (var s = 0; s < TestData.Model.SenoneCount; s += 97)
        for (var f = 0; f < 3; f++)
            // Mixture weights are probabilities; 8-bit storage costs a few per cent.
            Assert.Equal(1, TestData.Model.MixtureWeights.AsSpan((s * 3 + f) * 128, 128).ToArray().Sum(), 0.12);
    }

    [Theory]
    [InlineData("mdef")]
    [InlineData("means")]
    [InlineData("sendump")]
    [InlineData("transition_matrices")]
    public void A_model_file_that_is_missing_short_or_foreign_is_named(string broken)
    {
        Stream Good(string n) => File.OpenRead(TestData.ModelFolder + n);
        foreach (
            var bad in new Func<byte[]?>[]
            {
                () => null,
                () => [],
                () => File.ReadAllBytes(TestData.ModelFolder + broken)[..1000],
                () => "this is a letter, not a model"u8.ToArray(),
            }
        )
        {
            var e = Assert.Throws<AcousticModelException>(() =>
                AcousticModel.Read(n =>
                    n == broken
                        ? bad() is { } b
                            ? new MemoryStream(b)
                            : null
                        : Good(n)
                )
            );
            Assert.Contains(broken, e.Message);
        }
    }

    [Fact]
    public void Words_are_found_where_the_reference_recogniser_finds_them()
    {
        // pocketsphinx_continuous -infile goforward.raw -time yes (libpocketsphinx 0.8+5prealpha, same model): its word starts and ends.
        (string, double, double)[] reference = [("go", 0.46, 0.64), ("forward", 0.64, 1.17), ("ten", 1.17, 1.53), ("meters", 1.53, 2.12)];
        var speech = TestData.Analyzer.Analyze(TestData.Raw("goforward.raw"), "go forward ten meters");
        Assert.Equal(reference.Select(r => r.Item1), speech.Words.Select(w => w.Text));
        foreach (var (word, (_, start, end)) in speech.Words.Zip(reference))
        {
            Assert.InRange(word.Start - start, -0.06, 0.06);
            Assert.InRange(word.End - end, -0.06, 0.06);
            Assert.InRange(word.Confidence, 0.6f, 1f);
        }
    }

    [Fact]
    public void Every_word_of_read_speech_is_found_in_order()
    {
        foreach (var (file, text) in TestData.Read())
        {
            var speech = TestData.Analyzer.Analyze(TestData.Wav(file), text);
            Assert.Equal(text.Split(' '), speech.Words.Select(w => w.Text));
            AssertWellFormed(speech, TestData.Wav(file).Duration);
        }
    }

    [Fact]
    public void Without_a_script_the_mouth_classes_of_read_speech_are_right_most_of_the_time()
    {
        // Truth: the alignment to the transcript that comes with the recording. A mouth class is one of the fourteen shapes.
        double right = 0,
            all = 0;
        foreach (var (file, text) in TestData.Read().Skip(1))
        {
            var audio = TestData.Wav(file);
            var truth = TestData.Analyzer.Analyze(audio, text);
            var heard = TestData.Analyzer.Analyze(audio);
            Assert.Empty(heard.Words);
            AssertWellFormed(heard, audio.Duration);
            for (var t = 0.005; t < audio.Duration; t += 0.01)
            {
                var expected = truth.Phones.First(p => t < p.End).Phone;
                if (expected == Arpabet.Silence)
                    continue;
                all++;
                if (MouthShapes.Of(heard.Phones.First(p => t < p.End).Phone).First == MouthShapes.Of(expected).First)
                    right++;
            }
        }
        Assert.InRange(right / all, 0.62, 1);
    }

    [Fact]
    public void A_word_missing_from_the_script_leaves_the_others_where_they_are()
    {
        foreach (var (file, text) in TestData.Read())
        {
            var audio = TestData.Wav(file);
            var tokens = text.Split(' ');
            var full = TestData.Analyzer.Analyze(audio, text).Words;
            var less = TestData.Analyzer.Analyze(audio, string.Join(' ', tokens.Where((_, i) => i != tokens.Length / 2))).Words;
            for (var i = 0; i < tokens.Length; i++)
            {
                if (Math.Abs(i - tokens.Length / 2) < 2)
                    continue;
                var same = less[i < tokens.Length / 2 ? i : i - 1];
                Assert.Equal(full[i].Text, same.Text);
                Assert.InRange(same.Start - full[i].Start, -0.031, 0.031);
            }
        }
    }

    [Fact]
    public void A_word_that_nobody_says_is_left_out()
    {
        var speech = TestData.Analyzer.Analyze(TestData.Raw("goforward.raw"), "go forward encyclopedia ten meters");
        Assert.Equal(["go", "forward", "ten", "meters"], speech.Words.Select(w => w.Text));
    }

    [Fact]
    public void Speech_before_the_script_begins_does_not_drag_it_along()
    {
        var one = TestData.Raw("goforward.raw");
        var both = new AudioBuffer([.. TestData.Raw("something.raw").Samples, .. one.Samples], 16000);
        var shift = TestData.Raw("something.raw").Duration;
        var alone = TestData.Analyzer.Analyze(one, "go forward ten meters").Words;
        var after = TestData.Analyzer.Analyze(both, "go forward ten meters");
        foreach (var (a, b) in alone.Zip(after.Words))
            Assert.Equal(a.Start + shift, b.Start, 0.05);
        // What the script does not have still moves the mouth.
        Assert.Contains(after.Phones, p => p.Phone != Arpabet.Silence && p.End < shift);
    }

    [Fact]
    public void Draft_words_of_a_recogniser_are_aligned_like_a_script()
    {
        var analyzer = new SpeechAnalyzer(
            TestData.Model,
            TestData.Dictionary,
            null,
            (_, _, _, _, _) => [new("Go", 1), new("forward", 0.2f), new("ten", 1), new("meters.", 1)]
        );
        var drafted = analyzer.Analyze(TestData.Raw("goforward.raw"));
        Assert.Equal(SpeechSource.Recognised, drafted.Source);
        Assert.Equal("Go forward ten meters.", drafted.Draft);
        // What the recogniser is not sure of is not called sure because the sound fits.
        Assert.All(drafted.Words, w => Assert.Equal(w.Text == "forward", w.Confidence < 0.5));
        Assert.Equal(
            TestData.Analyzer.Analyze(TestData.Raw("goforward.raw"), "Go forward ten meters").Words.Select(w => (w.Text, w.Start, w.End)),
            drafted.Words.Select(w => (w.Text, w.Start, w.End))
        );
    }

    [Theory]
    [InlineData(0)]
    [InlineData(0.01)]
    [InlineData(0.05)]
    [InlineData(3)]
    public void Silence_of_any_length_is_silence(double seconds)
    {
        foreach (var script in new[] { null, "hello there" })
        {
            var speech = TestData.Analyzer.Analyze(new AudioBuffer(new float[(int)(seconds * 16000)], 16000), script);
            Assert.All(speech.Phones, p => Assert.Equal(Arpabet.Silence, p.Phone));
            Assert.Empty(speech.Words);
        }
    }

    [Fact]
    public void Steady_noise_is_not_speech()
    {
        var speech = TestData.Analyzer.Analyze(TestData.Noise(4, 0.02f));
        Assert.InRange(speech.Phones.Where(p => p.Phone != Arpabet.Silence).Sum(p => p.Duration), 0, 0.4);
    }

    [Fact]
    public void A_script_that_does_not_fit_still_gives_a_result()
    {
        var audio = TestData.Raw("goforward.raw");
        foreach (
            var script in new[]
            {
                string.Join(' ', Enumerable.Repeat("the oven is hot and the bread is not", 30)),
                "🥖🥖🥖",
                "12 345 6.78 9th & 50%",
                "xqzzt vrrbl",
                "go",
            }
        )
            AssertWellFormed(TestData.Analyzer.Analyze(audio, script), audio.Duration);
    }

    [Fact]
    public void Nasty_sound_still_gives_a_result()
    {
        var clipped = TestData.Raw("goforward.raw");
        for (var i = 0; i < clipped.Samples.Length; i++)
            clipped.Samples[i] = Math.Clamp(clipped.Samples[i] * 40, -1, 1);
        AssertWellFormed(TestData.Analyzer.Analyze(clipped, "go forward ten meters"), clipped.Duration);
        var broken = TestData.Raw("numbers.raw");
        for (var i = 0; i < broken.Samples.Length; i += 50)
            broken.Samples[i] = float.NaN;
        AssertWellFormed(TestData.Analyzer.Analyze(broken), broken.Duration);
    }

    [Fact]
    public void The_work_can_be_cancelled()
    {
        using var source = new CancellationTokenSource();
        source.Cancel();
        Assert.Throws<OperationCanceledException>(() => TestData.Analyzer.Analyze(TestData.Raw("goforward.raw"), "go forward ten meters", null, source.Token));
    }

    [Theory]
    [InlineData("Mr. Maro has 23 loaves", "mister maro has twenty three loaves")]
    [InlineData("In 1984 it cost $5, or 50%.", "in nineteen eighty four it cost five dollars or fifty percent")]
    [InlineData("3.14 & 1,250,000!", "three point one four and one million two hundred fifty thousand")]
    [InlineData("well-known — “don’t”", "well known don't")]
    [InlineData("call 00420", "call zero zero four two zero")]
    [InlineData("🥖 ... !?", "")]
    public void Written_text_is_read_as_it_is_spoken(string text, string spoken) =>
        Assert.Equal(spoken, string.Join(' ', ScriptText.Words(text).SelectMany(w => w.Spoken)));

    [Fact]
    public void Word_offsets_point_into_the_script()
    {
        const string script = "\"Three,\" she said: the (hot) oven!";
        Assert.All(ScriptText.Words(script), w => Assert.Equal(w.Text, script.Substring(w.Offset, w.Text.Length)));
    }

    [Theory]
    [InlineData("həlˈəʊ", "HH AH L OW")]
    [InlineData("bˈeɪkɚ", "B EY K ER")]
    [InlineData("tʃˈuːz", "CH UW Z")]
    [InlineData("ʃvˈaɾ", "SH V AA D")]
    [InlineData("œ̃", "ER")]
    [InlineData("", "")]
    public void IPA_becomes_the_models_phones(string ipa, string phones) => Assert.Equal(phones, string.Join(' ', Ipa.ToArpabet(ipa)));

    [Fact]
    public void Every_pronunciation_of_a_word_is_known()
    {
        // CMU pronouncing dictionary: "read" is R EH D or R IY D.
        Assert.Equal(["R EH D", "R IY D"], TestData.Dictionary.Lookup("read").Select(p => string.Join(' ', p)).Order());
    }

    internal static void AssertWellFormed(SpeechAnalysis speech, double duration)
    {
        double at = 0;
        foreach (var p in speech.Phones)
        {
            Assert.Equal(at, p.Start, 6);
            Assert.True(p.End > p.Start);
            Assert.InRange(p.Confidence, 0f, 1f);
            at = p.End;
        }
        Assert.Equal(duration, at, 6);
        Assert.All(speech.Words.Zip(speech.Words.Skip(1)), w => Assert.True(w.First.End <= w.Second.Start + 1e-6));
        Assert.All(speech.Words, w => Assert.True(w.Start >= 0 && w.End <= duration + 1e-6 && w.End > w.Start));
    }

    [Fact]
    public void After_a_changed_word_only_its_neighbourhood_is_heard_again()
    {
        foreach (var (file, text) in TestData.Read().Take(3))
        {
            var audio = TestData.Wav(file);
            var tokens = text.Split(' ');
            var wrong = tokens.Length / 2;
            var before = TestData.Analyzer.Analyze(audio, string.Join(' ', tokens.Select((t, i) => i == wrong ? "potato" : t)));
            var again = TestData.Analyzer.Realign(audio, before, TestData.Analyzer.Request(text));
            var whole = TestData.Analyzer.Analyze(audio, text);
            AssertWellFormed(again, audio.Duration);
            Assert.Equal(whole.Words.Select(w => w.Text), again.Words.Select(w => w.Text));
            for (var i = 0; i < whole.Words.Count; i++)
            {
                // Far from the change nothing moves at all; near it the result is that of hearing everything.
                if (Math.Abs(i - wrong) > 4)
                    Assert.Equal(before.Words.Single(w => Math.Abs(w.Start - again.Words[i].Start) < 1e-9).Text, again.Words[i].Text);
                Assert.Equal(whole.Words[i].Start, again.Words[i].Start, 0.03);
            }
        }
    }

    [Fact]
    public void Boundaries_set_by_hand_hold_and_what_follows_is_aligned_after_them()
    {
        var audio = TestData.Raw("goforward.raw");
        var known = TestData.Analyzer.Analyze(audio, "go forward ten meters");
        var ten = known.Words[2];
        var request = TestData.Analyzer.Request("go forward ten meters") with
        {
            Pins = [new BoundaryPin("ten", ten.Start, 0, ten.Start + 0.05), new BoundaryPin("meters", known.Words[3].End, 99, known.Words[3].End - 0.04)],
        };
        var pinned = TestData.Analyzer.Realign(audio, known, request);
        AssertWellFormed(pinned, audio.Duration);
        Assert.Equal(ten.Start + 0.05, pinned.Words[2].Start, 0.001);
        Assert.Equal(known.Words[3].End - 0.04, pinned.Words[3].End, 0.001);
        Assert.Equal(known.Words.Select(w => w.Text), pinned.Words.Select(w => w.Text));
    }

    [Fact]
    public void Marks_made_by_hand_win_over_what_is_heard()
    {
        var audio = TestData.Raw("goforward.raw");
        var usual = TestData.Analyzer.Analyze(audio);
        var request = TestData.Analyzer.Request(null) with { Marks = [new VoiceMark(0, 1.2, false)] };
        var marked = TestData.Analyzer.Analyze(audio, request);
        Assert.Contains(usual.Phones, p => p.Phone != Arpabet.Silence && p.End < 1.1);
        Assert.DoesNotContain(marked.Phones, p => p.Phone != Arpabet.Silence && p.End < 1.15);
        Assert.Contains(marked.Phones, p => p.Phone != Arpabet.Silence && p.Start > 1.3);
        // What detection takes for silence is listened to where somebody says that there is a voice.
        var noise = new AudioBuffer([.. TestData.Noise(3, 0.0004f).Samples], 16000);
        Assert.All(TestData.Analyzer.Analyze(noise).Phones, p => Assert.Equal(Arpabet.Silence, p.Phone));
        var voice = TestData.Analyzer.Analyze(noise, TestData.Analyzer.Request(null) with { Marks = [new VoiceMark(1, 2, true)] });
        AssertWellFormed(voice, noise.Duration);
        Assert.DoesNotContain(voice.Phones, p => p.Phone != Arpabet.Silence && (p.End < 0.99 || p.Start > 2.01));
    }
}
