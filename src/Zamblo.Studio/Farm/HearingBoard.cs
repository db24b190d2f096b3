using System.Collections.Concurrent;
using Zamblo.Core.Speech;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Hearings;

namespace Zamblo.Studio.Farm;

/// <summary>
/// Sounds that workers listen to while the studio listens to others. Whoever has a sound heard gets its analysis from a worker, or hears that none has made
/// it, and listens by himself: nothing waits for a worker that is slow, silent or killed.
/// </summary>
public sealed class HearingBoard
{
    private static readonly TimeSpan Look = TimeSpan.FromMilliseconds(200),
        Waits = TimeSpan.FromSeconds(1);

    /// <summary>A worker that does not speak of its sound for so long is not waited for.</summary>
    public TimeSpan Silence { get; init; } = TimeSpan.FromSeconds(20);

    /// <summary>Nor is one that does not come for it within this time.</summary>
    public TimeSpan Patience { get; init; } = TimeSpan.FromSeconds(5);

    // An hour of sound weighs some megabytes.
    private const long Largest = 256L << 20;

    private sealed class Errand(Listening what, Action<double>? progress)
    {
        public readonly Guid Id = Guid.NewGuid();
        public readonly Listening What = what;
        public readonly Action<double>? Progress = progress;
        public readonly TaskCompletionSource<SpeechAnalysis?> Result = new(TaskCreationOptions.RunContinuationsAsynchronously);
        public Guid? Worker;
        public DateTime Seen = DateTime.UtcNow;
    }

    private readonly ConcurrentDictionary<Guid, Errand> _errands = new();

    // Workers that wait for something to do, and when they last said so.
    private readonly ConcurrentDictionary<Guid, DateTime> _idle = new();
    private readonly AsyncLocal<Seat?> _seat = new();
    private int _seats;

    /// <summary>A worker that was found free for what follows.</summary>
    private sealed class Seat(HearingBoard board) : IDisposable
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
    public bool HasFree
    {
        get
        {
            foreach (var (worker, at) in _idle)
                if (DateTime.UtcNow - at > Waits)
                    _idle.TryRemove(worker, out _);
            return _idle.Count > Volatile.Read(ref _seats);
        }
    }

    /// <summary>
    /// What is listened to from here on, in this flow of work, is offered to a worker that waits; until it is taken, nobody else finds that worker.
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
    public async Task<SpeechAnalysis?> HearAsync(Listening what, Action<double>? progress, CancellationToken cancel)
    {
        if (_seat.Value is not { } seat)
            return null;
        var errand = new Errand(what, progress);
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

    /// <summary>A sound for a worker that waits; null where there is none, or it is at one already.</summary>
    internal HearingLoan? Lend(Guid worker)
    {
        lock (_errands)
        {
            if (_errands.Values.Any(e => e.Worker == worker))
                return null;
            if (_errands.Values.Where(e => e.Worker == null).MinBy(e => e.Seen) is not { } errand)
            {
                _idle[worker] = DateTime.UtcNow;
                return null;
            }
            _idle.TryRemove(worker, out _);
            (errand.Seen, errand.Worker) = (DateTime.UtcNow, worker);
            return new HearingLoan(errand.Id, errand.What);
        }
    }

    private Errand Of(Guid worker, Guid id) => _errands.TryGetValue(id, out var errand) && errand.Worker == worker ? errand : throw new LoanOverException();

    /// <summary>A worker is still at a sound.</summary>
    /// <exception cref="LoanOverException">It is not wanted any more.</exception>
    internal void Beat(Guid worker, Guid id, double share)
    {
        var errand = Of(worker, id);
        errand.Seen = DateTime.UtcNow;
        errand.Progress?.Invoke(Math.Clamp(share, 0, 1));
    }

    /// <summary>A worker cannot listen to a sound, or goes: whoever wanted it listens by himself.</summary>
    internal void GiveBack(Guid worker, Guid? id = null)
    {
        _idle.TryRemove(worker, out _);
        foreach (var errand in _errands.Values.Where(e => e.Worker == worker && (id == null || e.Id == id)))
            errand.Result.TrySetResult(null);
    }

    /// <summary>The sound that a worker has.</summary>
    /// <exception cref="LoanOverException">It is not wanted any more.</exception>
    internal string SoundOf(Guid worker, Guid id) => Of(worker, id).What.Hash;

    /// <summary>A worker brings what it has heard. It is looked at before it is taken.</summary>
    /// <returns>Seconds of sound that were listened to.</returns>
    /// <exception cref="LoanOverException">It is not wanted any more.</exception>
    /// <exception cref="RequestException">It is none, or did not come whole.</exception>
    internal async Task<double> TakeAsync(Guid worker, Guid id, Stream body, string hash, DataFolder folder, CancellationToken cancel)
    {
        var errand = Of(worker, id);
        folder.CheckRoom(16 << 20);
        var part = Path.Combine(folder.Temporary, $"{id:N}-speech.part");
        try
        {
            if (await HashedCopy.WriteAsync(body, part, Largest, cancel) != hash)
                throw new RequestException("What was heard did not come whole.");
            var speech = Ears.Read(await File.ReadAllBytesAsync(part, cancel)) ?? throw new RequestException("This is not what was asked for.");
            if (!errand.Result.TrySetResult(speech))
                throw new LoanOverException();
            return speech.Duration;
        }
        finally
        {
            File.Delete(part);
        }
    }

    /// <summary>What a worker listens to now; null where it does not.</summary>
    internal string? NameOf(Guid worker) => _errands.Values.FirstOrDefault(e => e.Worker == worker)?.What.Name;
}
