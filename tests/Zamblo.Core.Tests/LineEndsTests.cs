using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Tests;

/// <summary>How the mouth comes into a line and out of it, and what it is in between.</summary>
public class LineEndsTests
{
    private static readonly FrameRate Fine = new(100);

    private static Pose[] Say(MouthDials dials, float corners = 0, double start = 1) =>
        new Performer(
            new Part
            {
                // Cut close: it begins and ends in the middle of a vowel.
                Lines = [new PlacedSpeech(MouthTests.Say(("AA", 0.4), ("T", 0.1), ("AA", 0.4)), start, dials)],
                RestCorners = corners,
            },
            6
        ).Evaluate(Fine, 0, 500);

    [Theory]
    [InlineData(0.06, 0.1)]
    [InlineData(0.09, 0.18)]
    [InlineData(0.25, 0.5)]
    public void A_line_that_is_cut_close_opens_and_shuts_in_the_time_that_is_set_and_never_with_a_jump(double attack, double release)
    {
        var dials = new MouthDials
        {
            Attack = attack,
            Release = release,
            Lead = 0,
        };
        var open = Say(dials).Select(p => p.Mouth.Openness).ToArray();
        var most = open.Max();
        Assert.True(most > 0.3f);
        var first = Array.FindIndex(open, o => o > 0.01f * most);
        var last = Array.FindLastIndex(open, o => o > 0.01f * most);
        Assert.InRange(first / 100.0, 1 - attack - 0.011, 1.011);
        Assert.InRange(last / 100.0, 1.89, 1.9 + release + 0.011);
        // In 10 ms never more than twice what an even way would take.
        for (var i = 1; i < open.Length; i++)
            Assert.InRange(Math.Abs(open[i] - open[i - 1]), 0, most * 2.5f * 0.01f / (float)Math.Min(attack, 0.09));
        // Slower is slower.
        Assert.True(Array.FindLastIndex(open, o => o > 0.5f * most) / 100.0 < 1.9 + 0.75 * release);
    }

    [Fact]
    public void Corners_rest_where_they_are_set_and_are_the_words_own_while_something_is_said()
    {
        var dials = new MouthDials();
        var plain = Say(dials);
        var glad = Say(dials, 0.6f);
        for (var i = 0; i < plain.Length; i++)
        {
            var by = glad[i].Mouth[MouthChannel.CornerLeft] - plain[i].Mouth[MouthChannel.CornerLeft];
            if (i is < 50 or > 250)
                Assert.Equal(0.6f, by, 3);
            else if (i is > 95 and < 195)
                Assert.InRange(by, 0, 0.05f);
            Assert.Equal(plain[i].Mouth.Openness, glad[i].Mouth.Openness, 4);
        }
    }

    [Fact]
    public void Of_two_lines_that_touch_the_end_of_one_does_not_shut_the_other()
    {
        var say = MouthTests.Say(("AA", 0.5));
        var one = new PlacedSpeech(say, 1, new MouthDials());
        var poses = new Performer(new Part { Lines = [one, one.At(1.5)] }, 6).Evaluate(Fine, 0, 300);
        var whole = new Performer(new Part { Lines = [new PlacedSpeech(MouthTests.Say(("AA", 1.0)), 1, new MouthDials())] }, 6).Evaluate(Fine, 0, 300);
        // Within the second vowel it is as open as in one long vowel, and at the seam it never shuts.
        Assert.True(Enumerable.Range(110, 80).Min(i => poses[i].Mouth.Openness) > 0.25f * whole[150].Mouth.Openness);
    }
}
