using System.Numerics;
using SkiaSharp;
using Zamblo.Core;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Stage;
using Zamblo.Media.Portraits;

namespace Zamblo.Media.Tests.Portraits;

/// <summary>What a hand corrects in a picture: cut-out, eyes, teeth, parts that move; on pictures that are drawn for it, so that the truth is known.</summary>
public class RetouchTests
{
    private const int Width = 640,
        Height = 480;

    private static readonly SKColor Wall = new(120, 132, 140),
        Body = new(196, 60, 48),
        Tail = new(238, 188, 60);

    // A red thing on a grey wall, with a yellow tail that sticks out to its right, and a yellow knob before it.
    private static TakenPicture Thing()
    {
        using var bitmap = new SKBitmap(Width, Height);
        using var canvas = new SKCanvas(bitmap);
        canvas.Clear(Wall);
        using var paint = new SKPaint { IsAntialias = true, Color = Tail };
        canvas.DrawRoundRect(430, 220, 150, 36, 18, 18, paint);
        paint.Color = Body;
        canvas.DrawOval(300, 250, 150, 170, paint);
        paint.Color = Tail;
        canvas.DrawCircle(300, 370, 26, paint);
        canvas.Flush();
        using var data = bitmap.Encode(SKEncodedImageFormat.Png, 100);
        return PictureFiles.Take(data.ToArray(), "thing.png");
    }

    private static bool IsThing(float x, float y) =>
        (x - 300) * (x - 300) / (150 * 150) + (y - 250) * (y - 250) / (170f * 170) < 1 || x is > 430 and < 580 && y is > 220 and < 256;

    private static PortraitWish Wish(params LoosePart[] parts) =>
        new("Thing", MarksGuess.FromBox(210, 150, 180, 180, PortraitKind.Thing)) { Parts = parts, IsPerson = false };

    private static CutStroke Stroke(bool isKept, float size, params float[] points) => new(isKept, size, 0, points);

    private static readonly CutStroke[] Over = [Stroke(true, 30, 300, 110, 300, 390, 220, 250, 380, 250), Stroke(true, 14, 450, 238, 565, 238)];

    private static SKBitmap PictureOf(MadePortrait made) => SKBitmap.Decode(made.Pictures[made.Recipe.Picture]);

    [Fact]
    public void A_thing_is_cut_out_by_a_stroke_or_two_and_corrected_by_more()
    {
        var made = PortraitMaker.Make(Thing(), [Wish()], Over)[0];
        Assert.True(made.Recipe.IsFree);
        using var cut = PictureOf(made);
        int right = 0,
            all = 0;
        for (var y = 2; y < Height; y += 4)
        for (var x = 2; x < Width; x += 4, all++)
            right += cut.GetPixel(x, y).Alpha > 127 == IsThing(x, y) ? 1 : 0;
        Assert.True(right > 0.985 * all, $"{right} of {all}");
        // Taken away, kept, and with a soft edge.
        using var corrected = PictureOf(
            PortraitMaker.Make(Thing(), [Wish()], [.. Over, Stroke(false, 40, 520, 200, 520, 280), Stroke(true, 40, 60, 60, 120, 60)])[0]
        );
        Assert.Equal((0, 255), (corrected.GetPixel(520, 238).Alpha, corrected.GetPixel(90, 60).Alpha));
        Assert.Equal(255, corrected.GetPixel(470, 238).Alpha);
        using var mask = new OpenCvSharp.Mat(120, 200, OpenCvSharp.MatType.CV_32F, new OpenCvSharp.Scalar(0));
        CutBrush.Apply(mask, [new CutStroke(true, 80, 1, [60, 60, 120, 60])]);
        float[] across = [.. Enumerable.Range(0, 58).Select(i => mask.At<float>(60 + i, 90))];
        Assert.Equal(across.OrderDescending(), across);
        Assert.True(across[0] > 0.8f && across.Count(a => a is > 0.1f and < 0.9f) > 12, string.Join(' ', across));
        Assert.Throws<MediaException>(() => PortraitMaker.Make(Thing(), [Wish()], [Stroke(true, float.NaN, 1, 1)]));
        Assert.Throws<MediaException>(() => PortraitMaker.Make(Thing(), [Wish()], [Stroke(true, 9, 1)]));
    }

    private static LoosePart TailPart(bool wags) =>
        new([new(438, 214), new(590, 214), new(590, 262), new(438, 262)], new Mark(440, 238)) { Wags = wags, Amount = 1 };

    [Fact]
    public void A_part_comes_off_and_what_is_behind_it_is_what_is_around_it()
    {
        var knob = new LoosePart([new(270, 340), new(330, 340), new(330, 400), new(270, 400)], new Mark(300, 342));
        var made = PortraitMaker.Make(Thing(), [Wish(TailPart(true), knob)], Over)[0];
        Assert.Equal(2, made.Recipe.Parts!.Count);
        using var figure = PictureOf(made);
        // Beside the body there is nothing any more; on it there is body.
        Assert.InRange(figure.GetPixel(550, 238).Alpha, 0, 60);
        var behind = figure.GetPixel(300, 376);
        Assert.True(behind is { Alpha: > 220, Red: > 150, Green: < 110 }, $"{behind}");
        var (tail, own) = (made.Recipe.Parts![0], SKBitmap.Decode(made.Pictures[made.Recipe.Parts[0].Hash]));
        using (own)
        {
            var seen = own.GetPixel(520 - (int)tail.X, 238 - (int)tail.Y);
            Assert.True(seen is { Alpha: > 250, Red: > 220, Blue: < 90 }, $"{seen}");
            Assert.InRange(own.GetPixel(1, 1).Alpha, 0, 20);
        }
        // A picture that is not cut out is filled in, too.
        using var whole = PictureOf(PortraitMaker.Make(Thing(), [Wish(TailPart(false)) with { IsFree = false }])[0]);
        var wall = whole.GetPixel(550, 238);
        Assert.True(wall.Alpha == 255 && Math.Abs(wall.Red - Wall.Red) < 14 && Math.Abs(wall.Blue - Wall.Blue) < 14, $"{wall}");
        Assert.Contains("marks around", Assert.Throws<MediaException>(() => PortraitMaker.Make(Thing(), [Wish(knob with { Edge = [new(1, 1)] })])).Message);
    }

    private static PortraitFigure Figure(params LoosePart[] parts)
    {
        var made = PortraitMaker.Make(Thing(), [Wish(parts)], Over)[0];
        foreach (var (hash, bytes) in made.Pictures)
            PictureShelf.Hold(hash, bytes);
        return new PortraitFigure(PortraitRecipe.Read(made.Recipe.ToJson())!, "thing");
    }

    private static Vector2[] CornersAt(PortraitFigure figure, double t, params Vector2[] lags)
    {
        var items = new DrawItem[figure.Shapes.Count];
        figure.DrawAt(t, Pose.Neutral, Matrix3x2.Identity, items, lags);
        return DrawMesh.Read(items[^1].Path!);
    }

    private static double AngleOf(Vector2[] corners) => Math.Atan2(corners[1].Y - corners[0].Y, corners[1].X - corners[0].X) * 180 / Math.PI;

    [Fact]
    public void What_wags_goes_to_and_fro_about_its_pivot_and_what_swings_follows_what_it_hangs_on()
    {
        var wagging = Figure(TailPart(true));
        Assert.Equal(0, wagging.SpringCount);
        double[] angles = [.. Enumerable.Range(0, 200).Select(i => AngleOf(CornersAt(wagging, i / 25.0)))];
        Assert.InRange(angles.Max(), 6, 13.2);
        Assert.InRange(angles.Min(), -13.2, -6);
        Assert.True(angles.Zip(angles.Skip(1)).Max(p => Math.Abs(p.First - p.Second)) < 6);
        // The pivot stays where it is: as far from each corner as ever.
        var pivot = new Vector2(440, 238) * (1000f / Height);
        Assert.All(
            Enumerable.Range(0, 20),
            i => Assert.Equal(Vector2.Distance(CornersAt(wagging, 0)[1], pivot), Vector2.Distance(CornersAt(wagging, i / 7.0)[1], pivot), 0.05f)
        );
        var swinging = Figure(TailPart(false));
        Assert.Equal(1, swinging.SpringCount);
        Assert.Equal(0, AngleOf(CornersAt(swinging, 3.3, Vector2.Zero)), 2);
        // It sticks out to the right: where the body goes up it stays behind, down.
        Assert.InRange(AngleOf(CornersAt(swinging, 0, new Vector2(0, 0.01f))), 2, 16);
        Assert.InRange(AngleOf(CornersAt(swinging, 0, new Vector2(0, -0.01f))), -16, -2);
        Assert.InRange(AngleOf(CornersAt(swinging, 0, new Vector2(0, 5))), 2, 16.1);
        // A frame that is drawn alone is that of a run.
        var (x, y, scale) = swinging.InPlace();
        var member = new StageMember(swinging, x, y, scale, true, [], new PerformanceDials()) { Gestures = [new GestureSpan(Gestures.Find("nod")!, 0.4, 1.6)] };
        var scene = new StageScene(CastLibrary.Shipped().Backdrop("paper"), [member], new FrameRate(25), 3);
        var run = scene.Draw(0, 60);
        Assert.Equal(run.Frames[30], scene.Draw(30, 1).Frames[0]);
        Assert.True(Enumerable.Range(0, 60).Select(f => run.Frames[f].Last(i => i.Path != null).Path).Distinct().Count() > 10);
    }

    [Fact]
    public void Eyes_are_drawn_where_others_are_wanted()
    {
        var face = new PaintedFace();
        var picture = PictureFiles.Take(face.Picture(), "painted.jpg");
        SKColor At(EyeKind kind, float x, float y)
        {
            var made = PortraitMaker.Make(picture, [new PortraitWish("Painted", face.Marks()) { IsFree = false, Eyes = kind }])[0];
            foreach (var (hash, bytes) in made.Pictures)
                PictureShelf.Hold(hash, bytes);
            var figure = new PortraitFigure(made.Recipe, "painted");
            var items = new DrawItem[figure.Shapes.Count];
            figure.Draw(Pose.Neutral, Matrix3x2.Identity, items);
            using var rasteriser = new Rasteriser(picture.Width, picture.Height, (0, 0, figure.Size.X, figure.Size.Y), grain: false);
            var at = face.P(x, y);
            return rasteriser.Draw(new DrawingList(figure.Shapes, [items]) { HasGrain = false }, 0).GetPixel((int)at.X, (int)at.Y);
        }
        // Beside the iris, and in its middle.
        var (ball, pupil) = (At(EyeKind.Animal, -0.56f, 0.01f), At(EyeKind.Animal, -0.42f, 0.02f));
        Assert.True(ball.Red > ball.Blue + 70, $"{ball}");
        Assert.True(pupil is { Red: < 70, Green: < 70 }, $"{pupil}");
        Assert.True(At(EyeKind.Cartoon, -0.57f, 0.01f) is { Red: > 180, Blue: > 170 } && At(EyeKind.Cartoon, -0.42f, 0.02f) is { Red: < 60 });
        Assert.NotEqual(At(EyeKind.Human, -0.42f + 0.06f, 0.01f), At(EyeKind.Own, -0.42f + 0.06f, 0.01f));
    }

    [Fact]
    public void Teeth_are_even_or_have_a_gap_or_fangs()
    {
        SKBitmap Row(TeethKind kind) => SKBitmap.Decode(TeethPictures.Draw(true, 0.8f, 1, kind));
        using SKBitmap even = Row(TeethKind.Even),
            gap = Row(TeethKind.Gap),
            fangs = Row(TeethKind.Fangs);
        int middle = TeethPictures.Width / 2,
            high = TeethPictures.Height;
        Assert.True(
            even.GetPixel(middle + 10, high / 3).Alpha == 255 && gap.GetPixel(middle, high / 3).Alpha == 0 && gap.GetPixel(middle + 40, high / 3).Alpha == 255
        );
        // How far down there is anything, column by column: two long ones, one at each side.
        int[] lengths = [.. Enumerable.Range(0, TeethPictures.Width).Select(x => Enumerable.Range(0, high).Count(y => fangs.GetPixel(x, y).Alpha > 127))];
        Assert.True(lengths[middle] < 0.6 * high && lengths[..middle].Max() > 0.9 * high && lengths[middle..].Max() > 0.9 * high);
        var face = new PaintedFace();
        var none = PortraitMaker.Make(
            PictureFiles.Take(face.Picture(), "a.jpg"),
            [new PortraitWish("Old", face.Marks()) { IsFree = false, Teeth = TeethKind.None }]
        );
        Assert.Null(none[0].Recipe.Mouth.TeethUpper);
    }
}
