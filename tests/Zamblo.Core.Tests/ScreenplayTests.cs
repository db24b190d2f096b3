using System.Text.RegularExpressions;
using Zamblo.Core.Interchange;

namespace Zamblo.Core.Tests;

/// <summary>Scripts that nobody should send: read in time that grows with their length, and nothing lost of what is around them.</summary>
public class ScreenplayTests
{
    public static TheoryData<string> Tricks =>
        [
            "[[",
            "/*",
            "]]",
            "*/",
            "[[/*",
            "(",
            "MARO (",
            "<",
            "<v.a",
            "<v .",
            "{",
            "*_",
            "\\\\*",
            "@",
            "@ ",
            " \n",
            "\n \n",
            "A: ",
            "INT. ",
            "A ^ ",
            "\u0301",
            "00:00:00.000 --> 00:00:01.000\n<v.",
            "1\n00:00:00,000 --> 00:00:01,000\n{",
            "\ud83e\udd56",
            "title:",
        ];

    [Theory]
    [MemberData(nameof(Tricks))]
    public void A_script_that_repeats_itself_is_read_at_once(string trick)
    {
        // Where the time grows with the square of the length, as with searches that begin anew at every character, this does not end within the run's limit.
        var much = string.Concat(Enumerable.Repeat(trick, 1_500_000 / trick.Length));
        var play = Screenplay.Read(much + "\n\nMARO\nThe oven is hot.\n");
        Assert.NotNull(play.Lines);
        play = Screenplay.Read("MARO\nThe oven is hot.\n\n" + much);
        if (!trick.StartsWith("00:", StringComparison.Ordinal) && !trick.StartsWith("1\n", StringComparison.Ordinal))
            Assert.Contains(play.Lines, l => l.Role == "MARO" && l.Text.StartsWith("The oven is hot.", StringComparison.Ordinal));
    }

    [Fact]
    public void Notes_and_boneyard_are_taken_out_as_the_markup_says()
    {
        // Against the markup's own rule (Fountain syntax 1.1, "Notes" and "Boneyard"), as one expression.
        var random = new Random(7);
        string[] pieces = ["[[", "]]", "/*", "*/", "a", " ", "\n", "[", "]", "*", "/"];
        for (var n = 0; n < 3000; n++)
        {
            var text = string.Concat(Enumerable.Range(0, random.Next(1, 14)).Select(_ => pieces[random.Next(pieces.Length)]));
            var rule = Regex.Replace(text, @"/\*.*?\*/|\[\[.*?\]\]", m => new string('\n', m.Value.Count(c => c == '\n')), RegexOptions.Singleline);
            Assert.Equal(rule, Screenplay.WithoutNotes(text));
        }
    }

    // Fountain syntax, "Dual Dialogue": a caret behind the second name.
    [Fact]
    public void Dual_dialogue_is_said_at_once_and_is_written_as_it_was_read()
    {
        const string text =
            "INT. BAKERY - NIGHT\n\nMARO\nNow!\n\nBUBB (whispering) ^\nNow!\n(louder)\nOr never!\n\nTOCK\nToo late.\n\nEXT. YARD\n\nWICK ^\nAlone.\n";
        var play = Screenplay.Parse(text);
        Assert.Equal([false, true, false, false, false], play.Lines.Select(l => l.IsTogether));
        Assert.Equal(["MARO", "BUBB", "BUBB", "TOCK", "WICK"], play.Lines.Select(l => l.Role));
        using var written = new StringWriter();
        play.WriteFountain(written);
        Assert.Contains("BUBB ^\n", written.ToString());
        Assert.Equal(play.Lines.Select(l => l.IsTogether), Screenplay.Parse(written.ToString()).Lines.Select(l => l.IsTogether));
    }

    [Fact]
    public void A_line_of_action_in_capitals_is_no_role_however_long()
    {
        var action = string.Join(' ', Enumerable.Repeat("THE DOOR OF THE OVEN FALLS SHUT", 12));
        var play = Screenplay.Read($"{action}\nand nobody sees it.\n\nMARO\nHot.\n");
        Assert.Equal(["MARO"], play.Lines.Select(l => l.Role));
    }
}
