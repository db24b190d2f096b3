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

/// <summary>In what manner somebody goes.</summary>
public enum WalkManner
{
    /// <summary>As anybody walks.</summary>
    Walk,

    /// <summary>At ease, leaning back a little.</summary>
    Stroll,

    /// <summary>Bent, on high and small steps, arms out: not to be heard.</summary>
    Tiptoe,

    /// <summary>As fast as it goes, both feet in the air between steps.</summary>
    Run,

    /// <summary>On both feet, hop by hop.</summary>
    Hop,
}

/// <summary>A walk from where the figure is to a mark.</summary>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="End">In seconds of the scene.</param>
/// <param name="To">Where to, in heights of the drawing to the picture's right of its own place.</param>
/// <param name="From">Where from: it stands there from the beginning, as for an entrance; null for where the walk before has led.</param>
/// <param name="Manner">How.</param>
public readonly record struct Walk(double Start, double End, float To, float? From = null, WalkManner Manner = WalkManner.Walk);

/// <summary>
/// Where a figure goes over a scene. A walk starts and ends softly; feet are put down once per step and stay there while the body goes on.
/// </summary>
public sealed class StagePath
{
    // Share of a step in which its foot is in the air (common practice: a walk has each foot on the ground about 60 % of the time).
    private const double Air = 0.8;
    private readonly (Walk Walk, float From, int Steps)[] _walks;
    private readonly Gait _gait;

    // What makes a manner of going: lengths of steps by the usual one, the most of them a second, how high feet go and how deep the body (in heights of the
    // drawing), how far it leans and arms swing, how bent elbows are (degrees), how far the body flies, and how high hops are by the usual one. Chosen by eye.
    private readonly record struct Style(
        float Stride,
        double Most,
        float Lift,
        float Crouch,
        float Bent,
        float Lean,
        float Swing,
        float Elbow,
        float Flight,
        float Height
    );

    private static Style Of(WalkManner manner) =>
        manner switch
        {
            WalkManner.Stroll => new Style(0.85f, 2.2, 0.024f, 0.008f, 0, -1.4f, 5, 0, 0, 0.7f),
            WalkManner.Tiptoe => new Style(0.6f, 2.8, 0.06f, 0.01f, 0.028f, 6, 2, 75, 0, 0.35f),
            WalkManner.Run => new Style(1.7f, 4.6, 0.075f, 0.03f, 0.006f, 10, 26, 80, 0.03f, 1.35f),
            _ => new Style(1, 3.2, 0.035f, 0.012f, 0, 2.2f, 7, 0, 0, 1),
        };

    /// <summary>How fast a manner is by a usual walk.</summary>
    public static double PaceOf(WalkManner manner) =>
        manner switch
        {
            WalkManner.Stroll => 0.65,
            WalkManner.Tiptoe => 0.45,
            WalkManner.Run => 2.4,
            WalkManner.Hop => 0.9,
            _ => 1,
        };

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
            var style = Of(walk.Manner);
            // No fewer steps than the way needs, and no quicker than legs go.
            var steps = Math.Max(
                1,
                Math.Min((int)Math.Round(Math.Abs(walk.To - from) / (stride * style.Stride)), (int)Math.Ceiling(style.Most * (walk.End - walk.Start)))
            );
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
        var style = Of(walk.Manner);
        // Who walks a long way in little time puts more into it; the other manners are what they are.
        var calm = Math.Clamp(Math.Abs(way) / (float)Math.Max(0.05, walk.End - walk.Start) / 0.35f, 0.3f, 1.3f);
        pose.HeadTurn += 13 * direction * vigour;
        var effort = walk.Manner == WalkManner.Walk ? calm : 1;
        pose.Lean += style.Lean * direction * effort * vigour;
        var phase = share * steps;
        var step = Math.Min(steps - 1, (int)phase);
        var within = phase - step;
        switch (_gait == Gait.Step && walk.Manner == WalkManner.Hop ? Gait.Hop : _gait)
        {
            case Gait.Step:
                pose.Crouch += vigour * (style.Bent + style.Crouch * (float)(0.5 + 0.5 * Math.Cos(2 * Math.PI * within)));
                pose.Rise += style.Flight * vigour * (float)Math.Sin(Math.PI * within);
                // The foot in the direction of the way goes first.
                Feet(ref pose, direction, step, steps, within, way, share, style.Lift * vigour);
                var swing = (step % 2 == 0 ? 1 : -1) * (float)Math.Sin(Math.PI * within) * vigour * effort;
                pose.ArmLeft += style.Swing * (1 - swing) + 0.3f * style.Elbow * vigour;
                pose.ArmRight += style.Swing * (1 + swing) + 0.3f * style.Elbow * vigour;
                pose.ElbowLeft += style.Elbow * vigour;
                pose.ElbowRight += style.Elbow * vigour;
                if (walk.Manner == WalkManner.Run)
                {
                    // Fists before the body, one up and one down, where there are elbows; places as for hands at rest, in lengths of the arm.
                    (pose.HandLeft, pose.HandLeftX, pose.HandLeftY) = (vigour, 0.16f, 0.55f + 0.22f * swing);
                    (pose.HandRight, pose.HandRightX, pose.HandRightY) = (vigour, -0.16f, 0.55f - 0.22f * swing);
                }
                break;
            case Gait.Hop:
                var air = (float)Math.Sin(Math.PI * within);
                pose.Rise += 0.075f * air * vigour * calm * style.Height;
                // Flat on the ground, long in the air.
                pose.Stretch += vigour * calm * (0.05f * air - 0.06f * (float)Math.Pow(1 - air, 4));
                break;
            case Gait.Glide:
                pose.Lean += 5 * direction * vigour;
                break;
        }
    }

    // A step moves one foot over the others' place; on the last one both come to stand side by side.
    private static void Feet(ref Pose pose, int direction, int step, int steps, double within, float way, double share, float lift)
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
        var up = lift * (float)Math.Sin(Math.PI * Math.Min(1, within / Air));
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
