using System.Runtime.ExceptionServices;

namespace Zamblo.Media;

/// <summary>Work on several cores at once.</summary>
public static class SideBySide
{
    /// <summary>Runs it; the first that fails stops the others.</summary>
    /// <param name="count">How many, 1 or more.</param>
    /// <param name="work">Of one; is cancelled when another has failed.</param>
    /// <param name="cancel">Stops all of them.</param>
    public static Task RunAsync(int count, Func<CancellationToken, Task> work, CancellationToken cancel) =>
        RunAsync([.. Enumerable.Repeat(work, count)], cancel);

    /// <summary>Runs several things at once; the first that fails stops the others.</summary>
    /// <param name="works">Each is cancelled when another has failed.</param>
    /// <param name="cancel">Stops all of them.</param>
    public static async Task RunAsync(IReadOnlyList<Func<CancellationToken, Task>> works, CancellationToken cancel)
    {
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        async Task OneAsync(Func<CancellationToken, Task> work)
        {
            try
            {
                await work(stop.Token);
            }
            catch
            {
                await stop.CancelAsync();
                throw;
            }
        }
        var all = works.Select(w => Task.Run(() => OneAsync(w), CancellationToken.None)).ToArray();
        try
        {
            await Task.WhenAll(all);
        }
        catch
        {
            cancel.ThrowIfCancellationRequested();
            // The first real failure stopped the others; theirs are only cancellations.
            var failure = all.Select(t => t.Exception?.GetBaseException()).FirstOrDefault(e => e is not null and not OperationCanceledException);
            if (failure != null)
                ExceptionDispatchInfo.Capture(failure).Throw();
            throw;
        }
    }
}
