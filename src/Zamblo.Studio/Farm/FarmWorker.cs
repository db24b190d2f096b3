using System.Collections.Concurrent;
using System.Text.Json;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Hearings;

namespace Zamblo.Studio.Farm;

/// <summary>
/// Draws chunks of films, and listens, for a studio on another machine, until it is told to stop. It has no database; what it keeps can be fetched again.
/// </summary>
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

    /// <summary>Sounds that were listened to.</summary>
    public int Heard => _heard;

    /// <summary>Texts that were spoken.</summary>
    public int Spoken => _spoken;

    private int _brought,
        _heard,
        _spoken;

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
                var welcome = await line.AskAsync<WorkerWelcome>(
                    HttpMethod.Post,
                    "/pieces/crew",
                    new WorkerHello(name, FilmChunks.Version, cores, SpeechModels.Identity, await Synthesis.IdentityAsync()),
                    stop
                );
                _id = welcome!.Worker;
                say($"{name} works for {studio} with {cores} {(cores == 1 ? "core" : "cores")}.");
                (wait, isAway) = (TimeSpan.FromSeconds(1), false);
                await SideBySide.RunAsync(cores, own => WorkOnAsync(line, own), stop);
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

    private async Task WorkOnAsync(FarmLine line, CancellationToken stop)
    {
        using var pen = new Pen();
        while (true)
        {
            var loan = await line.AskAsync<WorkLoan>(HttpMethod.Post, $"/pieces/crew/{_id}/work", null, stop);
            if (loan?.Errand is { } errand)
            {
                var share = 0.0;
                var failing = errand.Listening != null ? "A sound could not be listened to" : "A text could not be spoken";
                await DoAsync(
                    new Place(line, $"/pieces/crew/{_id}/errands/{errand.Id}", failing, () => new ErrandBeat(Volatile.Read(ref share))),
                    (place, until) => RunAsync(place, errand, s => Volatile.Write(ref share, s), until),
                    stop
                );
            }
            else if (loan?.Chunk is { } chunk)
            {
                var frames = 0;
                await DoAsync(
                    new Place(line, $"/pieces/crew/{_id}/loans/{chunk.Id}", "A chunk could not be drawn", () => new ChunkBeat(Volatile.Read(ref frames))),
                    (place, until) => DrawAsync(place, chunk, pen, () => Interlocked.Increment(ref frames), until),
                    stop
                );
            }
        }
    }

    // Where what was lent is spoken of, what is said when it fails, and how far it is.
    private sealed record Place(FarmLine Line, string Target, string Failing, Func<object> Beat);

    // What draws, for pictures of one size.
    private sealed class Pen : IDisposable
    {
        private ChunkDrawer? _drawer;
        private FrameSize? _size;

        public ChunkDrawer For(FrameSize size)
        {
            if (_drawer is { } ready && _size == size)
                return ready;
            _drawer?.Dispose();
            _size = size;
            return _drawer = new ChunkDrawer(size, keeps: false);
        }

        public void Dispose() => _drawer?.Dispose();
    }

    private async Task DoAsync(Place place, Func<Place, CancellationToken, Task> work, CancellationToken stop)
    {
        using var until = CancellationTokenSource.CreateLinkedTokenSource(stop);
        var beats = BeatAsync(place, until);
        try
        {
            await work(place, until.Token);
        }
        catch (LoanOverException)
        {
            // It was cancelled, or somebody else was quicker.
        }
        catch (OperationCanceledException) when (until.IsCancellationRequested && !stop.IsCancellationRequested)
        {
            // The same, told by a beat.
        }
        catch (Exception e) when (e is MediaException or ArtException or KeyNotFoundException or IOException and not HttpIOException)
        {
            say($"{place.Failing}: {e.Message}");
            await GiveUpAsync(place, e.Message, stop);
        }
        finally
        {
            await until.CancelAsync();
            await beats;
        }
    }

    private async Task DrawAsync(Place place, ChunkLoan loan, Pen pen, Action drawn, CancellationToken until)
    {
        var film = await FilmAsync(place.Line, loan.Film, until);
        var chunk = film.Find(loan.Name) ?? throw new MediaException("This worker finds other pictures in it than the studio.");
        await pen.For(chunk.Size).DrawAsync(chunk, drawn, until);
        await BringAsync(place, "/chunk", chunk.Path, until);
        Interlocked.Increment(ref _brought);
    }

    private async Task RunAsync(Place place, ErrandLoan errand, Action<double> progress, CancellationToken until)
    {
        var path = Path.Combine(folder.Temporary, $"{errand.Id:N}-errand.json");
        if (errand.Listening is { } listening)
        {
            var sound = new AssetStore(folder.Assets).PathOf(listening.Hash);
            await FetchedFile.GetAsync(place.Line, place.Target + "/sound", listening.Hash, sound, until);
            var speech = await Ears.ListenAsync(sound, listening, progress, until);
            await File.WriteAllBytesAsync(path, JsonSerializer.SerializeToUtf8Bytes(speech), until);
        }
        else if (errand.Speaking is { } speaking)
        {
            foreach (var file in speaking.Files)
                await FetchVoiceAsync(place, file, until);
            await File.WriteAllBytesAsync(path, Speaking.Write(await speaking.SpeakAsync(until)), until);
        }
        await BringAsync(place, "/made", path, until);
        Interlocked.Increment(ref (errand.Listening != null ? ref _heard : ref _spoken));
    }

    // A voice that is not installed but lies in the studio's folder: the same file under the same name.
    private async Task FetchVoiceAsync(Place place, VoiceFile file, CancellationToken until)
    {
        if (file.Name != Path.GetFileName(file.Name) || !file.Name.Contains(".onnx", StringComparison.Ordinal))
            throw new MediaException($"\"{file.Name}\" is no file of a voice.");
        NeuralVoices.Watch(folder.Voices);
        var there = Path.Combine(folder.Voices, file.Name);
        if (File.Exists(there) && await HashedCopy.OfAsync(there, until) != file.Hash)
            File.Delete(there);
        await FetchedFile.GetAsync(place.Line, $"{place.Target}/voice/{file.Hash}", file.Hash, there, until);
    }

    private static async Task GiveUpAsync(Place place, string reason, CancellationToken stop)
    {
        try
        {
            await place.Line.AskAsync<object>(HttpMethod.Post, place.Target + "/failure", new ChunkFailure(reason), stop);
        }
        catch (LoanOverException)
        {
            return;
        }
        // What fails at once is not tried a hundred times a second.
        await Task.Delay(Beat, stop);
    }

    // A line that breaks in the middle is tried again: the work is done.
    private static async Task BringAsync(Place place, string what, string path, CancellationToken cancel)
    {
        try
        {
            for (var n = 1; ; n++)
                try
                {
                    await place.Line.BringAsync(place.Target + what, path, cancel);
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

    private static async Task BeatAsync(Place place, CancellationTokenSource until)
    {
        try
        {
            using var timer = new PeriodicTimer(Beat);
            while (await timer.WaitForNextTickAsync(until.Token))
                try
                {
                    await place.Line.AskAsync<object>(HttpMethod.Post, place.Target, place.Beat(), until.Token);
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
