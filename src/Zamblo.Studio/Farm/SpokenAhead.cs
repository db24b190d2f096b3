using System.Collections.Concurrent;
using Zamblo.Media;

namespace Zamblo.Studio.Farm;

/// <summary>Texts that workers speak before their turn has come.</summary>
public sealed class SpokenAhead(ErrandBoard board)
{
    // What nobody comes for is let go of when there is so much.
    private const int Most = 200;
    private readonly ConcurrentDictionary<Guid, (Speaking What, DateTime Since, Task<SpokenText?> Spoken)> _all = new();

    /// <summary>Has a worker speak, if one was found; what it speaks is kept until it is asked for.</summary>
    public async Task SpeakAsync(Guid job, Speaking what, CancellationToken cancel)
    {
        var end = new TaskCompletionSource<SpokenText?>(TaskCreationOptions.RunContinuationsAsynchronously);
        if (!_all.TryAdd(job, (what, DateTime.UtcNow, end.Task)))
            return;
        SpokenText? spoken = null;
        try
        {
            spoken = await board.SpeakAsync(what, cancel);
        }
        finally
        {
            end.SetResult(spoken);
        }
        foreach (var (old, _) in _all.OrderByDescending(a => a.Value.Since).Skip(Most))
            _all.TryRemove(old, out _);
    }

    /// <summary>What a worker speaks or has spoken for a job; null where there is none, or another text is wanted by now.</summary>
    public async Task<SpokenText?> TakeAsync(Guid job, Speaking what, CancellationToken cancel) =>
        _all.TryRemove(job, out var there) && there.What.IsSame(what) ? await there.Spoken.WaitAsync(cancel) : null;
}
