using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

public class ProsodyTests
{
    // A glottal train: harmonics that fall by 12 dB an octave, whose frequency follows a function of time.
    private static AudioBuffer Voice(double seconds, Func<double, double> hz, int rate = 16000)
    {
        var samples = new float[(int)(seconds * rate)];
        double phase = 0;
        for (var i = 0; i < samples.Length; i++)
        {
            var f = hz((double)i / rate);
            phase += f / rate;
            if (f > 0)
                for (var k = 1; k <= 20 && k * f < rate / 2.2; k++)
                    samples[i] += (float)(0.2 / k / k * Math.Sin(2 * Math.PI * k * phase));
        }
        return new AudioBuffer(samples, rate);
    }

    [Theory]
    [InlineData(80)]
    [InlineData(120)]
    [InlineData(220)]
    [InlineData(410)]
    public void The_pitch_of_a_steady_voice_is_its_frequency(double hz)
    {
        foreach (var rate in (int[])[8000, 16000, 22050, 48000])
        {
            var pitch = PitchTracker.Track(Voice(1, _ => hz, rate));
            Assert.Equal(100, pitch.Length);
            for (var i = 5; i < 95; i++)
                Assert.Equal(1, pitch[i] / hz, 0.01);
        }
    }

    [Fact]
    public void A_glide_is_followed_and_noise_and_silence_have_no_pitch()
    {
        var pitch = PitchTracker.Track(Voice(2, t => 100 * Math.Pow(2, t / 2)));
        for (var i = 10; i < 190; i++)
            Assert.Equal(1, pitch[i] / (100 * Math.Pow(2, (i / 100.0 + 0.005) / 2)), 0.015);
        Assert.True(PitchTracker.Track(TestData.Noise(1, 0.3f)).Count(p => p > 0) < 8);
        Assert.All(PitchTracker.Track(new AudioBuffer(new float[8000], 16000)), p => Assert.Equal(0, p));
        Assert.Empty(PitchTracker.Track(new AudioBuffer([], 16000)));
        Assert.All(PitchTracker.Track(new AudioBuffer([.. Enumerable.Repeat(float.NaN, 4000)], 16000)), p => Assert.Equal(0, p));
    }

    private static SpeechAnalysis Say(float[] pitch, params (string Phone, double Length)[] phones) => MouthTests.Say(phones) with { PitchHz = pitch };

    [Fact]
    public void A_higher_pitch_makes_a_syllable_stand_out_that_is_neither_louder_nor_longer()
    {
        var phones = Enumerable.Range(0, 12).Select(i => (i % 2 == 0 ? "T" : "AA", 0.12)).ToArray();
        var pitch = Enumerable.Repeat(110f, 144).ToArray();
        Array.Fill(pitch, 147f, 84, 12);
        var accent = Assert.Single(Prosody.Of(Say(pitch, phones)).Accents);
        Assert.Equal(0.9, accent.Nucleus, 0.01);
        Assert.Empty(Prosody.Of(Say([.. Enumerable.Repeat(110f, 144)], phones)).Accents);
    }

    [Theory]
    [InlineData(5, true)]
    [InlineData(0, false)]
    [InlineData(-4, false)]
    public void A_phrase_that_ends_high_is_a_question(float semitones, bool rises)
    {
        var pitch = Enumerable
            .Range(0, 160)
            .Select(i =>
                i < 110 ? 120f
                : i > 150 ? 0
                : 120f * MathF.Pow(2, semitones / 12 * Math.Min(1, (i - 110) / 25f))
            )
            .ToArray();
        var prosody = Prosody.Of(Say(pitch, ("M", 0.3), ("AA", 1.21), ("SIL", 0.3), ("M", 0.2), ("AA", 0.3)));
        Assert.Equal(2, prosody.Phrases.Count);
        Assert.Equal(rises, prosody.Phrases[0].IsRising);
        Assert.Equal(semitones, prosody.Phrases[0].Rise, 1.2f);
    }

    [Fact]
    public void Capitals_and_the_weight_of_words_count()
    {
        var phones = new[] { ("DH", 0.1), ("AH", 0.12), ("B", 0.1), ("AH", 0.12), ("DH", 0.1), ("AH", 0.12) };
        var speech = MouthTests.Say(phones) with { Words = [new("the", 0, 0.22), new("BUN", 0.22, 0.44), new("the", 0.44, 0.66)] };
        var accent = Assert.Single(Prosody.Of(speech).Accents);
        Assert.Equal(0.38, accent.Nucleus, 0.01);
    }

    [Fact]
    public void Syllables_are_in_order_do_not_overlap_and_have_one_vowel_each()
    {
        foreach (var (file, text) in TestData.Read().Take(3))
        {
            var speech = TestData.Analyzer.Analyze(TestData.Wav(file), text);
            var prosody = Prosody.Of(speech);
            Assert.Equal(speech.Phones.Count(p => Arpabet.Vowels.Contains(p.Phone)), prosody.Syllables.Count);
            double at = 0;
            foreach (var s in prosody.Syllables)
            {
                Assert.True(s.Start >= at - 1e-9 && s.Nucleus > s.Start && s.End > s.Nucleus);
                at = s.End;
            }
            // People accent between a sixth and a half of their syllables (common practice).
            Assert.InRange((double)prosody.Accents.Count() / prosody.Syllables.Count, 0.12, 0.5);
        }
    }
}
