namespace Zamblo.Media;

/// <summary>
/// The chunks of a film that is being drawn, for all who draw them. This machine takes from the front, helpers are lent from the end. Nobody waits for a
/// helper: when nothing else is left, this machine draws what is lent as well, and whoever is first has done it.
/// </summary>
public sealed class ChunkBoard
{
    private sealed class Loan
    {
        public bool IsDrawnHere;
        public readonly CancellationTokenSource Elsewhere = new();
    }

    private readonly Lock _gate = new();
    private readonly LinkedList<FilmChunk> _waiting;
    private readonly Dictionary<FilmChunk, Loan> _lent = new(ReferenceEqualityComparer.Instance);
    private readonly HashSet<FilmChunk> _finished = new(ReferenceEqualityComparer.Instance);
    private readonly Dictionary<FilmChunk, int> _here = new(ReferenceEqualityComparer.Instance);
    private readonly Action<int>? _progress;
    private TaskCompletionSource _changed = new(TaskCreationOptions.RunContinuationsAsynchronously);
    private int _framesDone;

    /// <param name="chunks">Of the film; those that are there already are not drawn again.</param>
    /// <param name="progress">Frames done.</param>
    internal ChunkBoard(IReadOnlyList<FilmChunk> chunks, Action<int>? progress)
    {
        _progress = progress;
        _waiting = new(chunks.Where(c => !File.Exists(c.Path)).DistinctBy(c => c.Path));
        _framesDone = chunks.Sum(c => c.Count) - _waiting.Sum(c => c.Count);
        // In use: a sweep takes the oldest.
        foreach (var chunk in chunks.Where(c => File.Exists(c.Path)))
            File.SetLastAccessTimeUtc(chunk.Path, DateTime.UtcNow);
        progress?.Invoke(_framesDone);
    }

    /// <summary>How many nobody has taken yet.</summary>
    public int Waiting
    {
        get
        {
            lock (_gate)
                return _waiting.Count;
        }
    }

    /// <summary>The next one to be drawn on this machine; null when all are done.</summary>
    /// <param name="cancel">Stops waiting.</param>
    /// <returns>It, and what is cancelled when a helper was quicker.</returns>
    internal async Task<(FilmChunk Chunk, CancellationToken IsElsewhere)?> NextAsync(CancellationToken cancel)
    {
        while (true)
        {
            Task changed;
            lock (_gate)
            {
                if (_waiting.First is { } first)
                {
                    _waiting.RemoveFirst();
                    return (first.Value, CancellationToken.None);
                }
                if (_lent.FirstOrDefault(l => !l.Value.IsDrawnHere) is { Key: { } lent, Value: { } loan })
                {
                    loan.IsDrawnHere = true;
                    return (lent, loan.Elsewhere.Token);
                }
                if (_lent.Count == 0)
                    return null;
                changed = _changed.Task;
            }
            await changed.WaitAsync(cancel);
        }
    }

    /// <summary>Lends a chunk to a helper; null when there is none that nobody has.</summary>
    public FilmChunk? Lend()
    {
        lock (_gate)
        {
            if (_waiting.Last is not { } last)
                return null;
            _waiting.RemoveLast();
            _lent[last.Value] = new Loan();
            return last.Value;
        }
    }

    /// <summary>A helper does not draw it after all: it waits again, unless it is drawn here by now.</summary>
    public void GiveBack(FilmChunk chunk)
    {
        lock (_gate)
        {
            if (!_lent.Remove(chunk, out var loan))
                return;
            if (!loan.IsDrawnHere)
                _waiting.AddFirst(chunk);
            Change();
        }
    }

    /// <summary>A chunk's file is there. False when it was there before, by somebody else.</summary>
    public bool Finish(FilmChunk chunk)
    {
        int? frames = null;
        lock (_gate)
        {
            if (!_finished.Add(chunk))
                return false;
            // What was counted of it while it was drawn here is not counted twice.
            if (chunk.Count - _here.GetValueOrDefault(chunk) is > 0 and var rest)
                frames = _framesDone += rest;
            if (_lent.Remove(chunk, out var loan))
            {
                loan.Elsewhere.Cancel();
                Change();
            }
        }
        if (frames is { } done)
            _progress?.Invoke(done);
        return true;
    }

    /// <summary>A frame of a chunk is drawn on this machine.</summary>
    internal void Count(FilmChunk chunk)
    {
        int done;
        lock (_gate)
        {
            if (_finished.Contains(chunk))
                return;
            _here[chunk] = _here.GetValueOrDefault(chunk) + 1;
            done = ++_framesDone;
        }
        _progress?.Invoke(done);
    }

    private void Change()
    {
        _changed.TrySetResult();
        _changed = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
    }
}
