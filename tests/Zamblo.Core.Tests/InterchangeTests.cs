using System.Text.Json;
using Zamblo.Core.Interchange;
using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

public class InterchangeTests
{
    private static readonly SpeechAnalysis Speech = new(
        2,
        [new("SIL", 0, 0.5), new("B", 0.5, 0.6), new("AH", 0.6, 0.8), new("B", 0.8, 0.9), new("SIL", 0.9, 2)],
        [new("\"Bubb\"", 0.5, 0.9, 0.8f)],
        Enumerable.Repeat(-20f, 200).ToArray(),
        SpeechSource.Script
    );

    [Fact]
    public void A_TextGrid_has_both_tiers_without_gaps()
    {
        var text = new StringWriter();
        TextGrid.Write(text, Speech);
        var grid = text.ToString();
        Assert.StartsWith("File type = \"ooTextFile\"\nObject class = \"TextGrid\"\n", grid);
        Assert.Contains("name = \"words\"", grid);
        Assert.Contains("intervals: size = 3", grid);
        Assert.Contains("intervals: size = 5", grid);
        Assert.Contains("text = \"\"\"Bubb\"\"\"", grid);
        Assert.DoesNotContain("SIL", grid);
    }

    [Fact]
    public void The_table_of_channels_is_closed_on_the_closures_and_open_on_the_vowel()
    {
        var text = new StringWriter();
        SpeechExports.WriteCsv(text, Speech, new FrameRate(25), new MouthDials());
        var rows = text.ToString().TrimEnd().Split('\n');
        Assert.Equal(51, rows.Length);
        Assert.StartsWith("time,mouth_open,jaw,", rows[0]);
        var open = rows[1..].Select(r => double.Parse(r.Split(',')[1], System.Globalization.CultureInfo.InvariantCulture)).ToArray();
        Assert.All(open, o => Assert.InRange(o, 0, 1));
        Assert.All(open[..10].Concat(open[30..]), o => Assert.Equal(0, o));
        Assert.True(open.Max() > 0.2);
    }

    [Fact]
    public void The_JSON_can_be_read_and_has_cues()
    {
        using var stream = new MemoryStream();
        SpeechExports.WriteJson(stream, Speech, new MouthDials());
        using var json = JsonDocument.Parse(stream.ToArray());
        Assert.Equal(5, json.RootElement.GetProperty("phones").GetArrayLength());
        Assert.Equal("Closed", json.RootElement.GetProperty("cues")[1].GetProperty("shape").GetString());
    }

    [Theory]
    [InlineData("\"Oh,\" she said – the oven's hot!", "\"Oh,\"|she|said –|the|oven's|hot!")]
    [InlineData("Nothing of it", "oh|she|said|the|oven's|hot")]
    [InlineData("", "oh|she|said|the|oven's|hot")]
    public void Words_are_written_as_in_the_text(string text, string expected)
    {
        var words = "oh she said the oven's hot".Split(' ').Select((w, i) => new WordSegment(w, i, i + 0.8)).ToList();
        Assert.Equal(expected.Split('|'), ScriptText.AsWritten(words, text).Select(w => w.Text));
        Assert.Equal(words.Select(w => w.Start), ScriptText.AsWritten(words, text).Select(w => w.Start));
    }

    [Fact]
    public void A_half_belongs_to_its_number()
    {
        WordSegment[] words = [new("ate", 0, 0.4), new("5", 0.4, 0.8), new("½", 0.8, 1.3), new("rolls", 1.3, 2)];
        Assert.Equal("ate 5½ rolls.", string.Join(' ', ScriptText.AsWritten(words, "ate 5½ rolls.").Select(w => w.Text)));
    }

    [Fact]
    public void Words_with_a_hyphen_between_stay_together()
    {
        const string text = "He was not an ill-disposed (young) man – so.";
        var words = ScriptText.Words(text).Select((w, i) => new WordSegment(w.Text, i, i + 0.8)).ToList();
        Assert.Equal(text, string.Join(' ', ScriptText.AsWritten(words, text).Select(w => w.Text)));
    }

    [Fact]
    public void A_sentence_ends_a_caption()
    {
        const string text = "The bread is in the oven now. Nobody touches it, please. No.";
        var words = ScriptText.Words(text).Select((w, i) => new WordSegment(w.Text, i * 0.3, i * 0.3 + 0.28)).ToList();
        Assert.Equal(["The bread is in the oven now.", "Nobody touches it, please.", "No."], Captions.FromWords(words, text).Select(c => c.Text));
    }

    [Fact]
    public void Captions_break_at_pauses_and_stay_short()
    {
        var words = Enumerable.Range(0, 60).Select(i => new WordSegment("word<" + i, i * 0.3 + (i >= 30 ? 1 : 0), i * 0.3 + 0.28 + (i >= 30 ? 1 : 0))).ToList();
        var captions = Captions.FromWords(words);
        Assert.All(captions, c => Assert.InRange(c.Text.Length, 1, 74));
        Assert.All(captions, c => Assert.InRange(c.End - c.Start, 0, 5));
        Assert.Contains(captions, c => c.Text.StartsWith("word<30", StringComparison.Ordinal));
        var vtt = new StringWriter();
        Captions.WriteVtt(vtt, captions);
        // W3C WebVTT: the signature, a blank line, hh:mm:ss.ttt --> hh:mm:ss.ttt, and "<" escaped.
        Assert.Matches(@"^WEBVTT\n\n00:00:00\.000 --> 00:00:\d\d\.\d\d\d\nword&lt;0 ", vtt.ToString());
        var srt = new StringWriter();
        Captions.WriteSrt(srt, captions);
        Assert.StartsWith("1\n00:00:00,000 --> ", srt.ToString());
    }

    [Fact]
    public void A_script_that_is_written_reads_back_as_the_same()
    {
        var play = new Screenplay(
            "Night *Shift*",
            ["INT. BAKERY - NIGHT", "Later, by the lamp"],
            [
                new("MARO", "The oven is hot: *now*, not_later.", "sadly", 0),
                new("Miss Crumb", "Then I am (almost) too late.", null, 0),
                new("TOCK", "Nine!", "angry", 1),
                new("MARO", "A \\ and a > sign.", null, 1),
            ],
            []
        );
        using var writer = new StringWriter();
        play.WriteFountain(writer);
        var back = Screenplay.Read(writer.ToString());
        Assert.Empty(back.Problems);
        Assert.Equal(play.Lines.Select(l => (l.Role, l.Parenthetical, l.Scene)), back.Lines.Select(l => (l.Role, l.Parenthetical, l.Scene)));
        Assert.Equal(play.Scenes, back.Scenes);
        Assert.Equal(["The oven is hot: *now*, not_later.", "Then I am (almost) too late.", "Nine!", "A \\ and a > sign."], back.Lines.Select(l => l.Text));
        Assert.Equal(play.Title, back.Title);
    }

    [Fact]
    public void Captions_with_speakers_read_back_with_them()
    {
        Captions.Caption[] captions = [new(1, 2, "Rye & salt.") { Speaker = "Maro" }, new(2.5, 3, "Nine <minutes>.") { Speaker = "Tock" }];
        using StringWriter vtt = new(),
            srt = new();
        Captions.WriteVtt(vtt, captions);
        Captions.WriteSrt(srt, captions);
        Assert.Equal([("Maro", "Rye & salt."), ("Tock", "Nine <minutes>.")], Screenplay.Read(vtt.ToString()).Lines.Select(l => (l.Role, l.Text)));
        Assert.Equal(["Maro", "Tock"], Screenplay.Read(srt.ToString()).Lines.Select(l => l.Role));
    }

    [Fact]
    public void Fountain_gives_roles_lines_directions_and_scenes()
    {
        // Elements as in "Fountain syntax" 1.1.
        var play = Screenplay.Parse(
            """
            Title: Night Shift
            Author: nobody

            INT. BAKERY - NIGHT

            Maro kneads. /* cut
            this */ [[a note]]

            MARO (V.O.)
            (tired)
            Bubb, *please*.
            The oven is _almost_ ready.

            @McTock ^
            Ding!

            .CELLAR

            BUBB
            Feed me.
            (shouting)
            NOW!

            > CUT TO:

            WICK

            TOCK: Three minutes.
            """
        );
        Assert.Equal("Night Shift", play.Title);
        Assert.Equal(["INT. BAKERY - NIGHT", "CELLAR"], play.Scenes);
        Assert.Equal(
            [
                new("MARO", "Bubb, please. The oven is almost ready.", "tired", 0, 11, true),
                new ScreenplayLine("McTock", "Ding!", null, 0, 15) { IsTogether = true },
                new("BUBB", "Feed me.", null, 1, 20),
                new("BUBB", "NOW!", "shouting", 1, 22),
                new ScreenplayLine("TOCK", "Three minutes.", null, 1, 28),
            ],
            play.Lines
        );
        Assert.Contains("WICK", Assert.Single(play.Problems));
    }

    [Theory]
    [InlineData("")]
    [InlineData("Only a description of the room.\n\nAnd another.")]
    public void A_screenplay_without_dialogue_says_what_to_write(string text) => Assert.Contains("no dialogue", Assert.Single(Screenplay.Parse(text).Problems));

    [Fact]
    public void A_text_grid_is_read_back_as_it_was_written_long_and_short()
    {
        var speech = new SpeechAnalysis(
            1.5,
            [new("SIL", 0, 0.25), new("HH", 0.25, 0.375), new("AY", 0.375, 1), new("SIL", 1, 1.5)],
            [new("say \"hi\" [2]", 0.25, 1)],
            [],
            SpeechSource.Script
        );
        using var text = new StringWriter();
        TextGrid.Write(text, speech);
        var read = SpeechTimes.Read(text.ToString(), SpeechAnalysis.Silent(1.5));
        Assert.Equal(speech.Phones, read.Phones);
        Assert.Equal(speech.Words[0].Start, read.Words[0].Start);
        // The short layout of the same (Praat manual, "TextGrid file formats").
        const string Short =
            "File type = \"ooTextFile\"\nObject class = \"TextGrid\"\n\n0\n1.5\n<exists>\n2\n\"IntervalTier\"\n\"phones\"\n0\n1.5\n3\n0\n"
            + "0.25\n\"\"\n0.25\n1\n\"AY1\"\n1\n1.5\n\"sil\"\n\"TextTier\"\n\"bell\"\n0\n1.5\n1\n0.5\n\"x\"\n";
        Assert.Equal(["SIL", "AY", "SIL"], SpeechTimes.Read(Short, SpeechAnalysis.Silent(1.5)).Phones.Select(p => p.Phone));
    }

    [Theory]
    [InlineData("start,end,phone\n0.1,0.2,QX!\n", "no phone")]
    [InlineData("start,end,phone\n0.1,0.4,AA\n0.2,0.5,B\n", "starts before")]
    [InlineData("start,end,phone\n0.1,nine,AA\n", "Line 2")]
    [InlineData("start,end\n0,1\n", "neither")]
    [InlineData("File type = \"ooTextFile\"\nObject class = \"TextGrid\"\n0 1 <exists> 1 \"IntervalTier\" \"words\" 0 1", "too early")]
    public void Times_that_cannot_be_read_are_refused_with_a_reason(string text, string reason) =>
        Assert.Contains(reason, Assert.Throws<FormatException>(() => SpeechTimes.Read(text, SpeechAnalysis.Silent(1.5))).Message);

    [Fact]
    public void Captions_with_speakers_are_a_script()
    {
        // W3C, "WebVTT": a voice span names the speaker; cue settings, notes, classes and character references.
        var vtt = Screenplay.Read(
            """
            WEBVTT

            NOTE made up for this test

            1
            00:00:01.000 --> 00:00:03.000 align:start
            <v.loud Maro>The oven is hot,
            and the bread

            00:03.100 --> 00:05.000
            will not wait.

            00:05.200 --> 00:06.000
            <v Bubb><i>Rye</i> &amp; salt?
            """
        );
        Assert.Equal(
            [new ScreenplayLine("Maro", "The oven is hot, and the bread will not wait.", null, 0, 7), new ScreenplayLine("Bubb", "Rye & salt?", null, 0, 14)],
            vtt.Lines
        );
        var srt = Screenplay.Read(
            "1\r\n00:00:01,000 --> 00:00:02,000\r\nTOCK: Nine minutes.\r\n\r\n2\r\n00:00:02,500 --> 00:00:03,000\r\n- BUBB: Nine?\r\n- TOCK: Nine.\r\n"
        );
        Assert.Equal(["TOCK", "BUBB", "TOCK"], srt.Lines.Select(l => l.Role));
        Assert.Equal("Nine.", srt.Lines[2].Text);
        Assert.Contains("nobody is named", Assert.Single(Screenplay.Read("1\n00:00:01,000 --> 00:00:02,000\nWho is this?\n").Problems));
        Assert.Equal("MARO", Assert.Single(Screenplay.Read("MARO\nHello.").Lines).Role);
    }
}
