using Zamblo.Core.Lettering;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Review;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Props;

namespace Zamblo.Core.Tests;

/// <summary>Eyes, written words, props and sides: every flag has a scene that is made to show it, and one that must not.</summary>
public class SightReviewTests
{
    private static readonly MemberId Maro = new(new Guid(1, 0, 0, new byte[8])),
        Bubb = new(new Guid(2, 0, 0, new byte[8]));

    private static SpeechAnalysis Said(double seconds) =>
        new(
            seconds,
            [new PhoneSegment("AA", 0, seconds)],
            [new WordSegment("ah", 0, seconds)],
            [.. Enumerable.Repeat(-20f, (int)(100 * seconds))],
            SpeechSource.Script
        );

    private static SceneDocument Document(double seconds = 8, params MemberId[] members) =>
        new("bakery", new FrameRate(25), 1280, 720)
        {
            Members =
            [
                .. (members.Length == 0 ? [Maro, Bubb] : members).Select(m => new SceneMember(
                    m,
                    m == Maro ? "Maro" : "Bubb",
                    m == Maro ? "maro" : "bubb",
                    "",
                    "#000000",
                    new MouthDials(),
                    new PerformanceDials()
                )),
            ],
            Lines = [new SceneLine(new LineId(new Guid(9, 0, 0, new byte[8])), Maro, new TakeId(Guid.NewGuid()), seconds, "", "", new SpeechQuery("ah", "en"))],
        };

    private sealed class Boxes : ITypesetter
    {
        public SetText Set(string text, float size) => new("M0 0L1 0L1 1Z", size * text.Length / 2);
    }

    private static EvaluatedScene Evaluated(SceneDocument document) => SceneEvaluator.Evaluate(document, l => Said(l.TakeDuration), TestData.Cast, new Boxes());

    private static ReviewFlag[] Look(SceneDocument document, ReviewKind kind) =>
        [.. ReviewPass.Of(new ReviewedScene(Evaluated(document), _ => null)).Where(f => f.Kind == kind)];

    private static WordAnchor At(double t) => new(-1, "", 0, t, 0);

    [Fact]
    public void Whoever_looks_away_for_long_while_speaking_to_others_is_told_of()
    {
        LookClip Away(double to, LookAim aim) => new(new ClipId(Guid.NewGuid()), Maro, null, aim, At(1), At(to));
        var up = LookAim.Read("up")!;
        var flag = Assert.Single(Look(Document() with { Clips = [Away(7, up)] }, ReviewKind.LooksAtNobody));
        Assert.Equal((Maro, "Maro looks up and at nobody while speaking."), (flag.Member, flag.Text));
        Assert.InRange(flag.End - flag.Start, 5.5, 6.1);
        Assert.Empty(Look(Document() with { Clips = [Away(4, up)] }, ReviewKind.LooksAtNobody));
        Assert.Empty(Look(Document() with { Clips = [Away(7, new LookAim(null, Bubb))] }, ReviewKind.LooksAtNobody));
        Assert.Empty(Look(Document() with { Clips = [Away(7, LookAim.Camera)] }, ReviewKind.LooksAtNobody));
        // Alone there is nobody to look at.
        Assert.Empty(Look(Document(8, Maro) with { Clips = [Away(7, up)] }, ReviewKind.LooksAtNobody));
    }

    [Fact]
    public void Captions_and_titles_that_are_too_much_are_told_of()
    {
        SceneDocument With(string caption, string title = "") =>
            Document() with
            {
                Lettering = new LetteringDials { HasCaptions = true, Title = title },
                Lines = [Document().Lines[0] with { Captions = new Dictionary<string, string> { [""] = caption } }],
            };
        Assert.Single(Look(With("Mmmmm"), ReviewKind.LongCaption), f => f.Measure.Contains("8.0 s", StringComparison.Ordinal));
        Assert.Empty(Look(With("The first half of it\nand then the second half"), ReviewKind.LongCaption));
        // One word that is wider than the picture, and a title of more rows than there is room for.
        var wide = new string('w', 100);
        Assert.Single(Look(With($"a\n{wide}"), ReviewKind.TextCut), f => f.Text.Contains(wide, StringComparison.Ordinal) && f.IsSerious);
        Assert.Single(Look(With("a\nb", string.Join(' ', Enumerable.Repeat("title", 40))), ReviewKind.TextCut), f => f.Measure == "more than three rows");
        Assert.Empty(Look(With("a\nb", "The Night Shift"), ReviewKind.TextCut));
    }

    [Fact]
    public void A_prop_before_a_face_is_told_of_by_its_name()
    {
        var head = Evaluated(Document()).Stage.HeadsAt(0)[0];
        var box = PropStock.Find("crate")!;
        var middle = (head.Left + head.Right) / 2;
        SceneDocument With(PropPlace place) => Document() with { Props = [new LaidProp(new PropId(Guid.NewGuid()), "crate", place)] };
        var there = new PropPlace(middle, head.Chin) { Size = (head.Right - head.Left) / box.Width * 1.2f };
        var flag = Assert.Single(Look(With(there), ReviewKind.Covered));
        Assert.Contains($"behind the {box.Name.ToLowerInvariant()}", flag.Text, StringComparison.Ordinal);
        Assert.Empty(Look(With(there with { Order = PropPlace.Farthest }), ReviewKind.Covered));
        Assert.Empty(Look(With(there with { X = middle + 500 }), ReviewKind.Covered));
    }

    // The 180 degree line: who stood left of somebody stands left of them after the cut (common practice).
    [Fact]
    public void Two_who_change_sides_over_a_cut_are_told_of()
    {
        EvaluatedScene Scene(float maro, float bubb, string set = "bakery") =>
            Evaluated(
                Document() with
                {
                    Backdrop = set,
                    Members = [.. Document().Members.Select(m => m with { Place = new MemberPlace(m.Id == Maro ? maro : bubb) })],
                }
            );
        var before = Scene(400, 800);
        var flag = Assert.Single(ReviewPass.Across(before, Scene(850, 500)));
        Assert.Equal((ReviewKind.SidesSwapped, "Maro and Bubb change sides over the cut."), (flag.Kind, flag.Text));
        Assert.Empty(ReviewPass.Across(before, Scene(300, 900)));
        // In another place everybody stands as it comes; and whoever stands behind another has no side.
        Assert.Empty(ReviewPass.Across(before, Scene(850, 500, "street")));
        Assert.Empty(ReviewPass.Across(before, Scene(640, 600)));
    }
}
