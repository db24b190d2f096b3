using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>Filmed clips that are moved, trimmed and paced within a scene.</summary>
public class FootageTests
{
    private static readonly FrameRate Rate = new(25);
    private static readonly WordAnchor Nowhere = new(-1, "", 0, 0, 0);

    [Fact]
    public void Before_a_run_it_plays_as_it_is_in_it_as_that_says_and_after_it_goes_on_from_there()
    {
        var clock = new FootageClock([new(5, 6, 0.5, 0), new(2, 4, 10, 0.5), new(4, 5, 3, 2)]);
        Assert.Equal(1.5, clock.At(1.5));
        Assert.Equal(10, clock.At(2));
        Assert.Equal(10.5, clock.At(3));
        Assert.Equal(3, clock.At(4));
        Assert.Equal(4, clock.At(4.5));
        Assert.Equal(0.5, clock.At(5.9));
        Assert.Equal(2.5, clock.At(8));
        // The one that started last counts, whatever lies under it.
        var over = new FootageClock([new(0, 10, 7, 1), new(3, 4, 0, 1)]);
        Assert.Equal((9.9, 0, 2), (Math.Round(over.At(2.9), 6), over.At(3), over.At(5)));
        // One that began before the scene did is under way.
        Assert.Equal(1, new FootageClock([new(-0.5, 1, 0.5, 1)]).At(0));
        Assert.Equal(0, FootageClock.Plain.At(0));
    }

    [Fact]
    public void What_has_gone_round_or_back_is_left_out()
    {
        var marks = MarksGuess.FromBox(200, 100, 200, 280, PortraitKind.Person);
        var track = new PlateTrack(800, 600, Rate, [.. Enumerable.Range(0, 120).Select(_ => marks)]);
        PlateCourse[] courses = [PlateCourse.Of(track, new PlatePlay { From = 1, To = 3 }), PlateCourse.Of(track, new PlatePlay { Loops = true })];
        foreach (var course in courses)
        {
            Assert.True(course.Folded(37.04, Rate) <= 2 * course.Length(Rate));
            for (var f = 0; f < 400; f++)
            {
                // From there it goes on in the same way.
                var folded = course.Folded(Rate.TimeOf(f), Rate);
                for (var on = 0; on < 3; on++)
                    Assert.Equal(course.FrameAt(Rate.TimeOf(f + on), Rate), course.FrameAt(folded + Rate.TimeOf(on), Rate));
            }
        }
        Assert.Equal(2, courses[0].Length(Rate));
        Assert.Equal(0, new PlateCourse(4, 4, -1, 0).Folded(3, Rate));
    }

    [Fact]
    public void Everybody_in_a_clip_sees_the_same_moment_of_it_and_the_film_knows_that_it_is_another_one()
    {
        PlateFigure Somebody(float x, string clip, string key) =>
            new(
                new PlateTrack(800, 600, Rate, [.. Enumerable.Range(0, 100).Select(i => i is > 60 and < 70 ? null : MarksGuess.FromBox(x, 100, 200, 280, 0))]),
                clip,
                new MouthLook(),
                key,
                key
            );
        string one = new('c', 64),
            other = new('d', 64);
        var cast = new[] { Somebody(100, one, "left"), Somebody(500, one, "right"), Somebody(300, other, "apart") }.ToDictionary(p => p.Rig.Key);
        MemberId[] ids = [.. cast.Select(_ => new MemberId(Guid.NewGuid()))];
        EvaluatedScene Scene(params (int Who, double Start, double End, double From, double Speed)[] runs) =>
            SceneEvaluator.Evaluate(
                new SceneDocument(CastLibrary.Clear, Rate, 800, 600)
                {
                    LeadOut = 6,
                    Members = [.. cast.Keys.Zip(ids, (key, id) => new SceneMember(id, key, key, "", "#000000", new MouthDials(), new PerformanceDials()))],
                    Clips =
                    [
                        .. runs.Select(r =>
                            new FootageClip(new ClipId(Guid.NewGuid()), ids[r.Who], null, r.From, r.Speed, Nowhere, Nowhere).At(null, 0, null, r.Start, r.End)
                        ),
                    ],
                },
                _ => null,
                CastLibrary.With(_ => null, null, cast.GetValueOrDefault)
            );
        var (plain, timed) = (Scene().Stage, Scene((1, 1, 2, 2.4, 0.5)).Stage);
        int[] Shown(StageScene stage, int member) =>
            [.. Enumerable.Range(0, 75).Select(f => int.Parse(stage.Draw(f, 1).Frames[0][stage.ShapesOf(member).First + 1].Path!.Split(' ')[0][1..]))];
        // Laid by one of both, it counts for both, and the clip is still drawn once; who is in another clip goes on.
        Assert.Equal([.. Enumerable.Range(0, 25), .. Enumerable.Range(0, 25).Select(i => 60 + i / 2), .. Enumerable.Range(72, 25)], Shown(timed, 0));
        Assert.Equal(Enumerable.Range(0, 75), Shown(timed, 2));
        Assert.Equal(timed.Cast[0].Footage.Runs, timed.Cast[1].Footage.Runs);
        Assert.Equal(0, timed.Draw(30, 1).Frames[0][timed.ShapesOf(1).First + 1].Opacity);
        Assert.NotEqual(plain.Manifest(), timed.Manifest());
        Assert.Equal(plain.Manifest(), Scene().Stage.Manifest());
    }
}
