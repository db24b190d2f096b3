using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;
using Zamblo.Storm;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Scenes;

namespace Zamblo.Media.Tests;

/// <summary>Everything of a studio in one file, and back; also from a file to a PostgreSQL server.</summary>
[Collection("ffmpeg")]
public class KeepCommandTests : InFolder
{
    internal const string Play = "MARO\nThe oven is hot, Bubb.\n\nBUBB\nI do not care. I am hungry!\n";

    private static Task<(int Code, string Output, string Error)> RunAsync(params string[] arguments) => CommandTests.RunAsync(arguments);

    [Fact]
    public async Task A_backup_needs_productions_and_a_restore_an_empty_folder()
    {
        var (code, _, error) = await RunAsync("backup", PathOf("a.zip"), "--data", PathOf("nothing"));
        Assert.Equal((1, $"There are no productions in \"{PathOf("nothing")}\"."), (code, error.Trim()));
        await File.WriteAllTextAsync(PathOf("no.zip"), "no zip");
        (code, _, error) = await RunAsync("restore", PathOf("no.zip"), "--data", PathOf("new"));
        Assert.Equal((1, $"\"{PathOf("no.zip")}\" is no backup, or it is damaged."), (code, error.Trim()));
        Directory.CreateDirectory(PathOf("full"));
        await File.WriteAllTextAsync(PathOf("full/zamblo.db"), "");
        (code, _, error) = await RunAsync("restore", PathOf("no.zip"), "--data", PathOf("full"));
        Assert.Equal(1, code);
        Assert.Contains("has productions already", error);
    }

    [Fact]
    public async Task What_is_backed_up_is_there_again_after_a_restore()
    {
        await FillAsync();
        Assert.Equal(0, (await RunAsync("restore", PathOf("all.zip"), "--data", PathOf("again"))).Code);
        Assert.Equal(await ManifestAsync(PathOf("data")), await ManifestAsync(PathOf("again")));
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
    }

    [PostgresFact]
    public async Task It_goes_to_a_server_and_back_into_a_file_and_nowhere_else()
    {
        await FillAsync();
        await using var server = await PostgresServer.StartAsync(Path.Combine(Path.GetTempPath(), $"zamblo-postgres-{Guid.NewGuid():N}"));
        var address = await server.NewAsync("keep");
        async Task<string> SaysAsync(params string[] arguments)
        {
            var (code, _, error) = await RunAsync([.. arguments, "--database", address]);
            return $"{code} {error}";
        }
        Assert.StartsWith("0 ", await SaysAsync("restore", PathOf("all.zip"), "--data", PathOf("there")), StringComparison.Ordinal);
        Assert.False(File.Exists(PathOf("there/zamblo.db")));
        Assert.Equal(await ManifestAsync(PathOf("data")), await ManifestAsync(PathOf("there"), DatabaseAddress.OfServer(address)));
        // It is not empty any more.
        Assert.StartsWith(
            "1 There are productions in that database",
            await SaysAsync("restore", PathOf("all.zip"), "--data", PathOf("x")),
            StringComparison.Ordinal
        );
        Assert.StartsWith("0 ", await SaysAsync("backup", PathOf("back.zip"), "--data", PathOf("there")), StringComparison.Ordinal);
        Assert.Equal(0, (await RunAsync("restore", PathOf("back.zip"), "--data", PathOf("back"))).Code);
        Assert.Equal(await ManifestAsync(PathOf("data")), await ManifestAsync(PathOf("back")));
        address = server.AddressOf("nowhere");
        Assert.StartsWith("1 nowhere of zamblo@127.0.0.1", await SaysAsync("backup", PathOf("no.zip"), "--data", PathOf("there")), StringComparison.Ordinal);
        address = "mysql://x/y";
        Assert.StartsWith(
            "1 This is no address of a database",
            await SaysAsync("backup", PathOf("no.zip"), "--data", PathOf("there")),
            StringComparison.Ordinal
        );
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
    }

    // A studio with a production in it, backed up while its database is in use.
    private async Task FillAsync()
    {
        await File.WriteAllTextAsync(PathOf("play.txt"), Play);
        Assert.Equal(0, (await RunAsync("film", PathOf("play.txt"), "-o", PathOf("play.zamblo"))).Code);
        await using var first = Studio(PathOf("data"));
        await using (var db = await first.GetRequiredService<IDbContextFactory<ZambloContext>>().CreateDbContextAsync())
            await DataUpgrade.RunAsync(db);
        await using var file = File.OpenRead(PathOf("play.zamblo"));
        await first.GetRequiredService<ProductionArchive>().ReadAsync(file);
        var (code, _, error) = await RunAsync("backup", PathOf("all.zip"), "--data", PathOf("data"));
        Assert.True(code == 0, error);
    }

    private static ServiceProvider Studio(string folder, DatabaseAddress? database = null) =>
        new ServiceCollection().AddLogging().AddStudio(new DataFolder(folder), database).BuildServiceProvider();

    // Names all that is seen in the first scene.
    private static async Task<string> ManifestAsync(string folder, DatabaseAddress? database = null)
    {
        await using var studio = Studio(folder, database);
        var production = Assert.Single((await studio.GetRequiredService<ProductionList>().ListAsync(0, 10, null, ShelfSight.Everything)).Cards);
        var scene = await studio.GetRequiredService<ProductionList>().FirstSceneAsync(production.Id);
        var loaded = await studio.GetRequiredService<SceneDesk>().LoadAsync(scene);
        Assert.All(loaded.Evaluated.Lines, l => Assert.NotNull(l.Speech));
        return loaded.Stage.Manifest();
    }
}
