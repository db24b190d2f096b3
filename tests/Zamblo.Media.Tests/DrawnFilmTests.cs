using Zamblo.Core.Stage;

namespace Zamblo.Media.Tests;

/// <summary>Characters that somebody has drawn, on the command line.</summary>
[Collection("ffmpeg")]
public class DrawnFilmTests : InFolder
{
    [Fact]
    public async Task A_character_that_was_drawn_plays_out_of_its_file()
    {
        var drawing = CastLibrary.Shipped().DrawingOf("bubb")!;
        await File.WriteAllBytesAsync(PathOf("blub.zip"), DrawingFiles.Write(DrawingFiles.Over(drawing, drawing.Art, "Blub")));
        await File.WriteAllTextAsync(PathOf("drawn.txt"), "BUBB\nHungry.\n");
        string[] start = ["film", PathOf("drawn.txt"), "--cast", $"BUBB={PathOf("blub.zip")}", "--size", "320x180"];
        var (code, _, error) = await CommandTests.RunAsync([.. start, "-o", PathOf("drawn.mp4"), "-o", PathOf("drawn.zamblo")]);
        Assert.True(code == 0, error);
        using var zip = System.IO.Compression.ZipFile.OpenRead(PathOf("drawn.zamblo"));
        Assert.Contains(zip.Entries, e => e.FullName.StartsWith("characters/art-", StringComparison.Ordinal));
        Assert.Equal(0, (await CommandTests.RunAsync("film", PathOf("drawn.zamblo"), "--size", "320x180", "-o", PathOf("again.mp4"))).Code);
        await File.WriteAllTextAsync(PathOf("none.zip"), "no zip");
        Assert.Contains(
            "no zip",
            (await CommandTests.RunAsync("film", "--character", PathOf("none.zip"), "--voice", Recordings + "goforward.raw", "-o", PathOf("n.mp4"))).Error
        );
    }

    // From the file to the film: an SVG without a rig says a line, its mouth moves, and the rest of the picture is there; what could not be taken is told.
    [Fact]
    public async Task A_drawing_without_a_rig_speaks_in_a_film()
    {
        var svg = DrawingExamples.Read("owl")!.Replace("</svg>", "<text>Owl</text></svg>");
        await File.WriteAllTextAsync(PathOf("owl.svg"), svg);
        await File.WriteAllTextAsync(PathOf("owl.txt"), "OWL\nOh, a warm oven at three in the morning!\n");
        var (code, _, error) = await CommandTests.RunAsync([
            "film",
            PathOf("owl.txt"),
            "--cast",
            $"OWL={PathOf("owl.svg")}",
            "--set",
            "paper",
            "--size",
            "320x180",
            "-o",
            PathOf("owl.mp4"),
        ]);
        Assert.True(code == 0, error);
        Assert.Contains("owl.svg: <text>", error);
        // One gray picture a frame (ffmpeg's own decoder): the mouth's part of it changes far more than the paper above it.
        var done = await OutsideProgram.RunAsync("ffmpeg", ["-v", "error", "-i", PathOf("owl.mp4"), "-f", "rawvideo", "-pix_fmt", "gray", PathOf("owl.gray")]);
        Assert.Equal(0, done.ExitCode);
        var frames = (await File.ReadAllBytesAsync(PathOf("owl.gray"))).Chunk(320 * 180).ToArray();
        double Moves(Func<int, int, bool> where) =>
            frames
                .Zip(frames.Skip(1))
                .Average(p => Enumerable.Range(0, 320 * 180).Where(i => where(i % 320, i / 320)).Average(i => (double)Math.Abs(p.First[i] - p.Second[i])));
        Assert.True(frames.Length > 40);
        Assert.True(Moves((x, y) => x is > 130 and < 190 && y is > 20 and < 150) > 4 * Moves((x, _) => x < 40), "nothing moves");
    }
}
