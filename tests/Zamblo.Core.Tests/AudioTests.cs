using FsCheck.Xunit;
using Zamblo.Core.Audio;

namespace Zamblo.Core.Tests;

public class AudioTests
{
    [Fact]
    public void Cepstra_equal_those_of_the_reference_front_end()
    {
        // goforward.mfc in Debian's pocketsphinx-testdata: made by libpocketsphinx from goforward.raw with the US-English model's feat.params.
        var bytes = File.ReadAllBytes(TestData.Folder + "goforward.mfc");
        var expected = Enumerable.Range(0, BitConverter.ToInt32(bytes)).Select(i => BitConverter.ToSingle(bytes, 4 + 4 * i)).ToArray();
        var cepstra = new CepstralFrontEnd(TestData.Model.FrontEnd).Compute(TestData.Raw("goforward.raw").Samples);
        Assert.Equal(13 * 264, expected.Length);
        for (var i = 0; i < expected.Length; i++)
            Assert.InRange(cepstra[i] - expected[i], -0.02f, 0.02f);
    }

    [Theory]
    [InlineData(8)]
    [InlineData(64)]
    [InlineData(512)]
    public void The_power_spectrum_equals_the_definition(int size)
    {
        var random = new Random(3);
        var x = Enumerable.Range(0, size).Select(_ => (float)random.NextDouble() - 0.5f).ToArray();
        var power = new float[size / 2 + 1];
        new RealFft(size).PowerSpectrum(x, power);
        for (var k = 0; k <= size / 2; k++)
        {
            var sum = System.Numerics.Complex.Zero;
            for (var n = 0; n < size; n++)
                sum += x[n] * System.Numerics.Complex.Exp(new(0, -2 * Math.PI * k * n / size));
            Assert.Equal(sum.Magnitude * sum.Magnitude, power[k], 2);
        }
    }

    [Fact]
    public void The_mel_scale_passes_through_its_fixed_point()
    {
        // 1000 Hz is 1000 mel by the scale's definition (Stevens, Volkmann and Newman 1937; formula of O'Shaughnessy 1987).
        Assert.Equal(1000, MelFilterBank.Mel(1000), 0.1);
        Assert.Equal(440, MelFilterBank.Hz(MelFilterBank.Mel(440)), 1e-9);
    }

    [Property]
    public bool What_is_written_to_a_WAVE_file_is_read_back(short[] samples, bool stereo)
    {
        samples ??= [];
        var channel = samples.Select(s => s / 32767f).ToArray();
        using var stream = new MemoryStream();
        WavFile.Write(stream, stereo ? [channel, channel] : [channel], 22050);
        stream.Position = 0;
        var read = WavFile.ReadMono(stream);
        return read.SampleRate == 22050 && read.Samples.Length == channel.Length && read.Samples.Zip(channel).All(p => Math.Abs(p.First - p.Second) < 1e-4);
    }

    [Fact]
    public void A_WAVE_file_that_is_none_or_cut_short_is_refused()
    {
        Assert.Throws<InvalidDataException>(() => WavFile.ReadMono(new MemoryStream("once upon a time in a bakery"u8.ToArray())));
        Assert.Throws<InvalidDataException>(() => WavFile.ReadMono(new MemoryStream("RIFF\0\0\0\0WAVEfm"u8.ToArray())));
        Assert.Throws<InvalidDataException>(() => WavFile.ReadMono(new MemoryStream()));
    }

    [Fact]
    public void The_level_of_a_full_sine_is_three_decibels_under_full_scale()
    {
        // The root mean square of a sine is its peak over the square root of two: -3.01 dB.
        var sine = new AudioBuffer([.. Enumerable.Range(0, 16000).Select(i => MathF.Sin(2 * MathF.PI * 1000 * i / 16000))], 16000);
        var levels = LoudnessEnvelope.LevelsDb(sine);
        Assert.Equal(100, levels.Length);
        for (var i = 5; i < 95; i++)
            Assert.Equal(-3.01, levels[i], 0.05);
        Assert.All(LoudnessEnvelope.LevelsDb(new AudioBuffer(new float[1600], 16000)), l => Assert.Equal(LoudnessEnvelope.SilenceDb, l));
    }

    [Fact]
    public void A_mix_is_the_sum_at_the_right_places_and_never_clips()
    {
        var click = new AudioBuffer([0.5f], 100);
        var mix = Mixer.Mix([new(click, 0.1), new(click, 0.1), new(click, 0.5, 0.5f), new(click, -1), new(click, 9)], 1, 100);
        Assert.Equal(100, mix.Samples.Length);
        Assert.Equal(0.98f, mix.Samples[10], 3);
        // Only around the peak is anything turned down.
        Assert.Equal(0.25f, mix.Samples[50], 5);
        Assert.Equal(2, mix.Samples.Count(s => s != 0));
    }

    [Fact]
    public void A_part_of_a_mix_is_the_same_to_the_last_bit_and_no_peak_comes_over_the_ceiling()
    {
        const int rate = 8000;
        Mixer.Placed[] sounds =
        [
            .. Enumerable.Range(0, 12).Select(i => new Mixer.Placed(TestData.Noise(0.5, 0.25f + 0.05f * i) with { SampleRate = rate }, 0.31 * i - 0.2)),
        ];
        var whole = Mixer.Mix(sounds, 4, rate).Samples;
        Assert.True(whole.Max(Math.Abs) <= Mixer.Ceiling + 1e-6 && whole.Max(Math.Abs) > 0.9);
        foreach (var (from, to) in ((double, double)[])[(0, 1), (1, 2.5), (1.234, 1.3), (3.5, 4)])
            Assert.Equal(whole[(int)Math.Round(from * rate)..(int)Math.Round(to * rate)], Mixer.MixPart(sounds, from, to, rate).Samples);
        // Where nothing would clip, nothing is changed.
        var soft = TestData.Noise(1, 0.1f).Samples;
        var kept = soft.ToArray();
        Mixer.Limit(kept, rate);
        Assert.Equal(soft, kept);
    }

    [Fact]
    public void Samples_that_are_no_numbers_do_not_spread()
    {
        var audio = TestData.Noise(0.5, 0.1f);
        audio.Samples[4000] = float.NaN;
        audio.Samples[4001] = float.PositiveInfinity;
        Assert.All(new CepstralFrontEnd(new CepstralOptions { SuppressNoise = true }).Compute(audio.Samples), c => Assert.True(float.IsFinite(c)));
        Assert.All(LoudnessEnvelope.LevelsDb(audio), l => Assert.True(float.IsFinite(l)));
    }
}
