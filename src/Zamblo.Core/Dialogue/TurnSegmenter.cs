namespace Zamblo.Core.Dialogue;

/// <summary>Labels of frames, a speaker each, made better by what the speakers' models say.</summary>
internal static class TurnSegmenter
{
    private const double LeastTurn = 0.35;

    // Measured between halves of one synthesis voice: 6 to 14; between two: 18 to 46.
    private const double Alike = 16;

    // Viterbi over the speakers within each stretch of voice; a turn has a least length, a change its price. Between stretches anybody may go on.
    public static double Resegment(VoiceFrames sound, List<(int First, int Last)> pieces, int[] labels, int speakers, CancellationToken cancel)
    {
        var models = new VoiceMixture?[speakers];
        Parallel.For(
            0,
            speakers,
            s =>
            {
                var own = new List<int>();
                foreach (var (first, last) in pieces)
                    for (var f = first; f < last; f++)
                        if (labels[f] == s)
                            own.Add(f);
                if (own.Count >= 20)
                    models[s] = new VoiceMixture(sound, own);
            }
        );
        // Frames of 10 ms hang together: their evidence counts for a part of its sum.
        const double evidence = 0.25,
            change = 9;
        var regions = new List<(int First, int Last)>();
        foreach (var p in pieces)
            if (regions.Count > 0 && regions[^1].Last == p.First)
                regions[^1] = (regions[^1].First, p.Last);
            else
                regions.Add(p);
        var total = new double[regions.Count];
        Parallel.For(
            0,
            regions.Count,
            new ParallelOptions { CancellationToken = cancel },
            r =>
            {
                var region = regions[r];
                var (first, last) = region;
                int length = last - first,
                    least = Math.Min((int)(100 * LeastTurn), Math.Max(1, length / 2));
                // Cumulated scores, so that a whole turn is one difference.
                var sums = new double[speakers, length + 1];
                for (var f = 0; f < length; f++)
                for (var s = 0; s < speakers; s++)
                    sums[s, f + 1] = sums[s, f] + (models[s] is { } m ? evidence * m.Score(sound, first + f) : -1e6);
                // Best score with speaker s holding frame f - 1, and where that turn began.
                var best = new double[speakers, length + 1];
                var began = new int[speakers, length + 1];
                var from = new int[speakers, length + 1];
                for (var f = 1; f <= length; f++)
                for (var s = 0; s < speakers; s++)
                {
                    // Going on, or a new turn that is just as long as it must be.
                    var (score, at, who) = (double.NegativeInfinity, 0, -1);
                    if (f == least || (f < least && f == length))
                        (score, at) = (sums[s, f], 0);
                    if (f > least && best[s, f - 1] > double.NegativeInfinity)
                        (score, at, who) = (best[s, f - 1] + sums[s, f] - sums[s, f - 1], began[s, f - 1], from[s, f - 1]);
                    if (f >= 2 * least)
                        for (var o = 0; o < speakers; o++)
                        {
                            if (o == s)
                                continue;
                            var other = best[o, f - least] - change + sums[s, f] - sums[s, f - least];
                            if (other > score)
                                (score, at, who) = (other, f - least, o);
                        }
                    (best[s, f], began[s, f], from[s, f]) = (f < least && f < length ? double.NegativeInfinity : score, at, who);
                }
                var speaker = 0;
                for (var s = 1; s < speakers; s++)
                    if (best[s, length] > best[speaker, length])
                        speaker = s;
                total[r] = best[speaker, length];
                var end = length;
                while (end > 0 && speaker >= 0)
                {
                    var start = began[speaker, end];
                    for (var f = start; f < end; f++)
                        labels[first + f] = speaker;
                    (speaker, end) = (from[speaker, end], start);
                }
            }
        );
        return total.Sum();
    }

    // Clusters of one speaker who says different things: each explains the other's frames nearly as well as its own (normalised cross
    // likelihood ratio: Le, Mella and Fohr, "Speaker diarization using normalized cross likelihood ratio", Interspeech 2007).
    public static void MergeAlike(VoiceFrames sound, List<(int First, int Last)> pieces, int[] labels, CancellationToken cancel)
    {
        while (true)
        {
            cancel.ThrowIfCancellationRequested();
            var owners = labels.Where(l => l >= 0).Distinct().Order().ToArray();
            if (owners.Length < 2)
                return;
            var frames = owners.Select(o => Enumerable.Range(0, labels.Length).Where(f => labels[f] == o).ToList()).ToArray();
            var models = frames.Select(f => f.Count < 20 ? null : new VoiceMixture(sound, f)).ToArray();
            double Mean(VoiceMixture model, List<int> own)
            {
                var stride = Math.Max(1, own.Count / 3000);
                double sum = 0;
                var n = 0;
                for (var i = 0; i < own.Count; i += stride, n++)
                    sum += model.Score(sound, own[i]);
                return sum / n;
            }
            var (least, a, b) = (double.PositiveInfinity, -1, -1);
            var few = Math.Min(1200, 0.12 * frames.Sum(f => f.Count));
            var hasFew = frames.Any(f => f.Count < few);
            for (var i = 0; i < owners.Length; i++)
            for (var j = 0; j < i; j++)
            {
                if (hasFew && frames[i].Count >= few && frames[j].Count >= few)
                    continue;
                // Too little for a model of its own: it joins anybody.
                if (models[i] is not { } first || models[j] is not { } second)
                {
                    if (least > 1000)
                        (least, a, b) = (1000, i, j);
                    continue;
                }
                var ratio = Mean(first, frames[i]) - Mean(second, frames[i]) + Mean(second, frames[j]) - Mean(first, frames[j]);
                if (ratio < least)
                    (least, a, b) = (ratio, i, j);
            }
            // Whoever has but a few seconds of a long talk is rather somebody's odd sentence.
            if (least > Alike && !hasFew)
                return;
            for (var f = 0; f < labels.Length; f++)
                if (labels[f] == owners[a])
                    labels[f] = owners[b];
        }
    }
}
