using SkiaSharp;
using Zamblo.Core.Stage;

namespace Zamblo.Media.Tests;

/// <summary>Pictures of one's own, good and bad.</summary>
public class PictureTests
{
    private static byte[] Drawn(int width, int height, SKEncodedImageFormat format, Action<SKCanvas> draw)
    {
        using var bitmap = new SKBitmap(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Premul));
        using var canvas = new SKCanvas(bitmap);
        draw(canvas);
        using var data = bitmap.Encode(format, 95);
        return data.ToArray();
    }

    // Left half red, right half blue.
    private static void Halves(SKCanvas canvas)
    {
        canvas.Clear(SKColors.Red);
        using var blue = new SKPaint { Color = SKColors.Blue };
        canvas.DrawRect(20, 0, 20, 20, blue);
    }

    private static SKColor At(TakenPicture picture, int x, int y)
    {
        using var bitmap = SKBitmap.Decode(picture.Bytes);
        return bitmap.GetPixel(x, y);
    }

    // An EXIF block with nothing but the orientation (CIPA DC-008: tag 0x0112, SHORT) behind the start of a JPEG.
    private static byte[] Oriented(byte[] jpeg, byte orientation)
    {
        byte[] exif =
        [
            0xFF,
            0xE1,
            0,
            34,
            (byte)'E',
            (byte)'x',
            (byte)'i',
            (byte)'f',
            0,
            0,
            (byte)'M',
            (byte)'M',
            0,
            42,
            0,
            0,
            0,
            8,
            0,
            1,
            0x01,
            0x12,
            0,
            3,
            0,
            0,
            0,
            1,
            0,
            orientation,
            0,
            0,
            0,
            0,
            0,
            0,
        ];
        return [.. jpeg[..2], .. exif, .. jpeg[2..]];
    }

    [Fact]
    public void A_picture_is_turned_as_its_camera_was_held()
    {
        var jpeg = Drawn(40, 20, SKEncodedImageFormat.Jpeg, Halves);
        var plain = PictureFiles.Take(jpeg, "a.jpg");
        Assert.Equal((40, 20), (plain.Width, plain.Height));
        Assert.True(At(plain, 5, 10).Red > 200 && At(plain, 35, 10).Blue > 200);
        // 6: the first row is at the right, the first column on top; 8: at the left, at the bottom; 3: upside down.
        var right = PictureFiles.Take(Oriented(jpeg, 6), "a.jpg");
        Assert.Equal((20, 40), (right.Width, right.Height));
        Assert.True(At(right, 10, 5).Red > 200 && At(right, 10, 35).Blue > 200);
        Assert.True(At(PictureFiles.Take(Oriented(jpeg, 8), "a.jpg"), 10, 5).Blue > 200);
        Assert.True(At(PictureFiles.Take(Oriented(jpeg, 3), "a.jpg"), 5, 10).Blue > 200);
    }

    [Fact]
    public void Holes_stay_holes_and_edges_are_known()
    {
        var png = Drawn(
            60,
            40,
            SKEncodedImageFormat.Png,
            c =>
            {
                c.Clear(SKColors.Transparent);
                using var green = new SKPaint { Color = SKColors.Lime };
                c.DrawRect(20, 10, 20, 20, green);
            }
        );
        Assert.Equal(0, At(PictureFiles.Take(png, "a.png"), 2, 2).Alpha);
        Assert.Equal("#0000ff", PictureFiles.Take(Drawn(30, 30, SKEncodedImageFormat.Png, c => c.Clear(SKColors.Blue)), "b.png").Edge);
        // A large one is made as large as is needed, and written anew.
        var large = PictureFiles.Take(Drawn(8000, 5000, SKEncodedImageFormat.Jpeg, c => c.Clear(SKColors.Gray)), "c.jpg");
        Assert.Equal((3840, 2400), (large.Width, large.Height));
        Assert.Equal(10, PictureFiles.Take(Drawn(10, 10, SKEncodedImageFormat.Webp, c => c.Clear(SKColors.Red)), "d.webp").Width);
    }

    [Fact]
    public void What_is_no_picture_is_said_to_be_none()
    {
        void Refused(byte[] bytes, string part) => Assert.Contains(part, Assert.Throws<MediaException>(() => PictureFiles.Take(bytes, "x.jpg")).Message);
        Refused([], "no picture");
        Refused("flour and water"u8.ToArray(), "no picture");
        Refused(Drawn(1, 1, SKEncodedImageFormat.Png, c => c.Clear(SKColors.Red)), "too small");
        // A head that promises 60000 x 60000 pixels: refused before memory is taken. PNG (ISO/IEC 15948), 11.2.2: width and height at bytes 16 to 23.
        var bomb = Drawn(10, 10, SKEncodedImageFormat.Png, c => c.Clear(SKColors.Red));
        (bomb[18], bomb[19], bomb[22], bomb[23]) = (0xEA, 0x60, 0xEA, 0x60);
        var crc = ~0u;
        foreach (var b in bomb[12..29])
        {
            crc ^= b;
            for (var k = 0; k < 8; k++)
                crc = (crc & 1) != 0 ? 0xEDB88320 ^ (crc >> 1) : crc >> 1;
        }
        crc = ~crc;
        for (var i = 0; i < 4; i++)
            bomb[29 + i] = (byte)(crc >> (24 - 8 * i));
        Refused(bomb, "million");
    }

    [Fact]
    public void A_picture_of_one_s_own_is_drawn_where_its_key_says()
    {
        var picture = PictureFiles.Take(Drawn(40, 20, SKEncodedImageFormat.Png, Halves), "a.png");
        var hash = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(picture.Bytes));
        PictureShelf.Hold(hash, picture.Bytes);
        var set = new PictureSet(hash, picture.Width, picture.Height, "#00ff00") { IsWhole = true };
        var scene = new StageScene(set.ToBackdrop(), [], new Core.FrameRate(25), 0.1);
        using var rasteriser = Rasteriser.ForStage(640, 360);
        var bitmap = rasteriser.Draw(scene.Draw(0, 1), 0);
        // Out of focus what was red beside blue is a slope between them, and its edge lets nothing through.
        using var soft = Rasteriser.ForStage(640, 360);
        var far = soft.Draw(new StageScene((set with { IsWhole = false, Blur = 20 }).ToBackdrop(), [], new Core.FrameRate(25), 0.1).Draw(0, 1), 0);
        Assert.InRange(far.GetPixel(320, 180).Red, 60, 200);
        Assert.InRange(far.GetPixel(320, 180).Blue, 60, 200);
        Assert.InRange(far.GetPixel(334, 180).Red, 10, far.GetPixel(320, 180).Red - 20);
        foreach (var (x, y) in ((int, int)[])[(0, 0), (639, 0), (0, 359), (639, 359)])
            Assert.InRange(far.GetPixel(x, y).Green, 0, 40);
        // Twice as wide as high: all of it leaves 20 pixels above and below in the colour of its edge.
        Assert.True(bitmap.GetPixel(100, 180).Red > 150 && bitmap.GetPixel(540, 180).Blue > 150);
        Assert.True(bitmap.GetPixel(320, 8).Green > 150 && bitmap.GetPixel(320, 352).Green > 150);

        // Half as large and moved by a quarter of the stage, its middle is there; what fills the stage goes on filling it, however it is moved.
        var moved = set with
        {
            Size = 50,
            Right = 25,
            Down = -10,
        };
        Assert.Equal(moved, PictureSet.Read(moved.Key));
        var there = Rasteriser.ForStage(640, 360).Draw(new StageScene(moved.ToBackdrop(), [], new Core.FrameRate(25), 0.1).Draw(0, 1), 0);
        Assert.True(there.GetPixel(470, 144).Red > 150 && there.GetPixel(490, 144).Blue > 150 && there.GetPixel(300, 144).Green > 150);
        foreach (var filling in (PictureSet[])[set with { IsWhole = false, Size = 50 }, set with { IsWhole = false, Right = 100, Down = 100, Size = 150 }])
        {
            var (corner, scale) = filling.Placement;
            Assert.True(
                corner is { X: <= 0, Y: <= 0 } && corner.X + 40 * scale >= StageScene.Width - 0.01f && corner.Y + 20 * scale >= StageScene.Height - 0.01f
            );
        }
        Assert.All((string[])[":m101,0,100", ":m0,0,20", ":m0,0,401", ":m0,0", ":m0,0,100:m0,0,100"], wrong => Assert.Null(PictureSet.Read(set.Key + wrong)));
    }

    [Fact]
    public async Task A_drawing_becomes_a_picture_with_its_gradients_and_holes()
    {
        static byte[] Svg(string inner, string attributes = "viewBox=\"0 0 160 90\"") =>
            System.Text.Encoding.UTF8.GetBytes(
                "<?xml version=\"1.0\"?>\n<!-- a sky -->\n<svg xmlns=\"http://www.w3.org/2000/svg\" xmlns:xlink=\"http://www.w3.org/1999/xlink\" "
                    + $"{attributes}>{inner}</svg>"
            );
        const string sky =
            "<defs><linearGradient id=\"g\" x2=\"0\" y2=\"1\"><stop stop-color=\"#0000ff\"/><stop offset=\"1\" stop-color=\"#ff0000\"/></linearGradient></defs>"
            + "<rect width=\"80\" height=\"90\" fill=\"url(#g)\"/><text x=\"90\" y=\"60\" font-size=\"40\">Oven</text>";
        var picture = await PictureFiles.TakeAsync(Svg(sky), "sky.svg");
        Assert.Equal((2560, 1440), (picture.Width, picture.Height));
        using var drawn = SKBitmap.Decode(picture.Bytes);
        SKColor Of(int x, int y) => drawn.GetPixel(x, y);
        Assert.True(Of(400, 20) is { Blue: > 240, Red: < 15 } && Of(400, 1420) is { Red: > 240, Blue: < 15 } && Of(400, 720) is { Red: > 110, Blue: > 110 });
        Assert.Equal(0, Of(2500, 100).Alpha);
        // The letters are there.
        Assert.Contains(Enumerable.Range(1440, 1000), x => Of(x, 850).Alpha > 200);
        // Nothing is fetched from elsewhere, neither files nor addresses; a trap or nonsense is refused in a sentence.
        var secret = Path.GetTempFileName() + ".png";
        File.WriteAllBytes(secret, Drawn(20, 20, SKEncodedImageFormat.Png, c => c.Clear(SKColors.Lime)));
        var link = await PictureFiles.TakeAsync(
            Svg($"<rect width=\"9\" height=\"9\"/><image xlink:href=\"file://{secret}\" width=\"160\" height=\"90\"/>"),
            "a.svg"
        );
        Assert.NotEqual(SKColors.Lime, At(link, 1200, 700));
        File.Delete(secret);
        foreach (var bad in (byte[][])[Svg("<rect"), Svg("", "width=\"0\" height=\"0\""), System.Text.Encoding.UTF8.GetBytes("<svg")])
            Assert.NotEmpty((await Assert.ThrowsAnyAsync<MediaException>(() => PictureFiles.TakeAsync(bad, "bad.svg"))).Message);
    }

    [Fact]
    public async Task A_clip_of_one_s_own_plays_behind_everybody_and_begins_again()
    {
        var folder = Directory.CreateTempSubdirectory("zamblo-clip-").FullName;
        try
        {
            var clip = Path.Combine(folder, "a.mp4");
            string[] colours = ["-f", "lavfi", "-i", "color=red:s=64x36:r=25:d=0.4", "-f", "lavfi", "-i", "color=blue:s=64x36:r=25:d=0.4"];
            string[] made = ["-v", "error", .. colours, "-filter_complex", "[0][1]concat", "-pix_fmt", "yuv420p", clip];
            Assert.Equal(0, (await OutsideProgram.RunAsync("ffmpeg", made)).ExitCode);
            var count = await VideoFrames.TakeApartAsync(clip, "a.mp4", PictureSet.FilmRate, 10, 1920, folder, default);
            Assert.Equal(20, count);
            var hash = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(File.ReadAllBytes(clip)));
            PictureShelf.KnowFrames(hash, frame => VideoFrames.PathOf(folder, frame));
            var set = new PictureSet(hash, 64, 36, "#00ff00") { Frames = count };
            Assert.Equal(set, PictureSet.Read(set.Key));
            Assert.Equal(set with { IsWhole = true, Darker = 40 }, PictureSet.Read((set with { IsWhole = true, Darker = 40 }).Key));
            Assert.All(
                (string[])[set.Key.Replace(":20", ":0"), set.Key.Replace("clip", "picture"), set.Key[..^3], set.Key + ":5", set.Key.Replace(":20", ":99999")],
                key => Assert.Null(PictureSet.Read(key))
            );
            var maro = new StageMember(CastLibrary.Shipped().Character("maro"), 640, 790, 0.62f, true, [], new Core.Performance.PerformanceDials());
            // A film has another rate than the clip; what is seen is the clip's frame of the moment.
            var scene = new StageScene(set.ToBackdrop(), [maro], new Core.FrameRate(50), 1.5);
            using var rasteriser = Rasteriser.ForStage(320, 180);
            var list = scene.Draw(0, scene.FrameCount);
            foreach (var frame in (int[])[0, 7, 19, 20, 33, 39, 40, 59, 60, 74])
            {
                var corner = rasteriser.Draw(list, frame).GetPixel(8, 8);
                var isRed = frame / 2 % 20 < 10;
                Assert.True(isRed ? corner is { Red: > 200, Blue: < 60 } : corner is { Blue: > 200, Red: < 60 }, $"{frame}: {corner}");
                // He stands before it.
                Assert.NotEqual(corner, rasteriser.Draw(list, frame).GetPixel(160, 100));
            }
            // A frame drawn alone is that of a run, to the last bit.
            using var run = new FilmPainter(320, 180);
            using var alone = new FilmPainter(320, 180);
            for (var frame = 0; frame < 50; frame++)
                if (run.Draw(list, frame).ToArray() is var there && frame % 12 == 5)
                    Assert.Equal(there, alone.Draw(scene.Draw(frame, 1), 0).ToArray());
            Assert.NotEqual(
                scene.Manifest(),
                new StageScene((set with { Height = 30, IsWhole = true }).ToBackdrop(), [maro], new Core.FrameRate(50), 1.5).Manifest()
            );
            // Out of focus a frame has the same colours, and what it has beside each other runs into each other.
            var soft = new StageScene((set with { Blur = 20 }).ToBackdrop(), [], new Core.FrameRate(25), 1);
            foreach (var frame in (int[])[0, 12])
                Assert.Equal(
                    rasteriser.Draw(new StageScene(set.ToBackdrop(), [], new Core.FrameRate(25), 1).Draw(frame, 1), 0).GetPixel(160, 90),
                    Rasteriser.ForStage(320, 180).Draw(soft.Draw(frame, 1), 0).GetPixel(160, 90)
                );
            var dark = new StageScene((set with { Darker = 50 }).ToBackdrop(), [], new Core.FrameRate(25), 1);
            Assert.InRange(rasteriser.Draw(dark.Draw(0, 1), 0).GetPixel(8, 8).Red, 100, 150);
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    }
}
