using System.IO.Compression;
using System.Text;
using System.Text.RegularExpressions;
using SkiaSharp;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Media.Tests;

/// <summary>Characters that come out of a drawing program.</summary>
public class DrawingTests
{
    private static readonly CastLibrary Library = CastLibrary.Shipped();

    private static byte[] Picture(DrawnFigure figure)
    {
        var list = StageScene.Portrait(figure, [Pose.Neutral]);
        using var rasteriser = new Rasteriser(300, (int)(300 * figure.Size.Y / figure.Size.X), (0, 0, figure.Size.X, figure.Size.Y), false);
        rasteriser.Draw(list, 0);
        return rasteriser.ToPng();
    }

    private static double Difference(byte[] a, byte[] b)
    {
        using SKBitmap x = SKBitmap.Decode(a),
            y = SKBitmap.Decode(b);
        Assert.Equal((x.Width, x.Height), (y.Width, y.Height));
        return x.Bytes.Zip(y.Bytes, (p, q) => Math.Abs(p - q)).Average() / 255;
    }

    [Theory]
    [InlineData("maro")]
    [InlineData("bubb")]
    [InlineData("tock")]
    [InlineData("wick")]
    [InlineData("kett")]
    [InlineData("sift")]
    public void A_drawing_that_goes_out_and_comes_back_is_the_same_character(string key)
    {
        var before = Library.DrawingOf(key)!;
        var after = DrawingFiles.Read(DrawingFiles.Write(before)).Recipe;
        Assert.Equal(before.Rig, after.Rig);
        Assert.InRange(Difference(Picture(before.Make(key)), Picture(after.Make(key))), 0, 0.002);
    }

    // What drawing programs write (SVG 1.1): transforms on groups, styles, layers with labels, units, numbers run together, relative commands.
    [Fact]
    public void The_same_drawing_as_a_drawing_program_writes_it_is_the_same_character()
    {
        var before = Library.DrawingOf("bubb")!;
        var size = before.Make("bubb").Size;
        var inner = Regex.Match(before.Art, @"<svg[^>]*>(.*)</svg>", RegexOptions.Singleline).Groups[1].Value;
        // Ids become numbers with labels, fills become styles, all is moved and turned and back again.
        var number = 0;
        inner = Regex.Replace(
            inner,
            "<g id=\"([^\"]+)\"",
            m => $"<g id=\"g{100 + number++}\" inkscape:groupmode=\"layer\" inkscape:label=\"{m.Groups[1].Value}\""
        );
        inner = Regex.Replace(inner, "fill=\"(#[0-9A-Fa-f]{6})\"", "style=\"display:inline;fill:$1;fill-opacity:1\"");
        var art = $"""
            <?xml version="1.0" encoding="UTF-8" standalone="no"?>
            <!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd">
            <svg xmlns="http://www.w3.org/2000/svg" xmlns:inkscape="http://www.inkscape.org/namespaces/inkscape"
                 xmlns:sodipodi="http://sodipodi.sourceforge.net/DTD/sodipodi-0.dtd" width="210mm" height="297mm" viewBox="10 20 {size.X} {size.Y}">
              <defs><linearGradient id="unused"><stop offset="0" stop-color="red"/></linearGradient></defs>
              <sodipodi:namedview pagecolor="#ffffff"/><metadata>A drawing</metadata>
              <g transform="translate(10,20) rotate(90)"><g transform="matrix(0 -2 2 0 0 0) scale(.5)">{inner}</g></g>
            </svg>
            """;
        var after = DrawingFiles.Read(art, before.Rig);
        Assert.InRange(Difference(Picture(before.Make("bubb")), Picture(after.Make("bubb"))), 0, 0.004);
    }

    [Theory]
    [InlineData("<path d=\"m1 1h8v8h-8z\" fill=\"tomato\"/>", "#ff6347")]
    [InlineData("<rect width=\"8\" height=\"8\" style=\"fill:rgb(16, 32,48)\"/>", "#102030")]
    [InlineData("<polygon points=\"0,0 8,0 8 8\" fill=\"#abc\"/>", "#aabbcc")]
    [InlineData("<circle cx=\"4\" cy=\"4\" r=\"3\" fill=\"url(#g)\"/>", "#7f0080|#800080")]
    [InlineData("<circle cx=\"4\" cy=\"4\" r=\"3\" fill=\"url(#h)\"/>", "#7f0080|#800080")]
    [InlineData("<path d=\"M1 1H8V8z\"/>", "#000000")]
    public void Colours_of_every_kind_become_one(string shape, string colours)
    {
        const string gradients =
            "<defs><linearGradient id=\"g\"><stop stop-color=\"red\"/><stop style=\"stop-color:#0000ff\"/></linearGradient>"
            + "<radialGradient id=\"h\" xmlns:xlink=\"http://www.w3.org/1999/xlink\" xlink:href=\"#g\"/></defs>";
        var plain = SvgTidy.Plain(
            $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 10 10\">{gradients}<g id=\"torso\">{shape}</g></svg>",
            new HashSet<string> { "torso" }
        );
        Assert.Matches($"<g id=\"torso\">\\s*<path d=\"M[^\"]+\" fill=\"({colours})\"", plain);
    }

    [Theory]
    [InlineData("<text x=\"1\" y=\"1\">Maro</text>", "<text>")]
    [InlineData("<image href=\"a.png\"/>", "<image>")]
    [InlineData("<path d=\"M1 1H8V8z\" clip-path=\"url(#c)\"/>", "clip-path")]
    [InlineData("<path d=\"M1 1H8V8z\" style=\"filter:url(#f)\"/>", "filter")]
    [InlineData("<path d=\"M1 1H8V8z\" fill=\"url(#pattern)\"/>", "pattern")]
    [InlineData("<path d=\"M1 1H8V8z\" fill=\"chartreux\"/>", "chartreux")]
    [InlineData("<g transform=\"perspective(3)\"><path d=\"M1 1H8V8z\"/></g>", "perspective")]
    public void What_cannot_be_drawn_is_named(string inner, string part) =>
        Assert.Contains(
            part,
            Assert
                .Throws<ArtException>(() =>
                    SvgTidy.Plain($"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 10 10\">{inner}</svg>", new HashSet<string>())
                )
                .Message
        );

    [Fact]
    public void What_is_no_character_is_refused_with_its_reason()
    {
        string Refused(Action read) => Assert.Throws<MediaException>(read).Message;
        Assert.Contains("no zip", Refused(() => DrawingFiles.Read("a letter"u8.ToArray())));
        byte[] Zip(params (string Name, string Text)[] files)
        {
            using var bytes = new MemoryStream();
            using (var zip = new ZipArchive(bytes, ZipArchiveMode.Create, true))
                foreach (var (name, text) in files)
                    using (var writer = new StreamWriter(zip.CreateEntry(name).Open()))
                        writer.Write(text);
            return bytes.ToArray();
        }
        var maro = Library.DrawingOf("maro")!;
        Assert.Contains("rig.json is missing", Refused(() => DrawingFiles.Read(Zip(("art.svg", maro.Art)))));
        Assert.Contains("rig cannot be read", Refused(() => DrawingFiles.Read(Zip(("art.svg", maro.Art), ("rig.json", "{")))));
        Assert.Contains(
            "names the part \"mouth\"",
            Refused(() => DrawingFiles.Read(Zip(("a/art.svg", maro.Art.Replace("\"mouth\"", "\"mund\"")), ("a/rig.json", maro.Rig))))
        );
        // A bomb of nothings is stopped where it is too long.
        Assert.Contains("too long", Refused(() => DrawingFiles.Read(Zip(("art.svg", new string(' ', DrawingFiles.Largest + 5)), ("rig.json", maro.Rig)))));
        // Entities that grow without end are not read at all.
        var laughs = "<!DOCTYPE svg [<!ENTITY a \"aaaaaaaaaa\"><!ENTITY b \"&a;&a;&a;&a;&a;&a;\">]><svg viewBox=\"0 0 1 1\">&b;</svg>";
        Assert.Contains("not well-formed", Refused(() => DrawingFiles.Read(laughs, maro.Rig)));
    }

    [Fact]
    public void One_that_is_drawn_over_has_the_rig_and_another_name()
    {
        var before = Library.DrawingOf("sift")!;
        var over = DrawingFiles.Over(before, before.Art, "Sieve");
        Assert.Equal("Sieve", over.Make("x").Rig.Name);
        Assert.Equal(Library.Character("sift").Rig.Voice, over.Make("x").Rig.Voice);
    }
}
