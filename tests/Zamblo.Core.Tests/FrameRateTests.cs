using FsCheck.Xunit;

namespace Zamblo.Core.Tests;

public class FrameRateTests
{
    [Theory]
    [InlineData("25", 25, 1)]
    [InlineData("23.976", 24000, 1001)]
    [InlineData("29.97", 30000, 1001)]
    [InlineData("30000/1001", 30000, 1001)]
    [InlineData("60", 60, 1)]
    public void Rates_are_read_as_people_write_them(string text, int numerator, int denominator) =>
        Assert.Equal(new FrameRate(numerator, denominator), FrameRate.Parse(text));

    [Theory]
    [InlineData("0")]
    [InlineData("-25")]
    [InlineData("fast")]
    [InlineData("1000")]
    [InlineData("25/0")]
    public void Nonsense_is_refused_with_a_sentence(string text) => Assert.EndsWith(".", Assert.Throws<FormatException>(() => FrameRate.Parse(text)).Message);

    [Property]
    public bool The_frame_at_its_own_start_is_itself(ushort frame)
    {
        foreach (var rate in new[] { new FrameRate(24), new FrameRate(25), new FrameRate(30000, 1001), new FrameRate(60) })
            if (rate.FrameAt(rate.TimeOf(frame)) != frame || rate.FramesFor(rate.TimeOf(frame)) != frame)
                return false;
        return true;
    }

    [Fact]
    public void An_hour_at_the_NTSC_rate_has_the_frames_that_SMPTE_counts() =>
        // SMPTE ST 12-1: 107 892 frames are one hour of drop-frame time code, 3599.9964 s.
        Assert.Equal(107892, new FrameRate(30000, 1001).FrameAt(3599.9964001));
}
