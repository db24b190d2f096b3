using System.Collections.Concurrent;
using Zamblo.Core.Speech;
using Zamblo.Media;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Hearings;

namespace Zamblo.Studio.Farm;

/// <summary>
/// Sounds that workers listen to and texts that they speak, while the studio does others. Whoever has something done gets it from a worker, or hears that
/// none has made it, and does it by himself: nothing waits for a worker that is slow, silent or killed.
/// </summary>
public sealed class ErrandBoard
{
    private static readonly TimeSpan Look = TimeSpan.FromMilliseconds(200),
        Waits = TimeSpan.FromSeconds(1);

    /// <summary>A worker that does not tell of itself for so long is not waited for.</summary>
    public TimeSpan Silence { get; init; } = TimeSpan.FromSeconds(20);

    /// <summary>Nor is one that does not come for it within this time.</summary>
    public TimeSpan Patience { get; init; } = TimeSpan.FromSeconds(5);

    // An hour of sound weighs some megabytes.
    private const long Largest = 256L << 20;

    // One of both.
    private sealed class Errand(Listening? listening, Speaking? speaking, Action<double>? progress)
    {
        public readonly Guid Id = Guid.NewGuid();
        public readonly Listening? Listening = listening;
        public readonly Speaking? Speaking = speaking;
        public readonly Action<double>? Progress = progress;
        public readonly TaskCompletionSource<object?> Result = new(TaskCreationOptions.RunContinuationsAsynchronously);
        public Guid? Worker;
        public DateTime Seen = DateTime.UtcNow;
    }

    private readonly ConcurrentDictionary<Guid, Errand> _errands = new();

    // Workers that wait for something to do, when they last said so, and whether they have the studio's voices.
    private readonly ConcurrentDictionary<Guid, (DateTime At, bool Speaks)> _idle = new();
    private readonly AsyncLocal<Seat?> _seat = new();
    private int _seats;

    /// <summary>A worker that was found free for what follows.</summary>
    private sealed class Seat(ErrandBoard board) : IDisposable
    {
        private int _isLeft;

        public void Leave()
        {
            if (Interlocked.Exchange(ref _isLeft, 1) == 0)
                Interlocked.Decrement(ref board._seats);
        }

        public void Dispose() => Leave();
    }

    /// <summary>Whether a worker waits that nobody has found yet.</summary>
    public bool HasFree => Free(_ => true);

    /// <summary>Whether one waits that has the studio's voices.</summary>
    public bool HasFreeVoice => Free(w => w.Speaks);

    private bool Free(Func<(DateTime At, bool Speaks), bool> isWanted)
    {
        foreach (var (worker, it) in _idle)
            if (DateTime.UtcNow - it.At > Waits)
                _idle.TryRemove(worker, out _);
        return _idle.Values.Count(isWanted) > Volatile.Read(ref _seats);
    }

    /// <summary>
    /// What is to be done from here on, in this flow of work, is offered to a worker that waits; until it is taken, nobody else finds that worker.
    /// </summary>
    public IDisposable TakeSeat()
    {
        Interlocked.Increment(ref _seats);
        var seat = new Seat(this);
        _seat.Value = seat;
        return seat;
    }

    /// <summary>Has a worker listen, where one was found.</summary>
    /// <returns>What it heard; null where the caller is to listen by himself.</returns>
    /// <exception cref="OperationCanceledException">It is not wanted any more.</exception>
    public async Task<SpeechAnalysis?> HearAsync(Listening what, Action<double>? progress, CancellationToken cancel) =>
        await DoAsync(new Errand(what, null, progress), cancel) as SpeechAnalysis;

    /// <summary>Has a worker speak, where one was found.</summary>
    /// <returns>What it spoke; null where the caller is to speak by himself.</returns>
    /// <exception cref="OperationCanceledException">It is not wanted any more.</exception>
    public async Task<SpokenText?> SpeakAsync(Speaking what, CancellationToken cancel) => await DoAsync(new Errand(null, what, null), cancel) as SpokenText;

    private async Task<object?> DoAsync(Errand errand, CancellationToken cancel)
    {
        if (_seat.Value is not { } seat)
            return null;
        _errands[errand.Id] = errand;
        try
        {
            while (await Task.WhenAny(errand.Result.Task, Task.Delay(Look, cancel)) != errand.Result.Task)
            {
                cancel.ThrowIfCancellationRequested();
                if (errand.Worker != null)
                    seat.Leave();
                if (DateTime.UtcNow - errand.Seen > (errand.Worker == null ? Patience : Silence))
                    return null;
            }
            return await errand.Result.Task;
        }
        finally
        {
            _errands.TryRemove(errand.Id, out _);
            seat.Leave();
        }
    }

    /// <summary>Something for a worker that waits; null where there is nothing, or it is at something already.</summary>
    /// <param name="worker">Who.</param>
    /// <param name="speaks">Whether it has the studio's voices.</param>
    internal ErrandLoan? Lend(Guid worker, bool speaks)
    {
        lock (_errands)
        {
            if (_errands.Values.Any(e => e.Worker == worker))
                return null;
            if (_errands.Values.Where(e => e.Worker == null && (speaks || e.Speaking == null)).MinBy(e => e.Seen) is not { } errand)
            {
                _idle[worker] = (DateTime.UtcNow, speaks);
                return null;
            }
            _idle.TryRemove(worker, out _);
            (errand.Seen, errand.Worker) = (DateTime.UtcNow, worker);
            return new ErrandLoan(errand.Id, errand.Listening, errand.Speaking);
        }
    }

    private Errand Of(Guid worker, Guid id) => _errands.TryGetValue(id, out var errand) && errand.Worker == worker ? errand : throw new LoanOverException();

    /// <summary>A worker is still at something.</summary>
    /// <exception cref="LoanOverException">It is not wanted any more.</exception>
    internal void Beat(Guid worker, Guid id, double share)
    {
        var errand = Of(worker, id);
        errand.Seen = DateTime.UtcNow;
        errand.Progress?.Invoke(Math.Clamp(share, 0, 1));
    }

    /// <summary>A worker cannot do something, or goes: whoever wanted it does it by himself.</summary>
    internal void GiveBack(Guid worker, Guid? id = null)
    {
        _idle.TryRemove(worker, out _);
        foreach (var errand in _errands.Values.Where(e => e.Worker == worker && (id == null || e.Id == id)))
            errand.Result.TrySetResult(null);
    }

    /// <summary>The sound that a worker listens to.</summary>
    /// <exception cref="LoanOverException">It is not wanted any more, or there is none.</exception>
    internal string SoundOf(Guid worker, Guid id) => Of(worker, id).Listening?.Hash ?? throw new LoanOverException();

    /// <summary>A file of the voice that a worker speaks with.</summary>
    /// <exception cref="LoanOverException">It is not wanted any more, or there is none.</exception>
    internal string VoiceFileOf(Guid worker, Guid id, string hash) =>
        Of(worker, id).Speaking?.Files.FirstOrDefault(f => f.Hash == hash)?.Path ?? throw new LoanOverException();

    /// <summary>A worker brings what it has heard or spoken. It is looked at before it is taken.</summary>
    /// <returns>Seconds of sound, and whether they were spoken.</returns>
    /// <exception cref="LoanOverException">It is not wanted any more.</exception>
    /// <exception cref="RequestException">It is none, or did not come whole.</exception>
    internal async Task<(double Seconds, bool IsSpoken)> TakeAsync(Guid worker, Guid id, Stream body, string hash, DataFolder folder, CancellationToken cancel)
    {
        var errand = Of(worker, id);
        folder.CheckRoom(16 << 20);
        var part = Path.Combine(folder.Temporary, $"{id:N}-errand.part");
        try
        {
            if (await HashedCopy.WriteAsync(body, part, Largest, cancel) != hash)
                throw new RequestException("What was made did not come whole.");
            var bytes = await File.ReadAllBytesAsync(part, cancel);
            var speech = errand.Speaking == null ? Ears.Read(bytes) : null;
            var spoken = errand.Speaking != null ? Speaking.Read(bytes) : null;
            object made = (object?)speech ?? spoken ?? throw new RequestException("This is not what was asked for.");
            if (!errand.Result.TrySetResult(made))
                throw new LoanOverException();
            return ((speech ?? spoken!.Speech).Duration, spoken != null);
        }
        finally
        {
            File.Delete(part);
        }
    }

    /// <summary>What a worker is at now, as the end of a sentence; null where it is at nothing.</summary>
    /// <param name="worker">Who.</param>
    /// <param name="isTold">Whether names may be told.</param>
    internal string? DoingOf(Guid worker, bool isTold) =>
        _errands.Values.FirstOrDefault(e => e.Worker == worker) is not { } errand ? null
        : errand.Listening is { } listening ? $"listens to {(isTold ? listening.Name : "a sound")}"
        : "speaks a line";
}
