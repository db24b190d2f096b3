using System.Web;
using Npgsql;

namespace Zamblo.Data;

/// <summary>Which database rows are kept in: a file of SQLite's, or one of a PostgreSQL server's.</summary>
public sealed record DatabaseAddress
{
    private DatabaseAddress(bool isServer, string connection, string shown) => (IsServer, Connection, Shown) = (isServer, connection, shown);

    /// <summary>Whether it is on a PostgreSQL server.</summary>
    public bool IsServer { get; }

    /// <summary>As the provider wants it; may hold a password.</summary>
    internal string Connection { get; }

    private string Shown { get; }

    /// <summary>As people may read it: without its password.</summary>
    public override string ToString() => Shown;

    /// <summary>The address that stands in ZAMBLO_DATABASE, where none is named otherwise; null for a file.</summary>
    public static string? OfEnvironment => Environment.GetEnvironmentVariable("ZAMBLO_DATABASE") is { Length: > 0 } address ? address : null;

    /// <summary>A file: with a write-ahead log, foreign keys on.</summary>
    public static DatabaseAddress OfFile(string path) => new(false, $"Data Source={path};Foreign Keys=True;Default Timeout=30", path);

    /// <summary>
    /// A database of a server, named by a URI as PostgreSQL's own programs take it (PostgreSQL 15, 34.1.1.2): postgresql://NAME@HOST:PORT/DATABASE, with
    /// host, port, user, password, dbname, sslmode and sslrootcert as parameters. A password that does not stand there is looked for in PGPASSWORD and in
    /// the file of passwords (~/.pgpass).
    /// </summary>
    /// <exception cref="FormatException">It is no such address; the message is a sentence.</exception>
    public static DatabaseAddress OfServer(string uri)
    {
        if (!Uri.TryCreate(uri, UriKind.Absolute, out var parsed) || parsed.Scheme is not ("postgresql" or "postgres"))
            throw new FormatException("This is no address of a database: write for example postgresql://zamblo@db.example/zamblo.");
        var to = new NpgsqlConnectionStringBuilder
        {
            Host = parsed.Host.Length > 0 ? parsed.Host.Trim('[', ']') : "localhost",
            Database = Uri.UnescapeDataString(parsed.AbsolutePath.TrimStart('/')),
            // A server that is gone is noticed, whoever holds the line.
            KeepAlive = 10,
            Timeout = 5,
            CommandTimeout = 30,
            MaxPoolSize = 60,
            ApplicationName = "Zamblo",
        };
        if (parsed.Port > 0)
            to.Port = parsed.Port;
        var who = parsed.UserInfo.Split(':', 2);
        if (who[0].Length > 0)
            to.Username = Uri.UnescapeDataString(who[0]);
        if (who.Length > 1)
            to.Password = Uri.UnescapeDataString(who[1]);
        var given = HttpUtility.ParseQueryString(parsed.Query);
        foreach (var name in given.AllKeys)
            Set(to, name ?? "", given[name] ?? "");
        if (to.Database is not { Length: > 0 } database)
            throw new FormatException("The address names no database: write for example postgresql://zamblo@db.example/zamblo.");
        var user = to.Username is { Length: > 0 } named ? named + "@" : "";
        return new(true, to.ConnectionString, $"{database} of {user}{to.Host}:{to.Port}");
    }

    private static void Set(NpgsqlConnectionStringBuilder to, string name, string value)
    {
        try
        {
            switch (name)
            {
                case "host":
                    to.Host = value;
                    break;
                case "port":
                    to.Port = int.Parse(value, System.Globalization.CultureInfo.InvariantCulture);
                    break;
                case "user":
                    to.Username = value;
                    break;
                case "password":
                    to.Password = value;
                    break;
                case "dbname":
                    to.Database = value;
                    break;
                case "sslmode":
                    to.SslMode = Enum.Parse<SslMode>(value.Replace("-", "", StringComparison.Ordinal), ignoreCase: true);
                    break;
                case "sslrootcert":
                    to.RootCertificate = value;
                    break;
                default:
                    throw new FormatException($"\"{name}\" is not known in an address of a database.");
            }
        }
        catch (Exception e) when (e is ArgumentException or OverflowException || e is FormatException && name == "port")
        {
            throw new FormatException($"\"{value}\" is no {name} of a database.");
        }
    }
}
