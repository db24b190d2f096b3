using System.Collections.Concurrent;

namespace Zamblo.Studio.Jobs;

/// <summary>What every payload may say about its work, whatever else is in it.</summary>
/// <param name="SceneId">The scene that it is for.</param>
/// <param name="Seconds">Of sound that has to be gone through: long work waits in a queue of its own.</param>
public sealed record JobScope(Guid? SceneId = null, double Seconds = 0);

/// <summary>Which scenes somebody looks at: their work goes before the rest.</summary>
public sealed class Attention
{
    // A page that is open asks for its scene with every change.
    private static readonly TimeSpan Lasts = TimeSpan.FromMinutes(10);
    private readonly ConcurrentDictionary<Guid, DateTime> _seen = new();

    /// <summary>Somebody looks at a scene.</summary>
    public void Look(Guid scene)
    {
        _seen[scene] = DateTime.UtcNow;
        if (_seen.Count > 1000)
            foreach (var (old, _) in _seen.Where(s => DateTime.UtcNow - s.Value > Lasts))
                _seen.TryRemove(old, out _);
    }

    /// <summary>When it was looked at last; the beginning of time when nobody has for a while.</summary>
    public DateTime Of(Guid? scene) => scene is { } id && _seen.TryGetValue(id, out var at) && DateTime.UtcNow - at < Lasts ? at : DateTime.MinValue;
}

/// <summary>Jobs that wait: what is looked at first, else in the order in which they came.</summary>
/// <param name="isByAttention">False where the order is never changed.</param>
/// <param name="attention">Who looks at what.</param>
internal sealed class JobQueue(bool isByAttention, Attention attention)
{
    private readonly LinkedList<(Guid Id, Guid? Scene)> _waiting = [];
    private readonly SemaphoreSlim _count = new(0);

    /// <summary>How many wait.</summary>
    public int Count
    {
        get
        {
            lock (_waiting)
                return _waiting.Count;
        }
    }

    /// <summary>Takes one in.</summary>
    public void Add(Guid id, Guid? scene)
    {
        lock (_waiting)
            _waiting.AddLast((id, scene));
        _count.Release();
    }

    /// <summary>The next one, when there is one.</summary>
    public async Task<Guid> NextAsync(CancellationToken cancel)
    {
        await _count.WaitAsync(cancel);
        lock (_waiting)
        {
            var next = _waiting.First!;
            if (isByAttention)
                for (var other = next.Next; other != null; other = other.Next)
                    if (attention.Of(other.Value.Scene) > attention.Of(next.Value.Scene))
                        next = other;
            _waiting.Remove(next);
            return next.Value.Id;
        }
    }
}
