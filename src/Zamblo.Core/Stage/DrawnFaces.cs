using System.Numerics;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage;

// The face: eyes and brows that are drawn anew in every frame, and those that a hand has drawn, which are moved.
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

    private static string? EyePath(RigEye eye, in Pose pose, int piece)
    {
        float rx = eye.Radius[0],
            ry = eye.Radius[1],
            lid = Math.Clamp(eye.IsRight ? pose.LidRight : pose.LidLeft, 0, 1.3f);
        // The upper lid comes down to a line that lies under the eye's middle; the lower one rises a little to meet it.
        // At rest it covers the top of the pupil: a lid that shows the whole round looks startled.
        float top = -ry * 1.12f * lid + ry * 0.55f * (1 - Math.Min(1, lid)),
            bottom = ry * 1.333f * (1 - 0.6f * Math.Clamp(pose.Squint, 0, 1)) * Math.Min(1, lid) + ry * 0.75f * (1 - Math.Min(1, lid));
        var side = ry * 0.35f * (1 - Math.Min(1, lid));
        const float k = 0.72f;
        var shut = lid < 0.08f;
        switch (piece)
        {
            case 0:
                return shut
                    ? null
                    : new PathText()
                        .Move(-rx, side)
                        .Curve(-rx * k, top, rx * k, top, rx, side)
                        .Curve(rx * k, bottom, -rx * k, bottom, -rx, side)
                        .Close()
                        .ToString();
            case 1:
            case 2:
            case 3:
                if (shut)
                    return null;
                float px = pose.GazeX * (rx - eye.Pupil * 0.7f),
                    py = pose.GazeY * (ry - eye.Pupil * 0.6f) * 0.8f;
                return piece switch
                {
                    1 => new PathText().Ellipse(px, py, eye.Pupil, eye.Pupil).ToString(),
                    2 => eye.Iris == null ? null : new PathText().Ellipse(px, py, eye.Pupil * 0.55f, eye.Pupil * 0.55f).ToString(),
                    _ => new PathText().Ellipse(px - eye.Pupil * 0.32f, py - eye.Pupil * 0.38f, eye.Pupil * 0.3f, eye.Pupil * 0.3f).ToString(),
                };
            case 4:
                return shut ? null : new PathText().Move(rx, side).Curve(rx * k, bottom, -rx * k, bottom, -rx, side).ToString();
            default:
                // The upper lid's line is thickest in its middle: two curves from corner to corner.
                var lash = eye.Lash;
                return new PathText()
                    .Move(-rx - lash * 0.4f, side + lash * 0.3f)
                    .Curve(-rx * k, top - lash * 0.9f, rx * k, top - lash * 0.9f, rx + lash * 0.4f, side + lash * 0.3f)
                    .Curve(rx * k, top + lash * 0.45f, -rx * k, top + lash * 0.45f, -rx - lash * 0.4f, side + lash * 0.3f)
                    .Close()
                    .ToString();
        }
    }

    private static string BrowPath(RigBrow brow, in Pose pose)
    {
        var raise = brow.IsRight ? pose.BrowRight : pose.BrowLeft;
        // Inner end: to the right for the left brow.
        float inner = brow.IsRight ? -1 : 1,
            l = brow.Length,
            th = brow.Thickness;
        float y = -raise * (raise > 0 ? brow.Up ?? brow.Rise : brow.Rise),
            innerY = y + pose.BrowKnit * brow.Rise * 0.9f,
            outerY = y - pose.BrowKnit * brow.Rise * 0.6f + l * 0.12f;
        float arch = Math.Min(y, innerY) - l * (0.28f + 0.16f * Math.Max(0, raise)),
            shift = pose.BrowKnit * l * 0.15f * inner;
        return new PathText()
            .Move(inner * l + shift, innerY + th * 0.35f)
            .Quad(shift, arch + th * 0.9f, -inner * l + shift, outerY)
            .Quad(shift - inner * l * 0.1f, arch - th * 0.6f, inner * l + shift, innerY - th * 0.5f)
            .Close()
            .ToString();
    }
}
