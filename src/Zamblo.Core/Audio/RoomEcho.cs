namespace Zamblo.Core.Audio;

/// <summary>
/// What a room adds to a voice: its echo is told from the sound itself and taken away, as far as a single microphone lets it be. For listening only: nobody
/// hears the result.
/// </summary>
public static class RoomEcho
{
    private const int Length = 512,
        Shift = 128;

    // Weighted prediction error (Nakatani et al., "Speech dereverberation based on variance-normalized delayed linear prediction", IEEE TASLP 18, 2010): what
    // follows from the past by a filter of so many frames, no nearer than so many, is echo; nearer it is the voice. Rounds as its authors have them.
    private const int Taps = 14,
        Delay = 2,
        Rounds = 3;

    // Decays are looked at over so many frames, in so many bands of so many bins each, and only where there is room for them: a sound that falls as
    // steeply as speech in a dry room does would still be over the noise.
    private const int Fall = 10,
        Bands = 24,
        BinsOfBand = 6,
        FirstBin = 6;
    private const float OverNoise = 10,
        Room = 25,
        Steep = 0.97f;
    private const int FewestFalls = 50;

    // Of long recordings so many stretches of so many seconds are looked at.
    private const int Stretches = 12;
    private const double Stretch = 10;

    // In dry rooms the steepest falls of speech are 320 to 440 dB a second, in rooms of 0.3, 0.6 and 0.9 s (made ones, the voice 2 dB under its echo)
    // about 226, 160 and 137; the line through these, and where a room begins.
    private const double LeastOfRoom = 270,
        OfVoice = 93,
        OfEcho = 40;

    // What is left of the early reflections of a small room decays no faster than in one of half a second (by the bench's rooms).
    private const double ShortestRoom = 0.5,
        LongestRoom = 1.2;

    /// <summary>How long the echo of a room is, by how steeply the sound of a voice falls at its steepest: no faster than its echo does.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <returns>Reverberation time (RT60) in seconds, roughly; null where there is no echo to speak of, and where noise hides it.</returns>
    public static double? OfRoom(AudioBuffer audio)
    {
        var falls = new List<float>();
        var length = (int)(Stretch * audio.SampleRate);
        var count = Math.Clamp(audio.Samples.Length / length, 1, Stretches);
        for (var i = 0; i < count; i++)
        {
            var from = count == 1 ? 0 : (int)((long)(audio.Samples.Length - length) * i / (count - 1));
            AddFalls(audio.Samples.AsSpan(from, Math.Min(length, audio.Samples.Length - from)), falls);
        }
        if (falls.Count < FewestFalls)
            return null;
        var steepest = LoudnessEnvelope.Percentile([.. falls], Steep) / (Fall * Shift / (double)audio.SampleRate);
        return steepest > LeastOfRoom ? null : Math.Clamp(OfEcho / Math.Max(1, steepest - OfVoice), ShortestRoom, LongestRoom);
    }

    private static void AddFalls(ReadOnlySpan<float> samples, List<float> falls)
    {
        var frames = (samples.Length - Length) / Shift;
        if (frames <= 3 * Fall)
            return;
        var fft = new RealFft(Length);
        var window = Window();
        var (part, power) = (new float[Length], new float[Length / 2 + 1]);
        var levels = new float[Bands][];
        for (var b = 0; b < Bands; b++)
            levels[b] = new float[frames];
        for (var f = 0; f < frames; f++)
        {
            for (var i = 0; i < Length; i++)
                part[i] = window[i] * samples[f * Shift + i];
            fft.PowerSpectrum(part, power);
            for (var b = 0; b < Bands; b++)
            {
                var sum = 1e-9f;
                for (var k = 0; k < BinsOfBand; k++)
                    sum += power[FirstBin + b * BinsOfBand + k];
                levels[b][f] = 10 * MathF.Log10(sum);
            }
        }
        foreach (var band in levels)
        {
            var floor = LoudnessEnvelope.Percentile(band, 0.05);
            for (var f = 0; f + Fall < frames; f += 2)
                if (band[f] > floor + OverNoise + Room && band[f + Fall] > floor + OverNoise)
                    falls.Add(band[f] - band[f + Fall]);
        }
    }

    private static float[] Window() => [.. Enumerable.Range(0, Length).Select(i => MathF.Sin(MathF.PI * (i + 0.5f) / Length))];

    // Seconds that have one filter: nobody stays at one place for longer.
    private const double Block = 12;

    /// <summary>The echo of a room taken away.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <param name="rt60">How long it is, in seconds.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <returns>As long as it was.</returns>
    public static AudioBuffer Lessened(AudioBuffer audio, double rt60, CancellationToken cancel = default)
    {
        var frames = (audio.Samples.Length + Length) / Shift + 1;
        const int bins = Length / 2 + 1;
        var window = Window();
        var spectrum = new Complex32[bins][];
        for (var k = 0; k < bins; k++)
            spectrum[k] = new Complex32[frames];
        var fft = new RealFft(Length);
        var (part, line) = (new float[Length], new Complex32[bins]);
        for (var f = 0; f < frames; f++)
        {
            for (var i = 0; i < Length; i++)
            {
                var at = f * Shift + i - Length + Shift;
                part[i] = at >= 0 && at < audio.Samples.Length ? window[i] * audio.Samples[at] : 0;
            }
            fft.Spectrum(part, line);
            for (var k = 0; k < bins; k++)
                spectrum[k][f] = line[k];
        }
        var block = (int)(Block * audio.SampleRate / Shift);
        var blocks = Math.Max(1, (int)Math.Round((double)frames / block));
        Parallel.For(
            1,
            bins,
            new ParallelOptions { CancellationToken = cancel, MaxDegreeOfParallelism = Environment.ProcessorCount },
            k =>
            {
                var dry = new Complex32[frames];
                for (var b = 0; b < blocks; b++)
                    Predict(spectrum[k], dry, frames * b / blocks, frames * (b + 1) / blocks);
                Suppress(dry, (float)Math.Pow(10, -6.0 * Lag * Shift / audio.SampleRate / rt60));
                spectrum[k] = dry;
            }
        );
        var result = new float[audio.Samples.Length];
        // A sine window on both ways, four times over each sample: its squares add up to two.
        for (var f = 0; f < frames; f++)
        {
            for (var k = 0; k < bins; k++)
                line[k] = spectrum[k][f];
            fft.Inverse(line, part);
            for (var i = 0; i < Length; i++)
            {
                var at = f * Shift + i - Length + Shift;
                if (at >= 0 && at < result.Length)
                    result[at] += 0.5f * window[i] * part[i];
            }
        }
        return new AudioBuffer(result, audio.SampleRate);
    }

    // What is left of it: by how sound decays in a room, so much of what was there so many frames before is echo now (Lebart, Boucher and Denbigh, "A new
    // method based on spectral subtraction for speech dereverberation", Acta Acustica 87, 2001). Smoothed over some frames; never less than a tenth.
    private const int Lag = 2;
    private const float Smooth = 0.4f,
        Least = 0.1f;

    private static void Suppress(Complex32[] x, float decay)
    {
        var power = new float[x.Length];
        var smooth = 0f;
        for (var t = 0; t < x.Length; t++)
        {
            smooth += Smooth * (x[t].Power - smooth);
            power[t] = smooth;
        }
        for (var t = Lag; t < x.Length; t++)
        {
            var gain = MathF.Sqrt(MathF.Max(Least * Least, 1 - decay * power[t - Lag] / MathF.Max(1e-20f, power[t])));
            x[t] = new Complex32(gain * x[t].Re, gain * x[t].Im);
        }
    }

    // One band of one block: what its past foretells is taken away.
    private static void Predict(Complex32[] x, Complex32[] dry, int from, int to)
    {
        Array.Copy(x, from, dry, from, to - from);
        var power = 0.0;
        for (var t = from; t < to; t++)
            power += x[t].Power;
        if (power <= 0)
            return;
        var floor = 1e-4 * power / (to - from);
        double[] re = new double[Taps * Taps],
            im = new double[Taps * Taps],
            pr = new double[Taps],
            pi = new double[Taps];
        for (var round = 0; round < Rounds; round++)
        {
            Array.Clear(re);
            Array.Clear(im);
            Array.Clear(pr);
            Array.Clear(pi);
            for (var t = from; t < to; t++)
            {
                // Of the voice alone, over three frames.
                double around = dry[t].Power + (t > from ? dry[t - 1].Power : 0) + (t + 1 < to ? dry[t + 1].Power : 0);
                var weight = 1 / Math.Max(floor, around / 3);
                for (var i = 0; i < Taps; i++)
                {
                    var a = Past(x, t, i);
                    if (a.Re == 0 && a.Im == 0)
                        continue;
                    double ar = weight * a.Re,
                        ai = weight * a.Im;
                    pr[i] += ar * x[t].Re + ai * x[t].Im;
                    pi[i] += ai * x[t].Re - ar * x[t].Im;
                    for (var j = 0; j <= i; j++)
                    {
                        var b = Past(x, t, j);
                        re[i * Taps + j] += ar * b.Re + ai * b.Im;
                        im[i * Taps + j] += ai * b.Re - ar * b.Im;
                    }
                }
            }
            if (!Solve(re, im, pr, pi))
                return;
            for (var t = from; t < to; t++)
            {
                double r = x[t].Re,
                    m = x[t].Im;
                for (var i = 0; i < Taps; i++)
                {
                    var a = Past(x, t, i);
                    // Times the conjugate of the filter.
                    r -= pr[i] * a.Re + pi[i] * a.Im;
                    m -= pr[i] * a.Im - pi[i] * a.Re;
                }
                dry[t] = new Complex32((float)r, (float)m);
            }
        }
    }

    private static Complex32 Past(Complex32[] x, int t, int tap) => t - Delay - tap is >= 0 and var at ? x[at] : default;

    // Cholesky's decomposition of a Hermitian matrix, of which the lower half is given, and both substitutions; the answer comes in place of the right side.
    private static bool Solve(double[] re, double[] im, double[] pr, double[] pi)
    {
        double trace = 0;
        for (var i = 0; i < Taps; i++)
            trace += re[i * Taps + i];
        for (var i = 0; i < Taps; i++)
            re[i * Taps + i] += 1e-6 * trace / Taps + 1e-20;
        for (var j = 0; j < Taps; j++)
        {
            var d = re[j * Taps + j];
            for (var k = 0; k < j; k++)
                d -= re[j * Taps + k] * re[j * Taps + k] + im[j * Taps + k] * im[j * Taps + k];
            if (!(d > 0))
                return false;
            var root = Math.Sqrt(d);
            (re[j * Taps + j], im[j * Taps + j]) = (root, 0);
            for (var i = j + 1; i < Taps; i++)
            {
                double r = re[i * Taps + j],
                    m = im[i * Taps + j];
                for (var k = 0; k < j; k++)
                {
                    double ar = re[i * Taps + k],
                        ai = im[i * Taps + k],
                        br = re[j * Taps + k],
                        bi = im[j * Taps + k];
                    r -= ar * br + ai * bi;
                    m -= ai * br - ar * bi;
                }
                (re[i * Taps + j], im[i * Taps + j]) = (r / root, m / root);
            }
        }
        for (var i = 0; i < Taps; i++)
        {
            double r = pr[i],
                m = pi[i];
            for (var k = 0; k < i; k++)
            {
                r -= re[i * Taps + k] * pr[k] - im[i * Taps + k] * pi[k];
                m -= re[i * Taps + k] * pi[k] + im[i * Taps + k] * pr[k];
            }
            (pr[i], pi[i]) = (r / re[i * Taps + i], m / re[i * Taps + i]);
        }
        for (var i = Taps - 1; i >= 0; i--)
        {
            double r = pr[i],
                m = pi[i];
            for (var k = i + 1; k < Taps; k++)
            {
                r -= re[k * Taps + i] * pr[k] + im[k * Taps + i] * pi[k];
                m -= re[k * Taps + i] * pi[k] - im[k * Taps + i] * pr[k];
            }
            (pr[i], pi[i]) = (r / re[i * Taps + i], m / re[i * Taps + i]);
        }
        return true;
    }
}
