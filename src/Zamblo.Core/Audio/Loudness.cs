namespace Zamblo.Core.Audio;

/// <summary>
/// Loudness of a programme as broadcasters measure it (ITU-R BS.1770-4): K-weighting, blocks of 400 ms that overlap by three quarters, an
/// absolute gate at -70 LUFS and a relative one 10 LU under the mean of what passed.
/// </summary>
public static class Loudness
{
    /// <summary>What is said of silence, in LUFS: the absolute gate.</summary>
    public const double Silence = -70;

    /// <summary>Integrated loudness in LUFS, at least <see cref="Silence"/>.</summary>
    /// <param name="channels">One or two channels of one length.</param>
    /// <param name="sampleRate">In Hz.</param>
    public static double Integrated(IReadOnlyList<float[]> channels, int sampleRate) => Integrated(Blocks(channels, sampleRate));

    /// <summary>Integrated loudness of a programme in pieces, in LUFS.</summary>
    /// <param name="blocks">Of all pieces: <see cref="Blocks(IReadOnlyList{float[]}, int)"/>.</param>
    public static double Integrated(IEnumerable<double> blocks)
    {
        var loud = blocks.Where(p => Lufs(p) > Silence).ToArray();
        if (loud.Length == 0)
            return Silence;
        var gate = Lufs(loud.Average()) - 10;
        return Lufs(loud.Where(p => Lufs(p) > gate).Average());
    }

    /// <summary>Powers of the blocks of 400 ms that loudness is made of.</summary>
    /// <param name="channels">One or two channels of one length.</param>
    /// <param name="sampleRate">In Hz.</param>
    public static IReadOnlyList<double> Blocks(IReadOnlyList<float[]> channels, int sampleRate) => Blocks(channels, sampleRate, 0.4, 0.1);

    /// <summary>Integrated loudness of one channel that is heard in the middle of two (its power counts once, as BS.1770 has it for mono).</summary>
    public static double Integrated(AudioBuffer audio) => Integrated([audio.Samples], audio.SampleRate);

    /// <summary>
    /// Greatest level between samples in dBTP, by the 48-tap four-times oversampling filter of BS.1770-4, annex 2, in the form of a windowed sinc.
    /// </summary>
    public static double TruePeakDb(ReadOnlySpan<float> samples)
    {
        const int phases = 4,
            taps = 12;
        Span<float> filter = stackalloc float[phases * taps];
        for (var p = 0; p < phases; p++)
        {
            double sum = 0;
            for (var t = 0; t < taps; t++)
            {
                var at = t - taps / 2 + 1 - p / (double)phases;
                var window = 0.5 + 0.5 * Math.Cos(Math.PI * at / (taps / 2 + 0.5));
                var value = (at == 0 ? 1 : Math.Sin(Math.PI * at) / (Math.PI * at)) * window;
                filter[p * taps + t] = (float)value;
                sum += value;
            }
            for (var t = 0; t < taps; t++)
                filter[p * taps + t] /= (float)sum;
        }
        float peak = 0;
        for (var i = 0; i < samples.Length; i++)
        {
            // Nothing between quiet samples can be a peak.
            if (Math.Abs(samples[i]) < 0.5f * peak)
                continue;
            for (var p = 0; p < phases; p++)
            {
                float sum = 0;
                for (var t = 0; t < taps; t++)
                {
                    var k = i + t - taps / 2 + 1;
                    if (k >= 0 && k < samples.Length)
                        sum += filter[p * taps + t] * samples[k];
                }
                peak = Math.Max(peak, Math.Abs(sum));
            }
        }
        return 20 * Math.Log10(Math.Max(peak, 1e-7));
    }

    private static double Lufs(double power) => -0.691 + 10 * Math.Log10(power + 1e-20);

    /// <summary>Summed K-weighted powers of overlapping blocks.</summary>
    private static List<double> Blocks(IReadOnlyList<float[]> channels, int rate, double length, double step)
    {
        int hop = (int)Math.Round(step * rate),
            hops = (int)Math.Round(length / step);
        var pieces = new double[(channels.Count == 0 ? 0 : channels[0].Length) / hop];
        foreach (var samples in channels)
        {
            // The two stages of the K-weighting from their analogue forms, so that they hold at any rate (BS.1770 gives them at 48 kHz).
            var shelf = Biquad.HighShelf(1681.974450955533, 0.7071752369554196, 3.999843853973347, rate);
            var highPass = Biquad.HighPass(38.13547087602444, 0.5003270373238773, rate);
            for (var p = 0; p < pieces.Length; p++)
            {
                double sum = 0;
                for (var i = p * hop; i < (p + 1) * hop; i++)
                {
                    var y = highPass.Next(shelf.Next(float.IsFinite(samples[i]) ? samples[i] : 0));
                    sum += y * y;
                }
                pieces[p] += sum / hop;
            }
        }
        var blocks = new List<double>();
        for (var p = 0; p + hops <= pieces.Length; p++)
        {
            double sum = 0;
            for (var k = 0; k < hops; k++)
                sum += pieces[p + k];
            blocks.Add(sum / hops);
        }
        // What is shorter than a block counts as one.
        if (blocks.Count == 0 && pieces.Length > 0)
            blocks.Add(pieces.Average());
        return blocks;
    }

    /// <summary>A filter of second order in transposed direct form II.</summary>
    private sealed class Biquad(double b0, double b1, double b2, double a1, double a2)
    {
        private double _z1,
            _z2;

        public double Next(double x)
        {
            var y = b0 * x + _z1;
            _z1 = b1 * x - a1 * y + _z2;
            _z2 = b2 * x - a2 * y;
            return y;
        }

        // The analogue prototypes behind the standard's coefficients (De Man, "Evaluation of implementations of the EBU R128 loudness
        // measurement", AES 145, 2018): at 48 kHz they give the standard's numbers.
        public static Biquad HighShelf(double hz, double q, double db, double rate)
        {
            double k = Math.Tan(Math.PI * hz / rate),
                vh = Math.Pow(10, db / 20),
                vb = Math.Pow(vh, 0.4996667741545416),
                a0 = 1 + k / q + k * k;
            return new Biquad(
                (vh + vb * k / q + k * k) / a0,
                2 * (k * k - vh) / a0,
                (vh - vb * k / q + k * k) / a0,
                2 * (k * k - 1) / a0,
                (1 - k / q + k * k) / a0
            );
        }

        public static Biquad HighPass(double hz, double q, double rate)
        {
            double k = Math.Tan(Math.PI * hz / rate),
                a0 = 1 + k / q + k * k;
            return new Biquad(1, -2, 1, 2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0);
        }
    }
}
