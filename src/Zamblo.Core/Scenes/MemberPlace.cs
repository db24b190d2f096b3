namespace Zamblo.Core.Scenes;

/// <summary>Where a hand has put somebody in a scene; what it left alone follows from the cast and the character.</summary>
/// <param name="X">Where it stands, in stage units (the stage is 1280 wide); null spreads the cast.</param>
/// <param name="Lift">Above the ground on which it stands by itself, in stage units (the stage is 720 high).</param>
/// <param name="Size">1 is the character's own.</param>
/// <param name="Depth">More is further in front, among those behind a counter and among those before it; 0 is the order of the cast.</param>
/// <param name="Facing">To which side it is turned when it looks at nobody: -1 to the picture's left, 0 to the camera, 1 to the right.</param>
public sealed record MemberPlace(float? X = null, float Lift = 0, float Size = 1, int Depth = 0, float Facing = 0)
{
    /// <summary>The greatest number of steps to the front or to the back.</summary>
    public const int Deepest = 20;

    /// <summary>The same within its ranges: not further off than one can see somebody come in.</summary>
    public MemberPlace Clamped()
    {
        static float In(float x, float low, float high, float other) => float.IsFinite(x) ? Math.Clamp(x, low, high) : other;
        return new MemberPlace(
            X is { } x && float.IsFinite(x) ? Math.Clamp(x, -400, 1680) : null,
            In(Lift, -500, 700, 0),
            In(Size, 0.25f, 4, 1),
            Math.Clamp(Depth, -Deepest, Deepest),
            In(Facing, -1, 1, 0)
        );
    }
}
