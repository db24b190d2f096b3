using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>What listeners show of what they hear, and what hands and weight do meanwhile.</summary>
public class ListenerTests
{
    private static readonly FrameRate Rate = new(25);

    // One phrase of two seconds, so loud, with these words.
    private static PlacedSpeech Line(double start, float level = -20, string words = "")
    {
        var phones = Enumerable.Range(0, 16).Select(i => i % 2 == 0 ? ("AA", 0.15) : ("T", 0.1)).ToArray();
        var speech = MouthTests.Say(phones);
        Array.Fill(speech.LevelsDb, level);
        var said = words.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var each = said.Length == 0 ? 0 : speech.Duration / said.Length;
        return new PlacedSpeech(speech with { Words = [.. said.Select((w, i) => new WordSegment(w, i * each, (i + 1) * each))] }, start, new MouthDials());
    }

    private static Performer Listener(
        IReadOnlyList<PlacedSpeech> heard,
        IReadOnlyList<MoodSpan>? moods = null,
        int seed = 1,
        float listening = 1,
        IReadOnlyList<PlacedSpeech>? own = null,
        IReadOnlyList<MoodSpan>? feels = null,
        float direction = 0.5f
    ) =>
        new(
            new Part
            {
                Lines = own ?? [],
                Partners = [new Partner(direction, heard) { Moods = moods ?? [] }],
                Moods = feels ?? [],
                Rest = HandRest.Both,
                Dials = new PerformanceDials
                {
                    Seed = seed,
                    Listening = listening,
                    Blinks = 0,
                },
            },
            30
        );

    private static float Corners(Performer p, double t) => p.Evaluate(Rate, Rate.FrameAt(t), 1)[0].Mouth[MouthChannel.CornerLeft];

    // When a smile has half of its size, after a moment; null for none.
    private static double? SmileAfter(Performer p, double t)
    {
        var most = Enumerable.Range(0, 100).Max(i => Corners(p, t + i / 25.0));
        if (most < 0.15f)
            return null;
        for (var i = 0; ; i++)
            if (Corners(p, t + i / 25.0) > most / 2)
                return i / 25.0;
    }

    [Fact]
    public void A_shout_makes_a_listener_start_at_once_and_only_a_shout()
    {
        PlacedSpeech[] lines = [Line(1), Line(5), Line(9), Line(13, -20 + (float)Answers.ShoutDb + 1), Line(17, -20 + (float)Answers.ShoutDb - 1)];
        for (var seed = 1; seed <= 20; seed++)
        {
            var with = Listener(lines, seed: seed);
            var deaf = Listener(lines, seed: seed, listening: 0);
            float Start(double t) => with.Evaluate(Rate, Rate.FrameAt(t), 1)[0].BrowLeft - deaf.Evaluate(Rate, Rate.FrameAt(t), 1)[0].BrowLeft;
            // Within a third of a second after the first sound, and gone a second later.
            Assert.True(Enumerable.Range(0, 9).Max(i => Start(13 + i / 25.0)) > 0.6f);
            Assert.InRange(Start(14.4), -0.05f, 0.05f);
            foreach (var quiet in (double[])[5, 9, 17])
                Assert.True(Enumerable.Range(0, 12).All(i => Math.Abs(Start(quiet + i / 25.0)) < 0.05f));
        }
    }

    [Fact]
    public void A_joke_is_smiled_at_in_the_time_that_people_take()
    {
        MoodSpan[] glad = [new(Mood.Joy, 1, 3)];
        var delays = Enumerable.Range(1, 60).Select(seed => SmileAfter(Listener([Line(1)], glad, seed), 3)).ToArray();
        // 0.3 to 0.7 s after the phrase it begins, a fifth of a second later half of it is there.
        Assert.All(delays, d => Assert.InRange(d!.Value, 0.25, 0.95));
        Assert.True(delays.Max() - delays.Min() > 0.2);
        // Laughter needs no mood that somebody has laid.
        Assert.NotNull(SmileAfter(Listener([Line(1, words: "ha ha what a night")]), 3));
        Assert.Null(SmileAfter(Listener([Line(1, words: "what a night")]), 3));
        Assert.Null(SmileAfter(Listener([Line(1)], glad, listening: 0), 3));
    }

    [Fact]
    public void Who_is_accused_looks_away_or_frowns_and_who_is_not_meant_does_neither()
    {
        int away = 0,
            frowns = 0;
        for (var seed = 1; seed <= 60; seed++)
        {
            var p = Listener([Line(1, words: "you stole it")], seed: seed);
            var poses = p.Evaluate(Rate, Rate.FrameAt(3), 50);
            var other = Listener([Line(1, words: "we sold it")], seed: seed).Evaluate(Rate, Rate.FrameAt(3), 50);
            var isAway = poses.Zip(other).Any(x => x.First.GazeX < -0.1f && x.First.GazeY > 0.25f && x.Second.GazeX > x.First.GazeX + 0.2f);
            var isFrown = poses.Max(x => x.BrowKnit) > 0.25f;
            Assert.True(isAway || isFrown || poses.Min(x => x.BrowKnit) < -0.15f, $"seed {seed}");
            away += isAway ? 1 : 0;
            frowns += isFrown ? 1 : 0;
            Assert.True(other.All(x => Math.Abs(x.BrowKnit) < 0.05f));
        }
        Assert.InRange(away, 12, 48);
        Assert.InRange(frowns, 15, 45);
    }

    [Fact]
    public void A_feeling_of_ones_own_comes_first_and_one_that_is_shown_is_over_before_one_speaks()
    {
        MoodSpan[] glad = [new(Mood.Joy, 1, 3)];
        var sad = Listener([Line(1)], glad, feels: [new(Mood.Sadness, 0, 20, 1)]);
        Assert.True(Enumerable.Range(0, 100).All(i => Corners(sad, 2 + i / 25.0) < -0.5f));
        // Every contact of the lips is there although the line before was a joke.
        var own = new PlacedSpeech(MouthTests.Say(("M", 0.12), ("AA", 0.3), ("P", 0.12), ("AA", 0.3)), 3.4, new MouthDials());
        for (var seed = 1; seed <= 30; seed++)
        {
            var with = Listener([Line(1)], glad, seed, own: [own]);
            var deaf = Listener([Line(1)], glad, seed, listening: 0, own: [own]);
            for (var i = 0; i < 40; i++)
            {
                var frame = Rate.FrameAt(3.3) + i;
                Assert.Equal(deaf.Evaluate(Rate, frame, 1)[0].Mouth.Openness, with.Evaluate(Rate, frame, 1)[0].Mouth.Openness, 3);
            }
        }
    }

    [Fact]
    public void Two_who_listen_with_the_same_seed_never_do_the_same_at_the_same_time()
    {
        PlacedSpeech[] lines = [.. Enumerable.Range(0, 6).Select(i => Line(1 + 4 * i))];
        MoodSpan[] moods = [.. Enumerable.Range(0, 6).Select(i => new MoodSpan(i % 2 == 0 ? Mood.Joy : Mood.Sadness, 1 + 4 * i, 3 + 4 * i))];
        Performer left = Listener(lines, moods, direction: 0.8f),
            right = Listener(lines, moods, direction: -0.4f);
        var same = Enumerable.Range(0, 6).Count(i => Math.Abs((SmileAfter(left, 3 + 4 * i) ?? -1) - (SmileAfter(right, 3 + 4 * i) ?? -2)) < 0.02);
        Assert.True(same <= 1, $"{same} of 6");
    }

    [Fact]
    public void Hands_rest_in_several_ways_that_suit_the_mood_and_go_from_one_to_the_next_without_a_jump()
    {
        Pose[] Of(HandRest rest, Mood mood, int seed) =>
            new Performer(
                new Part
                {
                    Rest = rest,
                    Moods = mood == Mood.Neutral ? [] : [new MoodSpan(mood, 0, 60, 1)],
                    Dials = new PerformanceDials { Seed = seed },
                },
                60
            ).Evaluate(Rate, 0, 1500);
        for (var seed = 1; seed <= 40; seed++)
        {
            var poses = Of(HandRest.Both, Mood.Neutral, seed);
            var ways = poses
                .Where(p => p.HandLeft is < 0.01f or > 0.99f)
                .Select(p => (p.HandLeft > 0.5f, p.HandRight > 0.5f, Math.Round(p.HandLeftX, 1)))
                .Distinct();
            Assert.InRange(ways.Count(), 2, 12);
            for (var i = 1; i < poses.Length; i++)
            {
                Assert.InRange(poses[i].HandLeft - poses[i - 1].HandLeft, -0.09f, 0.09f);
                Assert.InRange(poses[i].HandRightX - poses[i - 1].HandRightX, -0.05f, 0.05f);
            }
            // Never one way for longer than 14 seconds.
            static float Apart(Pose a, Pose b) =>
                Math.Abs(a.HandLeft - b.HandLeft)
                + Math.Abs(a.HandRight - b.HandRight)
                + Math.Abs(a.HandLeftX - b.HandLeftX)
                + Math.Abs(a.HandRightX - b.HandRightX);
            Assert.All(poses.Chunk(14 * 25).Where(c => c.Length == 350), c => Assert.Contains(c, p => Apart(p, c[0]) > 0.02f));
            Assert.InRange(Of(HandRest.Both, Mood.Anger, seed).Average(p => p.HandLeft + p.HandRight), 1.2, 2);
            Assert.All(Of(HandRest.LeftOnly, Mood.Pride, seed), p => Assert.Equal(0, p.HandRight));
            Assert.All(Of(HandRest.None, Mood.Anger, seed), p => Assert.Equal((0, 0), (p.HandLeft, p.HandRight)));
        }
    }

    [Fact]
    public void A_gesture_of_the_arm_takes_the_hand_from_where_it_rests_and_a_walk_both()
    {
        var wave = Gestures.Find("wave")!;
        for (var seed = 1; seed <= 20; seed++)
        {
            var p = new Performer(
                new Part
                {
                    Rest = HandRest.Both,
                    Moods = [new MoodSpan(Mood.Anger, 0, 60, 1)],
                    Gestures = [new GestureSpan(wave, 10, 12)],
                    Path = new StagePath([new Walk(20, 22, 0.6f, null)], Gait.Step, 0.16f),
                    Dials = new PerformanceDials { Seed = seed },
                },
                60
            );
            Assert.Equal(0, p.Evaluate(Rate, Rate.FrameAt(11), 1)[0].HandRight, 3);
            var walking = p.Evaluate(Rate, Rate.FrameAt(21), 1)[0];
            Assert.Equal((0, 0), (walking.HandLeft, walking.HandRight));
        }
    }

    [Fact]
    public void People_have_hands_that_rest_and_what_is_held_is_not_put_down()
    {
        Assert.Equal(HandRest.Both, TestData.Cast.Character("maro").Rest);
        Assert.Equal(HandRest.None, TestData.Cast.Character("tock").Rest);
        var rests = TestData.Cast.CharacterKeys.Select(k => TestData.Cast.Character(k).Rest).ToArray();
        Assert.True(rests.Count(r => r == HandRest.Both) >= 8);
    }

    [Fact]
    public void Nobody_is_a_stone_while_others_talk()
    {
        // In any ten seconds of a minute the body leans by half a degree and more.
        PlacedSpeech[] lines = [.. Enumerable.Range(0, 20).Select(i => Line(1 + 3 * i))];
        for (var seed = 1; seed <= 20; seed++)
        {
            var poses = Listener(lines, seed: seed).Evaluate(Rate, 0, 750);
            foreach (var ten in poses.Chunk(250))
                Assert.True(ten.Max(p => p.Lean) - ten.Min(p => p.Lean) > 0.5f, $"seed {seed}");
        }
    }

    [Fact]
    public void Who_is_cut_off_holds_still_before_anything_else()
    {
        // Held or not, in the half second after the last sound, summed over seeds: hands and tilt, which follow nothing but one's own voice.
        static double Moved(double otherStarts, double otherEnds)
        {
            double sum = 0;
            for (var seed = 1; seed <= 40; seed++)
            {
                var other = Line(otherStarts);
                PlacedSpeech[] heard = otherEnds > otherStarts ? [other] : [];
                var poses = Listener(heard, seed: seed, own: [Line(0.5)], listening: 0).Evaluate(Rate, Rate.FrameAt(2.5), 15);
                sum += poses.Zip(poses.Skip(1), (a, b) => Math.Abs(b.ArmRight - a.ArmRight) + Math.Abs(b.HeadTilt - a.HeadTilt)).Skip(3).Sum();
            }
            return sum;
        }
        double cut = Moved(1.9, 3.9),
            alone = Moved(0, 0);
        Assert.True(cut < 0.4 * alone, $"{cut:F1} of {alone:F1}");
    }

    [Fact]
    public void A_hold_loses_no_time_and_never_runs_backwards()
    {
        static PlacedSpeech[] At(double start) => [Line(start)];
        var held = new HeldMoments(new Floor([.. At(0.5), .. At(6)], [new Partner(0.5f, [.. At(1.9), .. At(8.1)])]));
        // The first is cut off; the second has ended when the other begins.
        Assert.Equal(2.44, Assert.Single(held.Starts), 2);
        var last = double.MinValue;
        for (var t = 0.0; t < 10; t += 0.01)
        {
            var h = held.At(t);
            Assert.InRange(h, last, t + 1e-9);
            last = h;
        }
        Assert.Equal(2, held.At(2), 9);
        Assert.Equal(held.At(2.7), held.At(3.0), 9);
        Assert.Equal(5, held.At(5), 9);
        // Who only agrees cuts nobody off.
        var agrees = Line(1.9);
        var brief = agrees.Speech with { Phones = [.. agrees.Speech.Phones.Take(2)] };
        Assert.Empty(new HeldMoments(new Floor(At(0.5), [new Partner(0.5f, [new PlacedSpeech(brief, 1.9, new MouthDials())])])).Starts);
    }
}
