using System.Numerics;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage;

// Eyes, pupils, lids and brows that a hand has drawn: they are moved, not drawn anew.
public sealed partial class DrawnFigure
{
    // Of its height: what is left of an eye that is shut.
    private const float Shut = 0.07f;

    // Above this a lid is up, and not seen.
    private const float Up = 0.97f;

    // How far knitted brows turn, in degrees.
    private const float Knit = 15;

    /// <summary>The part that each of its shapes belongs to; empty for what no part moves.</summary>
    public IReadOnlyList<string> PartsOfShapes => [.. _slots.Select(s => s.Node < 0 ? "" : _nodes[s.Node].Part.Id)];

    private static bool IsOff(float[]? point) => point != null && (point.Length != 2 || !point.All(x => float.IsFinite(x) && Math.Abs(x) <= ArtText.Furthest));

    // How a drawn part of the face moves about its pivot.
    private static Matrix3x2 OfFace(RigPart part, in Pose pose)
    {
        var pivot = Pivot(part);
        var reach = part.Reach is [var x, var y] ? new Vector2(x, y) : Vector2.Zero;
        var lid = Math.Clamp(part.Motion is RigMotion.EyeRight or RigMotion.LidRight ? pose.LidRight : pose.LidLeft, 0, 1.3f);
        switch (part.Motion)
        {
            case RigMotion.EyeLeft or RigMotion.EyeRight:
                var open = Shut + (1 - Shut) * Math.Min(1, lid) + 0.4f * Math.Max(0, lid - 1);
                return Matrix3x2.CreateScale(1, open * (1 - 0.3f * Math.Clamp(pose.Squint, 0, 1)), pivot) * Gaze(reach, pose);
            case RigMotion.Pupil:
                return Gaze(reach, pose);
            case RigMotion.LidLeft or RigMotion.LidRight:
                return Matrix3x2.CreateScale(1, Math.Clamp(1 - lid, 0.01f, 1), pivot);
            case RigMotion.BrowLeft or RigMotion.BrowRight:
                var isRight = part.Motion == RigMotion.BrowRight;
                var raise = isRight ? pose.BrowRight : pose.BrowLeft;
                var inward = isRight ? -1 : 1;
                return Matrix3x2.CreateRotation(Radians(inward * Knit * pose.BrowKnit), pivot)
                    * Matrix3x2.CreateTranslation(inward * reach.X * pose.BrowKnit, -reach.Y * raise + 0.4f * reach.Y * Math.Max(0, pose.BrowKnit));
            default:
                return Matrix3x2.Identity;
        }
    }

    private static Matrix3x2 Gaze(Vector2 reach, in Pose pose) => Matrix3x2.CreateTranslation(pose.GazeX * reach.X, pose.GazeY * reach.Y);

    private bool IsHidden(RigPart part, in Pose pose) =>
        part.Motion switch
        {
            RigMotion.LidLeft => pose.LidLeft >= Up,
            RigMotion.LidRight => pose.LidRight >= Up,
            _ => IsOtherHand(part, pose),
        };
}
