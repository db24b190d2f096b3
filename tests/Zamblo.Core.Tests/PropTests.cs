using System.Numerics;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Props;

namespace Zamblo.Core.Tests;

/// <summary>Props: where they stand, how they move, who holds them.</summary>
public class PropTests
{
    private static readonly CastLibrary Library = CastLibrary.Shipped();
    private static readonly FrameRate Rate = new(25);
    private static readonly MemberId[] Ids = [new(Guid.NewGuid()), new(Guid.NewGuid())];

    private static LaidProp Prop(string art, PropPlace place) => new(new PropId(Guid.NewGuid()), art, place);

    private static HoldClip Hold(LaidProp prop, int member, double start, double end, bool right = true) =>
        (HoldClip)
            new HoldClip(new ClipId(Guid.NewGuid()), Ids[member], null, prop.Id, right, new(-1, "", 0, 0, 0), new(-1, "", 0, 0, 0)).At(
                null,
                0,
                null,
                start,
                end
            );

    private static StageScene Stage(IReadOnlyList<LaidProp> props, params LaneClip[] clips)
    {
        string[] who = ["maro", "ines"];
        var document = new SceneDocument("bakery", Rate, 1280, 720)
        {
            // Long enough for what is held.
            LeadOut = 8,
            Members = [.. who.Select((w, i) => new SceneMember(Ids[i], w, w, "", "#000000", new MouthDials(), new PerformanceDials()))],
            Props = props,
            Clips = clips,
        };
        return SceneEvaluator.Evaluate(document, _ => null, Library).Stage;
    }

    private static IEnumerable<Vector2> Corners(DrawShape shape) =>
        System
            .Text.RegularExpressions.Regex.Matches(shape.Path!, @"-?\d+\.?\d*")
            .Select(m => float.Parse(m.Value, System.Globalization.CultureInfo.InvariantCulture))
            .Chunk(2)
            .Select(p => new Vector2(p[0], p[1]));

    [Fact]
    public void Every_prop_of_the_stock_is_drawn_within_the_size_that_is_said_of_it()
    {
        Assert.True(PropStock.All.Count >= 30, $"{PropStock.All.Count}");
        Assert.Equal(PropStock.All.Count, PropStock.All.Select(p => p.Key).Distinct().Count());
        foreach (var art in PropStock.All)
        {
            Assert.NotEmpty(art.Shapes);
            foreach (var at in art.Shapes.SelectMany(Corners))
            {
                Assert.InRange(at.X, -art.Width / 2 - 24, art.Width / 2 + 24);
                // Handles of curves reach a little below the foot.
                Assert.InRange(at.Y, -art.Height - 20, 10);
            }
            Assert.InRange(art.GripPoint.Y, -art.Height, 0);
        }
        Assert.Null(PropStock.Find("none such"));
        // A picture of one's own is a prop in its own shape.
        var picture = PropStock.Find(new PictureSet(new string('a', 64), 800, 400, "#ffffff").Key)!;
        Assert.Equal(2, picture.Width / picture.Height, 4);
    }

    [Fact]
    public void Motions_come_back_to_where_they_began()
    {
        var art = PropStock.Find("pendant")!;
        Vector2 top = new(0, -art.Height),
            foot = Vector2.Zero;
        foreach (var motion in Enum.GetValues<PropMotion>())
        {
            var prop = new StageProp(
                art,
                new PropPlace(400, 300)
                {
                    Motion = motion,
                    Amount = 0.8f,
                    Period = 2,
                    ToX = 120,
                    ToY = -40,
                },
                []
            );
            var (start, quarter) = (prop.StandsAt(0.1), prop.StandsAt(0.6));
            Assert.Equal(start.Translation, prop.StandsAt(0.1 + 6 * 2).Translation, (a, b) => Vector2.Distance(a, b) < 0.01f);
            Assert.Equal(motion == PropMotion.Still, start == quarter);
        }
        // What hangs keeps its upper end, what stands its foot; what goes there and back is there after half the time.
        Matrix3x2 At(PropMotion motion, double t) =>
            new StageProp(
                art,
                new PropPlace(400, 300)
                {
                    Motion = motion,
                    Period = 2,
                    ToX = 120,
                },
                []
            ).StandsAt(t);
        Assert.Equal(
            Vector2.Transform(top, At(PropMotion.Swing, 0)),
            Vector2.Transform(top, At(PropMotion.Swing, 0.5)),
            (a, b) => Vector2.Distance(a, b) < 0.01f
        );
        Assert.Equal(
            Vector2.Transform(foot, At(PropMotion.Sway, 0)),
            Vector2.Transform(foot, At(PropMotion.Sway, 0.5)),
            (a, b) => Vector2.Distance(a, b) < 0.01f
        );
        Assert.Equal(520, At(PropMotion.BackAndForth, 1).M31, 2);
        Assert.Equal(400 + 120 * 0.75f, At(PropMotion.Across, 1.5).M31, 2);
    }

    [Fact]
    public void A_prop_stands_behind_between_or_before_the_cast_and_each_step_passes_one_thing()
    {
        var mug = Prop("mug", new PropPlace(300, 600) { Order = -1 });
        var order = new List<double> { -1 };
        for (var i = 0; i < 6; i++)
        {
            var now = Stage([mug with { Place = mug.Place with { Order = order[^1] } }]);
            order.Add(now.OrderAfter(0, 1));
        }
        string Seen(double at)
        {
            var stage = Stage([mug with { Place = mug.Place with { Order = at } }]);
            var own = stage.ShapesOfProp(0).First().First;
            return string.Concat(Enumerable.Range(0, 2).Select(i => stage.ShapesOf(i).First < own ? 'b' : 'f'));
        }
        // Both stand behind the counter: before the first, before the second, before the counter; then nothing is left.
        Assert.Equal(["ff", "bf", "bb", "bb"], order.Take(4).Select(Seen));
        Assert.True(order[3] > PropPlace.Counter && order[2] < PropPlace.Counter);
        var back = Stage([mug with { Place = mug.Place with { Order = order[3] } }]).OrderAfter(0, -1);
        Assert.InRange(back, order[1], PropPlace.Counter);
        Assert.Equal("bb", Seen(back));
    }

    [Fact]
    public void What_is_taken_is_in_the_hand_and_stands_in_its_place_before_and_after()
    {
        var mug = Prop("mug", new PropPlace(480, 560) { Order = PropPlace.Nearest });
        var stage = Stage([mug], Hold(mug, 0, 2, 6));
        var list = stage.Draw(0, stage.FrameCount);
        var own = stage.ShapesOfProp(0).ToArray();
        Assert.Equal(2, own.Length);
        var art = PropStock.Find("mug")!;
        var poses = stage.PosesOf(0);
        var m = stage.Cast[0];
        var place =
            Matrix3x2.CreateTranslation(-m.Figure.Rig.Anchor[0], -m.Figure.Rig.Anchor[1])
            * Matrix3x2.CreateScale(m.Scale)
            * Matrix3x2.CreateTranslation(m.X, m.Y);
        for (var f = 0; f < stage.FrameCount; f++)
        {
            var t = Rate.TimeOf(f);
            var (stands, held) = (list.Frames[f][own[0].First], list.Frames[f][own[1].First]);
            // Never twice, never gone.
            Assert.Equal(1, stands.Opacity + held.Opacity);
            Assert.Equal(t > 2 && t < 6, held.Opacity > 0);
            var grip = Vector2.Transform(art.GripPoint, (held.Opacity > 0 ? held : stands).Transform);
            if (t is > 2.5 and < 5.5)
                Assert.True(Vector2.Distance(grip, m.Figure.HandAt(poses[f], true, place)!.Value) < 0.5f, $"{t}");
            else if (t is < 2 or > 6)
                Assert.Equal(new Vector2(480, 560), stands.Transform.Translation);
            // It is carried, not thrown.
            if (f > 0)
            {
                var before = list.Frames[f - 1][own[held.Opacity > 0 ? 1 : 0].First];
                Assert.True(Vector2.Distance(before.Transform.Translation, (held.Opacity > 0 ? held : stands).Transform.Translation) < 40, $"{t}");
            }
        }
        // The fingers lie over it: the hand's shapes once more, in the hand's place.
        var hand = m.Figure.HandShapes(true);
        Assert.NotEmpty(hand);
        var first = stage.ShapesOf(0).First + 1;
        for (var i = 0; i < hand.Count; i++)
            Assert.Equal(list.Frames[100][first + hand[i]], list.Frames[100][own[1].First + own[1].Count + i]);
        // When it is taken the hand is where it stands.
        var reached = Vector2.Distance(
            m.Figure.HandAt(poses[Rate.FrameAt(2)], true, place)!.Value,
            Vector2.Transform(art.GripPoint, list.Frames[0][own[0].First].Transform)
        );
        Assert.True(reached < 30, $"{reached}");
    }

    [Fact]
    public void From_hand_to_hand_it_does_not_go_back_to_its_place()
    {
        var letter = Prop("letter", new PropPlace(60, 300));
        var stage = Stage([letter], Hold(letter, 0, 1, 4), Hold(letter, 1, 4.1, 7, false));
        var list = stage.Draw(0, stage.FrameCount);
        var own = stage.ShapesOfProp(0).ToArray();
        Assert.Equal(3, own.Length);
        float left = stage.Cast[0].X,
            right = stage.Cast[1].X;
        for (var f = Rate.FrameAt(2); f < Rate.FrameAt(6); f++)
        {
            var seen = own.Where(o => list.Frames[f][o.First].Opacity > 0).ToArray();
            var x = list.Frames[f][Assert.Single(seen).First].Transform.M31;
            Assert.InRange(x, left - 140, right + 140);
        }
    }

    [Fact]
    public void A_frame_alone_is_the_frame_of_a_run_and_a_film_knows_its_props()
    {
        var (balloon, plant) = (Prop("balloon", new PropPlace(900, 500) { Motion = PropMotion.Sway }), Prop("plant", new PropPlace(100, 700)));
        var stage = Stage([balloon, plant], Hold(balloon, 0, 1, 5));
        var run = stage.Draw(0, stage.FrameCount);
        foreach (var f in (int[])[0, 30, 60, 120])
            Assert.Equal(run.Frames[f], stage.Draw(f, 1).Frames[0]);
        // Groups cover all shapes, once.
        Assert.Equal(Enumerable.Range(0, stage.Shapes.Count), run.Groups.SelectMany(g => Enumerable.Range(g.First, g.Count)));
        var names = new[]
        {
            stage,
            Stage([balloon, plant]),
            Stage([balloon with { Place = balloon.Place with { X = 901 } }, plant], Hold(balloon, 0, 1, 5)),
            Stage([plant]),
            Stage([]),
            Stage([balloon, plant], Hold(balloon, 0, 1, 5.2)),
        }.Select(s => s.Manifest());
        Assert.Equal(6, names.Distinct().Count());
    }

    [Fact]
    public void A_place_is_kept_within_its_ranges()
    {
        var wild = new PropPlace(float.NaN, 1e9f)
        {
            Size = 0,
            Order = double.NaN,
            Motion = (PropMotion)77,
            Period = 0,
            Amount = -3,
            Turn = float.PositiveInfinity,
        }.Clamped();
        Assert.Equal((640f, 1400f, 0.1f, 0.2f, 0f, 0f), (wild.X, wild.Y, wild.Size, wild.Period, wild.Amount, wild.Turn));
        Assert.Equal((PropMotion.Still, PropPlace.Nearest), (wild.Motion, wild.Order));
    }
}
