using System.Numerics;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>Limbs, springs, walks and motion by hand, against closed forms.</summary>
public sealed class BodyTests
{
    [Theory]
    [InlineData(3, 4, 5, 0, 1)]
    [InlineData(100, 120, 80, 150, 1)]
    [InlineData(100, 120, -130, 90, -1)]
    [InlineData(1, 1, 0.2, -0.9, -1)]
    public void Two_bones_end_at_their_target_and_bend_to_the_side_that_is_asked_for(float upper, float lower, float x, float y, int bend)
    {
        var target = new Vector2(x, y);
        var (first, second) = TwoBones.Reach(upper, lower, target, bend);
        var joint = upper * new Vector2(MathF.Cos(first), MathF.Sin(first));
        var end = joint + lower * new Vector2(MathF.Cos(second), MathF.Sin(second));
        Assert.True(Vector2.Distance(target, end) < 1e-3f * (upper + lower), $"ended at {end}");
        Assert.Equal(bend, Math.Sign(target.X * joint.Y - target.Y * joint.X));
    }

    [Fact]
    public void Two_bones_of_3_and_4_make_a_right_angle_over_5()
    {
        // Pythagoras: the angle at the joint is 90 degrees, that at the root has a cosine of 3/5.
        var (first, second) = TwoBones.Reach(3, 4, new Vector2(5, 0), 1);
        Assert.Equal(MathF.Acos(0.6f), first, 4);
        Assert.Equal(-MathF.PI / 2, second - first, 4);
    }

    [Fact]
    public void What_is_too_far_is_pointed_at_with_a_straight_limb()
    {
        var (first, second) = TwoBones.Reach(1, 1, new Vector2(0, 10), 1);
        Assert.Equal(MathF.PI / 2, first, 0.02f);
        Assert.Equal(MathF.PI / 2, second, 0.02f);
    }

    [Theory]
    [InlineData(2, 0.2)]
    [InlineData(3, 0.5)]
    [InlineData(1.5, 1)]
    [InlineData(2, 1.4)]
    public void A_spring_lags_as_the_damped_oscillator_does(double frequency, double damping)
    {
        // What it hangs on goes off at an even speed v: x'' + 2 d w x' + w^2 x = 0 with x(0) = 0, x'(0) = -v, as any textbook of mechanics solves it;
        // here against Runge and Kutta's fourth-order steps of the same equation.
        const double step = 0.02,
            v = 0.7;
        var spring = new Spring((float)frequency, (float)damping);
        double w = 2 * Math.PI * frequency,
            x = 0,
            dx = -v;
        const int still = 3,
            frames = 60;
        float[] motion = [.. Enumerable.Range(0, still + frames).Select(i => (float)(v * step * Math.Max(0, i - still + 1)))];
        for (var i = still; i < motion.Length; i++)
        {
            for (var k = 0; k < 200; k++)
            {
                const double h = step / 200;
                double A(double p, double q) => -2 * (double)spring.Damping * w * q - w * w * p;
                double k1 = dx,
                    l1 = A(x, dx),
                    k2 = dx + h / 2 * l1,
                    l2 = A(x + h / 2 * k1, dx + h / 2 * l1),
                    k3 = dx + h / 2 * l2,
                    l3 = A(x + h / 2 * k2, dx + h / 2 * l2),
                    k4 = dx + h * l3,
                    l4 = A(x + h * k3, dx + h * l3);
                (x, dx) = (x + h / 6 * (k1 + 2 * k2 + 2 * k3 + k4), dx + h / 6 * (l1 + 2 * l2 + 2 * l3 + l4));
            }
            Assert.Equal(x, spring.Lag(motion.AsSpan(0, i + 1), step), 0.0002);
        }
    }

    [Fact]
    public void Steps_put_each_foot_down_once_and_it_stays_there()
    {
        var path = new StagePath([new Walk(1, 4, 1.2f)], Gait.Step);
        var feet = new List<(double T, float Left, float Right, float LeftUp, float RightUp, float Body)>();
        for (var t = 0.5; t < 4.5; t += 0.01)
        {
            var pose = Pose.Neutral;
            path.Apply(t, ref pose);
            feet.Add((t, pose.ShiftX + pose.FootLeftX, pose.ShiftX + pose.FootRightX, pose.FootLeftUp, pose.FootRightUp, pose.ShiftX));
        }
        for (var i = 1; i < feet.Count; i++)
        {
            // A foot on the ground does not slide (the last step, in which the feet come together, apart).
            if (feet[i].T < 3.5 && feet[i].LeftUp == 0 && feet[i - 1].LeftUp == 0)
                Assert.Equal(feet[i - 1].Left, feet[i].Left, 1e-3f);
            if (feet[i].T < 3.5 && feet[i].RightUp == 0 && feet[i - 1].RightUp == 0)
                Assert.Equal(feet[i - 1].Right, feet[i].Right, 1e-3f);
            Assert.True(feet[i].LeftUp == 0 || feet[i].RightUp == 0, "one foot is always on the ground");
            Assert.True(feet[i].Body >= feet[i - 1].Body - 1e-6);
        }
        Assert.Equal((0f, 1.2f), (path.At(0.5), path.At(5)));
        Assert.Equal(1.2f, feet[^1].Left, 1e-3f);
        Assert.Equal(1.2f, feet[^1].Right, 1e-3f);
    }

    [Theory]
    [InlineData(WalkManner.Walk)]
    [InlineData(WalkManner.Stroll)]
    [InlineData(WalkManner.Tiptoe)]
    [InlineData(WalkManner.Run)]
    public void In_every_manner_feet_stay_where_they_are_put(WalkManner manner)
    {
        var seconds = 3 / StagePath.PaceOf(manner);
        var path = new StagePath([new Walk(1, 1 + seconds, 1.2f, null, manner)], Gait.Step);
        Pose At(double t)
        {
            var pose = Pose.Neutral;
            path.Apply(t, ref pose);
            return pose;
        }
        for (var t = 0.9; t < 1 + 0.65 * seconds; t += 0.005)
        {
            var (a, b) = (At(t), At(t + 0.005));
            // Less than one hundredth of the height.
            if (a.FootLeftUp == 0 && b.FootLeftUp == 0)
                Assert.Equal(a.ShiftX + a.FootLeftX, b.ShiftX + b.FootLeftX, 1e-3f);
            if (a.FootRightUp == 0 && b.FootRightUp == 0)
                Assert.Equal(a.ShiftX + a.FootRightX, b.ShiftX + b.FootRightX, 1e-3f);
        }
        Assert.Equal(1.2f, At(1 + seconds).ShiftX, 1e-3f);
    }

    [Fact]
    public void Manners_of_walking_are_told_apart()
    {
        Pose Middle(WalkManner manner, Gait gait = Gait.Step)
        {
            var path = new StagePath([new Walk(0, 3 / StagePath.PaceOf(manner), 1.2f, null, manner)], gait);
            var pose = Pose.Neutral;
            path.Apply(1.5 / StagePath.PaceOf(manner), ref pose);
            return pose;
        }
        float Highest(WalkManner manner, Gait gait, Func<Pose, float> of)
        {
            var path = new StagePath([new Walk(0, 3 / StagePath.PaceOf(manner), 1.2f, null, manner)], gait);
            return Enumerable
                .Range(0, 300)
                .Max(i =>
                {
                    var pose = Pose.Neutral;
                    path.Apply(i * 0.01 / StagePath.PaceOf(manner), ref pose);
                    return of(pose);
                });
        }
        // A run leans furthest and leaves the ground, a stroll leans back; who goes on tiptoe is bent, and lifts feet higher than who walks.
        Assert.True(Middle(WalkManner.Run).Lean > Middle(WalkManner.Tiptoe).Lean && Middle(WalkManner.Tiptoe).Lean > Middle(WalkManner.Walk).Lean);
        Assert.True(Middle(WalkManner.Stroll).Lean < 0);
        Assert.True(Highest(WalkManner.Run, Gait.Step, p => p.Rise) > 0.02f && Highest(WalkManner.Walk, Gait.Step, p => p.Rise) == 0);
        Assert.True(Highest(WalkManner.Hop, Gait.Step, p => p.Rise) > 0.04f);
        Assert.True(Highest(WalkManner.Tiptoe, Gait.Step, p => p.FootLeftUp) > 1.4f * Highest(WalkManner.Walk, Gait.Step, p => p.FootLeftUp));
        Assert.True(Middle(WalkManner.Tiptoe).Crouch > Middle(WalkManner.Walk).Crouch + 0.01f);
        Assert.True(Middle(WalkManner.Run).ElbowLeft > 60 && Middle(WalkManner.Walk).ElbowLeft == 0);
        // Jars hop lower when they are not to be heard.
        Assert.True(Highest(WalkManner.Tiptoe, Gait.Hop, p => p.Rise) < 0.5f * Highest(WalkManner.Run, Gait.Hop, p => p.Rise));
    }

    [Fact]
    public void A_walk_goes_on_where_the_one_before_has_led_and_an_entrance_waits_off_stage()
    {
        var path = new StagePath([new Walk(6, 7, 0.2f), new Walk(2, 3, 0, -1.5f)], Gait.Hop);
        Assert.Equal(-1.5f, path.At(0));
        Assert.Equal(0, path.At(4), 1e-6f);
        Assert.Equal(0.1f, path.At(6.5), 1e-3f);
        for (var t = 1.0; t < 8; t += 0.04)
            Assert.True(Math.Abs(path.At(t + 0.04) - path.At(t)) < 0.12f);
    }

    [Fact]
    public void Keys_of_a_performance_are_few_and_stay_with_what_was_performed()
    {
        var samples = Enumerable.Range(0, 600).Select(i => new[] { i / 60.0, 10 * Math.Sin(i / 60.0 * 2.1) + 3 * Math.Sin(i / 60.0 * 5) }).ToArray();
        var keys = MotionKeys.Reduce(samples, 0.4);
        Assert.True(keys.Length < 60, $"{keys.Length} keys");
        Assert.All(samples, s => Assert.Equal(s[1], Keys.At(keys, s[0]), 0.4001));
        Assert.Single(MotionKeys.Reduce([.. samples.Select(s => new[] { s[0], 5.0 })], 0.4));
        // A tremor of 12 Hz goes, a nod of 1 Hz stays, and both ends are where they were.
        var shaky = Enumerable
            .Range(0, 300)
            .Select(i => new[] { i / 100.0, Math.Sin(2 * Math.PI * i / 100) + 0.2 * Math.Sin(2 * Math.PI * 12 * i / 100) })
            .ToArray();
        var smooth = MotionKeys.Smooth(shaky, 0.03);
        // A Gaussian of deviation s lets exp(-(2 pi f s)^2 / 2) of a sine through: 0.98 of 1 Hz, 0.08 of 12 Hz.
        for (var i = 40; i < 260; i++)
            Assert.Equal(0.982 * Math.Sin(2 * Math.PI * i / 100), smooth[i][1], 0.03);
        Assert.Equal(shaky[0][1], smooth[0][1], 9);
        Assert.Equal(shaky[^1][1], smooth[^1][1], 9);
    }

    [Fact]
    public void A_motion_that_replaces_is_all_that_moves_and_one_that_is_added_lies_on_top()
    {
        var nod = new Gesture
        {
            Key = "own",
            Name = "n",
            Part = "own",
            Length = 2,
            Stroke = 1,
            Tracks = new Dictionary<string, double[][]>
            {
                ["headNod"] =
                [
                    [0, 7],
                ],
            },
        };
        var pose = Pose.Neutral with { HeadNod = 3 };
        Gestures.Apply([new GestureSpan(nod, 0, 2)], 1, ref pose);
        Assert.Equal(10, pose.HeadNod, 1e-4f);
        pose = Pose.Neutral with { HeadNod = 3 };
        Gestures.Apply([new GestureSpan(nod, 0, 2, Replaces: true)], 1, ref pose);
        Assert.Equal(7, pose.HeadNod, 1e-4f);
        pose = Pose.Neutral with { HeadNod = 3 };
        Gestures.Set(new Dictionary<string, float> { ["headNod"] = -2 }, true, ref pose);
        Assert.Equal(-2, pose.HeadNod, 1e-4f);
    }

    [Fact]
    public void Joined_gestures_move_as_the_pieces_did()
    {
        GestureSpan[] pieces =
        [
            new(Gestures.Find("nod") ?? Gestures.All[0], 1, 1.9),
            new(Gestures.All.First(g => g.Tracks.ContainsKey("armRight")), 1.7, 3.1, 0.8f, Mirror: true),
            new(Gestures.All.First(g => g.Tracks.ContainsKey("headTilt")), 2.9, 4),
        ];
        var joined = Gestures.Join(pieces, "all");
        Assert.Equal(3, joined.Length, 6);
        for (var t = 1.02; t < 3.98; t += 0.031)
        {
            Pose a = Pose.Neutral,
                b = Pose.Neutral;
            Gestures.Apply(pieces, t, ref a);
            Gestures.Apply([new GestureSpan(joined, 1, 4, BlendIn: 0, BlendOut: 0)], t, ref b);
            Assert.Equal(a.HeadNod, b.HeadNod, 0.6f);
            Assert.Equal(a.HeadTilt, b.HeadTilt, 0.6f);
            Assert.Equal(a.BrowLeft, b.BrowLeft, 0.05f);
        }
        Pose arms = Pose.Neutral,
            whole = Pose.Neutral;
        Gestures.Apply(pieces, 2.4, ref arms);
        Gestures.Apply([new GestureSpan(joined, 1, 4, BlendIn: 0, BlendOut: 0)], 2.4, ref whole);
        Assert.Equal(arms.ArmLeft, whole.ArmLeft, 1.5f);
    }

    [Fact]
    public void A_look_set_by_hand_holds_for_its_time_and_then_the_eyes_go_their_own_way()
    {
        var part = new Part { Dials = new PerformanceDials { Seed = 5 } };
        Performer free = new(part, 20),
            held = new(part with { Looks = [new LookSpan(5, 9, LookTarget.At(0.8f, -0.2f))] }, 20);
        var rate = new FrameRate(25);
        Pose[] a = free.Evaluate(rate, 0, 500),
            b = held.Evaluate(rate, 0, 500);
        for (var f = 0; f < 120; f++)
            Assert.Equal(a[f].GazeX, b[f].GazeX, 1e-5f);
        for (var f = 135; f < 224; f++)
            Assert.Equal(GazePass.Aside, held.LooksAt(f / 25.0));
        // Eyes and head together point there: what the head does not turn the eyes do.
        Assert.True(b[200].GazeX + b[200].HeadTurn / 30 > 0.5f, $"{b[200].GazeX} and {b[200].HeadTurn}");
        for (var f = 250; f < 500; f++)
            Assert.Equal(free.LooksAt(f / 25.0), held.LooksAt(f / 25.0));
    }

    [Fact]
    public void Eyes_follow_a_partner_who_walks_by()
    {
        // From far left to far right while it is looked at.
        var partner = new Partner(-0.8f, []) { DirectionAt = t => (float)Math.Clamp(-0.8 + 0.4 * (t - 4), -0.8, 0.8) };
        var performer = new Performer(new Part { Partners = [partner], Looks = [new LookSpan(2, 12, LookTarget.At(0))] }, 14);
        var poses = performer.Evaluate(new FrameRate(25), 0, 300);
        float Points(int f) => poses[f].GazeX + poses[f].HeadTurn / 30;
        Assert.True(Points(90) < -0.5f && Points(250) > 0.5f, $"{Points(90)} to {Points(250)}");
        for (var f = 101; f < 200; f++)
            Assert.True(Math.Abs(poses[f].GazeX - poses[f - 1].GazeX) < 0.06f);
    }

    [Fact]
    public void Any_frame_is_the_same_alone_and_in_a_row_with_all_that_dangles()
    {
        var member = new StageMember(TestData.Cast.Character("bubb"), 640, 700, 0.5f, true, [], new PerformanceDials()) { Walks = [new WalkSpan(0.3, 2, 900)] };
        var scene = new StageScene(TestData.Cast.Backdrop("paper"), [member], new FrameRate(25), 4);
        var row = scene.Draw(20, 40);
        for (var f = 0; f < 40; f += 7)
            Assert.Equal(row.Frames[f], scene.Draw(20 + f, 1).Frames[0]);
        var firm = new StageScene(TestData.Cast.Backdrop("paper"), [member with { Dials = new PerformanceDials { Dangle = 0 } }], new FrameRate(25), 4);
        Assert.NotEqual(row.Frames[5], firm.Draw(25, 1).Frames[0]);
        // Long after the last motion what dangles hangs as it is drawn: as on a figure on which nothing dangles.
        var still = member with
        {
            Dials = new PerformanceDials
            {
                Expressiveness = 0,
                Gaze = 0,
                Body = 0,
                Turn = 0,
                Nod = 0,
                Tilt = 0,
                Blinks = 0,
            },
            Walks = [new WalkSpan(0.1, 0.6, 900)],
        };
        DrawItem[] At(float dangle, int frame) =>
            new StageScene(TestData.Cast.Backdrop("paper"), [still with { Dials = still.Dials with { Dangle = dangle } }], new FrameRate(25), 12)
                .Draw(frame, 1)
                .Frames[0];
        double Apart(int frame) =>
            At(1, frame)
                .Zip(At(0, frame), (x, y) => Math.Max(Math.Abs(x.Transform.M12 - y.Transform.M12), Math.Abs(x.Transform.M31 - y.Transform.M31) / 100))
                .Max();
        Assert.True(Apart(12) > 0.01, $"{Apart(12)}");
        Assert.True(Apart(270) < 0.002, $"{Apart(270)}");
    }

    [Fact]
    public void The_shadow_of_who_flies_is_not_seen_and_goes_along()
    {
        var wick = TestData.Cast.Character("wick");
        var scene = new StageScene(
            TestData.Cast.Backdrop("bakery"),
            [
                new StageMember(wick, 300, 470, 0.5f, true, [], new PerformanceDials()) { Walks = [new WalkSpan(0, 2, 900)] },
                new StageMember(TestData.Cast.Character("maro"), 640, 790, 0.6f, true, [], new PerformanceDials()),
            ],
            new FrameRate(25),
            3
        );
        var frames = scene.Draw(0, 75).Frames;
        var (own, other) = (scene.ShapesOf(0).First, scene.ShapesOf(1).First);
        Assert.All(frames, f => Assert.True(f[own].Opacity == 0 && f[other].Opacity > 0));
        Assert.Equal(600, frames[74][own].Transform.M31 - frames[0][own].Transform.M31, 5f);
        Assert.Equal(0, frames[74][other].Transform.M31 - frames[0][other].Transform.M31, 1e-3f);
    }
}
