using System.Numerics;

namespace Zamblo.Core.Performance;

/// <summary>A hand that takes something, carries it and puts it down. Places are seen from the shoulder, in lengths of the arm, right and down.</summary>
/// <param name="Start">Taken, in seconds of the scene.</param>
/// <param name="End">Put down, in seconds of the scene.</param>
/// <param name="Right">The hand at the picture's right.</param>
/// <param name="Carry">Where it is carried.</param>
/// <param name="From">Where it is taken; null where that is out of reach.</param>
/// <param name="To">Where it is put down; null where that is out of reach.</param>
public readonly record struct CarrySpan(double Start, double End, bool Right, Vector2 Carry, Vector2? From, Vector2? To)
{
    // How long a hand takes to its load and away from it, and from there to where it carries it, in seconds.
    private const double Reach = 0.5,
        Lift = 0.5;

    // A load still moves a little with what the arm would do.
    private const float Firm = 0.92f;

    /// <summary>Sends the hand.</summary>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="pose">Changed.</param>
    public void Apply(double t, ref Pose pose)
    {
        var weight = Firm * (float)Ease.Window(t, Start, End, Reach, Reach);
        if (weight <= 0)
            return;
        var place = Carry;
        if (From is { } from)
            place = Vector2.Lerp(from, place, (float)Ease.Smooth((t - Start) / Lift));
        if (To is { } to)
            place = Vector2.Lerp(to, place, (float)Ease.Smooth((End - t) / Lift));
        if (weight > 0.5f && Right)
            pose.HandShapeRight = HandShape.Hold;
        else if (weight > 0.5f)
            pose.HandShapeLeft = HandShape.Hold;
        // A hand that only hangs has no place of its own to come from.
        float rested = (Right ? pose.HandRight : pose.HandLeft) * (1 - weight),
            whole = weight + rested;
        var at = Vector2.Lerp(Right ? new Vector2(pose.HandRightX, pose.HandRightY) : new Vector2(pose.HandLeftX, pose.HandLeftY), place, weight / whole);
        if (Right)
            (pose.HandRight, pose.HandRightX, pose.HandRightY) = (whole, at.X, at.Y);
        else
            (pose.HandLeft, pose.HandLeftX, pose.HandLeftY) = (whole, at.X, at.Y);
    }
}
