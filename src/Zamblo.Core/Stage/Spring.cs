namespace Zamblo.Core.Stage;

/// <summary>
/// Something that dangles: a damped oscillator that is pulled along by what it hangs on. Worked out anew for every frame from the motion of the
/// last second or so, so that any frame can be asked for alone and comes out the same.
/// </summary>
/// <param name="Frequency">Of the free swing, in Hz.</param>
/// <param name="Damping">Share of the critical damping, more than 0; under 1 it swings over.</param>
public sealed record Spring(float Frequency, float Damping)
{
    /// <summary>How much motion before a frame matters, in seconds: until a swing has come down to a hundredth.</summary>
    public double Memory => Math.Min(4, 4.6 / (2 * Math.PI * Frequency * Math.Min(Damping, 1)));

    /// <summary>
    /// How far it lags behind what it hangs on: the solution of x'' + 2 d w x' + w^2 x = -u'' for the given motion u, which is taken as straight
    /// between samples (exact for that: each change of speed starts the oscillator's answer to a push).
    /// </summary>
    /// <param name="motion">Places of what it hangs on, at even times, the last one now.</param>
    /// <param name="step">Between two samples, in seconds.</param>
    public double Lag(ReadOnlySpan<float> motion, double step)
    {
        double w = 2 * Math.PI * Frequency,
            lag = 0;
        for (var i = 1; i < motion.Length - 1; i++)
        {
            double change = (motion[i + 1] - 2 * motion[i] + motion[i - 1]) / step;
            if (change != 0)
                lag -= change * Answer((motion.Length - 1 - i) * step, w);
        }
        return lag;
    }

    // Of the oscillator at rest to a push that gives it a speed of 1 at time 0.
    private double Answer(double t, double w)
    {
        if (Math.Abs(Damping - 1) < 1e-3)
            return t * Math.Exp(-w * t);
        if (Damping > 1)
        {
            var r = w * Math.Sqrt(Damping * Damping - 1);
            return Math.Exp(-Damping * w * t) * Math.Sinh(r * t) / r;
        }
        var free = w * Math.Sqrt(1 - Damping * Damping);
        return Math.Exp(-Damping * w * t) * Math.Sin(free * t) / free;
    }
}
