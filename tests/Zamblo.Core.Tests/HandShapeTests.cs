using System.Numerics;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Wardrobe;

namespace Zamblo.Core.Tests;

/// <summary>What hands do with their fingers, and what a body does that has none.</summary>
public class HandShapeTests
{
    private static readonly CastLibrary Library = CastLibrary.Shipped();

    private static Gesture Named(string key) => Gestures.Find(key)!;

    private static Pose At(Gesture gesture, double t, bool mirror = false)
    {
        var pose = Pose.Neutral;
        Gestures.Apply([new GestureSpan(gesture, 0, gesture.Length, Mirror: mirror)], t, ref pose);
        return pose;
    }

    // Parts of a figure that are seen in a pose.
    private static HashSet<string> Seen(DrawnFigure figure, Pose pose)
    {
        var items = new DrawItem[figure.Shapes.Count];
        figure.Draw(pose, Matrix3x2.Identity, items);
        return [.. figure.PartsOfShapes.Where((_, i) => items[i].Opacity > 0)];
    }

    public static TheoryData<string> WithHands() => [.. Handed()];

    private static IEnumerable<string> Handed() =>
        Library.CharacterKeys.Where(k => Library.Character(k) is DrawnFigure d && d.Rig.Parts.Any(p => p.Hand is { IsRight: false }));

    [Fact]
    public void Everybody_with_hands_has_ten_shapes_of_them()
    {
        Assert.InRange(Handed().Count(), 10, 40);
        // All but those with a tool in one.
        var both = Handed().Count(k => ((DrawnFigure)Library.Character(k)).Rig.Parts.Count(p => p.Hand != null) == 20);
        Assert.Equal(Handed().Count(k => Library.RecipeOf(k)?.PartOf("tool") is null or "none"), both);
    }

    [Theory]
    [MemberData(nameof(WithHands))]
    public void One_shape_of_each_hand_is_seen_whatever_the_fingers_do(string key)
    {
        var figure = (DrawnFigure)Library.Character(key);
        foreach (var shape in Enum.GetValues<HandShape>())
        {
            var seen = Seen(figure, Pose.Neutral with { HandShapeLeft = shape, HandShapeRight = shape });
            Assert.Single(seen, p => p.StartsWith("hand-left"));
            Assert.Single(seen, p => p.StartsWith("hand-right"));
            Assert.Contains(seen, p => p == (shape == HandShape.Relaxed ? "hand-left" : $"hand-left-{shape.ToString().ToLowerInvariant()}"));
        }
    }

    [Theory]
    [InlineData("point", 0.5, HandShape.Point)]
    [InlineData("count", 0.5, HandShape.Point)]
    [InlineData("count", 1.0, HandShape.Two)]
    [InlineData("count", 1.6, HandShape.Three)]
    [InlineData("thumb-up", 0.6, HandShape.Thumb)]
    [InlineData("shake-fist", 0.6, HandShape.Fist)]
    [InlineData("pinch", 0.8, HandShape.Pinch)]
    [InlineData("stop", 0.6, HandShape.Open)]
    [InlineData("beat", 0.4, HandShape.Relaxed)]
    public void Fingers_do_what_the_gesture_is_called_and_those_of_the_other_hand_when_it_is_mirrored(string gesture, double t, HandShape shape)
    {
        var pose = At(Named(gesture), t);
        Assert.Equal((shape, HandShape.Relaxed), (pose.HandShapeRight, pose.HandShapeLeft));
        pose = At(Named(gesture), t, mirror: true);
        Assert.Equal((shape, HandShape.Relaxed), (pose.HandShapeLeft, pose.HandShapeRight));
    }

    [Fact]
    public void Of_two_gestures_the_stronger_has_the_hand_and_joined_they_keep_their_times()
    {
        GestureSpan[] spans = [new(Named("point"), 0, 1.5), new(Named("shake-fist"), 1.2, 2.9)];
        var joined = Gestures.Join(spans, "both");
        foreach (var (t, shape) in new[] { (0.6, HandShape.Point), (1.9, HandShape.Fist) })
        {
            var apart = Pose.Neutral;
            Gestures.Apply(spans, t, ref apart);
            Assert.Equal((shape, shape), (apart.HandShapeRight, At(joined, t).HandShapeRight));
        }
    }

    [Fact]
    public void Anger_makes_fists_and_what_is_carried_is_held()
    {
        var part = new Part { Moods = [new MoodSpan(Mood.Anger, 0, 4, 1)] };
        Assert.Equal(HandShape.Fist, new Performer(part, 4).Evaluate(new FrameRate(25), 50, 1)[0].HandShapeLeft);
        var pose = Pose.Neutral;
        new CarrySpan(0, 4, true, new Vector2(0, 0.5f), null, null).Apply(2, ref pose);
        Assert.Equal((HandShape.Hold, HandShape.Relaxed), (pose.HandShapeRight, pose.HandShapeLeft));
    }

    [Fact]
    public void A_hand_with_a_tool_in_it_keeps_its_hold()
    {
        var tool = Tailor.Stock().First(k => k.Kind == "tool").Parts.First(p => p.Key != "none").Key;
        var figure = (DrawnFigure)Tailor.Make(Tailor.AtRandom(3).With("tool", tool), "tried");
        Assert.DoesNotContain(figure.Rig.Parts, p => p.Hand is { IsRight: true, Shape: not HandShape.Relaxed });
        Assert.Equal(HandRest.LeftOnly, figure.Rest);
        Assert.Equal(HandRest.Both, Tailor.Make(Tailor.AtRandom(3).With("tool", "none"), "tried").Rest);
    }

    // Whatever hands would say, a body without them says by head, lean, height or hops, so that it is seen.
    [Fact]
    public void Without_arms_the_whole_body_says_what_hands_would()
    {
        string[] arms = ["arm", "elbow", "hand"];
        foreach (var gesture in Gestures.All)
        {
            var bare = gesture.For(ArmKind.None);
            Assert.Same(gesture, gesture.For(ArmKind.Jointed));
            // Stumps go up along with it, and reach for nothing.
            Assert.DoesNotContain(gesture.For(ArmKind.Stump).Tracks.Keys, k => k.StartsWith("hand") && gesture.Part == "hands");
            if (gesture.Part == "hands")
                Assert.NotEmpty(gesture.Bodily);
            Assert.DoesNotContain(bare.Tracks.Keys, k => arms.Any(k.StartsWith) && gesture.Part == "hands");
            // What moves most of it, against what is clearly seen: degrees, or shares of its height.
            double Most(string channel) => bare.Tracks.TryGetValue(channel, out var keys) ? keys.Max(k => Math.Abs(k[1])) : 0;
            var seen = new[] { Most("headNod") / 5, Most("headTurn") / 7, Most("headTilt") / 5, Most("lean") / 4, Most("stretch") / 0.03, Most("rise") / 0.02 };
            if (gesture.Part == "hands")
                Assert.True(seen.Max() >= 1, gesture.Key);
        }
    }

    // A hand at the chin is drawn after the face, one that hangs before it; it is never there twice.
    [Theory]
    [MemberData(nameof(WithHands))]
    public void A_hand_that_is_raised_is_in_front_of_the_face(string key)
    {
        var figure = (DrawnFigure)Library.Character(key);
        var face = figure.PartsOfShapes.ToList().LastIndexOf("skull");
        foreach (var (pose, isFront) in new[] { (Pose.Neutral, false), (At(Named("think"), 1.2), true), (At(Named("stop"), 0.6), true) })
        {
            var items = new DrawItem[figure.Shapes.Count];
            figure.Draw(pose, Matrix3x2.Identity, items);
            var seen = Enumerable.Range(0, items.Length).Where(i => items[i].Opacity > 0 && figure.PartsOfShapes[i].StartsWith("fore-right")).ToArray();
            Assert.NotEmpty(seen);
            Assert.All(seen, i => Assert.Equal(isFront, i > face));
            Assert.Equal(figure.PartsOfShapes.Count(p => p == "fore-right") / 2, seen.Length);
        }
    }

    // Raised as far as anybody raises an arm, a stump is still beside the body that it belongs to, not behind it.
    [Theory]
    [InlineData("tock")]
    [InlineData("bubb")]
    [InlineData("sift")]
    public void Stumps_stay_in_sight_however_high_they_are_raised(string key)
    {
        var figure = (DrawnFigure)Library.Character(key);
        Assert.Equal(HandRest.None, figure.Rest);
        foreach (var right in new[] { false, true })
        {
            var rest = figure.HandAt(Pose.Neutral, right, Matrix3x2.Identity)!.Value;
            foreach (var angle in new[] { 30f, 72, 128 })
            {
                var raised = figure.HandAt(Pose.Neutral with { ArmLeft = angle, ArmRight = angle }, right, Matrix3x2.Identity)!.Value;
                Assert.True(raised.Y < rest.Y - 8, $"{angle}: {rest} {raised}");
                Assert.True(right ? raised.X > rest.X - 12 : raised.X < rest.X + 12, $"{angle}: {rest} {raised}");
            }
        }
    }

    // No two of them are the same motion under two names: over their whole length they differ by more than a small nod does from nothing.
    [Fact]
    public void Bodies_without_arms_say_different_things_differently()
    {
        var hands = Gestures.All.Where(g => g.Part == "hands").Select(g => g.For(ArmKind.None)).ToArray();
        float[] Over(Gesture g) =>
            [
                .. Enumerable
                    .Range(0, 20)
                    .Select(i => At(g, g.Length * (i + 0.5) / 20))
                    .SelectMany(p => new[] { p.HeadNod / 10, p.HeadTurn / 20, p.HeadTilt / 10, p.Lean / 8, p.Stretch / 0.06f, p.Rise / 0.06f }),
            ];
        for (var i = 0; i < hands.Length; i++)
        for (var j = 0; j < i; j++)
        {
            var apart = Over(hands[i]).Zip(Over(hands[j]), (a, b) => (a - b) * (a - b)).Sum() / 20;
            Assert.True(apart > 0.1, $"{hands[i].Key} and {hands[j].Key}: {apart:0.000}");
        }
    }

    [Fact]
    public void Who_has_something_in_a_hand_counts_with_the_other()
    {
        var rate = new FrameRate(25);
        Pose Counts(string who, bool mirror, string gesture = "count")
        {
            var member = new StageMember(Library.Character(who), 640, 700, 1, true, [], new PerformanceDials())
            {
                Gestures = [new GestureSpan(Named(gesture), 0, 2.1, Mirror: mirror)],
            };
            return new StageScene(Library.Backdrop("paper"), [member], rate, 3).PosesOf(0)[12];
        }
        Assert.Equal(HandRest.LeftOnly, Library.Character("tarek").Rest);
        Assert.Equal(HandRest.Both, Library.Character("odo").Rest);
        // Up is less than 0: of the hand that counts.
        Assert.True(Counts("odo", false).HandRightY < 0 && Counts("odo", true).HandLeftY < 0);
        Assert.True(Counts("tarek", false).HandLeftY < 0 && Counts("tarek", true).HandRightY < 0);
        // What takes both hands takes both.
        Assert.False(Named("cheer").IsOfOneHand);
        Assert.False((Named("count") with { Key = Gesture.Performed }).IsOfOneHand);
    }

    [Fact]
    public void What_only_fingers_can_say_is_offered_to_hands_alone()
    {
        Assert.Equal(["pinch"], Gestures.All.Where(g => g.NeedsHands).Select(g => g.Key));
        // All else that takes arms has a way of its own for bodies without them.
        Assert.All(
            Gestures.All.Where(g => !g.NeedsHands && g.Tracks.Keys.Any(k => k.StartsWith("hand", StringComparison.Ordinal))),
            g => Assert.NotEmpty(g.Bodily)
        );
    }
}
