using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Whistles and sighs are told by their own shape, whatever a model takes them for.</summary>
public class SoundShapeTests
{
    private const int Second = 16000;

    // Takes whatever is heard for one kind.
    private static VocalSoundModel Taken(VocalSoundKind kind, double start, double end) =>
        (_, frames) =>
        {
            var told = new float[10 * frames];
            for (var f = 0; f < frames; f++)
                told[(f >= 100 * start && f < 100 * end ? 2 + (int)kind : 0) * frames + f] = 1;
            return told;
        };

    private static readonly VocalSoundModel Nothing = Taken(VocalSoundKind.Hum, -1, -1);

    private static AudioBuffer Take(double seconds, Func<double, double> at)
    {
        var dice = new Random(5);
        return new AudioBuffer(
            [.. Enumerable.Range(0, (int)(seconds * Second)).Select(i => (float)(at((double)i / Second) + 0.0005 * (dice.NextDouble() - 0.5)))],
            Second
        );
    }

    private static bool In(double t, double start, double end) => t >= start && t < end;

    // Three harmonics of a voice.
    private static double Voice(double t, double hz) => 0.2 * Enumerable.Range(1, 3).Sum(k => Math.Sin(2 * Math.PI * k * hz * t) / k);

    [Fact]
    public void One_tone_that_glides_or_trembles_is_a_whistle()
    {
        var audio = Take(
            6,
            t =>
                In(t, 1, 1.8) ? 0.2 * Math.Sin(2 * Math.PI * (1500 * t + 200 * (t - 1) * (t - 1)))
                : In(t, 3, 3.5) ? 0.2 * Math.Sin(2 * Math.PI * 2000 * t + 2 * Math.Sin(2 * Math.PI * 5.5 * t))
                : 0
        );
        var found = VocalSounds.Find(audio, Nothing);
        Assert.Equal(2, found.Count);
        Assert.All(found, s => Assert.Equal(VocalSoundKind.Whistle, s.Kind));
        Assert.Equal(1, found[0].Start, 0.05);
        Assert.Equal(1.8, found[0].End, 0.05);
        Assert.Equal(3, found[1].Start, 0.05);
        Assert.Equal(3.5, found[1].End, 0.05);
        Assert.All(found, s => Assert.InRange(s.Confidence, 0.8f, 1));
    }

    [Fact]
    public void What_a_machine_or_a_voice_does_is_no_whistle()
    {
        // A tone that stands still; a voice, also one that cries out; a tone too short; one that is hardly heard beside the voice.
        var audio = Take(
            8,
            t =>
                In(t, 0.5, 1.5) ? 0.2 * Math.Sin(2 * Math.PI * 1500 * t)
                : In(t, 2, 3) ? Voice(t, 180)
                : In(t, 3.5, 4.5) ? Voice(t, 800 + 5 * Math.Sin(9 * t))
                : In(t, 5, 5.1) ? 0.2 * Math.Sin(2 * Math.PI * (1500 * t + 900 * (t - 5) * (t - 5)))
                : In(t, 6, 7) ? 0.006 * Math.Sin(2 * Math.PI * (1500 * t + 200 * (t - 6) * (t - 6)))
                : 0
        );
        Assert.Empty(VocalSounds.Find(audio, Nothing));
        // What a model alone takes for a whistle is not believed.
        Assert.Empty(VocalSounds.Find(audio, Taken(VocalSoundKind.Whistle, 2, 3)));
    }

    [Theory]
    [InlineData(VocalSoundKind.Laugh)]
    [InlineData(VocalSoundKind.Breath)]
    [InlineData(VocalSoundKind.Cheer)]
    public void A_breath_that_lasts_is_a_sigh_in_one_piece(VocalSoundKind taken)
    {
        var dice = new Random(1);
        double Breath(double t, double start, double end) => 0.1 * Math.Sin(Math.PI * (t - start) / (end - start)) * (dice.NextDouble() - 0.5);
        var audio = Take(5, t => In(t, 1, 2.4) ? Breath(t, 1, 2.4) : 0);
        // Found is only its beginning.
        var sigh = Assert.Single(VocalSounds.Find(audio, Taken(taken, 1.2, 1.9)));
        Assert.Equal(VocalSoundKind.Sigh, sigh.Kind);
        Assert.InRange(sigh.Start, 1, 1.25);
        Assert.InRange(sigh.End, 2.1, 2.4);
        // A short one stays what it was found to be, and so does a voice.
        var shorter = Take(5, t => In(t, 1, 1.45) ? Breath(t, 1, 1.45) : 0);
        Assert.Equal(taken, Assert.Single(VocalSounds.Find(shorter, Taken(taken, 1, 1.45))).Kind);
        var voiced = Take(5, t => In(t, 1, 2.4) ? Voice(t, 220) : 0);
        Assert.Equal(taken, Assert.Single(VocalSounds.Find(voiced, Taken(taken, 1, 2.4))).Kind);
    }
}
