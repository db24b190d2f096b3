using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>
/// Moves boundaries between phones from the decoder's 10 ms grid to where the sound changes: each goes, within 30 ms, to the moment where
/// the spectrum before and after differ most (in the spirit of Hosom, "Automatic time alignment of phonemes using acoustic-phonetic
/// information", 2000), weighed against where the decoder usually errs for that pair of phone classes.
/// </summary>
internal static class BoundaryRefiner
{
    private const double Hop = 0.0025, Reach = 0.03, Side = 0.0125, Least = 0.015;
    private const int Window = 192, Length = 256, Bands = 24;

    private enum Class { Silence, Vowel, VoicelessStop, VoicedStop, Fricative, Affricate, Nasal, Liquid }

    // Where the decoder's boundary lies against the sound, in seconds (positive: late), per pair of classes: means over the tuned half of the
    // benchmark's synthesized sentences; pairs that are not listed are taken as exact.
    private static readonly Dictionary<(Class, Class), double> Late = new()
    {
        [(Class.Liquid, Class.Vowel)] = 0.006,
        [(Class.Fricative, Class.Vowel)] = 0.005,
        [(Class.Vowel, Class.Nasal)] = -0.007,
        [(Class.Nasal, Class.Vowel)] = 0.013,
        [(Class.VoicedStop, Class.Vowel)] = 0.011,
        [(Class.Vowel, Class.VoicelessStop)] = 0.008,
        [(Class.Vowel, Class.VoicedStop)] = 0.007,
        [(Class.Affricate, Class.Vowel)] = 0.010,
        [(Class.Nasal, Class.VoicelessStop)] = 0.015,
        [(Class.Fricative, Class.Fricative)] = 0.008,
        [(Class.Fricative, Class.VoicelessStop)] = 0.009,
        [(Class.Fricative, Class.Liquid)] = -0.006,
        [(Class.VoicedStop, Class.Liquid)] = -0.006,
        [(Class.VoicelessStop, Class.Liquid)] = -0.009,
        [(Class.Vowel, Class.Silence)] = 0.035,
        [(Class.Nasal, Class.Silence)] = 0.028,
        [(Class.Liquid, Class.Silence)] = 0.022,
        [(Class.VoicelessStop, Class.Silence)] = 0.014,
        [(Class.VoicedStop, Class.Silence)] = 0.014,
        [(Class.Fricative, Class.Silence)] = 0.006,
        [(Class.Silence, Class.Vowel)] = -0.013,
        [(Class.Silence, Class.Liquid)] = -0.013,
    };

    /// <summary>Refined phones: the same phones in the same order, boundaries moved by at most 30 ms beyond the usual error.</summary>
    /// <param name="phones">In seconds of the take.</param>
    /// <param name="audio">The take or a slice of it.</param>
    /// <param name="offset">Where the slice starts in the take, in seconds.</param>
    public static List<PhoneSegment> Refine(IReadOnlyList<PhoneSegment> phones, AudioBuffer audio, double offset = 0)
    {
        // Spectra of a block at a time: an hour of them would take as much room as the sound.
        var spectra = new Spectra(audio);
        var times = phones.Select(p => p.Start).Append(phones.Count > 0 ? phones[^1].End : 0).ToArray();
        var moved = (double[])times.Clone();
        Span<double> change = stackalloc double[2 * (int)(Reach / Hop) + 1];
        for (var i = 1; i < phones.Count; i++)
        {
            var expected = times[i] - Late.GetValueOrDefault((ClassOf(phones[i - 1].Phone), ClassOf(phones[i].Phone)));
            double low = Math.Max(moved[i - 1] + Least, expected - Reach), high = Math.Min(times[i + 1] - Least, expected + Reach);
            if (high <= low) { moved[i] = Math.Clamp(times[i], moved[i - 1] + 0.001, Math.Max(moved[i - 1] + 0.001, times[i + 1] - 0.001)); continue; }
            double best = double.NegativeInfinity, at = expected, sum = 0;
            var count = 0;
            for (var t = low; t <= high; t += Hop, count++) sum += change[count] = Change(spectra, t - offset);
            var mean = sum / Math.Max(1, count);
            for (var k = 0; k < count; k++)
            {
                var t = low + k * Hop;
                var score = change[k] / Math.Max(1e-6, mean) - Math.Pow((t - expected) / Spread, 2);
                if (score > best) { best = score; at = t; }
            }
            moved[i] = Math.Clamp(at, moved[i - 1] + 0.001, Math.Max(moved[i - 1] + 0.001, times[i + 1] - 0.001));
        }
        return [.. phones.Select((p, i) => p with { Start = moved[i], End = moved[i + 1] })];
    }

    // How far a boundary may be from where it is expected before a mean change of spectrum must have doubled to carry it there.
    private const double Spread = 0.014;

    private static double Change(Spectra spectra, double time)
    {
        int centre = (int)Math.Round(time / Hop), n = (int)(Side / Hop);
        if (centre - n < 0 || centre + n >= spectra.Frames) return 0;
        var around = spectra.Between(centre - n, centre + n + 1);
        double sum = 0;
        for (var b = 0; b < Bands; b++)
        {
            double before = 0, after = 0;
            for (var k = 1; k <= n; k++)
            {
                before += around[(n - k) * Bands + b];
                after += around[(n + k) * Bands + b];
            }
            var d = (after - before) / n;
            sum += d * d;
        }
        return Math.Sqrt(sum);
    }

    /// <summary>Log energies of mel bands, over 12 ms windows every 2.5 ms; frame i is centred on i x 2.5 ms. Worked out in blocks as they are asked for, in order.</summary>
    private sealed class Spectra(AudioBuffer audio)
    {
        // A minute, and what the next block still needs of the one before.
        private const int Block = 24_000, Share = 1000, Overlap = 400;
        private readonly int _hop = (int)(Hop * audio.SampleRate);
        private readonly (int Start, float[] Weights)[] _filters = MelFilterBank.Triangles(Bands, 60, 7000, audio.SampleRate, Length);
        private readonly float[] _window = [.. Enumerable.Range(0, Window).Select(i => (float)(0.5 - 0.5 * Math.Cos(2 * Math.PI * (i + 0.5) / Window)))];
        private float[] _bands = [];
        private int _first;

        public int Frames => audio.Samples.Length / _hop + 1;

        /// <summary>Frames from one to another, <see cref="Bands"/> values each.</summary>
        public ReadOnlySpan<float> Between(int from, int to)
        {
            if (from < _first || to > _first + _bands.Length / Bands) Load(Math.Max(0, from - Overlap));
            return _bands.AsSpan((from - _first) * Bands, (to - from) * Bands);
        }

        private void Load(int first)
        {
            var count = Math.Min(Block, Frames - first);
            if (_bands.Length != count * Bands) _bands = new float[count * Bands];
            _first = first;
            Parallel.For(0, (count + Share - 1) / Share, () => new RealFft(Length), (share, _, fft) =>
            {
                Span<float> x = stackalloc float[Window];
                Span<float> power = stackalloc float[Length / 2 + 1];
                for (var f = share * Share; f < Math.Min(count, (share + 1) * Share); f++)
                {
                    for (var i = 0; i < Window; i++)
                    {
                        var at = (first + f) * _hop - Window / 2 + i;
                        var s = at >= 0 && at < audio.Samples.Length ? audio.Samples[at] : 0;
                        x[i] = float.IsFinite(s) ? s * _window[i] : 0;
                    }
                    fft.PowerSpectrum(x, power);
                    for (var b = 0; b < Bands; b++)
                    {
                        var (start, weights) = _filters[b];
                        float sum = 1e-7f;
                        for (var k = 0; k < weights.Length; k++) sum += power[start + k] * weights[k];
                        _bands[f * Bands + b] = MathF.Log(sum);
                    }
                }
                return fft;
            }, _ => { });
        }
    }

    private static Class ClassOf(string phone) => phone switch
    {
        Arpabet.Silence or Arpabet.Noise or Arpabet.Spoken => Class.Silence,
        "P" or "T" or "K" => Class.VoicelessStop,
        "B" or "D" or "G" => Class.VoicedStop,
        "F" or "V" or "TH" or "DH" or "S" or "Z" or "SH" or "ZH" or "HH" => Class.Fricative,
        "CH" or "JH" => Class.Affricate,
        "M" or "N" or "NG" => Class.Nasal,
        "L" or "R" or "W" or "Y" => Class.Liquid,
        _ => Class.Vowel,
    };
}
