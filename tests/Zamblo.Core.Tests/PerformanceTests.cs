using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

public class PerformanceTests
{
    private static readonly FrameRate Rate = new(25);

    private static Pose[] Evaluate(IReadOnlyList<PlacedSpeech> lines, PerformanceDials dials, FrameRate rate, int first, int count, double duration = 60) =>
        new Performer(new Part { Lines = lines, Dials = dials }, duration).Evaluate(rate, first, count);

    private static PlacedSpeech Talk(double start = 0.5)
    {
        var random = new Random(4);
        var phones = new List<(string, double)>();
        for (var i = 0; i < 160; i++)
            phones.Add(
                i % 24 == 23 ? ("SIL", 0.4)
                : i % 2 == 0 ? ("T", 0.07)
                : ("AA", 0.08 + 0.12 * random.NextDouble())
            );
        var speech = MouthTests.Say([.. phones]);
        for (var i = 0; i < speech.LevelsDb.Length; i++)
            speech.LevelsDb[i] = -28 + 14 * (float)Math.Sin(i / 17.0);
        return new PlacedSpeech(speech, start, new MouthDials());
    }

    [Fact]
    public void The_same_seed_gives_the_same_motion_and_another_gives_another()
    {
        var a = Evaluate([Talk()], new PerformanceDials { Seed = 7 }, Rate, 0, 300);
        Assert.Equal(a.Select(p => p.HeadTurn), Evaluate([Talk()], new PerformanceDials { Seed = 7 }, Rate, 0, 300).Select(p => p.HeadTurn));
        Assert.NotEqual(a.Select(p => p.HeadTurn), Evaluate([Talk()], new PerformanceDials { Seed = 8 }, Rate, 0, 300).Select(p => p.HeadTurn));
    }

    [Fact]
    public void A_stretch_evaluated_alone_equals_that_stretch_of_the_whole()
    {
        var whole = Evaluate([Talk()], new PerformanceDials(), Rate, 0, 300);
        var part = Evaluate([Talk()], new PerformanceDials(), Rate, 120, 60);
        for (var i = 0; i < 60; i++)
        {
            Assert.Equal(whole[120 + i].HeadNod, part[i].HeadNod, 4);
            Assert.Equal(whole[120 + i].LidLeft, part[i].LidLeft, 4);
            Assert.Equal(whole[120 + i].Mouth[MouthChannel.Jaw], part[i].Mouth[MouthChannel.Jaw], 3);
        }
    }

    [Fact]
    public void Speed_and_acceleration_of_the_head_stay_within_limits_over_a_thousand_seeds()
    {
        var fine = new FrameRate(100);
        for (var seed = 0; seed < 1000; seed++)
        {
            // Five seconds of each, elsewhere in the scene each time.
            var poses = Evaluate([Talk()], new PerformanceDials { Seed = seed }, fine, seed % 3 * 500, 500);
            for (var i = 1; i + 1 < poses.Length; i++)
            {
                foreach (var axis in (Func<Pose, float>[])[p => p.HeadTurn, p => p.HeadNod, p => p.HeadTilt])
                {
                    Assert.InRange((axis(poses[i + 1]) - axis(poses[i])) * 100, -160, 160);
                    Assert.InRange((axis(poses[i + 1]) - 2 * axis(poses[i]) + axis(poses[i - 1])) * 10_000, -4500, 4500);
                }
            }
        }
    }

    [Fact]
    public void Dials_at_nought_turn_motion_off()
    {
        var still = new PerformanceDials
        {
            Turn = 0,
            Nod = 0,
            Tilt = 0,
            Brows = 0,
            Blinks = 0,
            Body = 0,
        };
        foreach (var p in Evaluate([Talk()], still, Rate, 0, 300))
        {
            Assert.Equal((0, 0, 0, 0), (p.HeadTurn, p.HeadNod, p.HeadTilt, p.BrowLeft));
            Assert.Equal((0, 0), (p.ArmRight, p.Lean));
            Assert.InRange(p.LidLeft, 0.7f, 1);
        }
    }

    [Fact]
    public void Blink_rates_are_those_of_people()
    {
        // Bentivoglio et al. 1997 (from memory): 26 a minute in conversation, 17 at rest; intervals irregular.
        double Rate100(IReadOnlyList<PlacedSpeech> lines, double seconds)
        {
            var count = 0;
            for (var seed = 0; seed < 30; seed++)
            {
                var lids = Evaluate(lines, new PerformanceDials { Seed = seed }, Rate, 0, (int)(seconds * 25)).Select(p => p.LidLeft).ToArray();
                for (var i = 1; i < lids.Length; i++)
                    if (lids[i] < 0.5f && lids[i - 1] >= 0.5f)
                        count++;
            }
            return count * 60 / seconds / 30;
        }
        var talk = Talk(0);
        Assert.InRange(Rate100([talk], talk.Speech.Duration), 20, 32);
        Assert.InRange(Rate100([], 60), 13, 21);
    }

    [Fact]
    public void Who_has_no_line_never_moves_the_mouth_and_is_never_quite_still()
    {
        var poses = Evaluate([], new PerformanceDials(), Rate, 0, 500);
        Assert.All(poses, p => Assert.Equal(0, p.Mouth.Openness));
        Assert.True(poses.Max(p => p.HeadTurn) - poses.Min(p => p.HeadTurn) > 0.5f);
        Assert.True(poses.Max(p => p.Breath) - poses.Min(p => p.Breath) > 0.9f);
    }

    [Fact]
    public void Accents_fall_on_vowels_that_are_loud_or_long()
    {
        var speech = MouthTests.Say(("T", 0.1), ("AH", 0.08), ("T", 0.1), ("AA", 0.3), ("T", 0.1), ("AH", 0.08), ("T", 0.1), ("AH", 0.08));
        var prosody = Prosody.Of(speech);
        Assert.Equal(0.43, Assert.Single(prosody.Accents).Nucleus, 2);
        Assert.Single(prosody.Phrases);
        Assert.Equal(4, prosody.Syllables.Count);
    }
}
