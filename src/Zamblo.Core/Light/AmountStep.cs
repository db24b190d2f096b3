using Zamblo.Core.Performance;

namespace Zamblo.Core.Light;

/// <summary>There comes to be more or less of something: in the air, or of the lamps' light.</summary>
/// <param name="Amount">How much, 0 to 1.</param>
/// <param name="Start">When it begins to change, in seconds of the scene.</param>
/// <param name="End">When it is there.</param>
public readonly record struct AmountStep(double Amount, double Start, double End)
{
    /// <summary>How much there is at a moment.</summary>
    /// <param name="first">At the beginning.</param>
    /// <param name="steps">In the order of time.</param>
    /// <param name="t">In seconds of the scene.</param>
    public static double At(double first, IEnumerable<AmountStep> steps, double t)
    {
        var amount = first;
        foreach (var step in steps)
            amount += (step.Amount - amount) * Ease.Smooth((t - step.Start) / Math.Max(1e-3, step.End - step.Start));
        return amount;
    }
}
