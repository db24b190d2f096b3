using System.Diagnostics;
using System.Text.RegularExpressions;

namespace Zamblo.Storm;

/// <summary>The real server in a process of its own, so that it can be killed.</summary>
public sealed class ServerProcess : Talk, IAsyncDisposable
{
    private readonly Process _process;

    private ServerProcess(Process process, HttpClient client)
        : base(client) => _process = process;

    public string Address => Client.BaseAddress!.ToString().TrimEnd('/');

    public static async Task<ServerProcess> StartAsync(string data, bool demo = false, IReadOnlyDictionary<string, string>? environment = null)
    {
        var info = new ProcessStartInfo("dotnet")
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            WorkingDirectory = WebProject(),
        };
        foreach (var a in new[] { Path.Combine(AppContext.BaseDirectory, "Zamblo.Web.dll"), "--urls", "http://127.0.0.1:0", "--data", data })
            info.ArgumentList.Add(a);
        if (!demo)
            info.ArgumentList.Add("--no-demo");
        foreach (var (name, value) in environment ?? new Dictionary<string, string>())
            info.Environment[name] = value;
        var process = Process.Start(info)!;
        var line = await process.StandardOutput.ReadLineAsync().WaitAsync(TimeSpan.FromSeconds(60));
        var address = Regex.Match(line ?? "", @"http://[\d.:]+").Value;
        if (address.Length == 0)
            throw new InvalidOperationException("The server did not start: " + line + await process.StandardError.ReadToEndAsync());
        return new ServerProcess(process, await ClientAsync(address));
    }

    private static string WebProject()
    {
        var at = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(at.FullName, "Zamblo.slnx")))
            at = at.Parent!;
        return Path.Combine(at.FullName, "src", "Zamblo.Web");
    }

    /// <summary>Ends it as a power cut would.</summary>
    public async Task KillAsync()
    {
        _process.Kill(entireProcessTree: true);
        await _process.WaitForExitAsync();
    }

    public async ValueTask DisposeAsync()
    {
        if (!_process.HasExited)
            await KillAsync();
        _process.Dispose();
        Client.Dispose();
    }
}
