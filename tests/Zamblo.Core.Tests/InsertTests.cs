using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Props;

namespace Zamblo.Core.Tests;

/// <summary>A shot of a thing (an insert: common practice; Thompson and Bowen, "Grammar of the Shot", from memory).</summary>
public class InsertTests
{
    private static readonly MemberId Maro = new(Guid.NewGuid());
    private static readonly LaidProp Mug = new(new PropId(Guid.NewGuid()), "mug", new PropPlace(900, 590));
    private static readonly LaidProp Letter = new(new PropId(Guid.NewGuid()), "letter", new PropPlace(430, 590));
    private static readonly WordAnchor Nowhere = new(-1, "", 0, 0, 0);

    private static T At<T>(T clip, double start, double end)
        where T : SpanClip => (T)clip.At(null, 0, null, start, end);

    private static StageScene Stage(PropId? of, params LaneClip[] more)
    {
        var shot = At(new ShotClip(new ClipId(Guid.NewGuid()), Maro, null, Framing.Insert, CameraMove.Still, null, Nowhere, Nowhere) { Prop = of }, 1, 3);
        var document = new SceneDocument("bakery", new FrameRate(25), 1280, 720)
        {
            LeadOut = 6,
            Members = [new SceneMember(Maro, "Maro", "maro", "", "#000000", new MouthDials(), new PerformanceDials())],
            Props = [Mug, Letter],
            Clips = [shot, .. more],
        };
        return SceneEvaluator.Evaluate(document, _ => null, CastLibrary.Shipped()).Stage;
    }

    private static void Holds(StageView view, StageBox box, double aspect = 16.0 / 9)
    {
        Assert.InRange(box.Left, view.X - view.Width / 2, view.X + view.Width / 2);
        Assert.InRange(box.Right, view.X - view.Width / 2, view.X + view.Width / 2);
        Assert.InRange(box.Top, view.Y - view.Width / aspect / 2, view.Y + view.Width / aspect / 2);
        Assert.InRange(box.Bottom, view.Y - view.Width / aspect / 2, view.Y + view.Width / aspect / 2);
    }

    [Fact]
    public void It_holds_its_prop_large_in_any_format_and_only_while_it_lasts()
    {
        var stage = Stage(Mug.Id);
        var box = stage.BoxOfProp(0, 50);
        Assert.InRange(900, box.Left, box.Right);
        foreach (var (width, height) in new[] { (1280, 720), (1080, 1920), (1080, 1080), (2560, 1080) })
        {
            var view = stage.LookAt(50, width, height).Near;
            Holds(view, box, (double)width / height);
            var tall = view.Width * height / width;
            Assert.InRange(Math.Max((box.Bottom - box.Top) / tall, (box.Right - box.Left) / view.Width), 0.3, 0.9);
        }
        Assert.True(stage.LookAt(50, 1280, 720).Near.Width < 0.6f * stage.LookAt(10, 1280, 720).Near.Width);
        Assert.Equal(stage.LookAt(10, 1280, 720), stage.LookAt(90, 1280, 720));
        // It shows nobody for certain.
        Assert.DoesNotContain(stage.Shots.Shots, s => s.Framing == Framing.Insert && s.Shows(0));
    }

    [Fact]
    public void What_is_in_a_hand_is_in_it_wherever_the_hand_goes()
    {
        var stage = Stage(Letter.Id, At(new HoldClip(new ClipId(Guid.NewGuid()), Maro, null, Letter.Id, true, Nowhere, Nowhere), 0.2, 5));
        var standing = Stage(Letter.Id);
        Assert.NotEqual(standing.BoxOfProp(1, 50), stage.BoxOfProp(1, 50));
        for (var frame = 25; frame < 75; frame += 7)
            Holds(stage.LookAt(frame, 1280, 720).Near, stage.BoxOfProp(1, frame));
        // The camera does not follow a hand that trembles.
        Assert.Equal(stage.LookAt(30, 1280, 720).Near, stage.LookAt(70, 1280, 720).Near);
    }

    [Fact]
    public void Of_a_prop_that_is_gone_it_is_the_whole_set()
    {
        var stage = Stage(new PropId(Guid.NewGuid()));
        Assert.Equal(stage.LookAt(10, 1280, 720).Near, stage.LookAt(50, 1280, 720).Near);
        Assert.Equal(stage.LookAt(10, 1280, 720).Near, Stage(null).LookAt(50, 1280, 720).Near);
    }
}
