using System.Collections.Concurrent;

namespace Zamblo.Storm;

/// <summary>What a storm's clients were told: it has to hold afterwards.</summary>
public sealed class Ledger
{
    /// <summary>Titles that were set, by scene: the number of the last one that was acknowledged, and of the last that was sent.</summary>
    public ConcurrentDictionary<string, (int Acknowledged, int Sent)> Titles { get; } = new();

    /// <summary>Work that was taken on: the job, whose production, in which scene, and the words or the name that tell its line.</summary>
    public ConcurrentQueue<(string Job, string Production, string Scene, string Mark)> Lines { get; } = new();

    /// <summary>Lines whose order may or may not have been taken on.</summary>
    public ConcurrentDictionary<string, byte> Unsure { get; } = new();

    /// <summary>Films that were taken on: the job, whose production, frames of the scene.</summary>
    public ConcurrentQueue<(string Job, string Production, int Frames)> Films { get; } = new();

    /// <summary>Answers that are never right: 500, or none though the server was there.</summary>
    public ConcurrentQueue<string> Faults { get; } = new();

    private int _edits,
        _full,
        _away,
        _uploads,
        _hostile,
        _cut;

    public int Edits => _edits;
    public int Full => _full;
    public int Away => _away;
    public int Uploads => _uploads;
    public int Hostile => _hostile;
    public int Cut => _cut;

    public void CountEdit() => Interlocked.Increment(ref _edits);

    public void CountFull() => Interlocked.Increment(ref _full);

    public void CountAway() => Interlocked.Increment(ref _away);

    public void CountUpload() => Interlocked.Increment(ref _uploads);

    public void CountHostile() => Interlocked.Increment(ref _hostile);

    public void CountCut() => Interlocked.Increment(ref _cut);
}
