using System.ComponentModel;
using System.Diagnostics;

namespace Zamblo.Media;

/// <summary>Something outside went wrong; the message is a sentence for a person.</summary>
public class MediaException(string message, Exception? inner = null) : Exception(message, inner);

/// <summary>A program that is needed is not installed; the message says what to install.</summary>
public sealed class ProgramMissingException(string program, string package)
    : MediaException($"{program} is not installed: install the Debian package {package}.");

/// <summary>Runs programs with an argument list, never a shell, with a time limit, cancellation, and their error text kept.</summary>
public static class OutsideProgram
{
    private static readonly Dictionary<string, string> Packages = new()
    {
        ["ffmpeg"] = "ffmpeg",
        ["ffprobe"] = "ffmpeg",
        ["pocketsphinx_continuous"] = "pocketsphinx",
        ["flite"] = "flite",
        ["rsvg-convert"] = "librsvg2-bin",
    };

    /// <summary>What a finished program left behind.</summary>
    /// <param name="ExitCode">0 is success by convention.</param>
    /// <param name="Output">Standard output.</param>
    /// <param name="Error">The last 8 KiB of standard error.</param>
    public sealed record Result(int ExitCode, byte[] Output, string Error);

    /// <summary>Where a program is looked for; the environment variable ZAMBLO_FFMPEG and the like point elsewhere.</summary>
    public static string Locate(string program) =>
        Environment.GetEnvironmentVariable("ZAMBLO_" + program.ToUpperInvariant()) is { Length: > 0 } path ? path : program;

    /// <summary>Starts a program without waiting for it. It ends with this one, whatever happens.</summary>
    /// <param name="program">Its name.</param>
    /// <param name="arguments">Passed as they are.</param>
    /// <param name="files">What it may see; null runs it in the open.</param>
    /// <exception cref="ProgramMissingException">It is not installed.</exception>
    public static Process Start(string program, IEnumerable<string> arguments, SandboxFiles? files = null)
    {
        var path = Find(Locate(program)) ?? throw new ProgramMissingException(program, Packages.GetValueOrDefault(program, program));
        var (command, all) = Sandbox.Wrap(path, [.. arguments], files);
        try
        {
            return ProcessStarter.Start(command, all);
        }
        catch (Win32Exception)
        {
            throw new ProgramMissingException(program, Packages.GetValueOrDefault(program, program));
        }
    }

    /// <summary>Whether a program is installed.</summary>
    public static bool IsThere(string program) => Find(Locate(program)) != null;

    /// <summary>Length of a program that is installed, in bytes; 0 where it is not.</summary>
    internal static long LengthOf(string program) => Find(Locate(program)) is { } path ? new FileInfo(path).Length : 0;

    private static string? Find(string program)
    {
        if (program.Contains('/', StringComparison.Ordinal))
            return File.Exists(program) ? Path.GetFullPath(program) : null;
        return (Environment.GetEnvironmentVariable("PATH") ?? "/usr/bin:/bin")
            .Split(':', StringSplitOptions.RemoveEmptyEntries)
            .Select(folder => Path.Combine(folder, program))
            .FirstOrDefault(File.Exists);
    }

    /// <summary>Runs a program to its end.</summary>
    /// <param name="program">Its name.</param>
    /// <param name="arguments">Passed as they are.</param>
    /// <param name="input">Given to standard input, or null for none.</param>
    /// <param name="limit">It is killed after this time.</param>
    /// <param name="maximalOutput">It is killed when it prints more bytes than this.</param>
    /// <param name="cancel">It is killed when this is set.</param>
    /// <param name="files">What it may see; null runs it in the open.</param>
    /// <param name="take">Is given the output piece by piece, each valid only in the call, in place of <see cref="Result.Output"/>.</param>
    /// <exception cref="ProgramMissingException">It is not installed.</exception>
    /// <exception cref="MediaException">It took too long or printed too much.</exception>
    public static async Task<Result> RunAsync(
        string program,
        IEnumerable<string> arguments,
        byte[]? input = null,
        TimeSpan? limit = null,
        long maximalOutput = 4L << 30,
        CancellationToken cancel = default,
        Action<ReadOnlyMemory<byte>>? take = null,
        SandboxFiles? files = null
    )
    {
        using var process = Start(program, arguments, files);
        using var timeout = new CancellationTokenSource(limit ?? TimeSpan.FromMinutes(10));
        using var both = CancellationTokenSource.CreateLinkedTokenSource(cancel, timeout.Token);
        try
        {
            var output = ReadAsync(process, maximalOutput, take, both.Token);
            var error = ReadTailAsync(process.StandardError, both.Token);
            var feed = FeedAsync(process, input, both.Token);
            await Task.WhenAll(output, error, feed);
            await process.WaitForExitAsync(both.Token);
            return new Result(process.ExitCode, await output, await error);
        }
        catch (OperationCanceledException)
        {
            Kill(process);
            if (cancel.IsCancellationRequested)
                throw;
            throw new MediaException($"{Path.GetFileNameWithoutExtension(program)} took longer than its time limit and was stopped.");
        }
        catch
        {
            Kill(process);
            throw;
        }
    }

    /// <summary>Ends a process and what it started, if it still runs.</summary>
    public static void Kill(Process process)
    {
        try
        {
            process.Kill(entireProcessTree: true);
        }
        catch (InvalidOperationException)
        { /* it has ended by itself */
        }
    }

    /// <summary>Reads a program's messages and keeps their end.</summary>
    public static async Task<string> ReadTailAsync(StreamReader reader, CancellationToken cancel)
    {
        var tail = "";
        var buffer = new char[4096];
        int n;
        while ((n = await reader.ReadAsync(buffer, cancel)) > 0)
        {
            tail += new string(buffer, 0, n);
            if (tail.Length > 16384)
                tail = tail[^8192..];
        }
        return tail;
    }

    private static async Task FeedAsync(Process process, byte[]? input, CancellationToken cancel)
    {
        try
        {
            if (input != null)
                await process.StandardInput.BaseStream.WriteAsync(input, cancel);
            process.StandardInput.Close();
        }
        catch (IOException)
        { /* it stopped reading; its exit code says why */
        }
    }

    private static async Task<byte[]> ReadAsync(Process process, long maximum, Action<ReadOnlyMemory<byte>>? take, CancellationToken cancel)
    {
        var stream = process.StandardOutput.BaseStream;
        // Pieces in place of one buffer that doubles: an hour of sound must not take four times its room.
        var pieces = new List<byte[]>();
        long length = 0;
        var buffer = new byte[1 << 20];
        var filled = 0;
        int n;
        while ((n = await stream.ReadAsync(buffer.AsMemory(filled), cancel)) > 0)
        {
            length += n;
            if (length > maximum)
            {
                // Killed here: whoever waits for its other streams would wait for ever.
                Kill(process);
                throw new MediaException("A program printed more than its size limit and was stopped.");
            }
            filled += n;
            if (filled < buffer.Length)
                continue;
            if (take != null)
            {
                take(buffer);
                filled = 0;
                continue;
            }
            pieces.Add(buffer);
            buffer = new byte[1 << 20];
            filled = 0;
        }
        if (take != null)
        {
            take(buffer.AsMemory(0, filled));
            return [];
        }
        var all = new byte[length];
        long at = 0;
        for (var i = 0; i < pieces.Count; i++)
        {
            pieces[i].CopyTo(all, at);
            at += pieces[i].Length;
            pieces[i] = [];
        }
        Array.Copy(buffer, 0, all, at, filled);
        return all;
    }
}
