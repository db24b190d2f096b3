using System.Globalization;
using System.Numerics;
using System.Text;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

public class StageTests
{
    public static TheoryData<string> Characters => [.. TestData.Cast.CharacterKeys];

    [Theory]
    [MemberData(nameof(Characters))]
    public void Every_character_can_be_posed_to_its_limits(string key)
    {
        var figure = TestData.Cast.Character(key);
        var extremes = new[]
        {
            Pose.Neutral,
            Pose.Neutral with
            {
                HeadTurn = -90,
                HeadNod = 90,
                HeadTilt = 90,
            },
            Pose.Neutral with
            {
                LidLeft = 0,
                LidRight = 0,
                BrowKnit = 1,
                GazeX = 1,
                GazeY = -1,
            },
            Pose.Neutral with
            {
                ArmLeft = 90,
                ArmRight = 90,
                ElbowLeft = 90,
                ElbowRight = 90,
                Lean = 10,
                Breath = 1,
            },
        };
        foreach (var pose in extremes)
        foreach (var shape in MouthShapes.All)
        foreach (var strength in new[] { 0.25f, 1, 1.5f })
        {
            var items = new DrawItem[figure.Shapes.Count];
            figure.Draw(pose with { Mouth = MouthShapes.TargetOf(shape, strength) }, Matrix3x2.Identity, items);
            for (var i = 0; i < items.Length; i++)
            {
                Assert.True(float.IsFinite(items[i].Transform.M31) && items[i].Transform.GetDeterminant() > 0.01f);
                Assert.True(items[i].Path != null || figure.Shapes[i].Path != null || items[i].Opacity == 0);
                Assert.DoesNotContain("NaN", items[i].Path ?? "");
            }
        }
    }

    [Theory]
    [MemberData(nameof(Characters))]
    public void Every_mouth_is_shut_on_a_closure_and_open_on_a_vowel(string key)
    {
        var figure = TestData.Cast.Character(key);
        // What opens is drawn first; a slot that is shut is no higher than its line.
        float Height(MouthShape shape)
        {
            var (_, paths, _, _) = figure.MouthPicture(MouthShapes.TargetOf(shape));
            if (paths[0] == null)
                return 0;
            var numbers = System
                .Text.RegularExpressions.Regex.Matches(paths[0]!, @"-?\d+(\.\d)?")
                .Select(m => float.Parse(m.Value, System.Globalization.CultureInfo.InvariantCulture))
                .ToArray();
            var y = numbers.Where((_, i) => i % 2 == 1).ToArray();
            return y.Max() - y.Min();
        }
        var line = figure.Rig.Mouth.Line;
        Assert.InRange(Height(MouthShape.Closed), 0, line);
        Assert.InRange(Height(MouthShape.Rest), 0, line);
        Assert.True(Height(MouthShape.Open) > Height(MouthShape.Mid));
        Assert.True(Height(MouthShape.Mid) > Height(MouthShape.Wide));
        Assert.True(Height(MouthShape.Open) > figure.Rig.Mouth.Height * 0.5f);
    }

    [Fact]
    public void Turning_the_head_moves_near_parts_further_than_far_ones()
    {
        // Parallax of a globe: a point at depth z moves by z sin(a); the nose stands out furthest.
        var figure = TestData.Cast.Character("maro");
        Vector2 At(string part, float turn)
        {
            var index = figure.Rig.Parts.ToList().FindIndex(p => p.Id == part);
            var pivot = figure.Rig.Parts[index].Pivot;
            var items = new DrawItem[figure.Shapes.Count];
            figure.Draw(Pose.Neutral with { HeadTurn = turn }, Matrix3x2.Identity, items);
            // The nose and the ear have shapes of their own: find them by their first fixed path.
            var shape =
                part == "nose"
                    ? figure.Shapes.ToList().FindIndex(s => s.Path?.StartsWith("M282 300", StringComparison.Ordinal) == true)
                    : figure.Shapes.ToList().FindIndex(s => s.Path?.StartsWith("M178 262", StringComparison.Ordinal) == true);
            return Vector2.Transform(new Vector2(pivot[0], pivot[1]), items[shape].Transform);
        }
        Assert.True(At("nose", 30).X - At("nose", 0).X > 50);
        Assert.True(At("ear-left", 30).X - At("ear-left", 0).X < 0);
        Assert.Equal(At("nose", 30).X - 300, 300 - At("nose", -30).X, 1);
    }

    [Fact]
    public void A_drawn_set_and_a_beak_make_mouths_too()
    {
        var drawn = new RigMouth
        {
            Width = 40,
            Height = 40,
            Style = MouthStyle.Drawn,
            Drawn = new() { ["rest"] = [new DrawnPath("M0 0L9 0", null, "#000000", 2)], ["open"] = [new DrawnPath("M0 0L9 9Z", "#000000")] },
        };
        var drawing = new MouthDrawing(drawn, "#000000", 0);
        var paths = new string?[drawing.Shapes.Count];
        drawing.Draw(MouthShapes.TargetOf(MouthShape.Open), paths);
        Assert.Equal("M0 0L9 9Z", Assert.Single(paths, p => p != null));
        drawing.Draw(MouthShapes.TargetOf(MouthShape.Closed), paths);
        Assert.Equal("M0 0L9 0", Assert.Single(paths, p => p != null));

        var beak = new MouthDrawing(
            new RigMouth
            {
                Width = 40,
                Height = 40,
                Style = MouthStyle.Beak,
            },
            "#000000",
            0
        );
        paths = new string?[beak.Shapes.Count];
        beak.Draw(MouthShapes.TargetOf(MouthShape.Open), paths);
        Assert.All(paths, Assert.NotNull);
        beak.Draw(MouthShapes.TargetOf(MouthShape.Closed), paths);
        Assert.Null(paths[0]);
    }

    [Theory]
    [InlineData(MouthShape.Pucker, false)]
    [InlineData(MouthShape.Push, true)]
    [InlineData(MouthShape.Open, true)]
    [InlineData(MouthShape.Wide, true)]
    public void Lips_that_are_pushed_forward_cover_the_upper_teeth_unless_they_are_raised(MouthShape shape, bool shows)
    {
        var mouth = new MouthDrawing(new RigMouth { Width = 100, Height = 100 }, "#000000", 0);
        var paths = new string?[mouth.Shapes.Count];
        mouth.Draw(MouthShapes.TargetOf(shape), paths);
        // Of the opening its edge over the middle (a cubic is there at three quarters of its control points), of the teeth the middle of their lower edge.
        float[] Numbers(string path) =>
            [.. System.Text.RegularExpressions.Regex.Matches(path, @"-?[\d.]+").Select(m => float.Parse(m.Value, CultureInfo.InvariantCulture))];
        var opening = Numbers(paths[0]!);
        var edge = (opening[1] + opening[7]) / 8 + 0.75f * opening[3];
        var teeth = Numbers(paths[1]!);
        // The curve of the edge goes through the mean of its ends' height and its control point's.
        Assert.Equal(shows, (teeth[5] + teeth[7]) / 2 > edge);
    }

    [Fact]
    public void A_rig_that_does_not_fit_its_drawing_is_refused_by_name()
    {
        Stream S(string text) => new MemoryStream(Encoding.UTF8.GetBytes(text));
        const string art = "<svg viewBox=\"0 0 9 9\"><g id=\"mouth\"/></svg>";
        const string rig =
            "{\"key\":\"x\",\"name\":\"Xan\",\"anchor\":[0,0],\"portrait\":[0,0,9,9],\"parts\":[PARTS],\"head\":{\"centre\":[4,4],"
            + "\"radius\":[4,4]},\"mouth\":{\"width\":4,\"height\":4}}";
        Assert.NotNull(DrawnFigure.Read(S(art), S(rig.Replace("PARTS", "")), "x"));
        Assert.Contains("\"tail\"", Assert.Throws<ArtException>(() => DrawnFigure.Read(S(art), S(rig.Replace("PARTS", "{\"id\":\"tail\"}")), "x")).Message);
        Assert.Contains(
            "text",
            Assert.Throws<ArtException>(() => DrawnFigure.Read(S("<svg viewBox=\"0 0 9 9\"><text/></svg>"), S(rig.Replace("PARTS", "")), "x")).Message
        );
        Assert.Throws<ArtException>(() => DrawnFigure.Read(S("<svg"), S(rig.Replace("PARTS", "")), "x"));
        Assert.Throws<ArtException>(() => DrawnFigure.Read(S(art), S("{}"), "x"));
    }

    [Fact]
    public void A_scene_has_whole_frames_and_one_item_per_shape()
    {
        var scene = new StageScene(
            TestData.Cast.Backdrop("bakery"),
            [
                new StageMember(TestData.Cast.Character("maro"), 640, 790, 0.62f, false, [], new()),
                new StageMember(TestData.Cast.Character("tock"), 900, 610, 0.4f, true, [], new()),
            ],
            new FrameRate(25),
            2.01
        );
        Assert.Equal(51, scene.FrameCount);
        Assert.Equal(2.04, scene.Duration, 9);
        var list = scene.Draw(40, 100);
        Assert.Equal(11, list.Frames.Count);
        Assert.All(list.Frames, f => Assert.Equal(scene.Shapes.Count, f.Length));
        Assert.All(list.Shapes, s => Assert.True(s.Clip < scene.Shapes.Count));
    }

    [Fact]
    public void Paths_are_written_short_and_with_a_point() =>
        Assert.Equal("M1 -2.5L0 0.1C1 2 3 4 5 6Z", new PathText().Move(1, -2.5f).Line(0.04f, 0.1f).Curve(1, 2, 3, 4, 5, 6).Close().ToString());

    [Fact]
    public void The_grain_is_light_and_the_same_every_time()
    {
        var tile = PaperGrain.Tile();
        Assert.Equal(tile, PaperGrain.Tile());
        Assert.InRange(tile.Average(b => b), 240, 252);
    }
}
