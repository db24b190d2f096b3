using Zamblo.Data;

namespace Zamblo.Web.Tests;

/// <summary>A server that cannot start says why in a sentence, and what to do.</summary>
public sealed class StartTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("zamblo-start-").FullName;

    public void Dispose() => Directory.Delete(_folder, true);

    private static async Task<string> RefusedAsync(ServerOptions options) =>
        StartProblem.Of(await Assert.ThrowsAnyAsync<Exception>(() => ZambloServer.StartAsync(options)), options);

    [Fact]
    public async Task A_folder_has_one_server_and_a_port_too()
    {
        var first = await ZambloServer.StartAsync(new ServerOptions(_folder, "http://127.0.0.1:0", false));
        try
        {
            var second = await RefusedAsync(new ServerOptions(_folder, "http://127.0.0.1:0", false));
            Assert.Contains($"in use by another Zamblo (process {Environment.ProcessId}, since 2", second, StringComparison.Ordinal);
            var elsewhere = Path.Combine(_folder, "other");
            Assert.Contains("listens on", await RefusedAsync(new ServerOptions(elsewhere, first.Urls.First(), false)), StringComparison.Ordinal);
        }
        finally
        {
            await first.StopAsync();
            await first.DisposeAsync();
        }
        // Whoever had it has let go.
        var next = await ZambloServer.StartAsync(new ServerOptions(_folder, "http://127.0.0.1:0", false));
        await next.StopAsync();
        await next.DisposeAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
    }

    [Fact]
    public async Task What_is_no_data_folder_is_said_to_be_none()
    {
        var file = Path.Combine(_folder, "file");
        await File.WriteAllTextAsync(file, "flour");
        Assert.Contains("is a file", await RefusedAsync(new ServerOptions(file, "http://127.0.0.1:0", false)), StringComparison.Ordinal);
        var foreign = Directory.CreateDirectory(Path.Combine(_folder, "foreign")).FullName;
        await File.WriteAllTextAsync(Path.Combine(foreign, "zamblo.db"), new string('x', 8000));
        Assert.Contains("no database of Zamblo's", await RefusedAsync(new ServerOptions(foreign, "http://127.0.0.1:0", false)), StringComparison.Ordinal);
    }

    [PostgresFact]
    public async Task A_database_that_does_not_let_us_in_is_told_in_a_sentence_and_one_that_does_is_held()
    {
        await using var server = await PostgresServer.StartAsync(Path.Combine(Path.GetTempPath(), $"zamblo-postgres-{Guid.NewGuid():N}"));
        ServerOptions Options(string folder, string database) =>
            new(Path.Combine(_folder, folder), "http://127.0.0.1:0", false) { Database = DatabaseAddress.OfServer(database) };
        Assert.Contains("there is no such database", await RefusedAsync(Options("a", server.AddressOf("nowhere"))), StringComparison.Ordinal);
        var address = await server.NewAsync("one");
        var first = await ZambloServer.StartAsync(Options("b", address));
        // Another folder, but the same rows.
        Assert.Contains("one of zamblo@127.0.0.1", await RefusedAsync(Options("c", address)), StringComparison.Ordinal);
        await first.StopAsync();
        await first.DisposeAsync();
        var next = await ZambloServer.StartAsync(Options("c", address));
        await next.StopAsync();
        await next.DisposeAsync();
        await server.KillAsync();
        Assert.Contains("does not answer", await RefusedAsync(Options("d", address)), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("nonsense", false)]
    [InlineData("http://127.0.0.1:99999", false)]
    [InlineData("https://127.0.0.1:5170", false)]
    [InlineData("ftp://127.0.0.1", false)]
    [InlineData(";", false)]
    [InlineData("http://127.0.0.1:5170", true)]
    [InlineData("http://*:5170;http://[::1]:5171", true)]
    public void Addresses_are_looked_at_before_anything_starts(string urls, bool isGood) => Assert.Equal(isGood, StartProblem.OfUrls(urls) == null);
}
