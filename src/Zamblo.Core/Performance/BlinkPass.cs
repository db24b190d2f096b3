using Zamblo.Core.Speech;

namespace Zamblo.Core.Performance;

/// <summary>Blinks at irregular intervals, likelier where a phrase ends and with large shifts of the gaze.</summary>
internal sealed class BlinkPass
{
    // Closing takes 70 to 100 ms and opening 150 to 250 ms.
    private const double Longest = 0.35,
        Spread = 0.5;
    private readonly List<(double Time, double Close, double Open, float Depth)> _blinks = [];

    public BlinkPass(IReadOnlyList<Phrase> phrases, Floor floor, GazePass gaze, double end, float rate, SeededRandom random)
    {
        if (rate <= 0)
            return;
        // Moments that draw a blink: ends of phrases, and shifts of the gaze by 20 degrees and more.
        var moments = phrases
            .Select(p => p.End + 0.03)
            .Concat(gaze.Looks.Skip(1).Zip(gaze.Looks, (b, a) => (b, a)).Where(x => Math.Abs(x.b.X - x.a.X) > 0.55).Select(x => x.b.Time))
            .Order()
            .ToArray();
        double t = 0.9 * random.Uniform(0);
        int phrase = 0,
            moment = 0,
            turn = 0;
        var stream = random;
        for (int n = 0, i = 1; t < end && n < 1_000_000; n++, i++)
        {
            // Log-normal intervals; the median of 2.1 s (talking) and 3.2 s (silent) gives about 26 and 17 a minute with this spread.
            double Interval(double at)
            {
                while (phrase < phrases.Count && phrases[phrase].End < at - 1)
                    phrase++;
                var talking = phrase < phrases.Count && at > phrases[phrase].Start - 1;
                return (talking ? 2.1 : 3.2) / rate * Math.Exp(Spread * stream.Normal(i));
            }
            t += Math.Max(0.5, Interval(t));
            // With every turn chance begins anew, out of what is said in it: what comes before has no part in it. How long it takes from any moment to the
            // next of such events is a share of an interval drawn by its length (renewal theory: Feller, "An Introduction to Probability Theory" 2, 1971).
            while (turn < floor.Turns.Count && floor.Turns[turn].Start <= t)
            {
                var from = floor.Turns[turn].Start;
                (stream, i) = (random.Fork(floor.Turns[turn].Key), 0);
                turn++;
                t = from + stream.Fork(-1).Uniform(0) * Math.Exp(Spread * Spread) * Interval(from);
                if (_blinks.Count > 0)
                    t = Math.Max(t, _blinks[^1].Time + 0.5);
            }
            while (moment < moments.Length && moments[moment] < t - 0.45)
                moment++;
            if (moment < moments.Length && moments[moment] < t + 0.45 && (_blinks.Count == 0 || moments[moment] - _blinks[^1].Time > 0.5))
                t = moments[moment];
            // One in eight is only a half blink.
            var draw = stream.Fork(i);
            _blinks.Add((t, 0.07 + 0.03 * draw.Uniform(0), 0.15 + 0.1 * draw.Uniform(1), draw.Uniform(2) < 0.12 ? 0.55f : 1));
        }
    }

    /// <summary>Lids at a time: 1 open to 0 shut.</summary>
    public float At(double t)
    {
        var low = Sorted.Below(_blinks, t - Longest, static x => x.Time);
        for (var i = low; i < _blinks.Count && _blinks[i].Time <= t; i++)
        {
            var (time, close, open, depth) = _blinks[i];
            if (t > time + close + open)
                continue;
            return 1 - depth * (float)Ease.Smooth(t < time + close ? (t - time) / close : 1 - (t - time - close) / open);
        }
        return 1;
    }
}
