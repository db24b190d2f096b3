using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>Where somebody is put by hand.</summary>
public class MemberPlaceTests
{
    private static readonly CastLibrary Library = CastLibrary.Shipped();

    private static StageScene Stage(params MemberPlace?[] places)
    {
        string[] who = ["bubb", "tock", "bubb"];
        var document = new SceneDocument("bakery", new FrameRate(25), 1280, 720)
        {
            Members =
            [
                .. places.Select(
                    (p, i) =>
                        new SceneMember(new MemberId(Guid.NewGuid()), $"{i}", who[i], "", "#000000", new MouthDials(), new PerformanceDials()) { Place = p }
                ),
            ],
        };
        return SceneEvaluator.Evaluate(document, _ => null, Library).Stage;
    }

    [Fact]
    public void Somebody_stands_where_it_was_put_and_the_others_where_they_stood()
    {
        var (plain, put) = (Stage(null, null), Stage(null, new MemberPlace(300, 40, 1.5f)));
        Assert.Equal(plain.Cast[0].X, put.Cast[0].X);
        Assert.Equal((300, plain.Cast[1].Y - 40, 1.5f * plain.Cast[1].Scale), (put.Cast[1].X, put.Cast[1].Y, put.Cast[1].Scale));
        Assert.NotEqual(plain.Manifest(), put.Manifest());
        // Heads go along: what the camera frames, what the eyes look at and what a review measures.
        var (before, after) = (plain.Heads[1], put.Heads[1]);
        Assert.Equal(1.5f, (after.Right - after.Left) / (before.Right - before.Left), 3);
        Assert.Equal(put.Cast[1].Y + 1.5f * (before.Floor - plain.Cast[1].Y), after.Floor, 3);
        // The shadow lies at its feet.
        var shadow = put.ShapesOf(1).First;
        var (a, b) = (plain.Draw(0, 1).Frames[0][shadow].Transform, put.Draw(0, 1).Frames[0][shadow].Transform);
        Assert.Equal(1.5f, b.M11 / a.M11, 3);
        Assert.Equal(300 - plain.Cast[1].X, b.M31 - a.M31, 1);
    }

    [Fact]
    public void Somebody_in_front_is_drawn_later_and_keeps_its_number()
    {
        var plain = Stage(null, null, null);
        Assert.Equal([0, 1, 2], Enumerable.Range(0, 3).OrderBy(i => plain.ShapesOf(i).First));
        var put = Stage(new MemberPlace(Depth: 1), null, new MemberPlace(Depth: -1));
        Assert.Equal([2, 1, 0], Enumerable.Range(0, 3).OrderBy(i => put.ShapesOf(i).First));
        Assert.Equal("2,1,0", put.OrderKey);
        Assert.Equal("", plain.OrderKey);
        Assert.NotEqual(plain.Manifest(), put.Manifest());
        var own = put.ShapesOf(0);
        Assert.Equal(plain.ShapesOf(0).Count, own.Count);
        for (var i = 1; i < own.Count; i++)
            Assert.Equal(plain.Shapes[plain.ShapesOf(0).First + i] with { Clip = -1 }, put.Shapes[own.First + i] with { Clip = -1 });
    }

    [Fact]
    public void A_place_is_kept_within_sight() => Assert.Equal(new MemberPlace(1680, 0, 4, 20), new MemberPlace(1e9f, float.NaN, 9, 99).Clamped());
}
