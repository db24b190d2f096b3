using System.Numerics;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage;

/// <summary>Someone on stage.</summary>
/// <param name="Character">Key of the character.</param>
/// <param name="X">Where it stands, in stage units (the stage is 1280 wide).</param>
/// <param name="Y">Where it stands (the stage is 720 high).</param>
/// <param name="Scale">Of its drawing.</param>
/// <param name="BeforeFront">Stands before the backdrop's front layer, not behind it.</param>
/// <param name="Lines">What it says, in order of start.</param>
/// <param name="Dials">How it moves.</param>
public sealed record StageMember(string Character, float X, float Y, float Scale, bool BeforeFront, IReadOnlyList<PlacedSpeech> Lines, PerformanceDials Dials)
{
    /// <summary>How it feels, and when.</summary>
    public IReadOnlyList<MoodSpan> Moods { get; init; } = [];
    /// <summary>What it does, and when.</summary>
    public IReadOnlyList<GestureSpan> Gestures { get; init; } = [];
}

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

    private readonly List<(StageMember Member, Figure Figure, int First, Lazy<Performer> Performer)> _members = [];
    private readonly List<DrawShape> _shapes = [];
    private readonly int _frontFirst, _frontCount;

    /// <summary>Sets the stage.</summary>
    /// <param name="backdrop">Key of the backdrop.</param>
    /// <param name="members">Back to front within their layer.</param>
    /// <param name="rate">Frame rate.</param>
    /// <param name="duration">In seconds; the scene has the least number of frames that covers it.</param>
    public StageScene(string backdrop, IReadOnlyList<StageMember> members, FrameRate rate, double duration)
    {
        Rate = rate;
        FrameCount = Math.Max(1, rate.FramesFor(duration));
        var drawn = Cast.Backdrop(backdrop);
        _shapes.AddRange(drawn.Back);
        BackCount = drawn.Back.Count;
        foreach (var m in members.Where(m => !m.BeforeFront)) Add(m, members);
        _frontFirst = _shapes.Count;
        _frontCount = drawn.Front.Count;
        _shapes.AddRange(drawn.Front);
        foreach (var m in members.Where(m => m.BeforeFront)) Add(m, members);
    }

    private void Add(StageMember member, IReadOnlyList<StageMember> all)
    {
        var figure = Cast.Character(member.Character);
        var first = _shapes.Count;
        _members.Add((member, figure, first, new Lazy<Performer>(() => new Performer(new Part
        {
            Lines = member.Lines,
            Dials = member.Dials,
            // Across half the stage the eyes go most of the way.
            Partners = [.. all.Where(m => m != member).Select(m => new Partner(Math.Clamp((m.X - member.X) / 640, -0.9f, 0.9f), m.Lines))],
            Moods = member.Moods,
            Gestures = member.Gestures,
        }, Duration))));
        foreach (var s in figure.Shapes) _shapes.Add(s with { Clip = s.Clip < 0 ? -1 : s.Clip + first, });
    }

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
            for (var i = 0; i < BackCount; i++) frames[f][i] = still;
            for (var i = 0; i < _frontCount; i++) frames[f][_frontFirst + i] = still;
        }
        foreach (var (member, figure, at, performer) in _members)
        {
            var poses = performer.Value.Evaluate(Rate, first, count);
            var place = Place(figure, member.X, member.Y, member.Scale);
            for (var f = 0; f < count; f++) figure.Draw(poses[f], place, frames[f].AsSpan(at, figure.Shapes.Count));
        }
        return new DrawingList(_shapes, frames);
    }

    /// <summary>Places across the stage for so many figures, left to right; one alone stands in the middle.</summary>
    /// <returns>x in stage units.</returns>
    public static float SpreadX(int index, int count) => count == 1 ? Width / 2 : Width * (0.24f + 0.52f * index / (count - 1));

    /// <summary>One figure alone, for portraits and the lip strip; in units of its drawing.</summary>
    public static DrawingList Portrait(Figure figure, IReadOnlyList<Pose> poses)
    {
        var frames = poses.Select(p =>
        {
            var items = new DrawItem[figure.Shapes.Count];
            figure.Draw(p, Matrix3x2.Identity, items);
            return items;
        }).ToArray();
        return new DrawingList(figure.Shapes, frames);
    }

    private static Matrix3x2 Place(Figure figure, float x, float y, float scale) =>
        Matrix3x2.CreateTranslation(-figure.Rig.Anchor[0], -figure.Rig.Anchor[1]) * Matrix3x2.CreateScale(scale) * Matrix3x2.CreateTranslation(x, y);
}
