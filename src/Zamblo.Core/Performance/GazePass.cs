namespace Zamblo.Core.Performance;

/// <summary>What a look that was set by hand goes to: the camera, a partner, or a point.</summary>
public readonly record struct LookTarget
{
    private LookTarget(int? partner, float x, float y, bool isCamera) => (Partner, X, Y, IsCamera) = (partner, x, y, isCamera);

    /// <summary>Into the camera.</summary>
    public static LookTarget Camera { get; } = new(null, 0, 0, true);

    /// <summary>To one of the others, by index among them; wherever they are.</summary>
    public static LookTarget At(int partner) => new(partner, 0, 0, false);

    /// <summary>To a point.</summary>
    /// <param name="x">To the picture's right, -1 to 1.</param>
    /// <param name="y">Down, -1 to 1.</param>
    public static LookTarget At(float x, float y) => new(null, Math.Clamp(x, -1, 1), Math.Clamp(y, -1, 1), false);

    /// <summary>Index of the partner, or null.</summary>
    public int? Partner { get; }

    /// <summary>Of a point, to the picture's right.</summary>
    public float X { get; }

    /// <summary>Of a point, down.</summary>
    public float Y { get; }

    /// <summary>Whether it is the camera.</summary>
    public bool IsCamera { get; }
}

/// <summary>A look that was set by hand.</summary>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="End">In seconds of the scene.</param>
/// <param name="Target">What is looked at.</param>
public readonly record struct LookSpan(double Start, double End, LookTarget Target);

/// <summary>
/// Where a figure looks. A speaker looks at the listener about 40 % of the time, a listener at the speaker about 75 % (Argyle and Cook,
/// "Gaze and Mutual Gaze", 1976; from memory), away as a long turn starts and back as it ends.
/// </summary>
internal sealed class GazePass
{
    /// <summary>What is looked at, where it is not a partner's index.</summary>
    public const int Camera = -1,
        Aside = -2;

    /// <summary>One look.</summary>
    /// <param name="Time">When the eyes start for it.</param>
    /// <param name="Target">A partner, or <see cref="Camera"/> or <see cref="Aside"/>.</param>
    /// <param name="X">To the picture's right, -1 to 1.</param>
    /// <param name="Y">Down, -1 to 1.</param>
    public readonly record struct Look(double Time, int Target, float X, float Y);

    private readonly IReadOnlyList<Partner> _partners;
    private readonly List<Look> _looks = [new(double.NegativeInfinity, Camera, 0, 0)];

    public GazePass(
        Floor floor,
        IReadOnlyList<Partner> partners,
        PerformanceDials dials,
        double duration,
        SeededRandom random,
        IReadOnlyList<LookSpan>? byHand = null
    )
    {
        _partners = partners;
        if (dials.Gaze > 0)
            Wander(floor, partners, dials, duration, random);
        foreach (var look in (byHand ?? []).OrderBy(l => l.Start))
            SetByHand(look);
    }

    // What a hand has set takes the place of what was chosen; afterwards the eyes go where they would be.
    private void SetByHand(LookSpan look)
    {
        if (look.End <= look.Start)
            return;
        var after = At(look.End);
        _looks.RemoveAll(l => l.Time >= look.Start && l.Time <= look.End);
        var (target, x, y) = look.Target.Partner is { } partner
            ? (partner, _partners[partner].Direction, 0f)
            : (look.Target.IsCamera ? Camera : Aside, look.Target.X, look.Target.Y);
        _looks.Insert(Index(look.Start) + 1, new Look(look.Start, target, x, y));
        _looks.Insert(Index(look.End) + 1, after with { Time = look.End });
    }

    private void Wander(Floor floor, IReadOnlyList<Partner> partners, PerformanceDials dials, double duration, SeededRandom random)
    {
        double t = -1;
        var stream = random;
        var begun = -1;
        for (int all = 0, n = 0; t < duration && all < 1_000_000; all++, n++)
        {
            // With every turn chance begins anew, out of what is said in it.
            var next = floor.After(t + 0.02);
            var isNew = next - 1 > begun;
            if (isNew)
                (stream, n, begun) = (random.Fork(floor.Turns[next - 1].Key), 0, next - 1);
            var draw = stream.Fork(n);
            var (target, dwell) = Choose(floor, partners, dials, t, draw);
            var end = t + dwell;
            // The next turn of anybody draws the eyes, after a reaction time: also those that would have moved about then anyway, so that it does not hang on
            // what was before when they do.
            if (next < floor.Turns.Count && floor.Turns[next] is var turn && turn.Start - 0.3 < end && turn.Start + 0.2 > t + 0.12)
                end = turn.Start + (turn.Who < 0 ? 0.02 : 0.16 + 0.24 * random.Fork(turn.Key).Fork(-1).Uniform(5));
            // Towards the end of a turn a speaker looks back at the listener.
            if (target != Camera && target < 0 || target == Camera && partners.Count > 0)
                if (floor.At(t) is ({ Who: < 0 } own, true) && end > own.End - 0.35 && own.End - 0.35 > t + 0.2)
                    end = own.End - 0.35;
            Add(t, target, partners, draw, isNew);
            t = end;
        }
    }

    private static (int Target, double Dwell) Choose(Floor floor, IReadOnlyList<Partner> partners, PerformanceDials dials, double t, SeededRandom draw)
    {
        double Dwell(double mean) => Math.Max(0.35, mean * Math.Exp(0.4 * draw.Normal(3) - 0.08));
        double camera = Math.Min(dials.Camera, 1),
            aside = dials.Gaze;
        // Two and more: all the time that would go to partners goes to the camera.
        var toPartner = partners.Count == 0 ? 0 : 2 - Math.Max(1, dials.Camera);
        var held = floor.At(t + 0.02);
        if (held is ({ Who: < 0 } own, true))
        {
            // Away as a long turn begins.
            if (t - own.Start < 0.15 && own.End - own.Start > 1.5 && draw.Uniform(0) < 0.55 * Math.Min(1, aside))
                return (Aside, Dwell(0.7));
            var partner = Addressee(floor, own, partners.Count);
            if (partner >= 0 && own.End - t < 0.55)
                return (partner, Math.Max(0.5, own.End - t + 0.3));
            return Pick(
                draw.Uniform(1),
                (partner, toPartner * 0.40 / 2.0, Dwell(2.0)),
                (Camera, (0.02 + camera * (partners.Count == 0 ? 0.85 : 0.43)) / 1.9, Dwell(1.9)),
                (Aside, aside * 0.15 / 0.8, Dwell(0.8))
            );
        }
        if (held is ({ } other, true))
        {
            // Who begins to speak is looked at first.
            if (t - other.Start < 0.45)
                return (other.Who, Dwell(2.4));
            return Pick(
                draw.Uniform(1),
                (other.Who, toPartner * 0.77 / 3.2, Dwell(3.2)),
                (Camera, (camera * 0.09 + 0.9 * (1 - toPartner)) / 1.0, Dwell(1.0)),
                (Aside, aside * 0.14 / 0.9, Dwell(0.9))
            );
        }
        var last = held?.Turn.Who ?? -1;
        return Pick(
            draw.Uniform(1),
            (last, last >= 0 ? toPartner * 0.6 / 2.0 : 0, Dwell(2)),
            (Camera, (0.02 + camera * 0.5) / 2.5, Dwell(2.5)),
            (Aside, aside * 0.25 / 1.3, Dwell(1.3))
        );
    }

    // Whom one talks to: who spoke before, else who speaks next, else the nearest.
    private static int Addressee(Floor floor, Turn own, int partners)
    {
        if (partners == 0)
            return -1;
        var at = floor.After(own.Start);
        for (int i = at - 1, n = 0; i >= 0 && n < 6; i--, n++)
            if (floor.Turns[i].Who >= 0)
                return floor.Turns[i].Who;
        for (int i = at, n = 0; i < floor.Turns.Count && n < 6; i++, n++)
            if (floor.Turns[i].Who >= 0)
                return floor.Turns[i].Who;
        return 0;
    }

    private static (int, double) Pick(double at, params ReadOnlySpan<(int Target, double Weight, double Dwell)> choices)
    {
        double sum = 0;
        foreach (var c in choices)
            sum += c.Weight;
        at *= sum;
        foreach (var c in choices)
        {
            if (at < c.Weight)
                return (c.Target, c.Dwell);
            at -= c.Weight;
        }
        return (Camera, 1.5);
    }

    // With a turn the eyes are set anew, also where they were already: as near to the middle of a face as chance has it for this turn.
    private void Add(double t, int target, IReadOnlyList<Partner> partners, SeededRandom draw, bool isNew)
    {
        float x = 0,
            y = 0;
        if (target >= 0)
            (x, y) = (partners[target].Direction + 0.04f * (float)draw.Normal(6), 0.03f * (float)draw.Normal(7));
        else if (target == Aside)
            (x, y) = ((draw.Uniform(8) < 0.5 ? -1 : 1) * (0.3f + 0.35f * (float)draw.Uniform(9)), -0.2f + 0.45f * (float)draw.Uniform(10));
        if (_looks[^1].Target == target && target != Aside && !isNew)
            return;
        _looks.Add(new Look(t, target, Math.Clamp(x, -1, 1), y));
    }

    /// <summary>All looks in order.</summary>
    public IReadOnlyList<Look> Looks => _looks;

    /// <summary>What is looked at.</summary>
    public Look At(double t) => _looks[Index(t)];

    private int Index(double t) => Math.Max(0, Sorted.UpTo(_looks, t, static look => look.Time) - 1);

    // Whoever walks is followed.
    private float Across(in Look look, double t) =>
        look.Target >= 0 && _partners[look.Target] is { DirectionAt: { } at } partner ? Math.Clamp(look.X + at(t) - partner.Direction, -1, 1) : look.X;

    /// <summary>Where the eyes point. A shift takes about 2.2 ms a degree plus 21 ms (Bahill, Clark and Stark 1975; from memory).</summary>
    public (float X, float Y) EyesAt(double t)
    {
        var i = Index(t);
        var look = _looks[i];
        var x = Across(look, t);
        if (i == 0)
            return (x, look.Y);
        float px = Across(_looks[i - 1], t),
            py = _looks[i - 1].Y;
        var seconds = 0.021 + 0.0022 * 35 * Math.Sqrt((look.X - px) * (look.X - px) + (look.Y - py) * (look.Y - py));
        var share = (float)Ease.Smooth((t - look.Time) / seconds);
        return share >= 1 ? (x, look.Y) : (px + (x - px) * share, py + (look.Y - py) * share);
    }

    /// <summary>
    /// The same directions as a head follows them, each shift spread over so many seconds; shifts that come close together add up, so nothing jerks.
    /// </summary>
    public (float X, float Y) HeadAt(double t, double seconds)
    {
        var i = Index(t);
        float x = Across(_looks[i], t),
            y = _looks[i].Y;
        for (; i > 0 && t - _looks[i].Time < seconds; i--)
        {
            var left = (float)(1 - Ease.Smooth((t - _looks[i].Time) / seconds));
            x -= left * (Across(_looks[i], t) - Across(_looks[i - 1], t));
            y -= left * (_looks[i].Y - _looks[i - 1].Y);
        }
        return (x, y);
    }
}
