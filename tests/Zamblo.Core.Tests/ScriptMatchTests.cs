using Zamblo.Core.Interchange;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Two versions of a script.</summary>
public class ScriptMatchTests
{
    private static ScriptSpeechText[] Script(params string[] speeches) =>
        [.. speeches.Select(s => s.Split(": ", 2)).Select(p => new ScriptSpeechText(p[0], p[1]))];

    private static string Matched(ScriptSpeechText[] old, ScriptSpeechText[] now) =>
        string.Join(' ', ScriptMatch.Of(old, now).Select(m => $"{m.Old?.ToString() ?? "+"}>{m.New?.ToString() ?? "-"}{(m.IsMoved ? "~" : "")}"));

    private static readonly ScriptSpeechText[] Shop = Script(
        "MARO: The oven is hot and the street is dark.",
        "TOCK: I heard steps on the roof.",
        "MARO: Yes.",
        "TOCK: They went over the chimney and down to the yard.",
        "MARO: Then bolt the door."
    );

    [Fact]
    public void The_same_script_is_the_same()
    {
        Assert.Equal("0>0 1>1 2>2 3>3 4>4", Matched(Shop, Shop));
        Assert.Empty(ScriptMatch.Of([], []));
        Assert.Equal("+>0 +>1", Matched([], Shop[..2]));
        Assert.Equal("0>- 1>-", Matched(Shop[..2], []));
    }

    [Fact]
    public void Changed_words_new_speeches_and_what_is_gone_leave_the_others_in_their_places()
    {
        var now = Script(
            "MARO: The oven is cold and the street is dark.",
            "MARO: Listen.",
            "TOCK: I heard steps, up on the roof!",
            "TOCK: They went over the chimney and down to the yard.",
            "MARO: Then bolt the door."
        );
        Assert.Equal("0>0 +>1 1>2 2>- 3>3 4>4", Matched(Shop, now));
    }

    [Fact]
    public void A_short_speech_that_says_the_opposite_between_two_that_stay_is_the_same_speech()
    {
        var now = Shop.ToArray();
        now[2] = now[2] with { Text = "No, never." };
        Assert.Equal("0>0 1>1 2>2 3>3 4>4", Matched(Shop, now));
        // Said by somebody else it is another one.
        now[2] = new ScriptSpeechText("TOCK", "Hush.");
        Assert.Equal("0>0 1>1 2>- +>2 3>3 4>4", Matched(Shop, now));
    }

    [Fact]
    public void What_stands_elsewhere_was_moved_and_what_somebody_else_says_was_given()
    {
        Assert.Equal("0>0 3>1~ 1>2 2>3 4>4", Matched(Shop, [Shop[0], Shop[3], Shop[1], Shop[2], Shop[4]]));
        var given = Shop.ToArray();
        given[4] = given[4] with { Role = "Tock" };
        Assert.Equal("0>0 1>1 2>2 3>3 4>4", Matched(Shop, given));
    }

    [Fact]
    public void Repeats_go_together_in_their_order()
    {
        var old = Script("A: Run!", "B: Run!", "A: Run!", "B: Stop.");
        Assert.Equal("0>- 1>0 2>1 3>2", Matched(old, old[1..]));
        Assert.Equal("0>0 1>1 2>2 +>3 3>4", Matched(old, [.. old[..3], new("A", "Where to, and why, and who is with us?"), old[3]]));
    }

    // Whatever happens to a script, each speech of both versions is told of once, in the order of the new one, and no two go to one.
    [Fact]
    public void Every_speech_of_both_is_told_of_once()
    {
        for (var seed = 0; seed < 200; seed++)
        {
            var random = new Random(seed);
            string Word() => "bread oven roof moon step dark salt flour door yard".Split(' ')[random.Next(10)];
            ScriptSpeechText Speech() => new(random.Next(2) == 0 ? "A" : "B", string.Join(' ', Enumerable.Range(0, random.Next(1, 7)).Select(_ => Word())));
            var old = Enumerable.Range(0, random.Next(0, 14)).Select(_ => Speech()).ToArray();
            var now = old.ToList();
            for (var k = random.Next(0, 6); k > 0; k--)
                if (random.Next(3) == 0 || now.Count == 0)
                    now.Insert(random.Next(now.Count + 1), Speech());
                else if (random.Next(2) == 0)
                    now.RemoveAt(random.Next(now.Count));
                else
                    (now[0], now[^1]) = (now[^1], now[0]);
            var matches = ScriptMatch.Of(old, now);
            Assert.Equal(Enumerable.Range(0, now.Count), matches.Where(m => m.New != null).Select(m => m.New!.Value));
            Assert.Equal(Enumerable.Range(0, old.Length), matches.Where(m => m.Old != null).Select(m => m.Old!.Value).Order());
            // What stayed in its place stayed in its order.
            var stayed = matches.Where(m => m is { Old: not null, New: not null, IsMoved: false }).Select(m => m.Old!.Value).ToArray();
            Assert.Equal(stayed.Order(), stayed);
        }
    }

    [Fact]
    public void A_long_script_with_a_few_changes_is_matched_whole()
    {
        var old = Enumerable.Range(0, 4000).Select(i => new ScriptSpeechText(i % 2 == 0 ? "A" : "B", $"Speech {i} of {i * 7919 % 4001} loaves")).ToArray();
        var now = old.ToList();
        now.RemoveAt(10);
        now.Insert(3900, new ScriptSpeechText("A", "Something new altogether"));
        var matches = ScriptMatch.Of(old, now);
        Assert.Equal(3999, matches.Count(m => m is { Old: not null, New: not null, IsMoved: false }));
        Assert.Single(matches, m => m.New == null && m.Old == 10);
        Assert.Single(matches, m => m.Old == null);
    }

    [Fact]
    public void Words_of_both_versions_stand_in_one_row()
    {
        var words = ScriptMatch.Words("The oven is hot today.", "The old oven is cold today.");
        Assert.Equal([("The", 0), ("old", 1), ("oven is", 0), ("hot", -1), ("cold", 1), ("today.", 0)], words.Select(w => (w.Text, w.Kind)));
        Assert.Equal([("a b", -1)], ScriptMatch.Words("a b", "").Select(w => (w.Text, w.Kind)));
        Assert.Empty(ScriptMatch.Words("", ""));
        // Both versions can be read out of it.
        for (var seed = 0; seed < 100; seed++)
        {
            var random = new Random(seed);
            string Text() => string.Join(' ', Enumerable.Range(0, random.Next(0, 9)).Select(_ => "abcd"[random.Next(4)]));
            var (old, now) = (Text(), Text());
            var row = ScriptMatch.Words(old, now);
            Assert.Equal(old, string.Join(' ', row.Where(w => w.Kind <= 0).Select(w => w.Text)));
            Assert.Equal(now, string.Join(' ', row.Where(w => w.Kind >= 0).Select(w => w.Text)));
        }
    }

    // Worked example: Wagner and Fischer's distance counts what is not common;
    // "a b c a b b a" and "c b a b a c" have four words in common (Myers 1986, figure 1).
    [Fact]
    public void As_many_words_are_common_as_in_the_published_example()
    {
        var partners = WordMatch.Partners("a b c a b b a".Split(' '), "c b a b a c".Split(' '));
        Assert.Equal(4, partners.Count(p => p >= 0));
        Assert.Equal(partners.Where(p => p >= 0).Order(), partners.Where(p => p >= 0));
    }
}
