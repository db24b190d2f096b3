using System.Globalization;
using System.Numerics;
using System.Text.RegularExpressions;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage;

// Hands: where they are, and what of the drawing they are.
public sealed partial class DrawnFigure
{
    // From this share of the lower bone on it is hand, not arm.
    private const float Wrist = 0.62f;

    private readonly HashSet<(HandShape, bool)> _fingers = [];

    private readonly IReadOnlyList<int>[] _hands =
    [
        [],
        [],
    ];

    /// <inheritdoc/>
    public override IReadOnlyList<int> HandShapes(bool right) => _hands[right ? 1 : 0];

    /// <inheritdoc/>
    public override Vector2? HandAt(in Pose pose, bool right, Matrix3x2 place)
    {
        if ((right ? _armRight : _armLeft) is not { } arm)
            return null;
        Span<Matrix3x2> world = stackalloc Matrix3x2[_nodes.Count];
        World(pose, place, [], world);
        return Vector2.Transform(arm.Tip, world[arm.Lower < 0 ? arm.Upper : arm.Lower]);
    }

    private IReadOnlyList<int> HandOf(Limb? arm)
    {
        if (arm == null)
            return [];
        var node = arm.Lower < 0 ? arm.Upper : arm.Lower;
        var from = arm.Lower < 0 ? arm.Root : arm.Joint;
        var along = Vector2.Normalize(arm.Tip - from);
        var wrist = Wrist * Vector2.Distance(from, arm.Tip);
        return
        [
            .. Enumerable
                .Range(0, _slots.Count)
                .Where(i => _slots[i].Kind is Kind.Art or Kind.Front && (_slots[i].Node == node || IsHandOn(_slots[i].Node, node)))
                .Where(i => PointsOf(_shapes[i].Path ?? "") is { Count: > 0 } points && points.TrueForAll(p => Vector2.Dot(p - from, along) > wrist)),
        ];
    }

    // Which arm a shape is of that may come to the front.
    private const int Left = 1,
        Right = 2;

    // Below the shoulder, as a share of the arm: a hand that is raised so far, and the forearm with it, is in front of head and chest.
    private const float Raises = 0.38f;

    // A forearm with all that hangs on it, and the cuff of its sleeve, once more in front of all else: for a hand at the chin, before the eyes.
    private void AddFronts()
    {
        var count = _slots.Count;
        foreach (var (limb, which) in new[] { (_armLeft, Left), (_armRight, Right) })
            for (var i = 0; limb is { Lower: >= 0 } arm && i < count; i++)
            {
                var slot = _slots[i];
                if (slot.Kind != Kind.Art || slot.Node == arm.Upper || slot.Node < 0 || !HangsOn(slot.Node, arm.Upper))
                    continue;
                _slots[i] = slot with { Which = which };
                Add(_shapes[i], slot.Node, slot.Opacity, Kind.Front, which);
            }
    }

    private static bool IsInFront(Limb? arm, ReadOnlySpan<Matrix3x2> world)
    {
        if (arm is not { Lower: >= 0 })
            return false;
        Vector2 root = Vector2.Transform(arm.Root, world[arm.Upper]),
            joint = Vector2.Transform(arm.Joint, world[arm.Lower]),
            tip = Vector2.Transform(arm.Tip, world[arm.Lower]);
        return tip.Y < joint.Y && tip.Y - root.Y < Raises * (Vector2.Distance(root, joint) + Vector2.Distance(joint, tip));
    }

    // How far above the horizontal a stump is raised, and how far in any case, in radians: further it is behind the body, not above it.
    private const float Above = 0.6f,
        Least = 0.26f;

    // What an arm does that reaches for nothing. A stump comes softly to where it is still seen.
    private float Raised(RigPart part, in Pose pose)
    {
        var angle = Hanging(part, pose);
        var right = part.Motion == RigMotion.ArmRight;
        if (part.Motion is not (RigMotion.ArmLeft or RigMotion.ArmRight) || (right ? _armRight : _armLeft) is not { Lower: < 0 } arm)
            return angle;
        var along = arm.Tip - arm.Root;
        // From where it hangs to straight out, the way in which it is raised.
        var straight = MathF.Atan2(along.Y, MathF.Abs(along.X));
        var most = MathF.Max(Least, straight + Above);
        var up = right ? -angle : angle;
        return up <= 0 ? angle : (right ? -1 : 1) * most * MathF.Tanh(up / most);
    }

    private bool IsHandOn(int node, int arm) => node >= 0 && _nodes[node].Parent == arm && _nodes[node].Part.Hand != null;

    // A shape that is not drawn looks as a hand at rest.
    private bool IsOtherHand(RigPart part, in Pose pose)
    {
        if (part.Hand is not { } hand)
            return false;
        var shape = hand.IsRight ? pose.HandShapeRight : pose.HandShapeLeft;
        return hand.Shape != (shape == HandShape.Relaxed || _fingers.Contains((shape, hand.IsRight)) ? shape : HandShape.Relaxed);
    }

    // Corners and handles of a path whose commands give both coordinates; none for any other.
    private static List<Vector2> PointsOf(string path)
    {
        if (path.AsSpan().ContainsAny("HhVvAamlcqst"))
            return [];
        var numbers = Number().Matches(path).Select(m => float.Parse(m.ValueSpan, CultureInfo.InvariantCulture)).ToArray();
        return [.. Enumerable.Range(0, numbers.Length / 2).Select(i => new Vector2(numbers[2 * i], numbers[2 * i + 1]))];
    }

    [GeneratedRegex(@"-?(\d+\.?\d*|\.\d+)", RegexOptions.CultureInvariant)]
    private static partial Regex Number();
}
