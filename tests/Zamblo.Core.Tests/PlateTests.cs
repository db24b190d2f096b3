using System.Numerics;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>A face through a clip: steadied, shown forth and back, moved in every frame from where it is there.</summary>
public class PlateTests
{
    private static readonly FrameRate Rate = new(25);

    private static PortraitMarks At(float x, float y, float size = 1) => MarksGuess.FromBox(x, y, 200 * size, 280 * size, PortraitKind.Person);

    private static PlateTrack Track(int count, Func<int, PortraitMarks?> at) => new(800, 600, Rate, [.. Enumerable.Range(0, count).Select(at)]);

    [Fact]
    public void A_clip_goes_forth_and_back_without_a_jump()
    {
        var track = Track(5, i => At(100 + i, 100));
        int[] Shown(PlateTrack of, int count, PlatePlay? play = null) =>
            [.. Enumerable.Range(0, count).Select(f => PlateCourse.Of(of, play).FrameAt(Rate.TimeOf(f), Rate))];
        Assert.Equal([0, 1, 2, 3, 4, 3, 2, 1, 0, 1, 2, 3, 4, 3], Shown(track, 14));
        Assert.Equal(0, PlateCourse.Of(Track(1, _ => At(0, 0)), null).FrameAt(7.3, Rate));
        // A part of it, from one moment to another.
        var longer = Track(100, i => At(100 + i, 100));
        Assert.Equal([.. Enumerable.Range(50, 25), .. Enumerable.Range(50, 24).Reverse(), 51], Shown(longer, 50, new PlatePlay { From = 2, To = 3 }));
        Assert.Equal(99, Shown(longer, 40, new PlatePlay { From = 3.2 }).Max());
        Assert.NotNull(new PlatePlay { From = 2, To = 2.1 }.Error());
        Assert.NotNull(new PlatePlay { From = double.NaN }.Error());
        Assert.Null(new PlatePlay { From = 2, To = 2.4 }.Error());
    }

    [Fact]
    public void A_clip_goes_round_over_the_seam_at_which_place_and_motion_are_alike()
    {
        // A head that sways once in two seconds, and nods once in five: after ten seconds all of it is as it was.
        var track = Track(330, i => At(300 + 40 * MathF.Sin(i * MathF.Tau / 50), 150 + 12 * MathF.Sin(i * MathF.Tau / 125)));
        var course = PlateCourse.Of(track, new PlatePlay { Loops = true });
        Assert.True(course.Seam > 0);
        Assert.Equal(0, (course.Last - course.Seam + 1) % 250);
        float Width(PortraitMarks m) => m.Outline.Max(p => p.X) - m.Outline.Min(p => p.X);
        var shown = Enumerable.Range(0, 1500).Select(f => course.FrameAt(Rate.TimeOf(f), Rate)).ToArray();
        // No step is larger at the seam than elsewhere, and the jump is what it says.
        float Step(int a, int b) => Vector2.Distance(track.Marks[a]!.Outline[0], track.Marks[b]!.Outline[0]) / Width(track.Marks[a]!);
        var most = Enumerable.Range(1, 329).Max(i => Step(i - 1, i));
        Assert.All(shown.Zip(shown.Skip(1)), p => Assert.True(Step(p.First, p.Second) <= 1.05f * most));
        Assert.Equal(Step(course.Last, course.Seam), course.Jump, 0.01f);
        Assert.Contains(course.Last, shown);
        // Where nothing comes again it goes forth and back.
        Assert.Equal(-1, PlateCourse.Of(Track(20, i => At(100 + i, 100)), new PlatePlay { Loops = true }).Seam);
    }

    [Fact]
    public void Several_faces_of_a_clip_go_round_where_all_of_them_are_alike()
    {
        // One sways once in two seconds, the other once in three: they meet after six.
        var one = Track(330, i => At(150 + 30 * MathF.Sin(i * MathF.Tau / 50), 150));
        var two = Track(330, i => At(550 + 30 * MathF.Sin(i * MathF.Tau / 75), 150));
        var play = new PlatePlay { Loops = true };
        var both = PlateCourse.Of([one, two], play);
        Assert.Equal(0, (both.Last - both.Seam + 1) % 150);
        Assert.True(both.Jump < 0.05f);
        // What has been found for both, each of them follows; a seam that lies outside the part is looked for again.
        var known = play with
        {
            Seam = new PlateSeam(both.Last, both.Seam),
        };
        Assert.All(new[] { one, two }, t => Assert.Equal((both.Last, both.Seam), (PlateCourse.Of(t, known).Last, PlateCourse.Of(t, known).Seam)));
        Assert.NotEqual(300, PlateCourse.Of(one, play with { To = 6, Seam = new PlateSeam(300, 1) }).Last);
        // A gap in one of them is no place to go round.
        var hidden = two with
        {
            Marks = [.. two.Marks.Select((m, i) => i > 200 ? null : m)],
        };
        var course = PlateCourse.Of([one, hidden], play);
        Assert.True(course.Seam > 0);
    }

    [Fact]
    public void Lids_come_down_over_the_eyes_as_they_are_in_each_frame()
    {
        // It blinks by itself in the middle: there is nothing to shut then.
        PortraitMarks Blinking(int i)
        {
            var m = At(200, 100);
            EyeMarks Shut(EyeMarks e) => e with { Lower = [.. e.Upper.Select(p => new Mark(p.X, p.Y + 0.5f))] };
            return i == 5 ? m with { EyeLeft = Shut(m.EyeLeft!), EyeRight = Shut(m.EyeRight!) } : m;
        }
        var track = Track(10, Blinking);
        var own = Figure(track);
        var lidded = new PlateFigure(track, new string('c', 64), new MouthLook(), "Clip", "clip", play: new PlatePlay { Lids = true });
        float MostAbove(PlateFigure figure, int frame, float lid)
        {
            var items = new DrawItem[figure.Shapes.Count];
            figure.DrawAt(Rate.TimeOf(frame), Pose.Neutral with { LidLeft = lid, LidRight = lid }, Matrix3x2.Identity, items);
            var (_, corners, texture) = DrawMesh.ReadAny(items[1].Path!);
            var nose = track.Marks[frame]!.Nose[1].Y;
            return corners.Zip(texture!).Where(p => p.Second.Y < nose).Max(p => Vector2.Distance(p.First * 0.6f, p.Second));
        }
        var eye = track.Marks[0]!.EyeLeft!;
        var high = Vector2.Distance(eye.Upper[eye.Upper.Length / 2], eye.Lower[eye.Lower.Length / 2]);
        Assert.InRange(MostAbove(lidded, 2, 0), 0.9f * high, 1.6f * high);
        Assert.True(MostAbove(lidded, 2, 1) < 0.05f);
        Assert.True(MostAbove(lidded, 5, 0) < 0.6f * MostAbove(lidded, 2, 0));
        Assert.True(MostAbove(own, 2, 0) < 0.05f);
        // The eye itself stays as it was filmed: no triangle lies within it.
        var mesh = lidded.Shapes[1].Mesh!;
        Vector2 Corner(int i) => new(mesh.Texture[2 * i], mesh.Texture[2 * i + 1]);
        var middles = Enumerable
            .Range(0, mesh.Triangles.Count / 3)
            .Select(t => (Corner(mesh.Triangles[3 * t]) + Corner(mesh.Triangles[3 * t + 1]) + Corner(mesh.Triangles[3 * t + 2])) / 3)
            .ToArray();
        Assert.DoesNotContain(middles, p => Vector2.Distance(p, eye.Iris) < 0.3f * high);
        Assert.Contains(middles, p => Vector2.Distance(p, eye.Upper[eye.Upper.Length / 2]) < 0.3f * high);
    }

    [Fact]
    public void What_is_drawn_between_the_lips_takes_the_light_of_its_frame()
    {
        var track = Track(4, i => At(200, 100)) with { Light = [SkinLight.Full, new(0.5f, 0.5f, 0.25f), SkinLight.Full, SkinLight.Full] };
        var figure = Figure(track);
        var open = MouthShapes.TargetOf(MouthShape.Open);
        Assert.Equal(DrawBlend.Multiply, figure.Shapes[^1].Blend);
        Assert.Equal(0, Drawn(figure, 0, open)[^1].Opacity);
        var (lit, inside) = (Drawn(figure, 1, open)[^1], Drawn(figure, 1, open)[2]);
        Assert.Equal((1f, "#808040#808040", inside.Path), (lit.Opacity, lit.Colors, lit.Path));
        Assert.Equal(0, Drawn(figure, 1)[^1].Opacity);
        Assert.Equal(figure.Shapes.Count - 1, Figure(track with { Light = null }).Shapes.Count);
    }

    [Fact]
    public void Frames_come_together_to_stretches_with_a_reason()
    {
        PlateSight[] sights = [PlateSight.Good, PlateSight.Good, PlateSight.Gone, PlateSight.Gone, PlateSight.Gone, PlateSight.Dark];
        var map = PlateStretch.Of(sights, Rate);
        Assert.Equal([(0, 0.08), (0.08, 0.2), (0.2, 0.24)], map.Select(s => (s.Start, s.End)));
        Assert.Null(map[0].Note());
        Assert.StartsWith("From 0.1 to 0.2 s no face is seen", map[1].Note());
        Assert.Equal([false, true, false], map.Select(s => s.IsMute));
    }

    [Fact]
    public void Steadying_takes_noise_away_and_lags_behind_no_motion()
    {
        // Even motion stays what it is, to the last frame but the ends.
        var moving = Track(40, i => At(100 + 6 * i, 100 + 2 * i)).Steadied();
        for (var i = 0; i < 40; i++)
            Assert.Equal(100 + 6 * i + 100, moving.Marks[i]!.Outline[0].X, 0.02f);
        var random = new Random(3);
        float Noise() => random.NextSingle() * 2 - 1;
        float[] noise = [.. Enumerable.Range(0, 200).Select(_ => Noise())];
        var noisy = Track(200, i => At(100 + noise[i], 100));
        static double Jitter(PlateTrack t) => Enumerable.Range(1, t.Marks.Count - 1).Average(i => Math.Abs(t.Marks[i]!.Nose[1].X - t.Marks[i - 1]!.Nose[1].X));
        Assert.True(Jitter(noisy.Steadied()) < 0.35 * Jitter(noisy));
    }

    [Fact]
    public void A_cut_stays_a_cut_and_what_is_not_seen_is_told()
    {
        var track = Track(30, i => i is >= 10 and < 15 ? null : At(i < 20 ? 100 : 500, 100));
        var steady = track.Steadied();
        Assert.Equal(track.Marks[19]!.Nose[1], steady.Marks[19]!.Nose[1]);
        Assert.Equal(track.Marks[20]!.Nose[1], steady.Marks[20]!.Nose[1]);
        Assert.Equal([(0.4, 0.6)], steady.Gaps());
    }

    private static PlateFigure Figure(PlateTrack track) => new(track, new string('c', 64), new MouthLook(), "Clip", "clip");

    private static DrawItem[] Drawn(PlateFigure figure, int frame, MouthChannels mouth = default)
    {
        var items = new DrawItem[figure.Shapes.Count];
        figure.DrawAt(Rate.TimeOf(frame), Pose.Neutral with { Mouth = mouth }, Matrix3x2.Identity, items);
        return items;
    }

    [Fact]
    public void At_rest_a_frame_is_itself_and_the_mouth_goes_with_the_head()
    {
        var track = Track(10, i => At(100 + 30 * i, 100 + 5 * i, 1 + 0.03f * i));
        var figure = Figure(track);
        var open = MouthShapes.TargetOf(MouthShape.Open);
        for (var i = 0; i < 10; i++)
        {
            var (frame, corners, texture) = DrawMesh.ReadAny(Drawn(figure, i)[1].Path!);
            Assert.Equal(i, frame);
            // A shut mouth that shall be shut: every corner where it is in the frame. The figure is 1000 units high, the clip 600 pixels.
            for (var c = 0; c < corners.Length; c++)
                Assert.True(Vector2.Distance(corners[c] * 0.6f, texture![c]) < 0.05f);
            var (_, wide, there) = DrawMesh.ReadAny(Drawn(figure, i, open)[1].Path!);
            var most = wide.Index().MaxBy(w => Vector2.Distance(w.Item * 0.6f, there![w.Index]));
            // The lower lip moves most, in proportion to the head's size, and it is where this frame's mouth is.
            var way = Vector2.Distance(most.Item * 0.6f, there![most.Index]);
            var mouth = track.Marks[i]!.Mouth;
            Assert.InRange(way / mouth.Width(), 0.2f, 0.6f);
            Assert.True(Vector2.Distance(there[most.Index], mouth.OuterLower[mouth.OuterLower.Length / 2]) < 0.35f * mouth.Width());
        }
    }

    [Fact]
    public void A_mouth_that_is_open_in_the_clip_is_brought_to_rest()
    {
        // Speaking: the lips part by a third of the mouth's width and meet again.
        PortraitMarks Speaking(int i)
        {
            var m = At(200, 100);
            var gap = 20 * MathF.Abs(MathF.Sin(i * 0.7f));
            Mark[] Down(Mark[] line) =>
                [
                    .. line.Select(
                        (p, k) =>
                        {
                            var s = 2f * k / (line.Length - 1) - 1;
                            return new Mark(p.X, p.Y + gap * (1 - s * s));
                        }
                    ),
                ];
            return m with { Mouth = m.Mouth with { InnerLower = Down(m.Mouth.InnerLower), OuterLower = Down(m.Mouth.OuterLower) } };
        }
        var figure = Figure(Track(20, Speaking));
        for (var i = 0; i < 20; i++)
        {
            var items = Drawn(figure, i);
            // Nothing is seen between the lips, but the line where they meet.
            Assert.Equal(0, items[2].Opacity);
        }
    }

    [Fact]
    public void A_still_of_the_mouth_shows_it_where_it_is_in_the_first_frame()
    {
        // The quietest mouth is that of the last frame, elsewhere.
        var open = At(100, 100);
        open = open with { Mouth = open.Mouth with { InnerLower = [.. open.Mouth.InnerLower.Select(m => new Mark(m.X, m.Y + 9))] } };
        var box = Figure(Track(2, i => i == 0 ? open : At(400, 200))).MouthBox!.Value;
        var middle = open.Mouth.InnerUpper[open.Mouth.InnerUpper.Length / 2];
        Assert.InRange(middle.X / 0.6f, box.X, box.X + box.Width);
        Assert.InRange(middle.Y / 0.6f, box.Y, box.Y + box.Height);
    }

    [Fact]
    public void Where_no_face_is_seen_the_clip_is_shown_as_it_is()
    {
        var figure = Figure(Track(4, i => i == 2 ? null : At(200, 100)));
        var items = Drawn(figure, 2, MouthShapes.TargetOf(MouthShape.Open));
        Assert.Equal(1, items[0].Opacity);
        Assert.All(items[1..], i => Assert.Equal(0, i.Opacity));
        Assert.Throws<ArtException>(() => Figure(Track(3, _ => null)));
    }

    [Fact]
    public void Corners_of_a_clip_are_read_as_they_were_written()
    {
        Vector2[] corners = [new(1, 2), new(-3.25f, 4.5f)],
            texture = [new(10, 20), new(30, 40.75f)];
        var text = DrawMesh.Write(12, corners, texture);
        Assert.Equal("#12 1,2,10,20 -3.25,4.5,30,40.75", text);
        var (frame, read, there) = DrawMesh.ReadAny(text);
        Assert.Equal(12, frame);
        Assert.Equal(corners, read);
        Assert.Equal(texture, there);
    }
}

file static class Lengths
{
    public static float Width(this LipMarks m) => Vector2.Distance(m.OuterUpper[0], m.OuterUpper[^1]);
}
