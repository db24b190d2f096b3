using Zamblo.Core.Dialogue;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Lines found in a recording of a whole scene.</summary>
public class ReadThroughTests
{
    private static string[] Words(string text) => text.Split(' ');

    // A word every 0.4 s, 0.3 s long, from a moment on.
    private static IEnumerable<WordSegment> Said(string text, double from) =>
        Words(text).Select((w, i) => new WordSegment(w, from + (0.4 * i), from + (0.4 * i) + 0.3));

    [Fact]
    public void Every_line_gets_its_own_part_with_air_and_half_of_the_gap()
    {
        WordSegment[] heard = [.. Said("the oven is hot", 1), .. Said("i know", 2.6), .. Said("good", 5)];
        var found = ReadThrough.Find([Words("The oven is hot."), Words("I know!"), Words("Good.")], heard, 8);
        Assert.Equal(new ReadLine(0.88, 2.55, 1, 2.5), Rounded(found[0]));
        Assert.Equal(new ReadLine(2.55, 3.5, 2.6, 3.3), Rounded(found[1]));
        Assert.Equal(new ReadLine(4.88, 5.5, 5, 5.3), Rounded(found[2]));
    }

    [Fact]
    public void A_line_that_was_left_out_is_missing_and_a_word_that_was_dropped_does_no_harm()
    {
        WordSegment[] heard = [.. Said("oven is hot", 1), .. Said("um", 3), .. Said("good", 5)];
        var found = ReadThrough.Find([Words("The oven is hot."), Words("I know, I know."), Words("Good.")], heard, 8);
        Assert.Equal(1, found[0]!.First);
        Assert.Null(found[1]);
        Assert.Equal(5, found[2]!.First);
        Assert.All(ReadThrough.Find([Words("a b"), Words("c")], [], 3), Assert.Null);
        Assert.Empty(ReadThrough.Find([], heard, 8));
    }

    private static ReadLine Rounded(ReadLine? l) => new(Math.Round(l!.Start, 3), Math.Round(l.End, 3), Math.Round(l.First, 3), Math.Round(l.Last, 3));
}
