namespace Zamblo.Core.Mouth;

/// <summary>
/// Blends neighbouring cues by dominance: each pulls every channel towards its target with its own strength and reach, and the
/// result is the average weighted by D(t) = a exp(-r d), where d is the time from the cue's core (Cohen and Massaro 1993,
/// equations 1 to 5, with exponent 1; strengths and rates chosen by eye).
/// </summary>
internal static class Coarticulation
{
    // How much a shape cares about a channel group: jaw and parting, lip rounding and spreading, tongue and contacts.
    private static (float Open, float Lips, float Other) Care(MouthShape shape) =>
        shape switch
        {
            MouthShape.Rest => (1.6f, 1.2f, 1f),
            MouthShape.Closed => (3f, 0.25f, 3f),
            MouthShape.Tuck => (1.8f, 0.3f, 2.5f),
            MouthShape.Tongue => (0.9f, 0.25f, 1.5f),
            MouthShape.Tip => (0.6f, 0.15f, 1.2f),
            MouthShape.Back => (0.35f, 0.12f, 1f),
            MouthShape.Push => (1.2f, 1.3f, 1.2f),
            MouthShape.Teeth => (1.3f, 0.5f, 1.2f),
            MouthShape.Curl => (0.6f, 0.7f, 1f),
            MouthShape.Pucker => (1.2f, 2f, 0.6f),
            MouthShape.Round => (1.2f, 1.5f, 0.6f),
            _ => (1.2f, 1f, 0.5f),
        };

    // Decay per second before and after the core. Rounding is anticipated furthest.
    private const double OpenBefore = 32,
        OpenAfter = 30,
        LipsBefore = 11,
        LipsAfter = 16;

    public static MouthChannels At(IReadOnlyList<Cue> cues, int from, double t, double attack, double release)
    {
        Span<float> sum = stackalloc float[MouthChannels.Count];
        float open = 1e-6f,
            lips = 1e-6f,
            other = 1e-6f;
        sum.Clear();
        var gate = SpeechGate(cues, from, t, attack, release);
        for (var i = Math.Max(0, from); i < cues.Count; i++)
        {
            var c = cues[i];
            if (c.Start > t + 0.6)
                break;
            double coreStart,
                coreEnd;
            if (c.Shape == MouthShape.Rest)
                (coreStart, coreEnd) = RestCore(cues, i, attack, release);
            else
            {
                var core = 0.2 * (c.End - c.Start);
                coreStart = Math.Max(c.Start, c.Peak - core);
                coreEnd = Math.Min(c.End, c.Peak + core);
            }
            var before = t < coreStart;
            var d =
                before ? coreStart - t
                : t > coreEnd ? t - coreEnd
                : 0;
            var (careOpen, careLips, careOther) = Care(c.Shape);
            // Rest lets go fast; speech fades towards the core of a rest until nothing of it is left there.
            var (rate, share) = c.Shape == MouthShape.Rest ? (1.8, 1f) : (1, gate);
            var wo = share * careOpen * (float)Math.Exp(-rate * (before ? OpenBefore : OpenAfter) * d);
            var wl = share * careLips * (float)Math.Exp(-rate * (before ? LipsBefore : LipsAfter) * d);
            var wt = share * careOther * (float)Math.Exp(-rate * (before ? OpenBefore : OpenAfter) * d);
            var target = MouthShapes.TargetOf(c.Shape, c.Strength);
            for (var k = 0; k < MouthChannels.Count; k++)
                sum[k] +=
                    target[k]
                    * (
                        IsOpening(k) ? wo
                        : IsLips(k) ? wl
                        : wt
                    );
            open += wo;
            lips += wl;
            other += wt;
        }
        var result = new MouthChannels();
        for (var k = 0; k < MouthChannels.Count; k++)
            result[k] =
                sum[k]
                / (
                    IsOpening(k) ? open
                    : IsLips(k) ? lips
                    : other
                );
        return result;
    }

    // The mouth leaves rest shortly before the sound and comes back a while after it.
    private static (double Start, double End) RestCore(IReadOnlyList<Cue> cues, int i, double attack, double release)
    {
        var c = cues[i];
        var start = i == 0 ? double.NegativeInfinity : Math.Min(c.Start + release, (c.Start + c.End) / 2);
        return (start, i == cues.Count - 1 ? double.PositiveInfinity : Math.Max(c.End - attack, start));
    }

    /// <summary>0 in the core of a rest, 1 from the sound on, eased between.</summary>
    private static float SpeechGate(IReadOnlyList<Cue> cues, int from, double t, double attack, double release)
    {
        double least = 1;
        for (var i = Math.Max(0, from); i < cues.Count && cues[i].Start <= t + attack; i++)
        {
            if (cues[i].Shape != MouthShape.Rest)
                continue;
            var (start, end) = RestCore(cues, i, attack, release);
            var x =
                t < start ? (start - t) / release
                : t > end ? (t - end) / attack
                : 0;
            least = Math.Min(least, x);
        }
        return (float)(least * least * (3 - 2 * least));
    }

    private static bool IsOpening(int k) => k is (int)MouthChannel.Jaw or (int)MouthChannel.Part or (int)MouthChannel.LowerDrop or (int)MouthChannel.UpperRaise;

    private static bool IsLips(int k) => k is (int)MouthChannel.Spread or (int)MouthChannel.Protrusion;
}

/// <summary>Contacts that must be seen on rendered frames, whatever the blend says.</summary>
internal static class Contacts
{
    /// <summary>
    /// Lips together for P B M (one frame, two where the closure lasts 60 ms or more), lip to teeth for F V, teeth together for
    /// S Z and the hushing sounds, rounding for W and UW: on the frames nearest the middle of the sound.
    /// </summary>
    public static void Enforce(IReadOnlyList<Cue> cues, double[] times, double frameSeconds, MouthChannels[] frames)
    {
        if (frames.Length == 0)
            return;
        var taken = new MouthShape?[frames.Length];
        // What is seen best is placed first, so that it gets the better frame where two want one.
        foreach (
            var shapes in (MouthShape[][])
                [
                    [MouthShape.Closed],
                    [MouthShape.Tuck],
                    [MouthShape.Teeth, MouthShape.Push, MouthShape.Pucker],
                ]
        )
        foreach (var c in cues)
        {
            if (!shapes.Contains(c.Shape))
                continue;
            var count = c.Shape is MouthShape.Closed or MouthShape.Tuck && c.End - c.Start >= 0.06 && frameSeconds < 0.045 ? 2 : 1;
            Place(c, count, times, frameSeconds, frames, taken);
        }
    }

    // So far from its edges a closure is complete, in seconds.
    private const double Inside = 0.025;

    private static void Place(Cue c, int count, double[] times, double frameSeconds, MouthChannels[] frames, MouthShape?[] taken)
    {
        var middle = (c.Start + c.End) / 2;
        if (middle < times[0] - frameSeconds || middle > times[^1] + frameSeconds)
            return;
        var nearest = Math.Clamp((int)Math.Round((middle - times[0]) / frameSeconds), 0, frames.Length - 1);
        // Lips that stay together (two closures in a row, a long one) are together on every frame well inside.
        if (c.Shape == MouthShape.Closed)
            for (var f = nearest; f >= 0 && times[f] > c.Start + Inside; f--)
                Hold(f);
        if (c.Shape == MouthShape.Closed)
            for (var f = nearest + 1; f < frames.Length && times[f] < c.End - Inside; f++)
                Hold(f);
        void Hold(int f)
        {
            if (taken[f] != null)
                return;
            taken[f] = c.Shape;
            Apply(c.Shape, ref frames[f]);
            count--;
        }
        // From the nearest frame outwards, up to two frames away when others stand there already.
        var side = middle >= times[nearest] ? 1 : -1;
        foreach (var offset in (ReadOnlySpan<int>)[0, side, -side, 2 * side, -2 * side])
        {
            if (count <= 0)
                return;
            var f = nearest + offset;
            if (f < 0 || f >= frames.Length || (taken[f] is { } other && other != c.Shape))
                continue;
            if (offset != 0 && count < 2 && taken[nearest] == c.Shape)
                return;
            taken[f] = c.Shape;
            Apply(c.Shape, ref frames[f]);
            count--;
        }
    }

    private static void Apply(MouthShape shape, ref MouthChannels m)
    {
        switch (shape)
        {
            case MouthShape.Closed:
                m[MouthChannel.Part] = 0;
                m[MouthChannel.Jaw] = Math.Min(m[MouthChannel.Jaw], 0.12f);
                m[MouthChannel.Press] = Math.Max(m[MouthChannel.Press], 0.7f);
                m[MouthChannel.UpperRaise] = m[MouthChannel.LowerDrop] = m[MouthChannel.Tuck] = 0;
                break;
            case MouthShape.Tuck:
                m[MouthChannel.Tuck] = 1;
                m[MouthChannel.Jaw] = Math.Min(m[MouthChannel.Jaw], 0.2f);
                m[MouthChannel.Part] = Math.Clamp(m[MouthChannel.Part], 0.16f, 0.3f);
                m[MouthChannel.Press] = 0;
                break;
            case MouthShape.Teeth:
            case MouthShape.Push:
                m[MouthChannel.Jaw] = Math.Min(m[MouthChannel.Jaw], 0.12f);
                m[MouthChannel.Part] = Math.Max(m[MouthChannel.Part], 0.3f);
                m[MouthChannel.Press] = 0;
                break;
            case MouthShape.Pucker:
                m[MouthChannel.Spread] = Math.Min(m[MouthChannel.Spread], -0.6f);
                m[MouthChannel.Protrusion] = Math.Max(m[MouthChannel.Protrusion], 0.5f);
                break;
        }
    }
}
