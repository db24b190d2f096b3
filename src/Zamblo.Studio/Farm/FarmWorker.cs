using System.Collections.Concurrent;
using System.Text.Json;
using Zamblo.Core.Stage;
using Zamblo.Media;
using Zamblo.Studio.Assets;

namespace Zamblo.Studio.Farm;

/// <summary>Draws chunks of films for a studio on another machine, until it is told to stop. It has no database; what it keeps can be fetched again.</summary>
/// <param name="studio">Address of the studio.</param>
/// <param name="key">The studio's.</param>
/// <param name="folder">Its own.</param>
/// <param name="name">What people call it.</param>
/// <param name="cores">So many chunks it draws at a time.</param>
/// <param name="say">Is told what happens, as sentences.</param>
public sealed class FarmWorker(Uri studio, FarmKey key, DataFolder folder, string name, int cores, Action<string> say)
{
    private static readonly TimeSpan Beat = TimeSpan.FromSeconds(2),
        Unused = TimeSpan.FromDays(7),
        LongestWait = TimeSpan.FromSeconds(10),
        Goodbye = TimeSpan.FromSeconds(2);
    private const int KeptFilms = 4,
        Tries = 3;
    private readonly ConcurrentDictionary<Guid, (Lazy<Task<PackagedFilm>> Film, DateTime At)> _films = new();
    private Guid _id;

    /// <summary>Chunks that were brought.</summary>
    public int Brought => _brought;

    private int _brought;

    /// <summary>Works until it is stopped; a studio that is away for a while is waited for.</summary>
    /// <param name="stop">Ends it; what it has is given back.</param>
    /// <exception cref="MediaException">The studio does not want it: the key or the version is another one.</exception>
    public async Task RunAsync(CancellationToken stop)
    {
        Forget();
        using var line = new FarmLine(studio, key);
        var wait = TimeSpan.FromSeconds(1);
        var isAway = false;
        while (!stop.IsCancellationRequested)
            try
            {
                var welcome = await line.AskAsync<WorkerWelcome>(HttpMethod.Post, "/pieces/crew", new WorkerHello(name, FilmChunks.Version, cores), stop);
                _id = welcome!.Worker;
                say($"{name} works for {studio} with {cores} {(cores == 1 ? "core" : "cores")}.");
                (wait, isAway) = (TimeSpan.FromSeconds(1), false);
                await SideBySide.RunAsync(cores, drawer => DrawOnAsync(line, drawer), stop);
            }
            catch (OperationCanceledException) when (stop.IsCancellationRequested)
            {
                break;
            }
            catch (UnknownWorkerException)
            {
                // The studio was started anew: it is greeted again.
            }
            catch (Exception e) when (e is HttpRequestException or OperationCanceledException or IOException or JsonException)
            {
                if (!isAway)
                    say($"{studio} does not answer ({e.GetBaseException().Message}); trying on.");
                isAway = true;
                await PauseAsync(wait, stop);
                wait = TimeSpan.FromSeconds(Math.Min(LongestWait.TotalSeconds, 2 * wait.TotalSeconds));
            }
        await LeaveAsync(line);
    }

    private static async Task PauseAsync(TimeSpan wait, CancellationToken stop)
    {
        try
        {
            await Task.Delay(wait, stop);
        }
        catch (OperationCanceledException)
        {
            // Told to stop.
        }
    }

    private async Task LeaveAsync(FarmLine line)
    {
        try
        {
            using var limit = new CancellationTokenSource(Goodbye);
            await line.AskAsync<object>(HttpMethod.Delete, $"/pieces/crew/{_id}", null, limit.Token);
        }
        catch (Exception e) when (e is HttpRequestException or OperationCanceledException or MediaException or UnknownWorkerException)
        {
            // It finds out by itself.
        }
    }

    // What has not been used for a week is fetched again when it is.
    private void Forget()
    {
        foreach (var place in new[] { folder.Assets, folder.Cache, folder.Temporary })
            if (Directory.Exists(place))
                foreach (var file in new DirectoryInfo(place).EnumerateFiles("*", SearchOption.AllDirectories).ToArray())
                    if (DateTime.UtcNow - file.LastAccessTimeUtc > Unused && DateTime.UtcNow - file.LastWriteTimeUtc > Unused)
                        file.Delete();
    }

    private async Task DrawOnAsync(FarmLine line, CancellationToken stop)
    {
        ChunkDrawer? drawer = null;
        FrameSize? size = null;
        try
        {
            while (true)
            {
                var loan = await line.AskAsync<ChunkLoan>(HttpMethod.Post, $"/pieces/crew/{_id}/work", null, stop);
                if (loan == null)
                    continue;
                using var until = CancellationTokenSource.CreateLinkedTokenSource(stop);
                var frames = 0;
                var beats = BeatAsync(line, loan, () => Volatile.Read(ref frames), until);
                try
                {
                    var film = await FilmAsync(line, loan.Film, until.Token);
                    var chunk = film.Find(loan.Name) ?? throw new MediaException("This worker finds other pictures in it than the studio.");
                    if (size != chunk.Size)
                    {
                        drawer?.Dispose();
                        (drawer, size) = (new ChunkDrawer(chunk.Size, keeps: false), chunk.Size);
                    }
                    await drawer!.DrawAsync(chunk, () => Interlocked.Increment(ref frames), until.Token);
                    await BringAsync(line, loan, chunk.Path, until.Token);
                }
                catch (LoanOverException)
                {
                    // The film was cancelled, or somebody else was quicker.
                }
                catch (OperationCanceledException) when (until.IsCancellationRequested && !stop.IsCancellationRequested)
                {
                    // The same, told by a beat.
                }
                catch (Exception e) when (e is MediaException or ArtException or KeyNotFoundException or IOException and not HttpIOException)
                {
                    say($"A chunk could not be drawn: {e.Message}");
                    await GiveUpAsync(line, loan, e.Message, stop);
                }
                finally
                {
                    await until.CancelAsync();
                    await beats;
                }
            }
        }
        finally
        {
            drawer?.Dispose();
        }
    }

    private async Task GiveUpAsync(FarmLine line, ChunkLoan loan, string reason, CancellationToken stop)
    {
        try
        {
            await line.AskAsync<object>(HttpMethod.Post, $"/pieces/crew/{_id}/loans/{loan.Id}/failure", new ChunkFailure(reason), stop);
        }
        catch (LoanOverException)
        {
            return;
        }
        // What fails at once is not tried a hundred times a second.
        await Task.Delay(Beat, stop);
    }

    // A line that breaks in the middle is tried again: the picture is drawn.
    private async Task BringAsync(FarmLine line, ChunkLoan loan, string path, CancellationToken cancel)
    {
        try
        {
            for (var n = 1; ; n++)
                try
                {
                    await line.BringAsync($"/pieces/crew/{_id}/loans/{loan.Id}/chunk", path, cancel);
                    Interlocked.Increment(ref _brought);
                    return;
                }
                catch (Exception e) when (n < Tries && e is HttpRequestException or HttpIOException)
                {
                    await Task.Delay(TimeSpan.FromSeconds(n), cancel);
                }
        }
        finally
        {
            File.Delete(path);
        }
    }

    private async Task BeatAsync(FarmLine line, ChunkLoan loan, Func<int> frames, CancellationTokenSource until)
    {
        try
        {
            using var timer = new PeriodicTimer(Beat);
            while (await timer.WaitForNextTickAsync(until.Token))
                try
                {
                    await line.AskAsync<object>(HttpMethod.Post, $"/pieces/crew/{_id}/loans/{loan.Id}", new ChunkBeat(frames()), until.Token);
                }
                catch (HttpRequestException)
                {
                    // Once more at the next beat.
                }
        }
        catch (OperationCanceledException)
        {
            // It is done.
        }
        catch (Exception e) when (e is LoanOverException or UnknownWorkerException or MediaException)
        {
            await until.CancelAsync();
        }
    }

    private async Task<PackagedFilm> FilmAsync(FarmLine line, Guid id, CancellationToken cancel)
    {
        var film = _films.GetOrAdd(
            id,
            _ => (new Lazy<Task<PackagedFilm>>(() => PackagedFilm.FetchAsync(line, id, folder, CancellationToken.None)), DateTime.UtcNow)
        );
        foreach (var (old, _) in _films.Where(f => f.Key != id).OrderByDescending(f => f.Value.At).Skip(KeptFilms - 1))
            _films.TryRemove(old, out _);
        try
        {
            return await film.Film.Value.WaitAsync(cancel);
        }
        catch when (film.Film.Value.IsFaulted)
        {
            // What did not come is fetched again with the next chunk.
            _films.TryRemove(id, out _);
            throw;
        }
    }
}
