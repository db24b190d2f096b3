using Zamblo.Core.Mouth;

namespace Zamblo.Core.Performance;

/// <summary>How much moves over one line, beside the dials of whoever says it: 0 is off, 1 as that one moves anyway, up to 1.5.</summary>
public sealed record LineActing
{
    /// <summary>The mouth: factor of its strength.</summary>
    public float Mouth { get; init; } = 1;

    /// <summary>How many shapes are kept, 0 few to 1 all; null as in the member's other lines.</summary>
    public float? Density { get; init; }

    /// <summary>Turns, nods and tilts of the head.</summary>
    public float Head { get; init; } = 1;

    /// <summary>Brows and lids but for blinks.</summary>
    public float Face { get; init; } = 1;

    /// <summary>Body and hands.</summary>
    public float Body { get; init; } = 1;

    // How long before and after the line it comes and goes, in seconds: chosen by eye, as heads come to rest.
    private const double Soft = 0.35;

    /// <summary>The same within its ranges.</summary>
    public LineActing Clamped()
    {
        static float In(float x) => float.IsFinite(x) ? Math.Clamp(x, 0, 1.5f) : 1;
        return new LineActing
        {
            Mouth = In(Mouth),
            Density = Density is { } d && float.IsFinite(d) ? Math.Clamp(d, 0, 1) : null,
            Head = In(Head),
            Face = In(Face),
            Body = In(Body),
        };
    }

    /// <summary>A member's mouth over this line.</summary>
    public MouthDials Over(MouthDials dials) =>
        Mouth == 1 && Density == null ? dials : (dials with { Strength = dials.Strength * Mouth, Density = Density ?? dials.Density }).Clamped();

    /// <summary>Changes a pose as much as the line is on at a moment.</summary>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="start">Of the line.</param>
    /// <param name="end">Of the line.</param>
    /// <param name="pose">Changed.</param>
    public void Apply(double t, double start, double end, ref Pose pose)
    {
        if (Head == 1 && Face == 1 && Body == 1)
            return;
        var on = (float)Ease.Window(t, start, end, Soft, Soft);
        if (on <= 0)
            return;
        float head = 1 + on * (Head - 1),
            face = 1 + on * (Face - 1),
            body = 1 + on * (Body - 1);
        (pose.HeadTurn, pose.HeadNod, pose.HeadTilt) = (pose.HeadTurn * head, pose.HeadNod * head, pose.HeadTilt * head);
        (pose.BrowLeft, pose.BrowRight, pose.BrowKnit, pose.Squint) = (pose.BrowLeft * face, pose.BrowRight * face, pose.BrowKnit * face, pose.Squint * face);
        (pose.Lean, pose.Stretch, pose.ShiftX) = (pose.Lean * body, pose.Stretch * body, pose.ShiftX * body);
        (pose.ArmLeft, pose.ArmRight, pose.ElbowLeft, pose.ElbowRight) = (
            pose.ArmLeft * body,
            pose.ArmRight * body,
            pose.ElbowLeft * body,
            pose.ElbowRight * body
        );
    }
}
