using System.Numerics;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Portraits;

/// <summary>A character made from a picture, ready to be posed by the same channels as a drawn one.</summary>
public sealed class PortraitFigure : Figure
{
    // The picture's height in the figure's own units.
    private const float UnitsHigh = 1000;

    private readonly PortraitRecipe _recipe;
    private readonly PortraitMesh _mesh;
    private readonly PortraitMotion _motion;
    private readonly HeadTurn _turn;
    private readonly float _unit;
    private readonly (float Weight, float Depth)[] _heads;
    private readonly List<DrawShape> _shapes = [];
    private readonly MouthDrawing _strip;
    private readonly MouthInside _inside;
    private readonly int _meshAt,
        _mouthFirst,
        _eyesFirst;

    // Each with its shape, and its number among those that dangle; -1 for one that moves by itself.
    private readonly List<(PartPatch Part, int Shape, int Spring)> _parts = [];
    private readonly EyePatch?[] _patches;

    private const int EyeShapes = 5;

    /// <param name="recipe">What it is made of.</param>
    /// <param name="key">In addresses and files.</param>
    /// <exception cref="ArtException">It makes no figure.</exception>
    public PortraitFigure(PortraitRecipe recipe, string key)
    {
        if (recipe.Error() is { } error)
            throw new ArtException(error);
        _recipe = recipe;
        _unit = UnitsHigh / recipe.Height;
        Size = new Vector2(recipe.Width * _unit, UnitsHigh);
        _mesh = new PortraitMesh(recipe.Marks, recipe.Width, recipe.Height);
        _motion = new PortraitMotion(_mesh);
        _turn = new HeadTurn(_mesh, recipe.Height, recipe.IsFree);
        _heads = [.. _mesh.Points.Select(p => (_turn.WeightOf(p), _turn.DepthOf(p)))];
        Rig = PortraitRig.Of(key, recipe.Name, recipe.Voice, _mesh, _unit, Size, recipe.Mouth, recipe.IsFree) with { Description = recipe.Description };
        AddParts(isBehind: true);
        _meshAt = _shapes.Count;
        _shapes.Add(
            new DrawShape(null, null)
            {
                Picture = recipe.Picture,
                Mesh = new DrawMesh(
                    [.. _mesh.Points.SelectMany(p => new[] { p.X, p.Y })],
                    [.. _mesh.Triangles.Where(Covering(recipe)).SelectMany(t => new[] { (ushort)t.A, (ushort)t.B, (ushort)t.C })]
                ),
            }
        );
        _mouthFirst = _shapes.Count;
        _inside = new MouthInside(recipe.Mouth, _mesh.MouthWidth * _unit, _mouthFirst);
        _shapes.AddRange(_inside.Shapes);
        _eyesFirst = _shapes.Count;
        _patches = [recipe.EyeLeft, recipe.EyeRight];
        foreach (var patch in _patches)
        {
            var at = _shapes.Count;
            _shapes.Add(new DrawShape(null, "#00000000"));
            _shapes.Add(MouthInside.Quad(patch?.White, patch?.PixelsWide ?? 1, patch?.PixelsHigh ?? 1, at));
            _shapes.Add(MouthInside.Quad(patch?.Iris, patch?.IrisPixels ?? 1, patch?.IrisPixels ?? 1, at));
            var lash = patch == null ? 0 : patch.Width * _unit * 0.03f;
            _shapes.Add(new DrawShape(null, null, patch?.Lash ?? "#000000", lash * 1.6f, Clip: at));
            _shapes.Add(new DrawShape(null, null, patch?.Lash ?? "#000000", lash));
        }
        AddParts(isBehind: false);
        _strip = new MouthDrawing(Rig.Mouth, Rig.Ink, 0);
    }

    private void AddParts(bool isBehind)
    {
        foreach (var part in (_recipe.Parts ?? []).Where(p => p.IsBehind == isBehind))
        {
            _parts.Add((part, _shapes.Count, part.Wags ? -1 : SpringCount));
            _shapes.Add(MouthInside.Quad(part.Hash, part.Width, part.Height, -1));
        }
    }

    /// <inheritdoc/>
    public override int SpringCount => _parts.Count(p => p.Spring >= 0);

    /// <inheritdoc/>
    public override Spring SpringAt(int i) => PartPatch.Hangs;

    /// <inheritdoc/>
    public override void Hang(in Pose pose, Span<Vector2> places)
    {
        foreach (var (part, _, spring) in _parts)
            if (spring >= 0)
                places[spring] = Turned(part.Pivot, part, pose) * _unit / Size.Y;
    }

    private Vector2 Turned(Vector2 point, PartPatch part, in Pose pose) => _turn.Place(point, _turn.WeightOf(part.Pivot), _turn.DepthOf(part.Pivot), pose);

    // Where nothing is, nothing is drawn.
    private Func<(int A, int B, int C), bool> Covering(PortraitRecipe recipe)
    {
        if (recipe.Cover == null)
            return _ => true;
        var bits = Convert.FromHexString(recipe.Cover);
        const int side = PortraitRecipe.CoverSide;
        return t =>
        {
            Vector2 a = _mesh.Points[t.A],
                b = _mesh.Points[t.B],
                c = _mesh.Points[t.C],
                cell = new(side / (float)recipe.Width, side / (float)recipe.Height),
                low = Vector2.Min(a, Vector2.Min(b, c)) * cell,
                high = Vector2.Max(a, Vector2.Max(b, c)) * cell;
            for (var y = Math.Max(0, (int)low.Y); y <= Math.Min(side - 1, (int)high.Y); y++)
            for (var x = Math.Max(0, (int)low.X); x <= Math.Min(side - 1, (int)high.X); x++)
                if ((bits[(y * side + x) / 8] & 1 << (y * side + x) % 8) != 0)
                    return true;
            return false;
        };
    }

    /// <summary>Where it stands, and how large, so that its picture lies on the stage as a whole, on what was behind it.</summary>
    /// <param name="set">Key of the set that was behind it: where that has been moved or made larger, it goes along.</param>
    /// <returns>Place across, height of its foot, and scale.</returns>
    public (float X, float Y, float Scale) InPlace(string? set = null)
    {
        var (x, y, scale) = PortraitRig.InPlace(Rig, Size);
        if (PictureSet.Read(set) is not { } now)
            return (x, y, scale);
        var (there, to) = (now.Placement, (now with { Right = 0, Down = 0, Size = 100 }).Placement);
        var by = there.Scale / to.Scale;
        var at = (new Vector2(x, y) - to.Corner) * by + there.Corner;
        return (at.X, at.Y, scale * by);
    }

    /// <summary>Key of the set that its picture makes without it; null where there is none.</summary>
    public string? Behind => _recipe.Behind;

    /// <summary>Whether a set is the picture that it comes from.</summary>
    /// <param name="set">Key of a set.</param>
    public bool IsAtHome(string set) => PictureSet.Read(set) is { IsWhole: true } at && at.Hash == PictureSet.Read(_recipe.Behind)?.Hash;

    /// <inheritdoc/>
    public override Rig Rig { get; }

    /// <inheritdoc/>
    public override Vector2 Size { get; }

    /// <inheritdoc/>
    public override IReadOnlyList<DrawShape> Shapes => _shapes;

    /// <inheritdoc/>
    public override (float X, float Y, float Width, float Height)? MouthBox => PortraitRig.MouthBox(_mesh, _unit);

    /// <summary>Where the lips and lids are in a pose, in pixels of the picture.</summary>
    /// <returns>Inner edges of the lips, and edges of the lids at the picture's left.</returns>
    public (Vector2[] Upper, Vector2[] Lower, Vector2[] LidUpper, Vector2[] LidLower) LinesOf(in Pose pose)
    {
        var corners = CornersOf(pose);
        Vector2[] Of(int[]? line) => line == null ? [] : [.. line.Select(i => corners[i])];
        return (Of(_mesh.InnerUpper), Of(_mesh.InnerLower), Of(_mesh.Eyes[0]?.Upper), Of(_mesh.Eyes[0]?.Lower));
    }

    /// <summary>How far the lips are apart at the widest, in pixels of the picture.</summary>
    public float Gap => _motion.Gap;

    private Vector2[] CornersOf(in Pose pose)
    {
        var corners = new Vector2[_mesh.Points.Count];
        _motion.Apply(pose, corners);
        for (var i = 0; i < corners.Length; i++)
            corners[i] = _turn.Place(corners[i], _heads[i].Weight, _heads[i].Depth, pose);
        return corners;
    }

    /// <inheritdoc/>
    public override void Draw(in Pose pose, Matrix3x2 place, Span<DrawItem> items, ReadOnlySpan<Vector2> lags = default) => DrawAt(0, pose, place, items, lags);

    /// <inheritdoc/>
    public override void DrawAt(double t, in Pose pose, Matrix3x2 place, Span<DrawItem> items, ReadOnlySpan<Vector2> lags = default)
    {
        foreach (var (part, shape, spring) in _parts)
        {
            var around = part.Corners(part.TurnAt(t, spring >= 0 && spring < lags.Length ? lags[spring] : default));
            for (var i = 0; i < around.Length; i++)
                around[i] = _unit * Turned(around[i], part, pose);
            items[shape] = new DrawItem(place, 1, DrawMesh.Write(around));
        }
        var corners = CornersOf(pose);
        for (var i = 0; i < corners.Length; i++)
            corners[i] *= _unit;
        items[_meshAt] = new DrawItem(place, 1, DrawMesh.Write(corners));
        DrawMouth(pose, place, corners, items.Slice(_mouthFirst, MouthInside.Count));
        for (var e = 0; e < 2; e++)
            DrawEye(e, pose, place, corners, items.Slice(_eyesFirst + e * EyeShapes, EyeShapes));
    }

    private void DrawMouth(in Pose pose, Matrix3x2 place, Vector2[] corners, Span<DrawItem> items)
    {
        var turned = pose;
        float weight = _turn.WeightOf(_mesh.MouthMiddle),
            // Teeth lie a little further back than the lips.
            depth = _turn.DepthOf(_mesh.MouthMiddle) * 0.85f;
        _inside.Draw(
            pose.Mouth,
            Along(corners, _mesh.InnerUpper),
            Along(corners, _mesh.InnerLower),
            new MouthPlace(_mesh.MouthMiddle, _mesh.Across, _mesh.Down, _mesh.MouthWidth, _motion.JawDown(pose.Mouth), _mesh.IsOpen),
            p => _unit * _turn.Place(p, weight, depth, turned),
            place,
            items
        );
    }

    private static Vector2[] Along(Vector2[] corners, int[] line) => [.. line.Select(i => corners[i])];

    private void DrawEye(int which, in Pose pose, Matrix3x2 place, Vector2[] corners, Span<DrawItem> items)
    {
        for (var i = 0; i < EyeShapes; i++)
            items[i] = new DrawItem(place, 0);
        if (_patches[which] is not { } patch || _mesh.Eyes[which] is not { } eye)
            return;
        var marks = (which == 0 ? _recipe.Marks.EyeLeft : _recipe.Marks.EyeRight)!;
        var lid = Math.Clamp(which == 0 ? pose.LidLeft : pose.LidRight, 0, 1.2f);
        var upper = new PathText();
        MouthInside.Trace(upper, Along(corners, eye.Upper));
        if (lid > 0.06f)
        {
            var open = new PathText();
            MouthInside.Trace(open, Along(corners, eye.Upper));
            for (var i = eye.Lower.Length - 2; i > 0; i--)
                open.Line(corners[eye.Lower[i]].X, corners[eye.Lower[i]].Y);
            items[0] = new DrawItem(place, 1, open.Close().ToString());
            Vector2 iris = marks.Iris;
            var (weight, depth) = (_turn.WeightOf(iris), _turn.DepthOf(iris));
            Span<Vector2> quad =
            [
                new(patch.X, patch.Y),
                new(patch.X + patch.Width, patch.Y),
                new(patch.X + patch.Width, patch.Y + patch.Height),
                new(patch.X, patch.Y + patch.Height),
            ];
            foreach (ref var q in quad)
                q = _unit * _turn.Place(q, weight, depth, pose);
            items[1] = new DrawItem(place, 1, DrawMesh.Write(quad));
            if (patch.Iris != null)
            {
                // To the corners and no further: half the way leaves white at both sides.
                var room = MathF.Max(0, marks.Width / 2 - 0.55f * marks.Radius);
                var at = iris + (pose.GazeX * 0.8f * room * _mesh.Across) + (pose.GazeY * 0.55f * marks.Radius * _mesh.Down);
                var half = patch.IrisSide / 2;
                Span<Vector2> square =
                [
                    at + new Vector2(-half, -half),
                    at + new Vector2(half, -half),
                    at + new Vector2(half, half),
                    at + new Vector2(-half, half),
                ];
                foreach (ref var q in square)
                    q = _unit * _turn.Place(q, weight, depth, pose);
                items[2] = new DrawItem(place, 1, DrawMesh.Write(square));
            }
            items[3] = new DrawItem(place, 0.3f, upper.ToString());
        }
        // Lashes meet when the lid comes down.
        items[4] = new DrawItem(place, 0.75f * (1 - Math.Min(1, lid)), upper.ToString());
    }

    /// <inheritdoc/>
    public override (IReadOnlyList<DrawShape> Shapes, string?[] Paths, float Width, float Height) MouthPicture(in MouthChannels mouth)
    {
        var paths = new string?[_strip.Shapes.Count];
        _strip.Draw(mouth, paths);
        return (_strip.Shapes, paths, Rig.Mouth.Width, Rig.Mouth.Height);
    }
}
