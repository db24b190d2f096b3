using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Review;

/// <summary>What eyes are after, what is written where it is not seen, and who changes sides over a cut.</summary>
internal static class SightReview
{
    // So long, in seconds, somebody may look at nobody while speaking to others (chosen by eye).
    private const double Lost = 4;

    // A caption may stay for so long, in seconds, and have two rows of 42 letters (common practice).
    private const double Longest = 7;
    private const int MostLetters = 84;

    /// <summary>Flags of a scene.</summary>
    public static IEnumerable<ReviewFlag> Of(EvaluatedScene scene) => Eyes(scene).Concat(Captions(scene)).Concat(Written(scene));

    private static IEnumerable<ReviewFlag> Eyes(EvaluatedScene scene)
    {
        // Whoever is alone may look wherever it likes.
        if (scene.Document.Members.Count < 2)
            yield break;
        foreach (var clip in scene.Document.Clips.OfType<LookClip>().Where(c => c.Aim.Direction != null))
        {
            var (start, end) = scene.SpanOf(clip);
            foreach (var line in scene.Lines.Where(l => l.Line.Member == clip.Member))
            {
                var (from, to) = (Math.Max(start, line.Start + line.Time.First), Math.Min(end, line.Start + line.Time.Last));
                if (to - from > Lost)
                    yield return new ReviewFlag(
                        ReviewKind.LooksAtNobody,
                        false,
                        from,
                        to,
                        $"{NameOf(scene, clip.Member)} looks {clip.Aim.Direction} and at nobody while speaking.",
                        $"{to - from:0.0} s ({Lost:0} at most)"
                    )
                    {
                        Member = clip.Member,
                        Line = line.Id,
                    };
            }
        }
    }

    private static IEnumerable<ReviewFlag> Captions(EvaluatedScene scene)
    {
        if (!scene.Document.Lettering.HasCaptions)
            yield break;
        foreach (var c in SceneText.CaptionsOf(scene))
        {
            var letters = WordSpacing.Measure(c.Text);
            if (c.End - c.Start > Longest || letters > MostLetters)
                yield return new ReviewFlag(
                    ReviewKind.LongCaption,
                    false,
                    c.Start,
                    c.End,
                    $"The caption \"{c.Text}\" is too long.",
                    letters > MostLetters ? $"{letters} letters ({MostLetters} at most)" : $"{c.End - c.Start:0.0} s ({Longest:0} at most)"
                )
                {
                    Line = c.Line,
                };
        }
    }

    private static IEnumerable<ReviewFlag> Written(EvaluatedScene scene) =>
        scene.Written.Select(w => new ReviewFlag(
            ReviewKind.TextCut,
            true,
            w.Start,
            w.End,
            $"\"{w.Text}\" has no room in the picture.",
            w.Over > 0 ? $"{w.Over:P0} wider than the title-safe area" : "more than three rows"
        ));

    /// <summary>Members who stand on the other side of each other after the cut from one scene to the next in the same set (the 180 degree line).</summary>
    /// <param name="before">A scene.</param>
    /// <param name="after">The one that follows it.</param>
    public static IEnumerable<ReviewFlag> Across(EvaluatedScene before, EvaluatedScene after)
    {
        if (before.Document.Backdrop != after.Document.Backdrop || before.Stage.FrameCount == 0 || after.Stage.FrameCount == 0)
            yield break;
        var (last, first) = (before.Stage.HeadsAt(before.Stage.Duration), after.Stage.HeadsAt(0));
        var there = after.Document.Members.Select(m => m.Id).ToList();
        var both = before.Document.Members.Select((m, i) => (Was: i, Is: there.IndexOf(m.Id))).Where(m => m.Is >= 0).ToArray();
        static float Middle(HeadBox head) => (head.Left + head.Right) / 2;
        static bool IsOn(HeadBox head) => Middle(head) is > 0 and < StageScene.Width;
        foreach (var (a, one) in both.Select((m, i) => (m, i)))
        foreach (var b in both.Skip(one + 1))
        {
            if (!IsOn(last[a.Was]) || !IsOn(last[b.Was]) || !IsOn(first[a.Is]) || !IsOn(first[b.Is]))
                continue;
            float was = Middle(last[b.Was]) - Middle(last[a.Was]),
                now = Middle(first[b.Is]) - Middle(first[a.Is]);
            if (Math.Sign(was) != Math.Sign(now) && Math.Min(Math.Abs(was), Math.Abs(now)) > Apart)
                yield return new ReviewFlag(
                    ReviewKind.SidesSwapped,
                    true,
                    0,
                    Math.Min(1, after.Stage.Duration),
                    $"{after.Document.Members[a.Is].RoleName} and {after.Document.Members[b.Is].RoleName} change sides over the cut.",
                    "the 180 degree line"
                )
                {
                    Member = after.Document.Members[a.Is].Id,
                };
        }
    }

    // In stage units: nearer to each other they stand behind one another, on no side.
    private const float Apart = 60;

    private static string NameOf(EvaluatedScene scene, MemberId member) => scene.Document.Members.First(m => m.Id == member).RoleName;
}
