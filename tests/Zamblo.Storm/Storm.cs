using System.Diagnostics;
using System.Net.Http.Json;
using System.Text.RegularExpressions;
using Zamblo.Data;

namespace Zamblo.Storm;

/// <summary>How hard it blows.</summary>
/// <param name="Seed">Of everything that happens by chance.</param>
/// <param name="Length">How long.</param>
/// <param name="Productions">How many are worked on.</param>
/// <param name="Clients">How many work on them.</param>
/// <param name="BetweenKills">How long the server lives between two kills, on average.</param>
/// <param name="Films">So many films are ordered at the most.</param>
/// <param name="Steps">So many edits of each production are taken back and made again.</param>
/// <param name="DiskBytes">A file system of its own of this size, where this machine allows one; null for the ordinary disk.</param>
public sealed record StormOptions(int Seed, TimeSpan Length, int Productions, int Clients, TimeSpan BetweenKills, int Films, int Steps, long? DiskBytes)
{
    /// <summary>Rows are on a PostgreSQL server, which is killed, too.</summary>
    public bool OnServer { get; init; }

    /// <summary>So many workers help, and are killed, too.</summary>
    public int Workers { get; init; }
}

/// <summary>What came of it.</summary>
/// <param name="Counts">What happened how often, in words.</param>
/// <param name="Losses">What should not be: any of these is a defect.</param>
public sealed record StormReport(IReadOnlyList<(string What, long Count)> Counts, IReadOnlyList<string> Losses);

/// <summary>
/// A running server is edited, fed and killed at random; the disk fills, a second server tries the same folder, the server stands still and finds that
/// time has passed. Then everything that was acknowledged is looked for.
/// </summary>
public sealed partial class Storm(StormOptions options, Action<string> tell)
{
    private readonly Random _random = new(options.Seed);
    private readonly Ledger _ledger = new();
    private readonly List<string> _losses = [];
    private volatile ServerProcess? _server;
    private int _breaks,
        _kills,
        _fills,
        _seconds,
        _freezes,
        _databaseKills,
        _workerKills;
    private long _peak;
    private readonly int _port = PostgresServer.FreePort();
    private PostgresServer? _database;
    private Dictionary<string, string>? _environment;
    private DatabaseAddress? _rows;
    private WorkerProcess?[] _workers = [];
    private FlakyWire? _toDatabase,
        _toStudio;
    private readonly Dictionary<string, int> _refusals = [];

    /// <summary>Blows, and looks at what is left.</summary>
    public async Task<StormReport> RunAsync()
    {
        var folder = Directory.CreateTempSubdirectory("zamblo-storm-").FullName;
        var isOwnDisk = options.DiskBytes is { } bytes && Mount(folder, bytes);
        if (options.DiskBytes != null && !isOwnDisk)
            tell("no file system of its own is allowed here: the disk does not fill");
        try
        {
            var data = Path.Combine(folder, "data");
            if (options.OnServer)
            {
                _database = await PostgresServer.StartAsync(Path.Combine(Path.GetTempPath(), $"zamblo-postgres-{Guid.NewGuid():N}"));
                var address = await _database.NewAsync("storm");
                _rows = DatabaseAddress.OfServer(address);
                // The studio reaches it over a wire that breaks; we look at it past that.
                _toDatabase = new FlakyWire(new Uri(address).Port);
                _environment = new() { ["ZAMBLO_DATABASE"] = new UriBuilder(address) { Port = _toDatabase.Port }.Uri.ToString() };
            }
            var rows = _rows == null ? await TestDatabases.ContextsAsync(data) : new ZambloContexts(_rows);
            _server = await StartAsync(data);
            _toStudio = new FlakyWire(_port);
            _workers = new WorkerProcess?[options.Workers];
            for (var i = 0; i < _workers.Length; i++)
                StartWorker(folder, data, i);
            var fixtures = new List<Fixture>();
            for (var i = 0; i < options.Productions; i++)
                fixtures.Add(i == 0 ? await Fixture.MakeAsync(_server) : await fixtures[0].CopyAsync());
            // Small pictures: what is in them is tried elsewhere.
            foreach (var fixture in fixtures)
                await _server.PatchAsync("/api/productions/" + fixture.Production, new { size = "480x270" });
            using var stop = new CancellationTokenSource();
            var clients = Enumerable
                .Range(0, options.Clients)
                .Select(n => new StormClient(n, () => _server, _ledger, fixtures[n % fixtures.Count], options).WorkAsync(stop.Token))
                .ToArray();
            await BlowAsync(folder, data, isOwnDisk, fixtures);
            await stop.CancelAsync();
            await Task.WhenAll(clients);
            _losses.AddRange(_ledger.Faults);
            var aftermath = new Aftermath(_server!, _ledger, data, rows, options.Steps, tell);
            _losses.AddRange(await aftermath.LookAsync(fixtures));
            if (options.Workers > 0)
                _losses.AddRange(await aftermath.WorkersAsync(fixtures[0], StopWorkers));
            _peak = Math.Max(_peak, _server!.PeakBytes);
            NoteErrors(_server);
            await _server.KillAsync();
            _losses.AddRange(await Aftermath.DatabaseAsync(rows));
            // At the next start everything temporary goes.
            _server = await StartAsync(data);
            _losses.AddRange(Aftermath.Litter(data));
            await _server.StopAsync();
            _losses.AddRange(Aftermath.Orphans(data));
            if (_losses.Count > 0)
                _losses.Add($"(the storm's seed was {options.Seed})");
            return new StormReport(
                [
                    ("kills", _kills),
                    ("edits acknowledged", _ledger.Edits),
                    ("requests cut off by a kill", _ledger.Cut),
                    ("requests refused on a full disk", _ledger.Full),
                    ("requests refused while the database was away", _ledger.Away),
                    ("good files", _ledger.Uploads),
                    ("hostile files and scripts", _ledger.Hostile),
                    ("lines ordered", _ledger.Lines.Count),
                    ("films ordered", _ledger.Films.Count),
                    ("films looked at frame by frame", aftermath.Films),
                    ("edits taken back and made again", aftermath.Undone),
                    ("full disks", _fills),
                    ("second servers", _seconds),
                    ("standstills", _freezes),
                    ("kills of the database", _databaseKills),
                    ("kills of workers", _workerKills),
                    ("breaks of the wires to database and workers", _breaks),
                    .. _refusals.Select(r => ($"refused: {r.Key}", (long)r.Value)),
                    ("most memory in MB", _peak >> 20),
                ],
                _losses
            );
        }
        finally
        {
            StopWorkers();
            if (_server != null)
                await _server.DisposeAsync();
            foreach (var wire in (FlakyWire?[])[_toDatabase, _toStudio])
                if (wire != null)
                    await wire.DisposeAsync();
            if (_database != null)
                await _database.DisposeAsync();
            Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
            if (isOwnDisk)
                Run("umount", "-l", folder);
            Directory.Delete(folder, true);
        }
    }

    private Task<ServerProcess> StartAsync(string data) => ServerProcess.StartAsync(data, environment: _environment, port: _port);

    private void StartWorker(string folder, string data, int i) =>
        _workers[i] = WorkerProcess.Start(
            $"http://127.0.0.1:{_toStudio!.Port}",
            Path.Combine(data, "worker-key"),
            Path.Combine(folder, $"worker-{i}"),
            $"Worker {i}"
        );

    private void StopWorkers()
    {
        for (var i = 0; i < _workers.Length; i++)
        {
            _workers[i]?.Dispose();
            _workers[i] = null;
        }
    }

    // What a studio of many machines loses beside itself: its database, a worker.
    private async Task KillOthersAsync(string folder, string data)
    {
        if (_database != null)
        {
            _databaseKills++;
            await _database.KillAsync();
            await Task.Delay(_random.Next(1500));
            await _database.BeginAsync();
        }
        if (_workers.Length > 0)
        {
            _workerKills++;
            var i = _random.Next(_workers.Length);
            _workers[i]?.Dispose();
            StartWorker(folder, data, i);
        }
    }

    // The network goes away under what is being sent, or nothing gets through for a while.
    private Task BreakWiresAsync()
    {
        _breaks++;
        TimeSpan Length() => TimeSpan.FromMilliseconds(_random.Next(2500));
        return Task.WhenAll(
            ((FlakyWire?[])[_toDatabase, _toStudio]).OfType<FlakyWire>().Select(w => _random.Next(3) == 0 ? w.StallAsync(Length()) : w.BreakAsync(Length()))
        );
    }

    private async Task BlowAsync(string folder, string data, bool isOwnDisk, IReadOnlyList<Fixture> fixtures)
    {
        var clock = Stopwatch.StartNew();
        while (clock.Elapsed < options.Length)
        {
            await Task.Delay(options.BetweenKills * (0.5 + _random.NextDouble()));
            switch (_random.Next(6))
            {
                case 0 when isOwnDisk:
                    _fills++;
                    await FillAsync(folder, fixtures[0]);
                    break;
                case 1:
                    _seconds++;
                    await SecondAsync(data);
                    break;
                case 2:
                    _freezes++;
                    await _server!.FreezeAsync(TimeSpan.FromSeconds(1));
                    break;
                case 3 when _database != null || _workers.Length > 0:
                    await BreakWiresAsync();
                    continue;
                case 4 when _database != null || _workers.Length > 0:
                    await KillOthersAsync(folder, data);
                    // Everybody goes on, with the same studio.
                    continue;
            }
            _kills++;
            var server = _server!;
            _server = null;
            _peak = Math.Max(_peak, server.PeakBytes);
            await server.KillAsync();
            NoteErrors(server);
            await server.DisposeAsync();
            _server = await StartAsync(data);
            if (_kills % 10 == 0)
                tell($"{clock.Elapsed.TotalMinutes:0.0} min: {_kills} kills, {_ledger.Edits} edits, {_ledger.Hostile} hostile files");
        }
        if (isOwnDisk && _fills == 0)
        {
            _fills++;
            await FillAsync(folder, fixtures[0]);
        }
    }

    // The last of the disk goes to somebody else for a while.
    private async Task FillAsync(string folder, Fixture fixture)
    {
        var path = Path.Combine(folder, "somebody-elses");
        try
        {
            await using var file = File.Create(path);
            var block = new byte[1 << 20];
            while (true)
                await file.WriteAsync(block);
        }
        catch (IOException)
        {
            // Full.
        }
        // Work is refused now, but an edit goes in: something is held back for it.
        for (var i = 0; i < 3; i++)
        {
            using var response = await _server!.Client.PatchAsJsonAsync($"/api/scenes/{fixture.Ids["scene"]}", new { gap = 0.2 + i / 10.0 });
            if (!response.IsSuccessStatusCode)
                _losses.Add($"an edit was refused on a full disk: {(int)response.StatusCode}");
            await Task.Delay(TimeSpan.FromSeconds(1));
        }
        File.Delete(path);
        // Until there is something to hold back again.
        await Task.Delay(TimeSpan.FromSeconds(1));
    }

    private async Task SecondAsync(string data)
    {
        try
        {
            await using var second = await ServerProcess.StartAsync(data, environment: _environment);
            _losses.Add("a second server started on the same folder");
        }
        catch (InvalidOperationException e)
        {
            if (!e.Message.Contains("is in use by another Zamblo", StringComparison.Ordinal))
                _losses.Add($"a second server said: {e.Message}");
        }
    }

    private void NoteErrors(ServerProcess server)
    {
        // Why something was refused, by the kind of address.
        foreach (var line in server.Said.Where(l => l.Contains(" is refused: ", StringComparison.Ordinal)))
        {
            var reason = Ids().Replace(line.Trim(), "…");
            _refusals[reason] = _refusals.GetValueOrDefault(reason) + 1;
        }
        foreach (
            var line in server.Said.Where(l => l.StartsWith("fail:", StringComparison.Ordinal) || l.Contains("Unhandled", StringComparison.Ordinal)).Take(5)
        )
            _losses.Add($"the server said: {line} {string.Join(' ', server.Said.SkipWhile(l => l != line).Skip(1).Take(3))}");
    }

    [GeneratedRegex("[0-9a-f]{8}-[0-9a-f-]{27}")]
    private static partial Regex Ids();

    private static bool Mount(string folder, long bytes) => Run("mount", "-t", "tmpfs", "-o", $"size={bytes}", "tmpfs", folder);

    private static bool Run(string program, params string[] arguments)
    {
        try
        {
            using var process = Process.Start(new ProcessStartInfo(program, arguments) { RedirectStandardError = true });
            process!.WaitForExit();
            return process.ExitCode == 0;
        }
        catch (System.ComponentModel.Win32Exception)
        {
            return false;
        }
    }
}
