using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Words at a boundary that was moved, and what was heard of a part of a recording when it becomes another part.</summary>
public class SeamWordsTests
{
    [Theory]
    [InlineData("I never", "I never said that", "said that")]
    [InlineData("so I said no", "I said, no no", "no")]
    [InlineData("he said", "Never mind", null)]
    [InlineData("", "hello there", "hello there")]
    [InlineData("we are done.", "are done", "")]
    public void What_comes_after_words_that_stay_is_told_by_the_longest_that_was_heard_again(string kept, string heard, string? gained)
    {
        Assert.Equal(gained, SeamWords.After(Words(kept), Words(heard)) is { } found ? string.Join(' ', found) : null);
        // The same from behind.
        var before = SeamWords.Before([.. Words(kept).Reverse()], [.. Words(heard).Reverse()]);
        Assert.Equal(gained, before == null ? null : string.Join(' ', before.Reverse()));
    }

    private static string[] Words(string text) => text.Split(' ', StringSplitOptions.RemoveEmptyEntries);

    [Fact]
    public void What_lies_in_both_parts_keeps_its_place_and_a_word_that_is_cut_through_is_gone()
    {
        PhoneSegment[] phones = [new("SIL", 0, 0.2), new("AA", 0.2, 0.6), new("B", 0.6, 1), new("SIL", 1, 1.2), new("IY", 1.2, 2)];
        var speech = new SpeechAnalysis(2, phones, [new("ab", 0.2, 1), new("ee", 1.2, 2)], new float[200], SpeechSource.Script);
        AudioBuffer Sound(double seconds) => new(new float[(int)(16000 * seconds)], 16000);
        // Half a second more in front, and the end within the second word.
        var more = CaredSpeech.Elsewhere([(speech, 0.5)], 0, Sound(2));
        Assert.Equal(new WordSegment("ab", 0.7, 1.5), Assert.Single(more.Words));
        Assert.Equal((0, 0.7), (more.Phones[0].Start, more.Phones[0].End));
        Assert.Equal(2, more.Phones[^1].End, 9);
        // Less in front: the first word is cut through.
        var less = CaredSpeech.Elsewhere([(speech, 0)], 0.5, Sound(1.5));
        Assert.Equal("ee", Assert.Single(less.Words).Text);
        Assert.Equal(0.7, less.Words[0].Start, 9);
        Assert.Equal(150, less.LevelsDb.Length, 1.0);
        Assert.Equal(("AA", 0, 0.1), (less.Phones[0].Phone, less.Phones[0].Start, Math.Round(less.Phones[0].End, 9)));
        // What its neighbour has heard comes with it.
        var both = CaredSpeech.Elsewhere([(speech, 2), (speech, 0)], 1.1, Sound(2.9));
        Assert.Equal(["ee", "ab", "ee"], both.Words.Select(w => w.Text));
        Assert.Equal([0.1, 1.1, 2.1], both.Words.Select(w => Math.Round(w.Start, 9)));
        Assert.Equal(2.9, both.Phones.Sum(p => p.Duration), 9);
    }
}
