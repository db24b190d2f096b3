using System.Text;
using SkiaSharp;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Rigging;

namespace Zamblo.Media.Tests;

/// <summary>Drawings without a rig: as drawing programs write them, with all that the figure must then bear.</summary>
public class RiggedDrawingTests
{
    private static SKBitmap Picture(DrawnFigure figure, Pose pose, int height = 500)
    {
        using var rasteriser = new Rasteriser((int)(height * figure.Size.X / figure.Size.Y), height, (0, 0, figure.Size.X, figure.Size.Y), false);
        rasteriser.Draw(StageScene.Portrait(figure, [pose]), 0);
        return SKBitmap.Decode(rasteriser.ToPng());
    }

    // How many pixels differ, as a share of all.
    private static double Changed(SKBitmap a, SKBitmap b)
    {
        var count = 0;
        for (var y = 0; y < a.Height; y++)
        for (var x = 0; x < a.Width; x++)
            if (a.GetPixel(x, y) != b.GetPixel(x, y))
                count++;
        return (double)count / (a.Width * a.Height);
    }

    private static DrawnFigure Made(string svg) => RiggedDrawings.Read(svg, "Somebody").Recipe.Make("somebody");

    private static DrawnFigure Example(string name) => Made(DrawingExamples.Read(name)!);

    private static string Svg(string inner, string more = "") => $"<svg xmlns=\"http://www.w3.org/2000/svg\" {more} viewBox=\"0 0 100 100\">{inner}</svg>";

    [Theory]
    [InlineData("template")]
    [InlineData("owl")]
    [InlineData("loaf")]
    public void Every_example_speaks_blinks_and_turns(string name)
    {
        var read = RiggedDrawings.Read(DrawingExamples.Read(name)!, name);
        Assert.Empty(read.Warnings);
        var figure = read.Recipe.Make(name);
        using var rest = Picture(figure, Pose.Neutral);
        // Lips that meet look alike, open ones do not; nothing is drawn outside of the face for it.
        Pose Mouth(MouthShape shape) => Pose.Neutral with { Mouth = MouthShapes.TargetOf(shape, 1) };
        using SKBitmap closed = Picture(figure, Mouth(MouthShape.Closed)),
            open = Picture(figure, Mouth(MouthShape.Open)),
            round = Picture(figure, Mouth(MouthShape.Round));
        Assert.InRange(Changed(closed, open), 0.0005, 0.06);
        Assert.InRange(Changed(open, round), 0.0005, 0.06);
        using var shut = Picture(figure, Pose.Neutral with { LidLeft = 0, LidRight = 0 });
        Assert.InRange(Changed(rest, shut), 0.0003, 0.06);
        using SKBitmap left = Picture(figure, Pose.Neutral with { GazeX = -1 }),
            right = Picture(figure, Pose.Neutral with { GazeX = 1 });
        Assert.InRange(Changed(left, right), 0.0002, 0.04);
        using var turned = Picture(figure, Pose.Neutral with { HeadTurn = 20 });
        Assert.InRange(Changed(rest, turned), 0.002, 0.5);
        using var tilted = Picture(figure, Pose.Neutral with { HeadTilt = 12 });
        Assert.InRange(Changed(rest, tilted), 0.02, 0.9);
    }

    [Fact]
    public void Every_part_of_the_template_is_found()
    {
        var said = RigReport.Of(Example("template").Rig);
        Assert.All(said.Where(f => f.What != "Dangling"), f => Assert.Equal(RigState.There, f.State));
        var owl = RigReport.Of(Example("owl").Rig).ToDictionary(f => f.What);
        Assert.Equal("eyes are squeezed shut", owl["Lids"].Says);
        Assert.Equal(RigState.There, owl["Pupils"].State);
        Assert.Equal(RigState.Missing, owl["Brows"].State);
        Assert.Equal("of one piece each", owl["Arms"].Says);
        Assert.Equal("the one drawn mouth is stretched", owl["Mouth"].Says);
        Assert.Contains("tail", owl["Dangling"].Says);
        var loaf = RigReport.Of(Example("loaf").Rig).ToDictionary(f => f.What);
        Assert.Equal("the whole figure nods and tilts", loaf["Head"].Says);
        Assert.Equal("3 drawn mouths, the nearest for each shape", loaf["Mouth"].Says);
        Assert.Equal("the eyes slide a little", loaf["Pupils"].Says);
    }

    // A stretched mouth that is shut is a line, and opens with the jaw.
    [Fact]
    public void A_single_mouth_is_as_high_as_it_is_open()
    {
        var figure = Example("owl");
        float HeightOf(MouthShape shape)
        {
            var picture = figure.MouthPicture(MouthShapes.TargetOf(shape, 1));
            using var path = SKPath.ParseSvgPathData(picture.Paths[0]);
            return path.TightBounds.Height;
        }
        Assert.InRange(HeightOf(MouthShape.Closed) / HeightOf(MouthShape.Open), 0, 0.1);
        Assert.InRange(HeightOf(MouthShape.Tuck) / HeightOf(MouthShape.Open), 0.05, 0.3);
        Assert.InRange(HeightOf(MouthShape.Teeth) / HeightOf(MouthShape.Open), 0.02, 0.7);
    }

    // The forms in which editors write: names as labels, as ids of their own, as data; styles as attributes, in a sheet, with classes; copies; clips.
    [Theory]
    [InlineData("<g id=\"g1\" inkscape:label=\"Head\">{0}</g>", "xmlns:inkscape=\"http://www.inkscape.org/namespaces/inkscape\"")]
    [InlineData("<g id=\"_12\" serif:id=\"Head\">{0}</g>", "xmlns:serif=\"http://www.serif.com/\"")]
    [InlineData("<g id=\"Head-2\" data-name=\"Head\">{0}</g>", "")]
    [InlineData("<g id=\"Head\">{0}</g>", "")]
    public void Names_are_read_as_editors_write_them(string group, string more)
    {
        var figure = Made(Svg(string.Format(group, "<circle cx=\"50\" cy=\"40\" r=\"30\" fill=\"#aa3333\"/>"), more));
        Assert.Contains(figure.Rig.Parts, p => p is { Id: "head", Motion: RigMotion.Head });
    }

    [Theory]
    [InlineData("<style>.a{{fill:#aa3333}}</style><rect class=\"a\" {0}/>")]
    [InlineData("<style>rect.b, .c {{ fill: #AA3333 ; }} /* .b {{ fill: red }} */</style><rect class=\"b x\" {0}/>")]
    [InlineData("<style>#it{{fill:#aa3333}} rect{{fill:blue}}</style><rect id=\"it\" {0}/>")]
    [InlineData("<style>rect{{fill:blue}}</style><rect style=\"fill:rgb(170,51,51)\" fill=\"green\" {0}/>")]
    [InlineData("<defs><rect id=\"r\" {0}/></defs><use href=\"#r\" fill=\"#aa3333\"/>")]
    [InlineData("<defs><symbol id=\"s\"><rect {0}/></symbol></defs><use xlink:href=\"#s\" style=\"fill:#aa3333\"/>")]
    [InlineData("<clipPath id=\"c\"><rect {0}/></clipPath><rect clip-path=\"url(#c)\" width=\"100\" height=\"100\" fill=\"#aa3333\"/>")]
    [InlineData(
        "<clipPath id=\"c\"><use href=\"#r\"/></clipPath><defs><rect id=\"r\" {0}/></defs>"
            + "<g clip-path=\"url(#c)\"><circle cx=\"30\" cy=\"30\" r=\"90\" fill=\"#aa3333\"/></g>"
    )]
    public void Styles_copies_and_clips_paint_what_they_say(string drawing)
    {
        var inner = string.Format(drawing, "x=\"20\" y=\"30\" width=\"40\" height=\"20\"");
        var read = new SvgReader(Svg(inner, "xmlns:xlink=\"http://www.w3.org/1999/xlink\""));
        Assert.Empty(read.Warnings);
        var shape = Assert.Single(read.Pieces, p => p.Path != null);
        Assert.Equal("#aa3333", shape.Look.Fill);
        Assert.Equal((20f, 30f, 60f, 50f), (shape.Box.Left, shape.Box.Top, shape.Box.Right, shape.Box.Bottom));
    }

    [Theory]
    [InlineData("<text>Hello</text>", "<text>")]
    [InlineData("<image href=\"http://example.invalid/a.png\"/>", "<image>")]
    [InlineData("<rect width=\"9\" height=\"9\" filter=\"url(#f)\"/>", "filter")]
    [InlineData("<rect width=\"9\" height=\"9\" mask=\"url(#f)\"/>", "mask")]
    [InlineData("<rect width=\"9\" height=\"9\" fill=\"url(#p)\"/>", "pattern")]
    [InlineData("<rect width=\"9\" height=\"9\" clip-path=\"url(#no)\"/>", "clip-path")]
    [InlineData("<use href=\"#nobody\"/>", "copy")]
    [InlineData("<style>g > rect { fill: red }</style>", "g > rect")]
    [InlineData("<rect width=\"9\" height=\"9\" fill=\"chartreux\"/>", "chartreux")]
    public void What_cannot_be_taken_is_named_and_the_rest_is_taken(string inner, string named)
    {
        var read = RiggedDrawings.Read(Svg("<g id=\"head\"><circle cx=\"50\" cy=\"50\" r=\"20\"/></g>" + inner), "Somebody");
        Assert.Contains(read.Warnings, w => w.Contains(named));
        Assert.Contains(read.Recipe.Make("somebody").Rig.Parts, p => p.Id == "head");
    }

    [Theory]
    [InlineData("<a id=\"x\"><use href=\"#x\"/></a>")]
    [InlineData("<g id=\"a\"><use href=\"#b\"/></g><g id=\"b\"><use href=\"#a\"/></g>")]
    public void Copies_of_themselves_come_to_an_end(string inner) => Assert.NotNull(Tried(Svg(inner)));

    [Fact]
    public void Copies_that_grow_without_end_are_refused()
    {
        var text = new StringBuilder("<defs><path id=\"a0\" d=\"M0 0L9 9Z\"/>");
        for (var i = 1; i < 30; i++)
            text.Append($"<g id=\"a{i}\">").Insert(text.Length, $"<use href=\"#a{i - 1}\"/>", 8).Append("</g>");
        Assert.Contains("more than", Tried(Svg(text.Append("</defs><use href=\"#a29\"/>").ToString())));
    }

    // One long path, copied often; and shapes of many points, cut by one of as many.
    [Fact]
    public void What_would_take_too_long_is_not_begun()
    {
        var longOne = "M0 0" + string.Concat(Enumerable.Range(0, 20_000).Select(i => FormattableString.Invariant($"L{i % 97} {i % 89}")));
        var copies = string.Concat(Enumerable.Repeat("<use href=\"#p\"/>", 400));
        Assert.Contains("too many points", Tried(Svg($"<defs><path id=\"p\" d=\"{longOne}\"/></defs>{copies}")));
        var cut = $"<clipPath id=\"c\"><path d=\"{longOne}\"/></clipPath><path clip-path=\"url(#c)\" d=\"M0 0L90 0L90 90Z\"/>";
        Assert.Contains(new SvgReader(Svg(cut)).Warnings, w => w.Contains("too much of the drawing is cut"));
    }

    // Null where it made a figure, else the sentence; anything but a sentence fails.
    private static string? Tried(string svg)
    {
        try
        {
            var figure = Made(svg);
            using var picture = Picture(figure, Pose.Neutral, 64);
            return null;
        }
        catch (MediaException e)
        {
            return e.Message;
        }
    }

    // Two hundred files that something has happened to: cut, doubled, with other numbers, names and signs in places by chance.
    [Fact]
    public void Spoilt_drawings_make_a_figure_or_a_sentence()
    {
        string[] wounds =
        [
            "",
            "NaN",
            "1e99",
            "-0",
            "<g>",
            "</g>",
            "\"",
            "#",
            "url(#bodyCut)",
            "&amp;",
            "M",
            "Z",
            "z1e",
            "{",
            "}",
            "]]>",
            "href=\"#g22\"",
            "\0",
        ];
        int figures = 0,
            sentences = 0;
        for (var seed = 0; seed < 200; seed++)
        {
            var chance = new Random(seed);
            var text = new StringBuilder(DrawingExamples.Read(DrawingExamples.All[seed % 3])!);
            for (var i = 0; i < 1 + seed % 4; i++)
            {
                var at = chance.Next(text.Length - 40);
                var cut = chance.Next(12);
                text.Remove(at, chance.Next(3) == 0 ? cut : 0).Insert(at, wounds[chance.Next(wounds.Length)]);
            }
            if (Tried(text.ToString()) == null)
                figures++;
            else
                sentences++;
        }
        Assert.Equal(200, figures + sentences);
        Assert.True(figures > 20 && sentences > 20, $"{figures} figures, {sentences} sentences");
    }

    [Fact]
    public void Parts_in_another_order_are_drawn_in_it_and_nothing_else_changes()
    {
        var recipe = RiggedDrawings.Read(DrawingExamples.Read("owl")!, "Owl").Recipe;
        var order = recipe.Order();
        Assert.Equal(recipe.Art, recipe.InOrder(order).Art);
        string[] other = [.. order.Where(o => o != "tail"), "tail"];
        var front = recipe.InOrder(other);
        Assert.Equal(other, front.Order());
        using SKBitmap before = Picture(recipe.Make("owl"), Pose.Neutral),
            after = Picture(front.Make("owl"), Pose.Neutral),
            back = Picture(front.InOrder(order).Make("owl"), Pose.Neutral);
        Assert.NotEqual(0, Changed(before, after));
        Assert.Equal(0, Changed(before, back));
        Assert.Throws<ArtException>(() => recipe.InOrder(["body"]));
        // A drawing whose groups lie in groups is the same figure when they lie beside each other.
        var maro = CastLibrary.Shipped().DrawingOf("maro")!;
        string[] flat = [.. maro.Order()];
        (flat[0], flat[1]) = (flat[1], flat[0]);
        var turned = maro.InOrder(flat);
        (flat[0], flat[1]) = (flat[1], flat[0]);
        using SKBitmap nested = Picture(maro.Make("maro"), Pose.Neutral),
            beside = Picture(turned.InOrder(flat).Make("maro"), Pose.Neutral);
        Assert.Equal(0, Changed(nested, beside));
    }

    [Fact]
    public void Own_mouths_come_off_again()
    {
        var loaf = RiggedDrawings.Read(DrawingExamples.Read("loaf")!, "Loaf").Recipe;
        var plain = MouthPictures.Off(loaf).Make("loaf").Rig.Mouth;
        Assert.Equal((MouthStyle.Muzzle, 0), (plain.Style, plain.Drawn.Count));
        Assert.Throws<MediaException>(() => MouthPictures.Off(MouthPictures.Off(loaf)));
    }
}
