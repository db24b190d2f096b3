using System.Numerics;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>Triangles, marks and the mesh of a face, without a picture.</summary>
public class PortraitMeshTests
{
    private static float Area(Vector2 a, Vector2 b, Vector2 c) => ((b.X - a.X) * (c.Y - a.Y) - (b.Y - a.Y) * (c.X - a.X)) / 2;

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void Triangles_cover_their_points_once_and_are_Delaunays(int seed)
    {
        var random = new Random(seed);
        Vector2[] points = [.. Enumerable.Range(0, 60).Select(_ => new Vector2(random.NextSingle() * 100, random.NextSingle() * 100))];
        points = [.. points, new(0, 0), new(100, 0), new(100, 100), new(0, 100)];
        var triangles = Triangulation.Of(points, []);
        Assert.Equal(10_000, triangles.Sum(t => MathF.Abs(Area(points[t.A], points[t.B], points[t.C]))), 1f);
        // Euler: 2 n - 2 - h triangles, with h points on the border.
        Assert.Equal(2 * points.Length - 2 - 4, triangles.Count);
        // No point lies in the circle around a triangle (Delaunay 1934).
        foreach (var (a, b, c) in triangles)
        {
            var (centre, radius) = Circle(points[a], points[b], points[c]);
            Assert.DoesNotContain(points.Index(), p => p.Index != a && p.Index != b && p.Index != c && Vector2.Distance(p.Item, centre) < radius * 0.9999f);
        }
    }

    private static (Vector2 Centre, float Radius) Circle(Vector2 a, Vector2 b, Vector2 c)
    {
        double d = 2 * (a.X * (b.Y - c.Y) + b.X * (c.Y - a.Y) + c.X * (a.Y - b.Y)),
            x = (a.LengthSquared() * (b.Y - c.Y) + b.LengthSquared() * (c.Y - a.Y) + c.LengthSquared() * (a.Y - b.Y)) / d,
            y = (a.LengthSquared() * (c.X - b.X) + b.LengthSquared() * (a.X - c.X) + c.LengthSquared() * (b.X - a.X)) / d;
        var centre = new Vector2((float)x, (float)y);
        return (centre, Vector2.Distance(centre, a));
    }

    [Fact]
    public void An_edge_that_must_be_there_is_there_and_nothing_is_lost()
    {
        var random = new Random(5);
        // A line through a cloud, far from any edge that would come by itself.
        Vector2[] points =
        [
            new(0, 50),
            new(100, 50),
            .. Enumerable.Range(0, 40).Select(_ => new Vector2(random.NextSingle() * 100, random.NextSingle() * 100)),
        ];
        var before = Triangulation.Of(points, []);
        var after = Triangulation.Of(points, [(0, 1)]);
        Assert.DoesNotContain(before, t => Has(t, 0) && Has(t, 1));
        Assert.Contains(after, t => Has(t, 0) && Has(t, 1));
        Assert.Equal(
            before.Sum(t => MathF.Abs(Area(points[t.A], points[t.B], points[t.C]))),
            after.Sum(t => MathF.Abs(Area(points[t.A], points[t.B], points[t.C]))),
            1f
        );
    }

    private static bool Has((int A, int B, int C) t, int p) => t.A == p || t.B == p || t.C == p;

    [Fact]
    public void Corners_are_read_as_they_were_written()
    {
        Vector2[] corners = [new(0, 0), new(-1.5f, 2.25f), new(1234.56f, -0.07f), new(3.1f, 999.99f)];
        var text = DrawMesh.Write(corners);
        Assert.Equal("0,0 -1.5,2.25 1234.56,-0.07 3.1,999.99", text);
        Assert.Equal(corners, DrawMesh.Read(text));
        Assert.Throws<FormatException>(() => DrawMesh.Read("1 2"));
    }

    private static PortraitMarks Face(PortraitKind kind) => MarksGuess.FromBox(200, 150, 300, 400, kind);

    private static PortraitFigure Figure(PortraitKind kind, PortraitMarks? marks = null) =>
        new(
            new PortraitRecipe
            {
                Name = "Ada",
                Picture = new string('a', 64),
                Width = 700,
                Height = 800,
                Marks = marks ?? Face(kind),
                IsFree = true,
            },
            "ada"
        );

    [Theory]
    [InlineData(PortraitKind.Person)]
    [InlineData(PortraitKind.Animal)]
    [InlineData(PortraitKind.Thing)]
    public void Lips_meet_and_open_as_far_as_their_channel_says(PortraitKind kind)
    {
        var figure = Figure(kind);
        float GapOf(float part, float jaw)
        {
            var pose = Pose.Neutral;
            pose.Mouth[MouthChannel.Part] = part;
            pose.Mouth[MouthChannel.Jaw] = jaw;
            var (upper, lower, _, _) = figure.LinesOf(pose);
            return Vector2.Distance(upper[upper.Length / 2], lower[lower.Length / 2]);
        }
        Assert.Equal(0, GapOf(0, 0), 0.01f);
        // Shut lips stay shut, however far the jaw goes.
        Assert.Equal(0, GapOf(0, 0.6f), 0.01f);
        Assert.InRange(GapOf(1, 1) / figure.Gap, 0.95f, 1.05f);
        Assert.InRange(GapOf(0.5f, 0.5f) / figure.Gap, 0.5f * 0.68f * 0.95f, 0.5f * 0.68f * 1.05f);
    }

    [Fact]
    public void Each_of_the_fourteen_mouths_is_reached_and_closures_are_closed()
    {
        var figure = Figure(PortraitKind.Person);
        foreach (var shape in MouthShapes.All)
        {
            var pose = Pose.Neutral with { Mouth = MouthShapes.TargetOf(shape) };
            var (upper, lower, _, _) = figure.LinesOf(pose);
            var gap = Vector2.Distance(upper[upper.Length / 2], lower[lower.Length / 2]);
            var wanted = pose.Mouth[MouthChannel.Part];
            if (wanted == 0)
                Assert.True(gap < 0.7f, $"{shape} is open by {gap} pixels");
            else
                Assert.True(gap > 0.7f, $"{shape} is shut");
        }
    }

    [Fact]
    public void Lids_close_fully_and_nothing_of_the_mesh_turns_over()
    {
        var figure = Figure(PortraitKind.Person);
        var (_, _, up, low) = figure.LinesOf(Pose.Neutral with { LidLeft = 0, LidRight = 0 });
        for (var i = 0; i < up.Length; i++)
            Assert.True(Vector2.Distance(up[i], low[i]) < 0.5f, $"the lids are apart by {Vector2.Distance(up[i], low[i])} pixels");
        var pose = Pose.Neutral with
        {
            HeadTurn = 25,
            HeadNod = 12,
            HeadTilt = -15,
            LidLeft = 0.1f,
            LidRight = 0.1f,
            BrowLeft = 1,
            BrowRight = -1,
            BrowKnit = 1,
        };
        foreach (var shape in MouthShapes.All)
        {
            pose.Mouth = MouthShapes.TargetOf(shape);
            var items = new DrawItem[figure.Shapes.Count];
            figure.Draw(pose, Matrix3x2.Identity, items);
            var mesh = figure.Shapes[0].Mesh!;
            var corners = DrawMesh.Read(items[0].Path!);
            var turned = 0f;
            for (var t = 0; t < mesh.Triangles.Count; t += 3)
            {
                Vector2 At(int k) => new(mesh.Texture[2 * mesh.Triangles[t + k]], mesh.Texture[2 * mesh.Triangles[t + k] + 1]);
                var flat = Area(At(0), At(1), At(2));
                var posed = Area(corners[mesh.Triangles[t]], corners[mesh.Triangles[t + 1]], corners[mesh.Triangles[t + 2]]);
                if (flat * posed < 0)
                    turned += MathF.Abs(posed);
            }
            // Slivers at the corners of lips and lids, of a face of 600 x 800 units.
            Assert.True(turned < 260, $"{shape}: {turned} square units are turned over");
        }
    }

    [Fact]
    public void A_head_that_turns_leaves_the_shoulders_where_they_are()
    {
        var figure = Figure(PortraitKind.Person);
        Vector2[] Corners(Pose pose)
        {
            var items = new DrawItem[figure.Shapes.Count];
            figure.Draw(pose, Matrix3x2.Identity, items);
            return DrawMesh.Read(items[0].Path!);
        }
        var (rest, turned) = (Corners(Pose.Neutral), Corners(Pose.Neutral with { HeadTurn = 20, HeadTilt = 10 }));
        var mesh = figure.Shapes[0].Mesh!;
        float most = 0;
        for (var i = 0; i < rest.Length; i++)
        {
            var way = Vector2.Distance(rest[i], turned[i]);
            most = Math.Max(most, way);
            if (mesh.Texture[2 * i + 1] > 760)
                Assert.True(way < 0.05f, $"a corner of the shoulders moves by {way}");
        }
        Assert.InRange(most, 20, 160);
    }

    [Fact]
    public void The_same_marks_make_the_same_figure()
    {
        string Drawn()
        {
            var figure = Figure(PortraitKind.Person);
            var items = new DrawItem[figure.Shapes.Count];
            figure.Draw(Pose.Neutral with { HeadTurn = 7, LidLeft = 0.4f }, Matrix3x2.Identity, items);
            return string.Join('|', items.Select(i => i.Path));
        }
        Assert.Equal(Drawn(), Drawn());
    }

    [Fact]
    public void A_handle_takes_what_lies_between_along_and_its_partner_mirrored()
    {
        var marks = Face(PortraitKind.Person);
        var handles = MarkHandles.Of(marks);
        Assert.Equal(handles.Count, handles.Select(h => h.Name).Distinct().Count());
        foreach (var handle in handles)
        {
            var to = new Mark(handle.At.X + 6, handle.At.Y - 4);
            var moved = MarkHandles.Move(marks, handle.Name, to, false);
            Assert.Equal(to, MarkHandles.Of(moved).First(h => h.Name == handle.Name).At);
            // Every other handle stays.
            foreach (var other in MarkHandles.Of(moved).Where(h => h.Name != handle.Name))
                Assert.Equal(handles.First(h => h.Name == other.Name).At, other.At);
        }
        var left = handles.First(h => h.Name == "brow-outer-left").At;
        var both = MarkHandles.Of(MarkHandles.Move(marks, "brow-outer-left", new Mark(left.X + 5, left.Y - 3), true));
        var (right, was) = (both.First(h => h.Name == "brow-outer-right").At, handles.First(h => h.Name == "brow-outer-right").At);
        Assert.Equal(was.X - 5, right.X, 0.01f);
        Assert.Equal(was.Y - 3, right.Y, 0.01f);
        Assert.Same(marks, MarkHandles.Move(marks, "tail", new Mark(0, 0), false));
    }

    [Fact]
    public void A_recipe_is_read_as_it_was_written_and_a_wrong_one_is_none()
    {
        var recipe = new PortraitRecipe
        {
            Name = "Ada",
            Picture = new string('a', 64),
            Width = 700,
            Height = 800,
            Marks = Face(PortraitKind.Animal),
        };
        var read = PortraitRecipe.Read(recipe.ToJson())!;
        Assert.Equal(recipe.ToJson(), read.ToJson());
        Assert.Null(PortraitRecipe.Read("{}"));
        Assert.Null(PortraitRecipe.Read("no"));
        Assert.Contains("colour", (recipe with { Mouth = new MouthLook { Inside = "red" } }).Error());
        Assert.Contains("hash", (recipe with { Picture = "../x" }).Error());
        var m = recipe.Marks;
        Assert.Contains("outside", (recipe with { Marks = m with { Nose = [new(float.NaN, 0), default, default, default, default] } }).Error());
        Assert.Contains("too small", (recipe with { Marks = m.Moved(v => v / 100) }).Error());
        Assert.Throws<ArtException>(() => new PortraitFigure(recipe with { Width = 3 }, "x"));
    }
}
