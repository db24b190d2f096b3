using System.IO.Compression;
using Zamblo.Core.Interchange;

namespace Zamblo.Media.Tests;

/// <summary>What "film" is told about light and air, and by what names it is told.</summary>
[Collection("ffmpeg")]
public class FilmFlagTests : InFolder
{
    private async Task<(int Code, string Error)> FilmAsync(params string[] more)
    {
        await File.WriteAllTextAsync(PathOf("play.txt"), "MARO: The oven is hot.\nTOCK: It is five past three.");
        var (code, _, error) = await CommandTests.RunAsync(["film", PathOf("play.txt"), .. more]);
        return (code, error);
    }

    private string ProductionOf(string archive)
    {
        using var zip = ZipFile.OpenRead(PathOf(archive));
        using var reader = new StreamReader(zip.GetEntry("production.json")!.Open());
        return reader.ReadToEnd();
    }

    [Fact]
    public async Task Light_and_air_are_those_that_are_asked_for()
    {
        Assert.Equal(0, (await FilmAsync("--light", "dusk", "--weather", "snow", "-o", PathOf("play.zamblo"), "-o", PathOf("play.csv"))).Code);
        var kept = ProductionOf("play.zamblo");
        Assert.Contains("Dusk", kept, StringComparison.Ordinal);
        Assert.Contains("Snow", kept, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("--light", "3")]
    [InlineData("--weather", "99")]
    [InlineData("--face-names", "none")]
    public async Task What_nobody_knows_is_refused_with_what_there_is(string option, string value)
    {
        var (code, error) = await FilmAsync(option, value, "-o", PathOf("play.csv"));
        Assert.Equal(2, code);
        Assert.Contains(value, error, StringComparison.Ordinal);
        Assert.False(File.Exists(PathOf("play.csv")));
    }

    [Fact]
    public async Task Every_column_of_the_motion_and_every_name_of_a_form_is_described()
    {
        var described = await File.ReadAllTextAsync(Path.Combine(CommandTests.Root, "docs", "formats.md"));
        Assert.DoesNotContain(MotionTable.Columns, c => !described.Contains($"`{c}`", StringComparison.Ordinal));
        foreach (var ending in FilmForm.All.Select(f => f.Ending.TrimStart('.')))
            Assert.Contains(ending, described, StringComparison.OrdinalIgnoreCase);
    }
}
