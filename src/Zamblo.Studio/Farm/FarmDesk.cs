using System.Collections.Concurrent;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Characters;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Jobs;

namespace Zamblo.Studio.Farm;

/// <summary>
/// Lends chunks of films that are being drawn, and sounds that are to be listened to, to workers on other machines. The studio draws and listens as well and
/// waits for nobody: a worker that dies costs nothing but its own time.
/// </summary>
public sealed class FarmDesk(DataFolder folder, CharacterStore characters, AssetStore assets, VoiceStore voices, ErrandBoard board)
{
    // A loan that nobody speaks of for so long is taken back; a worker that is silent for so long is shown as gone, and later not at all.
    private static readonly TimeSpan LoanLasts = TimeSpan.FromSeconds(20),
        Here = TimeSpan.FromSeconds(30),
        Shown = TimeSpan.FromMinutes(30);

    // An idle worker's question is answered after so long at the latest, and looked after so often.
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(15),
        Look = TimeSpan.FromMilliseconds(200);
    private const int MostWorkers = 1000;

    private sealed record Film(Guid Job, string Title, Lazy<FilmPackage> Package, ChunkBoard Board);

    private sealed class Worker(WorkerHello hello)
    {
        public readonly WorkerHello Hello = hello;
        public readonly DateTime Since = DateTime.UtcNow;
        public DateTime Seen = DateTime.UtcNow;
        public int Chunks,
            Failures;
        public long Frames;
        public double Seconds;
        public int Sounds,
            Texts;
        public double SoundSeconds;
        public string? Error;

        public void Fail(string reason)
        {
            Failures++;
            Error = reason.Length > 300 ? reason[..300] : reason;
        }
    }

    private sealed class Loan(Guid worker, Film film, FilmChunk chunk)
    {
        public readonly Guid Worker = worker;
        public readonly Film Film = film;
        public readonly FilmChunk Chunk = chunk;
        public readonly DateTime Since = DateTime.UtcNow;
        public DateTime Seen = DateTime.UtcNow;
        public int Frames;
    }

    private readonly ConcurrentDictionary<Guid, Film> _films = new();
    private readonly ConcurrentDictionary<Guid, Worker> _workers = new();
    private readonly ConcurrentDictionary<Guid, Loan> _loans = new();

    /// <summary>Lends the chunks of a film until it is drawn.</summary>
    /// <param name="job">That makes it.</param>
    /// <param name="title">What people call it.</param>
    /// <param name="ticket">What is seen.</param>
    /// <param name="board">Its chunks.</param>
    /// <returns>Ends it: what is still lent is not wanted any more.</returns>
    public IDisposable Share(Guid job, string title, FilmTicket ticket, ChunkBoard board)
    {
        // Put together when the first worker asks for it.
        _films[job] = new Film(job, title, new Lazy<FilmPackage>(() => PackageOf(ticket)), board);
        return new Ending(() =>
        {
            _films.TryRemove(job, out _);
            foreach (var (id, _) in _loans.Where(l => l.Value.Film.Job == job))
                _loans.TryRemove(id, out _);
        });
    }

    private sealed class Ending(Action end) : IDisposable
    {
        public void Dispose() => end();
    }

    private FilmPackage PackageOf(FilmTicket ticket)
    {
        var own = new Dictionary<string, string>();
        var files = new HashSet<string>(ticket.Scenes.SelectMany(s => s.Pictures));
        foreach (var key in ticket.Scenes.SelectMany(s => s.Members).Select(m => CastLibrary.Plain(m.Character)).Distinct())
            if (characters.FileOf(key) is { } file)
            {
                own[key] = file.Json;
                files.UnionWith(file.Hashes);
            }
        var lines = ticket.Scenes.SelectMany(s => s.Lines).ToArray();
        files.UnionWith(lines.Select(l => l.EngineHash).OfType<string>());
        var heard = lines.Where(l => l.EngineHash == null).Select(VoiceStore.KeyOf).Distinct();
        return new FilmPackage(ticket, [.. heard], own, [.. files]);
    }

    /// <summary>A worker comes.</summary>
    /// <exception cref="RequestException">It would draw other pictures than this studio.</exception>
    public WorkerWelcome Hello(WorkerHello hello)
    {
        var name = Check.Name(hello.Name, 60, "A worker's name");
        if (hello.Version != FilmChunks.Version)
            throw new RequestException(
                "This worker is of another version than the studio, and would draw other pictures. Bring both to the same version, then start it again."
            );
        foreach (var (old, _) in _workers.Where(w => DateTime.UtcNow - w.Value.Seen > Shown))
            _workers.TryRemove(old, out _);
        if (_workers.Count >= MostWorkers)
            throw new RequestException($"A studio has at most {MostWorkers} workers.");
        var id = Guid.NewGuid();
        _workers[id] = new Worker(hello with { Name = name, Cores = Math.Clamp(hello.Cores, 1, 1024) });
        return new WorkerWelcome(id);
    }

    private Worker Known(Guid id)
    {
        var worker = _workers.GetValueOrDefault(id) ?? throw new UnknownWorkerException();
        worker.Seen = DateTime.UtcNow;
        return worker;
    }

    /// <summary>A worker goes; what it has is given back at once.</summary>
    public void Goodbye(Guid worker)
    {
        _workers.TryRemove(worker, out _);
        foreach (var (id, loan) in _loans.Where(l => l.Value.Worker == worker))
            TakeBack(id, loan);
        board.GiveBack(worker);
    }

    /// <summary>What a worker is to do next: waits a while for something; null when there was nothing.</summary>
    /// <exception cref="UnknownWorkerException">It has not said hello.</exception>
    public async Task<WorkLoan?> LendAsync(Guid worker, CancellationToken cancel)
    {
        for (var until = DateTime.UtcNow + Patience; ; await Task.Delay(Look, cancel))
        {
            var known = Known(worker);
            // Sounds and voices first: somebody waits for each.
            if (known.Hello.Ears == SpeechModels.Identity && board.Lend(worker, known.Hello.Voices == await Synthesis.IdentityAsync()) is { } errand)
                return new WorkLoan(null, errand);
            foreach (var (id, old) in _loans.Where(l => DateTime.UtcNow - l.Value.Seen > LoanLasts))
                TakeBack(id, old);
            foreach (var film in _films.Values)
                if (film.Board.Lend() is { } chunk)
                {
                    var loan = Guid.NewGuid();
                    _loans[loan] = new Loan(worker, film, chunk);
                    return new WorkLoan(new ChunkLoan(loan, film.Job, chunk.Name), null);
                }
            if (DateTime.UtcNow > until)
                return null;
        }
    }

    private void TakeBack(Guid id, Loan loan)
    {
        if (_loans.TryRemove(id, out _))
            loan.Film.Board.GiveBack(loan.Chunk);
    }

    private Loan LoanOf(Guid worker, Guid id)
    {
        Known(worker);
        return _loans.TryGetValue(id, out var loan) && loan.Worker == worker ? loan : throw new LoanOverException();
    }

    /// <summary>A worker is still at a chunk.</summary>
    /// <exception cref="LoanOverException">It is not wanted any more.</exception>
    public void Beat(Guid worker, Guid loan, int frames)
    {
        var lent = LoanOf(worker, loan);
        lent.Seen = DateTime.UtcNow;
        lent.Frames = Math.Clamp(frames, 0, lent.Chunk.Count);
        // Somebody else has drawn it meanwhile.
        if (!File.Exists(lent.Chunk.Path))
            return;
        _loans.TryRemove(loan, out _);
        throw new LoanOverException();
    }

    /// <summary>A worker cannot draw a chunk; somebody else does.</summary>
    public void Fail(Guid worker, Guid loan, string reason)
    {
        var lent = LoanOf(worker, loan);
        Known(worker).Fail(reason);
        TakeBack(loan, lent);
    }

    /// <summary>A worker is still at a sound or a text.</summary>
    /// <exception cref="LoanOverException">It is not wanted any more.</exception>
    public void BeatErrand(Guid worker, Guid loan, double share)
    {
        Known(worker);
        board.Beat(worker, loan, share);
    }

    /// <summary>A worker cannot listen to a sound or speak a text; the studio does.</summary>
    public void FailErrand(Guid worker, Guid loan, string reason)
    {
        Known(worker).Fail(reason);
        board.GiveBack(worker, loan);
    }

    /// <summary>Path of the sound that a worker listens to.</summary>
    /// <exception cref="LoanOverException">It is not wanted any more.</exception>
    public string SoundOf(Guid worker, Guid loan)
    {
        Known(worker);
        return assets.PathOf(board.SoundOf(worker, loan));
    }

    /// <summary>Path of a file of the voice that a worker speaks with.</summary>
    /// <exception cref="LoanOverException">It is not wanted any more.</exception>
    public string VoiceFileOf(Guid worker, Guid loan, string hash)
    {
        Known(worker);
        return board.VoiceFileOf(worker, loan, hash);
    }

    /// <summary>A worker brings what it has heard or spoken.</summary>
    /// <exception cref="LoanOverException">It is not wanted any more.</exception>
    /// <exception cref="RequestException">It is none, or did not come whole.</exception>
    public async Task TakeErrandAsync(Guid worker, Guid loan, Stream body, string hash, CancellationToken cancel)
    {
        var known = Known(worker);
        var (seconds, isSpoken) = await board.TakeAsync(worker, loan, body, hash, folder, cancel);
        if (isSpoken)
        {
            known.Texts++;
            return;
        }
        known.SoundSeconds += seconds;
        known.Sounds++;
    }

    /// <summary>A worker brings a chunk. It is looked at before it is taken.</summary>
    /// <param name="worker">Who.</param>
    /// <param name="loan">Of the chunk.</param>
    /// <param name="body">Its file.</param>
    /// <param name="hash">SHA-256 that was signed.</param>
    /// <param name="cancel">Stops; nothing is kept.</param>
    /// <exception cref="LoanOverException">It is not wanted any more.</exception>
    /// <exception cref="RequestException">It is not that chunk.</exception>
    public async Task TakeAsync(Guid worker, Guid loan, Stream body, string hash, CancellationToken cancel)
    {
        var lent = LoanOf(worker, loan);
        var chunk = lent.Chunk;
        // No encoder of ours makes more of a frame than it had in planes.
        var most = (1L << 20) + (long)chunk.Count * chunk.Size.Width * chunk.Size.Height * 3 / 2;
        folder.CheckRoom(Math.Min(most, 64L << 20));
        var part = $"{chunk.Path}.{Guid.NewGuid():N}.part";
        try
        {
            if (await HashedCopy.WriteAsync(body, part, most, cancel) != hash)
                throw new RequestException("The chunk did not come whole.");
            if (!await VideoFrames.IsAsync(part, chunk.Size, chunk.Count, cancel))
                throw new RequestException("This is not the chunk that was asked for.");
            if (!_loans.TryRemove(loan, out _))
                throw new LoanOverException();
            File.Move(part, chunk.Path, overwrite: true);
        }
        finally
        {
            File.Delete(part);
        }
        lent.Film.Board.Finish(chunk);
        var known = Known(worker);
        known.Chunks++;
        known.Frames += chunk.Count;
        known.Seconds += (DateTime.UtcNow - lent.Since).TotalSeconds;
    }

    /// <summary>What a film that is being drawn is made of.</summary>
    /// <exception cref="LoanOverException">It is not being drawn.</exception>
    public FilmPackage PackageOf(Guid film) => FilmOf(film).Package.Value;

    /// <summary>Path of a file that belongs to a film.</summary>
    /// <exception cref="NotFoundException">It does not, or is gone.</exception>
    public string FileOf(Guid film, string hash) =>
        FilmOf(film).Package.Value.Files.Contains(hash) && assets.PathOf(hash) is var path && File.Exists(path)
            ? path
            : throw new NotFoundException("such file");

    /// <summary>Path of what was heard in a line of a film.</summary>
    /// <exception cref="NotFoundException">It is of no line of it, or is gone.</exception>
    public string SpeechOf(Guid film, string key) =>
        FilmOf(film).Package.Value.Speech.Contains(key) && voices.FileOf(key) is { } path ? path : throw new NotFoundException("such hearing");

    private Film FilmOf(Guid id) => _films.GetValueOrDefault(id) ?? throw new LoanOverException();

    /// <summary>How many help with a film, as the end of a sentence; nothing where nobody does.</summary>
    public string HelpOf(Guid film) =>
        _loans.Values.Where(l => l.Film.Job == film).Select(l => l.Worker).Distinct().Count() switch
        {
            0 => "",
            1 => ", with a worker",
            var n => $", with {n} workers",
        };

    /// <summary>All workers, those that are there first.</summary>
    /// <param name="seen">The jobs whose productions whoever asks sees; null for all. Of what is not seen it is only told that there is something.</param>
    public IReadOnlyList<WorkerView> Workers(IReadOnlySet<Guid>? seen = null)
    {
        var now = DateTime.UtcNow;
        return
        [
            .. _workers
                .Where(w => now - w.Value.Seen < Shown)
                .Select(w =>
                {
                    var (id, it) = w;
                    var drawn = _loans
                        .Values.Where(l => l.Worker == id)
                        .GroupBy(l => seen?.Contains(l.Film.Job) != false ? l.Film.Title : "a film")
                        .Select(g => $"{g.Key} ({g.Count()})");
                    string[] errand = board.DoingOf(id, seen == null) is { } doing ? [doing] : [];
                    var rate = it.Seconds > 0 ? it.Frames / it.Seconds : 0;
                    return new WorkerView(
                        it.Hello.Name,
                        it.Hello.Cores,
                        it.Since,
                        it.Seen,
                        now - it.Seen < Here,
                        [.. errand, .. drawn],
                        it.Chunks,
                        it.Frames,
                        // Seconds are of one chunk, several go side by side.
                        rate * it.Hello.Cores,
                        it.Sounds,
                        it.SoundSeconds,
                        it.Texts,
                        it.Failures,
                        it.Error
                    );
                })
                .OrderByDescending(w => w.IsHere)
                .ThenBy(w => w.Name, StringComparer.Ordinal),
        ];
    }
}
