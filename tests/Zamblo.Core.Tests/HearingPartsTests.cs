using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

public class HearingPartsTests
{
    [Theory]
    [InlineData(-0.02)]
    [InlineData(-0.008)]
    [InlineData(0.008)]
    [InlineData(0.02)]
    public void A_boundary_goes_to_where_the_sound_changes(double off)
    {
        // A hiss that turns into a hum at half a second sharp: the truth is known to the sample. The network knows its frame.
        var hiss = TestData.Noise(0.5, 0.1f).Samples;
        var hum = Enumerable.Range(0, 8000).Select(i => 0.3f * MathF.Sin(2 * MathF.PI * 180 * i / 16000));
        var audio = new AudioBuffer([.. hiss, .. hum], 16000);
        var evidence = PhoneEvidence.OfSpeech(audio, PhoneEvidenceTests.Turns("S", "AA", 50, 3));
        var refined = BoundaryRefiner.Refine([new("S", 0, 0.5 + off), new("AA", 0.5 + off, 1)], audio, evidence: evidence);
        Assert.Equal(0.5, refined[1].Start, 0.008);
        Assert.Equal((0, 1), (refined[0].Start, refined[1].End));
    }

    [Fact]
    public void A_boundary_of_a_glide_lies_in_it_and_moves_by_little_when_the_decoder_does()
    {
        // A hum whose second formant glides from 2200 to 900 Hz between 0.45 and 0.55 s: no moment is the one, the middle errs least.
        double f0 = 0,
            f1 = 0,
            f2 = 0;
        var audio = new AudioBuffer(
            [
                .. Enumerable
                    .Range(0, 16000)
                    .Select(i =>
                    {
                        var t = i / 16000.0;
                        f0 += 2 * Math.PI * 120 / 16000;
                        f1 += 2 * Math.PI * 480 / 16000;
                        f2 += 2 * Math.PI * (2200 - 1300 * Math.Clamp((t - 0.45) / 0.1, 0, 1)) / 16000;
                        return (float)(0.2 * Math.Sin(f0) + 0.1 * Math.Sin(f1) + 0.1 * Math.Sin(f2));
                    }),
            ],
            16000
        );
        double At(double decoded) => BoundaryRefiner.Refine([new("IY", 0.3, decoded), new("W", decoded, 0.7)], audio)[1].Start;
        var places = Enumerable.Range(0, 5).Select(i => At(0.48 + 0.01 * i)).ToArray();
        Assert.All(places, p => Assert.InRange(p, 0.45, 0.55));
        for (var i = 1; i < places.Length; i++)
            Assert.InRange(places[i] - places[i - 1], -0.003, 0.013);
    }

    [Fact]
    public void Refined_phones_keep_their_order_and_leave_no_gaps()
    {
        var random = new Random(2);
        var audio = TestData.Noise(6, 0.1f);
        for (var round = 0; round < 50; round++)
        {
            var phones = new List<PhoneSegment>();
            double at = 0;
            while (at < 5.9)
            {
                var end = Math.Min(6, at + 0.01 + 0.1 * random.NextDouble());
                phones.Add(new PhoneSegment(Arpabet.Phones[random.Next(39)], at, end));
                at = end;
            }
            var refined = BoundaryRefiner.Refine(phones, audio);
            Assert.Equal(phones.Select(p => p.Phone), refined.Select(p => p.Phone));
            for (var i = 0; i < refined.Count; i++)
            {
                Assert.True(refined[i].End > refined[i].Start);
                if (i > 0)
                    Assert.Equal(refined[i - 1].End, refined[i].Start, 9);
            }
        }
    }

    [Fact]
    public void Levels_alone_find_two_bursts_and_bridge_a_short_dip()
    {
        var levels = Enumerable.Repeat(-70f, 400).ToArray();
        Array.Fill(levels, -20f, 50, 60);
        Array.Fill(levels, -20f, 116, 40);
        Array.Fill(levels, -20f, 280, 60);
        var regions = VoiceActivity.FromLevels(levels);
        Assert.Equal(2, regions.Count);
        Assert.Equal(0.5, regions[0].Start, 0.05);
        Assert.Equal(1.56, regions[0].End, 0.08);
        Assert.Equal(2.8, regions[1].Start, 0.05);
    }

    [Fact]
    public void What_the_voice_model_does_not_hear_is_no_voice()
    {
        var levels = Enumerable.Repeat(-70f, 600).ToArray();
        Array.Fill(levels, -20f, 100, 100);
        Array.Fill(levels, -20f, 350, 100);
        var voice = new float[188];
        for (var i = (int)(3.5 / VoiceActivity.ModelStep); i < 4.5 / VoiceActivity.ModelStep; i++)
            voice[i] = 0.95f;
        var region = Assert.Single(VoiceActivity.FromLevelsAndModel(levels, voice));
        Assert.Equal(3.5, region.Start, 0.06);
        Assert.Equal(4.5, region.End, 0.1);
        Assert.Empty(VoiceActivity.FromLevelsAndModel(levels, new float[188]));
    }

    [Theory]
    [InlineData("Der Ofen ist heiß!", "Der|Ofen|ist|heiß")]
    [InlineData("n'est pas — prêt.", "n'est|pas|prêt")]
    [InlineData("炉子很热。", "炉|子|很|热")]
    [InlineData("パンはちょっと", "パン|は|ちょっ|と")]
    [InlineData("!? …", "")]
    public void Scripts_of_other_languages_are_cut_as_they_are_written(string script, string words) =>
        Assert.Equal(words, string.Join('|', ScriptText.PlainWords(script).Select(w => w.Text)));

    [Fact]
    public void Silence_around_a_voice_shifts_its_times_and_changes_little_else()
    {
        var audio = TestData.Raw("goforward.raw");
        var alone = TestData.Analyzer.Analyze(audio, "go forward ten meters");
        var padded = TestData.Analyzer.Analyze(new AudioBuffer([.. new float[8000], .. audio.Samples, .. new float[16000]], 16000), "go forward ten meters");
        foreach (var (a, b) in alone.Words.Zip(padded.Words))
        {
            Assert.Equal(a.Text, b.Text);
            Assert.Equal(a.Start + 0.5, b.Start, 0.035);
        }
    }

    [Fact]
    public void Features_put_through_a_linear_transform_are_brought_back()
    {
        // Frames drawn from the model's own Gaussians, then bent by a known matrix and offset: what comes back must lie near what was drawn,
        // and be likelier than the bent ones.
        var model = TestData.Model;
        var random = new Random(4);
        double Normal() => Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
        const int frames = 1500;
        float[] drawn = new float[frames * Features.Length],
            bent = new float[frames * Features.Length];
        var states = new List<(int, int)>();
        for (var t = 0; t < frames; t++)
        {
            // Context-dependent senones of phones, not of noises.
            var senone = 2000 + random.Next(3000);
            states.Add((t, senone));
            for (var f = 0; f < 3; f++)
            {
                var pick = random.NextDouble() * model.MixtureWeights.AsSpan((senone * 3 + f) * model.Densities, model.Densities).ToArray().Sum();
                var i = 0;
                while (i < model.Densities - 1 && (pick -= model.MixtureWeights[(senone * 3 + f) * model.Densities + i]) > 0)
                    i++;
                var at = (model.CodebookOfSenone[senone] * 3 + f) * 13 * model.Densities;
                for (var d = 0; d < 13; d++)
                {
                    var spread = Math.Sqrt(1 / (2 * model.HalfPrecisions[at + d * model.Densities + i]));
                    drawn[t * 39 + f * 13 + d] = (float)(model.Means[at + d * model.Densities + i] + spread * Normal());
                }
            }
            for (var f = 0; f < 3; f++)
            for (var d = 0; d < 13; d++)
            {
                var at = t * 39 + f * 13;
                bent[at + d] = 1.25f * drawn[at + d] + 0.15f * drawn[at + (d + 1) % 13] + (f == 0 ? 0.3f : 0);
            }
        }
        // As in an analysis: each round finds the Gaussians anew.
        var back = bent;
        for (var round = 0; round < 3; round++)
            back = SpeakerTransform.Adapt(model, back, states);
        double Distance(float[] x) => Math.Sqrt(x.Zip(drawn).Average(p => (p.First - p.Second) * (double)(p.First - p.Second)));
        var scorer = new SenoneScorer(model);
        double Likelihood(float[] x) =>
            states.Average(s =>
            {
                scorer.SetFrame(x.AsSpan(s.Item1 * 39, 39));
                return scorer.Score(s.Item2);
            });
        Assert.InRange(Distance(back) / Distance(bent), 0, 0.6);
        double lost = Likelihood(drawn) - Likelihood(bent),
            regained = Likelihood(back) - Likelihood(bent);
        Assert.True(lost > 1);
        // The prior draws towards no change: not all of it comes back.
        Assert.InRange(regained / lost, 0.8, 1.05);
    }

    [Fact]
    public void A_long_recording_is_aligned_from_end_to_end()
    {
        // Two minutes and more: the same readings over and over, so that every word's place is known from its first reading.
        var readings = TestData.Read().ToArray();
        var pieces = readings.Select(r => TestData.Wav(r.File)).ToArray();
        var samples = new List<float>();
        var text = "";
        for (var round = 0; round < 5; round++)
        for (var i = 0; i < readings.Length; i++)
        {
            samples.AddRange(pieces[i].Samples);
            text += readings[i].Text + " ";
        }
        var audio = new AudioBuffer([.. samples], 16000);
        var speech = TestData.Analyzer.Analyze(audio, text);
        Assert.Equal(text.Trim().Split(' '), speech.Words.Select(w => w.Text));
        SpeechTests.AssertWellFormed(speech, audio.Duration);
        var perRound = speech.Words.Count / 5;
        var length = pieces.Sum(p => p.Duration);
        for (var i = 0; i < perRound; i++)
            Assert.Equal(speech.Words[i + perRound].Start + length, speech.Words[i + 2 * perRound].Start, 0.06);
    }

    [Theory]
    [InlineData(SpeechSource.Script)]
    [InlineData(SpeechSource.Recognised)]
    [InlineData(SpeechSource.Phones)]
    public void A_better_fit_is_never_less_sure(SpeechSource source)
    {
        for (var i = 0; i < 100; i++)
        {
            float low = Calibration.Of(i / 100f, source, false),
                high = Calibration.Of((i + 1) / 100f, source, false);
            Assert.InRange(low, 0, high);
            Assert.InRange(high, low, 1);
            // Noise makes nothing surer.
            Assert.True(Calibration.Of(i / 100f, source, true) <= low + 1e-6f);
        }
    }

    [Fact]
    public void Where_the_script_lacks_a_word_the_others_keep_their_places_and_the_mouth_says_the_missing_one()
    {
        var audio = TestData.Raw("goforward.raw");
        var full = TestData.Analyzer.Analyze(audio, "go forward ten meters");
        foreach (var (script, gone) in new[] { ("go forward meters", 2), ("go forward elephant meters", 2), ("go forward ten elephant meters", -1) })
        {
            var heard = TestData.Analyzer.Analyze(audio, script);
            for (var i = 0; i < 4; i++)
            {
                if (i == gone)
                    continue;
                var same = heard.Words.Single(w => w.Text == full.Words[i].Text);
                if (i != gone + 1)
                    Assert.InRange(Math.Abs(same.Start - full.Words[i].Start), 0, 0.011);
                if (i != gone - 1)
                    Assert.InRange(Math.Abs(same.End - full.Words[i].End), 0, 0.011);
            }
            if (gone < 0)
                continue;
            // In place of "ten" there are sounds that nobody vouches for.
            var middle = (full.Words[gone].Start + full.Words[gone].End) / 2;
            Assert.DoesNotContain(heard.Words, w => w.Start < middle && w.End > middle && w.Confidence > 0.5);
            Assert.Contains(
                heard.Phones,
                p => !Arpabet.IsSilent(p.Phone) && p.Start >= full.Words[gone - 1].End - 0.05 && p.End <= full.Words[gone + 1].Start + 0.05
            );
        }
    }

    [Theory]
    [InlineData(2)]
    [InlineData(3)]
    [InlineData(4)]
    [InlineData(5)]
    public void Wrong_words_at_any_distance_from_each_other_break_nothing(int apart)
    {
        // Twice the same four words; the script has wrong ones in between, every so many.
        var one = TestData.Raw("goforward.raw");
        var audio = new Zamblo.Core.Audio.AudioBuffer([.. one.Samples, .. one.Samples, .. one.Samples], one.SampleRate);
        string[] said = ["go", "forward", "ten", "meters"];
        var script = string.Join(' ', Enumerable.Range(0, 12).SelectMany(i => i % apart == apart - 1 ? new[] { "elephant", said[i % 4] } : [said[i % 4]]));
        var heard = TestData.Analyzer.Analyze(audio, script);
        Assert.Equal(audio.Duration, heard.Phones[^1].End, 6);
        for (var i = 1; i < heard.Phones.Count; i++)
            Assert.Equal(heard.Phones[i - 1].End, heard.Phones[i].Start, 6);
        Assert.Equal(Enumerable.Range(0, 12).Select(i => said[i % 4]), heard.Words.Where(w => w.Text != "elephant").Select(w => w.Text));
        // And where every third word is missing from the script.
        heard = TestData.Analyzer.Analyze(audio, string.Join(' ', Enumerable.Range(0, 12).Where(i => i % apart != apart - 1).Select(i => said[i % 4])));
        Assert.Equal(audio.Duration, heard.Phones[^1].End, 6);
        for (var i = 1; i < heard.Phones.Count; i++)
            Assert.Equal(heard.Phones[i - 1].End, heard.Phones[i].Start, 6);
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    public void Lengths_are_judged_by_how_fast_somebody_talks(int seed)
    {
        var random = new Random(seed);
        List<PhoneSegment> phones = [];
        double at = 0;
        for (var i = 0; i < 400; i++)
        {
            // Vowels of about 100 ms, stops of about 50.
            var length = (i % 2 == 0 ? 0.1 : 0.05) * Math.Exp(0.3 * (random.NextDouble() + random.NextDouble() + random.NextDouble() - 1.5));
            phones.Add(new PhoneSegment(i % 2 == 0 ? "AA" : "T", at, at + length));
            at += length;
        }
        var durations = new PhoneDurations(PhoneDurations.Learn(phones));
        List<PhoneSegment> slow = [.. phones.Select(p => p with { Start = 1.5 * p.Start, End = 1.5 * p.End })];
        double[] usual = durations.Pace(phones),
            drawled = durations.Pace(slow);
        for (var i = 20; i < 380; i++)
        {
            // Thirteen phones and four of the usual pace.
            Assert.Equal(Math.Log(1.5) * 13 / 17, drawled[i] - usual[i], 0.03);
            // As odd as before, when everything around it is as slow.
            Assert.InRange(
                durations.Oddness(slow[i].Phone, slow[i].Duration, drawled[i]) - durations.Oddness(phones[i].Phone, phones[i].Duration, usual[i]),
                -2f,
                2f
            );
        }
        Assert.True(durations.Oddness("T", 0.05, 0) < 0.3f && durations.Oddness("T", 0.2, 0) > 4);
        Assert.Equal(0, durations.Oddness("ZH", 0.2, 0));
    }
}
