namespace Zamblo.Core.Speech;

/// <summary>
/// Adapts the features of a recording to the model: one linear transform and offset per stream, found on a first alignment by maximum
/// likelihood (constrained MLLR, row by row: Gales, "Maximum likelihood linear transformations for HMM-based speech recognition", Computer
/// Speech and Language 12, 1998, section 3), drawn towards no change where there is little speech.
/// </summary>
internal static class SpeakerTransform
{
    // As many frames of "no change" are added to what is seen (chosen on synthesized voices of other accents).
    private const double Prior = 150;
    private const int Sweeps = 6;

    /// <summary>Frames of speech under which nothing is adapted.</summary>
    public const int LeastFrames = 60;

    /// <summary>Transformed features of the whole recording.</summary>
    /// <param name="model">The acoustic model.</param>
    /// <param name="features">Frames x 39.</param>
    /// <param name="states">Frames of speech and the senones that they were aligned to.</param>
    public static float[] Adapt(AcousticModel model, float[] features, IReadOnlyList<(int Frame, int Senone)> states)
    {
        int n = model.StreamLength,
            m = n + 1,
            streams = model.Streams,
            nd = model.Densities;
        var scorer = new SenoneScorer(model);
        var posterior = new float[nd];
        var g = new double[streams * n][,];
        var k = new double[streams * n][];
        for (var i = 0; i < g.Length; i++)
            (g[i], k[i]) = (new double[m, m], new double[m]);
        var spread = new double[streams][,];
        for (var f = 0; f < streams; f++)
            spread[f] = new double[m, m];
        var precision = new double[streams * n];
        var zeta = new double[m];
        foreach (var (frame, senone) in states)
        {
            var x = features.AsSpan(frame * Features.Length, Features.Length);
            scorer.SetFrame(x);
            scorer.Score(senone);
            for (var f = 0; f < streams; f++)
            {
                scorer.Posteriors(senone, f, posterior);
                for (var d = 0; d < n; d++)
                    zeta[d] = x[f * n + d];
                zeta[n] = 1;
                for (var a = 0; a < m; a++)
                for (var b = 0; b < m; b++)
                    spread[f][a, b] += zeta[a] * zeta[b];
                var at = (model.CodebookOfSenone[senone] * streams + f) * n * nd;
                for (var d = 0; d < n; d++)
                {
                    double p = 0,
                        q = 0;
                    for (var i = 0; i < nd; i++)
                    {
                        if (posterior[i] < 0.01f)
                            continue;
                        var weight = posterior[i] * 2.0 * model.HalfPrecisions[at + d * nd + i];
                        p += weight;
                        q += weight * model.Means[at + d * nd + i];
                    }
                    precision[f * n + d] += p;
                    var (row, column) = (g[f * n + d], k[f * n + d]);
                    for (var a = 0; a < m; a++)
                    {
                        column[a] += q * zeta[a];
                        for (var b = 0; b < m; b++)
                            row[a, b] += p * zeta[a] * zeta[b];
                    }
                }
            }
        }
        var count = states.Count;
        var result = (float[])features.Clone();
        for (var f = 0; f < streams; f++)
        {
            var transform = Solve(g.AsSpan(f * n, n), k.AsSpan(f * n, n), spread[f], precision.AsSpan(f * n, n), count, n);
            for (var t = 0; t < features.Length / Features.Length; t++)
            for (var d = 0; d < n; d++)
            {
                var sum = transform[d, n];
                for (var e = 0; e < n; e++)
                    sum += transform[d, e] * features[t * Features.Length + f * n + e];
                result[t * Features.Length + f * n + d] = (float)sum;
            }
        }
        return result;
    }

    /// <summary>Rows of [A b] that make the aligned frames likeliest.</summary>
    private static double[,] Solve(ReadOnlySpan<double[,]> g, ReadOnlySpan<double[]> k, double[,] spread, ReadOnlySpan<double> precision, int count, int n)
    {
        var m = n + 1;
        var inverse = new double[n][,];
        for (var i = 0; i < n; i++)
        {
            var share = Prior / count * precision[i] / count;
            for (var a = 0; a < m; a++)
            {
                k[i][a] += share * spread[a, i];
                for (var b = 0; b < m; b++)
                    g[i][a, b] += share * spread[a, b];
                g[i][a, a] += 1e-6 * g[i][n, n];
            }
            inverse[i] = Inverse(g[i], m, out _);
        }
        var w = new double[n, m];
        for (var i = 0; i < n; i++)
            w[i, i] = 1;
        var square = new double[n, n];
        Span<double> p = stackalloc double[m],
            pg = stackalloc double[m];
        p.Clear();
        for (var sweep = 0; sweep < Sweeps; sweep++)
        for (var i = 0; i < n; i++)
        {
            for (var a = 0; a < n; a++)
            for (var b = 0; b < n; b++)
                square[a, b] = w[a, b];
            // The cofactors of a row are its column of the inverse, but for the determinant, which the factor found below takes up.
            var cofactors = Inverse(square, n, out var isRegular);
            if (!isRegular)
                return w;
            pg.Clear();
            for (var a = 0; a < n; a++)
                p[a] = cofactors[a, i];
            double pp = 0,
                pk = 0;
            for (var a = 0; a < m; a++)
            for (var b = 0; b < m; b++)
                pg[a] += p[b] * inverse[i][b, a];
            for (var a = 0; a < m; a++)
            {
                pp += pg[a] * p[a];
                pk += pg[a] * k[i][a];
            }
            var root = Math.Sqrt(pk * pk + 4 * pp * count);
            double first = (-pk + root) / (2 * pp),
                second = (-pk - root) / (2 * pp);
            double Value(double x) => count * Math.Log(Math.Abs(x * pp + pk)) - 0.5 * x * x * pp;
            var factor = Value(first) >= Value(second) ? first : second;
            for (var a = 0; a < m; a++)
            {
                double sum = 0;
                for (var b = 0; b < m; b++)
                    sum += (factor * p[b] + k[i][b]) * inverse[i][b, a];
                w[i, a] = sum;
            }
        }
        return w;
    }

    // Gauss and Jordan with pivots; sizes here are 13 and 14.
    private static double[,] Inverse(double[,] matrix, int n, out bool isRegular)
    {
        var a = (double[,])matrix.Clone();
        var result = new double[n, n];
        for (var i = 0; i < n; i++)
            result[i, i] = 1;
        isRegular = true;
        for (var c = 0; c < n; c++)
        {
            var pivot = c;
            for (var r = c + 1; r < n; r++)
                if (Math.Abs(a[r, c]) > Math.Abs(a[pivot, c]))
                    pivot = r;
            if (Math.Abs(a[pivot, c]) < 1e-12)
            {
                isRegular = false;
                return result;
            }
            for (var j = 0; j < n; j++)
            {
                (a[c, j], a[pivot, j]) = (a[pivot, j], a[c, j]);
                (result[c, j], result[pivot, j]) = (result[pivot, j], result[c, j]);
            }
            var scale = 1 / a[c, c];
            for (var j = 0; j < n; j++)
            {
                a[c, j] *= scale;
                result[c, j] *= scale;
            }
            for (var r = 0; r < n; r++)
            {
                if (r == c || a[r, c] == 0)
                    continue;
                var factor = a[r, c];
                for (var j = 0; j < n; j++)
                {
                    a[r, j] -= factor * a[c, j];
                    result[r, j] -= factor * result[c, j];
                }
            }
        }
        return result;
    }
}
