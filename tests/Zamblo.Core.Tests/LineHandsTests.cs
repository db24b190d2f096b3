using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Hand work of a line that is cut and joined again.</summary>
public class LineHandsTests
{
    private const double Duration = 6;

    private static readonly SpeechAnalysis Speech = Said("the oven is hot and the flour is late again", 0);

    private static SpeechAnalysis Said(string text, double from)
    {
        var words = text.Split(' ').Select((w, i) => new WordSegment(w, from + i * 0.6 + 0.1, from + i * 0.6 + 0.55)).ToArray();
        return SpeechAnalysis.Silent(Duration) with { Words = words, Source = SpeechSource.Script };
    }

    private static SpeechAnalysis Part(double start, double end) =>
        SpeechAnalysis.Silent(end - start) with
        {
            Words =
            [
                .. Speech
                    .Words.Where(w => (w.Start + w.End) / 2 >= start && (w.Start + w.End) / 2 < end)
                    .Select(w => w with { Start = w.Start - start, End = w.End - start }),
            ],
            Source = SpeechSource.Script,
        };

    private static LineHands Hands(IReadOnlyList<double> at)
    {
        var member = new MemberId(Guid.NewGuid());
        var line = new LineId(Guid.NewGuid());
        return new LineHands(
            "The oven is hot, and the flour is late again!",
            [
                .. at.Select(
                    (t, i) =>
                        new OrderedTouch(
                            i,
                            new TouchUp
                            {
                                Id = Guid.NewGuid(),
                                Kind = TouchKind.Strength,
                                Start = t,
                                End = t + 0.1,
                                Factor = 1.5f,
                            }
                        )
                ),
            ],
            [
                .. at.Select(
                    (t, i) =>
                        i % 2 == 0
                            ? (LaneClip)new GestureClip(new ClipId(Guid.NewGuid()), member, line, "nod", 1, WordAnchor.At(Speech, t), 0.6)
                            : new MoodClip(new ClipId(Guid.NewGuid()), member, line, Mood.Joy, 1, WordAnchor.At(Speech, t), WordAnchor.At(Speech, t + 0.5))
                ),
            ],
            [.. at.Select(t => new VoiceMark(t, t + 0.05, false))],
            [.. at.Select(t => new BoundaryPin("oven", t, 0, t + 0.01))],
            new VoiceCare
            {
                Speed = 1,
                FadeIn = 0.1,
                FadeOut = 0.2,
            }
        );
    }

    [Property(MaxTest = 200)]
    public Property Cut_anywhere_and_joined_again_all_that_hands_did_is_where_it_was() =>
        Prop.ForAll(
            Gen.Choose(0, 5800).Select(ms => ms / 1000.0).ArrayOf(5).ToArbitrary(),
            Gen.Choose(1, 5998).Select(ms => (ms + 0.5) / 1000).ToArbitrary(),
            (places, cut) =>
            {
                var whole = Hands(places.Order().Distinct().ToArray());
                var (first, second) = LineHands.Split(whole, Speech, Duration, cut);
                Assert.Equal(whole.Touches.Count, first.Touches.Count + second.Touches.Count);
                Assert.Equal(whole.Clips.Count, first.Clips.Count + second.Clips.Count);
                Assert.True(LineHands.AreHalves(first.Care, second.Care));
                SpeechAnalysis early = Part(0, cut),
                    late = Part(cut, Duration);
                // In its half every clip is where it was in the whole.
                foreach (var (half, speech, offset) in new[] { (first, early, 0.0), (second, late, cut) })
                foreach (var clip in half.Clips)
                {
                    var (was, _) = whole.Clips.First(c => c.Id == clip.Id).Place(0, Speech);
                    Assert.Equal(was, clip.Place(offset, speech).Start, 6);
                }
                var again = LineHands.Join(first, second, early, late, cut, Duration, isOneSound: true);
                Assert.Equal(whole.Text, again.Text);
                Assert.Equal(whole.Care, again.Care);
                Assert.Equal(whole.Touches.Select(t => t.Touch.Id), again.Touches.Select(t => t.Touch.Id));
                foreach (var (a, b) in whole.Touches.Zip(again.Touches))
                    Assert.Equal(a.Touch.Start, b.Touch.Start, 9);
                foreach (var clip in whole.Clips)
                {
                    var (a, b) = (clip.Place(0, Speech), again.Clips.Single(c => c.Id == clip.Id).Place(0, Speech));
                    Assert.Equal(a.Start, b.Start, 6);
                    Assert.Equal(a.End, b.End, 6);
                }
                Assert.Equal(whole.Marks.Count, again.Marks.Count);
                foreach (var (a, b) in whole.Marks.Zip(again.Marks.OrderBy(m => m.Start)))
                    Assert.Equal((a.Start, a.End), (b.Start, b.End), Close);
                foreach (var (a, b) in whole.Pins.Zip(again.Pins))
                    Assert.Equal(a.Time, b.Time, 9);
            }
        );

    [Property(MaxTest = 200)]
    public Property A_boundary_that_is_moved_loses_no_word_and_no_hand_work_and_back_again_it_is_as_it_was() =>
        Prop.ForAll(
            Gen.Choose(0, 5800).Select(ms => ms / 1000.0).ArrayOf(5).ToArbitrary(),
            Gen.Choose(200, 5798).Select(ms => (ms + 0.5) / 1000).ArrayOf(2).ToArbitrary(),
            (places, cuts) =>
            {
                double was = cuts[0],
                    now = cuts[1];
                var whole = Hands(places.Order().Distinct().ToArray());
                var (first, second) = LineHands.Split(whole, Speech, Duration, was);
                var (a, b) = LineHands.MoveBoundary(first, second, Part(0, was), Part(was, Duration), (was, Duration - was), 0, now - was);
                Assert.Equal(whole.Text, LineSplit.Join(a.Text, b.Text));
                Assert.Equal(LineSplit.Text(whole.Text, Speech.Words, now).Before.TrimEnd(), a.Text.TrimEnd());
                Assert.Equal((first.Care, second.Care), (a.Care, b.Care));
                foreach (var (half, offset, speech) in new[] { (a, 0.0, Part(0, now)), (b, now, Part(now, Duration)) })
                {
                    foreach (var touch in half.Touches)
                        Assert.Equal(whole.Touches.Single(t => t.Touch.Id == touch.Touch.Id).Touch.Start, touch.Touch.Start + offset, 9);
                    foreach (var clip in half.Clips)
                        Assert.Equal(whole.Clips.Single(c => c.Id == clip.Id).Place(0, Speech).Start, clip.Place(offset, speech).Start, 6);
                    foreach (var pin in half.Pins)
                        Assert.Contains(whole.Pins, p => Math.Abs(p.Time - pin.Time - offset) < 1e-9);
                }
                Assert.Equal(whole.Touches.Count, a.Touches.Count + b.Touches.Count);
                Assert.Equal(whole.Clips.Count, a.Clips.Count + b.Clips.Count);
                Assert.Equal(whole.Pins.Count, a.Pins.Count + b.Pins.Count);
                var (c, d) = LineHands.MoveBoundary(a, b, Part(0, now), Part(now, Duration), (now, Duration - now), 0, was - now);
                Assert.Equal((first.Text.TrimEnd(), second.Text), (c.Text.TrimEnd(), d.Text));
                Assert.Equal(first.Touches.Select(t => t.Touch.Id).Order(), c.Touches.Select(t => t.Touch.Id).Order());
                Assert.Equal(first.Clips.Select(x => x.Id.Value).Order(), c.Clips.Select(x => x.Id.Value).Order());
            }
        );

    [Fact]
    public void What_lay_between_two_turns_comes_along()
    {
        // "the oven is" | half a second of nobody | "and the flour..."
        var whole = Hands([1.9, 3.2]);
        var (first, _) = LineHands.Split(whole, Speech, Duration, 1.8);
        var (_, second) = LineHands.Split(whole, Speech, Duration, 2.3);
        var (a, b) = LineHands.MoveBoundary(first, second, Part(0, 1.8), Part(2.3, Duration), (1.8, Duration - 2.3), 0.5, 1.2);
        Assert.Equal("The oven is and the ", a.Text);
        Assert.Equal(3.2, a.Touches[^1].Touch.Start, 9);
        Assert.Empty(b.Touches);
        var (c, d) = LineHands.MoveBoundary(first, second, Part(0, 1.8), Part(2.3, Duration), (1.8, Duration - 2.3), 0.5, -0.7);
        Assert.Equal(("The oven ", "is and the flour is late again!"), (c.Text, d.Text));
        Assert.Equal(3.2 - 1.1, d.Touches[^1].Touch.Start, 9);
    }

    private static readonly IEqualityComparer<(double, double)> Close = EqualityComparer<(double, double)>.Create(
        (a, b) => Math.Abs(a.Item1 - b.Item1) < 1e-9 && Math.Abs(a.Item2 - b.Item2) < 1e-9,
        _ => 0
    );

    [Fact]
    public void Words_are_found_as_words_and_not_within_others()
    {
        WordSegment[] words = [new("a", 0, 1), new("late", 1, 2)];
        Assert.Equal([4, 1, 16, 4], WrittenSpans.Of("Can a chocolate late?", words));
        Assert.Equal("Can a chocolate early?", WrittenSpans.Replace("Can a chocolate late?", words, 1, 1, "early"));
        Assert.Null(WrittenSpans.Replace("Can chocolate?", words, 1, 1, "early"));
        Assert.Equal(("Can a chocolate ", "late?"), LineSplit.Text("Can a chocolate late?", words, 1.2));
    }
}
