using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Dialogue;

/// <summary>A stretch in which one speaker talks.</summary>
/// <param name="Start">In seconds.</param>
/// <param name="End">In seconds.</param>
/// <param name="Speaker">From 0, in order of appearance.</param>
public readonly record struct SpeakerTurn(double Start, double End, int Speaker);

/// <summary>
/// Who speaks when: voice regions are cut where the voice changes (Bayesian information criterion: Chen and Gopalakrishnan, "Speaker,
/// environment and channel change detection and clustering via the Bayesian information criterion", 1998), the pieces are clustered by the
/// same measure, and the whole is segmented anew by Viterbi over one mixture model a speaker. Cepstra carry the throat, pitch the voice.
/// </summary>
public static class Turns
{
    /// <summary>Fewest and most speakers that are looked for.</summary>
    public const int Fewest = 1, Most = 6;

    // Cepstra 1 to 18 of 10 ms frames; the first one is loudness, which belongs to the microphone.
    private const int Coefficients = 19, Dimensions = 18;
    // Weight of BIC's penalty for clustering, chosen on conversations that the tests do not use.
    private const double Penalty = 2.2;
    private const double LeastTurn = 0.35;
    // Measured between halves of one synthesis voice: 6 to 14; between two: 18 to 46.
    private const double Alike = 16;
    private const int Components = 12, Rounds = 4;

    /// <summary>Finds turns.</summary>
    /// <param name="audio">At 16 kHz.</param>
    /// <param name="voiced">Where there is a voice, in order.</param>
    /// <param name="speakers">How many there are, or null to find out.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the work.</param>
    public static IReadOnlyList<SpeakerTurn> Find(AudioBuffer audio, IReadOnlyList<(double Start, double End)> voiced, int? speakers, Action<double>? progress = null, CancellationToken cancel = default)
    {
        if (audio.SampleRate != CepstralFrontEnd.SampleRate) throw new ArgumentException("Turns are found at 16 kHz.", nameof(audio));
        if (speakers is { } wanted) speakers = Math.Clamp(wanted, Fewest, Most);
        var frontEnd = new CepstralFrontEnd(new CepstralOptions { Coefficients = Coefficients, Filters = 30, LowerHz = 100, UpperHz = 7200 });
        var sound = new Frames(frontEnd, audio, cancel);
        progress?.Invoke(0.35);
        var pieces = Cut(sound, voiced);
        if (pieces.Count == 0) return [];
        progress?.Invoke(0.45);
        var clusters = Cluster(sound, pieces, speakers, cancel);
        progress?.Invoke(0.7);
        // Clustering may have gone by what is said, not by who says it. Voices apart in pitch and throat on the whole are a second guess; the one
        // whose models explain the recording better in the end holds.
        int[]? best = null;
        var fit = double.NegativeInfinity;
        var guesses = clusters.Count == 1 ? (List<List<(int, int)>>[])[clusters] : [clusters, ByVoice(sound, pieces, clusters.Count)];
        for (var g = 0; g < guesses.Length; g++)
        {
            var labels = new int[sound.Count];
            Array.Fill(labels, -1);
            for (var c = 0; c < guesses[g].Count; c++) foreach (var (first, last) in guesses[g][c]) for (var f = first; f < last; f++) labels[f] = c;
            double now = 0;
            for (var round = 0; round < Rounds; round++)
            {
                now = Resegment(sound, pieces, labels, guesses[g].Count, cancel);
                progress?.Invoke(0.7 + 0.3 * (g * Rounds + round + 1) / (guesses.Length * Rounds));
            }
            if (now > fit) (best, fit) = (labels, now);
        }
        if (speakers == null) MergeAlike(sound, pieces, best!, cancel);
        return Collect(sound, best!);
    }

    /// <summary>
    /// Turns of a recording with a speaker on each channel: whose channel is louder speaks. Null where the channels do not hold one speaker each.
    /// </summary>
    /// <param name="left">At any rate.</param>
    /// <param name="right">Of the same length.</param>
    /// <param name="voiced">Where there is a voice on either.</param>
    public static IReadOnlyList<SpeakerTurn>? FromChannels(AudioBuffer left, AudioBuffer right, IReadOnlyList<(double Start, double End)> voiced)
    {
        float[] l = LoudnessEnvelope.LevelsDb(left), r = LoudnessEnvelope.LevelsDb(right);
        var difference = new float[Math.Min(l.Length, r.Length)];
        for (var i = 0; i < difference.Length; i++) difference[i] = Math.Max(l[i], -60) - Math.Max(r[i], -60);
        int first = 0, second = 0, all = 0;
        foreach (var (start, end) in voiced)
            for (var i = Math.Max(0, (int)(100 * start)); i < Math.Min(difference.Length, (int)(100 * end)); i++)
            {
                all++;
                if (difference[i] > 8) first++;
                else if (difference[i] < -8) second++;
            }
        // Each has the floor for some time, and hardly ever are both as loud.
        if (all == 0 || first < 0.08 * all || second < 0.08 * all || first + second < 0.6 * all) return null;
        var turns = new List<SpeakerTurn>();
        foreach (var (start, end) in voiced)
        {
            var at = start;
            var who = -1;
            double balance = 0;
            for (var i = Math.Max(0, (int)(100 * start)); i < Math.Min(difference.Length, (int)(100 * end)); i++)
            {
                // A leaky sum, so that a breath on one side does not take the floor.
                balance = 0.93 * balance + 0.07 * Math.Clamp(difference[i], -30, 30);
                var now = who switch { 0 when balance < -4 => 1, 1 when balance > 4 => 0, -1 when Math.Abs(balance) > 1 => balance > 0 ? 0 : 1, _ => who };
                if (now != who && who >= 0)
                {
                    turns.Add(new SpeakerTurn(at, i / 100.0, who));
                    at = i / 100.0;
                }
                who = now;
            }
            if (who >= 0) turns.Add(new SpeakerTurn(at, end, who));
        }
        return Tidy(turns);
    }

    /// <summary>Cepstra and pitch of a whole recording.</summary>
    private sealed class Frames
    {
        private readonly float[] _cepstra;
        private readonly CepstralFrontEnd _frontEnd;
        public readonly float[] Tone;

        public Frames(CepstralFrontEnd frontEnd, AudioBuffer audio, CancellationToken cancel)
        {
            _frontEnd = frontEnd;
            var pitch = PitchTracker.Track(audio, cancel);
            _cepstra = frontEnd.Compute(audio.Samples, cancel);
            Count = _cepstra.Length / Coefficients;
            Tone = new float[Count];
            for (var f = 0; f < Count; f++)
                Tone[f] = pitch[Math.Clamp((int)(100 * frontEnd.CentreOf(f)), 0, pitch.Length - 1)] is var hz and > 0 ? 12 * MathF.Log2(hz / 100) : float.NaN;
        }

        public int Count { get; }
        public ReadOnlySpan<float> this[int f] => _cepstra.AsSpan(f * Coefficients + 1, Dimensions);
        public int FrameAt(double time) => Math.Clamp((int)Math.Round((time - _frontEnd.CentreOf(0)) * 100), 0, Count);
        public double TimeOf(int frame) => _frontEnd.CentreOf(0) + (frame - 0.5) / 100;
    }

    /// <summary>Sums of a Gaussian, to which pitch is added as a dimension of its own where there is any.</summary>
    private sealed class Stats
    {
        public double Frames;
        private readonly double[] _sum = new double[Dimensions];
        private readonly double[,] _square = new double[Dimensions, Dimensions];
        private double _tones, _tone, _toneSquare;

        public void Add(Frames sound, int first, int last)
        {
            for (var f = first; f < last; f++)
            {
                var x = sound[f];
                for (var a = 0; a < Dimensions; a++)
                {
                    _sum[a] += x[a];
                    for (var b = 0; b <= a; b++) _square[a, b] += x[a] * x[b];
                }
                if (float.IsNaN(sound.Tone[f])) continue;
                _tones++;
                _tone += sound.Tone[f];
                _toneSquare += sound.Tone[f] * sound.Tone[f];
            }
            Frames += last - first;
        }

        public static Stats Sum(Stats a, Stats b)
        {
            var s = new Stats { Frames = a.Frames + b.Frames, _tones = a._tones + b._tones, _tone = a._tone + b._tone, _toneSquare = a._toneSquare + b._toneSquare };
            for (var i = 0; i < Dimensions; i++)
            {
                s._sum[i] = a._sum[i] + b._sum[i];
                for (var k = 0; k <= i; k++) s._square[i, k] = a._square[i, k] + b._square[i, k];
            }
            return s;
        }

        /// <summary>Frames times the logarithm of the determinant of the covariance; the more spread, the larger.</summary>
        public double Spread()
        {
            // Cholesky; a little is added to the diagonal so that short pieces have a determinant.
            var l = new double[Dimensions, Dimensions];
            double log = 0;
            for (var i = 0; i < Dimensions; i++)
                for (var j = 0; j <= i; j++)
                {
                    var sum = _square[i, j] / Frames - _sum[i] / Frames * (_sum[j] / Frames) + (i == j ? 0.02 : 0);
                    for (var k = 0; k < j; k++) sum -= l[i, k] * l[j, k];
                    if (i == j) log += Math.Log(l[i, i] = Math.Sqrt(Math.Max(sum, 1e-6)));
                    else l[i, j] = sum / l[j, j];
                }
            var spread = 2 * log * Frames;
            // Tones are far from independent from frame to frame: they count as a third.
            if (_tones > 5) spread += 0.33 * _tones * Math.Log(Math.Max(0.6, _toneSquare / _tones - _tone / _tones * (_tone / _tones)));
            return spread;
        }

        /// <summary>How much worse one Gaussian explains two pieces than two do, less the penalty for the second; more than 0: two speakers.</summary>
        public static double Bic(Stats a, Stats b, double spreadA, double spreadB, double penalty)
        {
            double n = a.Frames + b.Frames, parameters = Dimensions + Dimensions * (Dimensions + 1) / 2.0 + 2;
            return 0.5 * (Sum(a, b).Spread() - spreadA - spreadB) - 0.5 * penalty * parameters * Math.Log(n);
        }
    }

    // Voice regions, cut where two windows of a second on both sides of a moment differ most.
    private static List<(int First, int Last)> Cut(Frames sound, IReadOnlyList<(double Start, double End)> voiced)
    {
        var pieces = new List<(int, int)>();
        foreach (var (start, end) in voiced)
        {
            int first = sound.FrameAt(start), last = sound.FrameAt(end);
            if (last - first < 10) continue;
            var from = first;
            const int half = 100, step = 10;
            var scores = new List<(int At, double Score)>();
            for (var at = first + half; at + half <= last; at += step)
            {
                Stats a = new(), b = new();
                a.Add(sound, at - half, at);
                b.Add(sound, at, at + half);
                scores.Add((at, Stats.Bic(a, b, a.Spread(), b.Spread(), 1)));
            }
            for (var i = 0; i < scores.Count; i++)
            {
                var score = scores[i].Score;
                var isPeak = true;
                for (var k = Math.Max(0, i - 5); k <= Math.Min(scores.Count - 1, i + 5); k++) if (scores[k].Score > score) isPeak = false;
                if (!isPeak || score < -100 || scores[i].At - from < 40 || last - scores[i].At < 40) continue;
                pieces.Add((from, scores[i].At));
                from = scores[i].At;
            }
            // What is still long is cut evenly: a piece should hold one speaker.
            while (last - from > 400)
            {
                pieces.Add((from, from + 250));
                from += 250;
            }
            pieces.Add((from, last));
        }
        return pieces;
    }

    // Agglomerative: the two that are most alike are joined, until so many are left or none are alike.
    private static List<List<(int First, int Last)>> Cluster(Frames sound, List<(int First, int Last)> pieces, int? speakers, CancellationToken cancel)
    {
        // Long pieces first: what is very short says little, and joins whatever it is nearest to at the end.
        var reliable = pieces.Where(p => p.Last - p.First >= 60).ToList();
        if (reliable.Count == 0) reliable = [.. pieces];
        // A long talk is clustered from a share of its pieces, evenly spread; the models that come of it find the rest.
        const int most = 900;
        if (reliable.Count > most) reliable = [.. Enumerable.Range(0, most).Select(i => reliable[(int)((long)i * reliable.Count / most)])];
        var members = reliable.Select(p => new List<(int, int)> { p }).ToList();
        var stats = reliable.Select(p =>
        {
            var s = new Stats();
            s.Add(sound, p.First, p.Last);
            return s;
        }).ToList();
        var spreads = stats.Select(s => s.Spread()).ToList();
        var n = members.Count;
        var distance = new double[n, n];
        Parallel.For(0, n, i =>
        {
            for (var j = 0; j < i; j++) distance[i, j] = distance[j, i] = Stats.Bic(stats[i], stats[j], spreads[i], spreads[j], Penalty);
        });
        var alive = Enumerable.Range(0, n).ToList();
        while (alive.Count > 1)
        {
            cancel.ThrowIfCancellationRequested();
            var (best, a, b) = (double.PositiveInfinity, -1, -1);
            foreach (var i in alive) foreach (var j in alive) if (j < i && distance[i, j] < best) (best, a, b) = (distance[i, j], i, j);
            if (speakers is { } k ? alive.Count <= k : best > 0 && alive.Count <= Most) break;
            members[a].AddRange(members[b]);
            stats[a] = Stats.Sum(stats[a], stats[b]);
            spreads[a] = stats[a].Spread();
            alive.Remove(b);
            Parallel.ForEach(alive, i =>
            {
                if (i != a) distance[i, a] = distance[a, i] = Stats.Bic(stats[i], stats[a], spreads[i], spreads[a], Penalty);
            });
        }
        var total = alive.Sum(i => stats[i].Frames);
        // Found, not asked for: whoever has hardly anything is no speaker but a noise.
        return [.. alive.Where(i => speakers != null || alive.Count == 1 || stats[i].Frames > Math.Max(150, 0.02 * total)).Select(i => members[i])];
    }

    /// <summary>A mixture of Gaussians with diagonal covariances, and one of tones.</summary>
    private sealed class Model
    {
        private readonly double[] _weight, _norm;
        private readonly double[,] _mean, _precision;
        private readonly double _tone, _toneSpread;

        public Model(Frames sound, List<int> frames)
        {
            var k = Math.Clamp(frames.Count / 60, 1, Components);
            (_weight, _norm, _mean, _precision) = (new double[k], new double[k], new double[k, Dimensions], new double[k, Dimensions]);
            double[] mean = new double[Dimensions], spread = new double[Dimensions];
            foreach (var f in frames) for (var d = 0; d < Dimensions; d++) mean[d] += sound[f][d] / frames.Count;
            foreach (var f in frames) for (var d = 0; d < Dimensions; d++) spread[d] += (sound[f][d] - mean[d]) * (sound[f][d] - mean[d]) / frames.Count;
            for (var c = 0; c < k; c++)
            {
                _weight[c] = 1.0 / k;
                // Started on frames spread over what there is.
                var seed = sound[frames[(int)((c + 0.5) * frames.Count / k)]];
                for (var d = 0; d < Dimensions; d++) (_mean[c, d], _precision[c, d]) = (k == 1 ? mean[d] : seed[d], 1 / (spread[d] + 0.01));
            }
            var share = new double[k];
            // At most so many frames are looked at: more do not change a model of this size.
            var stride = Math.Max(1, frames.Count / 6000);
            for (var round = 0; round < 6; round++)
            {
                Normalise();
                double[] count = new double[k];
                double[,] sum = new double[k, Dimensions], square = new double[k, Dimensions];
                for (var n = 0; n < frames.Count; n += stride)
                {
                    var x = sound[frames[n]];
                    Cepstral(x, share);
                    for (var c = 0; c < k; c++)
                    {
                        if (share[c] < 1e-4) continue;
                        count[c] += share[c];
                        for (var d = 0; d < Dimensions; d++)
                        {
                            sum[c, d] += share[c] * x[d];
                            square[c, d] += share[c] * x[d] * x[d];
                        }
                    }
                }
                for (var c = 0; c < k; c++)
                {
                    // Components that lost their frames keep what they were.
                    if (count[c] < 5) { _weight[c] = 1e-4; continue; }
                    _weight[c] = count[c] / count.Sum();
                    for (var d = 0; d < Dimensions; d++)
                    {
                        _mean[c, d] = sum[c, d] / count[c];
                        _precision[c, d] = 1 / (Math.Max(0, square[c, d] / count[c] - _mean[c, d] * _mean[c, d]) + 0.02 + 0.1 * spread[d]);
                    }
                }
            }
            Normalise();
            var tones = frames.Where(f => !float.IsNaN(sound.Tone[f])).Select(f => (double)sound.Tone[f]).ToArray();
            _tone = tones.Length == 0 ? 0 : tones.Average();
            _toneSpread = tones.Length < 20 ? 6 : Math.Max(1.5, Math.Sqrt(tones.Average(t => (t - _tone) * (t - _tone))));
        }

        private void Normalise()
        {
            for (var c = 0; c < _weight.Length; c++)
            {
                _norm[c] = Math.Log(_weight[c] + 1e-10) - 0.5 * Dimensions * Math.Log(2 * Math.PI);
                for (var d = 0; d < Dimensions; d++) _norm[c] += 0.5 * Math.Log(_precision[c, d]);
            }
        }

        private double Cepstral(ReadOnlySpan<float> x, double[]? share)
        {
            Span<double> logs = stackalloc double[_weight.Length];
            var top = double.NegativeInfinity;
            for (var c = 0; c < _weight.Length; c++)
            {
                var log = _norm[c];
                for (var d = 0; d < Dimensions; d++) log -= 0.5 * _precision[c, d] * (x[d] - _mean[c, d]) * (x[d] - _mean[c, d]);
                logs[c] = log;
                top = Math.Max(top, log);
            }
            double sum = 0;
            for (var c = 0; c < logs.Length; c++) sum += logs[c] = Math.Exp(logs[c] - top);
            if (share != null) for (var c = 0; c < logs.Length; c++) share[c] = logs[c] / sum;
            return top + Math.Log(sum);
        }

        public double Score(Frames sound, int f)
        {
            var score = Cepstral(sound[f], null);
            if (float.IsNaN(sound.Tone[f])) return score;
            // An octave's error of the tracker must not decide.
            var z = Math.Min(3, Math.Abs(sound.Tone[f] - _tone) / _toneSpread);
            return score - 0.5 * z * z - Math.Log(_toneSpread);
        }
    }

    // Viterbi over the speakers within each stretch of voice; a turn has a least length, a change its price. Between stretches anybody may go on.
    private static double Resegment(Frames sound, List<(int First, int Last)> pieces, int[] labels, int speakers, CancellationToken cancel)
    {
        var models = new Model?[speakers];
        Parallel.For(0, speakers, s =>
        {
            var own = new List<int>();
            foreach (var (first, last) in pieces) for (var f = first; f < last; f++) if (labels[f] == s) own.Add(f);
            if (own.Count >= 20) models[s] = new Model(sound, own);
        });
        // Frames of 10 ms hang together: their evidence counts for a part of its sum.
        const double evidence = 0.25, change = 9;
        var regions = new List<(int First, int Last)>();
        foreach (var p in pieces)
            if (regions.Count > 0 && regions[^1].Last == p.First) regions[^1] = (regions[^1].First, p.Last);
            else regions.Add(p);
        var total = new double[regions.Count];
        Parallel.For(0, regions.Count, new ParallelOptions { CancellationToken = cancel }, r =>
        {
            var region = regions[r];
            var (first, last) = region;
            int length = last - first, least = Math.Min((int)(100 * LeastTurn), Math.Max(1, length / 2));
            // Cumulated scores, so that a whole turn is one difference.
            var sums = new double[speakers, length + 1];
            for (var f = 0; f < length; f++)
                for (var s = 0; s < speakers; s++) sums[s, f + 1] = sums[s, f] + (models[s] is { } m ? evidence * m.Score(sound, first + f) : -1e6);
            // Best score with speaker s holding frame f - 1, and where that turn began.
            var best = new double[speakers, length + 1];
            var began = new int[speakers, length + 1];
            var from = new int[speakers, length + 1];
            for (var f = 1; f <= length; f++)
                for (var s = 0; s < speakers; s++)
                {
                    // Going on, or a new turn that is just as long as it must be.
                    var (score, at, who) = (double.NegativeInfinity, 0, -1);
                    if (f == least || (f < least && f == length)) (score, at) = (sums[s, f], 0);
                    if (f > least && best[s, f - 1] > double.NegativeInfinity) (score, at, who) = (best[s, f - 1] + sums[s, f] - sums[s, f - 1], began[s, f - 1], from[s, f - 1]);
                    if (f >= 2 * least)
                        for (var o = 0; o < speakers; o++)
                        {
                            if (o == s) continue;
                            var other = best[o, f - least] - change + sums[s, f] - sums[s, f - least];
                            if (other > score) (score, at, who) = (other, f - least, o);
                        }
                    (best[s, f], began[s, f], from[s, f]) = (f < least && f < length ? double.NegativeInfinity : score, at, who);
                }
            var speaker = 0;
            for (var s = 1; s < speakers; s++) if (best[s, length] > best[speaker, length]) speaker = s;
            total[r] = best[speaker, length];
            var end = length;
            while (end > 0 && speaker >= 0)
            {
                var start = began[speaker, end];
                for (var f = start; f < end; f++) labels[first + f] = speaker;
                (speaker, end) = (from[speaker, end], start);
            }
        });
        return total.Sum();
    }

    // Clusters of one speaker who says different things: each explains the other's frames nearly as well as its own (normalised cross
    // likelihood ratio: Le, Mella and Fohr, "Speaker diarization using normalized cross likelihood ratio", Interspeech 2007).
    private static void MergeAlike(Frames sound, List<(int First, int Last)> pieces, int[] labels, CancellationToken cancel)
    {
        while (true)
        {
            cancel.ThrowIfCancellationRequested();
            var owners = labels.Where(l => l >= 0).Distinct().Order().ToArray();
            if (owners.Length < 2) return;
            var frames = owners.Select(o => Enumerable.Range(0, labels.Length).Where(f => labels[f] == o).ToList()).ToArray();
            var models = frames.Select(f => f.Count < 20 ? null : new Model(sound, f)).ToArray();
            double Mean(Model model, List<int> own)
            {
                var stride = Math.Max(1, own.Count / 3000);
                double sum = 0;
                var n = 0;
                for (var i = 0; i < own.Count; i += stride, n++) sum += model.Score(sound, own[i]);
                return sum / n;
            }
            var (least, a, b) = (double.PositiveInfinity, -1, -1);
            var few = Math.Min(1200, 0.12 * frames.Sum(f => f.Count));
            var hasFew = frames.Any(f => f.Count < few);
            for (var i = 0; i < owners.Length; i++)
                for (var j = 0; j < i; j++)
                {
                    if (hasFew && frames[i].Count >= few && frames[j].Count >= few) continue;
                    // Too little for a model of its own: it joins anybody.
                    if (models[i] is not { } first || models[j] is not { } second)
                    {
                        if (least > 1000) (least, a, b) = (1000, i, j);
                        continue;
                    }
                    var ratio = Mean(first, frames[i]) - Mean(second, frames[i]) + Mean(second, frames[j]) - Mean(first, frames[j]);
                    if (ratio < least) (least, a, b) = (ratio, i, j);
                }
            // Whoever has but a few seconds of a long talk is rather somebody's odd sentence.
            if (least > Alike && !hasFew) return;
            for (var f = 0; f < labels.Length; f++) if (labels[f] == owners[a]) labels[f] = owners[b];
        }
    }

    // K-means over the pieces' mean cepstra and pitch, each dimension by its spread over the pieces; pitch counts as four.
    private static List<List<(int First, int Last)>> ByVoice(Frames sound, List<(int First, int Last)> pieces, int speakers)
    {
        var points = pieces.Select(p =>
        {
            var x = new double[Dimensions + 1];
            var tones = 0;
            for (var f = p.First; f < p.Last; f++)
            {
                for (var d = 0; d < Dimensions; d++) x[d] += sound[f][d] / (p.Last - p.First);
                if (float.IsNaN(sound.Tone[f])) continue;
                x[Dimensions] += sound.Tone[f];
                tones++;
            }
            x[Dimensions] = tones > 5 ? x[Dimensions] / tones : double.NaN;
            return x;
        }).ToArray();
        for (var d = 0; d <= Dimensions; d++)
        {
            var known = points.Where(x => !double.IsNaN(x[d])).Select(x => x[d]).DefaultIfEmpty(0).ToArray();
            double mean = known.Average(), spread = Math.Sqrt(known.Average(v => (v - mean) * (v - mean))) + 1e-6;
            foreach (var x in points) x[d] = double.IsNaN(x[d]) ? 0 : (x[d] - mean) / spread * (d == Dimensions ? 2 : 1);
        }
        double Distance(double[] a, double[] b)
        {
            double sum = 0;
            for (var d = 0; d <= Dimensions; d++) sum += (a[d] - b[d]) * (a[d] - b[d]);
            return sum;
        }
        // Started on the longest piece and then on whatever is furthest from all that were chosen.
        var centres = new List<double[]> { (double[])points[Enumerable.Range(0, pieces.Count).MaxBy(i => pieces[i].Last - pieces[i].First)].Clone() };
        while (centres.Count < speakers) centres.Add((double[])points.MaxBy(x => centres.Min(c => Distance(x, c)))!.Clone());
        var owner = new int[points.Length];
        for (var round = 0; round < 20; round++)
        {
            for (var i = 0; i < points.Length; i++) owner[i] = Enumerable.Range(0, speakers).MinBy(c => Distance(points[i], centres[c]));
            for (var c = 0; c < speakers; c++)
            {
                double weight = pieces.Where((_, i) => owner[i] == c).Sum(p => p.Last - p.First);
                if (weight > 0) for (var d = 0; d <= Dimensions; d++) centres[c][d] = points.Select((x, i) => owner[i] == c ? x[d] * (pieces[i].Last - pieces[i].First) / weight : 0).Sum();
            }
        }
        return [.. Enumerable.Range(0, speakers).Select(c => pieces.Where((_, i) => owner[i] == c).ToList())];
    }

    private static IReadOnlyList<SpeakerTurn> Collect(Frames sound, int[] labels)
    {
        var turns = new List<SpeakerTurn>();
        for (var f = 0; f < labels.Length; f++)
        {
            if (labels[f] < 0) continue;
            var first = f;
            while (f + 1 < labels.Length && labels[f + 1] == labels[first]) f++;
            turns.Add(new SpeakerTurn(sound.TimeOf(first), sound.TimeOf(f + 1), labels[first]));
        }
        return Tidy(turns);
    }

    // In order, numbered as they appear, short pauses within one speaker's talk bridged.
    private static IReadOnlyList<SpeakerTurn> Tidy(List<SpeakerTurn> turns)
    {
        var names = new Dictionary<int, int>();
        var result = new List<SpeakerTurn>();
        foreach (var t in turns.OrderBy(t => t.Start))
        {
            if (!names.TryGetValue(t.Speaker, out var name)) names[t.Speaker] = name = names.Count;
            if (result.Count > 0 && result[^1].Speaker == name && t.Start - result[^1].End < 0.3) result[^1] = result[^1] with { End = t.End };
            else result.Add(t with { Speaker = name });
        }
        return result;
    }
}
