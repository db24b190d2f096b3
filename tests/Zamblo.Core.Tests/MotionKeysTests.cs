using Zamblo.Core.Performance;

namespace Zamblo.Core.Tests;

/// <summary>Keys of what was performed, and what a pointer performs.</summary>
public class MotionKeysTests
{
    [Fact]
    public void Samples_closer_than_is_seen_are_one_so_that_any_list_is_smoothed_in_one_go()
    {
        // As from a device gone wild: 20,000 points within a second.
        double[][] samples = [.. Enumerable.Range(0, 20_000).Select(i => new[] { i / 20_000.0, Math.Sin(2 * i / 20_000.0) + 0.05 * (i % 2) })];
        var smooth = MotionKeys.Smooth(samples, 0.1);
        Assert.InRange(smooth.Length, 100, 200);
        Assert.Equal(samples[0][1], smooth[0][1], 9);
        Assert.Equal(samples[^1][1], smooth[^1][1], 9);
        Assert.All(smooth[10..^10], s => Assert.InRange(s[1] - Math.Sin(2 * s[0]), -0.1, 0.1));
    }

    [Theory]
    [InlineData(7)]
    [InlineData(3000)]
    public void Keys_are_never_further_from_the_samples_than_the_tolerance(int count)
    {
        var random = new Random(count);
        double value = 0;
        double[][] samples = [.. Enumerable.Range(0, count).Select(i => new[] { i / 60.0, value += random.NextDouble() - 0.5 })];
        var keys = MotionKeys.Reduce(samples, 0.4);
        Assert.All(samples, s => Assert.InRange(Keys.At(keys, s[0]) - s[1], -0.4, 0.4));
        Assert.True(keys.Length < samples.Length);
        Assert.Equal(keys.OrderBy(k => k[0]), keys);
    }

    [Fact]
    public void A_pointer_in_the_middle_leaves_a_part_at_rest_and_each_side_mirrors_the_other()
    {
        foreach (var part in PointerParts.All)
        {
            Assert.Same(part, PointerParts.Find(part.Key));
            Assert.All(part.Values(0, 0, 0), v => Assert.Equal(0, v.Value));
            // All but the lids, whose sideways way is one of its own.
            if (part.Key == "lids")
                continue;
            foreach (var (a, b) in part.Values(0.7f, 0, 0.5f).Zip(part.Values(-0.7f, 0, -0.5f)))
                Assert.Equal(a.Value, -b.Value, 5);
        }
        Assert.Null(PointerParts.Find("tail"));
    }
}
