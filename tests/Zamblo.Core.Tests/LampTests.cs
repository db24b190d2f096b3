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

    [Theory]
    [InlineData(LightKind.Morning, true)]
    [InlineData(LightKind.Lamp, true)]
    [InlineData(LightKind.Dusk, false)]
    [InlineData(LightKind.Night, false)]
    public void The_side_away_from_the_light_lies_in_the_shade(LightKind kind, bool fromLeft)
    {
        var stage = Stage(new LightDials { Light = kind });
        int[] shaded = [.. ShadedOf(stage)];
        Assert.True(shaded.Length > 10);
        Assert.All(
            shaded,
            i =>
            {
                var shape = stage.Shapes[i];
                var colors = Colors(shape.Gradient!.Colors);
                var (lit, dark) = fromLeft ? (colors[0], colors[^1]) : (colors[^1], colors[0]);
                Assert.True(lit == Vector3.Zero || lit.Length() > dark.Length());
                // Towards the light a shape has its colour, nothing is brighter than that.
                Assert.All(colors, c => Assert.True(c.Length() <= Colors(shape.Fill![..7])[0].Length() + 1e-3f));
            }
        );
        Assert.Empty(ShadedOf(Stage(new LightDials { Light = kind, Shade = 0 })));
        Assert.Empty(ShadedOf(Stage(new LightDials())));
    }

    [Fact]
    public void One_line_of_shade_runs_over_all_of_a_figure_also_over_what_is_made_anew_in_each_frame()
    {
        var stage = Stage(new LightDials { Light = LightKind.Dusk });
        var (first, figure) = (stage.ShapesOf(0).First + 1, stage.Cast[0].Figure);
        var lines = ShadedOf(stage).Select(i => (stage.Shapes[i].Gradient!, Own: figure.OriginOf(i - first), IsMade: stage.Shapes[i].Path == null)).ToArray();
        Assert.True(lines.Count(l => l.IsMade) >= 6);
        Assert.All(lines, l => Assert.Equal(lines[0].Item1.From.X + lines[0].Own.X, l.Item1.From.X + l.Own.X, 0.01f));
        Assert.Contains(lines, l => l.IsMade && l.Own.X != 0);
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
        Assert.Equal(Tilt(morning, 0), Tilt(stage, 1), 0.03f);
        Assert.Equal(Tilt(dusk, 0), Tilt(stage, 5), 0.03f);
    }
}
