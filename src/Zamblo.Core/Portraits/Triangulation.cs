using System.Numerics;

namespace Zamblo.Core.Portraits;

/// <summary>
/// Triangles over points (Bowyer, "Computing Dirichlet tessellations", 1981; Watson, 1981), with edges that must be there: crossing diagonals are swapped
/// until they are (Sloan, "A fast algorithm for generating constrained Delaunay triangulations", 1993).
/// </summary>
internal static class Triangulation
{
    /// <summary>Triangulates.</summary>
    /// <param name="points">No two the same.</param>
    /// <param name="edges">Pairs of points that are joined; no two cross.</param>
    /// <returns>Three indices each.</returns>
    public static List<(int A, int B, int C)> Of(IReadOnlyList<Vector2> points, IReadOnlyList<(int A, int B)> edges)
    {
        var triangles = Delaunay(points);
        foreach (var (a, b) in edges)
            Join(points, triangles, a, b);
        return triangles;
    }

    private static List<(int, int, int)> Delaunay(IReadOnlyList<Vector2> points)
    {
        Vector2 low = points.Aggregate(Vector2.Min),
            high = points.Aggregate(Vector2.Max),
            middle = (low + high) / 2;
        var size = 40 * MathF.Max(high.X - low.X, high.Y - low.Y) + 1;
        var n = points.Count;
        // Worked out in double: thin triangles lie along the lips.
        var all = points.Select(p => (X: (double)p.X, Y: (double)p.Y)).ToList();
        all.Add((middle.X - size, middle.Y - size));
        all.Add((middle.X + size, middle.Y - size));
        all.Add((middle.X, middle.Y + size));
        var triangles = new List<(int A, int B, int C)> { (n, n + 1, n + 2) };
        var border = new Dictionary<(int, int), bool>();
        for (var p = 0; p < n; p++)
        {
            border.Clear();
            for (var t = triangles.Count - 1; t >= 0; t--)
            {
                var (a, b, c) = triangles[t];
                if (!IsInCircle(all[a], all[b], all[c], all[p]))
                    continue;
                foreach (var (from, to) in new[] { (a, b), (b, c), (c, a) })
                    if (!border.Remove((to, from)))
                        border[(from, to)] = true;
                triangles[t] = triangles[^1];
                triangles.RemoveAt(triangles.Count - 1);
            }
            foreach (var (from, to) in border.Keys)
                triangles.Add((from, to, p));
        }
        triangles.RemoveAll(t => t.A >= n || t.B >= n || t.C >= n);
        return triangles;
    }

    private static bool IsInCircle((double X, double Y) a, (double X, double Y) b, (double X, double Y) c, (double X, double Y) p)
    {
        double ax = a.X - p.X,
            ay = a.Y - p.Y,
            bx = b.X - p.X,
            by = b.Y - p.Y,
            cx = c.X - p.X,
            cy = c.Y - p.Y;
        var det = (ax * ax + ay * ay) * (bx * cy - cx * by) - (bx * bx + by * by) * (ax * cy - cx * ay) + (cx * cx + cy * cy) * (ax * by - bx * ay);
        var turn = (b.X - a.X) * (c.Y - a.Y) - (b.Y - a.Y) * (c.X - a.X);
        return turn > 0 ? det > 0 : det < 0;
    }

    private static void Join(IReadOnlyList<Vector2> points, List<(int A, int B, int C)> triangles, int a, int b)
    {
        // Each swap takes away one crossing; convex pairs are always among them.
        for (var round = 0; round < 400; round++)
        {
            if (triangles.Exists(t => Has(t, a) && Has(t, b)))
                return;
            var isSwapped = false;
            for (var s = 0; s < triangles.Count && !isSwapped; s++)
            for (var k = 0; k < 3 && !isSwapped; k++)
            {
                var (p, q) = Edge(triangles[s], k);
                if (p == a || p == b || q == a || q == b || !Crosses(points[a], points[b], points[p], points[q]))
                    continue;
                var other = triangles.FindIndex(t => t != triangles[s] && Has(t, p) && Has(t, q));
                if (other < 0)
                    continue;
                int u = Third(triangles[s], p, q),
                    v = Third(triangles[other], p, q);
                // Only where the two make a convex quadrangle; and not back again.
                if (!Crosses(points[u], points[v], points[p], points[q]) || (round > 0 && !IsBetter(points, a, b, u, v)))
                    continue;
                triangles[s] = (u, v, p);
                triangles[other] = (u, v, q);
                isSwapped = true;
            }
            if (!isSwapped)
                return;
        }
    }

    // A diagonal that ends at the edge, or no longer crosses it.
    private static bool IsBetter(IReadOnlyList<Vector2> points, int a, int b, int u, int v) =>
        u == a || u == b || v == a || v == b || !Crosses(points[a], points[b], points[u], points[v]);

    private static bool Has((int A, int B, int C) t, int p) => t.A == p || t.B == p || t.C == p;

    private static (int, int) Edge((int A, int B, int C) t, int k) =>
        k == 0 ? (t.A, t.B)
        : k == 1 ? (t.B, t.C)
        : (t.C, t.A);

    private static int Third((int A, int B, int C) t, int p, int q) =>
        t.A != p && t.A != q ? t.A
        : t.B != p && t.B != q ? t.B
        : t.C;

    private static bool Crosses(Vector2 a, Vector2 b, Vector2 p, Vector2 q)
    {
        static double Turn(Vector2 a, Vector2 b, Vector2 c) => ((double)b.X - a.X) * ((double)c.Y - a.Y) - ((double)b.Y - a.Y) * ((double)c.X - a.X);
        return Turn(a, b, p) * Turn(a, b, q) < 0 && Turn(p, q, a) * Turn(p, q, b) < 0;
    }
}
