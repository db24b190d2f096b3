using System.Text;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>Drawings that come from somewhere: only what every painter understands gets through.</summary>
public class ArtTests
{
    private static SvgArt Read(string inside, string before = "") =>
        SvgArt.Read(new MemoryStream(Encoding.UTF8.GetBytes($"{before}<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 10 10\">{inside}</svg>")), "x");

    [Theory]
    // Examples of the path data grammar of SVG 1.1, 8.3: commands repeated, signs and points without gaps, flags of an arc without gaps.
    [InlineData("M 100 100 L 300 100 L 200 300 z")]
    [InlineData("M100,200 C100,100 250,100 250,200 S400,300 400,200")]
    [InlineData("M200,300 Q400,50 600,300 T1000,300")]
    [InlineData("M300,200 h-150 a150,150 0 1,0 150,-150 z")]
    [InlineData("M600,350 l 50,-25a25,25 -30 0150,-25")]
    [InlineData("M.5.5-1e1-2.5E-1")]
    public void Paths_of_the_standard_are_read(string d) => Assert.Equal(d, Assert.Single(Read($"<path d=\"{d}\"/>").Shapes).Path);

    [Theory]
    [InlineData("<path d=\"L 1 1\"/>", "begin with a move")]
    [InlineData("<path d=\"M 1\"/>", "1 numbers after")]
    [InlineData("<path d=\"M 1 1 C 1 2 3 4 5\"/>", "5 numbers after")]
    [InlineData("<path d=\"M 1 NaN\"/>", "1 numbers after")]
    [InlineData("<path d=\"M 1 1e30\"/>", "cannot be read")]
    [InlineData("<path d=\"M0 0 A 1 1 0 2 0 3 3\"/>", "cannot be read")]
    [InlineData("<path d='M0 0\",\"fill\":\"x'/>", "")]
    [InlineData("<path fill=\"url(#x)\" d=\"M0 0\"/>", "#rrggbb")]
    [InlineData("<path stroke=\"red;background:url(x)\" d=\"M0 0\"/>", "#rrggbb")]
    [InlineData("<ellipse cx=\"1\" cy=\"2\" rx=\"Infinity\" ry=\"1\"/>", "where a number should be")]
    [InlineData("<g id=\"../x\"/>", "not a name")]
    [InlineData("<script>alert(1)</script>", "<script>")]
    [InlineData("<image href=\"file:///etc/passwd\"/>", "<image>")]
    public void What_no_painter_should_get_is_refused_by_name(string inside, string part) =>
        Assert.Contains(part, Assert.Throws<ArtException>(() => Read(inside)).Message);

    [Fact]
    public void Entities_depth_and_crowds_are_refused_before_they_take_anything()
    {
        Assert.Contains(
            "DTD",
            Assert.Throws<ArtException>(() => Read("<desc>&b;</desc>", "<!DOCTYPE svg [<!ENTITY a \"aaaaaaaaaa\"><!ENTITY b \"&a;&a;&a;\">]>")).Message
        );
        Assert.Contains("DTD", Assert.Throws<ArtException>(() => Read("&x;", "<!DOCTYPE svg [<!ENTITY x SYSTEM \"file:///etc/passwd\">]>")).Message);
        Assert.Contains(
            "deep",
            Assert.Throws<ArtException>(() => Read(string.Concat(Enumerable.Repeat("<g>", 20_000)) + string.Concat(Enumerable.Repeat("</g>", 20_000)))).Message
        );
        Assert.Contains("shapes", Assert.Throws<ArtException>(() => Read(string.Concat(Enumerable.Repeat("<path d=\"M0 0\"/>", 5000)))).Message);
        Assert.Contains("characters", Assert.Throws<ArtException>(() => Read($"<path d=\"M0 0{new string(' ', 200_000)}\"/>")).Message);
        Assert.Throws<ArtException>(() => Read($"<desc>{new string('x', 5_000_000)}</desc>"));
    }

    [Fact]
    public void Every_drawing_of_the_house_passes()
    {
        var library = CastLibrary.Shipped();
        Assert.All(library.CharacterKeys, key => Assert.NotEmpty(library.Character(key).Shapes));
        Assert.All(library.BackdropKeys.Where(k => k != CastLibrary.Clear), key => Assert.NotEmpty(library.Backdrop(key).Back));
    }
}
