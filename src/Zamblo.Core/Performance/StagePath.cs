namespace Zamblo.Core.Performance;

/// <summary>How a figure gets from one place to another.</summary>
public enum Gait
{
    /// <summary>On its legs, step by step.</summary>
    Step,

    /// <summary>In hops: jars and clocks.</summary>
    Hop,

    /// <summary>Without touching the ground: whatever flies.</summary>
    Glide,
}

/// <summary>A walk from where the figure is to a mark.</summary>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="End">In seconds of the scene.</param>
/// <param name="To">Where to, in heights of the drawing to the picture's right of its own place.</param>
/// <param name="From">Where from: it stands there from the beginning, as for an entrance; null for where the walk before has led.</param>
public readonly record struct Walk(double Start, double End, float To, float? From = null);

/// <summary>
/// Where a figure goes over a scene. A walk starts and ends softly; feet are put down once per step and stay there while the body goes on.
/// </summary>
public sealed class StagePath
{
    // Share of a step in which its foot is in the air (common practice: a walk has each foot on the ground about 60 % of the time).
    private const double Air = 0.8;
    private readonly (Walk Walk, float From, int Steps)[] _walks;
    private readonly Gait _gait;

    /// <summary>Lays walks one after another.</summary>
    /// <param name="walks">In any order; where two overlap the later one starts where the earlier one would lead.</param>
    /// <param name="gait">How.</param>
    /// <param name="stride">Of a step or hop, in heights of the drawing.</param>
    public StagePath(IEnumerable<Walk> walks, Gait gait, float stride = 0.16f)
    {
        _gait = gait;
        var list = new List<(Walk, float, int)>();
        float at = 0;
        foreach (var walk in walks.OrderBy(w => w.Start))
        {
            var from = walk.From ?? at;
            // No fewer steps than the way needs, and no quicker than three a second.
            var steps = Math.Max(1, Math.Min((int)Math.Round(Math.Abs(walk.To - from) / stride), (int)Math.Ceiling(3.2 * (walk.End - walk.Start))));
            list.Add((walk, from, steps));
            at = walk.To;
        }
        _walks = [.. list];
    }

    /// <summary>Where the figure is, in heights of the drawing to the picture's right of its own place.</summary>
    public float At(double t)
    {
        if (_walks.Length == 0)
            return 0;
        var (walk, from, _) = _walks[Index(t)];
        return from + (walk.To - from) * (float)Share(walk, t);
    }

    private int Index(double t)
    {
        var i = 0;
        while (i + 1 < _walks.Length && t >= _walks[i + 1].Walk.Start)
            i++;
        return i;
    }

    private static double Share(in Walk walk, double t) => Ease.Smooth((t - walk.Start) / Math.Max(0.05, walk.End - walk.Start));

    /// <summary>Moves a pose along.</summary>
    public void Apply(double t, ref Pose pose)
    {
        if (_walks.Length == 0)
            return;
        var (walk, from, steps) = _walks[Index(t)];
        var share = Share(walk, t);
        var way = walk.To - from;
        pose.ShiftX += from + way * (float)share;
        if (share is <= 0 or >= 1)
            return;
        // Into and out of walking: the first and the last step are smaller in everything.
        var vigour = (float)Math.Min(1, 4 * Math.Min(share, 1 - share) + 0.25);
        // Who walks swings its arms.
        var free = 1 - (float)Ease.Smooth(8 * Math.Min(share, 1 - share));
        pose.HandLeft *= free;
        pose.HandRight *= free;
        var direction = Math.Sign(way);
        var calm = Math.Clamp(Math.Abs(way) / (float)Math.Max(0.05, walk.End - walk.Start) / 0.35f, 0.3f, 1.3f);
        pose.HeadTurn += 13 * direction * vigour;
        pose.Lean += 2.2f * direction * calm * vigour;
        var phase = share * steps;
        var step = Math.Min(steps - 1, (int)phase);
        var within = phase - step;
        switch (_gait)
        {
            case Gait.Step:
                pose.Crouch += 0.012f * vigour * (float)(0.5 + 0.5 * Math.Cos(2 * Math.PI * within));
                // The foot in the direction of the way goes first.
                Feet(ref pose, direction, step, steps, within, way, share, vigour);
                var swing = (step % 2 == 0 ? 1 : -1) * (float)Math.Sin(Math.PI * within) * vigour * calm;
                pose.ArmLeft += 7 * (1 - swing);
                pose.ArmRight += 7 * (1 + swing);
                break;
            case Gait.Hop:
                var air = (float)Math.Sin(Math.PI * within);
                pose.Rise += 0.075f * air * vigour * calm;
                // Flat on the ground, long in the air.
                pose.Stretch += vigour * calm * (0.05f * air - 0.06f * (float)Math.Pow(1 - air, 4));
                break;
            case Gait.Glide:
                pose.Lean += 5 * direction * vigour;
                break;
        }
    }

    // A step moves one foot over the others' place; on the last one both come to stand side by side.
    private static void Feet(ref Pose pose, int direction, int step, int steps, double within, float way, double share, float vigour)
    {
        // Foot 0 leads. In step n foot n % 2 moves; feet are seen against the body, which goes on evenly with the share.
        double Planted(int foot, int n)
        {
            // Where this foot was put down last, in shares of the way, before step n begins.
            var last = n - 1;
            while (last >= 0 && last % 2 != foot)
                last--;
            return last < 0 ? 0 : Math.Min(1, (last + 1.5) / steps);
        }
        double Place(int foot)
        {
            var from = Planted(foot, step);
            if (step % 2 != foot)
                return from;
            var to = step == steps - 1 ? 1 : Math.Min(1, (step + 1.5) / steps);
            return from + (to - from) * Ease.Smooth(within / Air);
        }
        float lead = (float)(Place(0) - share) * way,
            trail = (float)(Place(1) - share) * way;
        // The trailing foot closes up with the end of the last step.
        if (step == steps - 1)
            (lead, trail) = (lead * (float)(1 - Ease.Smooth((within - 0.5) * 2)), trail * (float)(1 - Ease.Smooth((within - 0.5) * 2)));
        var up = 0.035f * vigour * (float)Math.Sin(Math.PI * Math.Min(1, within / Air));
        var (leadUp, trailUp) = step % 2 == 0 ? (up, 0f) : (0f, up);
        if (direction > 0)
            (pose.FootRightX, pose.FootRightUp, pose.FootLeftX, pose.FootLeftUp) = (
                pose.FootRightX + lead,
                pose.FootRightUp + leadUp,
                pose.FootLeftX + trail,
                pose.FootLeftUp + trailUp
            );
        else
            (pose.FootLeftX, pose.FootLeftUp, pose.FootRightX, pose.FootRightUp) = (
                pose.FootLeftX + lead,
                pose.FootLeftUp + leadUp,
                pose.FootRightX + trail,
                pose.FootRightUp + trailUp
            );
    }
}
