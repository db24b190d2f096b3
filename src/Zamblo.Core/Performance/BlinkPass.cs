using Zamblo.Core.Speech;

namespace Zamblo.Core.Performance;

/// <summary>Blinks at irregular intervals, likelier where a phrase ends and with large shifts of the gaze.</summary>
internal sealed class BlinkPass
{
    // Closing takes 70 to 100 ms and opening 150 to 250 ms.
    private const double Longest = 0.35;
    private readonly List<(double Time, double Close, double Open, float Depth)> _blinks = [];

    public BlinkPass(IReadOnlyList<Phrase> phrases, GazePass gaze, double end, float rate, SeededRandom random)
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
            moment = 0;
        for (var i = 1; t < end && i < 1_000_000; i++)
        {
            // Log-normal intervals; the median of 2.1 s (talking) and 3.2 s (silent) gives about 26 and 17 a minute with this spread.
            while (phrase < phrases.Count && phrases[phrase].End < t - 1)
                phrase++;
            var talking = phrase < phrases.Count && t > phrases[phrase].Start - 1;
            var interval = (talking ? 2.1 : 3.2) / rate * Math.Exp(0.5 * random.Normal(i));
            t += Math.Max(0.5, interval);
            while (moment < moments.Length && moments[moment] < t - 0.45)
                moment++;
            if (moment < moments.Length && moments[moment] < t + 0.45 && (_blinks.Count == 0 || moments[moment] - _blinks[^1].Time > 0.5))
                t = moments[moment];
            // One in eight is only a half blink.
            var draw = random.Fork(i);
            _blinks.Add((t, 0.07 + 0.03 * draw.Uniform(0), 0.15 + 0.1 * draw.Uniform(1), draw.Uniform(2) < 0.12 ? 0.55f : 1));
        }
    }

    /// <summary>Lids at a time: 1 open to 0 shut.</summary>
    public float At(double t)
    {
        int low = 0,
            high = _blinks.Count;
        while (low < high)
        {
            var middle = (low + high) / 2;
            if (_blinks[middle].Time < t - Longest)
                low = middle + 1;
            else
                high = middle;
        }
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
