using System.Numerics;
using OpenCvSharp;
using SkiaSharp;
using Xunit.Abstractions;
using Zamblo.Core;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;
using Zamblo.Media.Portraits;

namespace Zamblo.Media.Tests.Portraits;

/// <summary>Pictures become speaking figures: held against painted faces whose marks are known, and against the face model itself.</summary>
public class PortraitTests(ITestOutputHelper output)
{
    private static TakenPicture Taken(byte[] file) => PictureFiles.Take(file, "painted.jpg");

    private static MadePortrait Made(TakenPicture picture, PortraitMarks marks, bool isFree = true)
    {
        var made = PortraitMaker.Make(picture, [new PortraitWish("Painted", marks) { IsFree = isFree }])[0];
        foreach (var (hash, bytes) in made.Pictures)
            PictureShelf.Hold(hash, bytes);
        return made;
    }

    [Theory]
    [InlineData(0)]
    [InlineData(8)]
    [InlineData(-14)]
    public void Marks_are_found_where_they_were_painted(float tilt)
    {
        var face = new PaintedFace { Tilt = tilt };
        var marks = Assert.Single(PortraitMaker.Guess(Taken(face.Picture())));
        Vector2[] found =
        [
            marks.EyeLeft!.Upper[0],
            marks.EyeLeft.Upper[^1],
            marks.EyeRight!.Upper[0],
            marks.EyeRight.Upper[^1],
            marks.Mouth.OuterUpper[0],
            marks.Mouth.OuterUpper[^1],
            marks.EyeLeft.Iris,
            marks.EyeRight.Iris,
        ];
        Vector2[] truth = [.. face.EyeCorners, .. face.MouthCorners, .. face.Irises];
        double[] off = [.. found.Zip(truth, (a, b) => Vector2.Distance(a, b) / (2.0 * face.Size))];
        output.WriteLine(string.Join(' ', off.Select(o => $"{100 * o:0.0} %")));
        Assert.True(off.Average() < 0.02, $"marks are off by {100 * off.Average():0.0} % of the face's width");
        Assert.True(off[6..].Max() < 0.01, "irises are found by their edge");
    }

    [Fact]
    public void Several_faces_of_one_picture_are_all_found_and_each_is_cut_out_alone()
    {
        PaintedFace[] painted =
        [
            new()
            {
                At = new(420, 420),
                Size = 120,
                Tilt = 6,
            },
            new()
            {
                At = new(1180, 440),
                Size = 115,
                Tilt = -5,
                Skin = "#8C5A3C",
                Hair = "#1E1614",
                Cloth = "#8A3A2E",
            },
        ];
        var picture = Taken(PaintedFace.Picture(1600, 1000, painted));
        var faces = PortraitMaker.Guess(picture);
        Assert.Equal(2, faces.Count);
        var made = PortraitMaker.Make(picture, [.. faces.Select(f => new PortraitWish("One", f))]);
        Assert.Equal(made[0].Recipe.Behind, made[1].Recipe.Behind);
        foreach (var (portrait, marks) in made.Zip(faces))
        {
            using var cut = SKBitmap.Decode(portrait.Pictures[portrait.Recipe.Picture]);
            var own = marks.Nose[1];
            var other = faces.First(f => f != marks).Nose[1];
            Assert.Equal(255, cut.GetPixel((int)own.X, (int)own.Y).Alpha);
            Assert.Equal(0, cut.GetPixel((int)other.X, (int)other.Y).Alpha);
            Assert.Equal(0, cut.GetPixel(800, 60).Alpha);
        }
        // Where they stood, the wall is.
        using var ground = SKBitmap.Decode(made[0].Pictures[PictureSet.Read(made[0].Recipe.Behind)!.Hash]);
        var there = ground.GetPixel((int)painted[1].At.X, (int)painted[1].At.Y);
        Assert.True(Math.Abs(there.Red - there.Blue) < 40, $"the wall is grey, not {there}");
    }

    // A still of one figure at home, as large as its picture.
    private static SKBitmap Still(MadePortrait made, Pose pose, Rasteriser rasteriser)
    {
        var figure = new PortraitFigure(made.Recipe, "painted");
        var items = new DrawItem[figure.Shapes.Count];
        figure.Draw(pose, Matrix3x2.Identity, items);
        return rasteriser.Draw(new DrawingList(figure.Shapes, [items]) { HasGrain = false }, 0).Copy();
    }

    internal static Mat MatOf(SKBitmap bitmap)
    {
        var mat = new Mat(bitmap.Height, bitmap.Width, MatType.CV_8UC3);
        for (var y = 0; y < bitmap.Height; y++)
        for (var x = 0; x < bitmap.Width; x++)
        {
            var c = bitmap.GetPixel(x, y);
            mat.Set(y, x, new Vec3b(c.Blue, c.Green, c.Red));
        }
        return mat;
    }

    [Fact]
    public void The_face_model_finds_the_opening_again_that_the_channel_asked_for()
    {
        var face = new PaintedFace();
        var picture = Taken(face.Picture());
        var made = Made(picture, face.Marks(), isFree: false);
        using var rasteriser = new Rasteriser(face.Width, face.Height, (0, 0, 1000f * face.Width / face.Height, 1000), grain: false);
        var asked = new List<double>();
        var found = new List<double>();
        for (var i = 0; i <= 8; i++)
        {
            var pose = Pose.Neutral;
            pose.Mouth[MouthChannel.Part] = i / 8f;
            pose.Mouth[MouthChannel.Jaw] = i / 8f;
            using var still = Still(made, pose, rasteriser);
            using var mat = MatOf(still);
            var points = Assert.Single(FaceFinder.Find(mat, isThorough: false)).Points;
            asked.Add(pose.Mouth.Openness);
            // Inner edges of the lips, in the middle.
            found.Add(Vector3.Distance(points[13], points[14]));
        }
        var correlation = Correlation(asked, found);
        output.WriteLine($"{correlation:0.000}: {string.Join(' ', found.Select(f => $"{f:0}"))}");
        Assert.True(correlation > 0.95, $"the opening follows by {correlation:0.000}");
    }

    // Pearson's.
    internal static double Correlation(List<double> a, List<double> b)
    {
        double ma = a.Average(),
            mb = b.Average();
        return a.Zip(b, (x, y) => (x - ma) * (y - mb)).Sum() / Math.Sqrt(a.Sum(x => (x - ma) * (x - ma)) * b.Sum(y => (y - mb) * (y - mb)));
    }

    [Fact]
    public void The_model_sees_a_shut_eye_and_a_head_that_turns()
    {
        var face = new PaintedFace();
        var made = Made(Taken(face.Picture()), face.Marks(), isFree: false);
        using var rasteriser = new Rasteriser(face.Width, face.Height, (0, 0, 1000f * face.Width / face.Height, 1000), grain: false);
        Vector3[] Seen(Pose pose)
        {
            using var still = Still(made, pose, rasteriser);
            using var mat = MatOf(still);
            return Assert.Single(FaceFinder.Find(mat, isThorough: false)).Points;
        }
        static float Lids(Vector3[] p) => Vector3.Distance(p[159], p[145]) / Vector3.Distance(p[33], p[133]);
        // Where the tip of the nose is between the edges of the face.
        static float Nose(Vector3[] p) => (p[4].X - p[234].X) / (p[454].X - p[234].X);
        var rest = Seen(Pose.Neutral);
        var shut = Seen(Pose.Neutral with { LidLeft = 0, LidRight = 0 });
        output.WriteLine($"lids {Lids(rest):0.00} and {Lids(shut):0.00}, nose {Nose(rest):0.00} {Nose(Seen(Pose.Neutral with { HeadTurn = 25 })):0.00}");
        Assert.True(Lids(shut) < 0.62f * Lids(rest));
        Assert.True(Nose(Seen(Pose.Neutral with { HeadTurn = 25 })) > Nose(rest) + 0.05f);
        Assert.True(Nose(Seen(Pose.Neutral with { HeadTurn = -25 })) < Nose(rest) - 0.05f);
    }

    [Fact]
    public void What_does_not_move_is_the_picture_bit_for_bit()
    {
        var face = new PaintedFace
        {
            Width = 1280,
            Height = 720,
            At = new(500, 300),
            Size = 110,
        };
        var picture = Taken(face.Picture());
        var made = Made(picture, face.Marks());
        Assert.True(made.Recipe.IsFree);
        var figure = new PortraitFigure(made.Recipe, "painted");
        var (x, y, scale) = figure.InPlace();
        var pose = new[] { new MoodSpan(Mood.Joy, 0, 4, 1) };
        var member = new StageMember(figure, x, y, scale, true, [], new PerformanceDials { Expressiveness = 1.5f }) { Moods = pose };
        var scene = new StageScene(PictureSet.Read(made.Recipe.Behind)!.ToBackdrop(), [member], new FrameRate(25), 3);
        Assert.True(scene.IsPicture);
        Assert.False(scene.HasGrain);
        Assert.Equal(new FrameLook(StageView.Cover(1280, 720), StageView.Cover(1280, 720), false), scene.LookAt(0, 1280, 720));
        using var rasteriser = Rasteriser.ForStage(1280, 720);
        using var original = SKBitmap.Decode(picture.Bytes);
        foreach (var frame in new[] { 0, 30, 60 })
        {
            var drawn = rasteriser.Draw(scene.Draw(frame, 1), 0);
            // Far from hair and shoulders.
            for (var px = 900; px < 1280; px += 3)
            for (var py = 0; py < 720; py += 3)
                Assert.Equal(original.GetPixel(px, py), drawn.GetPixel(px, py));
            // And it does move.
            Assert.NotEqual(original.GetPixel(500, 300 + 108), drawn.GetPixel(500, 300 + 108));
        }
    }

    [Fact]
    public void Frames_drawn_in_a_run_equal_those_drawn_whole_with_light_and_shots()
    {
        var face = new PaintedFace();
        var made = Made(Taken(face.Picture()), face.Marks());
        var figure = new PortraitFigure(made.Recipe, "painted");
        var member = new StageMember(figure, 640, 720, figure.Rig.Stage.Scale, true, [], new PerformanceDials());
        var light = Core.Light.LightPlot.Of(new Core.Light.LightDials { Light = Core.Light.LightKind.Night });
        var scene = new StageScene(CastLibrary.Shipped().Backdrop("kitchen"), [member], new FrameRate(25), 2, null, new Core.Light.LightCourse(light))
        {
            Shots = ShotList.Of([new Shot(0, Framing.Wide, -1, ""), new Shot(1, Framing.Close, 0, "")], []),
        };
        // Night falls on the picture, too.
        Assert.NotNull(scene.Shapes.First(s => s.Mesh != null).Tint);
        // What is seen between the lips is as dark as the picture around it: no shade of its own.
        var own = scene.Shapes.Skip(scene.ShapesOf(0).First + 1).Take(figure.Shapes.Count);
        Assert.All(figure.Shapes.Zip(own), p => Assert.Equal((light.OnFigure(p.First).Fill, null), (p.Second.Fill, p.Second.Gradient)));
        var list = scene.Draw(0, scene.FrameCount);
        using FilmPainter run = new(320, 180),
            whole = new(320, 180);
        for (var f = 0; f < scene.FrameCount; f++)
            Assert.True(run.Draw(list, f).AsSpan().SequenceEqual(whole.Draw(list, f, isWhole: true)), $"frame {f}");
    }

    [Fact]
    public void An_open_mouth_is_shut_first_and_one_without_teeth_has_none()
    {
        var face = new PaintedFace { Open = 0.2f };
        var picture = Taken(face.Picture());
        var made = PortraitMaker.Make(picture, [new PortraitWish("Open", face.Marks()) { Teeth = TeethKind.None, IsFree = false }])[0];
        Assert.Null(made.Recipe.Mouth.TeethUpper);
        var (upper, lower, _, _) = new PortraitFigure(made.Recipe, "open").LinesOf(Pose.Neutral);
        for (var i = 0; i < upper.Length; i++)
            // At a film's 1080 lines the picture is about as large as it is.
            Assert.True(Vector2.Distance(upper[i], lower[i]) < 1);
    }

    [Fact]
    public void Pictures_without_a_face_and_faces_that_are_none_are_told_so()
    {
        using var plain = new SKBitmap(300, 200);
        plain.Erase(new SKColor(90, 120, 160));
        using var data = plain.Encode(SKEncodedImageFormat.Png, 100);
        var picture = Taken(data.ToArray());
        Assert.Empty(PortraitMaker.Guess(picture));
        var tiny = MarksGuess.FromBox(1, 1, 4, 4, PortraitKind.Person);
        Assert.Contains("too small", Assert.Throws<MediaException>(() => PortraitMaker.Make(picture, [new PortraitWish("x", tiny)])).Message);
        // A thing is not cut out: all of the picture stays with it.
        var thing = MarksGuess.FromBox(60, 40, 180, 140, PortraitKind.Thing);
        var made = PortraitMaker.Make(picture, [new PortraitWish("Toaster", thing)])[0];
        Assert.False(made.Recipe.IsFree);
        Assert.Null(made.Recipe.EyeLeft);
        Assert.NotNull(new PortraitFigure(made.Recipe, "toaster"));
    }

    [Fact]
    public void A_face_that_is_asleep_keeps_its_lids()
    {
        var face = new PaintedFace { IsAsleep = true };
        var made = Made(Taken(face.Picture()), face.Marks(), isFree: false);
        // Nothing white is found between the lids, so no eye is made up.
        Assert.Null(made.Recipe.EyeLeft);
        Assert.NotNull(new PortraitFigure(made.Recipe, "asleep"));
    }
}
