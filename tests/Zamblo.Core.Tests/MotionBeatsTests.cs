using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Motion that hangs on the words that it was made over.</summary>
public class MotionBeatsTests
{
    private static SpeechAnalysis Say(params (string Word, double Start, double End)[] words) =>
        MouthTests.Say(("AA", words[^1].End)) with
        {
            Words = [.. words.Select(w => new WordSegment(w.Word, w.Start, w.End))],
        };

    private static readonly SpeechAnalysis First = Say(("mind", 0, 0.5), ("the", 0.5, 0.7), ("oven", 0.7, 1.5), ("Bubb", 2, 2.5));

    // The same words, said slower at the end and after a longer pause.
    private static readonly SpeechAnalysis Second = Say(("mind", 0, 0.5), ("the", 0.5, 0.7), ("oven", 0.7, 1.9), ("Bubb", 3, 4));

    // Rises evenly, from 0 to as many as it has seconds.
    private static readonly Gesture Rising = new()
    {
        Key = "own",
        Name = "Rising",
        Part = "own",
        Length = 2.5,
        Stroke = 1,
        Tracks = new Dictionary<string, double[][]> { ["headTurn"] = [.. Enumerable.Range(0, 26).Select(i => new[] { i / 10.0, i / 10.0 })] },
    };

    private static GestureClip Clip(SpeechAnalysis speech, bool stretches, double start = 0, double end = 2.5)
    {
        var line = new LineId(Guid.NewGuid());
        var clip = new GestureClip(new ClipId(Guid.NewGuid()), new MemberId(Guid.NewGuid()), line, "own", 1, new WordAnchor(-1, "", 0, 0, 0), 0)
        {
            Own = Rising,
            BlendIn = 0,
            BlendOut = 0,
        };
        return (GestureClip)clip.Stretching(stretches).At(line, 0, speech, start, end);
    }

    private static double At(GestureClip clip, SpeechAnalysis speech, double t)
    {
        Pose pose = default;
        Gestures.Apply([clip.Span(0, speech)!], t, ref pose);
        return pose.HeadTurn;
    }

    [Fact]
    public void What_was_made_on_a_word_is_on_it_in_another_take()
    {
        var clip = Clip(First, stretches: true);
        Assert.Equal((0, 2.5), clip.Place(0, First));
        Assert.Equal((0, 4), clip.Place(0, Second));
        // The start, the middle and the end of each word.
        foreach (var (was, now) in First.Words.Zip(Second.Words))
        foreach (var share in (double[])[0.1, 0.5, 0.9])
            Assert.Equal(At(clip, First, was.Start + share * (was.End - was.Start)), At(clip, Second, now.Start + share * (now.End - now.Start)), 0.02);
        // In the take that it was made over nothing is different from what it is without.
        var plain = Clip(First, stretches: false);
        for (var t = 0.05; t < 2.5; t += 0.1)
            Assert.Equal(At(plain, First, t), At(clip, First, t), 0.001);
    }

    [Fact]
    public void By_a_switch_it_keeps_its_seconds()
    {
        var clip = Clip(First, stretches: true).Stretching(false);
        var (start, end) = clip.Place(0, Second);
        Assert.Equal(2.5, end - start, 6);
        Assert.False(clip.Stretches);
    }

    [Fact]
    public void Where_it_is_slow_it_stays_slow_when_it_is_changed_or_moved()
    {
        var clip = Clip(First, stretches: true);
        var (start, end) = clip.Place(0, Second);
        var same = (GestureClip)clip.At(clip.Line, 0, Second, start, end);
        var later = (GestureClip)clip.At(clip.Line, 0, Second, start + 0.3, end + 0.3);
        for (var t = 0.1; t < 3.9; t += 0.1)
        {
            Assert.Equal(At(clip, Second, t), At(same, Second, t), 0.001);
            // Between two words the old pace is kept to what lies between their moments.
            Assert.Equal(At(clip, Second, t), At(later, Second, t + 0.3), 0.15);
        }
    }

    [Fact]
    public void Words_that_are_gone_or_have_changed_places_do_not_turn_it_round()
    {
        var clip = Clip(First, stretches: true);
        foreach (
            var other in (SpeechAnalysis[])
                [
                    Say(("mind", 0, 0.5), ("the", 0.5, 0.7), ("bread", 0.7, 1.9), ("Bubb", 3, 4)),
                    Say(("Bubb", 0, 0.5), ("oven", 0.5, 1), ("the", 1, 1.2), ("mind", 1.2, 2)),
                    Say(("no", 0, 0.4)),
                ]
        )
        {
            var span = clip.Span(0, other)!;
            Assert.True(span.End > span.Start);
            double last = -1;
            for (var share = 0.0; share <= 1; share += 0.01)
            {
                var now = span.ShareAt(share);
                Assert.InRange(now, Math.Max(0, last), 1);
                last = now;
            }
        }
        // Without words, and in what is split and joined again, it is what it was.
        Assert.Equal((0, 2.5), Clip(First, true).Place(0, First));
        var (first, second) = LineHands.Split(new LineHands("mind the oven Bubb", [], [clip], [], [], new()), First, 2.5, 1.7);
        var joined = LineHands.Join(first, second, LineHands.Part(First, 0, 1.7), LineHands.Part(First, 1.7, 2.5), 1.7, 2.5, true);
        var whole = (GestureClip)Assert.Single(joined.Clips);
        for (var t = 0.1; t < 2.4; t += 0.1)
            Assert.Equal(At(clip, First, t), At(whole, First, t), 0.01);
    }

    [Fact]
    public void How_it_goes_on_and_who_faces_whom_name_the_film()
    {
        string Of(GestureSpan span, float facing = 0)
        {
            var member = new Stage.StageMember(Stage.CastLibrary.Shipped().Character("maro"), 640, 700, 1, true, [], new PerformanceDials())
            {
                Gestures = [span],
                Facing = facing,
            };
            return new Stage.StageScene(Stage.CastLibrary.Shipped().Backdrop("paper"), [member], new FrameRate(25), 3).Manifest();
        }
        var even = new GestureSpan(Rising, 0, 2);
        string[] names =
        [
            Of(even),
            Of(even with { Pace = [new(0, 0), new(0.5, 0.4), new(1, 1)] }),
            Of(even with { Pace = [new(0, 0), new(0.5, 0.6), new(1, 1)] }),
            Of(even, 0.5f),
        ];
        Assert.Equal(4, names.Distinct().Count());
    }
}
