namespace Zamblo.Media.Tests;

/// <summary>Who draws which chunk of a film.</summary>
public class ChunkBoardTests : InFolder
{
    private const int Frames = 10;

    private FilmChunk[] Chunks(int count) =>
        [.. Enumerable.Range(0, count).Select(i => new FilmChunk(null!, 0, i * Frames, Frames, new FrameSize(16, 16), PathOf($"chunk-{i}.mp4")))];

    private static async Task<FilmChunk?> NextAsync(ChunkBoard board) => (await board.NextAsync(CancellationToken.None))?.Chunk;

    [Fact]
    public async Task This_machine_takes_from_the_front_and_helpers_from_the_end()
    {
        var chunks = Chunks(4);
        File.WriteAllText(chunks[1].Path, "drawn before");
        var done = new List<int>();
        var board = new ChunkBoard(chunks, done.Add);
        Assert.Equal((3, Frames), (board.Waiting, done.Last()));
        Assert.Same(chunks[0], await NextAsync(board));
        Assert.Same(chunks[3], board.Lend());
        Assert.Same(chunks[2], await NextAsync(board));
        Assert.Null(board.Lend());
        foreach (var i in new[] { 0, 2, 3 })
            Assert.True(board.Finish(chunks[i]));
        Assert.False(board.Finish(chunks[3]));
        Assert.Null(await NextAsync(board));
        Assert.Equal(4 * Frames, done.Last());
    }

    [Fact]
    public async Task Whoever_has_nothing_left_draws_what_is_lent_and_the_quicker_one_has_done_it()
    {
        var chunks = Chunks(2);
        var done = new List<int>();
        var board = new ChunkBoard(chunks, done.Add);
        Assert.Same(chunks[1], board.Lend());
        Assert.Same(chunks[0], await NextAsync(board));
        // Half of the lent one is drawn here before the helper brings it: no frame is counted twice.
        var (lent, isElsewhere) = (await board.NextAsync(CancellationToken.None))!.Value;
        Assert.Same(chunks[1], lent);
        for (var i = 0; i < Frames / 2; i++)
            board.Count(lent);
        // A second drawer has nothing to do but to wait.
        var waits = board.NextAsync(CancellationToken.None);
        Assert.False(waits.IsCompleted || isElsewhere.IsCancellationRequested);
        Assert.True(board.Finish(lent));
        Assert.True(isElsewhere.IsCancellationRequested);
        board.Count(lent);
        Assert.Null(await waits);
        Assert.False(board.Finish(lent));
        for (var i = 0; i < Frames; i++)
            board.Count(chunks[0]);
        board.Finish(chunks[0]);
        Assert.Equal(2 * Frames, done.Last());
        Assert.Equal(done.Order(), done);
    }

    [Fact]
    public async Task What_a_helper_gives_back_waits_again_unless_it_is_drawn_here_by_then()
    {
        var chunks = Chunks(2);
        var board = new ChunkBoard(chunks, null);
        Assert.Same(chunks[1], board.Lend());
        Assert.Same(chunks[0], board.Lend());
        board.GiveBack(chunks[1]);
        Assert.Same(chunks[1], await NextAsync(board));
        Assert.Same(chunks[0], await NextAsync(board));
        board.GiveBack(chunks[0]);
        Assert.Null(board.Lend());
        board.Finish(chunks[0]);
        board.Finish(chunks[1]);
        Assert.Null(await NextAsync(board));
        // Whoever waits is let go when the work is called off.
        var other = new ChunkBoard(Chunks(1), null);
        Assert.NotNull(other.Lend());
        await other.NextAsync(CancellationToken.None);
        using var stop = new CancellationTokenSource();
        var waits = other.NextAsync(stop.Token);
        await stop.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => waits);
    }
}
