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
                .Where(i => _slots[i].Kind == Kind.Art && (_slots[i].Node == node || IsHandOn(_slots[i].Node, node)))
                .Where(i => PointsOf(_shapes[i].Path ?? "") is { Count: > 0 } points && points.TrueForAll(p => Vector2.Dot(p - from, along) > wrist)),
        ];
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
