using System.Numerics;
using System.Text.Json;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage.Wardrobe;

namespace Zamblo.Core.Stage;

/// <summary>A character that is a drawing: its art, its rig, and the fixed list of shapes that it draws. Immutable.</summary>
public sealed partial class DrawnFigure : Figure
{
    private readonly List<DrawShape> _shapes = [];
    private readonly List<(int Node, float Opacity, Kind Kind, int Which)> _slots = [];
    private readonly List<Node> _nodes = [];
    private readonly MouthDrawing _mouth;
    private readonly int _mouthSlot;

    private enum Kind
    {
        Art,
        Eye,
        Brow,
        Mouth,

        /// <summary>A forearm once more, in front of all else.</summary>
        Front,
    }

    private sealed record Node(RigPart Part, int Parent);

    private readonly List<(int Node, Spring Spring)> _springs = [];
    private readonly Limb? _armLeft,
        _armRight,
        _legLeft,
        _legRight;

    // Two bones, or one: where they hang, bend and end in the drawing, and to which side the joint likes to go.
    private sealed record Limb(int Upper, int Lower, Vector2 Root, Vector2 Joint, Vector2 Tip, Vector2 Side)
    {
        public float UpperLength => Lower < 0 ? Vector2.Distance(Root, Tip) : Vector2.Distance(Root, Joint);
        public float LowerLength => Lower < 0 ? 0 : Vector2.Distance(Joint, Tip);
    }

    private DrawnFigure(Rig rig, SvgArt art)
    {
        Check(rig);
        Rig = rig;
        Size = art.Size;
        var index = new Dictionary<string, int>();
        foreach (var part in rig.Parts)
        {
            if (!art.Parts.Contains(part.Id))
                throw new ArtException($"The rig of {rig.Name} names the part \"{part.Id}\", which its drawing lacks.");
            var parent =
                part.Parent is null ? -1
                : index.TryGetValue(part.Parent, out var p) ? p
                : throw new ArtException($"The rig of {rig.Name} hangs \"{part.Id}\" on \"{part.Parent}\", which must stand before it.");
            index[part.Id] = _nodes.Count;
            _nodes.Add(new Node(part, parent));
        }
        for (var n = 0; n < _nodes.Count; n++)
            if (_nodes[n].Part.Spring is { } spring)
                _springs.Add((n, new Spring(spring.Frequency, spring.Damping)));
        _armLeft = LimbOf(RigMotion.ArmLeft, RigMotion.ElbowLeft, new Vector2(-0.87f, 0.5f));
        _armRight = LimbOf(RigMotion.ArmRight, RigMotion.ElbowRight, new Vector2(0.87f, 0.5f));
        _legLeft = LimbOf(RigMotion.LegLeft, RigMotion.KneeLeft, new Vector2(-1, 0));
        _legRight = LimbOf(RigMotion.LegRight, RigMotion.KneeRight, new Vector2(1, 0));
        _mouth = null!;
        var made = new HashSet<string>();
        foreach (var id in art.Parts.Distinct())
        {
            var node = index.GetValueOrDefault(id, -1);
            if (id == rig.Mouth.Part)
            {
                _mouthSlot = _shapes.Count;
                _mouth = new MouthDrawing(rig.Mouth, rig.Ink, _shapes.Count);
                foreach (var shape in _mouth.Shapes)
                    Add(shape, node, 1, Kind.Mouth, 0);
                made.Add(id);
            }
            for (var e = 0; e < rig.Eyes.Length; e++)
            {
                var eye = rig.Eyes[e];
                if (eye.Part != id)
                    continue;
                var white = _shapes.Count;
                Add(new DrawShape(null, eye.White), node, 1, Kind.Eye, e);
                Add(new DrawShape(null, eye.Iris ?? rig.Ink, Clip: white), node, 1, Kind.Eye, e);
                Add(new DrawShape(null, rig.Ink, Clip: white), node, 1, Kind.Eye, e);
                Add(new DrawShape(null, eye.White, Clip: white), node, 1, Kind.Eye, e);
                Add(new DrawShape(null, null, rig.Ink, eye.Lash * 0.45f), node, 1, Kind.Eye, e);
                Add(new DrawShape(null, rig.Ink), node, 1, Kind.Eye, e);
                made.Add(id);
            }
            for (var b = 0; b < rig.Brows.Length; b++)
                if (rig.Brows[b].Part == id)
                {
                    if (rig.Brows[b].Edge is { } edge)
                        Add(new DrawShape(null, edge, edge, 0.55f * rig.Brows[b].Thickness), node, 1, Kind.Brow, b);
                    Add(new DrawShape(null, rig.Brows[b].Color), node, 1, Kind.Brow, b);
                    made.Add(id);
                }
            foreach (var shape in art.Shapes.Where(s => s.Part == id))
                Add(new DrawShape(shape.Path, shape.Fill, shape.Stroke, shape.Width, shape.Nib), node, shape.Opacity, Kind.Art, 0);
        }
        foreach (var hand in rig.Parts.Select(p => p.Hand).OfType<RigHand>())
            _fingers.Add((hand.Shape, hand.IsRight));
        Rest = RestOf();
        AddFronts();
        _hands = [HandOf(_armLeft), HandOf(_armRight)];
        foreach (var needed in rig.Eyes.Select(e => e.Part).Concat(rig.Brows.Select(b => b.Part)).Append(rig.Mouth.Part))
            if (!made.Contains(needed))
                throw new ArtException($"The drawing of {rig.Name} lacks the group \"{needed}\" that holds the place of a part made anew in each frame.");
    }

    private const int MostParts = 200;

    // What the rig brings into the picture and into memory of its own.
    private static void Check(Rig rig)
    {
        if (rig.Parts.Length > MostParts)
            throw new ArtException($"The rig of {rig.Name} has more than {MostParts} parts.");
        string?[] colors =
        [
            rig.Ink,
            rig.Mouth.LipColor,
            rig.Mouth.Inside,
            rig.Mouth.Tongue,
            rig.Mouth.Teeth,
            .. rig.Eyes.SelectMany(e => new[] { e.Iris, e.White }),
            .. rig.Brows.SelectMany(b => new[] { b.Color, b.Edge }),
            .. rig.Mouth.Drawn.Values.SelectMany(d => d).SelectMany(d => new[] { d.Fill, d.Stroke }),
        ];
        if (colors.FirstOrDefault(c => c != null && !ArtText.IsColor(c)) is { } color)
            throw new ArtException($"The rig of {rig.Name} has the colour \"{color}\": colours are written as #rrggbb.");
        if (!rig.Mouth.Pictures.All(ArtText.IsHash))
            throw new ArtException($"The rig of {rig.Name} names the pictures of its mouths by their hashes.");
        if (rig.Mouth.Style == MouthStyle.Stretched && !rig.Mouth.Drawn.Values.Any(d => d.All(p => PathPoints.IsPlain(p.D))))
            throw new ArtException($"The rig of {rig.Name} has a mouth that is stretched, and none that is drawn with only M, L, C, Q and Z.");
        if (rig.Parts.FirstOrDefault(p => IsOff(p.Pivot) || IsOff(p.Reach) || IsOff(p.Tip)) is { } off)
            throw new ArtException($"The rig of {rig.Name} has a point of \"{off.Id}\" that is none: two numbers, x and y.");
        foreach (var (shape, paths) in rig.Mouth.Drawn)
        foreach (var path in paths)
            if (ArtText.ErrorOfPath(path.D) is { } error)
                throw new ArtException($"The rig of {rig.Name} has a path of the mouth \"{shape}\" that {error}.");
    }

    private Limb? LimbOf(RigMotion upper, RigMotion lower, Vector2 side)
    {
        int a = _nodes.FindIndex(n => n.Part.Motion == upper),
            b = _nodes.FindIndex(n => n.Part.Motion == lower);
        if (a < 0 || _nodes[b < 0 ? a : b].Part.Tip is not { } tip)
            return null;
        return new Limb(a, b, Pivot(_nodes[a].Part), Pivot(_nodes[b < 0 ? a : b].Part), new Vector2(tip[0], tip[1]), side);
    }

    // What hangs on a hand is held in it.
    private HandRest RestOf()
    {
        if (_armLeft is not { Lower: >= 0 } || _armRight is not { Lower: >= 0 } right)
            return HandRest.None;
        var isHeld = _nodes.FindIndex(n => n.Parent == right.Lower && n.Part.Hand == null);
        return isHeld >= 0 && _slots.Exists(s => s.Node == isHeld) ? HandRest.LeftOnly : HandRest.Both;
    }

    private void Add(DrawShape shape, int node, float opacity, Kind kind, int which)
    {
        _shapes.Add(shape);
        _slots.Add((node, opacity, kind, which));
    }

    /// <inheritdoc/>
    public override HandRest Rest { get; }

    /// <inheritdoc/>
    public override Rig Rig { get; }

    /// <inheritdoc/>
    public override Vector2 Size { get; }

    /// <inheritdoc/>
    public override IReadOnlyList<DrawShape> Shapes => _shapes;

    /// <inheritdoc/>
    public override (float X, float Y, float Width, float Height)? MouthBox
    {
        get
        {
            // What is a picture is seen in its face.
            if (!Rig.Mouth.Pictures.Any())
                return null;
            var pivot = Rig.Parts.FirstOrDefault(p => p.Id == Rig.Mouth.Part) is { } part ? Pivot(part) : Vector2.Zero;
            var (width, height) = (Rig.Mouth.Width * 2, Rig.Mouth.Width * 1.2f);
            return (pivot.X - width / 2, pivot.Y - height / 2, width, height);
        }
    }

    /// <summary>Reads a character.</summary>
    /// <param name="art">SVG.</param>
    /// <param name="rig">JSON.</param>
    /// <param name="name">For messages.</param>
    /// <exception cref="ArtException">One of them is not as it must be.</exception>
    public static DrawnFigure Read(Stream art, Stream rig, string name)
    {
        try
        {
            var read = JsonSerializer.Deserialize<Rig>(rig, Rig.Json) ?? throw new ArtException($"The rig of {name} is empty.");
            return new DrawnFigure(read, SvgArt.Read(art, name));
        }
        catch (JsonException e)
        {
            throw new ArtException($"The rig of {name} cannot be read: {e.Message}");
        }
    }

    /// <inheritdoc/>
    public override bool TakesShade => true;

    /// <inheritdoc/>
    public override Vector2 OriginOf(int shape) =>
        _slots[shape] is { Kind: not (Kind.Art or Kind.Front), Node: var node and >= 0 } ? Pivot(_nodes[node].Part) : Vector2.Zero;

    /// <inheritdoc/>
    public override int SpringCount => _springs.Count;

    /// <inheritdoc/>
    public override Spring SpringAt(int i) => _springs[i].Spring;

    /// <inheritdoc/>
    public override bool HasArm(bool right) => (right ? _armRight : _armLeft) != null;

    /// <inheritdoc/>
    public override Vector2 ToArm(bool right, Vector2 point) =>
        (right ? _armRight : _armLeft) is { } arm ? (point - arm.Root) / (arm.UpperLength + arm.LowerLength) : Vector2.Zero;

    /// <inheritdoc/>
    public override void Hang(in Pose pose, Span<Vector2> places)
    {
        Span<Matrix3x2> world = stackalloc Matrix3x2[_nodes.Count];
        World(pose, Matrix3x2.Identity, [], world);
        for (var i = 0; i < _springs.Count; i++)
            places[i] = Vector2.Transform(Pivot(_nodes[_springs[i].Node].Part), world[_springs[i].Node]) / Size.Y;
    }

    /// <inheritdoc/>
    public override void Draw(in Pose pose, Matrix3x2 place, Span<DrawItem> items, ReadOnlySpan<Vector2> lags = default)
    {
        Span<Matrix3x2> world = stackalloc Matrix3x2[_nodes.Count];
        place = World(pose, place, lags, world);
        string?[] paths = new string?[_mouth.Shapes.Count];
        _mouth.Draw(pose.Mouth, paths);
        bool left = IsInFront(_armLeft, world),
            right = IsInFront(_armRight, world);
        var piece = 0;
        var previous = (Kind.Art, -1);
        for (var i = 0; i < _slots.Count; i++)
        {
            var (node, opacity, kind, which) = _slots[i];
            piece = previous == (kind, which) ? piece + 1 : 0;
            previous = (kind, which);
            var transform = node < 0 ? place : world[node];
            if (kind is Kind.Art or Kind.Front)
            {
                var isSeen = (node < 0 || !IsHidden(_nodes[node].Part, pose)) && (which == 0 || (kind == Kind.Front) == (which == Right ? right : left));
                // What is not seen is the same in every frame, and costs nothing.
                items[i] = isSeen ? new DrawItem(transform, opacity) : new DrawItem(Matrix3x2.Identity, 0);
                continue;
            }
            // Made parts are drawn about their own middle, which is their part's pivot.
            if (node >= 0)
                transform = Matrix3x2.CreateTranslation(Pivot(_nodes[node].Part)) * transform;
            var path = kind switch
            {
                Kind.Mouth => paths[i - _mouthSlot],
                Kind.Eye => EyePath(Rig.Eyes[which], pose, piece),
                _ => BrowPath(Rig.Brows[which], pose),
            };
            items[i] = new DrawItem(transform, path == null ? 0 : 1, path);
        }
    }

    /// <summary>The mouth alone, about its middle: for the lip strip and for sheets.</summary>
    /// <returns>Shapes with clips within this list, a path or null for each, and the mouth's width and height at their widest.</returns>
    public override (IReadOnlyList<DrawShape> Shapes, string?[] Paths, float Width, float Height) MouthPicture(in MouthChannels mouth)
    {
        var paths = new string?[_mouth.Shapes.Count];
        _mouth.Draw(mouth, paths);
        return ([.. _mouth.Shapes.Select(s => s with { Clip = s.Clip < 0 ? -1 : s.Clip - _mouthSlot })], paths, Rig.Mouth.Width, Rig.Mouth.Height);
    }

    private static Vector2 Pivot(RigPart part) => new(part.Pivot[0], part.Pivot[1]);

    // All parts in their place; gives the place of what hangs on none.
    private Matrix3x2 World(in Pose pose, Matrix3x2 place, ReadOnlySpan<Vector2> lags, Span<Matrix3x2> world)
    {
        var foot = new Vector2(Rig.Anchor[0], Rig.Anchor[1]);
        // Taller is narrower, so that the figure keeps its mass.
        if (pose.Stretch != 0 || pose.Rise != 0 || pose.ShiftX != 0)
            place =
                Matrix3x2.CreateScale(1 / MathF.Sqrt(1 + pose.Stretch), 1 + pose.Stretch, foot)
                * Matrix3x2.CreateTranslation(pose.ShiftX * Size.Y, -pose.Rise * Size.Y)
                * place;
        // Seen in the figure, not on the stage: limbs reach for points of the figure's own space.
        Matrix3x2.Invert(place, out var back);
        for (var n = 0; n < _nodes.Count; n++)
        {
            var node = _nodes[n];
            var parent = node.Parent < 0 ? place : world[node.Parent];
            if (node.Part.Motion == RigMotion.Level)
            {
                var pivot = Pivot(node.Part);
                world[n] = Matrix3x2.CreateTranslation(Vector2.Transform(pivot, parent * back) - pivot) * place;
                continue;
            }
            world[n] = (Reached(n, pose, world, place, back) ?? Local(node.Part, pose)) * parent;
        }
        for (var i = 0; i < lags.Length; i++)
        {
            var (n, spring) = (_springs[i].Node, _nodes[_springs[i].Node].Part.Spring!);
            var parent = _nodes[n].Parent < 0 ? place : world[_nodes[n].Parent];
            var swing =
                Matrix3x2.CreateRotation(Radians(Softly(100 * spring.Turn * lags[i].X, 10)), Pivot(_nodes[n].Part))
                * Matrix3x2.CreateTranslation(Size.Y * Softly(spring.Slide * lags[i].X, 0.012f), Size.Y * Softly(spring.Slide * lags[i].Y, 0.012f));
            world[n] = swing * Local(_nodes[n].Part, pose) * parent;
            // What hangs on it goes along.
            for (var c = n + 1; c < _nodes.Count; c++)
                if (HangsOn(c, n))
                    world[c] = Local(_nodes[c].Part, pose) * world[_nodes[c].Parent];
        }
        return place;
    }

    // However hard it is shaken, nothing comes off.
    private static float Softly(float x, float most) => most * MathF.Tanh(x / most);

    private bool HangsOn(int node, int other)
    {
        for (var n = _nodes[node].Parent; n >= 0; n = _nodes[n].Parent)
            if (n == other)
                return true;
        return false;
    }

    // A limb that reaches for a place; null where it only hangs.
    private Matrix3x2? Reached(int node, in Pose pose, ReadOnlySpan<Matrix3x2> world, Matrix3x2 place, Matrix3x2 back)
    {
        var (limb, weight, target) = node switch
        {
            _ when Is(_armLeft) && pose.HandLeft > 0 => (_armLeft!, Math.Min(1, pose.HandLeft), Hand(_armLeft!, pose.HandLeftX, pose.HandLeftY)),
            _ when Is(_armRight) && pose.HandRight > 0 => (_armRight!, Math.Min(1, pose.HandRight), Hand(_armRight!, pose.HandRightX, pose.HandRightY)),
            _ when Is(_legLeft) => (_legLeft!, 1, _legLeft!.Tip + Size.Y * new Vector2(pose.FootLeftX, -pose.FootLeftUp)),
            _ when Is(_legRight) => (_legRight!, 1, _legRight!.Tip + Size.Y * new Vector2(pose.FootRightX, -pose.FootRightUp)),
            _ => (null, 0f, Vector2.Zero),
        };
        bool Is(Limb? l) => l != null && (l.Upper == node || l.Lower == node);
        Vector2 Hand(Limb l, float x, float y) => l.Root + (l.UpperLength + l.LowerLength) * new Vector2(x, y);
        if (limb == null)
            return null;
        // In the space of what the limb hangs on: of the upper bone's parent.
        var hung = (_nodes[limb.Upper].Parent is var on and >= 0 ? world[on] : place) * back;
        Matrix3x2.Invert(hung, out var into);
        var reach = Vector2.Transform(target, into) - limb.Root;
        float upperRest = Angle((limb.Lower < 0 ? limb.Tip : limb.Joint) - limb.Root),
            lowerRest = limb.Lower < 0 ? 0 : Angle(limb.Tip - limb.Joint);
        var (first, second) =
            limb.Lower < 0
                ? (Angle(reach), 0f)
                : TwoBones.Reach(limb.UpperLength, limb.LowerLength, reach, reach.X * limb.Side.Y - reach.Y * limb.Side.X >= 0 ? 1 : -1);
        var upperTurn = Turned(first - upperRest);
        var wanted = limb.Upper == node ? upperTurn : Turned(second - lowerRest - upperTurn);
        var hangs = Hanging(_nodes[node].Part, pose);
        return Matrix3x2.CreateRotation(hangs + weight * Turned(wanted - hangs), Pivot(_nodes[node].Part));
    }

    private static float Angle(Vector2 v) => MathF.Atan2(v.Y, v.X);

    // The shorter way round.
    private static float Turned(float angle) => MathF.IEEERemainder(angle, 2 * MathF.PI);

    // Rotation of an arm or leg that reaches for nothing, in radians.
    private static float Hanging(RigPart part, in Pose pose) =>
        part.Motion switch
        {
            RigMotion.ArmLeft => Radians(pose.ArmLeft * part.Gain),
            RigMotion.ArmRight => Radians(-pose.ArmRight * part.Gain),
            RigMotion.ElbowLeft => Radians(pose.ElbowLeft * part.Gain),
            RigMotion.ElbowRight => Radians(-pose.ElbowRight * part.Gain),
            _ => 0,
        };

    private Matrix3x2 Local(RigPart part, in Pose pose)
    {
        var pivot = Pivot(part);
        var head = Rig.Head;
        float turn = Math.Clamp(pose.HeadTurn, -head.TurnLimit, head.TurnLimit),
            nod = Math.Clamp(pose.HeadNod, -head.NodLimit, head.NodLimit);
        switch (part.Motion)
        {
            case RigMotion.Body:
                return Matrix3x2.CreateScale(1 - 0.4f * Rig.Breath * pose.Breath, 1 + Rig.Breath * pose.Breath, pivot)
                    * Matrix3x2.CreateRotation(Radians(pose.Lean), pivot);
            case RigMotion.Head:
                var tilt = Math.Clamp(pose.HeadTilt, -head.TiltLimit, head.TiltLimit);
                return Matrix3x2.CreateTranslation(turn / 30 * head.Radius[0] * 0.06f, nod / 20 * head.Radius[1] * 0.1f)
                    * Matrix3x2.CreateRotation(Radians(tilt), pivot);
            case RigMotion.ArmLeft or RigMotion.ArmRight or RigMotion.ElbowLeft or RigMotion.ElbowRight:
                return Matrix3x2.CreateRotation(Raised(part, pose), pivot);
            case RigMotion.Hips:
                return Matrix3x2.CreateTranslation(0, pose.Crouch * Size.Y);
        }
        var face = OfFace(part, pose);
        if (part.Surface > 0)
            return face * OnGlobe(pivot, part.Surface, turn, nod);
        if (part.Shift != 0)
            return face
                * Matrix3x2.CreateTranslation(part.Shift * head.Radius[0] * MathF.Sin(Radians(turn)), part.Shift * head.Radius[1] * MathF.Sin(Radians(nod)));
        return face;
    }

    /// <summary>
    /// Parallax: the part lies on an ellipsoid. Its middle moves as that point does when the globe turns about its vertical axis and then
    /// nods; its width and height shrink as the surface there turns away.
    /// </summary>
    private Matrix3x2 OnGlobe(Vector2 pivot, float surface, float turn, float nod)
    {
        float rx = Rig.Head.Radius[0],
            ry = Rig.Head.Radius[1];
        float x = (pivot.X - Rig.Head.Centre[0]) / rx,
            y = (pivot.Y - Rig.Head.Centre[1]) / ry;
        var z = MathF.Sqrt(MathF.Max(0.2f, 1 - x * x - y * y)) * surface;
        float ct = MathF.Cos(Radians(turn)),
            st = MathF.Sin(Radians(turn)),
            cn = MathF.Cos(Radians(nod)),
            sn = MathF.Sin(Radians(nod));
        float dx = (x * ct + z * st - x) * rx,
            dy = (y * cn + z * sn - y) * ry;
        float sx = Math.Clamp(ct - x / z * st * surface, 0.4f, 1.12f),
            sy = Math.Clamp(cn - y / z * sn * surface, 0.6f, 1.1f);
        return Matrix3x2.CreateScale(sx, sy, pivot) * Matrix3x2.CreateTranslation(dx, dy);
    }

    private static float Radians(float degrees) => degrees * MathF.PI / 180;
}
