using System.Numerics;
using Zamblo.Core;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Shots;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Media.Tests;

/// <summary>A piece of a film is named by all that is seen in it, and by nothing else.</summary>
public class FilmContentTests
{
    private static readonly FrameSize Size = new(320, 180);
    private static readonly StageView Whole = new(640, 360, 1280);

    private static readonly DrawShape[] Shapes = [new("M0 0L9 0L9 9Z", "#112233"), new(null, "#445566")];

    private static DrawItem[] Frame(float opacity = 1, string path = "M1 1L2 2Z", float x = 0) =>
        [new(Matrix3x2.Identity, 1), new(Matrix3x2.CreateTranslation(x, 0), opacity, path)];

    private static DrawingList List(IReadOnlyList<DrawShape>? shapes = null, DrawItem[]? second = null, FrameLook? look = null, bool grain = true) =>
        new(shapes ?? Shapes, [Frame(), second ?? Frame()])
        {
            HasGrain = grain,
            LookAt = (f, _, _) => f == 1 && look is { } l ? l : new FrameLook(Whole, Whole, false),
        };

    private static string NameOf(DrawingList list, FrameSize? size = null, string rate = "25", string codec = "h264") =>
        FilmContent.NameOf(list, size ?? Size, FrameRate.Parse(rate), codec);

    [Fact]
    public void Whatever_is_seen_otherwise_has_another_name()
    {
        var cut = new FrameLook(Whole, Whole, false);
        string[] names =
        [
            NameOf(List()),
            NameOf(List(second: Frame(opacity: 0.5f))),
            NameOf(List(second: Frame(path: "M1 1L2 3Z"))),
            NameOf(List(second: Frame(x: 0.1f))),
            NameOf(List(second: Frame(opacity: 0))),
            NameOf(List(shapes: [Shapes[0] with { Fill = "#112234" }, Shapes[1]])),
            NameOf(List(shapes: [Shapes[0], Shapes[1] with { Picture = "ab" }])),
            NameOf(List(shapes: [Shapes[0], Shapes[1] with { Clip = 0 }])),
            NameOf(List(grain: false)),
            NameOf(List() with { Groups = [new DrawGroup(0, 1, true), new DrawGroup(1, 1, false) { Plane = DrawPlane.Over }] }),
            NameOf(List(look: cut with { Near = Whole with { X = 641 } })),
            NameOf(List(look: cut with { Far = Whole with { Y = 361 } })),
            NameOf(List(look: cut with { Next = new FrameBlend(Whole, Whole, ShotChange.Dissolve, 0.5f) })),
            NameOf(List(look: cut with { Next = new FrameBlend(Whole, Whole, ShotChange.Wipe, 0.5f) })),
            NameOf(List(look: cut with { Next = new FrameBlend(Whole, Whole, ShotChange.Wipe, 0.6f) })),
            NameOf(List(), new FrameSize(640, 360)),
            NameOf(List(), rate: "30"),
            NameOf(List(), codec: "av1"),
        ];
        Assert.Equal(names.Length, names.Distinct().Count());
    }

    [Fact]
    public void The_same_is_the_same_in_another_scene_and_what_is_hidden_may_be_anywhere()
    {
        Assert.Equal(NameOf(List()), NameOf(List(shapes: [.. Shapes.Select(s => s with { })])));
        Assert.Equal(NameOf(List(second: Frame(opacity: 0))), NameOf(List(second: Frame(opacity: 0, path: "M7 7L8 8Z", x: 50))));
    }

    // Twenty lines in turns of two; the third becomes longer by some frames.
    private static StageScene Talk(int longer)
    {
        var rate = new FrameRate(25);
        PlacedSpeech Line(int i)
        {
            double length = 1.4 + 0.3 * (i * 7 % 5) + (i == 2 ? rate.TimeOf(longer) : 0);
            PhoneSegment[] phones = [.. "AA B IY S UW M EH F".Split(' ').Select((p, k) => new PhoneSegment(p, length * k / 8, length * (k + 1) / 8))];
            var said = new SpeechAnalysis(
                length,
                phones,
                [new WordSegment($"word{i}", 0, length)],
                [.. Enumerable.Repeat(-20f, (int)(100 * length))],
                SpeechSource.Engine
            );
            var start = 0.52 + rate.TimeOf(Enumerable.Range(0, i).Sum(k => rate.FramesFor(1.6 + 0.3 * (k * 7 % 5)))) + (i > 2 ? rate.TimeOf(longer) : 0);
            return new PlacedSpeech(said, start, new MouthDials());
        }
        StageMember Of(string key, float x, int odd) =>
            new(
                CastLibrary.Shipped().Character(key),
                x,
                790,
                0.6f,
                false,
                [.. Enumerable.Range(0, 20).Where(i => i % 2 == odd).Select(Line)],
                new PerformanceDials()
            );
        return new StageScene(CastLibrary.Shipped().Backdrop("bakery"), [Of("maro", 400, 0), Of("tock", 900, 1)], rate, 52 + rate.TimeOf(longer));
    }

    [Fact]
    public void What_comes_after_a_longer_line_is_in_the_same_pieces()
    {
        string[] Pieces(StageScene scene) => [.. FilmPieces.Of(scene, 0, scene.FrameCount).Select(p => NameOf(scene.Draw(p.First, p.Count)))];
        string[] was = Pieces(Talk(0)),
            now = Pieces(Talk(17));
        Assert.InRange(was.Length, 8, 18);
        Assert.InRange(now.Count(n => was.Contains(n)), 0.5 * now.Length, now.Length - 1);
        // And they are the last ones.
        Assert.Equal(was[^1], now[^1]);
    }

    [Fact]
    public void Pieces_cover_a_stretch_without_hole_or_overlap_and_are_those_of_the_whole()
    {
        var scene = Talk(0);
        var all = FilmPieces.Of(scene, 0, scene.FrameCount).ToArray();
        Assert.Equal(scene.FrameCount, all.Sum(p => p.Count));
        foreach (var (first, count) in ((int, int)[])[(0, 1), (0, 60), (130, 400), (scene.FrameCount - 1, 1)])
        {
            var pieces = FilmPieces.Of(scene, first, count).ToArray();
            Assert.Equal(first, pieces[0].First);
            Assert.All(pieces.Zip(pieces.Skip(1)), p => Assert.Equal(p.First.First + p.First.Count, p.Second.First));
            Assert.Equal(count, pieces.Sum(p => p.Count));
            Assert.All(pieces[1..^(pieces.Length > 1 ? 1 : 0)], p => Assert.Contains(p, all));
        }
        Assert.All(all[..^1], p => Assert.InRange(p.Count, 70, 190));
    }

    [Fact]
    public void A_piece_that_is_there_under_both_names_leaves_nothing_beside_them()
    {
        var folder = Directory.CreateTempSubdirectory("zamblo-pieces-").FullName;
        try
        {
            string path = Path.Combine(folder, "chunk-1.mp4"),
                seen = Path.Combine(folder, "seen-1.mp4");
            File.WriteAllText(path, "a piece");
            FilmContent.Keep(path, seen);
            // Two had it in hand: the second finds it under its name already.
            Assert.True(FilmContent.Take(seen, path));
            FilmContent.Keep(path, seen);
            Assert.Equal([path, seen], Directory.EnumerateFiles(folder).Order(StringComparer.Ordinal));
            Assert.Equal("a piece", File.ReadAllText(path));
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    }
}
