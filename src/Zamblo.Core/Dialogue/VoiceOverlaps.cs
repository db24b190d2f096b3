using Zamblo.Core.Audio;

namespace Zamblo.Core.Dialogue;

/// <summary>A stretch in which two speak at once.</summary>
/// <param name="Start">In seconds.</param>
/// <param name="End">In seconds.</param>
/// <param name="One">Who, of the speakers of the turns; less than <paramref name="Two"/>.</param>
/// <param name="Two">And who.</param>
public readonly record struct VoiceOverlap(double Start, double End, int One, int Two);

/// <summary>
/// Finds where two voices of one recording speak at once, and takes them apart there. How each sounds is learned from where it is alone; a frame that is
/// likelier with the louder of both in each band than with either alone has both (<see cref="BandMixture.Both"/>).
/// </summary>
public sealed class VoiceOverlaps
{
    // Found on made talks of two of flite's voices (the bench's set "overlaps", sentences that are not held out): evidence of a frame counts for a part, as
    // frames hang together; both together have to be so much likelier a frame, and no frame says more than so much; each change has its price. In nats.
    private const float Evidence = 0.15f,
        Likelier = 2,
        Most = 6,
        Change = 6;

    // Shorter ones are chance; whoever did not speak within so many seconds does not now.
    private const double Shortest = 0.16,
        Around = 4;
    private const int FewestFrames = 150;

    // So near to a change of speakers somebody may be heard already or still.
    private const double Edge = 0.15;

    private readonly VoiceBands _bands;
    private readonly BandMixture?[] _voices;

    private VoiceOverlaps(VoiceBands bands, BandMixture?[] voices) => (_bands, _voices) = (bands, voices);

    /// <summary>Where two speak at once, in order.</summary>
    public IReadOnlyList<VoiceOverlap> Found { get; private set; } = [];

    /// <summary>Looks for them.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <param name="turns">Who has the floor, in order, without overlaps.</param>
    /// <param name="cancel">Stops the work.</param>
    public static VoiceOverlaps Find(AudioBuffer audio, IReadOnlyList<SpeakerTurn> turns, CancellationToken cancel = default)
    {
        var bands = new VoiceBands(audio, cancel);
        var owner = new int[bands.Count];
        Array.Fill(owner, -1);
        foreach (var turn in turns)
            owner.AsSpan(bands.FrameAt(turn.Start)..bands.FrameAt(turn.End)).Fill(turn.Speaker);
        var speakers = turns.Count == 0 ? 0 : turns.Max(t => t.Speaker) + 1;
        var both = new bool[bands.Count];
        VoiceOverlaps result = null!;
        // Where both are heard nobody is alone: what has been found is left out when their voices are learned anew.
        for (var round = 0; round < 2; round++)
        {
            cancel.ThrowIfCancellationRequested();
            var voices = new BandMixture?[speakers];
            Parallel.For(
                0,
                speakers,
                s =>
                {
                    int[] alone = [.. Enumerable.Range(0, owner.Length).Where(f => owner[f] == s && !both[f] && !IsNearChange(owner, f, s))];
                    if (alone.Length >= FewestFrames)
                        voices[s] = new BandMixture(bands, alone);
                }
            );
            result = new VoiceOverlaps(bands, voices);
            var found = new List<VoiceOverlap>();
            for (var one = 0; one < speakers; one++)
            for (var two = one + 1; two < speakers; two++)
                found.AddRange(result.OfPair(turns, owner, one, two, cancel));
            result.Found = [.. found.OrderBy(o => o.Start)];
            Array.Clear(both);
            foreach (var o in result.Found)
                both.AsSpan(bands.FrameAt(o.Start)..bands.FrameAt(o.End)).Fill(true);
        }
        return result;
    }

    private static bool IsNearChange(int[] owner, int f, int speaker)
    {
        var edge = (int)(100 * Edge);
        for (var k = Math.Max(0, f - edge); k <= Math.Min(owner.Length - 1, f + edge); k++)
            if (owner[k] >= 0 && owner[k] != speaker)
                return true;
        return false;
    }

    private List<VoiceOverlap> OfPair(IReadOnlyList<SpeakerTurn> turns, int[] owner, int one, int two, CancellationToken cancel)
    {
        var result = new List<VoiceOverlap>();
        if (_voices[one] is not { } a || _voices[two] is not { } b)
            return result;
        // Frames in which one of them has the floor and the other is near.
        var near = (new bool[owner.Length], new bool[owner.Length]);
        foreach (var t in turns)
            if (t.Speaker == one || t.Speaker == two)
                (t.Speaker == one ? near.Item1 : near.Item2).AsSpan(_bands.FrameAt(Math.Max(0, t.Start - Around)).._bands.FrameAt(t.End + Around)).Fill(true);
        var gain = new float[owner.Length];
        Parallel.For(
            0,
            (owner.Length + 99) / 100,
            new ParallelOptions { CancellationToken = cancel },
            part =>
            {
                // Every second frame speaks for its neighbour, too: they are alike.
                for (var f = 100 * part; f < Math.Min(owner.Length, 100 * part + 100); f++)
                    gain[f] =
                        (owner[f] != one && owner[f] != two) || !near.Item1[f] || !near.Item2[f] ? float.NegativeInfinity
                        : f % 2 == 1 && gain[f - 1] > float.NegativeInfinity ? gain[f - 1]
                        : Gain(a, b, _bands[f]);
            }
        );
        foreach (var (first, last) in Spans(gain))
            if (VoiceBands.TimeOf(last - first) >= Shortest)
                result.Add(new VoiceOverlap(VoiceBands.TimeOf(first), VoiceBands.TimeOf(last), one, two));
        return result;
    }

    private static float Gain(BandMixture a, BandMixture b, ReadOnlySpan<float> x) =>
        Evidence * Math.Clamp(BandMixture.Both(a, b, x) - MathF.Max(a.Score(x), b.Score(x)) - Likelier, -Most, Most);

    // Stretches that are worth more than going in and out of them costs (Viterbi over two states).
    private static List<(int First, int Last)> Spans(float[] gain)
    {
        var back = new byte[gain.Length];
        float alone = 0,
            both = float.NegativeInfinity;
        for (var f = 0; f < gain.Length; f++)
        {
            var (into, stay) = (alone - Change, both);
            var (leave, rest) = (both - Change, alone);
            back[f] = (byte)((into > stay ? 1 : 0) | (leave > rest ? 2 : 0));
            both = MathF.Max(into, stay) + gain[f];
            alone = MathF.Max(leave, rest);
        }
        var result = new List<(int, int)>();
        var (isBoth, end) = (both > alone, gain.Length);
        for (var f = gain.Length - 1; f >= 0; f--)
        {
            var was = isBoth ? (back[f] & 1) == 0 : (back[f] & 2) != 0;
            if (was == isBoth)
                continue;
            if (isBoth)
                result.Add((f, end));
            (isBoth, end) = (was, f);
        }
        if (isBoth)
            result.Add((0, end));
        result.Reverse();
        return result;
    }

    /// <summary>Turns with what was found: where two speak at once both have a turn.</summary>
    /// <param name="turns">As they were given.</param>
    /// <returns>In order of their starts; those of one speaker do not overlap.</returns>
    public IReadOnlyList<SpeakerTurn> Turns(IReadOnlyList<SpeakerTurn> turns)
    {
        var all = turns.ToList();
        foreach (var o in Found)
        {
            all.Add(new SpeakerTurn(o.Start, o.End, o.One));
            all.Add(new SpeakerTurn(o.Start, o.End, o.Two));
        }
        var result = new List<SpeakerTurn>();
        foreach (var own in all.GroupBy(t => t.Speaker))
        {
            SpeakerTurn? open = null;
            foreach (var t in own.OrderBy(t => t.Start))
            {
                // Who waits while somebody else says a word has begun anew.
                bool IsPause(double from) => t.Start - from < Pause && !all.Exists(x => x.Speaker != t.Speaker && x.Start < t.Start && x.End > from);
                if (open is { } o && (t.Start <= o.End || IsPause(o.End)))
                    open = o with { End = Math.Max(o.End, t.End) };
                else
                {
                    if (open != null)
                        result.Add(open.Value);
                    open = t;
                }
            }
            result.Add(open!.Value);
        }
        return [.. result.OrderBy(t => t.Start).ThenBy(t => t.End)];
    }

    // A shorter one, in seconds, does not end a turn.
    private const double Pause = 0.3;

    /// <summary>One voice of a recording: where somebody else speaks at the same time, what is its own; where it does not speak, nothing.</summary>
    /// <param name="speaker">Whose.</param>
    /// <param name="audio">Any rate; the same recording.</param>
    /// <param name="start">In seconds.</param>
    /// <param name="end">In seconds.</param>
    /// <param name="turns">Who speaks when, with overlaps.</param>
    /// <returns>From start to end. What is taken from one voice is in the other: together they are the recording.</returns>
    public AudioBuffer Apart(int speaker, AudioBuffer audio, double start, double end, IReadOnlyList<SpeakerTurn> turns)
    {
        var rate = audio.SampleRate;
        // A power of two of some 40 ms.
        var length = 1 << (int)Math.Round(Math.Log2(0.04 * rate));
        var shift = length / 4;
        int from = Math.Max(0, (int)(start * rate)),
            to = Math.Min(audio.Samples.Length, (int)(end * rate));
        var result = new float[Math.Max(0, to - from)];
        float[] places = [.. Enumerable.Range(0, length / 2 + 1).Select(k => VoiceBands.PlaceOf((double)k * rate / length))];
        var window = new float[length];
        for (var i = 0; i < length; i++)
            window[i] = MathF.Sin(MathF.PI * (i + 0.5f) / length);
        var fft = new RealFft(length);
        var (part, bins, mask) = (new float[length], new Complex32[length / 2 + 1], new float[VoiceBands.Bands]);
        for (var at = from - length + shift; at < to; at += shift)
        {
            var time = (at + length / 2.0) / rate;
            // A little before and after it, where nobody else is: the room goes on.
            bool IsIn(SpeakerTurn t, double air) => time >= t.Start - air && time < t.End + air;
            var own =
                turns.Any(t => t.Speaker == speaker && IsIn(t, 0)) || (turns.Any(t => t.Speaker == speaker && IsIn(t, Air)) && !turns.Any(t => IsIn(t, 0)));
            var other = Found
                .Where(o => time >= o.Start && time < o.End && (o.One == speaker || o.Two == speaker))
                .Select(o => (VoiceOverlap?)o)
                .FirstOrDefault();
            if (!own && other == null)
                continue;
            for (var i = 0; i < length; i++)
                part[i] = at + i >= 0 && at + i < audio.Samples.Length ? window[i] * audio.Samples[at + i] : 0;
            if (other is { } o)
            {
                fft.Spectrum(part, bins);
                BandMixture.Both(_voices[o.One]!, _voices[o.Two]!, _bands[Math.Min(_bands.Count - 1, _bands.FrameAt(time))], mask);
                for (var k = 0; k < bins.Length; k++)
                {
                    var share = Left + (1 - 2 * Left) * ShareAt(mask, places[k]);
                    if (speaker == o.Two)
                        share = 1 - share;
                    bins[k] = new Complex32(share * bins[k].Re, share * bins[k].Im);
                }
                fft.Inverse(bins, part);
            }
            for (var i = 0; i < length; i++)
                if (at + i >= from && at + i < to)
                    result[at + i - from] += 0.5f * window[i] * part[i];
        }
        return new AudioBuffer(result, rate);
    }

    private const double Air = 0.25;

    // So much of the other voice stays, 20 dB under it: holes are heard worse than that, by people and by the aligner (82 and 76 % of the quieter voice's
    // frames right in place of 68 and 68, in the two talks that it was chosen on).
    private const float Left = 0.1f;

    private static float ShareAt(float[] mask, float place)
    {
        var band = Math.Min((int)place, mask.Length - 2);
        return mask[band] + (place - band) * (mask[band + 1] - mask[band]);
    }
}
