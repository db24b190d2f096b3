using System.Reflection;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Xunit.Sdk;
using Zamblo.Storm;

namespace Zamblo.Data.Tests;

/// <summary>A theory's row for a file of SQLite's.</summary>
[AttributeUsage(AttributeTargets.Method)]
public sealed class OnFileAttribute : DataAttribute
{
    public override IEnumerable<object[]> GetData(MethodInfo testMethod) =>
        [
            [false],
        ];
}

/// <summary>A theory's row for a PostgreSQL server; left out, with the reason, on a machine without one.</summary>
[AttributeUsage(AttributeTargets.Method)]
public sealed class OnServerAttribute : DataAttribute
{
    public OnServerAttribute() => Skip = PostgresServer.Missing;

    public override IEnumerable<object[]> GetData(MethodInfo testMethod) =>
        [
            [true],
        ];
}

/// <summary>Databases of either kind for a test, with all tables and nothing in them.</summary>
public sealed class Databases(string folder) : IDisposable
{
    private static readonly Lazy<Task<PostgresServer>> Server = new(StartAsync);
    private static int _names;

    // One server for all tests; a new database is a copy of one that has its tables.
    private static async Task<PostgresServer> StartAsync()
    {
        var place = Path.Combine(Path.GetTempPath(), $"zamblo-postgres-{Guid.NewGuid():N}");
        var server = await PostgresServer.StartAsync(place);
        await using (var db = new ZambloContexts(DatabaseAddress.OfServer(await server.NewAsync("pattern"))).CreateDbContext())
            await DataUpgrade.RunAsync(db);
        Npgsql.NpgsqlConnection.ClearAllPools();
        return server;
    }

    /// <summary>Whether there is a server at all.</summary>
    public static bool HasServer => PostgresServer.Missing == null;

    public async Task<ZambloContexts> NewAsync(bool onServer)
    {
        var name = $"t{Interlocked.Increment(ref _names)}";
        if (onServer)
            return new ZambloContexts(DatabaseAddress.OfServer(await (await Server.Value).NewAsync(name, "pattern")));
        var contexts = OfFile(name + ".db");
        await using var db = contexts.CreateDbContext();
        await db.Database.MigrateAsync();
        return contexts;
    }

    /// <summary>The server itself, to be killed: one of the caller's own.</summary>
    public static Task<PostgresServer> OwnServerAsync() => PostgresServer.StartAsync(Path.Combine(Path.GetTempPath(), $"zamblo-postgres-{Guid.NewGuid():N}"));

    public ZambloContexts OfFile(string name) => new(DatabaseAddress.OfFile(Path.Combine(folder, name)));

    public void Dispose()
    {
        SqliteConnection.ClearAllPools();
        Directory.Delete(folder, true);
    }
}
