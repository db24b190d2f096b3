using Zamblo.Core.Audio;
using Zamblo.Core.Lettering;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Review;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Tests;

/// <summary>Every flag has a scene that is made to show it, and one that must not.</summary>
public class ReviewTests
{
    private static readonly MemberId Maro = new(new Guid(1, 0, 0, new byte[8])),
        Bubb = new(new Guid(2, 0, 0, new byte[8]));

    // A line of so many seconds: half a second of silence, words of "M AA" with a pause in the middle, silence.
    private static SpeechAnalysis Said(double seconds, float confidence = 1, float pauseDb = -70, SpeechSource source = SpeechSource.Script)
    {
        var phones = new List<PhoneSegment> { new(Arpabet.Silence, 0, 0.5) };
        var words = new List<WordSegment>();
        for (var t = 0.5; t < seconds - 0.9; t += 0.5)
        {
            if (Math.Abs(t - seconds / 2) < 0.26)
            {
                phones.Add(new PhoneSegment(Arpabet.Silence, t, t + 0.5));
                continue;
            }
            phones.Add(new PhoneSegment("M", t, t + 0.15, confidence));
            phones.Add(new PhoneSegment("AA", t + 0.15, t + 0.5, confidence));
            words.Add(new WordSegment("ma", t, t + 0.5, confidence));
        }
        phones.Add(new PhoneSegment(Arpabet.Silence, phones[^1].End, seconds));
        var levels = new float[(int)(seconds * 100)];
        foreach (var p in phones)
            for (var i = (int)(p.Start * 100); i < Math.Min(levels.Length, (int)(p.End * 100)); i++)
                levels[i] = p.Phone == Arpabet.Silence ? pauseDb : -20;
        return new SpeechAnalysis(seconds, phones, words, levels, source);
    }

    private static SceneLine Line(int n, MemberId who, double seconds, double? start = null, string? script = "ma ma ma") =>
        new(new LineId(new Guid(n, 0, 0, new byte[8])), who, new TakeId(Guid.NewGuid()), seconds, "", "", new SpeechQuery(script, "en")) { Start = start };

    private static SceneDocument Document(params SceneLine[] lines) =>
        new("bakery", new FrameRate(25), 1280, 720)
        {
            Members =
            [
                new SceneMember(Maro, "Maro", "maro", "", "#000000", new MouthDials(), new PerformanceDials()),
                new SceneMember(Bubb, "Bubb", "bubb", "", "#000000", new MouthDials(), new PerformanceDials { Seed = 2 }),
            ],
            Lines = lines,
        };

    private static ReviewFlag[] Look(SceneDocument document, Func<SceneLine, SpeechAnalysis>? heard = null, Func<PlacedLine, AudioBuffer?>? sound = null)
    {
        var scene = SceneEvaluator.Evaluate(document, l => (heard ?? (x => Said(x.TakeDuration)))(l), TestData.Cast);
        return [.. ReviewPass.Of(new ReviewedScene(scene, sound ?? (_ => null)))];
    }

    private static bool Has(ReviewFlag[] flags, ReviewKind kind) => flags.Any(f => f.Kind == kind);

    private static AudioBuffer Tone(double seconds, float amplitude) =>
        new([.. Enumerable.Range(0, (int)(seconds * 48000)).Select(i => Math.Clamp(amplitude * MathF.Sin(i * 0.06f), -1, 1))], 48000);

    [Fact]
    public void A_good_talk_has_nothing_serious()
    {
        var flags = Look(
            Document(Line(1, Maro, 4), Line(2, Bubb, 4), Line(3, Maro, 6)) with
            {
                Camera = CameraDials.Lively,
            },
            sound: l => Tone(l.Duration, 0.2f)
        );
        Assert.DoesNotContain(flags, f => f.IsSerious);
        Assert.DoesNotContain(
            flags,
            f => f.Kind is ReviewKind.DeadAir or ReviewKind.Overlap or ReviewKind.Noise or ReviewKind.LevelJump or ReviewKind.ShortShot
        );
    }

    // A mouth that a hand has put there.
    private static SceneLine Touched(double start, double end, MouthShape shape) =>
        Line(1, Maro, 4) with
        {
            Touches = [CueEdits.Hang(CueEdits.Put(shape, start, end) with { Id = Guid.NewGuid() }, Said(4))],
        };

    [Fact]
    public void A_mouth_that_a_hand_holds_open_is_seen()
    {
        Assert.False(Has(Look(Document(Line(1, Maro, 4))), ReviewKind.LipsApart));
        // Over the M of the second word.
        Assert.True(Has(Look(Document(Touched(0.9, 1.3, MouthShape.Wide))), ReviewKind.LipsApart));
        // Over a vowel it is another mouth, and no fault.
        Assert.False(Has(Look(Document(Touched(1.2, 1.45, MouthShape.Wide))), ReviewKind.LipsApart));
    }

    [Fact]
    public void A_mouth_that_is_open_in_silence_is_seen_whoever_put_it_there()
    {
        // Half a second before the first sound.
        Assert.True(Has(Look(Document(Touched(0, 0.3, MouthShape.Open))), ReviewKind.OpenInSilence));
        Assert.False(Has(Look(Document(Line(1, Maro, 4))), ReviewKind.OpenInSilence));
    }

    [Fact]
    public void A_mouth_that_chatters_is_seen()
    {
        // The mouth pass smooths what hands put there, so the measure is tried by itself: openings as often as given, for two seconds at 50 frames.
        ReviewFlag[] At(double often) =>
            [
                .. MouthReview.Chatter(
                    [.. Enumerable.Range(0, 100).Select(f => 0.3f - 0.3f * MathF.Cos((float)(f / 50.0 * often * 2 * Math.PI)))],
                    new FrameRate(50),
                    "Maro"
                ),
            ];
        Assert.NotEmpty(At(14));
        // As quick as quick speech (8 syllables a second: Greenberg 1999, from memory).
        Assert.Empty(At(8));
        Assert.Empty(At(0));
    }

    // A head that a hand has moved.
    private static SceneDocument Turned(params double[][] keys)
    {
        var own = new Gesture
        {
            Key = "own",
            Name = "Turn",
            Part = "head",
            Length = keys[^1][0],
            Stroke = 0,
            Tracks = new Dictionary<string, double[][]> { ["headTurn"] = keys },
        };
        var clip = new GestureClip(new ClipId(Guid.NewGuid()), Maro, null, "own", 1, At(1), own.Length) { Own = own, Replaces = true };
        return Document(Line(1, Maro, 8)) with { Clips = [clip] };
    }

    [Fact]
    public void A_head_that_jerks_or_is_turned_away_is_seen()
    {
        Assert.True(Has(Look(Turned([0, 0], [1, 0], [1.02, 28], [2, 28])), ReviewKind.HeadJerk));
        Assert.False(Has(Look(Turned([0, 0], [1, 20], [2, 0])), ReviewKind.HeadJerk));
        Assert.True(Has(Look(Turned([0, 0], [0.6, 30], [4, 30], [4.6, 0])), ReviewKind.TurnedAway));
        Assert.False(Has(Look(Turned([0, 0], [0.6, 15], [4, 15], [4.6, 0])), ReviewKind.TurnedAway));
    }

    [Fact]
    public void A_face_at_the_edge_of_the_picture_is_seen()
    {
        // Maro speaks while half out of the door: the picture of everybody stays where it is.
        WalkClip To(float x) => new(new ClipId(Guid.NewGuid()), Maro, null, x, null, At(0.1), At(1.5));
        Assert.True(Has(Look(Document(Line(1, Maro, 8)) with { Clips = [To(1270)] }), ReviewKind.FaceCut));
        Assert.False(Has(Look(Document(Line(1, Maro, 8)) with { Clips = [To(640)] }), ReviewKind.FaceCut));
    }

    [Fact]
    public void Words_that_are_not_there_are_seen()
    {
        var document = Document(Line(1, Maro, 6));
        Assert.True(Has(Look(document, _ => Said(6, 0.1f)), ReviewKind.OtherWords));
        Assert.False(Has(Look(document), ReviewKind.OtherWords));
        // One word alone is unsure, not another text.
        var one = Said(6);
        one = one with { Words = [.. one.Words.Select((w, i) => i == 2 ? w with { Confidence = 0.1f } : w)] };
        var flags = Look(document, _ => one);
        Assert.True(Has(flags, ReviewKind.UnsureWord));
        Assert.False(Has(flags, ReviewKind.OtherWords));
        // What an engine says of its own words is not doubted.
        Assert.False(Has(Look(document, _ => Said(6, 0.1f, source: SpeechSource.Engine)), ReviewKind.OtherWords));
    }

    [Fact]
    public void Silence_overlap_and_their_absence()
    {
        Assert.True(Has(Look(Document(Line(1, Maro, 4), Line(2, Bubb, 4, start: 12))), ReviewKind.DeadAir));
        Assert.True(Has(Look(Document(Line(1, Maro, 6), Line(2, Bubb, 6, start: 2))), ReviewKind.Overlap));
        var good = Look(Document(Line(1, Maro, 4), Line(2, Bubb, 4)));
        Assert.False(Has(good, ReviewKind.DeadAir) || Has(good, ReviewKind.Overlap));
        // A walk fills a silence.
        var walk = new WalkClip(new ClipId(Guid.NewGuid()), Bubb, null, 900, null, At(6), At(9));
        Assert.False(Has(Look(Document(Line(1, Maro, 4), Line(2, Bubb, 4, start: 12)) with { Clips = [walk] }), ReviewKind.DeadAir));
        Assert.True(Has(Look(Document()), ReviewKind.EmptyScene));
    }

    private static WordAnchor At(double t) => WordAnchor.At(null, t);

    [Fact]
    public void Sound_that_is_cut_off_jumps_or_has_noise_under_it()
    {
        var document = Document(Line(1, Maro, 4), Line(2, Bubb, 4));
        Assert.True(Has(Look(document, sound: l => Tone(l.Duration, 1.6f)), ReviewKind.Clipping));
        Assert.False(Has(Look(document, sound: l => Tone(l.Duration, 0.5f)), ReviewKind.Clipping));
        Assert.True(Has(Look(document, sound: l => Tone(l.Duration, l.Line.Member == Maro ? 0.5f : 0.05f)), ReviewKind.LevelJump));
        Assert.False(Has(Look(document, sound: l => Tone(l.Duration, l.Line.Member == Maro ? 0.3f : 0.2f)), ReviewKind.LevelJump));
        Assert.True(Has(Look(document, l => Said(l.TakeDuration, pauseDb: -32)), ReviewKind.Noise));
        Assert.False(Has(Look(document), ReviewKind.Noise));
    }

    [Fact]
    public void Whoever_speaks_has_to_be_in_the_picture()
    {
        var document = Document(Line(1, Maro, 8), Line(2, Bubb, 4));
        ShotClip Shot(Framing framing, MemberId who, double from, double to) =>
            new(new ClipId(Guid.NewGuid()), who, null, framing, CameraMove.Still, null, At(from), At(to));
        var flags = Look(document with { Clips = [Shot(Framing.Close, Bubb, 0.6, 8)] });
        var flag = Assert.Single(flags, f => f.Kind == ReviewKind.OutOfPicture);
        Assert.True(flag.IsSerious);
        Assert.Equal(Maro, flag.Member);
        Assert.False(Has(Look(document with { Clips = [Shot(Framing.Close, Maro, 0.6, 8)] }), ReviewKind.OutOfPicture));
        Assert.True(Has(Look(document with { Clips = [Shot(Framing.Close, Maro, 2, 2.4)] }), ReviewKind.ShortShot));
        Assert.False(Has(Look(document with { Clips = [Shot(Framing.Close, Maro, 2, 4)] }), ReviewKind.ShortShot));
    }

    [Fact]
    public void A_face_behind_another_is_seen()
    {
        // Bubb hops to where Maro stands, before the counter.
        var x = StageScene.SpreadX(0, 2);
        var walk = new WalkClip(new ClipId(Guid.NewGuid()), Bubb, null, x, null, At(0.1), At(1.2));
        var there = Look(Document(Line(1, Maro, 8)) with { Clips = [walk] });
        var away = Look(Document(Line(1, Maro, 8)));
        Assert.False(Has(away, ReviewKind.Covered));
        // As tall as they are, the jar hides the baker's apron, not his face.
        Assert.False(Has(there, ReviewKind.Covered));
        var two = Document(Line(1, Maro, 8)) with { Members = [.. Document().Members.Select(m => m with { Character = "maro" })], Clips = [walk] };
        Assert.True(Has(Look(two), ReviewKind.Covered));
    }

    [Fact]
    public void Heads_and_lids_are_alive_unless_their_dials_say_no()
    {
        var document = Document(Line(1, Maro, 40));
        Assert.False(Has(Look(document), ReviewKind.HeadStill) || Has(Look(document), ReviewKind.Blinks) || Has(Look(document), ReviewKind.HeadJerk));
        var stone = new PerformanceDials
        {
            Turn = 0,
            Nod = 0,
            Tilt = 0,
            Blinks = 0,
            Expressiveness = 0,
        };
        var flags = Look(document with { Members = [document.Members[0] with { Performance = stone }, document.Members[1]] });
        Assert.True(Has(flags, ReviewKind.HeadStill));
        Assert.True(Has(flags, ReviewKind.Blinks));
    }

    [Fact]
    public void Lines_without_a_voice_members_without_a_line_and_cut_gestures()
    {
        var scene = SceneEvaluator.Evaluate(Document(Line(1, Maro, 4)), l => Said(l.TakeDuration), TestData.Cast);
        var unvoiced = new ReviewedScene(scene, _ => null) { Unvoiced = [(new LineId(Guid.NewGuid()), Bubb, "I am hungry.")] };
        Assert.Contains(ReviewPass.Of(unvoiced), f => f.Kind == ReviewKind.NoTake && f.Text.Contains("I am hungry."));
        Assert.Equal(Bubb, Assert.Single(ReviewPass.Silent([scene])).Member);
        var late = new GestureClip(new ClipId(Guid.NewGuid()), Maro, null, "wave", 1, At(scene.Stage.Duration), 2);
        Assert.True(Has(Look(Document(Line(1, Maro, 4)) with { Clips = [late] }), ReviewKind.CutGesture));
        Assert.False(Has(Look(Document(Line(1, Maro, 4)) with { Clips = [late with { Stroke = At(2) }] }), ReviewKind.CutGesture));
    }

    [Fact]
    public void Captions_that_nobody_can_read_are_seen()
    {
        var fast = new SpeechAnalysis(
            2,
            [new(Arpabet.Silence, 0, 0.5), new("AA", 0.5, 1), new(Arpabet.Silence, 1, 2)],
            [new WordSegment("Donaudampfschifffahrtsgesellschaft", 0.5, 1)],
            new float[200],
            SpeechSource.Script
        );
        var document = Document(Line(1, Maro, 2, script: "Donaudampfschifffahrtsgesellschaft")) with { Lettering = new LetteringDials { HasCaptions = true } };
        var scene = SceneEvaluator.Evaluate(document, _ => fast, TestData.Cast, new Nothing());
        Assert.Contains(ReviewPass.Of(new ReviewedScene(scene, _ => null)), f => f.Kind == ReviewKind.FastCaption);
        var slow = SceneEvaluator.Evaluate(document, _ => Said(2), TestData.Cast, new Nothing());
        Assert.DoesNotContain(ReviewPass.Of(new ReviewedScene(slow, _ => null)), f => f.Kind == ReviewKind.FastCaption);
    }

    private sealed class Nothing : ITypesetter
    {
        public SetText Set(string text, float size) => new("M0 0L1 0L1 1Z", size * text.Length / 2);
    }

    [Fact]
    public void A_flag_keeps_its_name_while_it_stands()
    {
        var document = Document(Line(1, Maro, 6), Line(2, Bubb, 6, start: 2));
        string KeyOf() => Look(document).First(f => f.Kind == ReviewKind.Overlap).Key;
        Assert.Equal(KeyOf(), KeyOf());
    }

    [Fact]
    public void A_voice_over_a_clip_in_which_no_face_is_seen_is_told_and_one_that_is_seen_is_not()
    {
        ReviewFlag[] Looked(Func<int, bool> isSeen)
        {
            var marks = MarksGuess.FromBox(200, 100, 200, 280, PortraitKind.Person);
            var track = new PlateTrack(800, 600, new FrameRate(25), [.. Enumerable.Range(0, 200).Select(i => isSeen(i) ? marks : null)]);
            var plate = new PlateFigure(track, new string('c', 64), new MouthLook(), "Clip", "clip");
            var document = Document(Line(1, Maro, 6, 0)) with
            {
                Backdrop = CastLibrary.Clear,
                Members = [new SceneMember(Maro, "Ada", "clip", "", "#000000", new MouthDials(), new PerformanceDials())],
            };
            var scene = SceneEvaluator.Evaluate(document, l => Said(l.TakeDuration), CastLibrary.With(_ => null, null, key => key == "clip" ? plate : null));
            Assert.True(scene.Stage.IsPicture);
            return [.. ReviewPass.Of(new ReviewedScene(scene, _ => null)).Where(f => f.Kind == ReviewKind.MouthNotSeen)];
        }
        Assert.Empty(Looked(_ => true));
        var flag = Assert.Single(Looked(i => i is < 30 or >= 45));
        Assert.True(flag.IsSerious && flag.Text.StartsWith("Ada", StringComparison.Ordinal));
        Assert.Equal((1.2, 1.8), (flag.Start, flag.End));
    }
}
