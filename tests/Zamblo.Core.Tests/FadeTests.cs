using Zamblo.Core.Interchange;
using Zamblo.Core.Performance;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>Out of black and into it.</summary>
public class FadeTests
{
    private static StageScene Scene(double fadeIn, double fadeOut, double seconds = 4) =>
        new(
            TestData.Cast.Backdrop("paper"),
            [new StageMember(TestData.Cast.Character("tock"), 640, 610, 0.6f, true, [], new PerformanceDials())],
            new FrameRate(25),
            seconds,
            fade: (fadeIn, fadeOut)
        );

    private static float[] Black(StageScene scene) => [.. scene.Draw(0, scene.FrameCount).Frames.Select(f => f[^1].Opacity)];

    [Fact]
    public void The_first_and_the_last_frame_are_black_and_all_between_the_fades_is_there()
    {
        var black = Black(Scene(1, 0.5));
        Assert.Equal((1, 1), (black[0], black[^1]));
        for (var i = 1; i < 25; i++)
            Assert.Equal(black[i - 1] - 1 / 25f, black[i], 4);
        Assert.All(black[25..^13], b => Assert.Equal(0, b));
        Assert.True(black[^13..].Zip(black[^12..]).All(p => p.Second > p.First));
        // A fade that is longer than the scene meets the other one.
        Assert.All(Black(Scene(5, 5, 2)), b => Assert.InRange(b, 0.5f, 1));
        Assert.Equal(25, Scene(1, 0).FirstSeen);
        Assert.Equal(49, Scene(5, 0, 2).FirstSeen);
    }

    [Fact]
    public void Without_a_fade_nothing_is_drawn_for_it_and_each_has_a_name_of_its_own()
    {
        Assert.Equal(Scene(0, 0).Shapes.Count + 1, Scene(1, 0).Shapes.Count);
        Assert.Equal(0, Scene(0, 0).FirstSeen);
        Assert.Equal(4, new[] { Scene(0, 0), Scene(1, 0), Scene(0, 1), Scene(1.5, 0) }.Select(s => s.Manifest()).Distinct().Count());
        Assert.NotEqual(Scene(0, 0).TextKey, Scene(1, 0).TextKey);
    }

    [Fact]
    public void A_script_s_fades_belong_to_the_scenes_that_they_stand_in()
    {
        // Fountain syntax 1.1, "Transition", and what screenwriters put there (common practice).
        var play = Screenplay.Parse(
            """
            FADE IN:

            INT. BAKERY - NIGHT

            ANNA
            The oven is hot.

            CUT TO:

            EXT. STREET - DAY

            OTTO
            It is cold here.

            FADE TO BLACK.

            FADE IN:

            INT. SHOP - DAY

            ANNA
            Good morning.

            FADE OUT.
            """
        );
        Assert.Empty(play.Problems);
        Assert.Equal(3, play.Scenes.Count);
        Assert.Equal([(0, (true, false)), (1, (false, true)), (2, (true, true))], play.Fades.OrderBy(f => f.Key).Select(f => (f.Key, f.Value)));
        Assert.Empty(Screenplay.Parse("ANNA: Fade in my heart.\nOTTO: Fade to black, says she.").Fades);
    }

    [Fact]
    public void Fades_stay_within_their_range()
    {
        Assert.Equal((5, 0), (new CameraDials { FadeIn = 99, FadeOut = -1 }.Clamped() is var c ? (c.FadeIn, c.FadeOut) : default));
        Assert.Equal(
            0,
            new CameraDials { FadeIn = double.NaN }
                .Clamped()
                .FadeIn
        );
        Assert.Equal((1, 0), (new CameraDials { FadeOut = 3 }.Faded((true, false)) is var f ? (f.FadeIn, f.FadeOut) : default));
    }
}
