using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Tests;

/// <summary>Parts that are off over one line are still while it is said, and as they were in all others.</summary>
public class LineActingTests
{
    private static readonly FrameRate Rate = new(25);

    private static Pose[] Say(LineActing second, float anger = 0.8f)
    {
        var speech = MouthTests.Say(("AA", 0.4), ("T", 0.1), ("AA", 0.4), ("S", 0.2), ("OW", 0.5), ("T", 0.1), ("AA", 0.4));
        var dials = new MouthDials();
        return new Performer(
            new Part
            {
                Lines = [new PlacedSpeech(speech, 1, dials), new PlacedSpeech(speech, 5, second.Over(dials)).With(second)],
                Moods = [new MoodSpan(Mood.Anger, 0, 9, anger, 0.3f)],
            },
            9
        ).Evaluate(Rate, 0, 225);
    }

    [Fact]
    public void What_is_off_is_still_and_the_rest_moves_as_before()
    {
        var plain = Say(new LineActing());
        var (head, face, body) = (Say(new LineActing { Head = 0 }), Say(new LineActing { Face = 0 }), Say(new LineActing { Body = 0 }));
        int from = Rate.FrameAt(5.02),
            to = Rate.FrameAt(7);
        for (var f = from; f < to; f++)
        {
            Assert.Equal((0f, 0f, 0f), (head[f].HeadTurn, head[f].HeadNod, head[f].HeadTilt));
            Assert.Equal((0f, 0f, 0f), (face[f].BrowLeft, face[f].BrowKnit, face[f].Squint));
            Assert.Equal((0f, 0f, 0f), (body[f].Lean, body[f].ArmRight, body[f].ElbowRight));
            Assert.Equal(
                (plain[f].BrowKnit, plain[f].Lean, plain[f].LidLeft, plain[f].Mouth.Openness),
                (head[f].BrowKnit, head[f].Lean, head[f].LidLeft, head[f].Mouth.Openness)
            );
            Assert.Equal((plain[f].HeadTurn, plain[f].Lean, plain[f].LidLeft), (face[f].HeadTurn, face[f].Lean, face[f].LidLeft));
            Assert.Equal((plain[f].HeadTurn, plain[f].BrowKnit), (body[f].HeadTurn, body[f].BrowKnit));
        }
        Assert.Contains(plain[from..to], p => Math.Abs(p.HeadTurn) > 0.5f);
        Assert.Contains(plain[from..to], p => p.BrowKnit > 0.2f);
        // The first line is as it was; and nothing jumps on the way.
        for (var f = 0; f < Rate.FrameAt(4.5); f++)
            Assert.Equal((plain[f].HeadTurn, plain[f].HeadNod, plain[f].Lean), (head[f].HeadTurn, head[f].HeadNod, head[f].Lean));
        for (var f = 1; f < plain.Length; f++)
            Assert.InRange(Math.Abs(head[f].HeadTurn - head[f - 1].HeadTurn), 0, 3f);
    }

    [Fact]
    public void A_mouth_that_is_off_stays_shut_and_half_of_it_opens_half_as_far()
    {
        float Open(Pose[] poses) => poses[Rate.FrameAt(5)..Rate.FrameAt(7.2)].Max(p => p.Mouth.Openness);
        var plain = Open(Say(new LineActing(), 0));
        Assert.True(plain > 0.3f);
        Assert.InRange(Open(Say(new LineActing { Mouth = 0 }, 0)), 0, 0.02f);
        Assert.InRange(Open(Say(new LineActing { Mouth = 0.5f }, 0)), 0.25f * plain, 0.65f * plain);
        // Fewer shapes on this line only.
        Assert.Equal(
            0.1f,
            new LineActing { Density = 0.1f }
                .Over(new MouthDials())
                .Density
        );
        var own = new MouthDials();
        Assert.Same(own, new LineActing { Head = 0 }.Over(own));
    }

    [Fact]
    public void Dials_are_kept_within_their_ranges()
    {
        var wild = new LineActing
        {
            Mouth = 9,
            Density = float.NaN,
            Head = float.PositiveInfinity,
            Face = -2,
            Body = 0.3f,
        }.Clamped();
        Assert.Equal(
            new LineActing
            {
                Mouth = 1.5f,
                Head = 1,
                Face = 0,
                Body = 0.3f,
            },
            wild
        );
    }
}
