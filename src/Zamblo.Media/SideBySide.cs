using System.Runtime.ExceptionServices;

namespace Zamblo.Media;

/// <summary>The same work on several cores, each at it until nothing is left.</summary>
public static class SideBySide
{
    /// <summary>Runs it; the first that fails stops the others.</summary>
    /// <param name="count">How many, 1 or more.</param>
    /// <param name="work">Of one; is cancelled when another has failed.</param>
    /// <param name="cancel">Stops all of them.</param>
    public static async Task RunAsync(int count, Func<CancellationToken, Task> work, CancellationToken cancel)
    {
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        async Task OneAsync()
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
        var all = Enumerable.Range(0, count).Select(_ => Task.Run(OneAsync, CancellationToken.None)).ToArray();
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
