using System.Numerics;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Portraits;

/// <summary>
/// Turns the head of a picture by depth: the face is the front of an ellipsoid with a nose, hair and hat go along, the neck gives way, shoulders stay. And
/// what the body does: breath and leaning, less the nearer to the lower edge, where it is cut.
/// </summary>
internal sealed class HeadTurn
{
    // However far the pose turns, a picture shows one side only (chosen by eye).
    private const float MostTurn = 14,
        MostNod = 10,
        MostTilt = 11;

    private readonly PortraitMesh _mesh;
    private readonly Vector2 _nose,
        _pivot;
    private readonly float _height,
        _tall;
    private readonly bool _isFree;

    public HeadTurn(PortraitMesh mesh, float height, bool isFree)
    {
        (_mesh, _height, _isFree) = (mesh, height, isFree);
        _nose = mesh.Nose.Length == 5 ? mesh.Points[mesh.Nose[1]] : Vector2.Lerp(mesh.Middle, mesh.MouthMiddle, 0.45f);
        _tall = 2 * mesh.Radius.Y;
        _pivot = mesh.Chin + 0.12f * _tall * mesh.Down;
    }

    /// <summary>How much of the head's motion a point of the picture has, 0 to 1.</summary>
    public float WeightOf(Vector2 p)
    {
        var below = 1 - Curve.Smooth(-0.02f, 0.5f, Vector2.Dot(p - _mesh.Chin, _mesh.Down) / _tall);
        if (_isFree)
            return below;
        return below * (1 - Curve.Smooth(1.05f, 1.8f, Out(p)));
    }

    /// <summary>Depth of a point towards the viewer, in pixels.</summary>
    public float DepthOf(Vector2 p)
    {
        var q = Out(p);
        var globe = 0.7f * _mesh.Radius.X * MathF.Pow(MathF.Max(0, 1 - q * q), 0.75f);
        var n = Vector2.Distance(p, _nose) / (0.2f * _mesh.Radius.X);
        return globe + 0.26f * _mesh.Radius.X * MathF.Exp(-n * n);
    }

    private float Out(Vector2 p)
    {
        var d = p - _mesh.Middle;
        return new Vector2(Vector2.Dot(d, _mesh.Across) / (1.06f * _mesh.Radius.X), Vector2.Dot(d, _mesh.Down) / (1.1f * _mesh.Radius.Y)).Length();
    }

    private static float Softly(float x, float most) => most * MathF.Tanh(x / most);

    /// <summary>Where a point of the face goes.</summary>
    /// <param name="p">Where it is, its own motion done.</param>
    /// <param name="weight">As <see cref="WeightOf"/> says for where it was.</param>
    /// <param name="depth">As <see cref="DepthOf"/> says for where it was.</param>
    /// <param name="pose">The pose.</param>
    public Vector2 Place(Vector2 p, float weight, float depth, in Pose pose)
    {
        const float degree = MathF.PI / 180;
        float turn = Softly(0.6f * pose.HeadTurn, MostTurn) * degree,
            nod = Softly(0.6f * pose.HeadNod, MostNod) * degree,
            tilt = Softly(0.75f * pose.HeadTilt, MostTilt) * degree;
        var d = p - _mesh.Middle;
        float x = Vector2.Dot(d, _mesh.Across),
            y = Vector2.Dot(d, _mesh.Down);
        float dx = x * (MathF.Cos(turn) - 1) + depth * MathF.Sin(turn) + 0.05f * _mesh.Radius.X * turn / (MostTurn * degree),
            dy = y * (MathF.Cos(nod) - 1) + depth * MathF.Sin(nod) + 0.05f * _mesh.Radius.Y * nod / (MostNod * degree);
        p += weight * (dx * _mesh.Across + dy * _mesh.Down);
        var arm = p - _pivot;
        var (s, c) = MathF.SinCos(tilt);
        p += weight * (new Vector2(c * arm.X - s * arm.Y, s * arm.X + c * arm.Y) - arm);
        return Body(p, pose);
    }

    private Vector2 Body(Vector2 p, in Pose pose)
    {
        var up = Math.Clamp((_height - p.Y) / _height, 0, 1);
        var lean = MathF.Sin(Softly(pose.Lean, 8) * MathF.PI / 180);
        // Shoulders rise with breath; the lower edge stays.
        var breath = 0.005f * _height * pose.Breath * Curve.Smooth(0, 0.35f, up);
        return new Vector2(
            p.X + 0.55f * lean * _height * MathF.Pow(up, 1.4f) + Softly(pose.ShiftX, 0.05f) * _height * up,
            p.Y - breath - 0.4f * Softly(pose.Stretch, 0.08f) * _height * up + 0.5f * Math.Clamp(pose.Crouch, 0, 0.1f) * _height * up
        );
    }
}
