using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Review;

/// <summary>Whether heads are alive, faces are seen, shots and captions can be taken in.</summary>
internal static class PictureReview
{
    // A head that moves less than this, in degrees, for so long, in seconds, while it speaks, is a stone.
    private const float Still = 0.4f;
    private const double StillSeconds = 4;

    // Degrees a second. Quick turns of heads at talk reach 200 to 300 (common practice).
    private const double Fastest = 420;

    // Blinks a minute: 26 in talk, 17 at rest, 4.5 reading (Bentivoglio and others 1997, from memory).
    private const double FewestBlinks = 4,
        MostBlinks = 45;

    // Degrees from which a mouth is hardly seen any more.
    private const float Away = 27;

    // Whoever speaks may be out of the picture for so long, in seconds.
    private const double Unseen = 3;

    // Share of a face that may be cut or covered.
    private const float Part = 0.25f,
        Behind = 0.5f,
        Gone = 0.6f;

    // Shots shorter than this, in seconds, are not taken in; a caption is read at 20 characters a second (common practice).
    private const double ShortShot = 0.8,
        MostCharacters = 22;

    public static IEnumerable<ReviewFlag> Of(EvaluatedScene scene, int member, Pose[] poses)
    {
        var who = scene.Document.Members[member];
        var rate = scene.Stage.Rate;
        bool Speaks(int f) => scene.Stage.Cast[member].Lines.Any(l => rate.TimeOf(f) >= l.Start && rate.TimeOf(f) < l.End);
        foreach (var flag in Heads(who.RoleName, poses, rate, Speaks).Concat(Seen(scene, member, who.RoleName, Speaks)))
            yield return flag with
            {
                Member = who.Id,
            };
    }

    /// <summary>What is not about one member.</summary>
    public static IEnumerable<ReviewFlag> Of(EvaluatedScene scene)
    {
        var shots = scene.Stage.Shots.Shots;
        for (var i = 0; i < shots.Count; i++)
        {
            var length = (i + 1 < shots.Count ? shots[i + 1].Start : scene.Stage.Duration) - shots[i].Start;
            if (shots.Count > 1 && length < ShortShot)
                yield return new ReviewFlag(
                    ReviewKind.ShortShot,
                    false,
                    shots[i].Start,
                    shots[i].Start + length,
                    "This shot is gone before it is seen.",
                    $"{length:0.00} s ({ShortShot:0.0} at least)"
                );
        }
        if (scene.Document.Lettering.HasCaptions)
            foreach (var c in SceneText.CaptionsOf(scene))
                if (WordSpacing.Measure(c.Text) > 12 && WordSpacing.Measure(c.Text) / (c.End - c.Start) is var speed and > MostCharacters)
                    yield return new ReviewFlag(
                        ReviewKind.FastCaption,
                        false,
                        c.Start,
                        c.End,
                        $"The caption \"{c.Text}\" is gone before it is read.",
                        $"{speed:0} characters a second ({MostCharacters:0} at most)"
                    );
        foreach (var clip in scene.Document.Clips.OfType<GestureClip>())
        {
            var (start, end) = scene.SpanOf(clip);
            if (start < -0.25 || end > scene.Stage.Duration + 0.25)
                yield return new ReviewFlag(
                    ReviewKind.CutGesture,
                    false,
                    Math.Max(0, start),
                    Math.Min(scene.Stage.Duration, end),
                    $"A gesture is cut off by the {(start < 0 ? "beginning" : "end")} of the scene.",
                    $"{Math.Max(-start, end - scene.Stage.Duration):0.0} s beyond it"
                )
                {
                    Member = clip.Member,
                    Line = clip.Line,
                };
        }
    }

    private static IEnumerable<ReviewFlag> Heads(string role, Pose[] poses, FrameRate rate, Func<int, bool> speaks)
    {
        var window = (int)(StillSeconds * rate.FramesPerSecond);
        foreach (var (first, last) in MouthReview.Runs(poses.Length, f => speaks(f) && IsStill(poses, f, window)))
            yield return new ReviewFlag(
                ReviewKind.HeadStill,
                false,
                rate.TimeOf(Math.Max(0, first - window / 2)),
                rate.TimeOf(last + 1),
                $"{role}'s head stands still while it speaks.",
                $"less than {Still:0.0} degrees for {StillSeconds:0} s"
            );
        for (var f = 1; f < poses.Length; f++)
        {
            var (a, b) = (poses[f - 1], poses[f]);
            var degrees = Math.Sqrt(Square(b.HeadTurn - a.HeadTurn) + Square(b.HeadNod - a.HeadNod) + Square(b.HeadTilt - a.HeadTilt));
            var speed = degrees * rate.FramesPerSecond;
            if (speed <= Fastest)
                continue;
            yield return new ReviewFlag(
                ReviewKind.HeadJerk,
                true,
                rate.TimeOf(f - 1),
                rate.TimeOf(f + 1),
                $"{role}'s head jerks.",
                $"{speed:0} degrees a second ({Fastest:0} at most)"
            );
            // Once for one jerk.
            f += (int)rate.FramesPerSecond;
        }
        var seconds = poses.Length / rate.FramesPerSecond;
        if (seconds >= 30)
        {
            var blinks = MouthReview.Runs(poses.Length, f => Math.Min(poses[f].LidLeft, poses[f].LidRight) < 0.35f).Count();
            var often = blinks * 60 / seconds;
            if (often is < FewestBlinks or > MostBlinks)
                yield return new ReviewFlag(
                    ReviewKind.Blinks,
                    false,
                    0,
                    seconds,
                    $"{role} blinks too {(often < FewestBlinks ? "rarely" : "often")}.",
                    $"{often:0} a minute ({FewestBlinks:0} to {MostBlinks:0})"
                );
        }
        foreach (var (first, last) in MouthReview.Runs(poses.Length, f => speaks(f) && Math.Abs(poses[f].HeadTurn) > Away))
            if ((last + 1 - first) / rate.FramesPerSecond > 1)
                yield return new ReviewFlag(
                    ReviewKind.TurnedAway,
                    false,
                    rate.TimeOf(first),
                    rate.TimeOf(last + 1),
                    $"{role} is turned away while speaking.",
                    $"{poses[first].HeadTurn:0} degrees ({Away:0} at most)"
                );
    }

    private static bool IsStill(Pose[] poses, int frame, int window)
    {
        int first = Math.Max(0, frame - window / 2),
            last = Math.Min(poses.Length - 1, first + window);
        if (last - first < window)
            return false;
        var (low, high) = (float.MaxValue, float.MinValue);
        // Every fourth frame tells as much.
        for (var f = first; f <= last; f += 4)
        {
            var sum = poses[f].HeadTurn + poses[f].HeadNod + poses[f].HeadTilt;
            (low, high) = (Math.Min(low, sum), Math.Max(high, sum));
            if (high - low > Still)
                return false;
        }
        return true;
    }

    private static IEnumerable<ReviewFlag> Seen(EvaluatedScene scene, int member, string role, Func<int, bool> speaks)
    {
        var stage = scene.Stage;
        var rate = stage.Rate;
        int width = Math.Max(2, scene.Document.Width),
            height = Math.Max(2, scene.Document.Height);
        // Ten looks a second are enough.
        var step = Math.Max(1, (int)(rate.FramesPerSecond / 10));
        var looks = stage.FrameCount / step;
        HeadBox HeadAt(int i) => stage.HeadsAt(rate.TimeOf(i * step))[member];
        float CutAt(int i)
        {
            var view = stage.LookAt(i * step, width, height).Near;
            var head = HeadAt(i);
            float left = view.X - view.Width / 2,
                top = view.Y - view.Width * height / width / 2;
            var across = Math.Min(head.Right, left + view.Width) - Math.Max(head.Left, left);
            var down = Math.Min(head.Chin, top + view.Width * height / width) - Math.Max(head.Top, top);
            return 1 - Math.Max(0, across) * Math.Max(0, down) / ((head.Right - head.Left) * (head.Chin - head.Top));
        }
        // Where the camera is after somebody else, whoever speaks may stand half outside.
        bool IsOf(int i) => stage.Shots.Shots[stage.Shots.IndexAt(i * step, rate)].Shows(member);
        foreach (var (first, last) in MouthReview.Runs(looks, i => speaks(i * step) && CutAt(i) > Gone))
            if ((last + 1 - first) * step / rate.FramesPerSecond is var seconds and > Unseen)
                yield return new ReviewFlag(
                    ReviewKind.OutOfPicture,
                    true,
                    rate.TimeOf(first * step),
                    rate.TimeOf((last + 1) * step),
                    $"{role} speaks and is not in the picture.",
                    $"{seconds:0.0} s ({Unseen:0.0} at most)"
                );
        foreach (var (first, last) in MouthReview.Runs(looks, i => speaks(i * step) && IsOf(i) && CutAt(i) is > Part and <= Gone))
            if ((last + 1 - first) * step / rate.FramesPerSecond > 0.5)
                yield return new ReviewFlag(
                    ReviewKind.FaceCut,
                    true,
                    rate.TimeOf(first * step),
                    rate.TimeOf((last + 1) * step),
                    $"The picture cuts {role}'s face while speaking.",
                    $"{CutAt(first):P0} of it ({Part:P0} at most)"
                );
        foreach (var (first, last) in MouthReview.Runs(looks, i => speaks(i * step) && CoveredAt(stage, member, i * step).Share > Behind))
            if ((last + 1 - first) * step / rate.FramesPerSecond > 0.5)
                yield return new ReviewFlag(
                    ReviewKind.Covered,
                    true,
                    rate.TimeOf(first * step),
                    rate.TimeOf((last + 1) * step),
                    $"{role}'s face is behind {CoveredAt(stage, member, first * step).What} while speaking.",
                    $"{CoveredAt(stage, member, first * step).Share:P0} of it ({Behind:P0} at most)"
                );
    }

    private static (float Share, string What) CoveredAt(StageScene stage, int member, int frame)
    {
        var heads = stage.HeadsAt(stage.Rate.TimeOf(frame));
        var own = heads[member];
        var most = (Share: 0f, What: "");
        void By(float left, float top, float right, float bottom, string what)
        {
            var across = Math.Min(own.Right, right) - Math.Max(own.Left, left);
            var down = Math.Min(own.Chin, bottom) - Math.Max(own.Top, top);
            var share = Math.Max(0, across) * Math.Max(0, down) / ((own.Right - own.Left) * (own.Chin - own.Top));
            if (share > most.Share)
                most = (share, what);
        }
        for (var i = 0; i < heads.Count; i++)
        {
            var isBefore = stage.ShapesOf(i).First > stage.ShapesOf(member).First;
            if (i == member || !isBefore)
                continue;
            By(heads[i].Left, heads[i].Top, heads[i].Right, heads[i].Chin, "somebody");
        }
        for (var i = 0; i < stage.Props.Count; i++)
            if (stage.ShapesOfProp(i).Any(s => s.First > stage.ShapesOf(member).First))
            {
                var box = stage.BoxOfProp(i, frame);
                By(box.Left, box.Top, box.Right, box.Bottom, $"the {stage.Props[i].Art.Name.ToLowerInvariant()}");
            }
        return most;
    }

    private static double Square(double x) => x * x;
}
