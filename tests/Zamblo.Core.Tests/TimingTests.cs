using FsCheck.Xunit;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Lines in time, moments that hang on words, and moods that are suggested.</summary>
public class TimingTests
{
    private static LineTime[] Lines(int seed, int count)
    {
        var random = new Random(seed);
        return
        [
            .. Enumerable
                .Range(0, count)
                .Select(_ =>
                {
                    double first = 0.3 * random.NextDouble(),
                        spoken = 0.5 + 3 * random.NextDouble();
                    return new LineTime(
                        first + spoken + 0.4 * random.NextDouble(),
                        first,
                        first + spoken,
                        random.Next(5) == 0 ? 20 * random.NextDouble() : null,
                        random.Next(3) == 0 ? 2 * random.NextDouble() - 0.5 : null
                    );
                }),
        ];
    }

    [Fact]
    public void Lines_that_are_said_at_once_begin_together_and_what_follows_comes_after_both()
    {
        LineTime[] lines = [new(2, 0.1, 1.9), new(4, 0.3, 3.8) { IsTogether = true }, new(1, 0.2, 0.9), new(1, 0, 1) { IsTogether = true }, new(1, 0, 1)];
        var starts = Timing.Lay(lines, 0.5, 0.2);
        double First(int i) => starts[i] + lines[i].First;
        double Last(int i) => starts[i] + lines[i].Last;
        Assert.Equal(First(0), First(1), 9);
        // The longer one ends last, whichever it is.
        Assert.Equal(Last(1) + 0.2, First(2), 9);
        Assert.Equal(First(2), First(3), 9);
        Assert.Equal(Math.Max(Last(2), Last(3)) + 0.2, First(4), 9);
        // A pause that puts a line where it is leaves it there.
        foreach (var i in new[] { 2, 4 })
        {
            var paused = lines.ToArray();
            paused[i] = paused[i] with { Pause = Timing.PauseFor(lines, starts, i, starts[i]) };
            Assert.Equal(starts[i], Timing.Lay(paused, 0.5, 0.2)[i], 9);
        }
        // Whoever begins is nobody's second.
        Assert.Equal(0.5, Timing.Lay([lines[1]], 0.5, 0.2)[0] + lines[1].First, 9);
    }

    [Property]
    public bool Lines_that_follow_are_apart_by_their_pause_from_sound_to_sound(ushort seed, byte count)
    {
        var lines = Lines(seed, 1 + count % 12);
        var starts = Timing.Lay(lines, 0.5, 0.2);
        for (var i = 0; i < lines.Length; i++)
        {
            if (starts[i] < 0)
                return false;
            if (lines[i].Start is { } set)
            {
                if (Math.Abs(starts[i] - set) > 1e-9)
                    return false;
                continue;
            }
            var sound = i == 0 ? 0.5 : starts[i - 1] + lines[i - 1].Last + (lines[i].Pause ?? 0.2);
            if (Math.Abs(starts[i] - Math.Max(0, sound - lines[i].First)) > 1e-9)
                return false;
        }
        return true;
    }

    [Property]
    public bool What_follows_a_longer_take_comes_whole_frames_later(ushort seed, byte count, byte which, ushort longer)
    {
        var rate = new FrameRate(30000, 1001);
        var lines = Lines(seed, 3 + count % 10).Select(l => l with { Start = null }).ToArray();
        var starts = Timing.Lay(lines, 0.5, 0.2, rate);
        var exact = Timing.Lay(lines, 0.5, 0.2);
        var i = which % (lines.Length - 1);
        var by = longer / 65536.0;
        lines[i] = lines[i] with { Duration = lines[i].Duration + by, Last = lines[i].Last + by };
        var later = Timing.Lay(lines, 0.5, 0.2, rate);
        // On a frame, and so much further than it was that all that follow are moved alike.
        return starts.All(s => Math.Abs(rate.TimeOf((int)Math.Round(s * rate.FramesPerSecond)) - s) < 1e-9)
            && Math.Abs(starts[0] - exact[0]) <= rate.FrameSeconds / 2 + 1e-9
            && later[..(i + 1)].SequenceEqual(starts[..(i + 1)])
            && (
                starts.Any(s => s == 0)
                || later[(i + 1)..].Zip(starts[(i + 1)..], (b, a) => Math.Round((b - a) * rate.FramesPerSecond, 6)).Distinct().Count() <= 1
            );
    }

    [Fact]
    public void What_was_cut_out_of_one_recording_goes_on_without_a_seam()
    {
        LineTime[] halves = [new(1.0137, 0.1, 1.0137, null, null), new(0.8, 0, 0.7, null, 0)];
        double[] Lay(string second) => Timing.Lay([halves[0] with { Recording = "a" }, halves[1] with { Recording = second }], 0.5, 0.2, new FrameRate(25));
        var starts = Lay("a");
        Assert.Equal(starts[0] + 1.0137, starts[1], 9);
        Assert.Equal(0, Lay("b")[1] * 25 % 1, 6);
    }

    [Property]
    public bool A_line_that_is_moved_by_its_pause_lands_there_and_what_follows_goes_along(ushort seed, byte count, byte which)
    {
        var lines = Lines(seed, 2 + count % 10).Select(l => l with { Start = null }).ToArray();
        var starts = Timing.Lay(lines, 0.5, 0.2);
        var i = 1 + which % (lines.Length - 1);
        var target = starts[i] + 0.7;
        var pause = Timing.PauseFor(lines, starts, i, target);
        lines[i] = lines[i] with { Pause = pause };
        var moved = Timing.Lay(lines, 0.5, 0.2);
        for (var k = 0; k < lines.Length; k++)
            // Where the floor of 0 held one of them, the others need not move by all of it.
            if (Math.Abs(moved[k] - starts[k] - (k < i ? 0 : 0.7)) > 1e-6 && starts.All(s => s > 0))
                return false;
        return true;
    }

    private static SpeechAnalysis Words(params (string Text, double Start, double End)[] words) =>
        new(
            words[^1].End + 0.5,
            [new(Arpabet.Silence, 0, words[^1].End + 0.5)],
            [.. words.Select(w => new WordSegment(w.Text, w.Start, w.End))],
            [],
            SpeechSource.Script
        );

    [Fact]
    public void A_moment_on_a_word_is_found_again_in_another_take_and_among_other_words()
    {
        var now = Words(("the", 0.2, 0.3), ("oven", 0.3, 0.8), ("is", 0.8, 0.9), ("hot", 0.9, 1.3));
        var anchor = WordAnchor.At(now, 0.55);
        Assert.Equal(0.55, anchor.Find(now), 6);
        Assert.Equal(2.0, anchor.Find(Words(("the", 1, 1.2), ("oven", 1.5, 2.5), ("is", 2.6, 2.7), ("hot", 2.7, 3))), 6);
        // Two ovens: the one in the nearer place.
        Assert.Equal(2.5, anchor.Find(Words(("so", 0, 1), ("and", 1, 2), ("oven", 2, 3), ("that", 3, 4), ("hot", 4, 5), ("oven", 5, 6))), 6);
        // The word is gone: the same share of the take.
        Assert.Equal(0.55 / now.Duration * 3.5, anchor.Find(Words(("quite", 0, 1), ("other", 1, 3))), 6);
        Assert.Equal(0.7, WordAnchor.At(null, 0.7).Find(null), 6);
        // Before the first word and after the last it keeps its distance.
        Assert.Equal(0.1, WordAnchor.At(now, 0.1).Find(now), 6);
        Assert.Equal(1.6, WordAnchor.At(now, 1.6).Find(now), 6);
    }

    [Theory]
    [InlineData("(sadly) The bread is burnt.", Mood.Sadness)]
    [InlineData("What?! Who took the rye?", Mood.Surprise)]
    [InlineData("Ugh, that smells rotten!", Mood.Disgust)]
    [InlineData("Thanks, dear friend. I love this bun.", Mood.Affection)]
    [InlineData("Maybe... I am not sure about that.", Mood.Doubt)]
    [InlineData("The flour is on the scale.", null)]
    public void Words_suggest_moods(string text, Mood? mood) =>
        Assert.Equal(mood, MoodSuggestions.For(text, MouthTests.Say(("AA", 0.3), ("T", 0.1), ("AA", 0.3)), [])?.Mood);

    [Fact]
    public void A_voice_that_is_louder_and_higher_than_usual_suggests_more_than_the_words_do()
    {
        SpeechAnalysis Take(float level, float hz)
        {
            var speech = MouthTests.Say(("AA", 0.5), ("T", 0.1), ("AA", 0.5));
            Array.Fill(speech.LevelsDb, level);
            return speech with { PitchHz = [.. Enumerable.Repeat(hz, 110)] };
        }
        SpeechAnalysis[] usual = [Take(-25, 120), Take(-26, 118)];
        Assert.Null(MoodSuggestions.For("The flour is on the scale.", Take(-25, 119), usual));
        Assert.NotNull(MoodSuggestions.For("The flour is on the scale.", Take(-12, 190), usual));
        Assert.Equal(Mood.Anger, MoodSuggestions.For("The flour is on the scale!", Take(-12, 190), usual)?.Mood);
        Assert.Equal(Mood.Sadness, MoodSuggestions.For("The flour is on the scale.", Take(-38, 85), usual)?.Mood);
    }

    [Property]
    public bool A_long_talk_is_cut_into_scenes_of_some_minutes_in_order(ushort seed)
    {
        var random = new Random(seed);
        var turns = new List<(double Start, double End)>();
        double at = 0,
            length = 60 + 3600 * random.NextDouble();
        while (at < length)
        {
            var end = at + 0.5 + 8 * random.NextDouble();
            turns.Add((at, end));
            at = Math.Max(0, end + (random.Next(20) == 0 ? 3 * random.NextDouble() : 0.6 * random.NextDouble() - 0.15));
        }
        var cuts = SceneCuts.Find(turns);
        if (cuts[0] != 0 || cuts.Zip(cuts.Skip(1)).Any(p => p.Second <= p.First))
            return false;
        for (var i = 1; i < cuts.Count; i++)
        {
            double span = turns[cuts[i] - 1].End - turns[cuts[i - 1]].Start;
            // A turn may end a little after the limit.
            if (span < SceneCuts.Shortest || span > SceneCuts.Longest + 9)
                return false;
        }
        return length < SceneCuts.Shortest ? cuts.Count == 1 : cuts.Count <= 1 + length / SceneCuts.Shortest;
    }

    [Fact]
    public void A_scene_ends_at_the_first_long_pause_after_two_minutes()
    {
        var turns = Enumerable.Range(0, 60).Select(i => (Start: i * 5.0 + (i >= 30 ? 2 : 0), End: i * 5.0 + 4.8 + (i >= 30 ? 2 : 0))).ToArray();
        Assert.Equal([0, 30], SceneCuts.Find(turns));
        Assert.Empty(SceneCuts.Find([]));
    }
}
