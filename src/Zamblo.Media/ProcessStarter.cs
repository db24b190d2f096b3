using System.Collections.Concurrent;
using System.Diagnostics;

namespace Zamblo.Media;

/// <summary>
/// Starts processes from one thread that lives as long as the program. A child that is to die with its parent (prctl(2), PR_SET_PDEATHSIG) dies
/// with the thread that started it; a thread of the pool may end long before.
/// </summary>
internal static class ProcessStarter
{
    private static readonly BlockingCollection<(ProcessStartInfo Info, TaskCompletionSource<Process> Done)> Waiting = [];

    static ProcessStarter()
    {
        new Thread(() =>
        {
            foreach (var (info, done) in Waiting.GetConsumingEnumerable())
                try
                {
                    done.SetResult(Process.Start(info) ?? throw new MediaException($"{info.FileName} could not be started."));
                }
                catch (Exception e)
                {
                    done.SetException(e);
                }
        })
        {
            IsBackground = true,
            Name = "processes",
        }.Start();
    }

    /// <summary>Starts a program with its streams redirected.</summary>
    /// <exception cref="System.ComponentModel.Win32Exception">There is no such program.</exception>
    public static Process Start(string program, IEnumerable<string> arguments)
    {
        var info = new ProcessStartInfo(program)
        {
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            UseShellExecute = false,
        };
        foreach (var a in arguments)
            info.ArgumentList.Add(a);
        var done = new TaskCompletionSource<Process>(TaskCreationOptions.RunContinuationsAsynchronously);
        Waiting.Add((info, done));
        return done.Task.GetAwaiter().GetResult();
    }
}
