namespace Zamblo.Core.Performance;

/// <summary>
/// The moments at which one is cut off by somebody else: what moves by itself stops dead with the last sound, is held for a little, and then goes on (the
/// moving hold of animators, common practice). Whatever follows the voice asks here what time it is for it.
/// </summary>
internal sealed class HeldMoments
{
    // So long it takes to stop, it is held, and what was left out is made good, in seconds. Chosen by eye.
    private const double Stop = 0.12,
        Hold = 0.65,
        After = 0.8;

    // Somebody who comes in so shortly before the end, in seconds, follows and does not cut off; who comes in sooner than this has begun with one; and who
    // says no more than this has only agreed.
    private const double Latch = 0.08,
        Settled = 0.3,
        Takes = 0.35;

    // Of what one says after the other has come in, in seconds: whoever goes on longer has kept the floor.
    private const double Longest = 1.6;

    private readonly List<double> _starts = [];

    /// <summary>Finds them.</summary>
    /// <param name="floor">Who speaks when.</param>
    public HeldMoments(Floor floor)
    {
        foreach (var own in floor.Turns.Where(t => t.Who < 0))
        {
            var isCut = floor.Turns.Any(t =>
                t.Who >= 0 && t.Start > own.Start + Settled && t.Start < own.End - Latch && own.End - t.Start < Longest && t.End > own.End + Takes
            );
            if (isCut && (_starts.Count == 0 || own.End > _starts[^1] + Hold + After))
                _starts.Add(own.End - Stop / 2);
        }
    }

    /// <summary>When each begins, in seconds of the scene.</summary>
    public IReadOnlyList<double> Starts => _starts;

    /// <summary>The time for what is held, in seconds of the scene: never later than it is.</summary>
    /// <param name="t">In seconds of the scene.</param>
    public double At(double t)
    {
        var i = Sorted.UpTo(_starts, t, static s => s) - 1;
        if (i < 0)
            return t;
        var passed = t - _starts[i];
        const double lost = Hold - Stop / 2;
        // From its own speed to none in a moment; the integral of the smooth step is x^3 - x^4 / 2.
        if (passed < Stop)
            return t - Stop * Math.Pow(passed / Stop, 3) * (1 - passed / Stop / 2);
        return passed < Hold ? t - (passed - Stop / 2) : t - lost * (1 - Ease.Smooth((passed - Hold) / After));
    }
}
