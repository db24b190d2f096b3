using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Sockets;
using Npgsql;

namespace Zamblo.Storm;

/// <summary>A PostgreSQL server of Debian's in a folder of its own, on this machine only; it ends with the process that has started it.</summary>
public sealed class PostgresServer : IAsyncDisposable
{
    private const string Debian = "/usr/lib/postgresql";

    // It does not work for root; Debian's package brings this name.
    private const string User = "postgres";

    private readonly string _folder;
    private readonly int _port;
    private Process? _process;

    private PostgresServer(string folder, int port) => (_folder, _port) = (folder, port);

    /// <summary>Why there can be none on this machine; null where there can.</summary>
    public static string? Missing { get; } = Programs() == null ? "PostgreSQL is not installed (Debian's package postgresql)." : null;

    private static string? Programs() =>
        Directory.Exists(Debian)
            ? Directory
                .EnumerateDirectories(Debian)
                .OrderDescending()
                .Select(d => Path.Combine(d, "bin"))
                .FirstOrDefault(d => File.Exists(Path.Combine(d, "initdb")))
            : null;

    /// <summary>Makes one and starts it.</summary>
    /// <param name="folder">Is made, or empty; what is written there is not forced onto the disk.</param>
    public static async Task<PostgresServer> StartAsync(string folder)
    {
        Directory.CreateDirectory(folder);
        if (Environment.UserName == "root")
            await RunAsync("chown", [User, folder]);
        var data = Path.Combine(folder, "data");
        await RunAsync(AsUser(Path.Combine(Programs()!, "initdb"), ["-D", data, "-U", "zamblo", "-A", "trust", "-E", "UTF8", "--locale=C", "--no-sync"]));
        var server = new PostgresServer(folder, FreePort());
        await server.BeginAsync();
        return server;
    }

    /// <summary>A port of this machine that nobody listens on.</summary>
    public static int FreePort()
    {
        using var free = new TcpListener(IPAddress.Loopback, 0);
        free.Start();
        return ((IPEndPoint)free.LocalEndpoint).Port;
    }

    /// <summary>Starts it, again after it was killed.</summary>
    public async Task BeginAsync()
    {
        // What was killed leaves its memory a moment later, and until then nobody else begins in its folder.
        for (var until = DateTime.UtcNow.AddSeconds(60); ; await Task.Delay(100))
        {
            var said = Launch();
            while (!_process!.HasExited)
                try
                {
                    await using var connection = new NpgsqlConnection(Connection("postgres"));
                    await connection.OpenAsync();
                    return;
                }
                catch (NpgsqlException)
                {
                    await Task.Delay(50);
                }
            if (DateTime.UtcNow > until)
                throw new InvalidOperationException($"PostgreSQL does not start: {string.Join(' ', said)}");
        }
    }

    private ConcurrentQueue<string> Launch()
    {
        string[] settings =
        [
            "listen_addresses=127.0.0.1",
            $"port={_port}",
            $"unix_socket_directories={_folder}",
            "fsync=off",
            "max_connections=300",
            "log_min_messages=fatal",
            "restart_after_crash=off",
        ];
        var (program, arguments) = AsUser(
            Path.Combine(Programs()!, "postgres"),
            ["-D", Path.Combine(_folder, "data"), .. settings.SelectMany(s => new[] { "-c", s })]
        );
        // It ends with us, however we end, and its folder with it: then nobody holds the other end of what is read.
        const string bound =
            "exec 3<&0; folder=$1; owner=$2; shift 2; \"$@\" & server=$!; "
            + "(cat <&3; kill -QUIT $server; sleep 1; kill -0 $owner || rm -rf \"$folder\") >/dev/null 2>&1 & wait $server";
        var info = new ProcessStartInfo("sh", ["-c", bound, "sh", _folder, $"{Environment.ProcessId}", program, .. arguments])
        {
            RedirectStandardInput = true,
            RedirectStandardError = true,
            RedirectStandardOutput = true,
        };
        var said = new ConcurrentQueue<string>();
        _process = Process.Start(info)!;
        _process.ErrorDataReceived += (_, e) => said.Enqueue(e.Data ?? "");
        _process.OutputDataReceived += (_, e) => said.Enqueue(e.Data ?? "");
        _process.BeginErrorReadLine();
        _process.BeginOutputReadLine();
        return said;
    }

    /// <summary>Kills it and all that works for it, without a word to anybody.</summary>
    public async Task KillAsync()
    {
        if (_process is not { HasExited: false } process)
            return;
        process.Kill(entireProcessTree: true);
        await process.WaitForExitAsync();
    }

    /// <summary>Seconds of cores that it has taken, with all that works for it.</summary>
    public double CpuSeconds => _process is { HasExited: false } running ? ProcessTimes.OfTree(running) : 0;

    /// <summary>A new database; gives its address.</summary>
    /// <param name="name">Small letters and digits.</param>
    /// <param name="like">Another that it is a copy of, which nobody is connected to; null for an empty one.</param>
    public async Task<string> NewAsync(string name, string? like = null)
    {
        await using var connection = new NpgsqlConnection(Connection("postgres"));
        await connection.OpenAsync();
        await using var command = connection.CreateCommand();
        command.CommandText = $"CREATE DATABASE {name} TEMPLATE {like ?? "template0"}";
        await command.ExecuteNonQueryAsync();
        return AddressOf(name);
    }

    /// <summary>Address of a database.</summary>
    public string AddressOf(string name) => string.Create(CultureInfo.InvariantCulture, $"postgresql://zamblo@127.0.0.1:{_port}/{name}");

    /// <summary>The same, as Npgsql wants it; for a look from outside.</summary>
    public string Connection(string name) =>
        string.Create(CultureInfo.InvariantCulture, $"Host=127.0.0.1;Port={_port};Username=zamblo;Database={name};Pooling=False;Timeout=5");

    private static (string Program, string[] Arguments) AsUser(string program, string[] arguments) =>
        Environment.UserName == "root" ? ("setpriv", [$"--reuid={User}", $"--regid={User}", "--init-groups", program, .. arguments]) : (program, arguments);

    private static Task RunAsync((string Program, string[] Arguments) command) => RunAsync(command.Program, command.Arguments);

    private static async Task RunAsync(string program, string[] arguments)
    {
        using var process = Process.Start(new ProcessStartInfo(program, arguments) { RedirectStandardError = true, RedirectStandardOutput = true })!;
        var error = process.StandardError.ReadToEndAsync();
        await process.StandardOutput.ReadToEndAsync();
        await process.WaitForExitAsync();
        if (process.ExitCode != 0)
            throw new InvalidOperationException($"{Path.GetFileName(program)}: {await error}");
    }

    public async ValueTask DisposeAsync()
    {
        await KillAsync();
        _process?.Dispose();
        // What was killed may write its last a moment later.
        for (var until = DateTime.UtcNow.AddSeconds(10); Directory.Exists(_folder); await Task.Delay(50))
            try
            {
                Directory.Delete(_folder, recursive: true);
            }
            catch (IOException) when (DateTime.UtcNow < until)
            {
                // Once more.
            }
    }
}
