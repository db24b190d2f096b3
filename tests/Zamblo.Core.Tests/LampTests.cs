using System.Globalization;
using System.Numerics;
using Zamblo.Core.Light;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>Lamps, and the shade that the key light leaves on figures.</summary>
public class LampTests
{
    private static readonly CastLibrary Library = CastLibrary.Shipped();
    private static readonly WordAnchor Nowhere = new(-1, "", 0, 0, 0);

    private static StageScene Stage(LightDials light, params (LightKind To, double? Lamps, double Start, double End)[] steps)
    {
        var who = new MemberId(Guid.NewGuid());
        var document = new SceneDocument("office", new FrameRate(25), 1280, 720)
        {
            LeadOut = 6,
            Light = light,
            Members = [new SceneMember(who, "A", "maro", "", "#000000", new MouthDials(), new PerformanceDials())],
            Clips =
            [
                .. steps.Select(s =>
                    new LightClip(new ClipId(Guid.NewGuid()), who, null, s.To, 1, Nowhere, Nowhere) { Lamps = s.Lamps }.At(null, 0, null, s.Start, s.End)
                ),
            ],
        };
        return SceneEvaluator.Evaluate(document, _ => null, Library).Stage;
    }

    private static Lamp Torch(float flicker) => new(Guid.Parse("00000000-0000-0000-0000-00000000000a"), 400, 200) { Flicker = flicker };

    [Fact]
    public void A_bulb_is_steady_and_a_torch_flickers_without_jumps_the_same_every_time()
    {
        Assert.All(Enumerable.Range(0, 200), i => Assert.Equal(1, Torch(0).BurnsAt(i / 10.0)));
        var burns = Enumerable.Range(0, 2500).Select(i => Torch(0.8f).BurnsAt(i / 25.0)).ToArray();
        Assert.All(burns, b => Assert.InRange(b, 0.25f, 1));
        Assert.True(burns.Max() - burns.Min() > 0.4f);
        Assert.True(burns.Zip(burns.Skip(1)).Max(p => Math.Abs(p.First - p.Second)) < 0.25f);
        Assert.Equal(burns[777], Torch(0.8f).BurnsAt(777 / 25.0));
        Assert.NotEqual(burns[777], (Torch(0.8f) with { Id = Guid.NewGuid() }).BurnsAt(777 / 25.0));
    }

    [Fact]
    public void A_lamp_glows_behind_the_figures_and_less_before_them_and_goes_out_when_it_is_told()
    {
        var stage = Stage(new LightDials { Light = LightKind.Night, Lamps = [Torch(0)] }, (LightKind.Night, 0, 2, 3), (LightKind.Night, null, 4, 5));
        int[] glows = [.. Enumerable.Range(0, stage.Shapes.Count).Where(i => stage.Shapes[i].Blend == DrawBlend.Screen)];
        Assert.Equal(2, glows.Length);
        var own = stage.ShapesOf(0);
        Assert.True(glows[0] < own.First && glows[1] >= own.First + own.Count && glows[1] < stage.OverFirst);
        Assert.All(glows, g => Assert.Equal(DrawPlane.Near, stage.Groups.Single(x => g >= x.First && g < x.First + x.Count).Plane));
        DrawItem[] At(double t) => stage.Draw((int)(25 * t), 1).Frames[0];
        Assert.True(At(0)[glows[0]].Opacity > At(0)[glows[1]].Opacity && At(0)[glows[1]].Opacity > 0.1f);
        Assert.Equal(new Vector2(400, 200), Vector2.Transform(Vector2.Zero, At(0)[glows[0]].Transform));
        Assert.All(glows, g => Assert.InRange(At(2.5)[g].Opacity, 0.01f, 0.99f * At(0)[g].Opacity));
        Assert.All(glows, g => Assert.Equal(0, At(3.5)[g].Opacity));
        // A change that says nothing of lamps leaves them.
        Assert.All(glows, g => Assert.Equal(0, At(5.5)[g].Opacity));
        Assert.NotEqual(stage.Manifest(), Stage(new LightDials { Light = LightKind.Night, Lamps = [Torch(0.1f)] }).Manifest());
    }

    [Fact]
    public void What_a_lamp_cannot_be_becomes_what_it_can()
    {
        var odd = new Lamp(Guid.NewGuid(), float.NaN, 1e9f)
        {
            Reach = -5,
            Color = "red;",
            Strength = 7,
            Flicker = float.PositiveInfinity,
        };
        var dials = new LightDials { Lamps = [.. Enumerable.Repeat(odd, 40)], Shade = double.NaN }.Clamped();
        Assert.Equal(Lamp.Most, dials.Lamps.Count);
        Assert.Equal(0.6, dials.Shade);
        var lamp = dials.Lamps[0];
        Assert.Equal((Lamp.Nearest, "#ffc46b", 1f, 0f), (lamp.Reach, lamp.Color, lamp.Strength, lamp.Flicker));
        Assert.True(float.IsFinite(lamp.X) && lamp.Y < 1000);
    }

    private static Vector3[] Colors(string colors) => [.. DrawGradient.Apart(colors).Select(c => new Vector3(Part(c, 1), Part(c, 3), Part(c, 5)))];

    private static float Part(string color, int at) => int.Parse(color.AsSpan(at, 2), NumberStyles.HexNumber, CultureInfo.InvariantCulture) / 255f;

    private static IEnumerable<int> ShadedOf(StageScene stage) =>
        Enumerable.Range(stage.ShapesOf(0).First, stage.ShapesOf(0).Count).Where(i => stage.Shapes[i].Gradient != null);

    // What a shape has at a place across its figure, in the drawing's own units.
    private static Vector3 SeenAt(StageScene stage, int shape, float x)
    {
        var s = stage.Shapes[shape];
        var own = x - stage.Cast[0].Figure.OriginOf(shape - stage.ShapesOf(0).First - 1).X;
        if (s.Gradient is not { } g)
            return Colors(s.Fill![..7])[0];
        var t = Math.Clamp((own - g.From.X) / (g.To.X - g.From.X), 0, 1);
        var colors = Colors(g.Colors);
        var next = Math.Max(1, Enumerable.Range(0, g.At.Count).First(k => g.At[k] >= t));
        return Vector3.Lerp(colors[next - 1], colors[next], (t - g.At[next - 1]) / (g.At[next] - g.At[next - 1]));
    }

    [Theory]
    [InlineData(LightKind.Morning, true)]
    [InlineData(LightKind.Lamp, true)]
    [InlineData(LightKind.Dusk, false)]
    [InlineData(LightKind.Night, false)]
    public void The_side_away_from_the_light_lies_in_the_shade_which_is_one_over_all_of_a_figure(LightKind kind, bool fromLeft)
    {
        var (stage, flat) = (Stage(new LightDials { Light = kind }), Stage(new LightDials { Light = kind, Shade = 0 }));
        var (head, half) = (stage.Cast[0].Figure.Rig.Head.Centre[0], stage.Cast[0].Figure.Rig.Head.Radius[0]);
        var (first, count) = stage.ShapesOf(0);
        var filled = Enumerable.Range(first + 1, count - 1).Where(i => flat.Shapes[i].Fill is { } f && Colors(f[..7])[0].Length() > 0.3f).ToArray();
        int[] shaded = [.. filled.Where(i => stage.Shapes[i].Gradient != null)];
        Assert.True(shaded.Length > 5);
        // What is left of its colour at a place: the same for every shape that reaches there.
        float Left(int shape, float x) => SeenAt(stage, shape, x).Length() / Colors(flat.Shapes[shape].Fill![..7])[0].Length();
        foreach (var i in shaded)
        {
            var (lit, dark) = fromLeft ? (head - half, head + half) : (head + half, head - half);
            Assert.True(Left(i, lit) > 0.96f && Left(i, dark) < 0.92f, $"{kind}: {Left(i, lit)} and {Left(i, dark)}");
            foreach (var share in (float[])[-1, -0.5f, 0, 0.4f, 0.8f])
                Assert.Equal(Left(shaded[0], head + share * half), Left(i, head + share * half), 0.05f);
        }
        // What is small has one colour: that of its place. An eye on the dark side is darker than the other.
        var eyes = filled.Where(i => stage.Shapes[i].Path == null && stage.Cast[0].Figure.OriginOf(i - first - 1).X != 0).ToArray();
        Assert.NotEmpty(eyes);
        Assert.All(eyes, i => Assert.Equal(Left(shaded[0], stage.Cast[0].Figure.OriginOf(i - first - 1).X), Left(i, 0), 0.06f));
        Assert.All(flat.Shapes, s => Assert.True(s.Gradient == null));
        Assert.All(Stage(new LightDials()).Shapes, s => Assert.True(s.Gradient == null));
    }

    [Fact]
    public void Light_from_the_front_leaves_shade_at_both_sides()
    {
        var stage = Stage(new LightDials { Light = LightKind.Spot });
        var (head, half) = (stage.Cast[0].Figure.Rig.Head.Centre[0], stage.Cast[0].Figure.Rig.Head.Radius[0]);
        var wide = ShadedOf(stage).First(i => stage.Shapes[i].Gradient!.At.Count == 4);
        float Bright(float x) => SeenAt(stage, wide, x).Length();
        Assert.True(Bright(head - 1.2f * half) < 0.95f * Bright(head) && Bright(head + 1.2f * half) < 0.95f * Bright(head));
    }

    [Fact]
    public void Where_the_light_changes_the_shade_goes_to_the_other_side_with_it()
    {
        var stage = Stage(new LightDials { Light = LightKind.Morning }, (LightKind.Dusk, null, 2, 4));
        var (morning, dusk) = (Stage(new LightDials { Light = LightKind.Morning }), Stage(new LightDials { Light = LightKind.Dusk }));
        var shape = ShadedOf(stage).First(i => stage.Draw(0, 1).Frames[0][i].Opacity > 0);
        float Tilt(StageScene s, double t)
        {
            var own = shape - stage.ShapesOf(0).First + s.ShapesOf(0).First;
            var colors = Colors(s.Draw((int)(25 * t), 1).Frames[0][own].Colors ?? s.Shapes[own].Gradient!.Colors);
            return (colors[^1].Length() - colors[0].Length()) / colors.Max(c => c.Length());
        }
        Assert.True(Tilt(stage, 1) < -0.1f && Tilt(stage, 5) > 0.1f);
        Assert.InRange(Tilt(stage, 3), Tilt(stage, 1), Tilt(stage, 5));
        // Before and after it is that of a light that stays.
        var (head, half) = (stage.Cast[0].Figure.Rig.Head.Centre[0], stage.Cast[0].Figure.Rig.Head.Radius[0]);
        foreach (var (s, t) in new[] { (morning, 1.0), (dusk, 5.0) })
        {
            var own = shape - stage.ShapesOf(0).First + s.ShapesOf(0).First;
            var colors = Colors(stage.Draw((int)(25 * t), 1).Frames[0][shape].Colors!);
            float Share(Vector3 a, Vector3 b) => a.Length() / b.Length();
            Assert.Equal(Share(SeenAt(s, own, head - 1.25f * half), SeenAt(s, own, head + 1.25f * half)), Share(colors[0], colors[^1]), 0.05f);
        }
    }
}
