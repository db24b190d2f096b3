using Zamblo.Core.Interchange;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Directions are seen and acted, and never spoken; words in parentheses stay words.</summary>
public class DirectionTests
{
    [Theory]
    [InlineData("(whispering) Quiet.", "whispering", "Quiet.")]
    [InlineData("(joyful) You came!", "joyful", "You came!")]
    [InlineData("You came! (beat) I waited.", "beat", "You came! I waited.")]
    [InlineData("I am, (laughs) well, glad.", "laughs", "I am, well, glad.")]
    [InlineData("[laughs] Not me.", "laughs", "Not me.")]
    [InlineData("Not me. *sighs* Never.", "sighs", "Not me. Never.")]
    [InlineData("It is late [the door opens] already.", "the door opens", "It is late already.")]
    [InlineData("(zu Bubb) Komm!", "zu Bubb", "Komm!")]
    [InlineData("(тихо) Иди.", "тихо", "Иди.")]
    [InlineData("(laughs [loudly]) Come.", "laughs [loudly]", "Come.")]
    [InlineData("\u201c(softly) Come.\u201d", "softly", "\u201c Come.\u201d")]
    public void A_direction_is_found_and_not_spoken(string text, string direction, string spoken)
    {
        Assert.Equal(direction, Assert.Single(Directions.In(text)).Text);
        Assert.Equal(text.Length, Directions.Spoken(text).Length);
        Assert.Equal(spoken, string.Join(' ', Directions.Spoken(text).Split(' ', StringSplitOptions.RemoveEmptyEntries)));
    }

    [Theory]
    [InlineData("The rolls (all forty) are done.")]
    [InlineData("Nine. (Or was it ten?) Go on.")]
    [InlineData("It is 5 * 3.")]
    [InlineData("I (for one) like it.")]
    [InlineData("A smile :) and a list [1].")]
    [InlineData("Open ( and never closed")]
    [InlineData("[[h@l'oU]]")]
    [InlineData("()")]
    [InlineData("(…)")]
    public void Words_in_parentheses_stay_words(string text) => Assert.Empty(Directions.In(text));

    [Fact]
    public void Emphasis_is_spoken_without_its_stars() => Assert.Equal("It is  really  hot.", Directions.Spoken("It is *really* hot."));

    [Fact]
    public void What_stands_around_directions_stays_at_its_place()
    {
        // Any text: what is left is the same character at the same place, or a blank.
        var random = new Random(5);
        const string letters = "ab. ,!?()[]*\n\u00e9A";
        for (var i = 0; i < 5000; i++)
        {
            var text = string.Concat(Enumerable.Range(0, random.Next(60)).Select(_ => letters[random.Next(letters.Length)]));
            var spoken = Directions.Spoken(text);
            Assert.Equal(text.Length, spoken.Length);
            Assert.All(Enumerable.Range(0, text.Length), k => Assert.True(spoken[k] == text[k] || spoken[k] == ' '));
            var end = 0;
            foreach (var d in Directions.In(text))
            {
                Assert.True(d.Start >= end && d.Length > 2 && d.Start + d.Length <= text.Length);
                end = d.Start + d.Length;
            }
        }
    }

    [Theory]
    // Spellings of family names (common practice).
    [InlineData("MARO", "Maro")]
    [InlineData("O'NEIL", "O'Neil")]
    [InlineData("MCKAY", "McKay")]
    [InlineData("VAN DYK", "van Dyk")]
    [InlineData("VINCENT VAN DYK", "Vincent van Dyk")]
    [InlineData("MARY-ANN", "Mary-Ann")]
    [InlineData("HENRY IV", "Henry IV")]
    [InlineData("THE BAKER", "The Baker")]
    [InlineData("\u00c9LO\u00cfSE", "\u00c9lo\u00efse")]
    [InlineData("BAKER 2", "Baker 2")]
    [InlineData("McTock", "McTock")]
    public void Role_names_keep_their_capitals(string written, string name) => Assert.Equal(name, RoleNames.Of(written));

    [Fact]
    public void Every_row_of_a_script_is_spoken_or_told()
    {
        const string script = """
            Title: The Lamp

            INT. BAKERY - NIGHT

            The oven hums.

            ANNA (whispering): Quiet.
            ANNA: (joyful) You came!

            McKAY (V.O.) (tired)
            We were (all of us) late. *coughs*
            (shouting)
            Late!

            BUBB
            [laughs]

            ~A song of flour
            # Act two
            > FADE OUT.
            Somebody knocks.
            """;
        var play = Screenplay.Read(script);
        Assert.Equal(
            [
                ("ANNA", "Quiet.", "whispering", false),
                ("ANNA", "(joyful) You came!", null, false),
                ("McKAY", "We were (all of us) late. [coughs]", "tired", true),
                ("McKAY", "Late!", "shouting", true),
            ],
            play.Lines.Select(l => (l.Role, l.Text, l.Parenthetical, l.IsOffStage))
        );
        Assert.Contains("BUBB says nothing", Assert.Single(play.Problems));
        Assert.Equal(["heading", "action", "lyric", "note", "transition", "action"], play.Unspoken.Select(u => u.Kind));
        // Every row that has something on it is named once: as a line, as a row that nobody says, or in a problem.
        var rows = script.Split('\n');
        Assert.All(play.Unspoken, u => Assert.Equal(rows[u.Row - 1].Trim(), u.Text));
        Assert.All(play.Lines, l => Assert.Contains(l.Text.Split(' ')[^1].Trim('[', ']'), rows[l.Row - 1]));
    }

    [Theory]
    [InlineData("sighs deeply", "sigh")]
    [InlineData("shakes his head", "shake")]
    [InlineData("rolls her eyes", "eye-roll")]
    [InlineData("leaning back", "lean-back")]
    [InlineData("to Bubb", null)]
    public void Directions_ask_for_gestures_of_the_library(string direction, string? gesture)
    {
        Assert.Equal(gesture, DirectedGestures.Of(direction));
        if (gesture != null)
            Assert.NotNull(Gestures.Find(gesture));
    }

    [Fact]
    public void A_gesture_falls_where_its_direction_stands()
    {
        var found = DirectedGestures.In("(nods) Yes, I heard. [sighs] Go home. (shrugs)");
        Assert.Equal([("nod", 0), ("sigh", 3), ("shrug", 5)], found.Select(g => (g.Gesture, g.Words)));
    }

    [Theory]
    [InlineData("to Bubb", 0, null)]
    [InlineData("quietly, to Tock", 1, null)]
    [InlineData("looks at Dr. Crumb", 2, null)]
    [InlineData("turning to the camera", null, "camera")]
    [InlineData("looks up", null, "up")]
    [InlineData("glances to the left", null, "left")]
    [InlineData("looks away", -1, null)]
    [InlineData("rolls her eyes up", -1, null)]
    [InlineData("to himself", -1, null)]
    [InlineData("angrily", -1, null)]
    public void Directions_say_where_eyes_go(string direction, int? name, string? aim)
    {
        var found = DirectedLooks.Of(direction, ["BUBB", "Tock", "Dr. Crumb"]);
        Assert.Equal(name == -1 ? null : (name, aim), found);
    }

    [Fact]
    public void Looks_lie_from_their_word_to_the_next_look_or_the_end_of_the_line()
    {
        const string text = "(to camera) (to Bubb) Nine minutes. [looks at Tock] Is that right?";
        WordSegment[] words = [new("Nine", 0.2, 0.5), new("minutes", 0.5, 1), new("Is", 1.5, 1.6), new("that", 1.6, 1.8), new("right", 1.8, 2.2)];
        var speech = new SpeechAnalysis(2.5, [new PhoneSegment("AA", 0, 2.5)], words, [], SpeechSource.Engine);
        MemberId maro = new(Guid.NewGuid()),
            bubb = new(Guid.NewGuid()),
            tock = new(Guid.NewGuid());
        var looks = DirectedClips.Looks(() => new ClipId(Guid.NewGuid()), maro, new LineId(Guid.NewGuid()), text, [("BUBB", bubb), ("Tock", tock)]);
        Assert.Equal([bubb, tock], looks.Select(l => l.Aim.Member!.Value));
        var (start, end) = looks[0].Place(10, speech);
        Assert.Equal(10, start, 3);
        // A fifth of the word before it: eyes lead.
        Assert.Equal(11.48, end, 3);
        var (next, last) = looks[1].Place(10, speech);
        Assert.Equal(11.48, next, 3);
        Assert.Equal(12.5, last, 3);
    }
}
