using Zamblo.Core.Interchange;
using Zamblo.Core.Lettering;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Texts with spaces and without.</summary>
public class WordSpacingTests
{
    private static string[] Pieces(string text) => [.. WordSpacing.Split(text).Select(p => p.Text)];

    // Rules of JIS X 4051 (from memory): no closing sign, small kana or sound mark begins a row, no opening sign ends one.
    [Theory]
    [InlineData("The oven is hot.", "The|oven|is|hot.")]
    [InlineData("今天很热。", "今|天|很|热。")]
    [InlineData("「はい」と言った。", "「は|い」|と|言っ|た。")]
    [InlineData("コーヒーを3杯、どうぞ！", "コー|ヒー|を|3|杯、|ど|う|ぞ！")]
    [InlineData("人々は、走る", "人々|は、|走|る")]
    [InlineData("파이가 뜨겁다.", "파이가|뜨겁다.")]
    [InlineData("", "")]
    public void A_text_is_parted_where_a_row_may_end(string text, string pieces)
    {
        Assert.Equal(pieces.Split('|', StringSplitOptions.RemoveEmptyEntries), Pieces(text));
        Assert.Equal(text, WordSpacing.Join(Pieces(text)));
        Assert.All(WordSpacing.Split(text), p => Assert.Equal(p.Text, text.Substring(p.Index, p.Text.Length)));
    }

    [Fact]
    public void A_chinese_line_becomes_captions_of_its_signs_each_at_its_time()
    {
        const string text = "今天早上三点钟，烤炉终于热了。耐心一点，巴布。你的面粉在秤上。";
        var signs = text.Where(char.IsLetterOrDigit).Select((c, i) => new WordSegment($"{c}", 0.3 * i, (0.3 * i) + 0.3)).ToArray();
        var captions = Captions.FromWords(signs, text);
        Assert.Equal(["今天早上三点钟，烤炉终于热了。", "耐心一点，巴布。你的面粉在秤上。"], captions.Select(c => c.Text));
        Assert.Equal(signs[13].Start, captions[1].Start);
        // Twice as wide as letters: the room of a caption is that of half as many.
        var longer = Captions.FromWords([.. Enumerable.Range(0, 60).Select(i => new WordSegment("山", 0.05 * i, (0.05 * i) + 0.05))], "");
        Assert.All(longer, c => Assert.InRange(c.Text.Length, 1, Captions.MaximalCharacters / 2));
        Assert.Equal(60, longer.Sum(c => c.Text.Length));
    }

    [Fact]
    public void Rows_break_between_signs_and_a_translation_without_spaces_is_laid_over_what_is_said()
    {
        var rows = CaptionRows.Break("耐心一点，巴布。", 50, s => 10 * s.Length);
        Assert.Equal(["耐心一点，", "巴布。"], rows);
        WordSegment[] said = [new("The", 0, 1), new("oven", 1, 2), new("is", 2, 3), new("hot.", 3, 4)];
        var laid = Assert.Single(CaptionWording.Lay(said, "烤炉热了。"));
        Assert.Equal(["烤", "炉", "热", "了。"], laid.Select(w => w.Text));
        Assert.Equal(laid.OrderBy(w => w.Start), laid);
        Assert.Equal(("烤炉热", "了。"), Trimmed(CaptionWording.Split(said, "烤炉热了。", 2.2)));
        static (string, string) Trimmed((string First, string Second) halves) => (halves.First.Trim(), halves.Second.Trim());
    }

    [Fact]
    public void Words_of_a_language_with_spaces_are_what_they_were()
    {
        WordSegment[] words = [new("ill", 0, 1), new("disposed", 1, 2), new("well", 2, 3)];
        Assert.Equal(["Ill-disposed,", "well!"], ScriptText.AsWritten(words, "Ill-disposed, well!").Select(w => w.Text));
        Assert.Equal("Ill-disposed, well!", Assert.Single(Captions.FromWords(words, "Ill-disposed, well!")).Text);
    }
}
