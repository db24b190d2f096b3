using System.Numerics;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using static Zamblo.Core.Portraits.Curve;

namespace Zamblo.Core.Portraits;

/// <summary>
/// What a pose does to a face in a picture. Lips part along their line; teeth stay with the skull, the chin goes with the jaw. Lengths are shares of the
/// mouth's width, chosen by eye against drawn characters' mouths, unless said.
/// </summary>
internal sealed class PortraitMotion
{
    private readonly PortraitMesh _mesh;
    private readonly MotionSpread _spread;
    private readonly SortedSet<int> _still = [];
    private readonly MotionShape? _close;
    private readonly MotionShape _open,
        _jaw,
        _wide,
        _pucker,
        _push,
        _press,
        _tuck,
        _upper,
        _lower,
        _cornerLeft,
        _cornerRight;
    private readonly MotionShape?[] _lids,
        _squints,
        _brows,
        _knits;

    // The jaw's way at its widest, of which the lips make so much; no more than there is room for above the chin.
    private const float WidestGap = 0.62f,
        RoomShare = 0.62f,
        LowerShare = 0.84f,
        ChinShare = 0.72f;

    // Human eyes close with the upper lid; the lower one comes a tenth of the way (common practice in animation).
    private const float LowerLid = 0.1f;

    /// <summary>How far the lips are apart at the widest, in pixels of the picture.</summary>
    public float Gap { get; }

    /// <summary>How much of a lid's way its crease goes along.</summary>
    public const float CreaseShare = 0.2f;

    private readonly float _crease;

    /// <param name="mesh">The face.</param>
    /// <param name="crease">How much of a lid's way its crease goes along: less where it lies close under the brow.</param>
    public PortraitMotion(PortraitMesh mesh, float crease = CreaseShare)
    {
        _crease = crease;
        _mesh = mesh;
        _spread = new MotionSpread(mesh.Points.Count, mesh.Points, mesh.Triangles);
        var w = mesh.MouthWidth;
        Vector2 x = mesh.Across,
            y = mesh.Down;
        Gap = Math.Min(WidestGap * w, RoomShare * Vector2.Dot(mesh.Chin - mesh.MouthMiddle, y));
        foreach (var eye in mesh.Eyes)
            if (eye != null)
                _still.UnionWith([.. eye.Upper, .. eye.Lower, .. eye.Crease]);
        _still.UnionWith(mesh.Brows.SelectMany(b => b));
        _still.UnionWith(mesh.Nose);
        foreach (var ring in mesh.Rings)
            _still.UnionWith(ring.Where(i => i >= 0));
        _still.UnionWith(mesh.Outline);
        int middle = PortraitMesh.LipPoints / 2;
        if (mesh.IsOpen)
            _close = Closing(
                i => P(mesh.InnerUpper[i]),
                i => P(mesh.InnerLower[i]),
                Vector2.Dot(P(mesh.InnerLower[middle]) - P(mesh.InnerUpper[middle]), y),
                y
            );
        _open = Shape(held =>
        {
            Lip(held, mesh.InnerUpper, s => -(1 - LowerShare) * Gap * Arc(s) * y);
            Rim(held, mesh.OuterUpper, s => -(1 - LowerShare) * 0.8f * Gap * Arc(s) * y);
            Lip(held, mesh.InnerLower, s => LowerShare * Gap * Arc(s) * y);
            Rim(held, mesh.OuterLower, s => LowerShare * Gap * Arc(s) * y);
        });
        _jaw = Shape(held =>
        {
            Lips(held, _ => Vector2.Zero);
            ChinDown(held, ChinShare * Gap);
            held[mesh.OuterUpper[0]] = 0.05f * Gap * y + 0.04f * w * x;
            held[mesh.OuterUpper[^1]] = 0.05f * Gap * y - 0.04f * w * x;
            held[mesh.InnerUpper[0]] = 0.05f * Gap * y + 0.045f * w * x;
            held[mesh.InnerUpper[^1]] = 0.05f * Gap * y - 0.045f * w * x;
        });
        _wide = Shape(held => Lips(held, s => (0.09f * w * s * x) - 0.02f * w * s * s * y));
        // A rounded mouth neither smiles nor droops, whatever it does in the picture.
        float lift = Vector2.Dot(mesh.MouthMiddle - (P(mesh.InnerUpper[0]) + P(mesh.InnerUpper[^1])) / 2, y);
        Vector2 Round(float s) => -0.25f * w * MathF.Sin(s * MathF.PI / 2) * x + 0.85f * lift * MathF.Pow(MathF.Abs(s), 1.7f) * y;
        // Drawn together a lip's edge would come to a point: it goes round as an ellipse does, as high as it is in the middle.
        Vector2 Fuller(int[] rim, float s)
        {
            Vector2 a = P(rim[0]),
                b = P(rim[^1]),
                across = (b - a) / (b - a).LengthSquared();
            float HighAt(int i) => Vector2.Dot(P(rim[i]) - Vector2.Lerp(a, b, Math.Clamp(Vector2.Dot(P(rim[i]) - a, across), 0, 1)), y);
            var at = (int)MathF.Round((s + 1) / 2 * (rim.Length - 1));
            // How far out it is then, as a share of the mouth's new half width.
            var u = 2 * s - MathF.Sin(s * MathF.PI / 2);
            return (HighAt(rim.Length / 2) * MathF.Sqrt(MathF.Max(0, 1 - u * u)) - HighAt(at)) * y;
        }
        _pucker = Shape(held =>
        {
            Lips(held, Round);
            Rim(held, mesh.OuterUpper, s => Round(s) - 0.035f * w * Arc(s) * y + 0.5f * Fuller(mesh.OuterUpper, s));
            Rim(held, mesh.OuterLower, s => Round(s) + 0.045f * w * Arc(s) * y + 0.85f * Fuller(mesh.OuterLower, s));
        });
        _push = Shape(held =>
        {
            Lips(held, s => -0.03f * w * s * x);
            Rim(held, mesh.OuterUpper, s => -0.03f * w * s * x - 0.03f * w * Arc(s) * y);
            Rim(held, mesh.OuterLower, s => -0.03f * w * s * x + 0.04f * w * Arc(s) * y);
        });
        _press = Shape(held =>
        {
            Lips(held, _ => Vector2.Zero);
            Rim(held, mesh.OuterUpper, mesh.InnerUpper, (p, lip) => 0.4f * (lip - p));
            Rim(held, mesh.OuterLower, mesh.InnerLower, (p, lip) => 0.4f * (lip - p));
        });
        _tuck = Shape(held =>
        {
            Lip(held, mesh.InnerUpper, s => -0.055f * w * Arc(s) * y);
            Rim(held, mesh.OuterUpper, s => -0.05f * w * Arc(s) * y);
            Lip(held, mesh.InnerLower, s => 0.012f * w * Arc(s) * y);
            Rim(held, mesh.OuterLower, mesh.InnerLower, (p, lip) => 0.5f * (lip - p));
        });
        _upper = Shape(held =>
        {
            Lips(held, _ => Vector2.Zero);
            Lip(held, mesh.InnerUpper, s => -0.055f * w * Arc(s) * y);
            Rim(held, mesh.OuterUpper, s => -0.05f * w * Arc(s) * y);
            if (mesh.Nose.Length == 5)
                held[mesh.Nose[2]] = held[mesh.Nose[3]] = -0.014f * w * y;
        });
        _lower = Shape(held =>
        {
            Lips(held, _ => Vector2.Zero);
            Lip(held, mesh.InnerLower, s => 0.07f * w * Arc(s) * y);
            Rim(held, mesh.OuterLower, s => 0.065f * w * Arc(s) * y);
        });
        _cornerLeft = Shape(held => Lips(held, s => Side(-s) * (-0.11f * w * y - 0.045f * w * x)));
        _cornerRight = Shape(held => Lips(held, s => Side(s) * (-0.11f * w * y + 0.045f * w * x)));
        _lids = [.. mesh.Eyes.Select(e => e == null ? null : Lids(e))];
        _squints = [.. mesh.Eyes.Select(e => e == null ? null : Squint(e))];
        _brows = [.. Enumerable.Range(0, 2).Select(i => Brow(i, (_, _) => -0.3f * EyeWidth(i) * y))];
        _knits =
        [
            .. Enumerable
                .Range(0, 2)
                .Select(i =>
                    Brow(
                        i,
                        (at, _) => (i == 0 ? at : 1 - at) * (0.16f * EyeWidth(i) * y + (i == 0 ? 0.13f : -0.13f) * EyeWidth(i) * x) - 0.04f * EyeWidth(i) * y
                    )
                ),
        ];
    }

    private Vector2 P(int corner) => _mesh.Points[corner];

    // Over a lip: nothing at its corners (-1 and 1), all in its middle. Flatter than a parabola: lips part over most of their width.
    private static float Arc(float s) => 1 - MathF.Pow(MathF.Abs(s), 2.4f);

    // How much a corner of the mouth takes along.
    private static float Side(float s) => MathF.Pow(Math.Clamp((1 + s) / 2, 0, 1), 2.2f);

    private MotionShape Shape(Action<Dictionary<int, Vector2>> set)
    {
        var held = _still.ToDictionary(i => i, _ => Vector2.Zero);
        set(held);
        return _spread.Of(held);
    }

    private static void Lip(Dictionary<int, Vector2> held, int[] lip, Func<float, Vector2> by)
    {
        for (var i = 1; i < lip.Length - 1; i++)
            held[lip[i]] = by(2f * i / (lip.Length - 1) - 1);
    }

    private static void Rim(Dictionary<int, Vector2> held, int[] rim, Func<float, Vector2> by) => Lip(held, rim, by);

    private void Rim(Dictionary<int, Vector2> held, int[] rim, int[] lip, Func<Vector2, Vector2, Vector2> by)
    {
        for (var i = 1; i < rim.Length - 1; i++)
            held[rim[i]] = by(P(rim[i]), P(lip[i * (lip.Length - 1) / (rim.Length - 1)]));
    }

    // All four lines and the corners.
    private void Lips(Dictionary<int, Vector2> held, Func<float, Vector2> by)
    {
        foreach (var line in new[] { _mesh.InnerUpper, _mesh.InnerLower, _mesh.OuterUpper, _mesh.OuterLower })
            for (var i = 0; i < line.Length; i++)
                held[line[i]] = by(2f * i / (line.Length - 1) - 1);
    }

    // The lower edge of the face goes down, most at the chin; the neck gives way.
    private void ChinDown(Dictionary<int, Vector2> held, float by)
    {
        float top = Vector2.Dot(_mesh.MouthMiddle - _mesh.Middle, _mesh.Down),
            low = Vector2.Dot(_mesh.Chin - _mesh.Middle, _mesh.Down);
        void Goes(int corner, float share)
        {
            if (corner < 0)
                return;
            var p = P(corner) - _mesh.Middle;
            var depth = Smooth(top * 0.6f, low, Vector2.Dot(p, _mesh.Down));
            var side = 1 - Smooth(0.35f, 1.05f, MathF.Abs(Vector2.Dot(p, _mesh.Across)) / _mesh.Radius.X);
            held[corner] = share * by * depth * side * _mesh.Down;
        }
        foreach (var corner in _mesh.Outline)
            Goes(corner, 1);
        foreach (var (ring, share) in _mesh.Rings.Zip(new[] { 0.6f, 0.15f, 0 }))
        foreach (var corner in ring)
            Goes(corner, share);
    }

    private float EyeWidth(int eye) => _mesh.Eyes[eye] is { } e ? Vector2.Distance(P(e.Upper[0]), P(e.Upper[^1])) : 0.5f * _mesh.MouthWidth;

    private MotionShape Lids(PortraitMesh.EyeCorners eye)
    {
        var held = _still.ToDictionary(i => i, _ => Vector2.Zero);
        for (var i = 1; i < eye.Upper.Length - 1; i++)
        {
            Vector2 up = P(eye.Upper[i]),
                low = P(eye.Lower[i]);
            held[eye.Upper[i]] = (1 - LowerLid) * (low - up);
            held[eye.Lower[i]] = LowerLid * (up - low);
            held[eye.Lash[i - 1]] = 0.94f * (1 - LowerLid) * (low - up);
            held[eye.Crease[i - 1]] = _crease * (low - up);
        }
        return _spread.Of(held);
    }

    private MotionShape Squint(PortraitMesh.EyeCorners eye)
    {
        var held = _still.ToDictionary(i => i, _ => Vector2.Zero);
        for (var i = 1; i < eye.Lower.Length - 1; i++)
            held[eye.Lower[i]] = 0.32f * (P(eye.Upper[i]) - P(eye.Lower[i]));
        return _spread.Of(held);
    }

    // By a brow's length from the picture's left, 0 to 1.
    private MotionShape? Brow(int which, Func<float, Vector2, Vector2> by)
    {
        var brow = _mesh.Brows[which];
        if (brow.Length == 0)
            return null;
        var held = _still.ToDictionary(i => i, _ => Vector2.Zero);
        foreach (var free in _mesh.Eyes[which]?.Crease ?? [])
            held.Remove(free);
        float from = brow.Min(i => Vector2.Dot(P(i), _mesh.Across)),
            to = brow.Max(i => Vector2.Dot(P(i), _mesh.Across));
        foreach (var i in brow)
            held[i] = by((Vector2.Dot(P(i), _mesh.Across) - from) / MathF.Max(1, to - from), P(i));
        return _spread.Of(held);
    }

    /// <summary>How an open mouth is shut: both lips meet, nearer to the upper one, and the chin comes along.</summary>
    /// <param name="upper">Inner edge of the upper lip, by its number.</param>
    /// <param name="lower">Inner edge of the lower lip, by its number.</param>
    /// <param name="gap">Between them in the middle.</param>
    /// <param name="down">To the chin.</param>
    public MotionShape Closing(Func<int, Vector2> upper, Func<int, Vector2> lower, float gap, Vector2 down) =>
        Shape(held =>
        {
            for (var i = 1; i < PortraitMesh.LipPoints - 1; i++)
            {
                var meet = Vector2.Lerp(upper(i), lower(i), 0.4f);
                held[_mesh.InnerUpper[i]] = meet - upper(i);
                held[_mesh.InnerLower[i]] = meet - lower(i);
            }
            Rim(held, _mesh.OuterUpper, s => 0.4f * gap * Arc(s) * down);
            Rim(held, _mesh.OuterLower, s => -0.6f * gap * Arc(s) * down);
            ChinDown(held, -0.35f * gap);
        });

    /// <summary>Corners that move with the mouth.</summary>
    public IReadOnlySet<int> Moving() =>
        new[] { _open, _jaw, _wide, _pucker, _push, _press, _tuck, _upper, _lower, _cornerLeft, _cornerRight }.SelectMany(s => s.Corners).ToHashSet();

    /// <summary>Adds what a mouth does.</summary>
    /// <param name="m">The mouth.</param>
    /// <param name="corners">One for each of the mesh.</param>
    public void ApplyMouth(in MouthChannels m, Span<Vector2> corners)
    {
        float jaw = m[MouthChannel.Jaw],
            part = m[MouthChannel.Part],
            spread = m[MouthChannel.Spread],
            tuck = m[MouthChannel.Tuck];
        // As the drawn mouths do it: lips are apart by both, and nothing is bared that is shut.
        var gate = Math.Min(1, part * 4);
        _open.Apply(corners, part * (0.36f + 0.64f * jaw) * (1 - tuck));
        _jaw.Apply(corners, jaw);
        _wide.Apply(corners, Math.Max(0, spread));
        _pucker.Apply(corners, Math.Max(0, -spread));
        _push.Apply(corners, m[MouthChannel.Protrusion]);
        _press.Apply(corners, m[MouthChannel.Press]);
        _tuck.Apply(corners, tuck);
        _upper.Apply(corners, m[MouthChannel.UpperRaise] * gate);
        _lower.Apply(corners, m[MouthChannel.LowerDrop] * gate);
        _cornerLeft.Apply(corners, m[MouthChannel.CornerLeft]);
        _cornerRight.Apply(corners, m[MouthChannel.CornerRight]);
    }

    /// <summary>Puts the corners where a pose has them, before the head turns.</summary>
    /// <param name="pose">The pose.</param>
    /// <param name="corners">One for each of the mesh.</param>
    public void Apply(in Pose pose, Span<Vector2> corners)
    {
        for (var i = 0; i < corners.Length; i++)
            corners[i] = P(i);
        _close?.Apply(corners, 1);
        ApplyMouth(pose.Mouth, corners);
        for (var e = 0; e < 2; e++)
        {
            var lid = e == 0 ? pose.LidLeft : pose.LidRight;
            _lids[e]?.Apply(corners, 1 - Math.Clamp(lid, 0, 1.2f));
            _squints[e]?.Apply(corners, Math.Clamp(pose.Squint, 0, 1) * Math.Clamp(lid, 0, 1));
            _brows[e]?.Apply(corners, e == 0 ? pose.BrowLeft : pose.BrowRight);
            _knits[e]?.Apply(corners, pose.BrowKnit);
        }
    }

    /// <summary>Corners that move with the lids.</summary>
    public IReadOnlySet<int> MovingLids() => _lids.Concat(_squints).OfType<MotionShape>().SelectMany(s => s.Corners).ToHashSet();

    /// <summary>Adds what lids do that come down over eyes which are open by themselves.</summary>
    /// <param name="pose">The pose.</param>
    /// <param name="corners">One for each of the mesh.</param>
    /// <param name="left">How far the eye at the picture's left is open by itself, as a share of how far it is in the mesh.</param>
    /// <param name="right">The other one.</param>
    public void ApplyLids(in Pose pose, Span<Vector2> corners, float left, float right)
    {
        for (var e = 0; e < 2; e++)
        {
            // Nothing is behind a lid that could be seen when it goes up.
            var (lid, open) = e == 0 ? (Math.Clamp(pose.LidLeft, 0, 1), left) : (Math.Clamp(pose.LidRight, 0, 1), right);
            _lids[e]?.Apply(corners, (1 - lid) * open);
            _squints[e]?.Apply(corners, Math.Clamp(pose.Squint, 0, 1) * lid * open);
        }
    }

    /// <summary>How far down the lower teeth are, in pixels of the picture.</summary>
    public float JawDown(in MouthChannels m) => ChinShare * Gap * m[MouthChannel.Jaw];
}
