using Zamblo.Core;
using Zamblo.Media;

namespace Zamblo.Cli;

/// <summary>The command was called in a way that it does not understand; exit code 2.</summary>
internal sealed class UsageException(string message) : Exception(message);

/// <summary>What commands share: progress on standard error, files that must exist, values that must parse.</summary>
internal static class Terminal
{
    /// <summary>The whole path of a file that is there: outside programs run in a folder of their own.</summary>
    public static string ExistingFile(string path) => File.Exists(path) ? Path.GetFullPath(path) : throw new MediaException($"There is no file \"{path}\".");

    public static FrameRate Rate(string text)
    {
        try
        {
            return FrameRate.Parse(text);
        }
        catch (FormatException e)
        {
            throw new UsageException(e.Message);
        }
    }

    public static string? Script(string? path) =>
        path == null ? null
        : path == "-" ? Console.In.ReadToEnd()
        : File.ReadAllText(ExistingFile(path));

    /// <summary>A line that is written over in a terminal, and every tenth part of the way elsewhere.</summary>
    public static Action<double> Progress(string what)
    {
        var last = -1;
        return share =>
        {
            var percent = (int)(share * 100);
            lock (what)
            {
                if (Console.IsErrorRedirected ? percent / 10 == last / 10 && last >= 0 : percent == last)
                    return;
                last = percent;
                Console.Error.Write(Console.IsErrorRedirected ? $"{what} {percent} %\n" : $"\r{what} {percent} %{(percent == 100 ? "\n" : "")}");
            }
        };
    }
}
