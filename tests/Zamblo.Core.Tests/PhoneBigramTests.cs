using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Which sounds follow each other, learned of many words and of few.</summary>
public class PhoneBigramTests
{
    private static readonly string[] Sounds = [.. Arpabet.Phones, Arpabet.Silence];

    private static PhoneBigram Of(int words)
    {
        string[] said = ["no N OW", "oh OW", "none N AH N", "own OW N", "nun N AH N", "on AA N"];
        var lines = Enumerable.Range(0, words).Select(i => $"w{i} {said[i % said.Length].Split(' ', 2)[1]}");
        return PhoneBigram.FromDictionary(PronunciationDictionary.Read(new StringReader(string.Join('\n', lines))));
    }

    [Theory]
    [InlineData(6)]
    [InlineData(6000)]
    public void After_each_sound_something_comes(int words)
    {
        var bigram = Of(words);
        foreach (var sound in (string[])["N", "OW", "AH"])
            Assert.Equal(1, Sounds.Sum(b => Math.Exp(bigram.Log(sound, b))), 0.02);
        Assert.True(bigram.Log("N", "OW") > bigram.Log("N", "S"));
    }

    [Fact]
    public void Few_words_leave_room_for_what_they_do_not_have()
    {
        // Nothing is said as "own oh" within a word, but both sounds are there; "s" is nowhere.
        var few = Of(6);
        Assert.True(few.Log("AH", "OW") > few.Log("AH", "S") + 2);
        // Of many words such a pair is as rare as any.
        var many = Of(6000);
        Assert.Equal(many.Log("AH", "S"), many.Log("AH", "OW"), 0.001f);
        Assert.True(few.Log("AH", "OW") > many.Log("AH", "OW") + 2);
    }
}
