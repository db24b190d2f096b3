using Zamblo.Core.Audio;

namespace Zamblo.Core.Tests;

/// <summary>Signals and tolerances of EBU Tech 3341 ("Loudness metering: EBU mode"), tests 1 to 5 and 15 to 19; from memory.</summary>
public class LoudnessTests
{
    private const int Rate = 48000;

    private static float[] Sines(params (double Db, double Seconds)[] parts)
    {
        var samples = new List<float>();
        foreach (var (db, seconds) in parts)
        {
            var amplitude = Math.Pow(10, db / 20);
            for (var i = 0; i < (int)(seconds * Rate); i++)
                samples.Add((float)(amplitude * Math.Sin(2 * Math.PI * 1000 * samples.Count / Rate)));
        }
        return [.. samples];
    }

    public static TheoryData<double, (double, double)[]> Signals =>
        new()
        {
            { -23, [(-23, 20)] },
            { -33, [(-33, 20)] },
            { -23, [(-36, 10), (-23, 60), (-36, 10)] },
            { -23, [(-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)] },
            { -23, [(-26, 20), (-20, 20.1), (-26, 20)] },
        };

    [Theory]
    [MemberData(nameof(Signals))]
    public void Integrated_loudness_is_within_a_tenth_of_a_unit(double lufs, (double, double)[] parts)
    {
        var channel = Sines(parts);
        Assert.Equal(lufs, Loudness.Integrated([channel, channel], Rate), 0.1);
    }

    [Theory]
    [InlineData(4, 0, 0.5, -6)]
    [InlineData(4, 45, 0.5, -6)]
    [InlineData(6, 60, 0.5, -6)]
    [InlineData(8, 67.5, 0.5, -6)]
    [InlineData(4, 45, 1.41, 3)]
    public void True_peaks_lie_between_samples(int divisor, double degrees, double amplitude, double expected)
    {
        var samples = Enumerable.Range(0, Rate / 10).Select(i => (float)(amplitude * Math.Sin(2 * Math.PI * i / divisor + degrees * Math.PI / 180))).ToArray();
        // Tolerance of Tech 3341: +0.2, -0.4 dB. The ends are faded, as a step is no sine.
        for (var i = 0; i < 480; i++)
        {
            samples[i] *= i / 480f;
            samples[^(i + 1)] *= i / 480f;
        }
        Assert.InRange(Loudness.TruePeakDb(samples), expected - 0.4, expected + 0.2);
    }

    [Fact]
    public void Other_rates_and_short_sounds_are_measured_too()
    {
        var sine = Enumerable.Range(0, 44100 * 5).Select(i => (float)(0.1 * Math.Sin(2 * Math.PI * 1000 * i / 44100))).ToArray();
        // One channel has half the power of two: -20 dBFS peak is -23.0 LUFS + 0 in one channel (BS.1770: -3.01 dB for a full-scale sine at 1 kHz).
        Assert.Equal(-23.0, Loudness.Integrated([sine], 44100), 0.1);
        Assert.Equal(-23.0, Loudness.Integrated([sine[..8820]], 44100), 1.0);
        Assert.Equal(Loudness.Silence, Loudness.Integrated([new float[4800]], 48000));
        Assert.Equal(
            Loudness.Silence,
            Loudness.Integrated(
                [
                    [],
                ],
                48000
            )
        );
    }
}
