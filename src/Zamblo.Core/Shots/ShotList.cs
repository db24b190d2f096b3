using Zamblo.Core.Stage;

namespace Zamblo.Core.Shots;

/// <summary>What a frame of a picture shows.</summary>
/// <param name="Near">Of the figures and all that stands with them.</param>
/// <param name="Far">Of what lies behind: it moves less than what is near (as on a multiplane stand).</param>
/// <param name="Moves">The camera moves during this shot.</param>
public readonly record struct FrameLook(StageView Near, StageView Far, bool Moves)
{
    /// <summary>What the next shot shows of the same moment, while this one becomes it; null between changes.</summary>
    public FrameBlend? Next { get; init; }
}

/// <summary>The shots of a scene, those by hand over those that were chosen. Immutable.</summary>
public sealed class ShotList
{
    // How much the picture grows in a push, and how much of the camera's way what lies behind goes along.
    private const float Pushed = 0.07f,
        FarShare = 0.84f;

    // What is left of a chosen shot beside one by hand and shorter than this, in seconds, goes to its neighbour.
    private const double Scrap = 0.85;

    private readonly IReadOnlyList<Shot> _shots;

    private ShotList(IReadOnlyList<Shot> shots) => _shots = shots;

    /// <summary>How much the camera wanders in every shot, 0 to 1.</summary>
    public float Drift { get; init; }

    /// <summary>One picture of everybody.</summary>
    public static ShotList Whole { get; } = new([new Shot(0, Framing.Wide, -1, "One picture for all of it")]);

    /// <summary>In order; the first starts at 0, each lasts until the next.</summary>
    public IReadOnlyList<Shot> Shots => _shots;

    /// <summary>Lays shots by hand over those that were chosen.</summary>
    /// <param name="chosen">By the camera pass.</param>
    /// <param name="own">By hand, each with its end in seconds; where two overlap, the later one begins.</param>
    /// <param name="drift">How much the camera wanders in every shot, 0 to 1.</param>
    /// <param name="duration">Of the scene, in seconds: the camera goes on with nothing at its end.</param>
    public static ShotList Of(IReadOnlyList<Shot> chosen, IEnumerable<(Shot Shot, double End)> own, float drift = 0, double duration = double.PositiveInfinity)
    {
        var shots = chosen.ToList();
        foreach (var (shot, end) in own.OrderBy(o => o.Shot.Start))
        {
            var start = Math.Max(0, shot.Start);
            if (end <= start)
                continue;
            var resumed = shots.Last(s => s.Start <= end + 1e-9 || s.Start <= 0);
            shots.RemoveAll(s => s.Clip == null ? s.Start > start - Scrap && s.Start <= end : s.Start >= start && s.Start <= end);
            shots.Add(shot with { Start = start });
            var next = shots.FindIndex(s => s.Start > end);
            if (next >= 0 && shots[next].Start - end < Scrap)
                shots[next] = shots[next] with { Start = end };
            else if (end < duration - 1e-3)
                shots.Add(resumed with { Start = end });
            shots.Sort((a, b) => a.Start.CompareTo(b.Start));
            if (shots[0].Start > 0)
                shots[0] = shots[0] with { Start = 0 };
        }
        return new ShotList(shots) { Drift = drift };
    }

    /// <summary>Index of the shot that a frame belongs to.</summary>
    /// <param name="frame">Index of the frame.</param>
    /// <param name="rate">Frames per second.</param>
    public int IndexAt(int frame, FrameRate rate)
    {
        int low = 0,
            high = _shots.Count - 1;
        while (low < high)
        {
            var middle = (low + high + 1) / 2;
            if (FirstFrame(middle, rate) <= frame)
                low = middle;
            else
                high = middle - 1;
        }
        return low;
    }

    /// <summary>The frame in which a shot begins: the one nearest to its moment.</summary>
    public int FirstFrame(int shot, FrameRate rate) => shot == 0 ? 0 : rate.FrameAt(_shots[shot].Start + rate.FrameSeconds / 2);

    /// <summary>What a frame shows.</summary>
    /// <param name="frame">Index of the frame.</param>
    /// <param name="stage">Whose.</param>
    /// <param name="width">Of the picture, in pixels.</param>
    /// <param name="height">Of the picture, in pixels.</param>
    public FrameLook LookAt(int frame, StageScene stage, int width, int height)
    {
        var index = IndexAt(frame, stage.Rate);
        foreach (var next in (ReadOnlySpan<int>)[index, index + 1])
            if (ShareOf(next, frame, stage) is { } share)
            {
                var (before, after) = (LookOf(next - 1, frame, stage, width, height), LookOf(next, frame, stage, width, height));
                return before with { Moves = true, Next = new FrameBlend(after.Near, after.Far, _shots[next].Change, share) };
            }
        return LookOf(index, frame, stage, width, height);
    }

    // How far a shot has become seen; null where it begins with a cut, or the frame is not within the change. Half of it lies in the shot before.
    private float? ShareOf(int index, int frame, StageScene stage)
    {
        if (index < 1 || index >= _shots.Count || _shots[index].Change == ShotChange.Cut)
            return null;
        int first = FirstFrame(index, stage.Rate),
            before = first - FirstFrame(index - 1, stage.Rate),
            own = (index + 1 < _shots.Count ? FirstFrame(index + 1, stage.Rate) : stage.FrameCount) - first;
        // Never over more than half of a shot: something of it is seen by itself.
        var half = Math.Min(Math.Min(before, own) / 2f, (float)(_shots[index].Over * stage.Rate.FramesPerSecond / 2));
        var share = (frame + 0.5f - first + half) / (2 * half);
        return half >= 1 && share is > 0 and < 1 ? share : null;
    }

    private FrameLook LookOf(int index, int frame, StageScene stage, int width, int height)
    {
        var wide = stage.IsPicture ? StageView.Cover(width, height) : StageView.For(stage.Heads, width, height);
        var shot = _shots[index];
        var drift = shot.Move == CameraMove.Drift ? 1 : Drift;
        if (shot.Framing == Framing.Wide && shot.Move == CameraMove.Still && drift == 0)
            return new FrameLook(wide, wide, false);
        var heads = stage.HeadsAt(stage.Rate.TimeOf(FirstFrame(index, stage.Rate)));
        var isFollowing = shot.Framing != Framing.Wide && IsGoing(stage, shot.Subject) | IsGoing(stage, shot.Other);
        // Framed as they stand when it begins: whoever passes by does not push the camera about. It goes along with whom it is of.
        if (isFollowing)
        {
            var now = stage.HeadsAt(stage.Rate.TimeOf(frame));
            heads = [.. heads.Select((h, i) => i == shot.Subject || i == shot.Other ? now[i] : h.Moved(now[shot.Subject].Left - heads[shot.Subject].Left))];
        }
        var view = Framings.ViewOf(shot, heads, width, height, shot.Framing == Framing.Insert ? BoxOf(index, stage) : null);
        if (shot.Move is CameraMove.Push or CameraMove.Pull)
        {
            int first = FirstFrame(index, stage.Rate),
                last = index + 1 < _shots.Count ? FirstFrame(index + 1, stage.Rate) : stage.FrameCount;
            var way = Math.Clamp((frame - first) / (float)Math.Max(1, last - first), 0, 1);
            // Slow at both ends.
            way = way * way * (3 - 2 * way);
            view = view with { Width = view.Width * (1 - Pushed * (shot.Move == CameraMove.Push ? way : 1 - way)) };
        }
        if (drift > 0 || shot.Move == CameraMove.Shake)
        {
            // Elsewhere in its sway for each of them, and wherever the shot comes to lie.
            var since = stage.Rate.TimeOf(frame - FirstFrame(index, stage.Rate));
            var sway = since + 37 * (int)shot.Framing + 11 * shot.Subject;
            view = HandHeld.Look(view, (float)width / height, drift, sway, shot.Move == CameraMove.Shake ? since : null);
        }
        return new FrameLook(view, Far(view, wide), shot.Move != CameraMove.Still || drift > 0 || isFollowing);
    }

    // Everywhere that the prop is during its shot: a hand that moves a little does not move the camera.
    private StageBox? BoxOf(int index, StageScene stage)
    {
        if (_shots[index].Prop < 0 || _shots[index].Prop >= stage.Props.Count)
            return null;
        return _boxes.GetOrAdd(
            index,
            i =>
            {
                int first = FirstFrame(i, stage.Rate),
                    last = i + 1 < _shots.Count ? FirstFrame(i + 1, stage.Rate) - 1 : stage.FrameCount - 1;
                return Enumerable
                    .Range(0, Looks)
                    .Select(n => stage.BoxOfProp(_shots[i].Prop, first + (last - first) * n / (Looks - 1)))
                    .Aggregate((a, b) => a.With(b));
            }
        );
    }

    // So many moments of a shot are looked at for where its prop is.
    private const int Looks = 9;
    private readonly System.Collections.Concurrent.ConcurrentDictionary<int, StageBox> _boxes = new();

    private static bool IsGoing(StageScene stage, int member) => member >= 0 && member < stage.Cast.Count && stage.Cast[member].Walks.Count > 0;

    /// <summary>What a shot of figures that stand in their places shows: for choosing among framings.</summary>
    /// <param name="shot">Which.</param>
    /// <param name="stage">Whose.</param>
    /// <param name="width">Of the picture, in pixels.</param>
    /// <param name="height">Of the picture, in pixels.</param>
    public static FrameLook StillOf(Shot shot, StageScene stage, int width, int height)
    {
        var view = Framings.ViewOf(shot, stage.Heads, width, height);
        return new FrameLook(view, Far(view, StageView.For(stage.Heads, width, height)), false);
    }

    private static StageView Far(StageView view, StageView wide) =>
        new(wide.X + (view.X - wide.X) * FarShare, wide.Y + (view.Y - wide.Y) * FarShare, wide.Width * MathF.Pow(view.Width / wide.Width, FarShare));
}
