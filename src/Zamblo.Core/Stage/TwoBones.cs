using System.Numerics;

namespace Zamblo.Core.Stage;

/// <summary>Two bones that reach for a point: arms and legs.</summary>
public static class TwoBones
{
    /// <summary>Directions of two bones so that the end of the second is at a target (the law of cosines).</summary>
    /// <param name="upper">Length of the first bone.</param>
    /// <param name="lower">Length of the second bone.</param>
    /// <param name="target">Seen from the root. Further off than both bones together they point straight at it; too near, as near as they go.</param>
    /// <param name="bend">To which side the joint goes: 1 clockwise on the screen of the line to the target, -1 the other.</param>
    /// <returns>Directions of the two bones in radians, clockwise on the screen from the picture's right.</returns>
    public static (float Upper, float Lower) Reach(float upper, float lower, Vector2 target, int bend)
    {
        var distance = Math.Clamp(target.Length(), Math.Abs(upper - lower) + 1e-4f, upper + lower - 1e-4f);
        var towards = MathF.Atan2(target.Y, target.X);
        var atRoot = MathF.Acos(Math.Clamp((upper * upper + distance * distance - lower * lower) / (2 * upper * distance), -1, 1));
        var atJoint = MathF.Acos(Math.Clamp((upper * upper + lower * lower - distance * distance) / (2 * upper * lower), -1, 1));
        var first = towards + bend * atRoot;
        return (first, first - bend * (MathF.PI - atJoint));
    }
}
