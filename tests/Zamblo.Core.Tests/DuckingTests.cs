using Zamblo.Core.Audio;

namespace Zamblo.Core.Tests;

/// <summary>Music gives way to speech.</summary>
public class DuckingTests
{
    private const int Rate = 1000;

    private static float[] Gains(double seconds, double db, params (double Start, double End)[] speech)
    {
        var samples = new float[(int)(seconds * Rate)];
        Array.Fill(samples, 1f);
        Ducking.Apply(samples, Rate, speech, db);
        return samples;
    }

    [Fact]
    public void It_is_down_from_the_first_word_to_the_last_and_as_it_was_elsewhere()
    {
        // 10 dB down is a factor of 10^(-10/20) = 0.3162.
        var gains = Gains(10, 10, (3, 4), (5, 6));
        Assert.All(gains[3000..6000], g => Assert.Equal(0.3162, g, 0.0001));
        Assert.All(gains[..2749], g => Assert.Equal(1, g));
        Assert.All(gains[6610..], g => Assert.Equal(1, g));
        // Half way down, in decibels, half way through the ramp.
        Assert.Equal(Math.Pow(10, -5 / 20.0), gains[2875], 0.002);
        Assert.Equal(Math.Pow(10, -5 / 20.0), gains[6300], 0.002);
    }

    [Fact]
    public void A_long_pause_lets_it_up_again_and_no_step_is_heard()
    {
        var gains = Gains(12, 20, (8, 9), (1, 2), (-5, 0.2), (11.5, 40));
        Assert.Equal(1, gains[5000]);
        for (var i = 1; i < gains.Length; i++)
            Assert.InRange(Math.Abs(gains[i] - gains[i - 1]), 0, 0.011f);
        Assert.Equal(gains, Gains(12, 20, (11.5, 40), (-5, 0.2), (1, 2), (1.2, 1.8), (8, 9)));
        Assert.All(Gains(2, 0, (0, 2)), g => Assert.Equal(1, g));
    }
}
