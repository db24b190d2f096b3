namespace Zamblo.Media;

/// <summary>Runs our host of synthesis engines (Zamblo.SpeechHost) in a sandbox.</summary>
internal static class SpeechEngine
{
    // Where the runtime of this program lies; the host runs on the same.
    private static readonly string RuntimeFolder = Path.GetFullPath(
        Path.Combine(System.Runtime.InteropServices.RuntimeEnvironment.GetRuntimeDirectory(), "..", "..", "..")
    );

    /// <summary>Runs it to its end.</summary>
    /// <param name="arguments">See the host.</param>
    /// <param name="input">Given to it, or null for none.</param>
    /// <param name="limit">It is killed after this time.</param>
    /// <param name="cancel">It is killed when this is set.</param>
    /// <param name="reads">Files beside its own that it may read.</param>
    /// <param name="writes">The folder that it may change, or null.</param>
    /// <param name="who">What stopped, if it does.</param>
    /// <exception cref="MediaException">It failed; its own sentence where it has one.</exception>
    public static async Task<OutsideProgram.Result> RunAsync(
        string[] arguments,
        byte[]? input,
        TimeSpan limit,
        CancellationToken cancel,
        string[]? reads = null,
        string? writes = null,
        string who = "The speech engine espeak-ng"
    )
    {
        var host = Path.Combine(AppContext.BaseDirectory, "Zamblo.SpeechHost.dll");
        var files = new SandboxFiles([AppContext.BaseDirectory, RuntimeFolder, .. reads ?? []], writes == null ? [] : [writes]);
        var result = await OutsideProgram.RunAsync("dotnet", [host, .. arguments], input, limit, 64 << 20, cancel, files: files);
        if (result.ExitCode == 0)
            return result;
        var said = result.Error.Trim();
        throw new MediaException(
            result.ExitCode is 1 or 3 && said.Length > 0
                ? said.Split('\n')[^1]
                : $"{who} stopped unexpectedly" + (said.Length > 0 ? ": " + said.Split('\n')[0] : ".")
        );
    }
}
