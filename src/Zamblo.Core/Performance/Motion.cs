namespace Zamblo.Core.Performance;

/// <summary>A bump with a smooth start, peak and end.</summary>
internal readonly record struct Pulse(double Start, double Peak, double End, float Size);

/// <summary>Bumps in order of time, added up.</summary>
internal sealed class PulseTrack
{
    private readonly Pulse[] _pulses;
    private readonly double _longest;

    public PulseTrack(IEnumerable<Pulse> pulses)
    {
        _pulses = [.. pulses.OrderBy(p => p.Start)];
        _longest = _pulses.Length == 0 ? 0 : _pulses.Max(p => p.End - p.Start);
    }

    /// <summary>The sum at a time, -1.2 to 1.2.</summary>
    public float At(double t)
    {
        var low = Sorted.Below(_pulses, t - _longest, static x => x.Start);
        float sum = 0;
        for (var i = low; i < _pulses.Length && _pulses[i].Start < t; i++)
        {
            var p = _pulses[i];
            if (t >= p.End)
                continue;
            var x = t < p.Peak ? (t - p.Start) / (p.Peak - p.Start) : (p.End - t) / (p.End - p.Peak);
            sum += p.Size * (float)(x * x * x * (x * (6 * x - 15) + 10));
        }
        return Math.Clamp(sum, -1.2f, 1.2f);
    }
}

/// <summary>A slow wander between -1 and 1: a sum of sines whose periods have no common measure.</summary>
internal readonly struct Drift(SeededRandom random)
{
    private readonly double _a = random.Uniform(0),
        _b = random.Uniform(1),
        _c = random.Uniform(2);

    public float At(double t, double hz) =>
        (float)(
            0.55 * Math.Sin(2 * Math.PI * (hz * t + _a))
            + 0.3 * Math.Sin(2 * Math.PI * (hz * 1.618 * t + _b))
            + 0.15 * Math.Sin(2 * Math.PI * (hz * 2.718 * t + _c))
        );
}

internal static class Ease
{
    /// <summary>0 to 1 with slopes of 0 at both ends.</summary>
    public static double Smooth(double x)
    {
        x = Math.Clamp(x, 0, 1);
        return x * x * (3 - 2 * x);
    }

    /// <summary>1 within a stretch, 0 outside, with smooth ends of given lengths that lie outside it.</summary>
    public static double Window(double t, double start, double end, double before, double after) =>
        t < start ? Smooth(1 - (start - t) / before)
        : t > end ? Smooth(1 - (t - end) / after)
        : 1;
}
