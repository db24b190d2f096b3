using System.Collections.Concurrent;
using System.Numerics;
using Zamblo.Core.Light;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Portraits;

/// <summary>
/// Somebody in a clip whose mouth says something else: every frame of the clip is shown as it is, but for the lower face, which is moved from that frame's own
/// pixels. The clip's own mouth is brought to rest first. Head, eyes and body are the clip's; its lids come down over its eyes where that is wished.
/// </summary>
public sealed class PlateFigure : Figure
{
    private const float UnitsHigh = 1000;

    private readonly string _clip;
    private readonly PlateTrack _track;
    private readonly PlateCourse _course;
    private readonly PortraitMesh _mesh;

    // Where the face is in the first frame: that is the one that a still shows.
    private readonly PortraitMesh _first;
    private readonly PortraitMotion _motion;
    private readonly MotionSpread _spread;
    private readonly MouthInside _inside;
    private readonly MouthDrawing _strip;
    private readonly List<DrawShape> _shapes = [];
    private readonly float _unit;

    // Where the mesh lies in the frames that were asked for last: those of some seconds, whoever plays or renders them.
    private readonly ConcurrentDictionary<int, Placed> _placed = new();
    private const int MostPlaced = 400;

    // How far each eye is open, as a share of how far it is in the mesh.
    private sealed record Placed(Vector2[] Corners, MotionShape? Close, Matrix3x2 Turn, MouthPlace Mouth, float LeftOpen, float RightOpen);

    private readonly bool _hasLids;

    // The light on the mouth's inside, and the two lashes; -1 where there are none.
    private readonly int _lightAt = -1,
        _lashAt = -1;

    /// <param name="track">The face through the clip.</param>
    /// <param name="clip">Hash under which the clip's frames are found.</param>
    /// <param name="look">What is seen between the lips.</param>
    /// <param name="name">What people read.</param>
    /// <param name="key">In addresses and files.</param>
    /// <param name="voice">That suits it.</param>
    /// <param name="play">Which part of the clip is played; null for all of it, forth and back.</param>
    /// <param name="lash">Colour of the lids' edge, "#rrggbb"; null for a dark one.</param>
    /// <exception cref="ArtException">The face is in no frame.</exception>
    public PlateFigure(
        PlateTrack track,
        string clip,
        MouthLook look,
        string name,
        string key,
        string voice = "espeak:en-us",
        PlatePlay? play = null,
        string? lash = null
    )
    {
        (_clip, _track, _course) = (clip, track, PlateCourse.Of(track, play));
        // The quietest mouth is the best to move: of the middle of those that are shut most.
        _hasLids = play?.Lids == true;
        var seen = track.Marks.OfType<PortraitMarks>().ToArray();
        var reference = (_hasLids ? Awake(seen) : seen).MinBy(GapOf) ?? throw new ArtException($"No face is seen in \"{name}\".");
        _unit = UnitsHigh / track.Height;
        Size = new Vector2(track.Width * _unit, UnitsHigh);
        _mesh = new PortraitMesh(EyesOf(reference), track.Width, track.Height);
        _first = track.Marks[_course.First] is { } marks ? new PortraitMesh(EyesOf(marks), track.Width, track.Height, linesOnly: true) : _mesh;
        _motion = new PortraitMotion(_mesh, _hasLids ? 0.04f : PortraitMotion.CreaseShare);
        _spread = new MotionSpread(_mesh.Points.Count, _mesh.Points, _mesh.Triangles);
        var moving = _motion.Moving();
        if (_hasLids)
            moving = moving.Union(_motion.MovingLids()).ToHashSet();
        _shapes.Add(
            new DrawShape(null, null)
            {
                Picture = clip,
                Filmed = track.Marks.Count,
                Mesh = new DrawMesh([0, 0, track.Width, 0, track.Width, track.Height, 0, track.Height], [0, 1, 2, 0, 2, 3]),
            }
        );
        // Only where something moves: the rest of the frame stays as it was filmed.
        _shapes.Add(
            new DrawShape(null, null)
            {
                Picture = clip,
                Filmed = track.Marks.Count,
                Mesh = new DrawMesh(
                    [.. _mesh.Points.SelectMany(p => new[] { p.X, p.Y })],
                    [
                        .. _mesh
                            .Triangles.Where(t => (moving.Contains(t.A) || moving.Contains(t.B) || moving.Contains(t.C)) && !IsInEye(t))
                            .SelectMany(t => new[] { (ushort)t.A, (ushort)t.B, (ushort)t.C }),
                    ]
                ),
            }
        );
        _inside = new MouthInside(look, _mesh.MouthWidth * _unit, _shapes.Count);
        _shapes.AddRange(_inside.Shapes);
        if (track.Light?.Count == track.Marks.Count)
        {
            _lightAt = _shapes.Count;
            _shapes.Add(
                new DrawShape(null, null) { Gradient = new DrawGradient(false, new(0, 0), new(0, 1), [0, 1], "#ffffff#ffffff"), Blend = DrawBlend.Multiply }
            );
        }
        if (_hasLids)
        {
            _lashAt = _shapes.Count;
            foreach (var eye in _mesh.Eyes)
                _shapes.Add(new DrawShape(null, null, lash ?? "#241812", LashWidth * _unit * (eye == null ? 0 : WidthOf(_mesh, eye))));
        }
        Rig = PortraitRig.Of(key, name, voice, _mesh, _unit, Size, look, false);
        _strip = new MouthDrawing(Rig.Mouth, Rig.Ink, 0);
    }

    /// <summary>
    /// Whether another one has the same frames at the same moments: then the clip itself is drawn once, and of whoever is drawn later only what moves.
    /// </summary>
    public bool IsOfOneClip(PlateFigure other) => _clip == other._clip && _track.Rate == other._track.Rate && _course == other._course;

    /// <summary>How long what is played of the clip takes once, in seconds.</summary>
    public double Length => _course.Length(_track.Rate);

    /// <summary>What of the clip is seen at a moment of what is played, in seconds of the clip.</summary>
    /// <param name="t">In seconds of what is played, 0 or more.</param>
    public double ClipTime(double t) => _track.Rate.TimeOf(_course.FrameAt(t, _track.Rate));

    /// <inheritdoc cref="PlateCourse.Folded"/>
    public double Folded(double t) => _course.Folded(t, _track.Rate);

    /// <summary>Whether its face is seen well enough at a moment to be given another mouth.</summary>
    /// <param name="t">In seconds of what is played.</param>
    public bool IsSeenAt(double t) => _track.Marks[_course.FrameAt(t, _track.Rate)] != null;

    // Marks lie on the lids' edges, more or less: all of the eye has to be under the skin that comes down. In widths of the eye, chosen by eye.
    private PortraitMarks EyesOf(PortraitMarks m) => _hasLids ? m with { EyeLeft = Wider(m.EyeLeft), EyeRight = Wider(m.EyeRight) } : m;

    private static EyeMarks? Wider(EyeMarks? eye)
    {
        if (eye == null)
            return null;
        Vector2 left = eye.Upper[0],
            right = eye.Upper[^1],
            across = Vector2.Normalize(right - left),
            down = new(-across.Y, across.X);
        Mark[] Row(Mark[] row, float by) =>
            [
                .. row.Select(
                    (p, i) =>
                    {
                        var s = 2f * i / (row.Length - 1) - 1;
                        return (Mark)((Vector2)p + eye.Width * (0.09f * s * across + by * (1 - s * s * s * s) * down));
                    }
                ),
            ];
        return eye with { Upper = Row(eye.Upper, -0.08f), Lower = Row(eye.Lower, 0.05f) };
    }

    // Of several frames, those in which the eyes are no further shut than usual.
    private static PortraitMarks[] Awake(PortraitMarks[] seen)
    {
        if (seen.Length == 0)
            return seen;
        float[] open = [.. seen.Select(m => OpenOf(m.EyeLeft) + OpenOf(m.EyeRight))];
        var usual = open.Order().ElementAt(open.Length / 2);
        return [.. seen.Where((_, i) => open[i] >= 0.9f * usual)];
    }

    private static float OpenOf(EyeMarks? eye) =>
        eye == null ? 0 : Vector2.Distance(eye.Upper[eye.Upper.Length / 2], eye.Lower[eye.Lower.Length / 2]) / MathF.Max(1, eye.Width);

    // The eye itself stays as it was filmed: lids slide over it.
    private bool IsInEye((int A, int B, int C) t) =>
        _hasLids
        && Array.Exists(
            _mesh.Eyes,
            eye =>
            {
                if (eye == null)
                    return false;
                int[] ring = [.. eye.Upper, .. eye.Lower[1..^1].Reverse()];
                return ring.Contains(t.A)
                    && ring.Contains(t.B)
                    && ring.Contains(t.C)
                    && Curve.IsInside([.. ring.Select(i => _mesh.Points[i])], (_mesh.Points[t.A] + _mesh.Points[t.B] + _mesh.Points[t.C]) / 3);
            }
        );

    private static float GapOf(PortraitMarks m) =>
        Vector2.Distance(m.Mouth.InnerUpper[m.Mouth.InnerUpper.Length / 2], m.Mouth.InnerLower[m.Mouth.InnerLower.Length / 2]) / m.Mouth.Width;

    /// <inheritdoc/>
    public override Rig Rig { get; }

    /// <inheritdoc/>
    public override Vector2 Size { get; }

    /// <inheritdoc/>
    public override IReadOnlyList<DrawShape> Shapes => _shapes;

    /// <inheritdoc/>
    public override (float X, float Y, float Width, float Height)? MouthBox => PortraitRig.MouthBox(_first, _unit);

    /// <summary>Where it stands, and how large, so that the clip lies on the stage as a whole.</summary>
    /// <returns>Place across, height of its foot, and scale.</returns>
    public (float X, float Y, float Scale) InPlace() => PortraitRig.InPlace(Rig, Size);

    /// <summary>The mesh in a frame of the clip: lines where the marks are, the rest between as it was between them.</summary>
    private Placed PlacedAt(int frame, PortraitMarks marks)
    {
        if (_placed.Count > MostPlaced)
            _placed.Clear();
        return _placed.GetOrAdd(
            frame,
            _ =>
            {
                var here = new PortraitMesh(EyesOf(marks), _track.Width, _track.Height, linesOnly: true);
                var turn = Similarity(_mesh.Points, here.Points, _mesh.Outline, here.Outline);
                var held = new Dictionary<int, Vector2>();
                void Hold(int[] mine, int[] theirs)
                {
                    for (var i = 0; i < mine.Length; i++)
                        held[mine[i]] = here.Points[theirs[i]] - Vector2.Transform(_mesh.Points[mine[i]], turn);
                }
                Hold(_mesh.Outline, here.Outline);
                Hold(_mesh.InnerUpper, here.InnerUpper);
                Hold(_mesh.InnerLower, here.InnerLower);
                Hold(_mesh.OuterUpper, here.OuterUpper);
                Hold(_mesh.OuterLower, here.OuterLower);
                if (_mesh.Nose.Length == here.Nose.Length)
                    Hold(_mesh.Nose, here.Nose);
                for (var e = 0; e < 2 && _hasLids; e++)
                    if (_mesh.Eyes[e] is { } mine && here.Eyes[e] is { } theirs)
                    {
                        Hold(mine.Upper, theirs.Upper);
                        Hold(mine.Lower, theirs.Lower);
                        Hold(mine.Lash, theirs.Lash);
                        Hold(mine.Crease, theirs.Crease);
                    }
                // Far from the face all of it goes as the head does: nothing is seen of that, since nothing moves there.
                foreach (var ring in _mesh.Rings.Skip(1))
                foreach (var corner in ring.Where(c => c >= 0))
                    held[corner] = Vector2.Zero;
                var by = _spread.Of(held);
                var corners = _mesh.Points.Select(p => Vector2.Transform(p, turn)).ToArray();
                by.Apply(corners, 1);
                return new Placed(corners, CloseOf(here), turn with { M31 = 0, M32 = 0 }, PlaceOf(here), OpenOf(here, 0), OpenOf(here, 1));
            }
        );
    }

    private float OpenOf(PortraitMesh here, int eye)
    {
        static float Share(PortraitMesh mesh, PortraitMesh.EyeCorners e) =>
            Vector2.Dot(mesh.Points[e.Lower[e.Lower.Length / 2]] - mesh.Points[e.Upper[e.Upper.Length / 2]], mesh.Down) / WidthOf(mesh, e);
        return _mesh.Eyes[eye] is { } mine && here.Eyes[eye] is { } theirs
            ? Math.Clamp(Share(here, theirs) / MathF.Max(0.01f, Share(_mesh, mine)), 0, 1.5f)
            : 0;
    }

    private static float WidthOf(PortraitMesh mesh, PortraitMesh.EyeCorners eye) => Vector2.Distance(mesh.Points[eye.Upper[0]], mesh.Points[eye.Upper[^1]]);

    // The edge of a lid that comes down, and its lashes; in widths of the eye.
    private const float LashWidth = 0.045f;

    private void DrawLashes(in Pose pose, Vector2[] corners, Placed placed, Matrix3x2 place, Span<DrawItem> items)
    {
        for (var e = 0; e < 2; e++)
        {
            var (lid, open) = e == 0 ? (pose.LidLeft, placed.LeftOpen) : (pose.LidRight, placed.RightOpen);
            var shut = (1 - Math.Clamp(lid, 0, 1)) * Math.Clamp(2 * open, 0, 1);
            if (_mesh.Eyes[e] is not { } eye || shut <= 0.02f)
                continue;
            var line = new PathText();
            MouthInside.Trace(line, Along(corners, eye.Upper));
            items[e] = new DrawItem(place, Math.Clamp(5 * shut, 0, 0.9f), line.ToString());
        }
    }

    private static MouthPlace PlaceOf(PortraitMesh here) => new(here.MouthMiddle, here.Across, here.Down, here.MouthWidth, 0, true);

    // How the clip's own mouth comes to rest.
    private MotionShape? CloseOf(PortraitMesh here)
    {
        var middle = PortraitMesh.LipPoints / 2;
        var gap = Vector2.Dot(here.Points[here.InnerLower[middle]] - here.Points[here.InnerUpper[middle]], here.Down);
        return gap <= 0.3f ? null : _motion.Closing(i => here.Points[here.InnerUpper[i]], i => here.Points[here.InnerLower[i]], gap, here.Down);
    }

    // Turn, size and shift that bring one line nearest to another (Umeyama, "Least-squares estimation of transformation parameters", 1991, in the plane).
    private static Matrix3x2 Similarity(IReadOnlyList<Vector2> from, IReadOnlyList<Vector2> to, int[] a, int[] b)
    {
        Vector2 ma = Mean(from, a),
            mb = Mean(to, b);
        float dot = 0,
            cross = 0,
            norm = 0;
        for (var i = 0; i < a.Length; i++)
        {
            Vector2 p = from[a[i]] - ma,
                q = to[b[i]] - mb;
            dot += Vector2.Dot(p, q);
            cross += p.X * q.Y - p.Y * q.X;
            norm += p.LengthSquared();
        }
        float c = dot / norm,
            s = cross / norm;
        return Matrix3x2.CreateTranslation(-ma) * new Matrix3x2(c, s, -s, c, 0, 0) * Matrix3x2.CreateTranslation(mb);
    }

    private static Vector2 Mean(IReadOnlyList<Vector2> points, int[] of) => of.Aggregate(Vector2.Zero, (sum, i) => sum + points[i]) / of.Length;

    /// <inheritdoc/>
    public override void Draw(in Pose pose, Matrix3x2 place, Span<DrawItem> items, ReadOnlySpan<Vector2> lags = default) => DrawAt(0, pose, place, items);

    /// <inheritdoc/>
    public override void DrawAt(double t, in Pose pose, Matrix3x2 place, Span<DrawItem> items, ReadOnlySpan<Vector2> lags = default)
    {
        var frame = _course.FrameAt(t, _track.Rate);
        Span<Vector2> whole = [new(0, 0), new(_track.Width, 0), new(_track.Width, _track.Height), new(0, _track.Height)];
        Span<Vector2> units = [.. whole];
        foreach (ref var u in units)
            u *= _unit;
        items[0] = new DrawItem(place, 1, DrawMesh.Write(frame, units, whole));
        for (var i = 1; i < items.Length; i++)
            items[i] = new DrawItem(place, 0);
        if (_track.Marks[frame] is not { } marks)
            return;
        var placed = PlacedAt(frame, marks);
        var corners = (Vector2[])placed.Corners.Clone();
        placed.Close?.Apply(corners, 1);
        // Motion as the reference has it, turned and sized as the head is here.
        var moved = new Vector2[corners.Length];
        _motion.ApplyMouth(pose.Mouth, moved);
        if (_hasLids)
            _motion.ApplyLids(pose, moved, placed.LeftOpen, placed.RightOpen);
        for (var i = 0; i < corners.Length; i++)
            corners[i] = _unit * (corners[i] + Vector2.TransformNormal(moved[i], placed.Turn));
        items[1] = new DrawItem(place, 1, DrawMesh.Write(frame, corners, placed.Corners));
        var down = _motion.JawDown(pose.Mouth) * placed.Mouth.Width / _mesh.MouthWidth;
        _inside.Draw(
            pose.Mouth,
            Along(corners, _mesh.InnerUpper),
            Along(corners, _mesh.InnerLower),
            placed.Mouth with
            {
                JawDown = down,
            },
            p => _unit * p,
            place,
            items.Slice(2, MouthInside.Count)
        );
        if (_lashAt >= 0)
            DrawLashes(pose, corners, placed, place, items.Slice(_lashAt, 2));
        // What is drawn between the lips is in the light of the frame around it.
        if (_lightAt >= 0 && _track.Light![frame] is var light && light != SkinLight.Full)
        {
            var color = LightPlot.Times("#ffffff", new Vector3(light.R, light.G, light.B));
            items[_lightAt] = new DrawItem(place, items[2].Opacity, items[2].Path, color + color);
        }
    }

    private static Vector2[] Along(Vector2[] corners, int[] line) => [.. line.Select(i => corners[i])];

    /// <inheritdoc/>
    public override (IReadOnlyList<DrawShape> Shapes, string?[] Paths, float Width, float Height) MouthPicture(in MouthChannels mouth)
    {
        var paths = new string?[_strip.Shapes.Count];
        _strip.Draw(mouth, paths);
        return (_strip.Shapes, paths, Rig.Mouth.Width, Rig.Mouth.Height);
    }
}
