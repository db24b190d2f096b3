using System.Globalization;
using System.Numerics;
using Zamblo.Core.Light;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>The light of a scene over time.</summary>
public class LightCourseTests
{
    private static readonly CastLibrary Library = CastLibrary.Shipped();

    private static StageScene Stage(string set, LightKind first, params (LightKind To, double Start, double End)[] steps)
    {
        var who = new MemberId(Guid.NewGuid());
        var nowhere = new WordAnchor(-1, "", 0, 0, 0);
        var document = new SceneDocument(set, new FrameRate(25), 1280, 720)
        {
            LeadOut = 6,
            Light = new LightDials { Light = first },
            Members = [new SceneMember(who, "A", "bubb", "", "#000000", new MouthDials(), new PerformanceDials())],
            Clips = [.. steps.Select(s => new LightClip(new ClipId(Guid.NewGuid()), who, null, s.To, 1, nowhere, nowhere).At(null, 0, null, s.Start, s.End))],
        };
        return SceneEvaluator.Evaluate(document, _ => null, Library).Stage;
    }

    private static Vector3 Rgb(string color)
    {
        float Part(int at) => int.Parse(color.AsSpan(at, 2), NumberStyles.HexNumber, CultureInfo.InvariantCulture) / 255f;
        return new Vector3(Part(1), Part(3), Part(5));
    }

    // What a shape comes to: its colour, times every layer that lies over it (W3C "multiply" with an opacity).
    private static Vector3 Seen(StageScene stage, int shape, int frame)
    {
        var items = stage.Draw(frame, 1).Frames[0];
        var color = Rgb(stage.Shapes[shape].Fill!);
        for (var i = shape + 1; i < stage.Shapes.Count; i++)
            if (stage.Shapes[i].Blend == DrawBlend.Multiply)
                color *= Vector3.One - items[i].Opacity * (Vector3.One - Rgb(stage.Shapes[i].Fill!));
        return color;
    }

    [Theory]
    [InlineData(LightKind.Noon, LightKind.Night)]
    [InlineData(LightKind.Night, LightKind.Noon)]
    [InlineData(LightKind.AsDrawn, LightKind.Storm)]
    [InlineData(LightKind.Lamp, LightKind.Morning)]
    public void Before_and_after_a_change_each_colour_is_that_of_its_light(LightKind from, LightKind to)
    {
        var (changing, before, after) = (Stage("office", from, (to, 2, 3)), Stage("office", from), Stage("office", to));
        int back = Enumerable.Range(0, changing.BackCount).First(i => changing.Shapes[i].Fill != null),
            figure = Enumerable.Range(1, 40).First(i => before.Shapes[before.ShapesOf(0).First + i] is { Fill: not null });
        int own = changing.ShapesOf(0).First + figure,
            plain = before.ShapesOf(0).First + figure;
        void Near(Vector3 expected, Vector3 actual) => Assert.True(Vector3.Distance(expected, actual) < 0.02f, $"{expected} and {actual}");
        Near(Rgb(before.Shapes[back].Fill!), Seen(changing, back, 10));
        Near(Rgb(after.Shapes[back].Fill!), Seen(changing, back, 100));
        Near(Rgb(before.Shapes[plain].Fill!), Seen(changing, own, 10));
        Near(Rgb(after.Shapes[plain].Fill!), Seen(changing, own, 100));
        // On the way it is between both, and never jumps.
        var way = Enumerable.Range(48, 30).Select(f => Seen(changing, back, f)).ToArray();
        for (var i = 1; i < way.Length; i++)
            Assert.True(Vector3.Distance(way[i - 1], way[i]) < 0.12f);
    }

    [Fact]
    public void A_light_that_stays_has_no_layers_and_nothing_to_be_dark_has_none_either()
    {
        Assert.DoesNotContain(Stage("office", LightKind.Night).Shapes, s => s.Blend == DrawBlend.Multiply);
        Assert.DoesNotContain(Stage(CastLibrary.Clear, LightKind.Noon, (LightKind.Night, 1, 2)).Shapes, s => s.Blend == DrawBlend.Multiply);
    }

    [Fact]
    public void Lights_follow_each_other_and_a_film_knows_when()
    {
        var course = new LightCourse(
            LightPlot.Of(new LightDials { Light = LightKind.Noon }),
            [
                new LightStep(LightPlot.Of(new LightDials { Light = LightKind.Night }), 4, 5),
                new LightStep(LightPlot.Of(new LightDials { Light = LightKind.Spot }), 1, 2),
            ]
        );
        float Shadow(LightKind kind) => LightPlot.Of(new LightDials { Light = kind }).Shadow;
        Assert.Equal(Shadow(LightKind.Noon), course.ShadowAt(0.5).Shadow, 4);
        Assert.Equal(Shadow(LightKind.Spot), course.ShadowAt(3).Shadow, 4);
        Assert.Equal(Shadow(LightKind.Night), course.ShadowAt(6).Shadow, 4);
        var scenes = new[]
        {
            Stage("office", LightKind.Noon),
            Stage("office", LightKind.Noon, (LightKind.Night, 1, 2)),
            Stage("office", LightKind.Noon, (LightKind.Night, 1, 2.5)),
            Stage("office", LightKind.Noon, (LightKind.Lamp, 1, 2)),
        };
        Assert.Distinct(scenes.Select(s => s.Manifest()));
        // Times alone change no shape.
        Assert.Equal(scenes[1].TextKey, scenes[2].TextKey);
        Assert.Equal(3, scenes.Select(s => s.TextKey).Distinct().Count());
        var run = scenes[1].Draw(0, 60);
        Assert.Equal(run.Frames[37], scenes[1].Draw(37, 1).Frames[0]);
        Assert.Equal(Enumerable.Range(0, scenes[1].Shapes.Count), run.Groups.SelectMany(g => Enumerable.Range(g.First, g.Count)));
    }
}
