using System.Security.Cryptography;
using System.Text;
using Zamblo.Data;

namespace Zamblo.Storm;

/// <summary>
/// Databases of servers under test, one for each data folder: with ZAMBLO_TEST_DATABASE=postgres they are on a PostgreSQL server of the process's own, so
/// that the same tests run on it as on files.
/// </summary>
public static class TestDatabases
{
    private static readonly Lazy<Task<PostgresServer>> Server = new(StartAsync);
    private static readonly SemaphoreSlim Gate = new(1);
    private static readonly HashSet<string> Made = [];

    /// <summary>Whether databases are on a server.</summary>
    public static bool OnServer { get; } = Environment.GetEnvironmentVariable("ZAMBLO_TEST_DATABASE") == "postgres";

    private static async Task<PostgresServer> StartAsync()
    {
        var server = await PostgresServer.StartAsync(Path.Combine(Path.GetTempPath(), $"zamblo-postgres-{Guid.NewGuid():N}"));
        await using (var db = new ZambloContexts(DatabaseAddress.OfServer(await server.NewAsync("pattern"))).CreateDbContext())
            await DataUpgrade.RunAsync(db);
        Npgsql.NpgsqlConnection.ClearAllPools();
        return server;
    }

    /// <summary>The same for a server within the process; null for a file within the folder.</summary>
    public static async Task<DatabaseAddress?> OfAsync(string data) => await AddressOfAsync(data) is { } server ? DatabaseAddress.OfServer(server) : null;

    /// <summary>Contexts for the rows of a data folder.</summary>
    public static async Task<ZambloContexts> ContextsAsync(string data) => new(await OfAsync(data) ?? DatabaseAddress.OfFile(Path.Combine(data, "zamblo.db")));

    /// <summary>Where the rows of a data folder are; null for a file within it. The same folder has the same database.</summary>
    public static async Task<string?> AddressOfAsync(string data)
    {
        if (!OnServer)
            return null;
        var name = "t" + Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(Path.GetFullPath(data))))[..16];
        var server = await Server.Value;
        await Gate.WaitAsync();
        try
        {
            return Made.Add(name) ? await server.NewAsync(name, "pattern") : server.AddressOf(name);
        }
        finally
        {
            Gate.Release();
        }
    }
}
