using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Lyrics of our own, repeated as lyric sheets and LRC files repeat them (common practice).</summary>
public class LyricRepeatsTests
{
    private static string Rows(params string[] rows) => string.Join('\n', rows);

    [Theory]
    [InlineData("[Refrain]", "[Refrain]")]
    [InlineData("Chorus:", "(chorus)")]
    [InlineData("[Chorus 2]", "[Chorus 2]")]
    [InlineData("[Припев]", "[припев]")]
    public void A_heading_that_stands_alone_brings_its_part_back(string first, string again)
    {
        var written = LyricRepeats.WrittenOut(Rows("The mill is asleep", "", first, "Bring me butter", "Bring me honey", "", "The river is slow", "", again));
        var name = $"[{first.Trim('[', ']', ':')}]";
        Assert.Equal(
            Rows(
                "The mill is asleep",
                "",
                name,
                "Bring me butter",
                "Bring me honey",
                "",
                "The river is slow",
                "",
                $"[{again.Trim('[', ']', '(', ')')}]",
                "Bring me butter",
                "Bring me honey"
            ),
            written
        );
        Assert.Equal(written, LyricRepeats.WrittenOut(written));
        Assert.DoesNotContain(SpeechQuery.Of(written, "en").Script!.Split(), w => w.Contains('['));
    }

    [Fact]
    public void A_part_that_is_written_with_its_heading_stays_as_it_is_written()
    {
        var text = Rows("[Refrain]", "Bring me butter", "", "[Refrain]", "Bring me honey");
        Assert.Equal(text, LyricRepeats.WrittenOut(text));
        // What comes back is what was written last.
        Assert.EndsWith(Rows("[Refrain]", "Bring me honey"), LyricRepeats.WrittenOut(text + "\n\n[Refrain]"), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("Home again (x2)")]
    [InlineData("Home again (2x)")]
    [InlineData("Home again [×2]")]
    [InlineData("Home again ( 2 X )")]
    public void A_row_is_sung_as_often_as_it_says(string row) =>
        Assert.Equal(Rows("Open soon", "Home again", "Home again", "Now"), LyricRepeats.WrittenOut(Rows("Open soon", row, "Now")));

    [Fact]
    public void A_part_is_sung_as_often_as_it_says()
    {
        string[] part = ["Bring me butter", "Bring me honey"];
        string twice = Rows([.. part, .. part]);
        Assert.Equal(twice, LyricRepeats.WrittenOut(Rows([.. part, "(x2)"])));
        Assert.Equal("[Refrain]\n" + twice, LyricRepeats.WrittenOut(Rows(["[Refrain]", .. part, "(x2)"])));
        Assert.Equal("[Refrain]\n" + twice, LyricRepeats.WrittenOut(Rows(["[Refrain x2]", .. part])));
        Assert.Equal("[Refrain]\n" + twice, LyricRepeats.WrittenOut(Rows(["Refrain: (2x)", .. part])));
        Assert.Equal(
            Rows(["[Refrain]", .. part, "", "[Refrain]", .. part, .. part]),
            LyricRepeats.WrittenOut(Rows(["[Refrain]", .. part, "", "[Refrain] (x2)"]))
        );
    }

    [Fact]
    public void Nobody_sings_a_row_a_thousand_times() => Assert.Equal(8, LyricRepeats.WrittenOut("Home (x99)").Split('\n').Length);

    [Fact]
    public void A_row_with_several_times_stands_at_each()
    {
        var written = LyricRepeats.WrittenOut(
            Rows("[ar:Nobody]", "[00:05.00] The mill", "[00:09.00][00:21.50] Bring me butter", "[00:13.00] The river", "[00:25.00]")
        );
        Assert.Equal(
            Rows("[ar:Nobody]", "[00:05.00] The mill", "[00:09.00] Bring me butter", "[00:13.00] The river", "[00:21.50] Bring me butter", "[00:25.00]"),
            written
        );
        Assert.Equal([5, 9, 13, 21.5, 25], LyricTimes.In(written).Select(t => t.Time));
    }

    [Fact]
    public void What_comes_back_has_its_own_time_or_none()
    {
        var written = LyricRepeats.WrittenOut(Rows("[Refrain]", "[00:09.00] Bring me butter", "[00:11.00] Bring me honey (x2)", "", "[00:21.00][Refrain]"));
        Assert.Equal(
            Rows(
                "[Refrain]",
                "[00:09.00] Bring me butter",
                "[00:11.00] Bring me honey",
                "Bring me honey",
                "",
                "[Refrain]",
                "[00:21.00]Bring me butter",
                "Bring me honey",
                "Bring me honey"
            ),
            written
        );
    }

    [Fact]
    public void Rows_that_are_sung_again_are_written_where_they_are()
    {
        var text = Rows("[softly]", "The mill is asleep", "", "[Refrain]", "Bring me butter", "Bring me honey", "", "The river is slow");
        // Numbers are those of the rows from the first that is spoken on.
        var words = ScriptWord.InRows(ScriptText.Words(SpeechQuery.Of(text, "en").Script!), SpeechQuery.Of(text, "en").Script!);
        Assert.Equal([0, 3, 4, 6], words.Select(w => w.Row).Distinct());
        Assert.Equal(
            text + "\n\n" + Rows("Bring me butter", "Bring me honey", "", "The mill is asleep"),
            LyricRepeats.WithSung(text, [new SungRepeat(3, 4, 6, 20), new SungRepeat(0, 0, 6, 24)])
        );
        Assert.Equal(Rows("One", "Two", "One"), LyricRepeats.WithSung("One\r\nTwo", [new SungRepeat(0, 0, 1, 5)]));
    }

    [Theory]
    [InlineData("")]
    [InlineData("The rolls are done.")]
    [InlineData("(x2)")]
    [InlineData("Bridge ahead, said Maro.\nWhich bridge?")]
    [InlineData("[laughs]\nCome in.\n\n[laughs]")]
    [InlineData("Two by four is 2 x 4 (forty).\r\nSo it is.")]
    public void What_repeats_nothing_is_left_to_the_letter(string text) => Assert.Equal(text, LyricRepeats.WrittenOut(text));
}
