using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>No picture size cuts a face.</summary>
public class StageViewTests
{
    [Fact]
    public void Every_head_is_in_the_picture_whatever_its_shape()
    {
        var random = new Random(7);
        (int W, int H)[] sizes = [(1280, 720), (1080, 1080), (1080, 1920), (1080, 1350), (2560, 1080), (640, 360), (3840, 1600), (500, 2000)];
        for (var i = 0; i < 2000; i++)
        {
            var heads = Enumerable
                .Range(0, random.Next(1, 7))
                .Select(_ =>
                {
                    var (x, half, top) = (random.Next(60, 1220), random.Next(30, 90), random.Next(80, 420));
                    return new HeadBox(x - half, x + half, top, random.Next(560, 720));
                })
                .ToArray();
            foreach (var (w, h) in sizes)
            {
                var view = StageView.For(heads, w, h);
                var (left, right) = (view.X - view.Width / 2, view.X + view.Width / 2);
                Assert.All(heads, head => Assert.True(head.Left >= left - 0.01f && head.Right <= right + 0.01f, $"{w}x{h}: {head} in {left} to {right}"));
                // A picture that has room for all is as near as it was; one that is wide shows the stage's middle as it always did.
                if (heads.Max(x => x.Right) - heads.Min(x => x.Left) < StageView.Cover(w, h).Width - 48)
                    Assert.Equal(StageView.Cover(w, h).Width, view.Width, 0.01f);
            }
        }
    }

    [Theory]
    // As screenplays write them (common practice): place, then time of day.
    [InlineData("INT. BAKERY - NIGHT", "bakery")]
    [InlineData("INT. KITCHEN - DAY", "kitchen")]
    [InlineData("INT. ANNA'S KITCHEN - NIGHT", "kitchen-night")]
    [InlineData("EXT. MARKET SQUARE - DUSK", "shop-night")]
    [InlineData("EXT. SOMEWHERE - DAY", "street")]
    [InlineData("INT. LAST TRAIN - MIDNIGHT", "train-night")]
    [InlineData("INT. RADIO BOOTH", "booth")]
    [InlineData("INT. NOWHERE - DAY", null)]
    [InlineData("INT. SPORTS HALL - DAY", null)]
    public void A_heading_says_where_it_plays(string heading, string? set) => Assert.Equal(set, SetWords.SetOf(heading));

    [Fact]
    public void There_are_twelve_places_and_more_and_every_one_goes_on_beyond_the_stage()
    {
        var library = CastLibrary.Shipped();
        Assert.True(library.BackdropKeys.Count >= 12);
        Assert.Equal(library.BackdropKeys.Count, library.BackdropKeys.Select(CastLibrary.BackdropName).Distinct().Count());
        foreach (var key in library.BackdropKeys)
        {
            // Whatever the picture's shape: the first thing that is drawn reaches far beyond it.
            if (key == CastLibrary.Clear)
                continue;
            var first = library.Backdrop(key).Back[0];
            var numbers = System.Text.RegularExpressions.Regex.Matches(first.Path!, @"-?\d+(\.\d+)?").Select(m => float.Parse(m.Value)).ToArray();
            Assert.True(numbers.Min() <= -1200 && numbers.Max() >= 2400, key);
        }
    }

    [Fact]
    public void The_usual_picture_shows_the_whole_stage_and_an_empty_one_its_middle()
    {
        var maro = new HeadBox(250, 420, 160, 600);
        Assert.Equal(new StageView(640, 360, 1280), StageView.For([maro], 1280, 720));
        Assert.Equal(new StageView(640, 360, 405), StageView.For([], 1080, 1920));
        // One alone is looked at; his room is not left for it.
        Assert.Equal(335, StageView.For([maro], 1080, 1920).X, 130f);
        Assert.False(StageView.IsSmall([maro], 1080, 1920));
        Assert.True(StageView.IsSmall([maro, new HeadBox(1000, 1090, 300, 600)], 500, 2000));
    }
}
