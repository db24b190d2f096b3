namespace Zamblo.Core.Performance;

/// <summary>What a figure can do with its hands while they have nothing to do.</summary>
public enum HandRest
{
    /// <summary>It has no arms with elbows: they only hang.</summary>
    None,

    /// <summary>The hand at the picture's right holds something: the other one is free.</summary>
    LeftOnly,

    /// <summary>Both are free.</summary>
    Both,
}

/// <summary>
/// Where hands rest: on a hip, folded, one in the other, holding the other arm, or hanging; changed now and then, mostly as a turn of one's own begins
/// (people change posture at the boundaries of turns and topics: common practice), by mood, and given up for whatever the arms do.
/// </summary>
internal sealed class RestingHands
{
    // Both hands' places as they are for arms of any length: seen from the shoulder, in lengths of the arm, inwards and down. Chosen by eye.
    private readonly record struct Hold(float LeftWeight, float LeftIn, float LeftDown, float RightWeight, float RightIn, float RightDown)
    {
        // Both in front of the body: what one of them does, the other one feels.
        public bool IsJoined => LeftIn > 0.2f || RightIn > 0.2f;
    }

    private static readonly Hold Hanging = new(0, 0.02f, 0.98f, 0, 0.02f, 0.98f),
        LeftHip = Hanging with { LeftWeight = 1, LeftIn = 0, LeftDown = 0.8f },
        RightHip = Hanging with { RightWeight = 1, RightIn = 0, RightDown = 0.8f },
        Hips = LeftHip with { RightWeight = 1, RightIn = 0, RightDown = 0.8f },
        Clasped = new(1, 0.29f, 0.78f, 1, 0.29f, 0.78f),
        Wrung = new(1, 0.29f, 0.42f, 1, 0.29f, 0.42f),
        Folded = new(1, 0.5f, 0.46f, 1, 0.5f, 0.4f),
        LeftHoldsArm = new(1, 0.56f, 0.52f, 0, 0.02f, 0.98f),
        RightHoldsArm = new(0, 0.02f, 0.98f, 1, 0.56f, 0.52f);

    // How long a change takes, in seconds.
    private const double Change = 0.85;

    // A mood that is felt less does not reach the hands.
    private const float Shown = 0.25f;

    private readonly record struct Stretch(double Start, Hold Hold);

    private readonly List<Stretch> _stretches = [];

    public RestingHands(HandRest rest, Floor floor, IReadOnlyList<MoodSpan> moods, double duration, SeededRandom random)
    {
        if (rest == HandRest.None)
            return;
        var begins = new List<(double Start, SeededRandom Random)> { (double.NegativeInfinity, random) };
        double before = double.NegativeInfinity;
        foreach (var own in floor.Turns.Where(t => t.Who < 0))
        {
            // Nobody changes with each word of a quick exchange, but now and then in it.
            var draw = random.Fork(own.Key);
            var since = own.Start - before;
            if (own.Start > 0 && (since >= Apart || since >= Least && draw.Uniform(-2) < Often))
                begins.Add((own.Start - Ahead, draw));
            before = own.Start;
        }
        for (var i = 0; i < begins.Count; i++)
        {
            var (start, own) = begins[i];
            var until = i + 1 < begins.Count ? begins[i + 1].Start : duration;
            Hold? last = null;
            // With a turn chance begins anew: what was before has no part in it, and they may also stay as they are.
            for (var n = 0; n == 0 || start < until - Least && n < 100_000; n++)
            {
                var draw = own.Fork(n);
                var end = Math.Max(start, -1) + 5 + 8 * draw.Uniform(0);
                if (end > until - Least)
                    end = until;
                var hold = Choose(rest, moods, (Math.Max(0, start) + end) / 2, draw, last);
                _stretches.Add(new Stretch(start, hold));
                (last, start) = (hold, end);
            }
        }
    }

    // A turn that begins so long after the one's own before is when hands change, in seconds; of those that follow sooner, so many. They change so much before
    // its first sound, and each place is kept for so long at least.
    private const double Apart = 5,
        Often = 0.4,
        Ahead = 0.3,
        Least = 2.8;

    private static Hold Choose(HandRest rest, IReadOnlyList<MoodSpan> moods, double t, SeededRandom draw, Hold? last)
    {
        var mood = Moods.Strongest(moods, t) is (var felt, > Shown) ? felt : null;
        if (rest == HandRest.LeftOnly)
            return draw.Uniform(1) < (mood is Mood.Anger or Mood.Pride or Mood.Mischief ? 0.8 : 0.4) ? LeftHip : Hanging;
        ReadOnlySpan<(Hold Hold, double Weight)> choices = mood switch
        {
            Mood.Sadness => [(LeftHoldsArm, 2), (RightHoldsArm, 2), (Clasped, 3), (Hanging, 2)],
            Mood.Anger => [(Hips, 4), (Folded, 4), (RightHip, 1)],
            Mood.Fear => [(Wrung, 5), (LeftHoldsArm, 2), (RightHoldsArm, 2)],
            Mood.Pride => [(Hips, 4), (Folded, 2), (RightHip, 2)],
            Mood.Boredom => [(Hanging, 3), (Folded, 2), (LeftHip, 1), (RightHip, 1)],
            Mood.Doubt => [(Folded, 3), (LeftHip, 1), (RightHip, 1), (LeftHoldsArm, 1), (RightHoldsArm, 1)],
            Mood.Mischief => [(LeftHip, 2), (RightHip, 2), (Wrung, 1), (Folded, 2)],
            Mood.Affection => [(Clasped, 3), (Wrung, 2), (Hanging, 1)],
            _ => [(Hanging, 4), (Clasped, 4), (LeftHip, 2), (RightHip, 2), (Folded, 2), (LeftHoldsArm, 1), (RightHoldsArm, 1)],
        };
        double sum = 0;
        foreach (var (hold, weight) in choices)
            sum += hold == last ? 0 : weight;
        var at = draw.Uniform(1) * sum;
        foreach (var (hold, weight) in choices)
        {
            if (hold == last)
                continue;
            if (at < weight)
                return hold;
            at -= weight;
        }
        return Hanging;
    }

    /// <summary>Puts the hands where they rest.</summary>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="weight">How much, 0 to 1.</param>
    /// <param name="beats">What the right arm does meanwhile, 0 to 1: hands that are busy do not rest.</param>
    /// <param name="pose">Changed.</param>
    public void Apply(double t, float weight, float beats, ref Pose pose)
    {
        if (_stretches.Count == 0 || weight <= 0)
            return;
        var low = Sorted.UpTo(_stretches, t, static x => x.Start);
        var (start, hold) = _stretches[Math.Max(0, low - 1)];
        var from = low > 1 ? _stretches[low - 2].Hold : hold;
        var share = (float)Ease.Smooth((t - start) / Change);
        // To the last digit what it is when the change is over: nothing of the place before is left.
        float Between(float a, float b) => share >= 1 ? b : a + (b - a) * share;
        var busy = 1 - (float)Ease.Smooth(2.5 * beats);
        var joined = Between(from.IsJoined ? 1 : 0, hold.IsJoined ? 1 : 0);
        pose.HandLeft = weight * Between(from.LeftWeight, hold.LeftWeight) * (1 - joined * (1 - busy));
        pose.HandRight = weight * Between(from.RightWeight, hold.RightWeight) * busy;
        (pose.HandLeftX, pose.HandLeftY) = (Between(from.LeftIn, hold.LeftIn), Between(from.LeftDown, hold.LeftDown));
        (pose.HandRightX, pose.HandRightY) = (-Between(from.RightIn, hold.RightIn), Between(from.RightDown, hold.RightDown));
    }
}

/// <summary>Weight that goes from one leg to the other, -1 to 1, every few seconds.</summary>
internal sealed class WeightShifts(SeededRandom random)
{
    private const double Every = 5;

    /// <summary>At a time, in seconds of the scene.</summary>
    public float At(double t)
    {
        // A shift lies somewhere in each stretch; sides change over, by different amounts.
        var n = (int)Math.Floor(t / Every);
        var at = (n + 0.1 + 0.6 * random.Uniform(2 * n + 2000)) * Every;
        float Side(int i) => ((i & 1) == 0 ? 1 : -1) * (0.4f + 0.6f * (float)random.Uniform(2 * i + 2001));
        return Side(n - 1) + (Side(n) - Side(n - 1)) * (float)Ease.Smooth((t - at) / 1.3);
    }
}
