using System.Collections.Concurrent;
using System.Text.Json;
using Hangfire;
using Hangfire.States;
using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Media;

namespace Zamblo.Web.Jobs;

/// <summary>Reports of a running job.</summary>
/// <param name="Report">Share done (0 to 1) and what is done and left, in words.</param>
/// <param name="Cancel">Set when the job is to stop.</param>
public sealed record JobContext(Action<double, string> Report, CancellationToken Cancel);

/// <summary>One kind of work. What it needs stands in the payload, so that it can run again after a failure or a crash.</summary>
public interface IJobHandler
{
    /// <summary>The kind that it does.</summary>
    string Kind { get; }

    /// <summary>Does it; returns where the result is.</summary>
    Task<string?> RunAsync(Job job, JobContext context);
}

/// <summary>
/// Takes jobs, runs them in the background (Hangfire) and keeps their state in the database: the row is the truth, the queue in memory is
/// filled from it at every start, so that a killed server goes on where it was.
/// </summary>
public sealed class JobDesk(IDbContextFactory<ZambloContext> contexts, IBackgroundJobClient queue, IEnumerable<IJobHandler> handlers, ILogger<JobDesk> log)
{
    private readonly ConcurrentDictionary<Guid, CancellationTokenSource> _running = new();

    /// <summary>Takes a job.</summary>
    public async Task<Guid> AddAsync<T>(string kind, Guid production, string title, T payload)
    {
        var job = new Job { Id = Guid.NewGuid(), ProductionId = production, Kind = kind, Title = title, Payload = JsonSerializer.Serialize(payload), Detail = "Waiting", Created = DateTime.UtcNow };
        await using var db = await contexts.CreateDbContextAsync();
        db.Jobs.Add(job);
        await db.SaveChangesAsync();
        Enqueue(job.Id, kind);
        return job.Id;
    }

    /// <summary>Puts everything that was waiting or running when the program ended back into the queue.</summary>
    public async Task ResumeAsync()
    {
        await using var db = await contexts.CreateDbContextAsync();
        await db.Jobs.Where(j => j.State == JobState.Running).ExecuteUpdateAsync(u => u.SetProperty(j => j.State, JobState.Queued).SetProperty(j => j.Detail, "Goes on after a restart"));
        foreach (var job in await db.Jobs.AsNoTracking().Where(j => j.State == JobState.Queued).OrderBy(j => j.Created).ToListAsync()) Enqueue(job.Id, job.Kind);
    }

    /// <summary>Stops a job that waits or runs.</summary>
    public async Task CancelAsync(Guid id)
    {
        await using var db = await contexts.CreateDbContextAsync();
        await db.Jobs.Where(j => j.Id == id && j.State == JobState.Queued)
            .ExecuteUpdateAsync(u => u.SetProperty(j => j.State, JobState.Cancelled).SetProperty(j => j.Detail, "Cancelled").SetProperty(j => j.Finished, DateTime.UtcNow));
        if (_running.TryGetValue(id, out var source)) await source.CancelAsync();
    }

    /// <summary>Runs a job again that failed or was cancelled.</summary>
    /// <exception cref="NotFoundException">There is no such job to run again.</exception>
    public async Task RetryAsync(Guid id)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var changed = await db.Jobs.Where(j => j.Id == id && (j.State == JobState.Failed || j.State == JobState.Cancelled))
            .ExecuteUpdateAsync(u => u.SetProperty(j => j.State, JobState.Queued).SetProperty(j => j.Error, (string?)null).SetProperty(j => j.Detail, "Waiting").SetProperty(j => j.Finished, (DateTime?)null));
        if (changed == 0) throw new NotFoundException("job to run again");
        Enqueue(id, await db.Jobs.Where(j => j.Id == id).Select(j => j.Kind).FirstAsync());
    }

    /// <summary>Queue of what takes long: a film must not keep a new line waiting.</summary>
    public const string Films = "films";
    /// <summary>Queue of takes, one after another: they are filed in the order in which they were asked for.</summary>
    public const string Voices = "voices";

    private void Enqueue(Guid id, string kind) => queue.Create<JobDesk>(d => d.RunAsync(id), new EnqueuedState(kind == "render" ? Films : Voices));

    /// <summary>Called by the queue.</summary>
    [AutomaticRetry(Attempts = 0)]
    public async Task RunAsync(Guid id)
    {
        await using var db = await contexts.CreateDbContextAsync();
        // Whoever moves the row from waiting to running has the job; a second call finds nothing to do.
        var won = await db.Jobs.Where(j => j.Id == id && j.State == JobState.Queued).ExecuteUpdateAsync(u => u.SetProperty(j => j.State, JobState.Running));
        if (won == 0) return;
        var job = await db.Jobs.AsNoTracking().FirstAsync(j => j.Id == id);
        using var source = new CancellationTokenSource();
        _running[id] = source;
        var (state, error, result) = (JobState.Done, (string?)null, (string?)null);
        try
        {
            result = await handlers.First(h => h.Kind == job.Kind).RunAsync(job, new JobContext(Reporter(id), source.Token));
        }
        catch (OperationCanceledException) when (source.IsCancellationRequested)
        {
            state = JobState.Cancelled;
        }
        catch (Exception e) when (e is MediaException or NotFoundException or StaleRevisionException)
        {
            (state, error) = (JobState.Failed, e.Message);
        }
        catch (IOException e) when (e.Message.Contains("No space left", StringComparison.Ordinal))
        {
            (state, error) = (JobState.Failed, "The disk is full: free some space and run it again; nothing that was there is lost.");
        }
        catch (Exception e)
        {
            log.LogError(e, "Job {Title} failed", job.Title);
            (state, error) = (JobState.Failed, $"Something went wrong that should not have: {e.Message} Run it again; the program's output has the details.");
        }
        finally
        {
            _running.TryRemove(id, out _);
        }
        await db.Jobs.Where(j => j.Id == id).ExecuteUpdateAsync(u => u.SetProperty(j => j.State, state).SetProperty(j => j.Error, error).SetProperty(j => j.Result, result)
            .SetProperty(j => j.Progress, j => state == JobState.Done ? 1 : j.Progress).SetProperty(j => j.Detail, state.ToString()).SetProperty(j => j.Finished, DateTime.UtcNow));
    }

    private Action<double, string> Reporter(Guid id)
    {
        var last = 0L;
        var gate = new Lock();
        return (share, detail) =>
        {
            lock (gate)
            {
                // A few reports a second are enough for a bar.
                var now = Environment.TickCount64;
                if (now - last < 250) return;
                last = now;
            }
            using var db = contexts.CreateDbContext();
            db.Jobs.Where(j => j.Id == id).ExecuteUpdate(u => u.SetProperty(j => j.Progress, share).SetProperty(j => j.Detail, detail));
        };
    }
}
