using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using System.Text.RegularExpressions;

namespace Zamblo.Storm;

/// <summary>The real server in a process of its own, so that it can be killed.</summary>
public sealed class ServerProcess : Talk, IAsyncDisposable
{
    private readonly Process _process;
    private readonly ConcurrentQueue<string> _said;

    private ServerProcess(Process process, ConcurrentQueue<string> said, HttpClient client)
        : base(client) => (_process, _said) = (process, said);

    /// <summary>Where it listens.</summary>
    public string Address => Client.BaseAddress!.ToString().TrimEnd('/');

    /// <summary>What it has said of errors.</summary>
    public IReadOnlyCollection<string> Said => _said;

    /// <summary>The most memory that it has held, in bytes.</summary>
    public long PeakBytes
    {
        get
        {
            try
            {
                var line = File.ReadLines($"/proc/{_process.Id}/status").First(l => l.StartsWith("VmHWM", StringComparison.Ordinal));
                return 1024 * long.Parse(Regex.Match(line, @"\d+").Value, CultureInfo.InvariantCulture);
            }
            catch (Exception e) when (e is IOException or InvalidOperationException)
            {
                return 0;
            }
        }
    }

    /// <summary>Seconds of cores that it has taken, with all that it has started.</summary>
    public double CpuSeconds => ProcessTimes.OfTree(_process);

    /// <summary>Starts one and waits until it listens.</summary>
    /// <exception cref="InvalidOperationException">It did not start; with what it said.</exception>
    /// <param name="data">Its folder.</param>
    /// <param name="demo">With the demo.</param>
    /// <param name="environment">Variables for it.</param>
    /// <param name="arguments">Others.</param>
    /// <param name="port">Where it listens; 0 for anywhere.</param>
    /// <param name="said">Told each line that it writes on its output, after the one with its address.</param>
    public static async Task<ServerProcess> StartAsync(
        string data,
        bool demo = false,
        IReadOnlyDictionary<string, string>? environment = null,
        IReadOnlyList<string>? arguments = null,
        Action<string>? said = null,
        int port = 0
    )
    {
        var info = new ProcessStartInfo("dotnet")
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            WorkingDirectory = WebProject(),
        };
        foreach (var a in new[] { Path.Combine(AppContext.BaseDirectory, "Zamblo.Web.dll"), "--urls", $"http://127.0.0.1:{port}", "--data", data })
            info.ArgumentList.Add(a);
        if (!demo)
            info.ArgumentList.Add("--no-demo");
        foreach (var a in arguments ?? [])
            info.ArgumentList.Add(a);
        if (await TestDatabases.AddressOfAsync(data) is { } database)
            info.Environment["ZAMBLO_DATABASE"] = database;
        foreach (var (name, value) in environment ?? new Dictionary<string, string>())
            info.Environment[name] = value;
        var process = Process.Start(info)!;
        var errors = new ConcurrentQueue<string>();
        // Read as it comes: a full pipe would hold the server up.
        process.ErrorDataReceived += (_, e) =>
        {
            if (e.Data != null)
                errors.Enqueue(e.Data);
        };
        process.BeginErrorReadLine();
        var line = await process.StandardOutput.ReadLineAsync().WaitAsync(TimeSpan.FromSeconds(180));
        var address = Regex.Match(line ?? "", @"http://[\d.:]+").Value;
        if (address.Length > 0)
        {
            if (said != null)
                _ = Task.Run(async () =>
                {
                    while (await process.StandardOutput.ReadLineAsync() is { } next)
                        lock (said.Target ?? said)
                            said(next);
                });
            return new ServerProcess(process, errors, await ClientAsync(address));
        }
        await process.WaitForExitAsync();
        throw new InvalidOperationException($"The server did not start: {line}{string.Join('\n', errors)}");
    }

    private static string WebProject() => Path.Combine(Sources(), "src", "Zamblo.Web");

    /// <summary>The folder of all sources.</summary>
    internal static string Sources()
    {
        var at = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(at.FullName, "Zamblo.slnx")))
            at = at.Parent!;
        return at.FullName;
    }

    /// <summary>Ends it as a power cut would: only the server itself is killed, and what it has started ends with it.</summary>
    public async Task KillAsync()
    {
        _process.Kill();
        await _process.WaitForExitAsync();
    }

    /// <summary>Asks it to stop, as a service manager would.</summary>
    public async Task StopAsync()
    {
        using var kill = Process.Start("kill", ["-TERM", _process.Id.ToString(CultureInfo.InvariantCulture)]);
        await _process.WaitForExitAsync().WaitAsync(TimeSpan.FromSeconds(30));
    }

    /// <summary>It stands still for a while, and then finds that the clock has jumped.</summary>
    public async Task FreezeAsync(TimeSpan length)
    {
        var id = _process.Id.ToString(CultureInfo.InvariantCulture);
        using (Process.Start("kill", ["-STOP", id]))
            await Task.Delay(length);
        using var go = Process.Start("kill", ["-CONT", id]);
        await go.WaitForExitAsync();
    }

    public async ValueTask DisposeAsync()
    {
        if (!_process.HasExited)
            await KillAsync();
        _process.Dispose();
        Client.Dispose();
    }
}
