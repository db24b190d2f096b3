using System.Collections.Concurrent;
using System.Threading.Channels;

namespace Zamblo.Studio;

/// <summary>Something that pages want to know.</summary>
/// <param name="Kind">"changed" (a revision, or something was heard), "job", "remarks", "people", or "hello" when one begins to listen.</param>
/// <param name="Revision">For "changed": the revision that holds; 0 otherwise.</param>
/// <param name="Job">For "job".</param>
/// <param name="People">For "people": who is on the production now.</param>
public sealed record News(string Kind, long Revision = 0, Views.JobView? Job = null, IReadOnlyList<Presence>? People = null);

/// <summary>Somebody who has a production open.</summary>
/// <param name="Name">Of the person.</param>
/// <param name="Scene">That is looked at.</param>
public sealed record Presence(string Name, Guid? Scene);

/// <summary>Tells open pages of a production what has changed: other tabs' edits, hearings, work in the background.</summary>
public sealed class NewsDesk
{
    // A page that does not keep up loses the oldest news; the next one brings it up to date all the same.
    private const int Waiting = 256;
    private readonly ConcurrentDictionary<Guid, ConcurrentDictionary<Channel<News>, Presence?>> _listeners = new();

    /// <summary>Tells everybody who listens to a production.</summary>
    public void Tell(Guid production, News news)
    {
        if (!_listeners.TryGetValue(production, out var all))
            return;
        foreach (var listener in all.Keys)
            listener.Writer.TryWrite(news);
    }

    private void TellOfPeople(Guid production)
    {
        if (_listeners.TryGetValue(production, out var all))
            Tell(production, new News("people", People: [.. all.Values.OfType<Presence>().Distinct().OrderBy(p => p.Name, StringComparer.Ordinal)]));
    }

    /// <summary>The news of a production from now on, until cancelled.</summary>
    /// <param name="production">Its id.</param>
    /// <param name="who">Listens; null where nobody has to say who it is.</param>
    /// <param name="cancel">Ends it.</param>
    public async IAsyncEnumerable<News> ListenAsync(
        Guid production,
        Presence? who,
        [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancel
    )
    {
        var channel = Channel.CreateBounded<News>(new BoundedChannelOptions(Waiting) { FullMode = BoundedChannelFullMode.DropOldest });
        var all = _listeners.GetOrAdd(production, _ => new());
        all[channel] = who;
        try
        {
            yield return new News("hello");
            if (who != null)
                TellOfPeople(production);
            await foreach (var news in channel.Reader.ReadAllAsync(cancel))
                yield return news;
        }
        finally
        {
            all.TryRemove(channel, out _);
            if (who != null)
                TellOfPeople(production);
        }
    }
}
