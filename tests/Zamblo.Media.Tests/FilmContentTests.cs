using System.Numerics;
using Zamblo.Core;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;

namespace Zamblo.Media.Tests;

/// <summary>A piece of a film is named by all that is seen in it, and by nothing else.</summary>
public class FilmContentTests
{
    private static readonly FrameSize Size = new(320, 180);
    private static readonly StageView Whole = new(640, 360, 1280);

    private static readonly DrawShape[] Shapes = [new("M0 0L9 0L9 9Z", "#112233"), new(null, "#445566")];

    private static DrawItem[] Frame(float opacity = 1, string path = "M1 1L2 2Z", float x = 0) =>
        [new(Matrix3x2.Identity, 1), new(Matrix3x2.CreateTranslation(x, 0), opacity, path)];

    private static DrawingList List(IReadOnlyList<DrawShape>? shapes = null, DrawItem[]? second = null, FrameLook? look = null, bool grain = true) =>
        new(shapes ?? Shapes, [Frame(), second ?? Frame()])
        {
            HasGrain = grain,
            LookAt = (f, _, _) => f == 1 && look is { } l ? l : new FrameLook(Whole, Whole, false),
        };

    private static string NameOf(DrawingList list, FrameSize? size = null, string rate = "25", string codec = "h264") =>
        FilmContent.NameOf(list, size ?? Size, FrameRate.Parse(rate), codec);

    [Fact]
    public void Whatever_is_seen_otherwise_has_another_name()
    {
        var cut = new FrameLook(Whole, Whole, false);
        string[] names =
        [
            NameOf(List()),
            NameOf(List(second: Frame(opacity: 0.5f))),
            NameOf(List(second: Frame(path: "M1 1L2 3Z"))),
            NameOf(List(second: Frame(x: 0.1f))),
            NameOf(List(second: Frame(opacity: 0))),
            NameOf(List(shapes: [Shapes[0] with { Fill = "#112234" }, Shapes[1]])),
            NameOf(List(shapes: [Shapes[0], Shapes[1] with { Picture = "ab" }])),
            NameOf(List(shapes: [Shapes[0], Shapes[1] with { Clip = 0 }])),
            NameOf(List(grain: false)),
            NameOf(List() with { Groups = [new DrawGroup(0, 1, true), new DrawGroup(1, 1, false) { Plane = DrawPlane.Over }] }),
            NameOf(List(look: cut with { Near = Whole with { X = 641 } })),
            NameOf(List(look: cut with { Far = Whole with { Y = 361 } })),
            NameOf(List(look: cut with { Next = new FrameBlend(Whole, Whole, ShotChange.Dissolve, 0.5f) })),
            NameOf(List(look: cut with { Next = new FrameBlend(Whole, Whole, ShotChange.Wipe, 0.5f) })),
            NameOf(List(look: cut with { Next = new FrameBlend(Whole, Whole, ShotChange.Wipe, 0.6f) })),
            NameOf(List(), new FrameSize(640, 360)),
            NameOf(List(), rate: "30"),
            NameOf(List(), codec: "av1"),
        ];
        Assert.Equal(names.Length, names.Distinct().Count());
    }

    [Fact]
    public void The_same_is_the_same_in_another_scene_and_what_is_hidden_may_be_anywhere()
    {
        Assert.Equal(NameOf(List()), NameOf(List(shapes: [.. Shapes.Select(s => s with { })])));
        Assert.Equal(NameOf(List(second: Frame(opacity: 0))), NameOf(List(second: Frame(opacity: 0, path: "M7 7L8 8Z", x: 50))));
    }
}
