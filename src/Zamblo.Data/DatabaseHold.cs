using Microsoft.Extensions.Logging;
using Npgsql;

namespace Zamblo.Data;

/// <summary>Another studio works with the database.</summary>
public sealed class DatabaseInUseException(string message) : Exception(message);

/// <summary>
/// One studio at a time works with a server's database, as with a data folder: it holds an advisory lock (PostgreSQL 15, 13.3.5), which the server lets go of
/// when its holder's connection ends, however it ends.
/// </summary>
public sealed class DatabaseHold : IAsyncDisposable
{
    // Ours among the locks of a database: the letters of the name.
    private const long Key = 0x5A_41_4D_42_4C_4F;
    private static readonly TimeSpan Look = TimeSpan.FromSeconds(5);

    // A studio that was killed is let go of by the server a moment later.
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(3);

    private readonly DatabaseAddress _address;
    private readonly string _name = $"Zamblo {Guid.NewGuid():N}";
    private NpgsqlConnection? _connection;

    private DatabaseHold(DatabaseAddress address) => _address = address;

    /// <summary>Takes the database.</summary>
    /// <exception cref="DatabaseInUseException">Another studio has it.</exception>
    /// <exception cref="NpgsqlException">It does not answer.</exception>
    public static async Task<DatabaseHold> TakeAsync(DatabaseAddress address, CancellationToken cancel = default)
    {
        var hold = new DatabaseHold(address);
        await hold.ConnectAsync(cancel);
        return hold;
    }

    /// <summary>
    /// Looks now and then whether the connection stands, and takes the database again where it has been broken. Ends when it is told to, or when another
    /// studio has taken the database meanwhile.
    /// </summary>
    /// <exception cref="DatabaseInUseException">Another studio has it now.</exception>
    public async Task KeepAsync(ILogger log, CancellationToken cancel)
    {
        while (!cancel.IsCancellationRequested)
            try
            {
                await Task.Delay(Look, cancel);
                await using var command = _connection?.CreateCommand();
                if (command == null)
                {
                    await ConnectAsync(cancel);
                    log.LogWarning("The database {Database} is there again", _address);
                    continue;
                }
                command.CommandText = "SELECT 1";
                await command.ExecuteNonQueryAsync(cancel);
            }
            catch (OperationCanceledException)
            {
                return;
            }
            catch (Exception e) when (e is NpgsqlException or TimeoutException or InvalidOperationException)
            {
                if (_connection != null)
                    log.LogWarning("The database {Database} does not answer: {Reason}", _address, e.Message);
                await LetGoAsync();
            }
    }

    private async Task ConnectAsync(CancellationToken cancel)
    {
        var to = new NpgsqlConnectionStringBuilder(_address.Connection) { Pooling = false, ApplicationName = _name };
        var connection = new NpgsqlConnection(to.ConnectionString);
        try
        {
            await connection.OpenAsync(cancel);
            await SetAsync(connection, cancel);
            for (var until = DateTime.UtcNow + Patience; ; await Task.Delay(TimeSpan.FromMilliseconds(100), cancel))
            {
                await using var take = connection.CreateCommand();
                take.CommandText = "SELECT pg_try_advisory_lock($1)";
                take.Parameters.Add(new NpgsqlParameter { Value = Key });
                if (await take.ExecuteScalarAsync(cancel) is true)
                    break;
                var holder = await HolderAsync(connection, cancel);
                // A line of our own, broken here and not yet noticed there.
                if (holder is { } own && own.Name == _name)
                    await EndAsync(connection, own.Process, cancel);
                else if (DateTime.UtcNow > until)
                    throw new DatabaseInUseException(
                        $"{_address} is in use by another Zamblo ({holder?.Text ?? "it does not say which"}). Stop that one, or name another database."
                    );
            }
            _connection = connection;
        }
        catch
        {
            await connection.DisposeAsync();
            throw;
        }
    }

    // The server, too, notices before long when the machine at the other end is gone (PostgreSQL 15, 20.3.2).
    private static async Task SetAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        await using var set = connection.CreateCommand();
        set.CommandText = "SET tcp_keepalives_idle = 10; SET tcp_keepalives_interval = 5; SET tcp_keepalives_count = 3";
        await set.ExecuteNonQueryAsync(cancel);
    }

    private static async Task<(string Name, int Process, string Text)?> HolderAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        await using var ask = connection.CreateCommand();
        // A key of 64 bits stands in two halves (PostgreSQL 15, 54.12).
        ask.CommandText = """
            SELECT a.application_name, a.pid, coalesce(host(a.client_addr), 'this machine'), a.backend_start
            FROM pg_locks l JOIN pg_stat_activity a ON a.pid = l.pid
            WHERE l.locktype = 'advisory' AND l.granted AND l.objsubid = 1
              AND l.database = (SELECT oid FROM pg_database WHERE datname = current_database())
              AND (l.classid::bigint << 32 | l.objid::bigint) = $1
            """;
        ask.Parameters.Add(new NpgsqlParameter { Value = Key });
        await using var reader = await ask.ExecuteReaderAsync(cancel);
        return await reader.ReadAsync(cancel)
            ? (reader.GetString(0), reader.GetInt32(1), $"at {reader.GetString(2)}, since {reader.GetDateTime(3):yyyy-MM-dd HH:mm:ss} UTC")
            : null;
    }

    private static async Task EndAsync(NpgsqlConnection connection, int process, CancellationToken cancel)
    {
        await using var end = connection.CreateCommand();
        end.CommandText = "SELECT pg_terminate_backend($1, 1000)";
        end.Parameters.Add(new NpgsqlParameter { Value = process });
        await end.ExecuteNonQueryAsync(cancel);
    }

    private async Task LetGoAsync()
    {
        var connection = _connection;
        _connection = null;
        if (connection != null)
            await connection.DisposeAsync();
    }

    /// <summary>Lets go of it.</summary>
    public ValueTask DisposeAsync() => new(LetGoAsync());
}
