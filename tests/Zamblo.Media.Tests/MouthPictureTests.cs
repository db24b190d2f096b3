using SkiaSharp;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Media.Tests;

/// <summary>Mouths that were drawn as pictures take the place of the mouth that the rig draws.</summary>
public class MouthPictureTests
{
    private static readonly CastLibrary Library = CastLibrary.Shipped();
    private static readonly DrawnRecipe Bubb = Library.DrawingOf("bubb")!;

    // An ellipse on nothing, in a colour by which it is found again.
    private static byte[] Mouth(SKColor color, int width = 200, int height = 120, float across = 60, float x = 100, float y = 60)
    {
        using var bitmap = new SKBitmap(width, height, SKColorType.Rgba8888, SKAlphaType.Premul);
        using var canvas = new SKCanvas(bitmap);
        canvas.Clear(SKColors.Transparent);
        using var paint = new SKPaint { Color = color, IsAntialias = true };
        canvas.DrawOval(x, y, across / 2, across / 4, paint);
        using var png = bitmap.Encode(SKEncodedImageFormat.Png, 100);
        return png.ToArray();
    }

    private static readonly SKColor Shut = new(250, 0, 250),
        Wide = new(0, 250, 0),
        Small = new(0, 250, 250);

    private static BroughtDrawing Three() =>
        MouthPictures.Lay(Bubb, [("mouth-mbp.png", Mouth(Shut)), ("AI.png", Mouth(Wide)), ("u_01.png", Mouth(Small, across: 30))]);

    private static (float X, float Y, int Count) Found(BroughtDrawing drawing, MouthShape shape, SKColor color)
    {
        foreach (var (hash, bytes) in drawing.Pictures)
            PictureShelf.Hold(hash, bytes);
        var figure = drawing.Recipe.Make("test");
        using var rasteriser = new Rasteriser((int)figure.Size.X, (int)figure.Size.Y, (0, 0, figure.Size.X, figure.Size.Y), grain: false);
        rasteriser.Draw(StageScene.Portrait(figure, [Pose.Neutral with { Mouth = MouthShapes.TargetOf(shape) }]), 0);
        using var picture = SKBitmap.Decode(rasteriser.ToPng());
        double x = 0,
            y = 0;
        var count = 0;
        for (var j = 0; j < picture.Height; j++)
        for (var i = 0; i < picture.Width; i++)
            if (picture.GetPixel(i, j) is var p && Math.Abs(p.Red - color.Red) + Math.Abs(p.Green - color.Green) + Math.Abs(p.Blue - color.Blue) < 20)
                (x, y, count) = (x + i, y + j, count + 1);
        return count == 0 ? (0, 0, 0) : ((float)(x / count), (float)(y / count), count);
    }

    [Theory]
    [InlineData("rest.png", MouthShape.Rest)]
    [InlineData("Mouth MBP 3.png", MouthShape.Closed)]
    [InlineData("fv.PNG", MouthShape.Tuck)]
    [InlineData("mouth_th.png", MouthShape.Tongue)]
    [InlineData("viseme-oo-12.webp", MouthShape.Pucker)]
    [InlineData("wide.png", MouthShape.Wide)]
    [InlineData("head.png", null)]
    public void A_name_says_the_shape(string name, MouthShape? shape) => Assert.Equal(shape, MouthPictures.ShapeOf(name));

    [Fact]
    public void The_picture_of_a_shape_is_seen_in_the_middle_of_the_mouth_and_no_other()
    {
        var three = Three();
        var pivot = Bubb.Make("bubb").Rig is var rig ? rig.Parts.First(p => p.Id == rig.Mouth.Part).Pivot : [];
        var open = Found(three, MouthShape.Open, Wide);
        Assert.True(open.Count > 100, $"{open.Count}");
        Assert.InRange(open.X, pivot[0] - 6, pivot[0] + 6);
        Assert.InRange(open.Y, pivot[1] - 6, pivot[1] + 6);
        Assert.Equal(0, Found(three, MouthShape.Open, Shut).Count);
        // The widest is as wide as the rig's mouth is when it is spread; the others keep their size beside it.
        var ratio = (double)open.Count / Found(three, MouthShape.Pucker, Small).Count;
        Assert.InRange(ratio, 3, 5.5);
        Assert.True(Found(three, MouthShape.Closed, Shut).Count > 100);
    }

    [Fact]
    public void What_is_missing_is_served_by_the_nearest_and_contacts_stay_closed()
    {
        var mouth = Three().Recipe.Make("test").Rig.Mouth;
        foreach (var shape in new[] { MouthShape.Rest, MouthShape.Closed, MouthShape.Tuck })
            Assert.Equal("closed", mouth.DrawnFor(shape));
        Assert.Equal("open", mouth.DrawnFor(MouthShape.Mid));
        Assert.Equal("pucker", mouth.DrawnFor(MouthShape.Pucker));
        Assert.All(MouthShapes.All, s => Assert.NotNull(mouth.DrawnFor(s)));
        var by = MouthPictures.Serve(Three().Recipe, MouthShape.Mid, MouthShape.Pucker).Make("test").Rig.Mouth;
        Assert.Equal("pucker", by.DrawnFor(MouthShape.Mid));
        Assert.Throws<MediaException>(() => MouthPictures.Serve(Three().Recipe, MouthShape.Mid, MouthShape.Wide));
    }

    [Fact]
    public void Layers_of_the_whole_drawing_lie_where_they_are()
    {
        var (size, rig) = Bubb.Make("bubb") is var figure ? (figure.Size, figure.Rig) : default;
        // At half the drawing's size, a little beside the mouth.
        var (w, h) = ((int)(size.X / 2), (int)(size.Y / 2));
        var pivot = rig.Parts.First(p => p.Id == rig.Mouth.Part).Pivot;
        float x = pivot[0] / size.X + 0.04f,
            y = pivot[1] / size.Y - 0.02f;
        var layers = MouthPictures.Lay(Bubb, [("rest.png", Mouth(Shut, w, h, 40, x * w, y * h)), ("open.png", Mouth(Wide, w, h, 40, x * w, y * h))]);
        var open = Found(layers, MouthShape.Open, Wide);
        Assert.InRange(open.X, x * size.X - 3, x * size.X + 3);
        Assert.InRange(open.Y, y * size.Y - 3, y * size.Y + 3);
    }

    [Fact]
    public void They_go_along_in_the_character_s_file()
    {
        var three = Three();
        var zip = DrawingFiles.Write(three.Recipe, three.Pictures.GetValueOrDefault);
        var back = DrawingFiles.Read(zip);
        Assert.Equal(three.Pictures.Keys.Order(), back.Pictures.Keys.Order());
        Assert.Equal(three.Recipe.Hashes.Order(), back.Recipe.Hashes.Order());
        Assert.Contains("lacks", Assert.Throws<MediaException>(() => DrawingFiles.Read(DrawingFiles.Write(three.Recipe))).Message);
    }

    [Fact]
    public void What_cannot_be_used_is_refused_with_its_name()
    {
        string Refused(params (string, byte[])[] files) => Assert.Throws<MediaException>(() => MouthPictures.Lay(Bubb, files)).Message;
        var good = ("rest.png", Mouth(Shut));
        Assert.Contains("\"head.png\" names no mouth", Refused(good, ("head.png", Mouth(Wide))));
        Assert.Contains("second mouth for closed", Refused(("mbp.png", Mouth(Shut)), ("closed.png", Mouth(Wide))));
        Assert.Contains("no closed mouth", Refused(("ai.png", Mouth(Shut)), ("o.png", Mouth(Wide))));
        Assert.Contains("One mouth cannot speak", Refused(good));
        Assert.Contains("is empty", Refused(good, ("o.png", Mouth(SKColors.Transparent))));
        Assert.Contains("no picture", Refused(good, ("o.png", [1, 2, 3])));
        using var solid = new SKBitmap(40, 40);
        solid.Erase(SKColors.Red);
        using var jpeg = solid.Encode(SKEncodedImageFormat.Jpeg, 90);
        Assert.Contains("no transparent ground", Refused(good, ("o.jpg", jpeg.ToArray())));
    }
}
