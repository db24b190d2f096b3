namespace Zamblo.Media.Tests;

/// <summary>Motion of a stretch is what the whole has there.</summary>
[Collection("ffmpeg")]
public class MotionRangeTests : InFolder
{
    private async Task<string[]> RowsAsync(string name, params string[] more)
    {
        var (code, _, error) = await CommandTests.RunAsync(["film", PathOf("play.txt"), "-o", PathOf(name), .. more]);
        Assert.True(code == 0, error);
        return (await File.ReadAllTextAsync(PathOf(name))).TrimEnd().Split("\r\n");
    }

    // "frame,time,scene,member," and the channels.
    private static string Channels(string row) => row[row.IndexOf(',', row.IndexOf(',', row.IndexOf(',') + 1) + 1)..];

    [Fact]
    public async Task A_stretch_of_the_motion_has_the_channels_of_the_whole_at_any_rate()
    {
        await File.WriteAllTextAsync(PathOf("play.txt"), "MARO: The oven is hot.\nBUBB: I am not.\n");
        foreach (var fps in (string[])["25", "60"])
        {
            var whole = await RowsAsync("whole.csv", "--fps", fps);
            var part = await RowsAsync("part.csv", "--fps", fps, "--from", "1", "--to", "2");
            var rate = int.Parse(fps, System.Globalization.CultureInfo.InvariantCulture);
            // Two members a frame, after the head.
            Assert.Equal(1 + (2 * rate), part.Length);
            Assert.Equal(whole[0], part[0]);
            Assert.Equal(whole[(1 + (2 * rate))..(1 + (4 * rate))].Select(Channels), part[1..].Select(Channels));
            Assert.StartsWith("0,0.0000,1,", part[1], StringComparison.Ordinal);
        }
        var (code, _, _) = await CommandTests.RunAsync("film", PathOf("play.txt"), "-o", PathOf("part.glb"), "--from", "1", "--to", "2");
        Assert.Equal(0, code);
        Assert.Equal(1, (await CommandTests.RunAsync("film", PathOf("play.txt"), "-o", PathOf("part.otio"), "--from", "1", "--to", "2")).Code);
    }
}
