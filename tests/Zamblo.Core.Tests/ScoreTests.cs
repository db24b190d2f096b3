using FsCheck.Xunit;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

public class ScoreTests
{
    /// <summary>Words with one phone every 80 ms, scaled; a pause of 300 ms after each word that ends in a full stop.</summary>
    private static SpeechAnalysis Say(string text, double scale = 1, double from = 0.4)
    {
        var phones = new List<PhoneSegment> { new(Arpabet.Silence, 0, from) };
        var words = new List<WordSegment>();
        foreach (var token in text.Split(' '))
        {
            var word = token.TrimEnd('.');
            var start = phones[^1].End;
            foreach (var p in TestData.Dictionary.Lookup(word)[0])
                phones.Add(new PhoneSegment(p, phones[^1].End, phones[^1].End + 0.08 * scale));
            words.Add(new WordSegment(word, start, phones[^1].End));
            if (token.EndsWith('.'))
                phones.Add(new PhoneSegment(Arpabet.Silence, phones[^1].End, phones[^1].End + 0.3));
        }
        phones.Add(new PhoneSegment(Arpabet.Silence, phones[^1].End, phones[^1].End + 0.5));
        return new SpeechAnalysis(phones[^1].End, phones, words, [], SpeechSource.Engine);
    }

    private static readonly MouthDials All = new() { Density = 1, Shortest = 0 };

    private static void AssertOrdered(IReadOnlyList<Cue> cues, string because)
    {
        for (var i = 0; i < cues.Count; i++)
        {
            Assert.True(
                cues[i].End > cues[i].Start && cues[i].Peak >= cues[i].Start - 1e-9 && cues[i].Peak <= cues[i].End + 1e-9,
                $"cue {i}: {cues[i]} {because}"
            );
            if (i > 0)
                Assert.True(cues[i].Start >= cues[i - 1].End - 1e-9, $"cue {i} overlaps the one before: {cues[i - 1]} {cues[i]} {because}");
            Assert.InRange(cues[i].Strength, 0, 1.5f);
        }
    }

    [Property(MaxTest = 150)]
    public void Any_edits_leave_cues_in_order_and_taking_them_off_gives_the_start(int seed)
    {
        var random = new System.Random(seed);
        var speech = Say("three loaves are in the oven. the oven is finally hot. please move the flour");
        var automatic = MouthPass.Cues(speech, new MouthDials());
        IReadOnlyList<TouchUp> touches = [];
        var states = new List<IReadOnlyList<TouchUp>> { touches };
        for (var step = 0; step < 25; step++)
        {
            var cues = TouchUps.Apply(automatic, touches);
            if (random.Next(6) == 0)
            {
                var start = random.NextDouble() * (speech.Duration - 0.3);
                touches = [.. touches, CueEdits.Put((MouthShape)random.Next(14), start, start + 0.03 + random.NextDouble() * 0.25)];
            }
            else
            {
                var edit = new CueEdit((CueOperation)random.Next(6), [random.Next(cues.Count), random.Next(cues.Count)])
                {
                    Shape = (MouthShape)random.Next(14),
                };
                edit = edit with { By = edit.Operation == CueOperation.Strength ? 0.3 + random.NextDouble() * 2 : random.NextDouble() * 0.3 - 0.15 };
                touches = CueEdits.Apply(cues, touches, edit, speech.Duration);
            }
            AssertOrdered(TouchUps.Apply(automatic, touches), $"seed {seed}, step {step}");
            states.Add(touches);
        }
        // Every state is a value: going back is taking an older one.
        Assert.Equal(automatic, TouchUps.Apply(automatic, states[0]));
        // And resetting every cue lifts every touch-up.
        var all = TouchUps.Apply(automatic, touches);
        Assert.Empty(CueEdits.Apply(all, touches, new CueEdit(CueOperation.Reset, [.. Enumerable.Range(0, all.Count)]), speech.Duration));
    }

    private static (SpeechAnalysis Speech, TouchUp Touch) RoundHot()
    {
        var speech = Say("the bread is in the oven. it is hot and good");
        var cues = MouthPass.Cues(speech, All);
        var index = cues.ToList().FindIndex(c => c.Phone == "AA");
        var touches = CueEdits.Apply(cues, [], new CueEdit(CueOperation.Shape, [index]) { Shape = MouthShape.Round }, speech.Duration);
        return (speech, CueEdits.Hang(touches[0], speech));
    }

    [Theory]
    [InlineData("the bread is in the oven. it is hot and good", 1.4, 0.9)]
    [InlineData("the bread is now in the oven. it is so hot and good", 0.8, 0.1)]
    [InlineData("it is in the oven. so it is hot and good", 1.0, 0.4)]
    [InlineData("well. the hot bread", 1.0, 0.4)]
    public void A_touch_up_is_found_again_in_another_take_and_after_a_change_of_words(string text, double scale, double from)
    {
        var (_, touch) = RoundHot();
        var other = Say(text, scale, from);
        var moved = PhoneMap.Find(touch, PhoneMap.Sequence(other));
        Assert.NotNull(moved);
        var vowel = other.Phones.Single(p => p.Phone == "AA");
        Assert.Equal(vowel.Start, moved.Start, 0.001);
        Assert.Equal(vowel.End, moved.End, 0.001);
        var cue = TouchUps.Apply(MouthPass.Cues(other, All), [moved]).Single(c => c.Touch == touch.Id);
        Assert.Equal(MouthShape.Round, cue.Shape);
    }

    [Theory]
    [InlineData("the bread is in the oven. it is good")]
    [InlineData("nobody said so")]
    public void A_touch_up_whose_word_is_gone_has_no_home(string text)
    {
        var (_, touch) = RoundHot();
        Assert.Null(PhoneMap.Find(touch, PhoneMap.Sequence(Say(text))));
    }

    [Fact]
    public void Of_several_places_with_the_same_words_the_one_nearest_in_time_is_taken()
    {
        var text = string.Join(". ", Enumerable.Repeat("the bread is in the oven and it is hot and good", 6));
        var speech = Say(text);
        var sequence = PhoneMap.Sequence(speech);
        var third = speech.Words.Where(w => w.Text == "oven").ElementAt(3);
        var touch = CueEdits.Hang(CueEdits.Put(MouthShape.Round, third.Start, third.Start + 0.08), speech);
        // Another take, a little slower throughout.
        var other = Say(text, 1.03);
        var moved = PhoneMap.Find(touch, PhoneMap.Sequence(other))!;
        Assert.Equal(other.Words.Where(w => w.Text == "oven").ElementAt(3).Start, moved.Start, 0.01);
        Assert.Same(touch, PhoneMap.Find(touch, sequence));
    }

    [Fact]
    public void A_mouth_in_a_pause_hangs_on_the_sounds_beside_it()
    {
        var speech = Say("the oven. it is hot");
        var pause = speech.Phones.Single(p => p.Phone == Arpabet.Silence && p.Start > 0.5 && p.End < speech.Duration);
        var touch = CueEdits.Hang(CueEdits.Put(MouthShape.Round, pause.Start + 0.1, pause.Start + 0.2), speech);
        var moved = PhoneMap.Find(touch, PhoneMap.Sequence(Say("the oven. it is hot", 1.2, 1.0)))!;
        Assert.Equal(Say("the oven. it is hot", 1.2, 1.0).Words[1].End + 0.1, moved.Start, 0.02);
        Assert.Null(PhoneMap.Find(touch, PhoneMap.Sequence(Say("please move the flour"))));
    }

    [Fact]
    public void A_word_s_mouth_fits_the_same_word_said_slower()
    {
        var (speech, touch) = RoundHot();
        var slow = Say("my hot bread is old", 2);
        var own = PhoneMap.Sequence(speech).Where(p => p.Word == "hot").ToArray();
        var there = PhoneMap.Sequence(slow).Where(p => p.Word == "hot").ToArray();
        var laid = PhoneMap.Fit(touch, own, there);
        Assert.Equal(there[1].Start, laid.Start, 0.001);
        Assert.Equal(there[1].End, laid.End, 0.001);
    }

    [Fact]
    public void A_mouth_shut_by_hand_is_shut_and_a_moved_one_leaves_no_hole()
    {
        var speech = Say("the oven is finally hot");
        var automatic = MouthPass.Cues(speech, All);
        var shut = CueEdits.Put(MouthShape.Rest, 0.7, 1.5);
        var placed = new PlacedSpeech(speech, 0, All, [shut]);
        var rate = new FrameRate(25);
        var frames = MouthPass.Animate(placed.Cues, All, rate, 0, rate.FramesFor(speech.Duration));
        for (var f = rate.FrameAt(0.7 + 0.25); f < rate.FrameAt(1.5 - 0.15); f++)
            Assert.InRange(frames[f].Openness, 0, 0.02f);

        var index = automatic.ToList().FindIndex(c => c.Start > 0.7 && c.Shape == MouthShape.Tip);
        var moved = TouchUps.Apply(automatic, CueEdits.Apply(automatic, [], new CueEdit(CueOperation.Move, [index]) { By = 0.05 }, speech.Duration));
        for (var i = 1; i < moved.Count; i++)
            Assert.True(moved[i].Start - moved[i - 1].End < 0.013, $"a hole before {moved[i]}");
        Assert.Equal(automatic[index].Start + 0.05, moved.Single(c => c.Touch != Guid.Empty).Start, 0.001);
    }

    [Fact]
    public void A_group_of_cues_moves_as_one()
    {
        var speech = Say("the oven is finally hot");
        var cues = MouthPass.Cues(speech, All);
        int[] group = [.. Enumerable.Range(0, cues.Count).Where(i => cues[i].Start >= speech.Words[3].Start && cues[i].End <= speech.Words[3].End)];
        Assert.True(group.Length > 3);
        foreach (var by in new[] { 0.06, -0.06, 99 })
        {
            var moved = TouchUps
                .Apply(cues, CueEdits.Apply(cues, [], new CueEdit(CueOperation.Move, group) { By = by }, speech.Duration))
                .Where(c => c.Touch != Guid.Empty)
                .ToArray();
            Assert.Equal(group.Select(i => cues[i].Shape), moved.Select(c => c.Shape));
            var shift = moved[0].Start - cues[group[0]].Start;
            Assert.Equal(Math.Min(by, speech.Duration - cues[group[^1]].End), shift, 1e-9);
            for (var i = 0; i < group.Length; i++)
                Assert.Equal(shift, moved[i].End - cues[group[i]].End, 1e-9);
        }
    }

    [Fact]
    public void A_touched_shape_is_drawn_in_held_styles_too()
    {
        var (speech, touch) = RoundHot();
        foreach (var hold in new[] { 1, 2 })
        {
            var dials = All with { HoldFrames = hold };
            var rate = new FrameRate(24);
            var frames = MouthPass.Animate(new PlacedSpeech(speech, 0, dials, [touch]).Cues, dials, rate, 0, rate.FramesFor(speech.Duration));
            Assert.Contains(
                Enumerable.Range(0, frames.Length),
                f => MouthShapes.Nearest(frames[f]) == MouthShape.Round && Math.Abs(rate.TimeOf(f) + dials.Lead - touch.Start) < 0.15
            );
        }
    }

    [Fact]
    public void A_pinned_boundary_stands_where_it_was_put_and_its_neighbours_share_the_room()
    {
        var speech = Say("the oven is hot");
        var oven = speech.Words[1];
        var result = BoundaryPins.Apply(
            speech,
            [new BoundaryPin("oven", oven.Start, 0, oven.Start + 0.04), new BoundaryPin("oven", oven.Start + 0.16, 2, oven.Start + 0.2)]
        );
        Assert.Equal(oven.Start + 0.04, result.Words[1].Start, 1e-9);
        Assert.Equal(oven.Start + 0.04, result.Words[0].End, 1e-9);
        Assert.Contains(result.Phones, p => Math.Abs(p.Start - (oven.Start + 0.2)) < 1e-9);
        Assert.Equal(speech.Phones.Select(p => p.Phone), result.Phones.Select(p => p.Phone));
        Assert.Equal(speech.Words[2], result.Words[2]);
        for (var i = 1; i < result.Phones.Count; i++)
            Assert.Equal(result.Phones[i - 1].End, result.Phones[i].Start, 1e-9);
        // A pin whose word is not there any more does nothing.
        Assert.Equal(speech.Phones, BoundaryPins.Apply(speech, [new BoundaryPin("kitchen", 1, 0, 1.1)]).Phones);
    }

    [Fact]
    public void What_is_marked_as_not_voice_is_silent_and_nothing_else_changes()
    {
        var speech = Say("the oven is hot");
        var word = speech.Words[1];
        var quiet = VoiceMarks.Silence(speech, [new VoiceMark(word.Start, word.End, false)]);
        Assert.DoesNotContain(quiet.Words, w => w.Text == "oven");
        Assert.Equal(3, quiet.Words.Count);
        Assert.Contains(quiet.Phones, p => p.Phone == Arpabet.Silence && Math.Abs(p.Start - word.Start) < 1e-9 && Math.Abs(p.End - word.End) < 1e-9);
        Assert.Equal(speech.Phones.Count(p => p.End <= word.Start), quiet.Phones.Count(p => p.End <= word.Start + 1e-9));
    }

    [Theory]
    [InlineData("OW V AH N", "OW V AH N")]
    [InlineData("ow1 v ah0 n", "OW V AH N")]
    [InlineData("/ˈʌvən/", "AH V AH N")]
    [InlineData("moov", "M UW V")]
    [InlineData("B", "B")]
    public void What_a_word_sounds_like_can_be_written_in_three_ways(string written, string phones) =>
        Assert.Equal(
            phones,
            string.Join(
                ' ',
                WrittenSounds.Read(
                    written,
                    w =>
                        w == "moov"
                            ?
                            [
                                ["M", "UW", "V"],
                            ]
                            : []
                )
            )
        );

    [Fact]
    public void The_test_sentence_visits_every_shape()
    {
        var words = ScriptText.Words(TestSentence.Text).SelectMany(w => w.Spoken);
        var shapes = words
            .Where(w => w != "bubb")
            .SelectMany(w => TestData.Dictionary.Lookup(w)[0])
            .SelectMany(p => MouthShapes.Of(p) is var (a, b) && b is { } second ? new[] { a, second } : [MouthShapes.Of(p).First])
            .Append(MouthShape.Rest);
        Assert.Equal(MouthShapes.All, shapes.Distinct().Order());
    }
}
