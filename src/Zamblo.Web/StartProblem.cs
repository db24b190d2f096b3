using System.Net.Sockets;
using Microsoft.Data.Sqlite;
using Npgsql;
using Zamblo.Data;
using Zamblo.Studio.Assets;

namespace Zamblo.Web;

/// <summary>Why the server did not start, in a sentence: what happened, and what to do.</summary>
internal static class StartProblem
{
    /// <summary>What is wrong with an address to listen on, or null.</summary>
    public static string? OfUrls(string urls)
    {
        foreach (var url in urls.Split(';', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
            if (ServerOptions.UriOf(url) is not { Scheme: "http" or "https" } uri)
                return $"\"{url}\" is no address to listen on: write for example http://127.0.0.1:5170.";
            else if (uri.Scheme == "https")
                return $"\"{url}\": Zamblo speaks plain HTTP. Put a reverse proxy with a certificate in front of it.";
        return urls.Trim(';', ' ').Length == 0 ? "There is no address to listen on: write for example --urls http://127.0.0.1:5170." : null;
    }

    /// <summary>The sentence.</summary>
    /// <param name="e">What was thrown.</param>
    /// <param name="options">With which the server was to start.</param>
    public static string Of(Exception e, ServerOptions options)
    {
        var data = Path.GetFullPath(options.Data);
        return e switch
        {
            DataTooOldException or DataInUseException or DatabaseInUseException => e.Message,
            _ when DiskFullException.Is(e) => $"the disk of {data} is full. Free some space and start again; nothing that was there is lost.",
            _ when options.Database is { } database && Find<NpgsqlException>(e) is { } refused => $"{database}: " + OfServer(refused),
            _ when Find<SocketException>(e) is { } socket => socket.SocketErrorCode == SocketError.AddressAlreadyInUse
                ? $"something else listens on {options.Urls} already. Stop it, or choose another address with --urls."
                : $"nothing can listen on {options.Urls} here ({socket.Message}). Choose another address with --urls.",
            _ when Find<SqliteException>(e) is { } sqlite => sqlite.SqliteErrorCode switch
            {
                // sqlite.org/rescode.html
                26 or 11 => $"{Path.Combine(data, "zamblo.db")} is no database of Zamblo's, or is damaged. Put a backup in its place, or name another "
                    + $"folder with --data.",
                8 or 14 => $"{data} cannot be written. Change its permissions, or name another folder with --data.",
                _ => $"the database in {data} does not open ({sqlite.Message}).",
            },
            IOException when File.Exists(data) => $"{data} is a file. Name a folder with --data.",
            UnauthorizedAccessException or IOException =>
                $"{data} cannot be written ({e.Message}). Change its permissions, or name another folder with --data.",
            _ => e.Message,
        };
    }

    // PostgreSQL 15, appendix A.
    private static string OfServer(NpgsqlException e) =>
        (e as PostgresException)?.SqlState switch
        {
            PostgresErrorCodes.InvalidPassword or PostgresErrorCodes.InvalidAuthorizationSpecification =>
                "the server lets nobody in with this name and password. They stand in the address, or in PGPASSWORD.",
            PostgresErrorCodes.InvalidCatalogName => "there is no such database. Make it (createdb), or name another one with --database.",
            PostgresErrorCodes.InsufficientPrivilege => "this name may not make tables there. Let it own the database.",
            null => $"the server does not answer ({e.Message}). Start it, or name another one with --database.",
            _ => $"it does not open ({e.Message}).",
        };

    private static T? Find<T>(Exception? e)
        where T : Exception
    {
        for (; e != null; e = e.InnerException)
            if (e is T found)
                return found;
        return null;
    }
}
