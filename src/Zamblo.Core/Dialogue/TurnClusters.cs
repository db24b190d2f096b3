namespace Zamblo.Core.Dialogue;

/// <summary>
/// Pieces of voice in which one speaker talks, and the clusters of them that are one speaker each. Pieces are frames, first to one past the last.
/// </summary>
internal static class TurnClusters
{
    // Weight of BIC's penalty for clustering, chosen on conversations that the tests do not use.
    private const double Penalty = 2.2;

    // Voice regions, cut where two windows of a second on both sides of a moment differ most.
    public static List<(int First, int Last)> Cut(VoiceFrames sound, IReadOnlyList<(double Start, double End)> voiced)
    {
        var pieces = new List<(int, int)>();
        foreach (var (start, end) in voiced)
        {
            int first = sound.FrameAt(start),
                last = sound.FrameAt(end);
            if (last - first < 10)
                continue;
            var from = first;
            const int half = 100,
                step = 10;
            var scores = new List<(int At, double Score)>();
            for (var at = first + half; at + half <= last; at += step)
            {
                VoiceStats a = new(),
                    b = new();
                a.Add(sound, at - half, at);
                b.Add(sound, at, at + half);
                scores.Add((at, VoiceStats.Bic(a, b, a.Spread(), b.Spread(), 1)));
            }
            for (var i = 0; i < scores.Count; i++)
            {
                var score = scores[i].Score;
                var isPeak = true;
                for (var k = Math.Max(0, i - 5); k <= Math.Min(scores.Count - 1, i + 5); k++)
                    if (scores[k].Score > score)
                        isPeak = false;
                if (!isPeak || score < -100 || scores[i].At - from < 40 || last - scores[i].At < 40)
                    continue;
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
    public static List<List<(int First, int Last)>> Cluster(VoiceFrames sound, List<(int First, int Last)> pieces, int? speakers, CancellationToken cancel)
    {
        // Long pieces first: what is very short says little, and joins whatever it is nearest to at the end.
        var reliable = pieces.Where(p => p.Last - p.First >= 60).ToList();
        if (reliable.Count == 0)
            reliable = [.. pieces];
        // A long talk is clustered from a share of its pieces, evenly spread; the models that come of it find the rest.
        const int most = 900;
        if (reliable.Count > most)
            reliable = [.. Enumerable.Range(0, most).Select(i => reliable[(int)((long)i * reliable.Count / most)])];
        var members = reliable.Select(p => new List<(int, int)> { p }).ToList();
        var stats = reliable
            .Select(p =>
            {
                var s = new VoiceStats();
                s.Add(sound, p.First, p.Last);
                return s;
            })
            .ToList();
        var spreads = stats.Select(s => s.Spread()).ToList();
        var n = members.Count;
        var distance = new double[n, n];
        Parallel.For(
            0,
            n,
            i =>
            {
                for (var j = 0; j < i; j++)
                    distance[i, j] = distance[j, i] = VoiceStats.Bic(stats[i], stats[j], spreads[i], spreads[j], Penalty);
            }
        );
        var alive = Enumerable.Range(0, n).ToList();
        while (alive.Count > 1)
        {
            cancel.ThrowIfCancellationRequested();
            var (best, a, b) = (double.PositiveInfinity, -1, -1);
            foreach (var i in alive)
            foreach (var j in alive)
                if (j < i && distance[i, j] < best)
                    (best, a, b) = (distance[i, j], i, j);
            if (speakers is { } k ? alive.Count <= k : best > 0 && alive.Count <= Turns.Most)
                break;
            members[a].AddRange(members[b]);
            stats[a] = VoiceStats.Sum(stats[a], stats[b]);
            spreads[a] = stats[a].Spread();
            alive.Remove(b);
            Parallel.ForEach(
                alive,
                i =>
                {
                    if (i != a)
                        distance[i, a] = distance[a, i] = VoiceStats.Bic(stats[i], stats[a], spreads[i], spreads[a], Penalty);
                }
            );
        }
        var total = alive.Sum(i => stats[i].Frames);
        // Found, not asked for: whoever has hardly anything is no speaker but a noise.
        return [.. alive.Where(i => speakers != null || alive.Count == 1 || stats[i].Frames > Math.Max(150, 0.02 * total)).Select(i => members[i])];
    }

    // K-means over the pieces' mean cepstra and pitch, each dimension by its spread over the pieces; pitch counts as four.
    public static List<List<(int First, int Last)>> ByVoice(VoiceFrames sound, List<(int First, int Last)> pieces, int speakers)
    {
        var points = pieces
            .Select(p =>
            {
                var x = new double[VoiceFrames.Dimensions + 1];
                var tones = 0;
                for (var f = p.First; f < p.Last; f++)
                {
                    for (var d = 0; d < VoiceFrames.Dimensions; d++)
                        x[d] += sound[f][d] / (p.Last - p.First);
                    if (float.IsNaN(sound.Tone[f]))
                        continue;
                    x[VoiceFrames.Dimensions] += sound.Tone[f];
                    tones++;
                }
                x[VoiceFrames.Dimensions] = tones > 5 ? x[VoiceFrames.Dimensions] / tones : double.NaN;
                return x;
            })
            .ToArray();
        for (var d = 0; d <= VoiceFrames.Dimensions; d++)
        {
            var known = points.Where(x => !double.IsNaN(x[d])).Select(x => x[d]).DefaultIfEmpty(0).ToArray();
            double mean = known.Average(),
                spread = Math.Sqrt(known.Average(v => (v - mean) * (v - mean))) + 1e-6;
            foreach (var x in points)
                x[d] = double.IsNaN(x[d]) ? 0 : (x[d] - mean) / spread * (d == VoiceFrames.Dimensions ? 2 : 1);
        }
        double Distance(double[] a, double[] b)
        {
            double sum = 0;
            for (var d = 0; d <= VoiceFrames.Dimensions; d++)
                sum += (a[d] - b[d]) * (a[d] - b[d]);
            return sum;
        }
        // Started on the longest piece and then on whatever is furthest from all that were chosen.
        var centres = new List<double[]> { (double[])points[Enumerable.Range(0, pieces.Count).MaxBy(i => pieces[i].Last - pieces[i].First)].Clone() };
        while (centres.Count < speakers)
            centres.Add((double[])points.MaxBy(x => centres.Min(c => Distance(x, c)))!.Clone());
        var owner = new int[points.Length];
        for (var round = 0; round < 20; round++)
        {
            for (var i = 0; i < points.Length; i++)
                owner[i] = Enumerable.Range(0, speakers).MinBy(c => Distance(points[i], centres[c]));
            for (var c = 0; c < speakers; c++)
            {
                double weight = pieces.Where((_, i) => owner[i] == c).Sum(p => p.Last - p.First);
                if (weight > 0)
                    for (var d = 0; d <= VoiceFrames.Dimensions; d++)
                        centres[c][d] = points.Select((x, i) => owner[i] == c ? x[d] * (pieces[i].Last - pieces[i].First) / weight : 0).Sum();
            }
        }
        return [.. Enumerable.Range(0, speakers).Select(c => pieces.Where((_, i) => owner[i] == c).ToList())];
    }
}
