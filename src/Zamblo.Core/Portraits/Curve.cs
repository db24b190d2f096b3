using System.Numerics;

namespace Zamblo.Core.Portraits;

/// <summary>Lines through marks.</summary>
internal static class Curve
{
    /// <summary>
    /// So many points at even distances along the smooth line through the given ones (Catmull and Rom, "A class of local interpolating splines", 1974).
    /// </summary>
    /// <param name="points">Two or more.</param>
    /// <param name="count">Of the points that are given back; ends are kept.</param>
    /// <param name="isClosed">The last is followed by the first; then no point is given twice.</param>
    public static Vector2[] Along(IReadOnlyList<Vector2> points, int count, bool isClosed = false)
    {
        var n = points.Count;
        var fine = new List<Vector2>();
        Vector2 At(int i) => isClosed ? points[((i % n) + n) % n] : points[Math.Clamp(i, 0, n - 1)];
        const int steps = 12;
        for (var i = 0; i < (isClosed ? n : n - 1); i++)
        for (var s = 0; s < steps; s++)
            fine.Add(Between(At(i - 1), At(i), At(i + 1), At(i + 2), s / (float)steps));
        fine.Add(At(isClosed ? n : n - 1));
        var length = new float[fine.Count];
        for (var i = 1; i < fine.Count; i++)
            length[i] = length[i - 1] + Vector2.Distance(fine[i - 1], fine[i]);
        var result = new Vector2[count];
        var at = 1;
        for (var i = 0; i < count; i++)
        {
            var wanted = length[^1] * i / (isClosed ? count : count - 1);
            while (at < fine.Count - 1 && length[at] < wanted)
                at++;
            var span = length[at] - length[at - 1];
            result[i] = span < 1e-6f ? fine[at] : Vector2.Lerp(fine[at - 1], fine[at], Math.Clamp((wanted - length[at - 1]) / span, 0, 1));
        }
        return result;
    }

    /// <summary>The same for marks.</summary>
    public static Vector2[] Along(IReadOnlyList<Mark> marks, int count, bool isClosed = false) =>
        Along(marks.Select(m => (Vector2)m).ToArray(), count, isClosed);

    private static Vector2 Between(Vector2 a, Vector2 b, Vector2 c, Vector2 d, float t) =>
        0.5f * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t * t + (3 * b - a - 3 * c + d) * t * t * t);

    /// <summary>Whether a point lies inside a closed line (even-odd rule).</summary>
    public static bool IsInside(IReadOnlyList<Vector2> ring, Vector2 p)
    {
        var inside = false;
        for (int i = 0, j = ring.Count - 1; i < ring.Count; j = i++)
            if (ring[i].Y > p.Y != ring[j].Y > p.Y && p.X < (ring[j].X - ring[i].X) * (p.Y - ring[i].Y) / (ring[j].Y - ring[i].Y) + ring[i].X)
                inside = !inside;
        return inside;
    }

    /// <summary>0 up to a, 1 from b on, smooth between.</summary>
    public static float Smooth(float a, float b, float x)
    {
        var t = Math.Clamp((x - a) / (b - a), 0, 1);
        return t * t * (3 - 2 * t);
    }
}
