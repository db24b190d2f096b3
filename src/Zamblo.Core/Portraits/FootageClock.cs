namespace Zamblo.Core.Portraits;

/// <summary>A stretch of a scene in which a clip is played from another moment, or at another pace.</summary>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="End">In seconds of the scene.</param>
/// <param name="From">What of the clip is shown at its start, in seconds of what is played of it (<see cref="PlateCourse"/>).</param>
/// <param name="Speed">1 as it was filmed, 0.5 at half that pace, 0 for a held frame.</param>
public readonly record struct FootageRun(double Start, double End, double From, double Speed)
{
    /// <summary>Fastest.</summary>
    public const double Fastest = 4;
}

/// <summary>
/// What of a clip is shown at which moment of a scene. Before the first run it plays from its beginning; in a run as the run says; after one it goes on at its
/// own pace from where that ended. Of runs that overlap the one that started last counts.
/// </summary>
public sealed class FootageClock
{
    private readonly FootageRun[] _runs;

    /// <summary>A clip that plays from its beginning, at its own pace.</summary>
    public static FootageClock Plain { get; } = new([]);

    /// <param name="runs">In any order.</param>
    public FootageClock(IEnumerable<FootageRun> runs) => _runs = [.. runs.OrderBy(r => r.Start).ThenBy(r => r.End)];

    /// <summary>Its runs, in order.</summary>
    public IReadOnlyList<FootageRun> Runs => _runs;

    /// <summary>Where the clip is.</summary>
    /// <param name="t">In seconds of the scene.</param>
    /// <returns>In seconds of what is played of the clip, 0 or more.</returns>
    public double At(double t)
    {
        var (low, high) = (0, _runs.Length);
        while (low < high)
        {
            var middle = (low + high) / 2;
            // Moments of frames and of words are sums: one that is meant to be the same may lie a little before.
            if (_runs[middle].Start <= t + 1e-6)
                low = middle + 1;
            else
                high = middle;
        }
        if (low == 0)
            return Math.Max(0, t);
        var run = _runs[low - 1];
        return Math.Max(0, run.From + run.Speed * (Math.Min(t, run.End) - run.Start) + Math.Max(0, t - run.End));
    }
}
