using System.Numerics;
using Zamblo.Core.Lettering;
using Zamblo.Core.Light;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage.Props;

namespace Zamblo.Core.Stage;

/// <summary>
/// A scene ready to be shown: backdrop, members and their speech. Everything that is seen in a frame follows from this and the frame's
/// number. Immutable; one instance serves preview and film.
/// </summary>
public sealed class StageScene
{
    /// <summary>Width of the stage in its own units.</summary>
    public const float Width = 1280;

    /// <summary>Height of the stage in its own units.</summary>
    public const float Height = 720;

    private readonly List<(int Index, Figure Figure, int First, Lazy<Performer> Performer)> _members = [];
    private readonly IReadOnlyList<StageMember> _cast;

    // Where each goes, in heights of its drawing from its own place; null stays there.
    private readonly StagePath?[] _paths;
    private readonly List<DrawShape> _shapes = [];
    private readonly StageProps _props;
    private readonly int _frontCount;
    private int _frontFirst;
    private readonly IReadOnlyList<DrawGroup> _groups;
    private readonly Lazy<string> _manifest;
    private readonly PictureText? _text;
    private readonly StageLights _lights;
    private readonly Weather? _weather;
    private readonly BackdropFilm? _film;
    private readonly int _weatherFirst;
    private readonly IReadOnlyList<StagePiece> _pieces;
    private readonly IReadOnlySet<int> _inOthersClips;
    private readonly int _textFirst;
    private readonly (double In, double Out) _fade;

    // Of the shadow at somebody's feet, by its width; and its width by that of the head.
    private const float ShadowHeight = 0.17f,
        ShadowWidth = 0.62f;

    /// <summary>Sets the stage.</summary>
    /// <param name="backdrop">Behind and before the members.</param>
    /// <param name="members">Back to front within their layer.</param>
    /// <param name="rate">Frame rate.</param>
    /// <param name="duration">In seconds; the scene has the least number of frames that covers it.</param>
    /// <param name="text">What is written over the picture.</param>
    /// <param name="light">Colours all of it; null as it is drawn.</param>
    /// <param name="weather">In the air.</param>
    /// <param name="fade">Out of black at the start and into it at the end, in seconds each.</param>
    /// <param name="props">Things that stand about and are held.</param>
    /// <param name="lamps">Where light comes from; null where it has no place.</param>
    public StageScene(
        Backdrop backdrop,
        IReadOnlyList<StageMember> members,
        FrameRate rate,
        double duration,
        PictureText? text = null,
        LightCourse? light = null,
        Weather? weather = null,
        (double In, double Out) fade = default,
        IReadOnlyList<StageProp>? props = null,
        LampCourse? lamps = null
    )
    {
        _props = new StageProps(props ?? []);
        (_text, _weather, _fade) = (text, weather, fade);
        _lights = new StageLights(light ?? new LightCourse(LightPlot.Of(new LightDials())), lamps ?? new LampCourse([], []));
        _cast = members;
        _film = backdrop.Film;
        var isPictured = _film != null || backdrop.Back.Any(s => s.Picture != null);
        HasGrain = !isPictured && !members.Any(m => m.Figure is PlateFigure);
        IsPicture = members.Count > 0 && !HasGrain && members.All(m => m.Figure is PortraitFigure or PlateFigure);
        _paths = [.. members.Select(PathOf)];
        Rate = rate;
        FrameCount = Math.Max(1, rate.FramesFor(duration));
        _shapes.AddRange(backdrop.Back.Select(_lights.Plot.OnSet));
        var darkness = isPictured ? _lights.Plot.OverPicture() : null;
        if (_film == null && darkness != null)
            _shapes.Add(darkness);
        BackCount = _shapes.Count;
        if (_film != null)
            _shapes.AddRange(new[] { _film.Shape, _film.Over, darkness }.OfType<DrawShape>());
        _weatherFirst = _shapes.Count;
        if (weather != null)
            _shapes.Add(weather.Far);
        _frontCount = backdrop.Front.Count;
        var groups = new List<DrawGroup> { new(0, BackCount, true) { Plane = DrawPlane.Far } };
        groups.Add(new DrawGroup(BackCount, _weatherFirst - BackCount, false));
        if (weather != null)
            groups.Add(new DrawGroup(_weatherFirst, 1, false) { Plane = DrawPlane.Over });
        _lights.AddBehind(_shapes, groups);
        _pieces = StageOrder.Of(members, _props.All);
        _inOthersClips = StageOrder.InOthersClips(members, _pieces);
        foreach (var piece in _pieces)
        {
            var first = _shapes.Count;
            switch (piece.Kind)
            {
                case PieceKind.Member:
                    Add(piece.Index);
                    break;
                case PieceKind.Prop:
                    _props.AddOwn(piece.Index, _shapes, Lit);
                    break;
                default:
                    _frontFirst = first;
                    _shapes.AddRange(backdrop.Front.Select(_lights.Plot.OnSet));
                    break;
            }
            // A figure comes with its shadow and with what it holds.
            groups.Add(new DrawGroup(first, _shapes.Count - first, piece.Kind == PieceKind.Front));
        }
        // The light belongs to the stage: it is there also where nothing is shown that lies on the picture.
        _lights.AddBefore(_shapes, groups);
        OverFirst = _shapes.Count;
        if (weather != null)
            _shapes.Add(weather.Near);
        _textFirst = _shapes.Count;
        _shapes.AddRange(text?.Shapes ?? []);
        // Over everything, and larger than any picture.
        if (HasFade)
            _shapes.Add(new DrawShape("M-4000 -4000H9000V9000H-4000Z", "#000000"));
        groups.Add(new DrawGroup(OverFirst, _shapes.Count - OverFirst, false) { Plane = DrawPlane.Over });
        _groups = [.. groups.Where(g => g.Count > 0)];
        _manifest = new Lazy<string>(() =>
            StageManifest.Of(this, (_frontFirst, _frontCount), _text?.Contents ?? [], $"{_lights.Key} {_weather?.Key} {_film?.Key}", _fade)
        );
    }

    private bool HasFade => _fade.In > 0 || _fade.Out > 0;

    // How black the picture is, frame by frame: whole at the first and the last one.
    private float BlackAt(int frame)
    {
        double t = Rate.TimeOf(frame),
            left = Rate.TimeOf(FrameCount - 1 - frame);
        var seen = Math.Min(_fade.In > 0 ? t / _fade.In : 1, _fade.Out > 0 ? left / _fade.Out : 1);
        return 1 - (float)Math.Clamp(seen, 0, 1);
    }

    /// <summary>The first frame in which all of the picture is there: what stands for the scene in a list.</summary>
    public int FirstSeen => Math.Min(FrameCount - 1, Rate.FramesFor(_fade.In));

    private void Add(int index)
    {
        var member = _cast[index];
        var figure = member.Figure;
        _shapes.Add(new DrawShape(new PathText().Ellipse(0, 0, 1, ShadowHeight).ToString(), "#10141f"));
        var first = _shapes.Count;
        _members.Add(
            (
                index,
                figure,
                first,
                new Lazy<Performer>(() =>
                    new Performer(
                        new Part
                        {
                            Lines = member.Lines,
                            Dials = member.Dials,
                            // Across half the stage the eyes go most of the way.
                            Partners =
                            [
                                .. Enumerable
                                    .Range(0, _cast.Count)
                                    .Where(i => i != index)
                                    .Select(i => new Partner(Across(member.X, _cast[i].X), _cast[i].Lines)
                                    {
                                        DirectionAt = _paths[i] == null && _paths[index] == null ? null : t => Across(PlaceOf(index, t), PlaceOf(i, t)),
                                        Moods = _cast[i].Moods,
                                    }),
                            ],
                            Moods = member.Moods,
                            Gestures = member.Bodily,
                            Looks = member.Looks,
                            Path = _paths[index],
                            Rest = figure.Rest,
                            RestCorners = member.RestCorners,
                            Facing = member.Facing,
                            Carries = _props.CarriesOf(index, figure, (t, p) => ToDrawing(index, t, p)),
                        },
                        Duration
                    )
                )
            )
        );
        _lights.AddFigure(figure, _shapes);
        _props.AddHeld(index, figure, first, _shapes, Lit);
    }

    // What hangs on walls is lit as they are, all else as the cast is.
    private DrawShape Lit(StageProp prop, DrawShape shape) =>
        prop.Art.Stands is PropGround.Wall or PropGround.Hang ? _lights.Plot.OnSet(shape)
        : shape.Picture != null ? _lights.Plot.OnPicture(shape)
        : _lights.Plot.OnFigure(shape);

    // From a place on the stage to a member's drawing.
    private Vector2 ToDrawing(int member, double t, Vector2 place)
    {
        var m = _cast[member];
        var anchor = new Vector2(m.Figure.Rig.Anchor[0], m.Figure.Rig.Anchor[1]);
        return (place - new Vector2(PlaceOf(member, t), m.Y)) / m.Scale + anchor;
    }

    private static float Across(float from, float to) => Math.Clamp((to - from) / 640, -0.9f, 0.9f);

    private static StagePath? PathOf(StageMember member)
    {
        if (member.Walks.Count == 0)
            return null;
        var figure = member.Figure;
        float Own(float x) => (x - member.X) / (member.Scale * figure.Size.Y);
        return new StagePath(
            member.Walks.Select(w => new Walk(w.Start, w.End, Own(w.To), w.From is { } from ? Own(from) : null, w.Manner)),
            figure.Rig.Stage.Gait,
            figure.Rig.Stage.Stride
        );
    }

    /// <summary>Where a member is, across the stage in its own units.</summary>
    /// <param name="member">Index among the members as they were given.</param>
    /// <param name="t">In seconds of the scene.</param>
    public float PlaceOf(int member, double t)
    {
        var m = _cast[member];
        return _paths[member] is { } path ? m.X + path.At(t) * m.Scale * m.Figure.Size.Y : m.X;
    }

    /// <summary>Whether anybody goes anywhere.</summary>
    public bool IsWalked => _paths.Any(p => p != null);

    /// <summary>The heads of all members where they stand.</summary>
    public IReadOnlyList<HeadBox> Heads => _heads ??= [.. _cast.Select(m => m.Head)];

    private HeadBox[]? _heads;

    /// <summary>The heads of all members where they are at a moment.</summary>
    /// <param name="t">In seconds of the scene.</param>
    public IReadOnlyList<HeadBox> HeadsAt(double t) => !IsWalked ? Heads : [.. Heads.Select((h, i) => h.Moved(PlaceOf(i, t) - _cast[i].X))];

    /// <summary>What the camera sees, and when.</summary>
    public ShotList Shots { get; init; } = ShotList.Whole;

    /// <summary>What a frame shows of the stage.</summary>
    /// <param name="frame">Which.</param>
    /// <param name="width">Of the picture, in pixels.</param>
    /// <param name="height">Of the picture, in pixels.</param>
    public FrameLook LookAt(int frame, int width, int height) => Shots.LookAt(frame, this, width, height);

    /// <summary>Paper grain lies over it; over a picture of one's own it does not.</summary>
    public bool HasGrain { get; }

    /// <summary>Everybody comes from a picture and stands before one: then all of it is what a wide shot shows.</summary>
    public bool IsPicture { get; }

    /// <summary>The members as they were given.</summary>
    public IReadOnlyList<StageMember> Cast => _cast;

    /// <summary>Frame rate.</summary>
    public FrameRate Rate { get; }

    /// <summary>Number of frames.</summary>
    public int FrameCount { get; }

    /// <summary>Length in seconds: a whole number of frames.</summary>
    public double Duration => Rate.TimeOf(FrameCount);

    /// <summary>All shapes, back to front.</summary>
    public IReadOnlyList<DrawShape> Shapes => _shapes;

    /// <summary>So many shapes at the start of the list never change.</summary>
    public int BackCount { get; }

    /// <summary>From this shape on they are written on the picture itself.</summary>
    public int OverFirst { get; }

    /// <summary>Which shapes belong together, back to front.</summary>
    public IReadOnlyList<DrawGroup> Groups => _groups;

    /// <summary>Names light, air and what is written over the picture, as far as it stands in the shapes; empty where nothing is.</summary>
    public string TextKey =>
        _text == null && _weather == null && !HasFade && _lights.IsPlain
            ? ""
            : Convert.ToHexStringLower(
                System.Security.Cryptography.SHA256.HashData(
                    System.Text.Json.JsonSerializer.SerializeToUtf8Bytes(new { _text?.Shapes, Light = $"{_lights.ShapesKey} {_weather?.Key} {HasFade}" })
                )
            )[..16];

    /// <summary>Who and what is drawn after whom; empty where that is the order of the cast.</summary>
    public string OrderKey =>
        _props.All.Count == 0
            ? _cast.All(m => m.Depth == 0)
                ? ""
                : string.Join(',', _members.Select(m => m.Index))
            : string.Join(',', _pieces.Select(p => p.Kind == PieceKind.Prop ? KeyOf(_props.All[p.Index]) : $"{p.Kind}{p.Index}"));

    // Whatever of a prop stands in the shapes.
    private static string KeyOf(StageProp prop) =>
        $"{prop.Art.Key}/{(prop.HasShadow ? "shadow" : "")}/{string.Join('/', prop.Holds.Select(h => $"{h.Member}{h.Right}"))}";

    /// <summary>Things that stand about and are held.</summary>
    public IReadOnlyList<StageProp> Props => _props.All;

    /// <summary>Where a prop is in a frame, standing or in a hand.</summary>
    public StageBox BoxOfProp(int prop, int frame) =>
        _props.BoxAt(
            prop,
            Rate.TimeOf(frame),
            (who, right) => HandOf(who, right, _members.First(m => m.Index == who).Performer.Value.Evaluate(Rate, frame, 1)[0])
        );

    /// <summary>Which shapes are a prop's: its own, then those in hands.</summary>
    /// <param name="prop">Index among the props as they were given.</param>
    public IEnumerable<(int First, int Count)> ShapesOfProp(int prop) => _props.ShapesOf(prop);

    /// <summary>The order of a prop that goes past whatever is drawn before or after it.</summary>
    /// <param name="prop">Index among the props as they were given.</param>
    /// <param name="step">1 to the front, -1 to the back.</param>
    public double OrderAfter(int prop, int step) => StageOrder.After(_pieces, prop, step);

    /// <summary>Which shapes are a member's own, its shadow first.</summary>
    /// <param name="member">Index among the members as they were given.</param>
    public (int First, int Count) ShapesOf(int member)
    {
        var m = _members.First(m => m.Index == member);
        return (m.First - 1, m.Figure.Shapes.Count + 1);
    }

    /// <summary>How a member moves, frame by frame over the whole scene, before anything dangles.</summary>
    /// <param name="member">Index among the members as they were given.</param>
    public Pose[] PosesOf(int member) => _members.First(m => m.Index == member).Performer.Value.Evaluate(Rate, 0, FrameCount);

    /// <summary>One member in one frame, with its pose changed: for looking while a motion is performed, so nothing dangles and nobody else is drawn.</summary>
    /// <param name="frame">Which.</param>
    /// <param name="member">Index among the members as they were given.</param>
    /// <param name="change">Changes the pose.</param>
    /// <returns>Index of the member's first shape among <see cref="Shapes"/>, and its items.</returns>
    public (int First, DrawItem[] Items) DrawChanged(int frame, int member, Func<Pose, Pose> change)
    {
        var (_, figure, at, performer) = _members.First(m => m.Index == member);
        var own = _cast[member];
        var items = new DrawItem[figure.Shapes.Count];
        figure.DrawAt(own.Footage.At(Rate.TimeOf(frame)), change(performer.Value.Evaluate(Rate, frame, 1)[0]), Place(figure, own.X, own.Y, own.Scale), items);
        _lights.Shade(Rate.TimeOf(frame), items, at);
        return (at, items);
    }

    /// <summary>Draws a stretch of frames.</summary>
    /// <param name="first">First frame.</param>
    /// <param name="count">How many; what lies beyond the end is left out.</param>
    public DrawingList Draw(int first, int count)
    {
        count = Math.Clamp(count, 0, FrameCount - first);
        var frames = new DrawItem[count][];
        for (var f = 0; f < count; f++)
        {
            frames[f] = new DrawItem[_shapes.Count];
            var still = new DrawItem(Matrix3x2.Identity, 1);
            for (var i = 0; i < BackCount; i++)
                frames[f][i] = still;
            for (var i = 0; i < _frontCount; i++)
                frames[f][_frontFirst + i] = still;
            var t = Rate.TimeOf(first + f);
            for (var i = BackCount; i < _weatherFirst; i++)
                frames[f][i] = i == BackCount ? _film!.At(t) : still;
            if (_weather != null)
                (frames[f][_weatherFirst], frames[f][OverFirst]) = (_weather.At(t, false), _weather.At(t, true));
            _text?.Draw(t, frames[f].AsSpan(_textFirst, _text.Shapes.Count));
            if (HasFade)
                frames[f][^1] = new DrawItem(Matrix3x2.Identity, BlackAt(first + f));
        }
        var held = new ReadOnlyMemory<Pose>[_cast.Count];
        foreach (var (index, figure, at, performer) in _members)
        {
            var member = _cast[index];
            // What dangles remembers the motion before.
            var before =
                figure.SpringCount == 0 || member.Dials.Dangle <= 0
                    ? 0
                    : Math.Min(first, Enumerable.Range(0, figure.SpringCount).Max(i => Memory(figure.SpringAt(i))));
            var poses = performer.Value.Evaluate(Rate, first - before, count + before);
            var lags = Lags(figure, poses, before, member.Dials.Dangle);
            var place = Place(figure, member.X, member.Y, member.Scale);
            held[index] = poses.AsMemory(before, count);
            for (var f = 0; f < count; f++)
            {
                var shown = member.Footage.At(Rate.TimeOf(first + f));
                figure.DrawAt(shown, poses[before + f], place, frames[f].AsSpan(at, figure.Shapes.Count), lags == null ? [] : lags[f]);
                if (_inOthersClips.Contains(index))
                    frames[f][at] = new DrawItem(Matrix3x2.Identity, 0);
                frames[f][at - 1] = ShadowOf(index, poses[before + f], Rate.TimeOf(first + f));
            }
        }
        for (var f = 0; f < count; f++)
            _lights.Draw(Rate.TimeOf(first + f), frames[f]);
        for (var f = 0; f < count && _props.All.Count > 0; f++)
        {
            var at = f;
            _props.Draw(
                Rate.TimeOf(first + f),
                frames[f],
                _lights.ShadowAt(Rate.TimeOf(first + f)).Shadow,
                (who, right) => HandOf(who, right, held[who].Span[at])
            );
        }
        return new DrawingList(_shapes, frames)
        {
            Groups = _groups,
            HasGrain = HasGrain,
            LookAt = (i, width, height) => LookAt(first + i, width, height),
        };
    }

    private Vector2? HandOf(int member, bool right, in Pose pose)
    {
        var m = _cast[member];
        return m.Figure.HandAt(pose, right, Place(m.Figure, m.X, m.Y, m.Scale));
    }

    // At the feet, smaller and paler the higher they are; that of who glides is not seen, but tells where that one is.
    private DrawItem ShadowOf(int index, Pose pose, double t)
    {
        var member = _cast[index];
        var head = Heads[index];
        var (dark, side) = _lights.ShadowAt(t);
        var isSeen = member.Figure.Rig.Stage.Gait != Gait.Glide;
        var up = Math.Clamp(pose.Rise * 4, 0, 0.8f);
        var wide = ShadowWidth * (head.Right - head.Left) * (1 - 0.5f * up);
        // The feet stand a little above the lower edge of the drawing.
        var x = (head.Left + head.Right) / 2 + PlaceOf(index, t) - member.X - side * 0.3f * wide;
        return new DrawItem(Matrix3x2.CreateScale(wide) * Matrix3x2.CreateTranslation(x, head.Floor - 0.05f * wide), isSeen ? dark * (1 - up) : 0);
    }

    /// <summary>Names everything that is seen in this scene: two scenes with the same name have the same frames, to the last bit.</summary>
    /// <returns>SHA-256 in lower-case hexadecimal.</returns>
    public string Manifest() => _manifest.Value;

    private int Memory(Spring spring) => (int)Math.Ceiling(spring.Memory * Rate.FramesPerSecond) + 2;

    // How far what dangles lags behind, frame by frame.
    private Vector2[][]? Lags(Figure figure, Pose[] poses, int before, float size)
    {
        if (figure.SpringCount == 0 || size <= 0)
            return null;
        var places = new Vector2[figure.SpringCount];
        var xs = new float[figure.SpringCount][];
        var ys = new float[figure.SpringCount][];
        for (var i = 0; i < xs.Length; i++)
            (xs[i], ys[i]) = (new float[poses.Length], new float[poses.Length]);
        for (var f = 0; f < poses.Length; f++)
        {
            figure.Hang(poses[f], places);
            for (var i = 0; i < places.Length; i++)
                (xs[i][f], ys[i][f]) = (places[i].X, places[i].Y);
        }
        var lags = new Vector2[poses.Length - before][];
        var step = 1 / Rate.FramesPerSecond;
        for (var f = 0; f < lags.Length; f++)
        {
            lags[f] = new Vector2[figure.SpringCount];
            for (var i = 0; i < figure.SpringCount; i++)
            {
                var spring = figure.SpringAt(i);
                int to = before + f + 1,
                    from = Math.Max(0, to - Memory(spring));
                lags[f][i] = size * new Vector2((float)spring.Lag(xs[i].AsSpan(from, to - from), step), (float)spring.Lag(ys[i].AsSpan(from, to - from), step));
            }
        }
        return lags;
    }

    /// <summary>Places across the stage for so many figures, left to right; one alone stands in the middle.</summary>
    /// <returns>x in stage units.</returns>
    public static float SpreadX(int index, int count) => count == 1 ? Width / 2 : Width * (0.24f + 0.52f * index / (count - 1));

    /// <summary>One figure alone, for portraits and the lip strip; in units of its drawing.</summary>
    public static DrawingList Portrait(Figure figure, IReadOnlyList<Pose> poses)
    {
        var frames = poses
            .Select(p =>
            {
                var items = new DrawItem[figure.Shapes.Count];
                figure.Draw(p, Matrix3x2.Identity, items);
                return items;
            })
            .ToArray();
        return new DrawingList(figure.Shapes, frames);
    }

    private static Matrix3x2 Place(Figure figure, float x, float y, float scale) =>
        Matrix3x2.CreateTranslation(-figure.Rig.Anchor[0], -figure.Rig.Anchor[1]) * Matrix3x2.CreateScale(scale) * Matrix3x2.CreateTranslation(x, y);
}
