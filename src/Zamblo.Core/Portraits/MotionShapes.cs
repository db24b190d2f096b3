using System.Numerics;

namespace Zamblo.Core.Portraits;

/// <summary>How the corners of a mesh go when one thing moves: where it is moved by hand they go there, everything else follows as softly as it can.</summary>
/// <param name="Corners">Which.</param>
/// <param name="By">How far each goes at 1, in pixels of the picture.</param>
internal sealed record MotionShape(int[] Corners, Vector2[] By)
{
    /// <summary>Adds so much of it.</summary>
    public void Apply(Span<Vector2> corners, float amount)
    {
        if (amount == 0)
            return;
        for (var i = 0; i < Corners.Length; i++)
            corners[Corners[i]] += amount * By[i];
    }
}

/// <summary>
/// Spreads motion over a mesh: the displacement solves Laplace's equation on its edges, with what is held as the boundary (harmonic coordinates; Joshi et al.,
/// "Harmonic coordinates for character articulation", 2007). Lips do not pull at each other, since the slit has no edges across it.
/// </summary>
internal sealed class MotionSpread
{
    private readonly (int To, float Weight)[][] _edges;

    public MotionSpread(int corners, IReadOnlyList<Vector2> points, IReadOnlyList<(int A, int B, int C)> triangles)
    {
        var edges = new HashSet<(int, int)>();
        foreach (var (a, b, c) in triangles)
        foreach (var (p, q) in new[] { (a, b), (b, c), (c, a) })
        {
            edges.Add((p, q));
            edges.Add((q, p));
        }
        var by = edges.ToLookup(e => e.Item1, e => e.Item2);
        _edges =
        [
            .. Enumerable
                .Range(0, corners)
                .Select(i =>
                {
                    // In one order, so that the same mesh moves the same, bit for bit.
                    var near = by[i].Order().Select(j => (j, 1 / MathF.Max(0.5f, Vector2.Distance(points[i], points[j])))).ToArray();
                    var sum = near.Sum(n => n.Item2);
                    return near.Select(n => (n.j, n.Item2 / sum)).ToArray();
                }),
        ];
    }

    // By successive over-relaxation (Young, "Iterative solution of large linear systems", 1971).
    private const int Rounds = 160;
    private const float Over = 1.7f;

    /// <summary>Spreads.</summary>
    /// <param name="held">Where it is known.</param>
    public MotionShape Of(IReadOnlyDictionary<int, Vector2> held)
    {
        var by = new Vector2[_edges.Length];
        foreach (var (corner, goes) in held)
            by[corner] = goes;
        for (var round = 0; round < Rounds; round++)
        for (var i = 0; i < by.Length; i++)
        {
            if (_edges[i].Length == 0 || held.ContainsKey(i))
                continue;
            var sum = Vector2.Zero;
            foreach (var (to, weight) in _edges[i])
                sum += weight * by[to];
            by[i] += Over * (sum - by[i]);
        }
        int[] moved = [.. Enumerable.Range(0, by.Length).Where(i => by[i].Length() > 0.004f)];
        return new MotionShape(moved, [.. moved.Select(i => by[i])]);
    }
}
