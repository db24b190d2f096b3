using System.Numerics;
using OpenCvSharp;
using SkiaSharp;
using Xunit.Abstractions;
using Zamblo.Core;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Stage;
using Zamblo.Media.Portraits;

namespace Zamblo.Media.Tests.Portraits;

/// <summary>Clips of painted faces that move in known ways: followed, and given another mouth.</summary>
[Collection("ffmpeg")]
public class PlateFilmTests(ITestOutputHelper output) : InFolder
{
    private const int Count = 50;
    private static readonly FrameRate Rate = new(25);

    // Nods about and talks.
    private static PaintedFace FaceAt(int i) =>
        new()
        {
            Width = 640,
            Height = 480,
            At = new Vector2(320 + 26 * MathF.Sin(i * 0.13f), 200 + 8 * MathF.Sin(i * 0.21f)),
            Size = 84 + 5 * MathF.Sin(i * 0.09f),
            Tilt = 7 * MathF.Sin(i * 0.11f),
            Open = 0.16f * MathF.Max(0, MathF.Sin(i * 0.8f)),
        };

    private async Task<string> ClipAsync(Func<int, byte[]> frameAt, int count = Count)
    {
        var folder = Directory.CreateDirectory(PathOf("painted")).FullName;
        for (var i = 0; i < count; i++)
            await File.WriteAllBytesAsync(Path.Combine(folder, $"{i:D4}.jpg"), frameAt(i));
        var clip = PathOf("clip.mp4");
        string[] arguments = ["-v", "error", "-y", "-framerate", "25", "-i", Path.Combine(folder, "%04d.jpg"), "-crf", "12", "-pix_fmt", "yuv420p", clip];
        var made = await OutsideProgram.RunAsync("ffmpeg", arguments);
        Assert.Equal(0, made.ExitCode);
        return clip;
    }

    private string Frames => PathOf("frames");

    private async Task<FollowedPlate> FollowAsync(string clip)
    {
        Directory.CreateDirectory(Frames);
        return await PlateFollower.FollowAsync(clip, "clip.mp4", Rate, 100, Frames, null, default);
    }

    [Fact]
    public async Task Marks_stay_on_the_face_while_the_head_moves_and_the_mouth_follows_another_voice()
    {
        var plate = await FollowAsync(await ClipAsync(i => FaceAt(i).Picture()));
        Assert.Equal((640, 480, Count), (plate.Track.Width, plate.Track.Height, plate.Track.Marks.Count));
        Assert.Empty(plate.Track.Gaps());
        // In the face's own lengths: what the model gets wrong everywhere alike is no unrest.
        Vector2[][] off =
        [
            .. Enumerable
                .Range(0, Count)
                .Select(i =>
                {
                    var (face, m) = (FaceAt(i), plate.Track.Marks[i]!);
                    Vector2[] found = [m.EyeLeft!.Upper[0], m.EyeRight!.Upper[^1], m.Mouth.OuterUpper[0], m.Mouth.OuterUpper[^1], m.Nose[1]];
                    Vector2[] truth = [face.EyeCorners[0], face.EyeCorners[3], .. face.MouthCorners, face.P(0, 0.55f)];
                    return found.Zip(truth, (a, b) => (a - b) / (2 * face.Size)).ToArray();
                }),
        ];
        var mean = Enumerable.Range(0, 5).Select(p => off.Aggregate(Vector2.Zero, (s, o) => s + o[p]) / Count).ToArray();
        var unrest = off.Average(o => o.Select((v, p) => Vector2.Distance(v, mean[p])).Average());
        var jump = Enumerable.Range(1, Count - 1).Max(i => off[i].Zip(off[i - 1], Vector2.Distance).Average());
        output.WriteLine(
            $"off {100 * mean.Average(m => m.Length()):0.00} %, unrest {100 * unrest:0.00} %, largest jump {100 * jump:0.00} % of the face's width"
        );
        Assert.True(unrest < 0.01, $"marks wander by {100 * unrest:0.0} % of the face's width");
        Assert.True(jump < 0.012, $"marks jump by {100 * jump:0.0} %");

        // Another mouth: shut while the clip's own speaks, and open when it shall be.
        var figure = new PlateFigure(plate.Track, plate.Hash, plate.Look, "Clip", "clip");
        using var rasteriser = new Rasteriser(640, 480, (0, 0, 1000f * 640 / 480, 1000), grain: false);
        var asked = new List<double>();
        var found = new List<double>();
        var own = new List<double>();
        for (var i = 0; i < Count; i += 3)
        {
            var pose = Pose.Neutral;
            pose.Mouth[MouthChannel.Part] = pose.Mouth[MouthChannel.Jaw] = 0.5f + 0.5f * MathF.Sin(i * 0.37f);
            var items = new DrawItem[figure.Shapes.Count];
            figure.DrawAt(Rate.TimeOf(i), pose, Matrix3x2.Identity, items);
            using var still = rasteriser.Draw(new DrawingList(figure.Shapes, [items]) { HasGrain = false }, 0).Copy();
            using var mat = PortraitTests.MatOf(still);
            var points = FaceFinder.Find(mat, isThorough: false)[0].Points;
            asked.Add(pose.Mouth.Openness);
            found.Add(Vector3.Distance(points[13], points[14]) / FaceAt(i).Size);
            own.Add(FaceAt(i).Open);
            // Far from the face the frame is the clip's.
            using var original = SKBitmap.Decode(VideoFrames.PathOf(Frames, i));
            for (var x = 2; x < 150; x += 12)
            for (var y = 2; y < 478; y += 12)
                Assert.Equal(original.GetPixel(x, y), still.GetPixel(x, y));
        }
        var (follows, stays) = (PortraitTests.Correlation(asked, found), PortraitTests.Correlation(own, found));
        output.WriteLine($"follows the voice by {follows:0.000}, the clip's own mouth by {stays:0.000}");
        Assert.True(follows > 0.95, $"the mouth follows by {follows:0.000}");
        Assert.True(Math.Abs(stays) < 0.5);
    }

    [Fact]
    public async Task Two_in_one_clip_are_followed_each_and_the_clip_lies_under_both_once()
    {
        static PaintedFace One(int i) => new() { At = new Vector2(180 + 14 * MathF.Sin(i * 0.2f), 210 + 5 * MathF.Sin(i * 0.3f)), Size = 78 };
        static PaintedFace Two(int i) =>
            new()
            {
                At = new Vector2(460 - 12 * MathF.Sin(i * 0.17f), 220),
                Size = 72,
                Tilt = 5 * MathF.Sin(i * 0.1f),
                Skin = "#8C5A3C",
                Hair = "#1E1614",
                Cloth = "#8A3A2E",
            };
        const int count = 30;
        var plate = await FollowAsync(await ClipAsync(i => PaintedFace.Picture(640, 480, One(i), Two(i)), count));
        Assert.Equal(2, plate.Faces.Count);
        Assert.Empty(plate.Notes());
        var faces = plate.Faces.OrderBy(f => f.Track.Marks[0]!.Nose[1].X).ToArray();
        foreach (var (face, at) in faces.Zip((Func<int, PaintedFace>[])[One, Two]))
            for (var i = 0; i < count; i++)
            {
                var (m, truth) = (face.Track.Marks[i]!, at(i).MouthCorners);
                Assert.True(Vector2.Distance(((Vector2)m.Mouth.OuterUpper[0] + m.Mouth.OuterUpper[^1]) / 2, (truth[0] + truth[1]) / 2) < 0.1f * at(i).Size);
            }
        PlateFigure[] figures = [.. faces.Select((f, i) => new PlateFigure(f.Track, plate.Hash, f.Look, $"Face {i}", $"clip-{i}"))];
        Assert.True(figures[0].IsOfOneClip(figures[1]));
        var other = new PlateFigure(faces[1].Track, plate.Hash, faces[1].Look, "Later", "clip-2", play: new PlatePlay { From = 0.4 });
        Assert.False(figures[0].IsOfOneClip(other));
        var members = figures.Select(f =>
        {
            var (x, y, scale) = f.InPlace();
            return new StageMember(f, x, y, scale, true, [], new PerformanceDials());
        });
        var stage = new StageScene(CastLibrary.Shipped().Backdrop(CastLibrary.Clear), [.. members], Rate, 1);
        var list = stage.Draw(0, 20);
        int[] whole = [.. Enumerable.Range(0, stage.Shapes.Count).Where(i => stage.Shapes[i] is { Filmed: > 0, Mesh.Triangles.Count: 6 })];
        Assert.Equal(2, whole.Length);
        Assert.All(list.Frames, f => Assert.Equal((1, 0), (f[whole[0]].Opacity, f[whole[1]].Opacity)));
        // Away from both faces it is the clip, and so it is where they hold their mouths.
        using var rasteriser = Rasteriser.ForStage(640, 360);
        using var run = new FilmPainter(640, 360);
        using var alone = new FilmPainter(640, 360);
        run.Draw(list, 6);
        Assert.Equal(alone.Draw(stage.Draw(7, 1), 0).ToArray(), run.Draw(list, 7).ToArray());
    }

    [Fact]
    public async Task A_clip_without_a_face_without_a_picture_or_broken_is_told_so()
    {
        var clip = await ClipAsync(_ => PaintedFace.Picture(320, 240), 5);
        Assert.Contains("No face", (await Assert.ThrowsAsync<MediaException>(() => FollowAsync(clip))).Message);
        await File.WriteAllTextAsync(PathOf("no.mp4"), "no clip");
        Assert.Contains("no clip", (await Assert.ThrowsAsync<MediaException>(() => FollowAsync(PathOf("no.mp4")))).Message);
        var sound = Recordings + "librivox/sense_and_sensibility_01_austen_64kb-0930.wav";
        await OutsideProgram.RunAsync("ffmpeg", ["-v", "error", "-y", "-i", sound, PathOf("sound.m4a")]);
        Assert.Contains("no picture", (await Assert.ThrowsAsync<MediaException>(() => FollowAsync(PathOf("sound.m4a")))).Message);
    }

    // Frames of a clip that stands nearly still, and what is done to each.
    private async Task<FollowedPlate> StillAsync(int count, Action<int, SKCanvas> with, Func<int, byte[], byte[]>? then = null) =>
        await FollowAsync(
            await ClipAsync(
                i =>
                {
                    var face = new PaintedFace
                    {
                        Width = 640,
                        Height = 480,
                        At = new Vector2(320 + 4 * MathF.Sin(i * 0.2f), 200),
                        Size = 84,
                        Open = 0.08f * MathF.Max(0, MathF.Sin(i * 0.7f)),
                    };
                    using var bitmap = SKBitmap.Decode(face.Picture());
                    using (var canvas = new SKCanvas(bitmap))
                        with(i, canvas);
                    using var data = bitmap.Encode(SKEncodedImageFormat.Jpeg, 95);
                    return then == null ? data.ToArray() : then(i, data.ToArray());
                },
                count
            )
        );

    [Fact]
    public async Task Where_a_face_is_covered_or_hardly_lit_is_told_and_the_light_is_followed()
    {
        // A lamp goes down to two thirds, warmer, and up again; a cup is held before the mouth; then nearly all the light goes.
        static float LampAt(int i) => i is >= 10 and < 25 ? 0.66f : 1;
        var plate = await StillAsync(
            70,
            (i, canvas) =>
            {
                if (i is >= 35 and < 45)
                {
                    using var cup = new SKPaint { Color = SKColor.Parse("#E8E4DA"), IsAntialias = true };
                    canvas.DrawRoundRect(272, 236, 96, 100, 10, 10, cup);
                }
                using var lamp = new SKPaint { BlendMode = SKBlendMode.Multiply };
                var (all, blue) = i >= 55 ? (0.07f, 0.07f) : (LampAt(i), LampAt(i) * (i is >= 10 and < 25 ? 0.8f : 1));
                lamp.Color = new SKColor((byte)(255 * all), (byte)(255 * all), (byte)(255 * blue));
                canvas.DrawRect(0, 0, 640, 480, lamp);
            }
        );
        var face = Assert.Single(plate.Faces);
        foreach (var s in face.Map)
            output.WriteLine($"{s.Start:0.00} to {s.End:0.00}: {s.Sight}");
        PlateSight SightAt(int i) => face.Map.First(s => s.Start <= i / 25.0 + 1e-6 && i / 25.0 + 1e-6 < s.End).Sight;
        Assert.All(Enumerable.Range(0, 33), i => Assert.Equal(PlateSight.Good, SightAt(i)));
        // The finder may lose it behind the cup: either way it is said.
        Assert.All(Enumerable.Range(37, 6), i => Assert.True(SightAt(i) is PlateSight.Covered or PlateSight.Gone, $"{i}: {SightAt(i)}"));
        Assert.All(Enumerable.Range(57, 10), i => Assert.True(SightAt(i) is PlateSight.Dark or PlateSight.Gone, $"{i}: {SightAt(i)}"));
        Assert.All(face.Notes(), n => Assert.StartsWith("From ", n));
        var light = face.Track.Light!;
        Assert.InRange(light[5].R, 0.96f, 1);
        Assert.Equal(0.66f, light[17].R, 0.04f);
        Assert.Equal(0.53f, light[17].B, 0.04f);
        // What is between the lips goes down by as much as the skin around it.
        var figure = new PlateFigure(face.Track, plate.Hash, face.Look, "Clip", "clip");
        float Ratio(SKColor a, SKColor b) => (a.Red + a.Green) / (float)(b.Red + b.Green);
        using SKBitmap bright = Drawn(figure, 5),
            dim = Drawn(figure, 17);
        var mouth = face.Track.Marks[5]!.Mouth;
        var (x, y) = ((int)mouth.InnerUpper[mouth.InnerUpper.Length / 2].X, (int)mouth.InnerUpper[mouth.InnerUpper.Length / 2].Y + 6);
        var teeth = Ratio(dim.GetPixel(x, y), bright.GetPixel(x, y));
        var cheek = Ratio(dim.GetPixel(x - 50, y - 30), bright.GetPixel(x - 50, y - 30));
        output.WriteLine($"between the lips {teeth:0.00}, on the cheek {cheek:0.00}");
        Assert.Equal(cheek, teeth, 0.08f);
    }

    private static SKBitmap Drawn(PlateFigure figure, int frame)
    {
        using var rasteriser = new Rasteriser(640, 480, (0, 0, 1000f * 640 / 480, 1000), grain: false);
        var items = new DrawItem[figure.Shapes.Count];
        figure.DrawAt(Rate.TimeOf(frame), Pose.Neutral with { Mouth = MouthShapes.TargetOf(MouthShape.Open) }, Matrix3x2.Identity, items);
        return rasteriser.Draw(new DrawingList(figure.Shapes, [items]) { HasGrain = false }, 0).Copy();
    }

    [Fact]
    public async Task Where_a_face_is_out_of_focus_is_told()
    {
        var plate = await StillAsync(
            40,
            (_, _) => { },
            (i, jpeg) =>
            {
                if (i is < 15 or >= 28)
                    return jpeg;
                using var sharp = Mat.FromImageData(jpeg);
                using var soft = sharp.GaussianBlur(new Size(0, 0), 7);
                return soft.ToBytes(".jpg");
            }
        );
        var map = plate.Faces[0].Map;
        foreach (var s in map)
            output.WriteLine($"{s.Start:0.00} to {s.End:0.00}: {s.Sight}");
        var blurred = Assert.Single(map, s => s.Sight == PlateSight.Blurred);
        Assert.InRange(blurred.Start, 0.5, 0.7);
        Assert.InRange(blurred.End, 1.04, 1.2);
        Assert.All(map, s => Assert.True(s.Sight is PlateSight.Good or PlateSight.Blurred));
    }

    [Fact]
    public async Task A_face_that_goes_is_not_mouthed_while_it_is_gone()
    {
        var plate = await FollowAsync(await ClipAsync(i => i is >= 8 and < 16 ? PaintedFace.Picture(640, 480) : FaceAt(i).Picture(), 24));
        var (start, end) = Assert.Single(plate.Track.Gaps());
        Assert.Equal((0.32, 0.64), (start, end));
    }
}
