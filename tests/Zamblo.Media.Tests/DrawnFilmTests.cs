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
}
