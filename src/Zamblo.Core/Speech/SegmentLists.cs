namespace Zamblo.Core.Speech;

/// <summary>Small operations on ordered segments.</summary>
public static class SegmentLists
{
    /// <summary>Joins silences that touch, makes the list gapless from 0 to the end and drops what has no length.</summary>
    public static IReadOnlyList<PhoneSegment> Tidy(List<PhoneSegment> phones, double duration)
    {
        var result = new List<PhoneSegment>();
        double at = 0;
        foreach (var p in phones)
        {
            var end = Math.Min(p.End, duration);
            if (end <= at + 1e-9)
                continue;
            if (result.Count > 0 && p.Phone == Arpabet.Silence && result[^1].Phone == Arpabet.Silence)
                result[^1] = result[^1] with { End = end };
            else
                result.Add(p with { Start = at, End = end });
            at = end;
        }
        if (duration > at + 1e-9)
        {
            if (result.Count > 0 && result[^1].Phone == Arpabet.Silence)
                result[^1] = result[^1] with { End = duration };
            else
                result.Add(new PhoneSegment(Arpabet.Silence, at, duration));
        }
        return result;
    }

    /// <summary>Makes silence of everything that lies outside the voiced regions.</summary>
    public static List<PhoneSegment> Gate(List<PhoneSegment> phones, IReadOnlyList<(double Start, double End)> voiced)
    {
        var result = new List<PhoneSegment>();
        var r = 0;
        foreach (var p in phones)
        {
            if (p.Phone == Arpabet.Silence)
            {
                result.Add(p);
                continue;
            }
            while (r < voiced.Count && voiced[r].End <= p.Start)
                r++;
            var at = p.Start;
            for (var i = r; i < voiced.Count && voiced[i].Start < p.End; i++)
            {
                double from = Math.Max(at, voiced[i].Start),
                    to = Math.Min(p.End, voiced[i].End);
                if (from > at)
                    result.Add(new PhoneSegment(Arpabet.Silence, at, from));
                result.Add(p with { Start = from, End = to });
                at = to;
            }
            if (at < p.End)
                result.Add(new PhoneSegment(Arpabet.Silence, at, p.End));
        }
        return result;
    }

    /// <summary>How much of a stretch is voice, in seconds.</summary>
    public static double Voiced(double start, double end, IReadOnlyList<(double Start, double End)> voiced)
    {
        double sum = 0;
        foreach (var v in voiced)
            sum += Math.Max(0, Math.Min(end, v.End) - Math.Max(start, v.Start));
        return sum;
    }
}
