using System.Diagnostics;

namespace Zamblo.Storm;

/// <summary>A real worker in a process of its own, so that it can be killed.</summary>
internal sealed class WorkerProcess : IDisposable
{
    private readonly Process _process;

    private WorkerProcess(Process process) => _process = process;

    /// <summary>Starts one; it waits by itself for a studio that is away.</summary>
    /// <param name="studio">Its address.</param>
    /// <param name="key">File of the studio's key.</param>
    /// <param name="data">A folder of its own.</param>
    /// <param name="name">What people call it.</param>
    public static WorkerProcess Start(string studio, string key, string data, string name)
    {
        var program = Path.Combine(ServerProcess.Sources(), "src", "Zamblo.Cli", "bin", Built(), "Zamblo.Cli.dll");
        string[] arguments = [program, "worker", "--studio", studio, "--key", key, "--data", data, "--name", name, "--cores", "1"];
        var process = Process.Start(new ProcessStartInfo("dotnet", arguments) { RedirectStandardError = true, RedirectStandardOutput = true })!;
        process.ErrorDataReceived += (_, _) => { };
        process.OutputDataReceived += (_, _) => { };
        process.BeginErrorReadLine();
        process.BeginOutputReadLine();
        return new WorkerProcess(process);
    }

    // As this was built: Release/net10.0.
    private static string Built()
    {
        var at = new DirectoryInfo(AppContext.BaseDirectory);
        return Path.Combine(at.Parent!.Name, at.Name);
    }

    /// <summary>Ends it as a power cut would.</summary>
    public void Dispose()
    {
        if (!_process.HasExited)
        {
            _process.Kill(entireProcessTree: true);
            _process.WaitForExit();
        }
        _process.Dispose();
    }
}
