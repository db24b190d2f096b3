using System.Data;
using System.Data.Common;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.EntityFrameworkCore.Storage;
using Npgsql;

namespace Zamblo.Data;

/// <summary>Makes contexts for one database, whichever it is.</summary>
public sealed class ZambloContexts : IDbContextFactory<ZambloContext>
{
    // Half a minute: a server that is started anew is there again by then.
    private const int MostRetries = 8;
    private static readonly TimeSpan LongestWait = TimeSpan.FromSeconds(5);

    private static readonly ShortWaits Waiting = new();
    private readonly Func<ZambloContext> _make;

    /// <param name="address">Which; it is not looked for yet.</param>
    public ZambloContexts(DatabaseAddress address)
    {
        Address = address;
        if (address.IsServer)
        {
            var server = new DbContextOptionsBuilder<PostgresContext>();
            server.UseNpgsql(address.Connection, o => o.EnableRetryOnFailure(MostRetries, LongestWait, errorCodesToAdd: null));
            _make = () => new PostgresContext(server.Options);
            return;
        }
        var file = new DbContextOptionsBuilder<ZambloContext>();
        file.UseSqlite(address.Connection).AddInterceptors(Waiting);
        _make = () => new ZambloContext(file.Options);
    }

    /// <summary>Which database.</summary>
    public DatabaseAddress Address { get; }

    public ZambloContext CreateDbContext() => _make();
}

/// <summary>
/// Whoever waits for another writer of a file looks again after a few milliseconds, as SQLite itself does it (sqlite.org/c3ref/busy_timeout.html), before the
/// provider's own waits of 150 ms begin.
/// </summary>
internal sealed class ShortWaits : DbConnectionInterceptor
{
    private const string Command = "PRAGMA busy_timeout = 5000";

    public override void ConnectionOpened(DbConnection connection, ConnectionEndEventData eventData)
    {
        using var command = connection.CreateCommand();
        command.CommandText = Command;
        command.ExecuteNonQuery();
    }

    public override async Task ConnectionOpenedAsync(DbConnection connection, ConnectionEndEventData eventData, CancellationToken cancellationToken = default)
    {
        await using var command = connection.CreateCommand();
        command.CommandText = Command;
        await command.ExecuteNonQueryAsync(cancellationToken);
    }
}

/// <summary>Work on a database that holds for either kind.</summary>
public static class Databases
{
    /// <summary>
    /// Does something in one transaction, with a context of its own. Where the connection breaks, or others were in the way, it is done again from the
    /// beginning; what is thrown by the work itself takes everything back.
    /// </summary>
    /// <param name="contexts">Of the database.</param>
    /// <param name="work">May run more than once.</param>
    /// <param name="isThere">Whether the last attempt is in after all, though its end was not heard of; null where doing it twice does no harm.</param>
    /// <param name="isolation">How far others may be seen; null for the database's own.</param>
    public static async Task<T> TransactAsync<T>(
        this IDbContextFactory<ZambloContext> contexts,
        Func<ZambloContext, Task<T>> work,
        Func<ZambloContext, Task<bool>>? isThere = null,
        IsolationLevel? isolation = null
    )
    {
        await using var asked = await contexts.CreateDbContextAsync();
        var (answer, hasAnswer) = (default(T), false);
        return await asked
            .Database.CreateExecutionStrategy()
            .ExecuteAsync(async () =>
            {
                await using var db = await contexts.CreateDbContextAsync();
                if (hasAnswer && isThere != null && await isThere(db))
                    return answer!;
                // Nothing is ever taken back in part.
                db.Database.AutoSavepointsEnabled = false;
                await using var transaction = await (isolation is { } level ? db.Database.BeginTransactionAsync(level) : db.Database.BeginTransactionAsync());
                (answer, hasAnswer) = (await work(db), true);
                await CommitAsync(transaction);
                return answer;
            });
    }

    private static async Task CommitAsync(IDbContextTransaction transaction)
    {
        try
        {
            await transaction.CommitAsync();
        }
        catch (ObjectDisposedException e) when (e.InnerException is NpgsqlException broken)
        {
            // The connection had been broken before: said as what it is, it is begun anew.
            throw new NpgsqlException(broken.Message, broken is { IsTransient: true } ? new IOException(broken.Message, broken) : broken);
        }
    }

    /// <summary>Whether a database has refused or does not answer, and may do better in a while.</summary>
    public static bool IsRefusal(Exception e) =>
        e is SqliteException or NpgsqlException or RetryLimitExceededException or DbUpdateException or TimeoutException;

    /// <summary>Whether a database is out of reach, busy or closed to writers just now.</summary>
    public static bool IsAway(Exception e)
    {
        for (var at = e; at != null; at = at.InnerException!)
            switch (at)
            {
                // SQLITE_BUSY, SQLITE_LOCKED, SQLITE_READONLY (sqlite.org/rescode.html).
                case SqliteException { SqliteErrorCode: 5 or 6 or 8 }:
                case RetryLimitExceededException:
                    return true;
                case NpgsqlException npgsql:
                    return npgsql.IsTransient;
            }
        return false;
    }

    /// <summary>Whether a database has no room on its disk: "disk full" (PostgreSQL 15, appendix A), SQLITE_FULL and its like.</summary>
    public static bool IsFull(Exception e)
    {
        // sqlite.org/rescode.html: SQLITE_FULL, and of SQLITE_IOERR those of writing and of making shared memory longer.
        const int full = 13,
            write = 778,
            sharedSize = 4874;
        return e
            is SqliteException { SqliteErrorCode: full }
                or SqliteException { SqliteExtendedErrorCode: write or sharedSize }
                or PostgresException { SqlState: PostgresErrorCodes.DiskFull };
    }
}
