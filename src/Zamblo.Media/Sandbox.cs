namespace Zamblo.Media;

/// <summary>The files that a program may see, beside itself and the system's libraries. Nothing else is there for it, and no network.</summary>
/// <param name="Reads">Files and folders that it may read.</param>
/// <param name="Writes">Files and folders that it may change; they exist.</param>
public sealed record SandboxFiles(IReadOnlyList<string> Reads, IReadOnlyList<string> Writes)
{
    /// <summary>Standard input and output only.</summary>
    public static SandboxFiles None { get; } = new([], []);

    /// <summary>One file to read.</summary>
    public static SandboxFiles Reading(string path) => new([path], []);

    /// <summary>One folder to write into.</summary>
    public static SandboxFiles Writing(string folder) => new([], [folder]);
}

/// <summary>Puts a command into a sandbox: Debian's bubblewrap where it is there and allowed, else only bound to its parent's life.</summary>
internal static class Sandbox
{
    // More memory than any of our programs has ever taken, in bytes.
    private const long Memory = 6L << 30;

    private static readonly Lazy<bool> IsThere = new(() => Works("bwrap", [.. Walls(SandboxFiles.None), "--", "true"]));
    private static readonly Lazy<bool> HasSetpriv = new(() => Works("setpriv", ["--pdeathsig", "KILL", "true"]));

    /// <summary>Whether programs are really shut in on this machine.</summary>
    public static bool IsUsable => IsThere.Value;

    /// <summary>The command that runs a program in its sandbox.</summary>
    /// <param name="program">Full path.</param>
    /// <param name="arguments">Its arguments.</param>
    /// <param name="files">What it may see; null runs it in the open.</param>
    public static (string Program, IReadOnlyList<string> Arguments) Wrap(string program, IReadOnlyList<string> arguments, SandboxFiles? files)
    {
        // A runtime with a garbage collector reserves far more than it takes: of that only what is written to counts.
        string[] limits = ["prlimit", Path.GetFileName(program) == "dotnet" ? $"--data={Memory}" : $"--as={Memory}", "--core=0"];
        if (files != null && IsUsable)
        {
            // What is not part of the system is shown by its folder.
            var own = program.StartsWith("/usr/", StringComparison.Ordinal) ? files : files with { Reads = [.. files.Reads, Path.GetDirectoryName(program)!] };
            return ("bwrap", [.. Walls(own), "--", .. limits, program, .. arguments]);
        }
        return HasSetpriv.Value ? ("setpriv", ["--pdeathsig", "KILL", "--", .. limits, program, .. arguments]) : (program, arguments);
    }

    private static IEnumerable<string> Walls(SandboxFiles files)
    {
        string[] walls =
        [
            "--unshare-all",
            "--die-with-parent",
            "--new-session",
            "--clearenv",
            "--setenv",
            "PATH",
            "/usr/bin:/bin",
            "--setenv",
            "LANG",
            "C.UTF-8",
            "--setenv",
            "HOME",
            "/tmp",
            "--setenv",
            "DOTNET_EnableDiagnostics",
            "0",
            "--ro-bind",
            "/usr",
            "/usr",
            "--proc",
            "/proc",
            "--dev",
            "/dev",
            "--tmpfs",
            "/tmp",
            "--dir",
            "/etc",
            "--ro-bind-try",
            "/etc/ld.so.cache",
            "/etc/ld.so.cache",
            "--ro-bind-try",
            "/etc/alternatives",
            "/etc/alternatives",
        ];
        foreach (var wall in walls)
            yield return wall;
        foreach (var folder in (string[])["/bin", "/lib", "/lib64"])
        {
            if (!Directory.Exists(folder))
                continue;
            foreach (var wall in new DirectoryInfo(folder).LinkTarget is { } target ? (string[])["--symlink", target, folder] : ["--ro-bind", folder, folder])
                yield return wall;
        }
        foreach (var path in files.Reads.Select(Path.GetFullPath).Distinct())
        foreach (var wall in (string[])["--ro-bind", path, path])
            yield return wall;
        foreach (var path in files.Writes.Select(Path.GetFullPath).Distinct())
        foreach (var wall in (string[])["--bind", path, path])
            yield return wall;
        yield return "--chdir";
        yield return "/tmp";
    }

    private static bool Works(string program, IReadOnlyList<string> arguments)
    {
        try
        {
            using var process = ProcessStarter.Start(program, arguments);
            process.StandardInput.Close();
            process.StandardOutput.ReadToEnd();
            process.WaitForExit();
            return process.ExitCode == 0;
        }
        catch (System.ComponentModel.Win32Exception)
        {
            return false;
        }
    }
}
