using Zamblo.Core.Interchange;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>What captions tell beside the words: sounds in brackets, and where whoever speaks is.</summary>
public class CaptionSoundTests
{
    private static readonly MemberId Maro = new(new Guid(1, 0, 0, new byte[8])),
        Tock = new(new Guid(2, 0, 0, new byte[8]));

    private static SceneMember Member(MemberId id, string name) =>
        new(id, name, name.ToLowerInvariant(), "", "#aa3300", new MouthDials(), new PerformanceDials());

    // Half a second a word.
    private static SpeechAnalysis Said(string text)
    {
        var words = ScriptText.PlainWords(Directions.Spoken(text)).Select((w, i) => new WordSegment(w.Text, 0.5 * i, 0.5 * i + 0.4)).ToArray();
        PhoneSegment[] phones = [.. words.Select(w => new PhoneSegment("AA", w.Start, w.End))];
        return new SpeechAnalysis(0.5 * words.Length, phones, words, [.. Enumerable.Repeat(-20f, 50 * words.Length)], SpeechSource.Engine);
    }

    private static EvaluatedScene Scene(bool hasSounds, LaidSound[] sounds, params (MemberId Who, string Text)[] lines)
    {
        var document = new SceneDocument("bakery", new FrameRate(25), 1280, 720)
        {
            Members = [Member(Maro, "Maro"), Member(Tock, "Tock")],
            Lines =
            [
                .. lines.Select(
                    (l, i) =>
                        new SceneLine(
                            new LineId(new Guid(3, (short)i, 0, new byte[8])),
                            l.Who,
                            default,
                            Said(l.Text).Duration,
                            "",
                            "",
                            new SpeechQuery(Directions.Spoken(l.Text), "en")
                        )
                        {
                            Written = l.Text,
                        }
                ),
            ],
            Sounds = sounds,
            Lettering = new Lettering.LetteringDials { HasSounds = hasSounds },
        };
        return SceneEvaluator.Evaluate(document, l => Said(l.Written), TestData.Cast);
    }

    private static LaidSound Sound(SoundKind kind, string name, double start) => new(default, kind, "", name, 4, start, 0, null, 0, 0, 0, 0, false);

    private static string[] Texts(EvaluatedScene scene) => [.. SceneText.Subtitles(scene).Select(c => c.Text)];

    [Theory]
    [InlineData("(laughs) You came back!", "[laughs] You came back!")]
    [InlineData("You came [sighs] back at last.", "You came [sighs] back at last.")]
    [InlineData("You came back! *coughs*", "You came back! [coughs]")]
    [InlineData("(whispering) You came back.", "You came back.")]
    [InlineData("It is half past five. (CLEARS THROAT) We are closed.", "It is half past five. [clears throat] We are closed.")]
    [InlineData("Come in. (to the pantry) We are open.", "Come in. We are open.")]
    [InlineData("(clearly, laughingly) You came back.", "You came back.")]
    [InlineData("You came back! [humming] [a human]", "You came back! [humming]")]
    [InlineData("[laughter] [gulps] [snores] You came back.", "[laughter] [gulps] [snores] You came back.")]
    public void What_is_heard_within_a_line_stands_in_brackets_where_it_is_heard(string written, string told)
    {
        Assert.Equal(told, string.Join(' ', Texts(Scene(true, [], (Maro, written)))));
        Assert.DoesNotContain("[", string.Join(' ', Texts(Scene(false, [], (Maro, written)))));
    }

    [Fact]
    public void A_sound_between_words_has_the_time_between_them()
    {
        var words = SoundWords.Between([new("You", 1, 1.4), new("came.", 3, 3.4)], "You (laughs) came.", 4);
        Assert.Equal(new WordSegment("[laughs]", 1.4, 3), words[1]);
        Assert.Equal(3, words.Count);
    }

    [Fact]
    public void Effects_and_music_are_told_by_themselves_or_before_the_words()
    {
        var scene = Scene(true, [], (Maro, "One two three four."), (Tock, "Five six seven eight."));
        double first = scene.Lines[0].Start,
            end = scene.Lines[^1].End;
        var told = SceneText.Subtitles(
            Scene(
                true,
                [
                    Sound(SoundKind.Music, "slow waltz.ogg", 0),
                    Sound(SoundKind.Effect, "03_door-slams.wav", first + 1),
                    Sound(SoundKind.Room, "hum.wav", 0),
                    Sound(SoundKind.Effect, "bell.wav", end + 0.2),
                ],
                (Maro, "One two three four."),
                (Tock, "Five six seven eight.")
            )
        );
        Assert.Equal(["[music]", "[door slams] One two three four.", "Five six seven eight.", "[bell]"], told.Select(c => c.Text));
        Assert.Equal([null, "Maro", "Tock", null], told.Select(c => c.Speaker));
        Assert.All(told.Zip(told.Skip(1)), p => Assert.True(p.First.End <= p.Second.Start + 1e-9 && p.First.Start < p.First.End));
    }

    [Fact]
    public void A_caption_stands_below_whoever_speaks_in_rows_that_can_be_read()
    {
        var long1 = "one two three four five six seven eight nine ten eleven twelve thirteen";
        var captions = SceneText.Subtitles(Scene(false, [], (Maro, long1), (Tock, "Nine.")));
        Assert.True(captions[0].Across < 0.5 && captions[^1].Across > 0.5);
        using var vtt = new StringWriter();
        Captions.WriteVtt(vtt, captions);
        // W3C WebVTT 6: cue settings follow the times; "position" is a percentage.
        Assert.Matches(@"--> 00:00:\d\d\.\d\d\d position:(3\d|4\d)%\n<v Maro>one", vtt.ToString());
        Assert.Matches(@"--> 00:00:\d\d\.\d\d\d position:(5\d|6\d|70)%\n<v Tock>Nine", vtt.ToString());
        // Rows of 42 characters at the most (common practice).
        Assert.All(
            vtt.ToString().Split('\n').Where(r => !r.Contains("-->", StringComparison.Ordinal)),
            r => Assert.InRange(r.Length, 0, 42 + "<v Maro>".Length)
        );
        using var srt = new StringWriter();
        Captions.WriteSrt(srt, captions);
        Assert.DoesNotContain("position", srt.ToString(), StringComparison.Ordinal);
        // And are one text again when they come back.
        Assert.StartsWith("one two three four five six seven eight nine", Screenplay.Read(srt.ToString()).Lines[0].Text, StringComparison.Ordinal);
        Assert.Equal("Maro", Screenplay.Read(srt.ToString()).Lines[0].Role);
    }
}
