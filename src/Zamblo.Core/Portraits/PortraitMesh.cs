using System.Numerics;

namespace Zamblo.Core.Portraits;

/// <summary>
/// Triangles over a picture with a face: corners along all lines of the face, rings around it, and between them. The mouth is a slit: its two lips share
/// nothing but its corners. All in pixels of the picture.
/// </summary>
internal sealed class PortraitMesh
{
    /// <summary>Points along each line, corners included.</summary>
    public const int LipPoints = 13,
        RimPoints = 9,
        LidPoints = 9,
        OutlinePoints = 20;

    private readonly List<Vector2> _points = [];
    private readonly List<Vector2> _apart = [];
    private readonly List<(int, int)> _edges = [];
    private readonly float _width,
        _height;

    /// <summary>Where the corners are in the picture.</summary>
    public IReadOnlyList<Vector2> Points => _points;

    /// <summary>Three corners each.</summary>
    public IReadOnlyList<(int A, int B, int C)> Triangles { get; }

    /// <summary>Corners along the lips: outer and inner edges, each from the picture's left to its right.</summary>
    public int[] OuterUpper { get; }

    /// <inheritdoc cref="OuterUpper"/>
    public int[] OuterLower { get; }

    /// <inheritdoc cref="OuterUpper"/>
    public int[] InnerUpper { get; }

    /// <inheritdoc cref="OuterUpper"/>
    public int[] InnerLower { get; }

    /// <summary>Edge of the face, from the middle of the forehead clockwise.</summary>
    public int[] Outline { get; }

    /// <summary>Rings around the face, in the order of the outline; -1 where one would lie outside the picture.</summary>
    public int[][] Rings { get; }

    /// <summary>The eyes, the picture's left first; null for none.</summary>
    public EyeCorners?[] Eyes { get; }

    /// <summary>Brows, two rows each; empty for none.</summary>
    public int[][] Brows { get; }

    /// <summary>Bridge, tip, left wing, right wing, lower end; empty for none.</summary>
    public int[] Nose { get; }

    /// <summary>Along the face: to the picture's right, and down.</summary>
    public Vector2 Across { get; }

    /// <inheritdoc cref="Across"/>
    public Vector2 Down { get; }

    /// <summary>Middle of the face, of the mouth, and the lowest point of the chin.</summary>
    public Vector2 Middle { get; }

    /// <inheritdoc cref="Middle"/>
    public Vector2 MouthMiddle { get; }

    /// <inheritdoc cref="Middle"/>
    public Vector2 Chin { get; }

    /// <summary>From corner to corner of the mouth.</summary>
    public float MouthWidth { get; }

    /// <summary>Half width and half height of the face.</summary>
    public Vector2 Radius { get; }

    /// <summary>The mouth is open in the picture.</summary>
    public bool IsOpen { get; }

    /// <summary>Corners of the mesh along the lids, each row from the picture's left to its right.</summary>
    /// <param name="Upper">Edge of the upper lid, corners of the eye included.</param>
    /// <param name="Lower">Edge of the lower lid, corners of the eye included.</param>
    /// <param name="Lash">A little above the upper lid's edge: goes along with it.</param>
    /// <param name="Crease">Where the lid's skin comes from.</param>
    internal sealed record EyeCorners(int[] Upper, int[] Lower, int[] Lash, int[] Crease);

    // How far the rings lie out, in radii of the face; the mouth counts as open from this gap on, in its width (chosen by eye).
    private static readonly float[] RingSizes = [1.16f, 1.42f, 1.85f];
    private const float OpenGap = 0.055f;

    /// <param name="marks">The face.</param>
    /// <param name="width">Of the picture.</param>
    /// <param name="height">Of the picture.</param>
    /// <param name="linesOnly">Corners of the lines alone, no triangles: to see where they are.</param>
    public PortraitMesh(PortraitMarks marks, float width, float height, bool linesOnly = false)
    {
        (_width, _height) = (width, height);
        Vector2 left = marks.Mouth.OuterUpper[0],
            right = marks.Mouth.OuterUpper[^1];
        MouthWidth = Vector2.Distance(left, right);
        Across = Vector2.Normalize(right - left);
        Down = new Vector2(-Across.Y, Across.X);
        var outline = Curve.Along(marks.Outline, OutlinePoints, true);
        Middle = outline.Aggregate((a, b) => a + b) / outline.Length;
        Radius = new Vector2(outline.Max(p => MathF.Abs(Vector2.Dot(p - Middle, Across))), outline.Max(p => MathF.Abs(Vector2.Dot(p - Middle, Down))));
        Chin = outline.MaxBy(p => Vector2.Dot(p, Down));
        var (upper, lower) = (Curve.Along(marks.Mouth.InnerUpper, LipPoints), Curve.Along(marks.Mouth.InnerLower, LipPoints));
        IsOpen = Vector2.Dot(lower[LipPoints / 2] - upper[LipPoints / 2], Down) > OpenGap * MouthWidth;
        for (var i = 0; i < LipPoints; i++)
            if (!IsOpen || i is 0 or LipPoints - 1)
                // Shut: the dark between the lips is shared by both.
                upper[i] = lower[i] = (upper[i] + lower[i]) / 2;
        MouthMiddle = (upper[LipPoints / 2] + lower[LipPoints / 2]) / 2;
        Outline = Line(outline, true);
        InnerUpper = Line(upper);
        // Laid apart for the triangles' sake, wherever they are in the picture.
        InnerLower = [InnerUpper[0], .. Line(lower[1..^1], false), InnerUpper[^1]];
        for (var i = 1; i < LipPoints - 1; i++)
        {
            var s = 2f * i / (LipPoints - 1) - 1;
            var gap = 0.016f * MouthWidth * (1 - s * s) * Down;
            _apart[InnerUpper[i]] -= gap;
            _apart[InnerLower[i]] += gap;
        }
        Join(InnerLower);
        var rimUpper = Curve.Along(marks.Mouth.OuterUpper, RimPoints);
        var rimLower = Curve.Along(marks.Mouth.OuterLower, RimPoints);
        // A mouth that is a line has lips, too: as much of the skin as moves with it.
        for (var i = 1; i < RimPoints - 1; i++)
        {
            var s = MathF.Sin(MathF.PI * i / (RimPoints - 1));
            rimUpper[i] = Beyond(rimUpper[i], Nearest(upper, rimUpper[i]), -Down, 0.05f * MouthWidth * s);
            rimLower[i] = Beyond(rimLower[i], Nearest(lower, rimLower[i]), Down, 0.05f * MouthWidth * s);
        }
        // The lips' outer corners lie a little outside the slit's own.
        rimUpper[0] = Outside(rimUpper[0], upper[0], -Across);
        rimUpper[^1] = Outside(rimUpper[^1], upper[^1], Across);
        OuterUpper = Line(rimUpper);
        OuterLower = [OuterUpper[0], .. Line(rimLower[1..^1], false), OuterUpper[^1]];
        Join(OuterLower);
        Eyes = [EyeOf(marks.EyeLeft), EyeOf(marks.EyeRight)];
        Brows = [BrowOf(marks.BrowLeft), BrowOf(marks.BrowRight)];
        Nose = marks.Nose.Length == 5 ? Line([.. marks.Nose.Select(m => (Vector2)m)], false, false) : [];
        (Rings, Triangles) = ([], []);
        if (linesOnly)
            return;
        Rings = [.. RingSizes.Select(size => outline.Select(p => Loose(Middle + size * (p - Middle), 0.03f * Radius.X)).ToArray())];
        Border();
        var mouth = InnerUpper.Concat(InnerLower.Reverse()).Select(i => _apart[i]).ToArray();
        Fill(mouth);
        Triangles = [.. Triangulation.Of(_apart, _edges).Where(t => !Curve.IsInside(mouth, (_apart[t.A] + _apart[t.B] + _apart[t.C]) / 3))];
    }

    private static Vector2 Nearest(Vector2[] line, Vector2 p) => line.MinBy(q => Vector2.DistanceSquared(p, q));

    private static Vector2 Beyond(Vector2 p, Vector2 from, Vector2 to, float least) => p + Math.Max(0, least - Vector2.Dot(p - from, to)) * to;

    private Vector2 Outside(Vector2 p, Vector2 corner, Vector2 to) => p + Math.Max(0, 0.025f * MouthWidth - Vector2.Dot(p - corner, to)) * to;

    private int Add(Vector2 p)
    {
        _points.Add(p);
        _apart.Add(p);
        return _points.Count - 1;
    }

    private int[] Line(IReadOnlyList<Vector2> points, bool isClosed = false, bool isJoined = true)
    {
        int[] line = [.. points.Select(Add)];
        if (isJoined)
            Join(line);
        if (isClosed)
            _edges.Add((line[^1], line[0]));
        return line;
    }

    private void Join(int[] line)
    {
        for (var i = 1; i < line.Length; i++)
            if (!_edges.Contains((line[i - 1], line[i])))
                _edges.Add((line[i - 1], line[i]));
    }

    private bool IsFree(Vector2 p, float apart) =>
        p.X >= 0 && p.Y >= 0 && p.X <= _width && p.Y <= _height && !_apart.Exists(q => Vector2.DistanceSquared(p, q) < apart * apart);

    // Where there is room for it.
    private int Loose(Vector2 p, float apart) => IsFree(p, apart) ? Add(p) : -1;

    private EyeCorners? EyeOf(EyeMarks? eye)
    {
        if (eye == null)
            return null;
        var upper = Curve.Along(eye.Upper, LidPoints);
        var lower = Curve.Along(eye.Lower, LidPoints);
        var width = eye.Width;
        lower[0] = upper[0];
        lower[^1] = upper[^1];
        // A shut eye has room to open.
        for (var i = 1; i < LidPoints - 1; i++)
        {
            var room = 0.03f * width * MathF.Sin(MathF.PI * i / (LidPoints - 1));
            if (Vector2.Dot(lower[i] - upper[i], Down) < room)
                (upper[i], lower[i]) = (upper[i] - room / 2 * Down, lower[i] + room / 2 * Down);
        }
        var line = Line(upper);
        int[] under = [line[0], .. Line(lower[1..^1], false), line[^1]];
        Join(under);
        int[] Row(float up) =>
            [.. Enumerable.Range(1, LidPoints - 2).Select(i => Add(upper[i] - up * width * (0.4f + 0.6f * MathF.Sin(MathF.PI * i / (LidPoints - 1))) * Down))];
        return new EyeCorners(line, under, Row(0.085f), Row(0.24f));
    }

    private int[] BrowOf(Mark[] brow)
    {
        if (brow.Length < 3)
            return [];
        var line = Curve.Along(brow, 5);
        var half = 0.05f * Vector2.Distance(line[0], line[^1]) * Down;
        return [.. line.Select(p => Loose(p - half, 1)).Concat(line.Select(p => Loose(p + half, 1))).Where(i => i >= 0)];
    }

    private void Border()
    {
        const int sides = 5;
        for (var i = 0; i < sides; i++)
        {
            float t = i / (float)sides;
            Add(new Vector2(t * _width, 0));
            Add(new Vector2(_width, t * _height));
            Add(new Vector2((1 - t) * _width, _height));
            Add(new Vector2(0, (1 - t) * _height));
        }
    }

    // Fine in the face, coarse around it; never in the mouth or an eye.
    private void Fill(Vector2[] mouth)
    {
        Vector2[][] eyes = [.. Eyes.OfType<EyeCorners>().Select(e => e.Upper.Concat(e.Lower.Reverse()).Select(i => _points[i]).ToArray())];
        var lips = OuterUpper.Concat(OuterLower.Reverse()).Select(i => _points[i]).ToArray();
        void Grid(float step, Func<Vector2, bool> isWanted)
        {
            var row = 0;
            for (var y = step / 2; y < _height; y += step * 0.866f, row++)
            for (var x = step * (row % 2 == 0 ? 0.5f : 1); x < _width; x += step)
            {
                var p = new Vector2(x, y);
                if (isWanted(p) && IsFree(p, 0.62f * step) && !Curve.IsInside(lips, p) && !Array.Exists(eyes, e => Curve.IsInside(e, p)))
                    Add(p);
            }
        }
        float Out(Vector2 p) => new Vector2(Vector2.Dot(p - Middle, Across) / Radius.X, Vector2.Dot(p - Middle, Down) / Radius.Y).Length();
        Grid(Radius.X / 3.6f, p => Out(p) < 1.08f);
        Grid(Math.Max(Radius.X / 1.3f, MathF.Max(_width, _height) / 12), _ => true);
    }
}
