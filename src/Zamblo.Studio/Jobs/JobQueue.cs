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

/// <summary>What workers on other machines can do of a job that waits.</summary>
internal enum Helping
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>What it does is to listen: it can be done beside the others.</summary>
    Whole,

    /// <summary>It waits for its turn, but its sound can be listened to before.</summary>
    Ahead,

    /// <summary>It waits for its turn, but its text can be spoken before.</summary>
    Spoken,
}

/// <summary>Jobs that wait: what is looked at first, else in the order in which they came.</summary>
/// <param name="isByAttention">False where the order is never changed.</param>
/// <param name="attention">Who looks at what.</param>
internal sealed class JobQueue(bool isByAttention, Attention attention)
{
    private sealed record Waiting(Guid Id, Guid? Scene, Helping Helping)
    {
        public bool IsHelped { get; set; }
    }

    private readonly LinkedList<Waiting> _waiting = [];
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
    /// <param name="id">Of the job.</param>
    /// <param name="scene">That it is for.</param>
    /// <param name="helping">What others can do of it.</param>
    public void Add(Guid id, Guid? scene, Helping helping = Helping.None)
    {
        lock (_waiting)
            _waiting.AddLast(new Waiting(id, scene, helping));
        _count.Release();
    }

    /// <summary>The next one, when there is one.</summary>
    public async Task<Guid> NextAsync(CancellationToken cancel)
    {
        await _count.WaitAsync(cancel);
        return Take(_ => true)!.Value;
    }

    /// <summary>The next one that can be done beside the others, if there is one now; it is taken out.</summary>
    public Guid? TryNextWhole()
    {
        if (!_count.Wait(0))
            return null;
        if (Take(w => w.Helping == Helping.Whole) is { } id)
            return id;
        _count.Release();
        return null;
    }

    /// <summary>The next one whose sound can be listened to, or text spoken, before its turn, once each; it stays where it is.</summary>
    /// <param name="canSpeak">Whether a text can be spoken now.</param>
    public Guid? TryNextAhead(bool canSpeak)
    {
        lock (_waiting)
        {
            if (_waiting.FirstOrDefault(w => !w.IsHelped && (w.Helping == Helping.Ahead || canSpeak && w.Helping == Helping.Spoken)) is not { } next)
                return null;
            next.IsHelped = true;
            return next.Id;
        }
    }

    private Guid? Take(Func<Waiting, bool> isWanted)
    {
        lock (_waiting)
        {
            LinkedListNode<Waiting>? next = null;
            for (var other = _waiting.First; other != null; other = other.Next)
                if (isWanted(other.Value) && (next == null || isByAttention && attention.Of(other.Value.Scene) > attention.Of(next.Value.Scene)))
                    next = other;
            if (next == null)
                return null;
            _waiting.Remove(next);
            return next.Value.Id;
        }
    }
}
