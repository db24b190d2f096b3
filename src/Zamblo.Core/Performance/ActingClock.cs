namespace Zamblo.Core.Performance;

/// <summary>
/// The time that whatever wanders by itself follows: heads that drift, breath, weight from leg to leg. It begins anew with every turn at talk, out of what is
/// said in it, and runs faster or slower with the mood; from one turn's time to the next one's it goes softly. What comes before a turn has no part in how
/// it is acted: one that comes later, because a line before it became longer, is acted as it was.
/// </summary>
internal sealed class ActingClock
{
    // From one turn's time into the next one's, in seconds; turns that follow sooner have none of their own.
    private const double Over = 1.2;

    // How fine the mood's tempo is followed, in seconds.
    private const double Step = 0.1;

    // Turns begin somewhere within so many seconds of what wanders.
    private const double Wide = 1000;

    // A turn's time: when it begins, what time that is, and how far it has run after each step.
    private readonly record struct Run(double Start, double Origin, double[]? Steps)
    {
        public double At(double t)
        {
            var passed = t - Start;
            if (Steps == null)
                return Origin + passed;
            var at = Math.Clamp(passed / Step, 0, Steps.Length - 1.001);
            var i = (int)at;
            return Origin + Steps[i] + (at - i) * (Steps[i + 1] - Steps[i]);
        }
    }

    private readonly List<Run> _runs = [];

    /// <summary>Follows the turns of a scene.</summary>
    /// <param name="floor">Who speaks when.</param>
    /// <param name="moods">They give the tempo.</param>
    /// <param name="duration">Of the scene, in seconds.</param>
    /// <param name="random">Of the figure.</param>
    public ActingClock(Floor floor, IReadOnlyList<MoodSpan> moods, double duration, SeededRandom random)
    {
        // Before anybody speaks it is the first turn's time already: nothing wanders into it.
        var starts = new List<(double Start, int Key)>();
        for (var i = 0; i < floor.Turns.Count; i++)
            if (i == 0 || floor.Turns[i].Start - floor.Turns[i - 1].Start >= Over)
                starts.Add((floor.Turns[i].Start, floor.Turns[i].Key));
        if (starts.Count == 0)
            starts.Add((0, 0));
        for (var i = 0; i < starts.Count; i++)
        {
            var (start, key) = starts[i];
            var from = i == 0 ? Math.Min(0, start) : start;
            var until = i + 1 < starts.Count ? starts[i + 1].Start + Over : Math.Max(duration, start) + 2;
            _runs.Add(new Run(from, Wide * random.Fork(key).Uniform(0) - (start - from), StepsOf(moods, from, until)));
        }
    }

    private static double[]? StepsOf(IReadOnlyList<MoodSpan> moods, double from, double until)
    {
        // In a long scene most moods are elsewhere.
        MoodSpan[] near = [.. moods.Where(m => m.Start - m.Reach < until && m.End + m.Reach > from)];
        if (near.Length == 0)
            return null;
        var steps = new double[(int)((until - from) / Step) + 3];
        for (var i = 1; i < steps.Length; i++)
            steps[i] = steps[i - 1] + Step * (1 + Math.Clamp(Moods.MixAt(near, from + (i - 0.5) * Step).Tempo, -0.6, 0.6));
        return steps;
    }

    /// <summary>The time that holds.</summary>
    /// <param name="t">In seconds of the scene.</param>
    public Moment At(double t)
    {
        var i = Math.Max(0, Sorted.UpTo(_runs, t, static run => run.Start) - 1);
        var share = i == 0 ? 1 : (float)Ease.Smooth((t - _runs[i].Start) / Over);
        return share >= 1 ? new Moment(_runs[i].At(t), 0, 1) : new Moment(_runs[i].At(t), _runs[i - 1].At(t), share);
    }

    /// <summary>A turn's time, and as long as it goes over into it, that of the turn before.</summary>
    /// <param name="Now">Of the turn.</param>
    /// <param name="Before">Of the turn before.</param>
    /// <param name="Share">How much of the first, 0 to 1.</param>
    internal readonly record struct Moment(double Now, double Before, float Share)
    {
        /// <summary>What wanders, at this moment: both, as far as each holds.</summary>
        public float Of<T>(T wander, Func<T, double, float> at)
        {
            if (Share >= 1)
                return at(wander, Now);
            // Of two that know nothing of each other the mean wanders less than either: as far as before.
            var both = Share * at(wander, Now) + (1 - Share) * at(wander, Before);
            return both / MathF.Sqrt(Share * Share + (1 - Share) * (1 - Share));
        }

        /// <summary>A drift at this moment, -1 to 1 and now and then a little more.</summary>
        public float Of(Drift drift, double hz) => Of((drift, hz), static (d, t) => d.drift.At(t, d.hz));
    }
}
