using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Scenes;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Review;

/// <summary>Whether mouths do what voices say.</summary>
internal static class MouthReview
{
    // So far open, for so long, outside of all speech, a mouth is seen to speak; in seconds. It may close that late.
    private const float Open = 0.16f;
    private const double OpenSeconds = 0.3,
        Lag = 0.18;

    // So long a mouth may be missed, in seconds: a syllable (chosen by eye).
    private const double UnseenSeconds = 0.2;

    // Lips that come no nearer than this in a contact do not meet.
    private const float Apart = 0.1f;

    // Openings in a second. Syllables come 4 to 7 a second, hardly ever more than 8 (Greenberg 1999, from memory).
    private const int MostOpenings = 11;

    /// <summary>Looks at one member.</summary>
    /// <param name="scene">Whose.</param>
    /// <param name="member">Index of the member.</param>
    /// <param name="poses">Frame by frame.</param>
    public static IEnumerable<ReviewFlag> Of(EvaluatedScene scene, int member, Pose[] poses)
    {
        var who = scene.Document.Members[member];
        var rate = scene.Stage.Rate;
        var lines = scene.Stage.Cast[member].Lines;
        float[] open = [.. poses.Select(p => p.Mouth.Openness)];
        foreach (var (first, last) in Runs(open.Length, f => open[f] > Open && !IsSpoken(lines, rate.TimeOf(f))))
        {
            double start = rate.TimeOf(first),
                end = rate.TimeOf(last + 1);
            if (end - start > OpenSeconds)
                yield return new ReviewFlag(
                    ReviewKind.OpenInSilence,
                    true,
                    start,
                    end,
                    $"{who.RoleName}'s mouth is open while nothing is said.",
                    $"{end - start:0.00} s open (0.30 at most)"
                )
                {
                    Member = who.Id,
                };
        }
        foreach (var line in scene.Lines.Where(l => l.Line.Member == who.Id && l.Speech != null && !l.Line.IsOffStage))
        foreach (var flag in Contacts(line, who.RoleName, open, rate))
            yield return flag with
            {
                Member = who.Id,
            };
        if (scene.Stage.Cast[member] is { Figure: PlateFigure plate, Footage: var footage })
            foreach (var (first, last) in Runs(open.Length, f => !plate.IsSeenAt(footage.At(rate.TimeOf(f))) && IsSpoken(lines, rate.TimeOf(f))))
                if (rate.TimeOf(last + 1 - first) > UnseenSeconds)
                    yield return new ReviewFlag(
                        ReviewKind.MouthNotSeen,
                        true,
                        rate.TimeOf(first),
                        rate.TimeOf(last + 1),
                        $"{who.RoleName}'s face is not seen well in the clip: the voice is heard, but no mouth says it.",
                        $"{rate.TimeOf(last + 1 - first):0.0} s ({UnseenSeconds:0.0} at most)"
                    )
                    {
                        Member = who.Id,
                    };
        foreach (var flag in Chatter(open, rate, who.RoleName))
            yield return flag with
            {
                Member = who.Id,
            };
    }

    private static IEnumerable<ReviewFlag> Contacts(PlacedLine line, string role, float[] open, FrameRate rate)
    {
        foreach (var phone in line.Speech!.Phones)
        {
            // Shorter ones are run over in speech as well.
            if (phone.Phone is not ("P" or "B" or "M") || phone.Duration < 0.045)
                continue;
            double start = line.Start + phone.Start,
                end = line.Start + phone.End;
            int first = Math.Max(0, rate.FrameAt(start - 0.05)),
                last = Math.Min(open.Length - 1, rate.FrameAt(end + 0.05));
            if (first > last)
                continue;
            var least = open[first..(last + 1)].Min();
            if (least <= Apart)
                continue;
            var word = line.Speech.Words.FirstOrDefault(w => phone.Start >= w.Start - 0.01 && phone.Start < w.End).Text;
            yield return new ReviewFlag(
                ReviewKind.LipsApart,
                true,
                start,
                end,
                $"{role}'s lips do not meet on the {phone.Phone} of \"{word}\".",
                $"{least:0.00} open ({Apart:0.00} at most)"
            )
            {
                Line = line.Id,
            };
        }
    }

    internal static IEnumerable<ReviewFlag> Chatter(float[] open, FrameRate rate, string role)
    {
        // Openings: a rise of 0.12 after a fall of as much.
        const float size = 0.12f;
        var times = new List<double>();
        float low = 1,
            high = 0;
        var rising = false;
        for (var f = 0; f < open.Length; f++)
        {
            low = Math.Min(low, open[f]);
            high = Math.Max(high, open[f]);
            if (!rising && open[f] > low + size)
            {
                times.Add(rate.TimeOf(f));
                (rising, high) = (true, open[f]);
            }
            else if (rising && open[f] < high - size)
                (rising, low) = (false, open[f]);
        }
        var told = double.NegativeInfinity;
        for (var i = 0; i + MostOpenings < times.Count; i++)
        {
            if (times[i + MostOpenings] - times[i] >= 1 || times[i] < told)
                continue;
            told = times[i + MostOpenings];
            yield return new ReviewFlag(
                ReviewKind.Chatter,
                false,
                times[i],
                told,
                $"{role}'s mouth chatters: it opens faster than anybody speaks.",
                $"{MostOpenings + 1} openings within {told - times[i]:0.00} s ({MostOpenings} a second at most)"
            );
        }
    }

    private static bool IsSpoken(IReadOnlyList<PlacedSpeech> lines, double t) =>
        lines.Any(l =>
            t >= l.Start - Lag
            && t <= l.End + Lag
            && (
                l.Speech.Phones.Any(p => p.Phone != Arpabet.Silence && t - l.Start > p.Start - Lag && t - l.Start < p.End + Lag)
                || l.Speech.Sounds?.Any(s => t - l.Start > s.Start - Lag && t - l.Start < s.End + Lag) == true
            )
        );

    /// <summary>Stretches in which something holds: first and last index.</summary>
    internal static IEnumerable<(int First, int Last)> Runs(int count, Func<int, bool> holds)
    {
        var first = -1;
        for (var i = 0; i <= count; i++)
        {
            var isIn = i < count && holds(i);
            if (isIn && first < 0)
                first = i;
            if (isIn || first < 0)
                continue;
            yield return (first, i - 1);
            first = -1;
        }
    }
}
