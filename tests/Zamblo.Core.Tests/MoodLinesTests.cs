using Zamblo.Core.Performance;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Suggested moods on labelled lines of our own (<c>tests/moods/lines.tsv</c>): how often one is right, and how many lines have one.</summary>
public class MoodLinesTests
{
    // Words alone: a voice like any other.
    private static readonly SpeechAnalysis Plain = MouthTests.Say(("AA", 0.3), ("T", 0.1), ("AA", 0.3));

    private static IReadOnlyList<(string Part, Mood Mood, string Text)> Lines()
    {
        var folder = AppContext.BaseDirectory;
        while (!Directory.Exists(Path.Combine(folder, "tests", "moods")))
            folder = Path.GetDirectoryName(folder)!;
        return
        [
            .. File.ReadAllLines(Path.Combine(folder, "tests", "moods", "lines.tsv"))
                .Where(l => l.Length > 0 && l[0] != '#')
                .Select(l => l.Split('\t'))
                .Select(f => (f[0], Enum.Parse<Mood>(f[1]), f[2])),
        ];
    }

    // More is asked of those that the words were made with than of lines that came afterwards.
    [Theory]
    [InlineData("made", 250, 0.9, 0.8)]
    [InlineData("later", 60, 0.85, 0.6)]
    [InlineData("indirect", 40, 0.5, 0.15)]
    [InlineData("", 380, 0.95, 0.8)]
    public void Suggestions_are_mostly_right_and_most_lines_with_a_mood_have_one(string part, int least, double right, double covered)
    {
        var lines = Lines().Where(l => part.Length == 0 || l.Part == part).ToArray();
        Assert.True(lines.Length >= least);
        var told = lines.Select(l => (l.Mood, l.Text, Suggested: MoodSuggestions.For(l.Text, Plain, [])?.Mood)).ToArray();
        var suggested = told.Where(t => t.Suggested != null).ToArray();
        var wrong = suggested.Where(t => t.Suggested != t.Mood).Select(t => $"{t.Suggested} for {t.Mood}: {t.Text}");
        var rightly = suggested.Count(t => t.Suggested == t.Mood) / (double)suggested.Length;
        var share = suggested.Count(t => t.Mood != Mood.Neutral) / (double)told.Count(t => t.Mood != Mood.Neutral);
        var none = told.Where(t => t.Suggested == null && t.Mood != Mood.Neutral).Select(t => $"none for {t.Mood}: {t.Text}");
        Assert.True(rightly >= right && share >= covered, $"{rightly:0.000} right, {share:0.000} covered\n{string.Join('\n', wrong.Concat(none))}");
        // Better none than a wrong one, least of all where there is nothing.
        Assert.InRange(told.Count(t => t.Mood == Mood.Neutral && t.Suggested != null) / (double)told.Count(t => t.Mood == Mood.Neutral), 0, 0.1);
    }

    [Theory]
    [InlineData("I am happy.", Mood.Joy)]
    [InlineData("I am not happy.", null)]
    [InlineData("It isn't horrible.", null)]
    [InlineData("Nobody is scared of you.", null)]
    [InlineData("Not me! I am flour and water.", null)]
    [InlineData("I heard steps on the roof.", null)]
    [InlineData("(proudly) The flour is on the scale.", Mood.Pride)]
    [InlineData("I’m scared.", Mood.Fear)]
    [InlineData("", null)]
    [InlineData("!!!", null)]
    public void A_negation_takes_a_word_back_and_a_direction_comes_first(string text, Mood? mood) =>
        Assert.Equal(mood, MoodSuggestions.For(text, Plain, [])?.Mood);
}
