using Zamblo.Studio.Jobs;

namespace Zamblo.Web.Tests;

/// <summary>What waits, and what goes first.</summary>
public sealed class QueueTests
{
    private static readonly Guid[] Jobs = [.. Enumerable.Range(0, 6).Select(_ => Guid.NewGuid())];

    private static async Task<int[]> OrderAsync(JobQueue queue)
    {
        var order = new int[Jobs.Length];
        for (var i = 0; i < order.Length; i++)
            order[i] = Array.IndexOf(Jobs, await queue.NextAsync(CancellationToken.None));
        return order;
    }

    private static void Fill(JobQueue queue, Guid first, Guid second)
    {
        for (var i = 0; i < Jobs.Length; i++)
            queue.Add(Jobs[i], i < 3 ? first : second);
    }

    [Fact]
    public async Task The_scene_that_is_looked_at_goes_first_and_the_rest_keeps_its_order()
    {
        var (first, second) = (Guid.NewGuid(), Guid.NewGuid());
        var attention = new Attention();
        var queue = new JobQueue(true, attention);
        Fill(queue, first, second);
        Assert.Equal("0, 1, 2, 3, 4, 5", string.Join(", ", await OrderAsync(queue)));
        Fill(queue, first, second);
        attention.Look(second);
        Assert.Equal("3, 4, 5, 0, 1, 2", string.Join(", ", await OrderAsync(queue)));
        // The eye moves on while they wait.
        Fill(queue, first, second);
        Assert.Equal(Jobs[3], await queue.NextAsync(CancellationToken.None));
        await Task.Delay(5);
        attention.Look(first);
        Assert.Equal(Jobs[0], await queue.NextAsync(CancellationToken.None));
    }

    [Fact]
    public async Task Takes_are_filed_in_the_order_in_which_they_were_asked_for()
    {
        var (first, second) = (Guid.NewGuid(), Guid.NewGuid());
        var attention = new Attention();
        attention.Look(second);
        var queue = new JobQueue(false, attention);
        Fill(queue, first, second);
        Assert.Equal("0, 1, 2, 3, 4, 5", string.Join(", ", await OrderAsync(queue)));
    }

    [Fact]
    public async Task Whoever_waits_is_woken_and_whoever_stops_waits_no_longer()
    {
        var queue = new JobQueue(true, new Attention());
        using var stop = new CancellationTokenSource();
        var waiting = queue.NextAsync(stop.Token);
        Assert.False(waiting.IsCompleted);
        queue.Add(Jobs[0], null);
        Assert.Equal(Jobs[0], await waiting);
        var stopped = queue.NextAsync(stop.Token);
        await stop.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => stopped);
    }

    [Fact]
    public async Task Others_help_with_what_is_to_be_heard_and_a_take_keeps_its_place()
    {
        var queue = new JobQueue(false, new Attention());
        queue.Add(Jobs[0], null);
        queue.Add(Jobs[1], null, Helping.Ahead);
        queue.Add(Jobs[2], null, Helping.Whole);
        queue.Add(Jobs[3], null, Helping.Ahead);
        queue.Add(Jobs[4], null, Helping.Spoken);
        Assert.Equal(Jobs[2], queue.TryNextWhole());
        Assert.Null(queue.TryNextWhole());
        Assert.Equal([Jobs[1], Jobs[3], null], (Guid?[])[queue.TryNextAhead(false), queue.TryNextAhead(false), queue.TryNextAhead(false)]);
        // A text is for those who have its voice.
        Assert.Equal([Jobs[4], null], (Guid?[])[queue.TryNextAhead(true), queue.TryNextAhead(true)]);
        foreach (var i in (int[])[0, 1, 3, 4])
            Assert.Equal(Jobs[i], await queue.NextAsync(CancellationToken.None));
        Assert.Equal(0, queue.Count);
        Assert.Null(queue.TryNextWhole());
    }
}
