using System.Numerics;
using SkiaSharp;
using Zamblo.Core;
using Zamblo.Core.Portraits;
using Zamblo.Media.Portraits;

namespace Zamblo.Media.Tests.Portraits;

/// <summary>Pictures and clips as cameras, telephones and old programs write them.</summary>
[Collection("ffmpeg")]
public class OddInputTests : InFolder
{
    private static readonly FrameRate Rate = new(25);

    private async Task<byte[]> MadeAsync(string name, params string[] arguments)
    {
        var made = await OutsideProgram.RunAsync("ffmpeg", ["-v", "error", "-y", .. arguments, PathOf(name)]);
        Assert.True(made.ExitCode == 0, made.Error);
        return await File.ReadAllBytesAsync(PathOf(name));
    }

    private static SKColor Middle(TakenPicture picture)
    {
        using var bitmap = SKBitmap.Decode(picture.Bytes);
        return bitmap.GetPixel(picture.Width / 2, picture.Height / 2);
    }

    private static void Near(SKColor expected, SKColor found, int by)
    {
        Assert.InRange(found.Red, expected.Red - by, expected.Red + by);
        Assert.InRange(found.Green, expected.Green - by, expected.Green + by);
        Assert.InRange(found.Blue, expected.Blue - by, expected.Blue + by);
    }

    // A baseline JPEG of 16 by 16 pixels with four components of one colour each (ITU-T T.81, Annex B), inverted as its Adobe segment says: what printers take.
    private static byte[] Printed(byte c, byte m, byte y, byte k)
    {
        var bits = new List<bool>();
        void Put(int value, int count)
        {
            for (var i = count - 1; i >= 0; i--)
                bits.Add((value >> i & 1) == 1);
        }
        int[] last = [0, 0, 0, 0];
        for (var block = 0; block < 4; block++)
        for (var i = 0; i < 4; i++)
        {
            // The mean of a block, times eight, as a step from that of the block before (F.1.2.1); categories have codes of four bits here.
            var mean = 8 * ((byte[])[c, m, y, k])[i] - 1024;
            var step = mean - last[i];
            last[i] = mean;
            var category = step == 0 ? 0 : 32 - BitOperations.LeadingZeroCount((uint)Math.Abs(step));
            Put(category, 4);
            Put(step < 0 ? step + (1 << category) - 1 : step, category);
            // And nothing else in it.
            Put(0, 1);
        }
        while (bits.Count % 8 != 0)
            bits.Add(true);
        List<byte> scan = [];
        for (var i = 0; i < bits.Count; i += 8)
        {
            var b = (byte)Enumerable.Range(0, 8).Sum(j => bits[i + j] ? 128 >> j : 0);
            scan.Add(b);
            if (b == 0xFF)
                scan.Add(0);
        }
        byte[] Segment(byte marker, byte[] body) => [0xFF, marker, (byte)(body.Length + 2 >> 8), (byte)(body.Length + 2), .. body];
        byte[] parts = [1, 0x11, 0, 2, 0x11, 0, 3, 0x11, 0, 4, 0x11, 0];
        return
        [
            0xFF,
            0xD8,
            .. Segment(0xEE, [.. "Adobe"u8, 0, 100, 0, 0, 0, 0, 0]),
            .. Segment(0xDB, [0, .. Enumerable.Repeat((byte)1, 64)]),
            .. Segment(0xC0, [8, 0, 16, 0, 16, 4, .. parts]),
            .. Segment(0xC4, [0x00, 0, 0, 0, 12, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, .. Enumerable.Range(0, 12).Select(i => (byte)i)]),
            .. Segment(0xC4, [0x10, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]),
            .. Segment(0xDA, [4, 1, 0, 2, 0, 3, 0, 4, 0, 0, 63, 0]),
            .. scan,
            0xFF,
            0xD9,
        ];
    }

    [Fact]
    public async Task Colours_for_printers_deep_colours_and_pictures_that_move_are_read()
    {
        // Little of the third ink, more of the second, no black: inverted.
        Near(new SKColor(200, 100, 50), Middle(PictureFiles.Take(Printed(200, 100, 50, 255), "print.jpg")), 4);
        string[] Colour(string colour, string size = "48x36") => ["-f", "lavfi", "-i", $"color={colour}:s={size}:r=5:d=1"];
        var deep = await MadeAsync("deep.png", [.. Colour("0x3070B0"), "-frames:v", "1", "-pix_fmt", "rgb48be"]);
        Near(new SKColor(0x30, 0x70, 0xB0), Middle(PictureFiles.Take(deep, "deep.png")), 2);
        // Of one that moves the first picture is taken.
        foreach (var name in (string[])["moves.webp", "moves.gif"])
        {
            string[] both = [.. Colour("0xC02020"), .. Colour("0x2020C0"), "-filter_complex", "[0][1]concat", "-loop", "0"];
            Near(new SKColor(0xC0, 0x20, 0x20), Middle(PictureFiles.Take(await MadeAsync(name, both), name)), 8);
        }
        Assert.Equal(10, PictureFiles.Take(await MadeAsync("small.png", [.. Colour("red", "10x10"), "-frames:v", "1"]), "small.png").Width);
        // Half a file is half a picture, or none: never an error that nobody understands.
        var whole = new PaintedFace().Picture();
        Assert.Equal(900, PictureFiles.Take(whole[..(whole.Length / 2)], "half.jpg").Width);
        Assert.Throws<MediaException>(() => PictureFiles.Take(whole[..20], "begun.jpg"));
    }

    [Fact]
    public void Of_fifty_faces_most_are_found_and_one_that_the_edge_cuts_is_whole_or_none()
    {
        using var crowd = new SKBitmap(2000, 1250);
        using (var canvas = new SKCanvas(crowd))
            for (var i = 0; i < 50; i++)
            {
                using var one = SKBitmap.Decode(new PaintedFace().Picture());
                canvas.DrawBitmap(
                    one,
                    new SKRect(i % 10 * 200, i / 10 * 250, i % 10 * 200 + 200, i / 10 * 250 + 250),
                    new SKSamplingOptions(SKFilterMode.Linear)
                );
            }
        using var data = crowd.Encode(SKEncodedImageFormat.Jpeg, 92);
        Assert.InRange(PortraitMaker.Guess(PictureFiles.Take(data.ToArray(), "crowd.jpg")).Count, 8, 50);
        for (var x = 0; x <= 180; x += 90)
        {
            var cut = PictureFiles.Take(new PaintedFace { At = new Vector2(x, 470) }.Picture(), "cut.jpg");
            foreach (var marks in PortraitMaker.Guess(cut))
                Assert.NotNull(new PortraitFigure(PortraitMaker.Make(cut, [new PortraitWish("Cut", marks)])[0].Recipe, "cut"));
        }
    }

    private async Task<SKBitmap> FrameAsync(string clip, int count)
    {
        var frames = Directory.CreateDirectory(PathOf("frames-" + Path.GetFileNameWithoutExtension(clip))).FullName;
        Assert.Equal(count, await VideoFrames.TakeApartAsync(PathOf(clip), clip, Rate, 10, 1920, frames, default));
        return SKBitmap.Decode(VideoFrames.PathOf(frames, count - 5));
    }

    [Fact]
    public async Task Clips_of_a_high_dynamic_range_held_upright_or_of_a_changing_rate_look_as_they_were_filmed()
    {
        var face = new PaintedFace
        {
            Width = 480,
            Height = 360,
            At = new Vector2(240, 160),
            Size = 60,
        };
        await File.WriteAllBytesAsync(PathOf("face.jpg"), face.Picture());
        string[] still = ["-loop", "1", "-framerate", "25", "-t", "1", "-i", PathOf("face.jpg")];
        await MadeAsync("plain.mp4", [.. still, "-crf", "12", "-pix_fmt", "yuv420p"]);
        using var plain = await FrameAsync("plain.mp4", 25);
        // White at 203 cd/m² (ITU-R BT.2408), by both transfer functions of ITU-R BT.2100.
        foreach (var transfer in (string[])["smpte2084", "arib-std-b67"])
        {
            var colours = "format=yuv420p,setparams=range=tv:color_primaries=bt709:color_trc=bt709:colorspace=bt709,zscale=t=linear,format=gbrpf32le,";
            var wide = $"{colours}zscale=p=bt2020:t={transfer}:npl=203:m=bt2020nc:r=tv,format=yuv420p10le";
            string[] tags = ["-color_primaries", "bt2020", "-color_trc", transfer, "-colorspace", "bt2020nc"];
            var x265 = $"log-level=error:colorprim=bt2020:transfer={transfer}:colormatrix=bt2020nc";
            await MadeAsync(transfer + ".mp4", ["-i", PathOf("plain.mp4"), "-vf", wide, .. tags, "-c:v", "libx265", "-crf", "12", "-x265-params", x265]);
            using var bright = await FrameAsync(transfer + ".mp4", 25);
            foreach (var (x, y) in (ReadOnlySpan<(int, int)>)[(20, 20), (240, 150), (240, 340), (460, 200)])
                Near(plain.GetPixel(x, y), bright.GetPixel(x, y), 10);
        }
        await MadeAsync("held.mp4", ["-i", PathOf("plain.mp4"), "-c", "copy", "-metadata:s:v:0", "rotate=90"]);
        using var held = await FrameAsync("held.mp4", 25);
        Assert.Equal((360, 480), (held.Width, held.Height));
        // Every third picture of its second half is missing.
        await MadeAsync("changing.mp4", ["-i", PathOf("plain.mp4"), "-vf", "select='lt(n\\,12)+not(mod(n\\,3))'", "-vsync", "vfr"]);
        using var changing = await FrameAsync("changing.mp4", 25);
        Near(plain.GetPixel(240, 150), changing.GetPixel(240, 150), 10);
    }

    [Fact]
    public async Task A_cut_in_a_clip_is_no_jump_of_the_mesh_and_an_hour_of_it_is_no_hour()
    {
        static byte[] Face(float x, float y, float size) =>
            new PaintedFace
            {
                Width = 480,
                Height = 360,
                At = new Vector2(x, y),
                Size = size,
            }.Picture();
        await File.WriteAllBytesAsync(PathOf("one.jpg"), Face(170, 160, 60));
        await File.WriteAllBytesAsync(PathOf("two.jpg"), Face(300, 190, 70));
        string[] Still(string name) => ["-loop", "1", "-framerate", "25", "-t", "0.6", "-i", PathOf(name)];
        await MadeAsync("cut.mp4", [.. Still("one.jpg"), .. Still("two.jpg"), "-filter_complex", "[0][1]concat", "-crf", "12", "-pix_fmt", "yuv420p"]);
        var frames = Directory.CreateDirectory(PathOf("frames")).FullName;
        var followed = await PlateFollower.FollowAsync(PathOf("cut.mp4"), "cut.mp4", Rate, 100, frames, null, default);
        var marks = followed.Faces[0].Track.Marks;
        Assert.Equal(30, marks.Count);
        // On either side of the cut the mesh lies on the face that is there, or nowhere.
        for (var f = 0; f < 30; f++)
            if (marks[f] is { } seen)
                Assert.Equal(f < 15 ? 170 : 300, (seen.Mouth.OuterUpper[0].X + seen.Mouth.OuterUpper[^1].X) / 2, 6f);
        Assert.True(marks.Count(m => m != null) >= 26);
        // So much of a long one is taken as was asked for, and no frame more is written.
        await MadeAsync("long.mp4", ["-stream_loop", "3000", "-i", PathOf("cut.mp4"), "-c", "copy"]);
        Assert.Equal(50, await VideoFrames.TakeApartAsync(PathOf("long.mp4"), "long.mp4", Rate, 2, 1920, frames, default));
        Assert.Equal(50, Directory.GetFiles(frames).Length);
    }
}
