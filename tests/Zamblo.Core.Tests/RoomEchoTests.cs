using Xunit.Abstractions;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>People reading in made rooms (noise that decays by 60 dB in the reverberation time; Polack 1988) are heard as they were without.</summary>
public class RoomEchoTests(ITestOutputHelper output)
{
    private static AudioBuffer InRoom(AudioBuffer audio, double rt60, double directDb = -2)
    {
        var random = new Random(7);
        var echo = new double[(int)(rt60 * 16000)];
        for (var i = 40; i < echo.Length; i++)
            echo[i] = (random.NextDouble() + random.NextDouble() + random.NextDouble() - 1.5) * Math.Pow(10, -3.0 * i / echo.Length);
        var gain = Math.Sqrt(Math.Pow(10, -directDb / 10) / echo.Sum(e => e * e));
        float[] response = [.. echo.Select(e => (float)(gain * e))];
        response[0] = 1;
        var size = (int)System.Numerics.BitOperations.RoundUpToPowerOf2((uint)(audio.Samples.Length + response.Length));
        var fft = new RealFft(size);
        Complex32[] x = new Complex32[size / 2 + 1],
            h = new Complex32[size / 2 + 1];
        fft.Spectrum(audio.Samples, x);
        fft.Spectrum(response, h);
        for (var k = 0; k < x.Length; k++)
            x[k] = new Complex32(x[k].Re * h[k].Re - x[k].Im * h[k].Im, x[k].Re * h[k].Im + x[k].Im * h[k].Re);
        var wet = new float[size];
        fft.Inverse(x, wet);
        return new AudioBuffer(wet[..audio.Samples.Length], 16000);
    }

    [Theory]
    [InlineData(4)]
    [InlineData(8)]
    [InlineData(512)]
    public void A_spectrum_goes_back_to_its_samples_and_is_the_sum_that_defines_it(int size)
    {
        var random = new Random(size);
        float[] samples = [.. Enumerable.Range(0, size).Select(_ => random.NextSingle() - 0.5f)];
        var (bins, back) = (new Complex32[size / 2 + 1], new float[size]);
        var fft = new RealFft(size);
        fft.Spectrum(samples, bins);
        fft.Inverse(bins, back);
        Assert.All(samples.Zip(back), p => Assert.Equal(p.First, p.Second, 1e-5f));
        for (var k = 0; k <= size / 2; k++)
        {
            var sum = System.Numerics.Complex.Zero;
            for (var i = 0; i < size; i++)
                sum += samples[i] * System.Numerics.Complex.FromPolarCoordinates(1, -2 * Math.PI * i * k / size);
            Assert.Equal(sum.Real, bins[k].Re, 1e-3);
            Assert.Equal(sum.Imaginary, bins[k].Im, 1e-3);
        }
        var power = new float[size / 2 + 1];
        fft.PowerSpectrum(samples, power);
        Assert.All(power.Zip(bins), p => Assert.Equal(p.First, p.Second.Power, 1e-2f));
    }

    [Fact]
    public void A_room_is_told_from_none_and_from_noise()
    {
        var read = TestData.Wav(TestData.Read().First().File);
        Assert.Null(RoomEcho.OfRoom(read));
        Assert.Null(RoomEcho.OfRoom(TestData.Noise(5, 0.1f)));
        Assert.Null(RoomEcho.OfRoom(new AudioBuffer(new float[16000], 16000)));
        Assert.Null(RoomEcho.OfRoom(new AudioBuffer([], 16000)));
        var noise = TestData.Noise(read.Duration, 0.03f).Samples;
        Assert.Null(RoomEcho.OfRoom(new AudioBuffer([.. read.Samples.Zip(noise, (a, b) => a + b)], 16000)));
        var (small, large) = (RoomEcho.OfRoom(InRoom(read, 0.6)), RoomEcho.OfRoom(InRoom(read, 1.2)));
        output.WriteLine($"0.6 s is taken for {small:0.00}, 1.2 s for {large:0.00}");
        Assert.NotNull(small);
        Assert.True(large > small);
    }

    [Fact]
    public void What_is_taken_away_is_the_echo()
    {
        // Bursts of noise, a fifth of a second each: what comes after them goes, they stay.
        var bursts = new AudioBuffer([.. TestData.Noise(4, 0.3f).Samples.Select((s, i) => i / 3200 % 4 == 0 ? s : 0)], 16000);
        var wet = InRoom(bursts, 0.6);
        var dry = RoomEcho.Lessened(wet, 0.6);
        Assert.Equal(wet.Samples.Length, dry.Samples.Length);
        // A tenth of a second after each, and within.
        static double Level(AudioBuffer of, double from, double to) =>
            10
            * Math.Log10(
                Enumerable.Range(1, 4).Average(b => of.Samples[(int)((0.8 * b + from) * 16000)..(int)((0.8 * b + to) * 16000)].Average(s => (double)s * s))
            );
        var (after, within) = (Level(wet, 0.3, 0.4) - Level(dry, 0.3, 0.4), Level(wet, 0.05, 0.2) - Level(dry, 0.05, 0.2));
        output.WriteLine($"{after:0.0} dB less after a burst, {within:0.0} dB within");
        Assert.True(after > 8 && after > within + 3);
        Assert.InRange(within, -1, 7);
        // The same again, whatever the machine has to do besides.
        Assert.Equal(dry.Samples, RoomEcho.Lessened(wet, 0.6).Samples);
        Assert.All(RoomEcho.Lessened(new AudioBuffer(new float[5000], 16000), 0.6).Samples, s => Assert.Equal(0, s));
        Assert.Throws<OperationCanceledException>(() => RoomEcho.Lessened(wet, 0.6, new CancellationToken(true)));
    }

    [Fact]
    public void In_a_room_boundaries_stay_where_they_are_without_it()
    {
        var (late, off, n) = (0.0, 0.0, 0);
        foreach (var (file, text) in TestData.Read().Take(2))
        {
            var read = TestData.Wav(file);
            var truth = TestData.Analyzer.Analyze(read, text);
            var heard = TestData.Analyzer.Analyze(InRoom(read, 0.6), text);
            Assert.Equal(truth.Words.Select(w => w.Text), heard.Words.Select(w => w.Text));
            foreach (var (a, b) in truth.Words.Zip(heard.Words))
            {
                late += b.Start - a.Start + b.End - a.End;
                off += Math.Abs(b.Start - a.Start) + Math.Abs(b.End - a.End);
                n += 2;
            }
            // A word that is changed is heard in the same room.
            var again = TestData.Analyzer.Realign(InRoom(read, 0.6), heard, TestData.Analyzer.Request(text.Replace(text.Split(' ')[1], "river")));
            Assert.Equal(heard.Words.Count, again.Words.Count);
        }
        output.WriteLine($"late by {1000 * late / n:0.0} ms, off by {1000 * off / n:0.0} ms");
        Assert.InRange(1000 * late / n, -6, 12);
        Assert.True(1000 * off / n < 22);
    }
}
