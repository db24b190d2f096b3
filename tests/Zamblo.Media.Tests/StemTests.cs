using System.IO.Compression;
using Zamblo.Core.Audio;

namespace Zamblo.Media.Tests;

/// <summary>What is heard, taken apart, on the command line.</summary>
[Collection("ffmpeg")]
public class StemTests : InFolder
{
    [Fact]
    public async Task A_play_goes_out_as_one_file_a_role_all_as_long_as_the_film()
    {
        await File.WriteAllTextAsync(PathOf("play.txt"), "MARO\nThe oven is hot.\n\nBUBB\nI am hungry.\n");
        var (code, _, error) = await CommandTests.RunAsync("film", PathOf("play.txt"), "-o", PathOf("stems.zip"), "-o", PathOf("all.wav"));
        Assert.True(code == 0, error);
        using var zip = ZipFile.OpenRead(PathOf("stems.zip"));
        Assert.Equal(["01 Maro.wav", "02 Bubb.wav"], zip.Entries.Select(e => e.FullName));
        using var whole = File.OpenRead(PathOf("all.wav"));
        var length = WavFile.ReadMono(whole).Samples.Length;
        Assert.All(zip.Entries, e => Assert.Equal(44 + 2 * length, e.Length));
        // In two scenes as in one: who is not in one is silent there.
        await File.WriteAllTextAsync(PathOf("two.txt"), "INT. BAKERY - NIGHT\n\nMARO\nThe oven is hot.\n\nEXT. STREET - DAY\n\nBUBB\nI am hungry.\n");
        Assert.Equal(0, (await CommandTests.RunAsync("film", PathOf("two.txt"), "-o", PathOf("two.zip"))).Code);
        using var two = ZipFile.OpenRead(PathOf("two.zip"));
        Assert.Equal(2, two.Entries.Count);
        Assert.Single(two.Entries.Select(e => e.Length).Distinct());
    }
}
