using FsCheck.Xunit;
using Zamblo.Core.Audio;

namespace Zamblo.Core.Tests;

public class LimiterTests
{
    private const int Rate = 48000;

    [Property(MaxTest = 40)]
    public void Whatever_comes_in_nothing_is_over_the_limit_and_what_is_far_from_a_peak_is_as_it_was(int seed)
    {
        var random = new Random(seed);
        var samples = new float[20_000];
        for (var i = 0; i < samples.Length; i++)
            samples[i] = 0.4f * (2 * random.NextSingle() - 1);
        var peaks = Enumerable.Range(0, 4).Select(_ => random.Next(samples.Length)).ToArray();
        foreach (var p in peaks)
            samples[p] = random.Next(2) == 0 ? 3 : -3;
        var before = samples.ToArray();
        Limiter.Apply(samples, Rate, 2, 0.84);
        for (var i = 0; i < samples.Length; i++)
        {
            Assert.InRange(Math.Abs(samples[i]), 0, 0.84f + 1e-5f);
            // 5 ms to both sides, for the least and for the mean of it.
            if (peaks.All(p => Math.Abs(p - i) > 2 * 0.005 * Rate + 1))
                Assert.Equal(2 * before[i], samples[i], 5);
        }
    }

    [Fact]
    public void A_tone_that_is_too_loud_stays_a_tone()
    {
        // Clipped it would have a third harmonic of about a fifth (Fourier series of a clipped sine); limited it has next to none.
        var samples = new float[Rate];
        for (var i = 0; i < samples.Length; i++)
            samples[i] = (float)Math.Sin(2 * Math.PI * 440 * i / Rate);
        Limiter.Apply(samples, Rate, 2, 0.84);
        double Harmonic(int n)
        {
            double re = 0,
                im = 0;
            for (var i = 4800; i < 43_200; i++)
            {
                re += samples[i] * Math.Cos(2 * Math.PI * 440 * n * i / Rate);
                im += samples[i] * Math.Sin(2 * Math.PI * 440 * n * i / Rate);
            }
            return Math.Sqrt(re * re + im * im);
        }
        Assert.InRange(Harmonic(3) / Harmonic(1), 0, 0.01);
        Limiter.Apply([], Rate, 2, 0.84);
    }
}
