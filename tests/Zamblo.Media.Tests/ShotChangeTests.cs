using SkiaSharp;
using Zamblo.Core;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;

namespace Zamblo.Media.Tests;

/// <summary>One shot becomes the next: what is seen meanwhile is made of both, as much of each as is said.</summary>
public class ShotChangeTests
{
    private const int Width = 320,
        Height = 180,
        At = 50;
    private static readonly CastLibrary Library = CastLibrary.Shipped();

    private static StageScene Stage(string set, double from, ShotChange change, double over = 1)
    {
        var who = new MemberId(Guid.NewGuid());
        var nowhere = new WordAnchor(-1, "", 0, 0, 0);
        var shot = new ShotClip(new ClipId(Guid.NewGuid()), who, null, Framing.Close, CameraMove.Still, null, nowhere, nowhere)
        {
            Change = change,
            Over = over,
        };
        var document = new SceneDocument(set, new FrameRate(25), Width, Height)
        {
            LeadOut = 4,
            Members = [new SceneMember(who, "A", "bubb", "", "#000000", new MouthDials(), new PerformanceDials())],
            Clips = [shot.At(null, 0, null, from, 6)],
        };
        return SceneEvaluator.Evaluate(document, _ => null, Library).Stage;
    }

    private static SKColor[] Picture(StageScene stage, int frame = At)
    {
        using var rasteriser = Rasteriser.ForStage(Width, Height);
        return rasteriser.Draw(stage.Draw(frame, 1), 0).Pixels;
    }

    private static void Same(SKColor[] expected, SKColor[] actual, int limit)
    {
        var worst = expected
            .Zip(actual)
            .Max(p =>
                Math.Max(
                    Math.Max(Math.Abs(p.First.Red - p.Second.Red), Math.Abs(p.First.Green - p.Second.Green)),
                    Math.Max(Math.Abs(p.First.Blue - p.Second.Blue), Math.Abs(p.First.Alpha - p.Second.Alpha))
                )
            );
        Assert.True(worst <= limit, $"{worst}");
    }

    [Theory]
    [InlineData("bakery", ShotChange.Dissolve, 0.48, 0.52)]
    [InlineData("bakery", ShotChange.Dip, 0, 0.04)]
    public void What_is_seen_of_both_adds_up(string set, ShotChange change, double before, double after)
    {
        SKColor[] a = Picture(Stage(set, 9, ShotChange.Cut)),
            b = Picture(Stage(set, 1, ShotChange.Cut));
        Assert.NotEqual(a, b);
        byte Mixed(byte x, byte y) => (byte)Math.Round(before * x + after * y);
        // Its middle is where the shot begins: at frame 50 it is just past that.
        Same([.. a.Zip(b, (x, y) => new SKColor(Mixed(x.Red, y.Red), Mixed(x.Green, y.Green), Mixed(x.Blue, y.Blue)))], Picture(Stage(set, 2, change)), 3);
    }

    [Fact]
    public void Without_a_set_nothing_becomes_less_transparent_than_both()
    {
        SKColor[] a = Picture(Stage(CastLibrary.Clear, 9, ShotChange.Cut)),
            b = Picture(Stage(CastLibrary.Clear, 1, ShotChange.Cut)),
            mixed = Picture(Stage(CastLibrary.Clear, 2, ShotChange.Dissolve));
        Assert.Contains(a.Zip(b), p => p.First.Alpha == 0 && p.Second.Alpha == 255);
        for (var i = 0; i < a.Length; i++)
            Assert.InRange(mixed[i].Alpha, 0.48 * a[i].Alpha + 0.52 * b[i].Alpha - 3, 0.48 * a[i].Alpha + 0.52 * b[i].Alpha + 3);
    }

    [Fact]
    public void An_edge_passes_and_leaves_the_next_picture_behind_it()
    {
        SKColor[] a = Picture(Stage("bakery", 9, ShotChange.Cut)),
            b = Picture(Stage("bakery", 1, ShotChange.Cut)),
            wiped = Picture(Stage("bakery", 2, ShotChange.Wipe));
        var edge = (int)Math.Round(0.52 * Width);
        // Skia smooths edges of a clipped shape a little otherwise: a handful of pixels along them.
        var other = wiped.Where((p, i) => (i % Width < edge ? b[i] : a[i]) is var e && Math.Abs(p.Red - e.Red) + Math.Abs(p.Green - e.Green) > 4).Count();
        Assert.True(other < 0.002 * wiped.Length, $"{other} of {wiped.Length}");
        Assert.True(wiped.Where((p, i) => p != a[i]).Count() > 0.2 * wiped.Length);
    }

    [Fact]
    public void Something_dark_passes_and_hides_the_edge()
    {
        SKColor[] a = Picture(Stage("bakery", 9, ShotChange.Cut)),
            b = Picture(Stage("bakery", 1, ShotChange.Cut)),
            passed = Picture(Stage("bakery", 2, ShotChange.Pass));
        var middle = (0.52f * (1 + FrameBlend.PassWidth) - FrameBlend.PassWidth / 2) * Width;
        var half = FrameBlend.PassWidth / 2 * Width;
        int[] xs = [.. Enumerable.Range(0, Width)];
        SKColor[] Row(SKColor[] of) => [.. xs.Select(x => of[Height / 2 * Width + x])];
        var (rowA, rowB, row) = (Row(a), Row(b), Row(passed));
        Assert.All(xs.Where(x => Math.Abs(x - middle) < 0.4f * half), x => Assert.True(row[x] is { Red: < 24, Green: < 28, Blue: < 40 }));
        Assert.True(xs.Where(x => x < middle - half - 1).Count(x => row[x] != rowB[x]) < 4);
        Assert.True(xs.Where(x => x > middle + half + 1).Count(x => row[x] != rowA[x]) < 4);
        // It comes from beyond the picture and is gone when it ends.
        Assert.Equal(-FrameBlend.PassWidth / 2, new FrameBlend(default, default, ShotChange.Pass, 0).Edge);
        Assert.Equal(1 + FrameBlend.PassWidth / 2, new FrameBlend(default, default, ShotChange.Pass, 1).Edge, 4);
    }

    [Fact]
    public void It_begins_and_ends_where_it_is_said_and_leaves_something_of_each_shot()
    {
        var stage = Stage("bakery", 2, ShotChange.Dissolve);
        var shares = Enumerable.Range(0, stage.FrameCount).Select(f => stage.LookAt(f, Width, Height).Next?.Share).ToArray();
        var during = Enumerable.Range(0, shares.Length).Where(f => shares[f] != null).ToArray();
        // A second at 25 frames about frame 50.
        Assert.Equal((38, 61), (during[0], during[^1]));
        Assert.Equal(during.Select(f => shares[f]).Order(), during.Select(f => shares[f]));
        Assert.All(during, f => Assert.InRange(shares[f]!.Value, 0.01f, 0.99f));
        // Longer than the shots are, it takes half of the shorter one.
        stage = Stage("bakery", 1, ShotChange.Dissolve, 4);
        during = [.. Enumerable.Range(0, stage.FrameCount).Where(f => stage.LookAt(f, Width, Height).Next != null)];
        Assert.Equal((13, 36), (during[0], during[^1]));
        Assert.Null(Stage("bakery", 2, ShotChange.Cut).LookAt(At, Width, Height).Next);
        Assert.Distinct(Enum.GetValues<ShotChange>().Select(c => Stage("bakery", 2, c).Manifest()));
    }
}
