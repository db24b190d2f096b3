using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>
/// Moves boundaries between phones from the decoder's 10 ms grid to where the sound changes (in the spirit of Hosom, "Automatic time alignment of
/// phonemes using acoustic-phonetic information", 2000): each goes, within 30 ms of where the decoder's usual error for that pair of classes puts it, to
/// the middle of where it is likely by what changes there, how alike each side is to its phone, and how long the two phones would be.
/// </summary>
internal static class BoundaryRefiner
{
    private const double Hop = 0.0025,
        Reach = 0.03,
        Least = 0.015;
    private const int Window = 192,
        Length = 256,
        Bands = 24;

    private enum Class
    {
        Silence,
        Vowel,
        VoicelessStop,
        VoicedStop,
        Fricative,
        Affricate,
        Nasal,
        Liquid,
    }

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

    /// <summary>The same of what was heard.</summary>
    public static List<PhoneSegment> Refine(IReadOnlyList<PhoneSegment> phones, HeardSound sound) =>
        Refine(phones, sound.Audio, sound.Offset, sound.Around, sound.Evidence);

    /// <summary>Refined phones: the same phones in the same order, boundaries moved by at most 30 ms beyond the usual error.</summary>
    /// <param name="phones">In seconds of the take.</param>
    /// <param name="audio">The take or a slice of it.</param>
    /// <param name="offset">Where the slice starts in the take, in seconds.</param>
    /// <param name="around">What lies about the voice.</param>
    /// <param name="evidence">Which phone is said in the same sound, by a network; null where none was asked.</param>
    public static List<PhoneSegment> Refine(
        IReadOnlyList<PhoneSegment> phones,
        AudioBuffer audio,
        double offset = 0,
        Surroundings around = Surroundings.Quiet,
        PhoneEvidence? evidence = null
    )
    {
        // Spectra of a block at a time: an hour of them would take as much room as the sound.
        var spectra = new Spectra(audio);
        var times = phones.Select(p => p.Start).Append(phones.Count > 0 ? phones[^1].End : 0).ToArray();
        var moved = (double[])times.Clone();
        var features = new float[MostCandidates * FeatureCount];
        var scores = new double[MostCandidates];
        var pace = BoundaryWeights.Durations.Pace(phones);
        for (var i = 1; i < phones.Count; i++)
        {
            var (expected, low, high) = Around(phones, i, times, moved[i - 1]);
            if (high <= low)
            {
                moved[i] = Math.Clamp(times[i], moved[i - 1] + 0.001, Math.Max(moved[i - 1] + 0.001, times[i + 1] - 0.001));
                continue;
            }
            var count = Describe(spectra, low, high, expected, offset, (moved[i - 1], times[i], times[i + 1]), features);
            Lengths(BoundaryWeights.Durations, phones, pace, i, low, count, (moved[i - 1], times[i + 1]), features);
            Told(evidence, phones[i - 1].Phone, phones[i].Phone, low - offset, count, features);
            var weights = BoundaryWeights.Of(PairOf(phones[i - 1].Phone, phones[i].Phone), around);
            var most = double.NegativeInfinity;
            for (var k = 0; k < count; k++)
            {
                scores[k] = 0;
                for (var f = 0; f < FeatureCount; f++)
                    scores[k] += weights[f] * features[k * FeatureCount + f];
                most = Math.Max(most, scores[k]);
            }
            // The median of what is likely: least error on average, and a hair more for one of two candidates moves the boundary by a hair.
            double sum = 0,
                before = 0;
            for (var k = 0; k < count; k++)
                sum += scores[k] = Math.Exp(scores[k] - most);
            var middle = 0;
            while (middle + 1 < count && before + scores[middle] < sum / 2)
                before += scores[middle++];
            var at = low + (middle - 0.5 + (sum / 2 - before) / scores[middle]) * Hop;
            moved[i] = Math.Clamp(at, moved[i - 1] + 0.001, Math.Max(moved[i - 1] + 0.001, times[i + 1] - 0.001));
        }
        return [.. phones.Select((p, i) => p with { Start = moved[i], End = moved[i + 1] })];
    }

    /// <summary>Number of phone classes, of kinds within them, and of values that describe a candidate.</summary>
    internal const int Classes = 8,
        Kinds = 15,
        FeatureCount = 18;

    /// <summary>Values that speak against a candidate only: how far it is from where it is expected, squared, and how odd the two lengths are.</summary>
    internal static readonly int[] Against = [5, 14, 15];
    private const int MostCandidates = 2 * (int)(Reach / Hop) + 2;

    /// <summary>A pair of kinds of phones as a number below <see cref="Kinds"/> squared.</summary>
    internal static int PairOf(string left, string right) => KindOf(left) * Kinds + KindOf(right);

    /// <summary>The pair of phone classes that a pair of kinds belongs to, as a number below <see cref="Classes"/> squared.</summary>
    internal static int ClassPairOf(int pair) => (int)ClassOfKind[pair / Kinds] * Classes + (int)ClassOfKind[pair % Kinds];

    /// <summary>Candidates of every boundary, for learning: its number, first time, and values.</summary>
    internal static IEnumerable<(int Index, double Low, int Count, float[] Features)> Candidates(
        IReadOnlyList<PhoneSegment> phones,
        AudioBuffer audio,
        PhoneDurations durations,
        PhoneEvidence? evidence
    )
    {
        var spectra = new Spectra(audio);
        var times = phones.Select(p => p.Start).Append(phones.Count > 0 ? phones[^1].End : 0).ToArray();
        var pace = durations.Pace(phones);
        for (var i = 1; i < phones.Count; i++)
        {
            var (expected, low, high) = Around(phones, i, times, times[i - 1]);
            if (high <= low)
                continue;
            var features = new float[MostCandidates * FeatureCount];
            var count = Describe(spectra, low, high, expected, 0, (times[i - 1], times[i], times[i + 1]), features);
            Lengths(durations, phones, pace, i, low, count, (times[i - 1], times[i + 1]), features);
            Told(evidence, phones[i - 1].Phone, phones[i].Phone, low, count, features);
            yield return (i, low, count, features);
        }
    }

    /// <summary>Between two candidates, in seconds.</summary>
    internal const double Step = Hop;

    private static (double Expected, double Low, double High) Around(IReadOnlyList<PhoneSegment> phones, int i, double[] times, double before)
    {
        var expected = times[i] - Late.GetValueOrDefault((ClassOf(phones[i - 1].Phone), ClassOf(phones[i].Phone)));
        return (expected, Math.Max(before + Least, expected - Reach), Math.Min(times[i + 1] - Least, expected + Reach));
    }

    // For each candidate: how far the spectrum changes over 12.5, 5 and 25 ms (against the mean of the window), whether it changes most here, where it
    // lies against where it is expected (linear, square), what rises or falls: four ranges of frequency (signed), and how loud it is on both sides.
    private static int Describe(
        Spectra spectra,
        double low,
        double high,
        double expected,
        double offset,
        (double Start, double Middle, double End) phones,
        float[] features
    )
    {
        Span<float> wide = stackalloc float[MostCandidates],
            narrow = stackalloc float[MostCandidates],
            broad = stackalloc float[MostCandidates];
        Span<float> rise = stackalloc float[4];
        float sumWide = 0,
            sumNarrow = 0,
            sumBroad = 0;
        var count = 0;
        for (var t = low; t <= high && count < MostCandidates; t += Hop, count++)
        {
            var centre = (int)Math.Round((t - offset) / Hop);
            (wide[count], narrow[count], broad[count]) = Changes(spectra, centre, rise, out var loud);
            (sumWide, sumNarrow, sumBroad) = (sumWide + wide[count], sumNarrow + narrow[count], sumBroad + broad[count]);
            var at = count * FeatureCount;
            for (var g = 0; g < 4; g++)
                features[at + 6 + g] = rise[g] / 3;
            features[at + 10] = loud / 10;
            var d = (float)((t - expected) / 0.01);
            features[at + 4] = d;
            features[at + 5] = d * d;
        }
        for (var k = 0; k < count; k++)
        {
            var at = k * FeatureCount;
            features[at] = wide[k] * count / Math.Max(1e-6f, sumWide);
            features[at + 1] = narrow[k] * count / Math.Max(1e-6f, sumNarrow);
            features[at + 2] = broad[k] * count / Math.Max(1e-6f, sumBroad);
            features[at + 3] = (wide[k] - 0.5f * (wide[Math.Max(0, k - 3)] + wide[Math.Min(count - 1, k + 3)])) * count / Math.Max(1e-6f, sumWide);
            // The louder it is against the window, the less likely a pause begins or ends here.
            features[at + 11] = features[at + 10] - features[Math.Max(0, k - 4) * FeatureCount + 10];
        }
        Belong(spectra, low - offset, count, (phones.Start - offset, phones.Middle - offset, phones.End - offset), features);
        return count;
    }

    // How unusual the two phones' lengths would be.
    private static void Lengths(
        PhoneDurations durations,
        IReadOnlyList<PhoneSegment> phones,
        double[] pace,
        int i,
        double low,
        int count,
        (double Start, double End) around,
        float[] features
    )
    {
        for (var k = 0; k < count; k++)
        {
            var t = low + k * Hop;
            features[k * FeatureCount + 14] = durations.Oddness(phones[i - 1].Phone, t - around.Start, pace[i - 1]);
            features[k * FeatureCount + 15] = durations.Oddness(phones[i].Phone, around.End - t, pace[i]);
        }
    }

    // How much more the network hears of the left phone before a candidate, and of the right one behind it.
    private static void Told(PhoneEvidence? evidence, string left, string right, double low, int count, float[] features)
    {
        Span<float> more = stackalloc float[MostCandidates];
        int one = PhoneEvidence.PlaceOf(left),
            other = PhoneEvidence.PlaceOf(right);
        for (var k = 0; k < count; k++)
            more[k] = evidence == null || one == other ? 0 : evidence.Between(low + k * Hop, one, other);
        Sides(more[..count], 16, 40, 8, features);
    }

    // What speaks for the left phone before each candidate and for the right one behind it: over the window, and within 10 ms of the candidate.
    private static void Sides(ReadOnlySpan<float> left, int feature, float whole, float close, float[] features)
    {
        float total = 0,
            before = 0;
        foreach (var value in left)
            total += value;
        for (var k = 0; k < left.Length; k++)
        {
            before += left[k];
            features[k * FeatureCount + feature] = (before - (total - before)) / whole;
            float near = 0;
            for (var n = 1; n <= 4; n++)
                near += left[Math.Max(0, k - n)] - left[Math.Min(left.Length - 1, k + n)];
            features[k * FeatureCount + feature + 1] = near / close;
        }
    }

    // Whether what lies before a candidate is like the middle of the left phone, and what lies behind it like that of the right one: the sum over the
    // window of how much nearer each moment is to its own side (by shape and level of the spectrum), and the same within 10 ms of the candidate.
    private static void Belong(Spectra spectra, double low, int count, (double Start, double Middle, double End) phones, float[] features)
    {
        Span<float> left = stackalloc float[Bands],
            right = stackalloc float[Bands],
            nearer = stackalloc float[MostCandidates];
        Mean(spectra, phones.Start, phones.Middle, left);
        Mean(spectra, phones.Middle, phones.End, right);
        var first = (int)Math.Round(low / Hop);
        var apart = 1e-3f;
        for (var b = 0; b < Bands; b++)
            apart += (left[b] - right[b]) * (left[b] - right[b]);
        for (var k = 0; k < count; k++)
        {
            var frame = spectra.Between(Math.Clamp(first + k, 0, spectra.Frames - 1), Math.Clamp(first + k, 0, spectra.Frames - 1) + 1);
            float toLeft = 0,
                toRight = 0;
            for (var b = 0; b < Bands; b++)
            {
                toLeft += (frame[b] - left[b]) * (frame[b] - left[b]);
                toRight += (frame[b] - right[b]) * (frame[b] - right[b]);
            }
            // From -1, wholly the right one's, to 1, wholly the left one's.
            nearer[k] = Math.Clamp((toRight - toLeft) / apart, -1, 1);
        }
        Sides(nearer[..count], 12, 10, 4, features);
    }

    // Of the middle half of a phone.
    private static void Mean(Spectra spectra, double start, double end, Span<float> mean)
    {
        mean.Clear();
        var quarter = (end - start) / 4;
        int from = Math.Clamp((int)Math.Round((start + quarter) / Hop), 0, spectra.Frames - 1),
            to = Math.Clamp((int)Math.Round((end - quarter) / Hop) + 1, from + 1, spectra.Frames);
        // A long pause is like itself everywhere: the 100 ms nearest to the boundary are enough.
        if (to - from > 40)
            (from, to) = ((from + to) / 2 - 20, (from + to) / 2 + 20);
        var around = spectra.Between(from, to);
        for (var f = 0; f < to - from; f++)
        for (var b = 0; b < Bands; b++)
            mean[b] += around[f * Bands + b] / (to - from);
    }

    // Distances of the mean log spectra of 5, 2 and 10 frames before and after; with the first of them the rise in four ranges of frequency and the mean level.
    // Nought where there are not so many frames.
    private static (float Wide, float Narrow, float Broad) Changes(Spectra spectra, int centre, Span<float> rise, out float loud)
    {
        loud = 0;
        rise.Clear();
        var reach = Math.Min(10, Math.Min(centre, spectra.Frames - 1 - centre));
        if (reach < 2)
            return default;
        var around = spectra.Between(centre - reach, centre + reach + 1);
        // Four bands at a time.
        const int parts = Bands / 4;
        Span<Vector128<float>> before = stackalloc Vector128<float>[parts],
            after = stackalloc Vector128<float>[parts];
        Span<float> change = stackalloc float[Bands];
        before.Clear();
        after.Clear();
        var rows = MemoryMarshal.Cast<float, Vector128<float>>(around);
        (float Wide, float Narrow, float Broad) changes = default;
        for (var k = 1; k <= reach; k++)
        {
            ReadOnlySpan<Vector128<float>> left = rows.Slice((reach - k) * parts, parts),
                right = rows.Slice((reach + k) * parts, parts);
            for (var p = 0; p < parts; p++)
            {
                before[p] += left[p];
                after[p] += right[p];
            }
            if (k is not (2 or 5 or 10))
                continue;
            var squares = Vector128<float>.Zero;
            var level = Vector128<float>.Zero;
            for (var p = 0; p < parts; p++)
            {
                var d = after[p] - before[p];
                squares += d * d;
                level += after[p] + before[p];
                d.CopyTo(change[(4 * p)..]);
            }
            var distance = MathF.Sqrt(Vector128.Sum(squares)) / k;
            if (k == 2)
                changes.Narrow = distance;
            if (k == 10)
                changes.Broad = distance;
            if (k != 5)
                continue;
            changes.Wide = distance;
            loud = Vector128.Sum(level) / (2 * k * Bands);
            for (var b = 0; b < Bands; b++)
                rise[b * 4 / Bands] += change[b] / (k * Bands / 4);
        }
        return changes;
    }

    /// <summary>
    /// Log energies of mel bands, over 12 ms windows every 2.5 ms; frame i is centred on i x 2.5 ms. Worked out in blocks as they are asked for, in
    /// order.
    /// </summary>
    private sealed class Spectra(AudioBuffer audio)
    {
        // A minute, and what the next block still needs of the one before.
        private const int Block = 24_000,
            Share = 1000,
            Overlap = 400;
        private readonly int _hop = (int)(Hop * audio.SampleRate);
        private readonly (int Start, float[] Weights)[] _filters = MelFilterBank.Triangles(Bands, 60, 7000, audio.SampleRate, Length);
        private readonly float[] _window = [.. Enumerable.Range(0, Window).Select(i => (float)(0.5 - 0.5 * Math.Cos(2 * Math.PI * (i + 0.5) / Window)))];
        private float[] _bands = [];
        private int _first;

        public int Frames => audio.Samples.Length / _hop + 1;

        /// <summary>Frames from one to another, <see cref="Bands"/> values each.</summary>
        public ReadOnlySpan<float> Between(int from, int to)
        {
            if (from < _first || to > _first + _bands.Length / Bands)
                Load(Math.Max(0, from - Overlap));
            return _bands.AsSpan((from - _first) * Bands, (to - from) * Bands);
        }

        private void Load(int first)
        {
            var count = Math.Min(Block, Frames - first);
            if (_bands.Length != count * Bands)
                _bands = new float[count * Bands];
            _first = first;
            Parallel.For(
                0,
                (count + Share - 1) / Share,
                () => new RealFft(Length),
                (share, _, fft) =>
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
                            for (var k = 0; k < weights.Length; k++)
                                sum += power[start + k] * weights[k];
                            _bands[f * Bands + b] = MathF.Log(sum);
                        }
                    }
                    return fft;
                },
                _ => { }
            );
        }
    }

    // What glides into a vowel has an edge of its own for each of them; so have some kinds of vowels.
    private static readonly Class[] ClassOfKind =
    [
        Class.Silence,
        Class.Vowel,
        Class.VoicelessStop,
        Class.VoicedStop,
        Class.Fricative,
        Class.Affricate,
        Class.Nasal,
        Class.Liquid,
        Class.Liquid,
        Class.Liquid,
        Class.Liquid,
        Class.Vowel,
        Class.Vowel,
        Class.Vowel,
        Class.Fricative,
    ];

    private static int KindOf(string phone) =>
        phone switch
        {
            Arpabet.Silence or Arpabet.Noise or Arpabet.Spoken => 0,
            "P" or "T" or "K" => 2,
            "B" or "D" or "G" => 3,
            "F" or "TH" or "S" or "SH" or "HH" => 4,
            "CH" or "JH" => 5,
            "M" or "N" or "NG" => 6,
            "Y" => 7,
            "L" => 8,
            "R" => 9,
            "W" => 10,
            "ER" => 11,
            "IY" or "IH" or "EY" => 12,
            "AH" => 13,
            "V" or "DH" or "Z" or "ZH" => 14,
            _ => 1,
        };

    private static Class ClassOf(string phone) => ClassOfKind[KindOf(phone)];
}
