using Zamblo.Core.Audio;

namespace Zamblo.Core.Tests;

/// <summary>Cutting sounds together, against arithmetic on constant signals.</summary>
public sealed class SpliceTests
{
    private static AudioBuffer Level(float value, double seconds) => new([.. Enumerable.Repeat(value, (int)(seconds * 1000))], 1000);

    [Fact]
    public void An_insert_starts_and_ends_to_the_sample_and_seams_add_up_to_one()
    {
        var result = Splice.Insert(Level(0.5f, 2), Level(0.5f, 0.4), 0.7, 1.0);
        Assert.Equal(700 + 400 + 1000, result.Samples.Length);
        // Two sounds of the same level: no seam is to be seen at all.
        Assert.All(result.Samples, s => Assert.Equal(0.5f, s, 5));
        var other = Splice.Insert(Level(0.5f, 2), Level(-1, 0.4), 0.7, 1.0).Samples;
        Assert.Equal(0.5f, other[699]);
        Assert.All(other[710..1090], s => Assert.Equal(-1, s));
        Assert.Equal(0.5f, other[1100]);
        for (var i = 700; i < 710; i++)
            Assert.True(other[i] < other[i - 1] && Math.Abs(other[i] - other[i - 1]) < 0.2);
    }

    [Fact]
    public void An_insert_to_the_end_is_the_end()
    {
        var result = Splice.Insert(Level(0.5f, 2), Level(0.25f, 3), 1.5, 2);
        Assert.Equal(4.5, result.Duration, 9);
        Assert.Equal(0.25f, result.Samples[^1]);
    }

    [Fact]
    public void Sounds_laid_along_a_line_add_up_where_they_overlap_and_silence_lies_between()
    {
        var both = Mixer.Mix([new(Level(0.2f, 1), 0), new(Level(0.3f, 1), 0.5)], 1.5, 1000).Samples;
        Assert.Equal((1500, 0.2f, 0.5f, 0.3f), (both.Length, both[250], both[750], both[1250]));
        var apart = Mixer.Mix([new(Level(0.2f, 1), 0), new(Level(0.3f, 1), 1.5)], 2.5, 1000).Samples;
        Assert.Equal((2500, 0f, 0.3f), (apart.Length, apart[1200], apart[2000]));
        Assert.Throws<ArgumentException>(() => Splice.Insert(Level(0, 1), new AudioBuffer(new float[10], 8000), 0, 1));
    }
}
