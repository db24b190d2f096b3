using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Productions;

namespace Zamblo.Media.Tests;

/// <summary>Captions in another language go along in a production's file, and out of it.</summary>
[Collection("ffmpeg")]
public class CaptionLanguageTests : InFolder
{
    [Fact]
    public async Task A_film_out_of_a_production_has_captions_in_the_language_that_is_asked_for()
    {
        await File.WriteAllTextAsync(PathOf("play.txt"), "MARO: The oven is hot.\nBUBB: I am not.\n");
        Assert.Equal(0, (await CommandTests.RunAsync("film", PathOf("play.txt"), "-o", PathOf("play.zamblo"))).Code);
        await using (var studio = new ServiceCollection().AddLogging().AddStudio(new DataFolder(PathOf("data"))).BuildServiceProvider())
        {
            await using (var db = await studio.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync())
                await DataUpgrade.RunAsync(db);
            var archive = studio.GetRequiredService<ProductionArchive>();
            Guid id;
            await using (var file = File.OpenRead(PathOf("play.zamblo")))
                id = await archive.ReadAsync(file);
            var captions = new BringCaptions("de", "MARO: Der Ofen ist heiß.\nBUBB: Ich nicht.\n") { Production = id };
            await studio.GetRequiredService<EditRunner>().RunAsync(captions);
            await using var output = File.Create(PathOf("both.zamblo"));
            await archive.WriteAsync(id, output);
        }
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        async Task<string> CaptionsAsync(params string[] more)
        {
            var (code, _, error) = await CommandTests.RunAsync(["film", PathOf("both.zamblo"), "-o", PathOf("film.srt"), .. more]);
            Assert.True(code == 0, error);
            return await File.ReadAllTextAsync(PathOf("film.srt"));
        }
        Assert.Contains("MARO: The oven is hot.", await CaptionsAsync(), StringComparison.OrdinalIgnoreCase);
        Assert.Contains("MARO: Der Ofen ist heiß.", await CaptionsAsync("--caption-language", "de"), StringComparison.OrdinalIgnoreCase);
        // A language that nobody has written has what is said.
        Assert.Contains("I am not.", await CaptionsAsync("--caption-language", "fr"), StringComparison.Ordinal);
        Assert.Equal(2, (await CommandTests.RunAsync("film", PathOf("both.zamblo"), "--caption-language", "no language", "-o", PathOf("film.srt"))).Code);
    }
}
