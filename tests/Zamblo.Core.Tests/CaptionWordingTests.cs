using FsCheck.Xunit;
using Zamblo.Core.Interchange;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Captions in other words than those that are said.</summary>
public class CaptionWordingTests
{
    // A word every half second, 0.4 s long; after the fourth a pause of two seconds.
    private static WordSegment[] Said(string text) =>
        [
            .. text.Split(' ')
                .Select(
                    (w, i) =>
                    {
                        var start = 1 + 0.5 * i + (i > 3 ? 2 : 0);
                        return new WordSegment(w, start, start + 0.4);
                    }
                ),
        ];

    private static readonly WordSegment[] Talk = Said("Well you know the bread is not in the oven");

    private static WordSegment Of(IReadOnlyList<IReadOnlyList<WordSegment>> laid, string word) => laid.SelectMany(b => b).First(w => w.Text == word);

    [Fact]
    public void Words_that_are_said_stand_where_they_are_said_and_a_new_row_begins_a_caption()
    {
        var laid = CaptionWording.Lay(Talk, "The bread…\nis NOT in the oven!");
        Assert.Equal(["The bread…", "is NOT in the oven!"], laid.Select(b => string.Join(' ', b.Select(w => w.Text))));
        Assert.Equal(Talk[4].Start, Of(laid, "bread…").Start);
        Assert.Equal(Talk[6].End, Of(laid, "NOT").End);
        Assert.Equal(Talk[^1].End, Of(laid, "oven!").End);
        // A sound in brackets where nothing is said has the time until the next word.
        laid = CaptionWording.Lay(Talk, "Well you know the [door] bread is not in the oven");
        Assert.Equal((Talk[3].End, Talk[4].Start), (Of(laid, "[door]").Start, Of(laid, "[door]").End));
    }

    [Fact]
    public void Another_language_goes_by_its_share_of_the_letters_and_keeps_out_of_pauses()
    {
        // Thirteen letters before the pause, nineteen after it.
        var laid = CaptionWording.Lay(Talk, "Tja das Brot liegt nicht im Ofen");
        var words = laid.Single();
        Assert.Equal((Talk[0].Start, Talk[^1].End), (words[0].Start, words[^1].End));
        Assert.All(words.Zip(words.Skip(1)), p => Assert.True(p.First.End <= p.Second.Start + 1e-9 && p.First.Start < p.First.End));
        // Nobody begins within the silence.
        Assert.DoesNotContain(words, w => w.Start > Talk[3].End + 1e-9 && w.Start < Talk[4].Start - 1e-9);
        // Words that are the same by chance, here "in", hold nothing.
        Assert.NotEqual(Talk[7].Start, Of(CaptionWording.Lay(Talk, "in questo forno non si trova nessun pane"), "in").Start);
    }

    [Fact]
    public void Nothing_said_or_written_is_no_caption()
    {
        Assert.Empty(CaptionWording.Lay([], "words"));
        Assert.Empty(CaptionWording.Lay(Talk, " \n \n"));
        // Long ones take no square of time.
        var many = Enumerable.Range(0, 4000).Select(i => new WordSegment("a", i, i + 0.5)).ToArray();
        Assert.Equal(4000, CaptionWording.Lay(many, string.Join(' ', Enumerable.Repeat("a", 4000))).Single().Count);
    }

    [Property]
    public void Times_never_go_back_and_stay_within_what_is_said(FsCheck.NonEmptyArray<byte> picks)
    {
        string[] stock = ["well", "you", "know", "the", "bread", "is", "not", "in", "oven", "[door]", "Brot", "—", "x", "\n"];
        var text = string.Join(' ', picks.Get.Select(p => stock[p % stock.Length]));
        double at = 0;
        foreach (var w in CaptionWording.Lay(Talk, text).SelectMany(b => b))
        {
            Assert.True(w.Start >= at - 1e-9 && w.End >= w.Start - 1e-9, $"{w} after {at} in \"{text}\"");
            Assert.InRange(w.End, Talk[0].Start - 1e-9, Talk[^1].End + 1e-9);
            at = w.Start;
        }
    }

    [Property]
    public void Joining_what_was_split_gives_it_back(byte where)
    {
        foreach (var text in new[] { "The bread is not in it", "The bread\nis not in the oven", "Tja das Brot\nliegt nicht im Ofen" })
        {
            var (first, second) = CaptionWording.Split(Talk, text, 0.5 + where / 32.0);
            Assert.Equal(text, CaptionWording.Join(first, second));
        }
    }

    [Fact]
    public void A_sentence_that_needs_two_captions_is_not_cut_before_its_last_word()
    {
        static string[] Cut(string text, double seconds) =>
            [
                .. Captions
                    .Cut([.. text.Split(' ').Select((w, i) => new WordSegment(w, i * seconds, (i + 1) * seconds))])
                    .Select(row => string.Join(' ', row.Select(w => w.Text))),
            ];
        // Too long by its time, with a comma near the middle; and without one.
        Assert.Equal(["Halb vier. Der Ofen ist an,", "und ich bin es noch nicht."], Cut("Halb vier. Der Ofen ist an, und ich bin es noch nicht.", 0.44));
        Assert.Equal(["one two three four", "five six seven"], Cut("one two three four five six seven", 0.83));
        // Too long by its letters.
        var rows = Cut("What nobody tells you about bread is that it rises whether or not anybody is there to see", 0.2);
        Assert.Equal(2, rows.Length);
        Assert.InRange(rows[1].Length, rows[0].Length / 2, 2 * rows[0].Length);
        // What fits stays whole.
        Assert.Single(Cut("The oven is hot.", 0.4));
    }

    // RFC 5646 2.2.9, as far as it is asked for here.
    [Theory]
    [InlineData("", true)]
    [InlineData("de", true)]
    [InlineData("pt-BR", true)]
    [InlineData("zh-Hant-TW", true)]
    [InlineData("d", false)]
    [InlineData("de_DE", false)]
    [InlineData("de-", false)]
    [InlineData("../x", false)]
    [InlineData("de\n", false)]
    [InlineData(null, false)]
    public void A_language_has_a_tag(string? tag, bool isOne) => Assert.Equal(isOne, CaptionWording.IsLanguage(tag));
}
