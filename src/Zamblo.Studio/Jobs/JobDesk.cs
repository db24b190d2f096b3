using System.Collections.Concurrent;
using System.Diagnostics;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Farm;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Views;

namespace Zamblo.Studio.Jobs;

/// <summary>Reports of a running job.</summary>
/// <param name="Report">Share done (0 to 1) and what is done and left, in words.</param>
/// <param name="Cancel">Set when the job is to stop.</param>
public sealed record JobContext(Action<double, string> Report, CancellationToken Cancel);

/// <summary>One kind of work. What it needs stands in the payload, so that it can run again after a failure or a crash.</summary>
public interface IJobHandler
{
    /// <summary>The kind that it does.</summary>
    string Kind { get; }

    /// <summary>So much room on the disk it takes at the most, in bytes, beside what is kept free for edits.</summary>
    long BytesOf(Job job) => 32L << 20;

    /// <summary>While it waits for its turn: has a worker listen to what it will need to have heard, or speak what is to be spoken.</summary>
    Task HelpAheadAsync(Job job, CancellationToken cancel) => Task.CompletedTask;

    /// <summary>Does it; returns where the result is.</summary>
    Task<string?> RunAsync(Job job, JobContext context);
}

/// <summary>
/// Takes jobs, runs them in the background and keeps their state in the database: the row is the truth, the queue in memory is
/// filled from it at every start, so that a killed server goes on where it was.
/// </summary>
public sealed class JobDesk(
    IDbContextFactory<ZambloContext> contexts,
    Func<IEnumerable<IJobHandler>> handlers,
    DataFolder folder,
    Attention attention,
    NewsDesk news,
    JobMeter meter,
    ErrandBoard board,
    ILogger<JobDesk> log
)
{
    private readonly ConcurrentDictionary<Guid, CancellationTokenSource> _running = new();
    private readonly ConcurrentDictionary<Guid, bool> _paused = new();
    private readonly Dictionary<string, JobQueue> _waiting = Watched(Queues.ToDictionary(q => q, q => new JobQueue(q is Hearings or Long, attention)), meter);

    private static Dictionary<string, JobQueue> Watched(Dictionary<string, JobQueue> queues, JobMeter meter)
    {
        meter.Watch(() => queues.Select(q => (q.Key, q.Value.Count)));
        return queues;
    }

    /// <summary>A job to be written down with whatever it belongs to; <see cref="Enqueue"/> sends it off afterwards.</summary>
    public static Job New<T>(string kind, Guid production, string title, T payload) =>
        new()
        {
            Id = Guid.NewGuid(),
            ProductionId = production,
            Kind = kind,
            Title = title,
            Payload = JsonSerializer.Serialize(payload),
            Detail = "Waiting",
            By = ActingPerson.Name,
            Created = DateTime.UtcNow,
        };

    /// <summary>Ends a job in the transaction that files its result, so that a crash between the two cannot file it twice.</summary>
    public static Task EndAsync(ZambloContext db, Guid job, string? result) =>
        db
            .Jobs.Where(j => j.Id == job)
            .ExecuteUpdateAsync(u =>
                u.SetProperty(j => j.State, JobState.Done)
                    .SetProperty(j => j.Result, result)
                    .SetProperty(j => j.Progress, 1)
                    .SetProperty(j => j.Detail, nameof(JobState.Done))
                    .SetProperty(j => j.Finished, DateTime.UtcNow)
            );

    /// <summary>Takes a job.</summary>
    public async Task<Guid> AddAsync<T>(string kind, Guid production, string title, T payload)
    {
        var job = New(kind, production, title, payload);
        await using var db = await contexts.CreateDbContextAsync();
        db.Jobs.Add(job);
        await db.SaveChangesAsync();
        Enqueue(job);
        return job.Id;
    }

    /// <summary>Sends off a job that was written down.</summary>
    public void Enqueue(Job job)
    {
        Queue(job);
        news.Tell(job.ProductionId, new News("job", Job: JobView.Of(job)));
    }

    /// <summary>Puts everything that was waiting or running when the program ended back into the queue.</summary>
    public async Task ResumeAsync()
    {
        await using var db = await contexts.CreateDbContextAsync();
        await db
            .Jobs.Where(j => j.State == JobState.Running)
            .ExecuteUpdateAsync(u => u.SetProperty(j => j.State, JobState.Queued).SetProperty(j => j.Detail, "Goes on after a restart"));
        foreach (var job in await db.Jobs.AsNoTracking().Where(j => j.State == JobState.Queued).OrderBy(j => j.Created).ToListAsync())
            Queue(job);
    }

    /// <summary>Stops a job that waits or runs until <see cref="GoOnAsync"/>: what is finished of it stays.</summary>
    /// <exception cref="NotFoundException">There is no such job.</exception>
    public async Task PauseAsync(Guid id)
    {
        if (_running.TryGetValue(id, out var source))
        {
            _paused[id] = true;
            await source.CancelAsync();
            return;
        }
        await using var db = await contexts.CreateDbContextAsync();
        var changed = await db
            .Jobs.Where(j => j.Id == id && j.State == JobState.Queued)
            .ExecuteUpdateAsync(u => u.SetProperty(j => j.State, JobState.Paused).SetProperty(j => j.Detail, nameof(JobState.Paused)));
        if (changed == 0)
            throw new NotFoundException("job under way");
        await TellAsync(id);
    }

    /// <summary>Lets a job that was paused go on.</summary>
    /// <exception cref="NotFoundException">There is no such job.</exception>
    public Task GoOnAsync(Guid id) => WaitAgainAsync(id, "job that is paused", JobState.Paused, JobState.Paused);

    /// <summary>Stops a job that waits or runs.</summary>
    /// <exception cref="NotFoundException">There is no such job.</exception>
    public async Task CancelAsync(Guid id)
    {
        // One that runs is stopped whether or not the database answers.
        if (_running.TryGetValue(id, out var source))
        {
            _paused.TryRemove(id, out _);
            await source.CancelAsync();
            return;
        }
        await using var db = await contexts.CreateDbContextAsync();
        // One that says it runs, though nobody works on it: its end could not be written down.
        await db
            .Jobs.Where(j => j.Id == id && (j.State == JobState.Queued || j.State == JobState.Running || j.State == JobState.Paused))
            .ExecuteUpdateAsync(u =>
                u.SetProperty(j => j.State, JobState.Cancelled).SetProperty(j => j.Detail, "Cancelled").SetProperty(j => j.Finished, DateTime.UtcNow)
            );
        var job = await db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Id == id) ?? throw new NotFoundException("such job");
        news.Tell(job.ProductionId, new News("job", Job: JobView.Of(job)));
    }

    // What pages are told is no reason for a job to fail.
    private async Task TellAsync(Guid id)
    {
        try
        {
            await using var db = await contexts.CreateDbContextAsync();
            if (await db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Id == id) is { } job)
                news.Tell(job.ProductionId, new News("job", Job: JobView.Of(job)));
        }
        catch (Exception e) when (IsRefusal(e))
        {
            log.LogWarning("Pages were not told of job {Id}: {Reason}", id, e.GetBaseException().Message);
        }
    }

    /// <summary>Runs a job again that failed or was cancelled.</summary>
    /// <exception cref="NotFoundException">There is no such job to run again.</exception>
    public Task RetryAsync(Guid id) => WaitAgainAsync(id, "job to run again", JobState.Failed, JobState.Cancelled);

    private async Task WaitAgainAsync(Guid id, string what, JobState one, JobState other)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var changed = await db
            .Jobs.Where(j => j.Id == id && (j.State == one || j.State == other))
            .ExecuteUpdateAsync(u =>
                u.SetProperty(j => j.State, JobState.Queued)
                    .SetProperty(j => j.Error, (string?)null)
                    .SetProperty(j => j.Detail, "Waiting")
                    .SetProperty(j => j.Finished, (DateTime?)null)
            );
        if (changed == 0)
            throw new NotFoundException(what);
        Enqueue(await db.Jobs.AsNoTracking().FirstAsync(j => j.Id == id));
    }

    /// <summary>Forgets a job that has ended; a film that it made goes with it.</summary>
    /// <exception cref="NotFoundException">There is no such job, or it is still under way.</exception>
    public async Task ForgetAsync(Guid id)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var gone = await db.Jobs.Where(j => j.Id == id && j.State != JobState.Queued && j.State != JobState.Running).ExecuteDeleteAsync();
        if (gone == 0)
            throw new NotFoundException("job that has ended");
        foreach (var file in Directory.EnumerateFiles(folder.Renders, id.ToString("N") + ".*").ToArray())
            File.Delete(file);
    }

    /// <summary>Queue of what takes long: a film must not keep a new line waiting.</summary>
    public const string Films = "films";

    /// <summary>Queue of takes, one after another: they are filed in the order in which they were asked for.</summary>
    public const string Voices = "voices";

    /// <summary>Queue of hearings: what is typed or recorded meanwhile does not wait for them.</summary>
    public const string Hearings = "hearings";

    /// <summary>Queue of turns to be found and of long recordings: what is short overtakes them.</summary>
    public const string Long = "long";

    // More sound than this, in seconds, is long work.
    private const double LongSeconds = 90;

    /// <summary>All queues.</summary>
    public static readonly IReadOnlyList<string> Queues = [Voices, Hearings, Long, Films];

    private void Queue(Job job)
    {
        var scope = JsonSerializer.Deserialize<JobScope>(job.Payload) ?? new JobScope();
        var queue = job.Kind switch
        {
            FilmTicket.Kind => Films,
            _ when scope.Seconds > LongSeconds => Long,
            HearingDesk.Job => Hearings,
            _ => Voices,
        };
        var helping = job.Kind switch
        {
            HearingDesk.Job or ReadingOrder.Kind => Helping.Whole,
            TakeOrder.TakeIn => Helping.Ahead,
            TakeOrder.Speak => Helping.Spoken,
            _ => Helping.None,
        };
        _waiting[queue].Add(job.Id, scope.SceneId, helping);
    }

    /// <summary>Works through a queue until the program ends, one job at a time: a film uses all cores by itself, and takes keep their order.</summary>
    public async Task WorkAsync(string queue, CancellationToken stop)
    {
        try
        {
            while (true)
            {
                var id = await _waiting[queue].NextAsync(stop);
                try
                {
                    await RunAsync(id, stop);
                }
                catch (Exception e) when (e is not OperationCanceledException)
                {
                    // One job must not take the queue down with it.
                    log.LogError(e, "Job {Id} could not be worked on", id);
                }
            }
        }
        catch (OperationCanceledException) when (stop.IsCancellationRequested)
        {
            // The program ends.
        }
    }

    /// <summary>Has workers on other machines listen to what waits for it here, for as many as wait for something to do.</summary>
    public async Task LendAsync(CancellationToken stop)
    {
        try
        {
            using var timer = new PeriodicTimer(TimeSpan.FromMilliseconds(200));
            while (await timer.WaitForNextTickAsync(stop))
                foreach (var queue in _waiting.Values)
                    if (!board.HasFree)
                        break;
                    else if (queue.TryNextWhole() is { } whole)
                        _ = HelpedAsync(whole, () => RunAsync(whole, stop));
                    else if (queue.TryNextAhead(board.HasFreeVoice) is { } ahead)
                        _ = HelpedAsync(ahead, () => AheadAsync(ahead, stop));
        }
        catch (OperationCanceledException)
        {
            // The program ends.
        }
    }

    private async Task HelpedAsync(Guid id, Func<Task> work)
    {
        using var seat = board.TakeSeat();
        try
        {
            await work();
        }
        catch (OperationCanceledException)
        {
            // The program ends.
        }
        catch (Exception e)
        {
            // Said again, in its place, when its turn has come.
            log.LogWarning("Job {Id} was not helped with: {Reason}", id, e.Message);
        }
    }

    private async Task AheadAsync(Guid id, CancellationToken stop)
    {
        await using var db = await contexts.CreateDbContextAsync(stop);
        if (await db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Id == id && j.State == JobState.Queued, stop) is { } job)
            await handlers().First(h => h.Kind == job.Kind).HelpAheadAsync(job, stop);
    }

    // A database that refuses for a while, as on a full disk, is asked again: the job is not lost.
    private async Task PersistAsync(Func<Task> work, Action<Exception> refused, CancellationToken stop)
    {
        for (var wait = TimeSpan.FromMilliseconds(250); ; wait = TimeSpan.FromSeconds(Math.Min(15, 2 * wait.TotalSeconds)))
            try
            {
                await work();
                return;
            }
            catch (Exception e) when (IsRefusal(e))
            {
                refused(e);
                log.LogWarning("The database refuses ({Reason}); trying again in {Seconds} s", e.GetBaseException().Message, wait.TotalSeconds);
                await Task.Delay(wait, stop);
            }
    }

    private static bool IsRefusal(Exception e) => e is IOException || Databases.IsRefusal(e);

    private async Task RunAsync(Guid id, CancellationToken stop)
    {
        // Known before the row says that it runs: whoever cancels it from then on reaches it.
        using var source = CancellationTokenSource.CreateLinkedTokenSource(stop);
        if (!_running.TryAdd(id, source))
            return;
        // Whoever moves the row from waiting to running has the job; a second call finds nothing to do.
        Job? job = null;
        await PersistAsync(
            async () =>
            {
                await using var db = await contexts.CreateDbContextAsync(stop);
                job ??= await db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Id == id && j.State == JobState.Queued, stop);
                var won = await db
                    .Jobs.Where(j => j.Id == id && j.State == JobState.Queued)
                    .ExecuteUpdateAsync(u => u.SetProperty(j => j.State, JobState.Running), stop);
                // One that waited a moment ago and runs now was moved by us, over a line that broke before it said so.
                if (won == 0 && !await db.Jobs.AnyAsync(j => j.Id == id && j.State == JobState.Running, stop))
                    job = null;
            },
            e => Waits(job, e, "waiting"),
            stop
        );
        if (job == null)
        {
            _running.TryRemove(id, out _);
            return;
        }
        await TellAsync(id);
        var begun = Stopwatch.GetTimestamp();
        var (state, error, result) = (JobState.Done, (string?)null, (string?)null);
        try
        {
            var handler = handlers().First(h => h.Kind == job.Kind);
            folder.CheckRoom(handler.BytesOf(job));
            // Whoever asked for it has done it.
            ActingPerson.Name = job.By;
            result = await handler.RunAsync(job, new JobContext(Reporter(job), source.Token));
        }
        catch (OperationCanceledException) when (stop.IsCancellationRequested)
        {
            // The program ends: the row still says that it runs, and it goes on at the next start.
            return;
        }
        catch (OperationCanceledException) when (source.IsCancellationRequested)
        {
            state = _paused.ContainsKey(id) ? JobState.Paused : JobState.Cancelled;
        }
        catch (Exception e) when (e is MediaException or NotFoundException or StaleRevisionException or RequestException)
        {
            (state, error) = (JobState.Failed, e.Message);
        }
        catch (Exception e) when (DiskFullException.Is(e))
        {
            (state, error) = (JobState.Failed, "The disk is full: free some space and run it again; nothing that was there is lost.");
        }
        catch (Exception e)
        {
            log.LogError(e, "Job {Kind} failed", job.Kind);
            (state, error) = (JobState.Failed, $"Something went wrong that should not have: {e.Message} Run it again; the program's output has the details.");
        }
        finally
        {
            _running.TryRemove(id, out _);
            _paused.TryRemove(id, out _);
        }
        var seconds = Stopwatch.GetElapsedTime(begun).TotalSeconds;
        meter.Ended(job.Kind, state, seconds);
        log.LogInformation("Job {Kind} {Job} of production {Production}: {State} after {Seconds:0.000} s", job.Kind, id, job.ProductionId, state, seconds);
        await PersistAsync(
            async () =>
            {
                await using var db = await contexts.CreateDbContextAsync(stop);
                // What was called off meanwhile stays so.
                await db
                    .Jobs.Where(j => j.Id == id && j.State != JobState.Cancelled)
                    .ExecuteUpdateAsync(
                        u =>
                            u.SetProperty(j => j.State, state)
                                .SetProperty(j => j.Error, error)
                                .SetProperty(j => j.Result, result)
                                .SetProperty(j => j.Progress, j => state == JobState.Done ? 1 : j.Progress)
                                .SetProperty(j => j.Detail, state.ToString())
                                .SetProperty(j => j.Finished, state == JobState.Paused ? null : DateTime.UtcNow),
                        stop
                    );
            },
            e => Waits(job, e, "running"),
            stop
        );
        await TellAsync(id);
    }

    // Said to the pages that look, for nothing can be written down.
    private void Waits(Job? job, Exception e, string state)
    {
        if (job == null)
            return;
        var why = DiskFullException.Is(e) ? "The disk is full: it goes on when there is room" : "The data folder refuses: it is tried again";
        news.Tell(job.ProductionId, new News("job", Job: JobView.Of(job) with { State = state, Detail = why }));
    }

    private Action<double, string> Reporter(Job job)
    {
        var last = 0L;
        var gate = new Lock();
        return (share, detail) =>
        {
            lock (gate)
            {
                // A few reports a second are enough for a bar.
                var now = Environment.TickCount64;
                if (now - last < 250)
                    return;
                last = now;
            }
            try
            {
                using var db = contexts.CreateDbContext();
                db.Jobs.Where(j => j.Id == job.Id).ExecuteUpdate(u => u.SetProperty(j => j.Progress, share).SetProperty(j => j.Detail, detail));
            }
            catch (Exception e) when (IsRefusal(e))
            {
                // How far it is, pages hear all the same.
            }
            news.Tell(job.ProductionId, new News("job", Job: JobView.Of(job) with { State = "running", Progress = share, Detail = detail }));
        };
    }
}
