using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Others who talk all the time behind a speaker: what is said is what is louder than they are.</summary>
public class CrowdTests
{
    // Two seconds of what is behind, three of somebody, and two again; the loudness of speech goes up and down as syllables do, with a closure of 0.1 s in it.
    private static float[] Levels(float behind)
    {
        var random = new Random(5);
        return
        [
            .. Enumerable
                .Range(0, 700)
                .Select(i => i is >= 200 and < 500 and not (>= 300 and < 310) ? -20 + 3 * MathF.Sin(i * 0.35f) : behind + 3 * random.NextSingle()),
        ];
    }

    private static float[] Voice(float behind) => [.. Enumerable.Range(0, 219).Select(i => i * 0.032 is >= 2 and < 5 ? 0.95f : behind)];

    [Fact]
    public void Where_only_the_others_talk_nobody_says_a_word()
    {
        var against = VoiceActivity.AgainstSilence(Levels(-32), Voice(0.9f));
        Assert.All(against[..180], a => Assert.True(a > 0));
        Assert.All(against[520..], a => Assert.True(a > 0));
        // The speaker is heard throughout, and a closure is not taken for the crowd.
        Assert.All(against[210..490], a => Assert.True(a <= 0));
    }

    [Fact]
    public void Noise_and_quiet_are_no_crowd()
    {
        // The voice model hears nobody in noise: what is near speech stays open, as before.
        var noise = VoiceActivity.AgainstSilence(Levels(-32), Voice(0.05f));
        Assert.All(noise[196..200], a => Assert.True(a <= 0));
        var quiet = VoiceActivity.AgainstSilence(Levels(-70), Voice(0.05f));
        Assert.All(quiet[196..200], a => Assert.True(a <= 0));
        Assert.All(VoiceActivity.AgainstSilence(Levels(-32), null), a => Assert.True(a <= 0));
    }
}
