using System.Numerics;
using Zamblo.Core.Light;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>Light, shadows, weather, and pictures of one's own as sets.</summary>
public class LightTests
{
    private static StageScene Scene(LightDials dials, string set = "street") =>
        new(
            TestData.Cast.Backdrop(set),
            [
                new StageMember(TestData.Cast.Character("maro"), 400, 700, 0.5f, false, [], new PerformanceDials()),
                new StageMember(TestData.Cast.Character("wick"), 900, 470, 0.4f, true, [], new PerformanceDials()),
            ],
            new FrameRate(25),
            2,
            null,
            new LightCourse(LightPlot.Of(dials)),
            Weather.Of(dials, 1280)
        );

    // W3C Compositing and Blending Level 1, "multiply": B(cb, cs) = cb x cs, for each of the three.
    [Theory]
    [InlineData("#ffffff", 0.5f, 0.25f, 1f, "#8040ff")]
    [InlineData("#804020", 0.5f, 0.5f, 0.5f, "#402010")]
    [InlineData("#10203080", 1f, 0f, 1f, "#10003080")]
    public void Colours_are_multiplied_and_what_shines_through_stays(string color, float r, float g, float b, string expected) =>
        Assert.Equal(expected, LightPlot.Times(color, new Vector3(r, g, b)));

    [Fact]
    public void As_it_is_drawn_nothing_is_another_colour()
    {
        var backdrop = TestData.Cast.Backdrop("street");
        var plain = LightPlot.Of(new LightDials());
        Assert.All(backdrop.Back, s => Assert.Same(s, plain.OnSet(s)));
        Assert.Equal(plain, LightPlot.Of(new LightDials { Light = LightKind.Night, Strength = 0 }));
        Assert.Equal("", Scene(new LightDials()).TextKey);
        // Every light is another, and figures are never darker than their set.
        var plots = Enum.GetValues<LightKind>().Select(k => LightPlot.Of(new LightDials { Light = k })).ToArray();
        Assert.Equal(plots.Length, plots.Distinct().Count());
        Assert.All(plots, p => Assert.True(p.Figures.X >= p.Set.X && p.Figures.Y >= p.Set.Y && p.Figures.Z >= p.Set.Z));
        Assert.NotEqual(Scene(new LightDials()).Manifest(), Scene(new LightDials { Light = LightKind.Dusk }).Manifest());
    }

    [Fact]
    public void Whoever_stands_has_a_shadow_at_the_feet_and_who_glides_has_none()
    {
        var scene = Scene(new LightDials { Light = LightKind.Noon });
        var list = scene.Draw(0, 5);
        var shadows = list.Groups.Where(g => !g.IsStill).Select(g => list.Frames[2][g.First]).ToArray();
        Assert.Equal(2, shadows.Length);
        var feet = scene.Heads[0];
        Assert.InRange(shadows[0].Transform.M31, feet.Left, feet.Right);
        Assert.InRange(shadows[0].Transform.M32, feet.Floor - 20, feet.Floor + 2);
        Assert.InRange(shadows[0].Opacity, 0.2f, 0.5f);
        Assert.Equal(0, shadows[1].Opacity);
        // The light from the left throws it to the right.
        var morning = Scene(new LightDials { Light = LightKind.Morning }).Draw(2, 1);
        Assert.True(morning.Frames[0][morning.Groups.First(g => !g.IsStill).First].Transform.M31 > shadows[0].Transform.M31);
    }

    [Fact]
    public void Any_moment_of_the_weather_can_be_drawn_alone()
    {
        foreach (var kind in Enum.GetValues<WeatherKind>().Where(k => k != WeatherKind.Clear))
        {
            var dials = new LightDials { Weather = kind, Amount = 0.7 };
            var (one, other) = (Weather.Of(dials, 1280)!, Weather.Of(dials, 1280)!);
            var run = Enumerable.Range(0, 100).Select(f => one.At(f / 25.0, true).Path).ToArray();
            Assert.Equal(run[63], other.At(63 / 25.0, true).Path);
            // It moves, and more of it is more.
            Assert.Equal(100, run.Distinct().Count());
            var little = Weather.Of(dials with { Amount = 0.1 }, 1280)!.At(1, false).Path!.Count(c => c == 'M');
            Assert.True(one.At(1, false).Path!.Count(c => c == 'M') > 3 * little);
        }
        Assert.Null(Weather.Of(new LightDials(), 1280));
        Assert.Null(Weather.Of(new LightDials { Weather = WeatherKind.Rain, Amount = 0 }, 1280));
        var scene = Scene(new LightDials { Weather = WeatherKind.Snow });
        Assert.Equal(scene.Draw(0, 40).Frames[31].Select(i => i.Path), scene.Draw(31, 1).Frames[0].Select(i => i.Path));
    }

    [Fact]
    public void A_picture_is_a_set_by_its_key()
    {
        var hash = new string('a', 64);
        var set = new PictureSet(hash, 1600, 1000, "#123456") { Darker = 40 };
        Assert.Equal(set, PictureSet.Read(set.Key));
        Assert.Equal(set with { Blur = 12 }, PictureSet.Read((set with { Blur = 12 }).Key));
        Assert.Equal(12, (set with { Blur = 12 }).ToBackdrop().Back[1].Blur);
        Assert.True(TestData.Cast.HasBackdrop(set.Key));
        var back = TestData.Cast.Backdrop(set.Key).Back;
        Assert.Equal(hash, Assert.Single(back, s => s.Picture != null).Picture);
        // It fills the stage: 1280 wide, 800 high, its middle in the middle.
        Assert.Equal("M0 -40L1280 -40L1280 760L0 760Z", back[1].Path);
        Assert.Equal("M64 0L1216 0L1216 720L64 720Z", TestData.Cast.Backdrop((set with { IsWhole = true }).Key).Back[1].Path);
        foreach (
            var bad in new[]
            {
                "picture:",
                $"picture:{hash}:0x10:000000:fill:0",
                $"picture:{hash}:10x99999:000000:fill:0",
                $"picture:{hash}:10x10:000000:fill:99",
                $"picture:{hash}:10x10:000000:fill:0:31",
                $"picture:{hash}:10x10:000000:fill:0:",
                $"picture:../../etc:10x10:000000:fill:0",
                $"picture:{hash}:10x10:000000:stretch:0",
                $"picture:{hash}:10x10:000000:fill:0\n",
            }
        )
            Assert.Null(PictureSet.Read(bad));
    }

    [Fact]
    public void What_is_in_the_air_comes_and_goes()
    {
        static int Count(Weather w, double t) => w.At(t, false).Path!.Count(c => c == 'M');
        foreach (var kind in (WeatherKind[])[WeatherKind.Rain, WeatherKind.Snow])
        {
            // Nothing, then all of it within two seconds, then a little.
            var dials = new LightDials { Weather = kind, Amount = 0 };
            var air = Weather.Of(dials, 1280, [new AmountStep(0.8, 2, 4), new AmountStep(0.2, 8, 9)])!;
            Assert.Equal(0, Count(air, 1.9));
            Assert.InRange(Count(air, 3), 1, Count(air, 4) - 1);
            Assert.Equal(Count(Weather.Of(dials with { Amount = 0.8 }, 1280)!, 5), Count(air, 5));
            Assert.Equal(0.25, air.ShareAt(10), 6);
            Assert.InRange(Count(air, 10), 1, Count(air, 5) / 3);
            // Any frame by itself, and named by its times.
            Assert.Equal(air.At(3.3, true), Weather.Of(dials, 1280, [new AmountStep(0.8, 2, 4), new AmountStep(0.2, 8, 9)])!.At(3.3, true));
            Assert.NotEqual(air.Key, Weather.Of(dials, 1280, [new AmountStep(0.8, 2, 5), new AmountStep(0.2, 8, 9)])!.Key);
            // No drop jumps: from frame to frame few appear.
            for (var t = 2.0; t < 4; t += 0.04)
                Assert.InRange(Count(air, t + 0.04) - Count(air, t), 0, 8);
        }
        Assert.Null(Weather.Of(new LightDials { Weather = WeatherKind.Rain, Amount = 0 }, 1280, [new AmountStep(0, 1, 2)]));
        // Fires die down: they are along all of the edge, and lower.
        var fire = Weather.Of(new LightDials { Weather = WeatherKind.Flames, Amount = 1 }, 1280, [new AmountStep(0.2, 2, 4), new AmountStep(0, 6, 8)])!;
        Assert.Equal(Count(fire, 1), Count(fire, 5));
        Assert.True(Top(fire, 5) > Top(fire, 1) + 40);
        Assert.Equal(0, Count(fire, 9));
        static double Top(Weather w, double t) =>
            System
                .Text.RegularExpressions.Regex.Matches(w.At(t, false).Path!, @"-?[\d.]+")
                .Select(m => double.Parse(m.Value))
                .Where((_, i) => i % 2 == 1)
                .Min();
    }
}
