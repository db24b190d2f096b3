using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

public class MouthTests
{
    private static readonly FrameRate[] Rates = [new(24), new(25), new(30), new(30000, 1001)];

    /// <summary>Speech of random phones with lengths from 40 to 160 ms and pauses now and then.</summary>
    private static SpeechAnalysis RandomSpeech(int seed)
    {
        var random = new System.Random(seed);
        var phones = new List<PhoneSegment> { new(Arpabet.Silence, 0, 0.5) };
        for (var i = 0; i < 60; i++)
        {
            var pause = random.Next(10) == 0;
            var length = pause ? 0.3 + random.NextDouble() : 0.04 + 0.12 * random.NextDouble();
            phones.Add(new PhoneSegment(pause ? Arpabet.Silence : Arpabet.Phones[random.Next(Arpabet.Phones.Count)], phones[^1].End, phones[^1].End + length));
        }
        phones.Add(new PhoneSegment(Arpabet.Silence, phones[^1].End, phones[^1].End + 0.8));
        var levels = Enumerable.Range(0, (int)(phones[^1].End * 100)).Select(_ => -30 + 20 * (float)random.NextDouble()).ToArray();
        return new SpeechAnalysis(phones[^1].End, SegmentLists.Tidy(phones, phones[^1].End), [], levels, SpeechSource.Engine);
    }

    [Property(MaxTest = 40)]
    public void Every_closure_is_seen_at_every_frame_rate_in_every_style(int seed)
    {
        var speech = RandomSpeech(seed);
        foreach (var rate in Rates)
        foreach (var hold in new[] { 0, 1, 2 })
        {
            var dials = new MouthDials { HoldFrames = hold };
            var frames = MouthPass.Evaluate(speech, dials, rate, 0, rate.FramesFor(speech.Duration)).Frames;
            foreach (var p in speech.Phones.Where(p => p.Phone is "P" or "B" or "M"))
                Assert.True(
                    Near(frames, rate, p, dials.Lead).Any(m => m[MouthChannel.Part] == 0),
                    $"{p.Phone} at {p.Start:0.000} is open at {rate} fps, hold {hold}, seed {seed}"
                );
            foreach (var p in speech.Phones.Where(p => p.Phone is "F" or "V"))
                Assert.True(
                    Near(frames, rate, p, dials.Lead).Any(m => m[MouthChannel.Tuck] >= 0.99f),
                    $"{p.Phone} at {p.Start:0.000} has no contact at {rate} fps, hold {hold}, seed {seed}"
                );
        }
    }

    // The frames that show a phone, with one frame of grace on each side where a neighbour needs its own contact.
    private static IEnumerable<MouthChannels> Near(MouthChannels[] frames, FrameRate rate, PhoneSegment p, double lead)
    {
        int from = rate.FrameAt(p.Start - lead) - 1,
            to = rate.FrameAt(p.End - lead) + 2;
        for (var f = Math.Max(0, from); f <= Math.Min(frames.Length - 1, to); f++)
            yield return frames[f];
    }

    [Fact]
    public void A_long_closure_is_seen_on_two_frames()
    {
        foreach (var rate in Rates)
            for (var shift = 0; shift < 20; shift++)
            {
                var start = 1 + shift * 0.003;
                var speech = Say(("AA", 0.2), ("P", 0.09), ("AA", 0.2));
                var frames = MouthPass.Evaluate(speech, new MouthDials(), rate, -start, rate.FramesFor(3)).Frames;
                Assert.True(frames.Count(m => m[MouthChannel.Press] > 0.65f) >= 2);
            }
    }

    [Fact]
    public void The_mouth_is_at_rest_before_the_first_sound_and_well_after_the_last()
    {
        var speech = Say(("SIL", 1), ("HH", 0.08), ("AA", 0.25), ("P", 0.08), ("IY", 0.2), ("SIL", 1));
        var rate = new FrameRate(50);
        var frames = MouthPass.Evaluate(speech, new MouthDials(), rate, 0, rate.FramesFor(speech.Duration)).Frames;
        for (var f = 0; f < frames.Length; f++)
        {
            // 120 ms from rest to the first sound and 250 ms back, plus the lead.
            var t = rate.TimeOf(f) + 0.03;
            if (t < 1 - 0.13 || t > speech.Duration - 1 + 0.27)
                Assert.InRange(frames[f].Openness, 0, 0.02f);
        }
        Assert.True(frames.Max(m => m.Openness) > 0.5f);
    }

    [Fact]
    public void A_vowel_opens_the_jaw_in_the_order_of_the_handbooks()
    {
        // Open vowels have the lowest jaw, close vowels the highest (IPA Handbook, 1999, the vowel quadrilateral): AA > EH > IY and UW.
        float Jaw(string phone)
        {
            var frames = MouthPass.Evaluate(Say(("T", 0.08), (phone, 0.25), ("T", 0.08)), new MouthDials(), new FrameRate(100), 0, 41).Frames;
            return frames.Max(m => m[MouthChannel.Jaw]);
        }
        Assert.True(Jaw("AA") > Jaw("EH") + 0.1f);
        Assert.True(Jaw("EH") > Jaw("IY") + 0.1f);
        Assert.True(Jaw("AO") > Jaw("UW") + 0.1f);
    }

    [Fact]
    public void Rounding_begins_before_the_round_vowel()
    {
        // Anticipatory coarticulation: lips round during the consonants before a rounded vowel (Cohen and Massaro 1993).
        float SpreadOfS(string vowel)
        {
            var frames = MouthPass
                .Evaluate(Say(("SIL", 0.5), ("S", 0.1), (vowel, 0.25), ("SIL", 0.5)), new MouthDials { Lead = 0 }, new FrameRate(100), 0, 130)
                .Frames;
            return frames[58][MouthChannel.Spread];
        }
        Assert.True(SpreadOfS("UW") < SpreadOfS("IY") - 0.3f);
    }

    [Fact]
    public void A_shout_opens_wider_than_a_whisper()
    {
        var phones = Say(("T", 0.1), ("AA", 0.3), ("T", 0.1), ("AA", 0.3), ("T", 0.1));
        var levels = Enumerable.Range(0, 90).Select(i => i < 45 ? -45f : -10f).ToArray();
        var frames = MouthPass.Evaluate(phones with { LevelsDb = levels }, new MouthDials(), new FrameRate(50), 0, 45).Frames;
        Assert.True(frames[..22].Max(m => m[MouthChannel.Jaw]) < frames[22..].Max(m => m[MouthChannel.Jaw]) * 0.75f);
    }

    [Property(MaxTest = 30)]
    public void Channels_stay_in_range_and_do_not_jump(int seed)
    {
        var speech = RandomSpeech(seed);
        var rate = new FrameRate(60);
        var frames = MouthPass.Evaluate(speech, new MouthDials(), rate, 0, rate.FramesFor(speech.Duration)).Frames;
        foreach (var m in frames)
            for (var c = 0; c < MouthChannels.Count; c++)
                Assert.InRange(m[c], c is (int)MouthChannel.Spread ? -1 : 0, 1);
        // The jaw of a real speaker stays under about 1.5 openings a tenth of a second; enforced contacts may be faster.
        for (var f = 1; f < frames.Length; f++)
            Assert.InRange(Math.Abs(frames[f][MouthChannel.Jaw] - frames[f - 1][MouthChannel.Jaw]), 0, 0.6f);
    }

    [Property(MaxTest = 30)]
    public void The_density_dial_thins_out_and_never_takes_a_closure(int seed)
    {
        var speech = RandomSpeech(seed);
        var full = MouthPass.Cues(speech, new MouthDials { Density = 1 });
        var thin = MouthPass.Cues(speech, new MouthDials { Density = 0 });
        Assert.True(thin.Count <= full.Count);
        foreach (var lips in full.Where(c => c.Shape is MouthShape.Closed or MouthShape.Tuck))
            Assert.Contains(thin, c => c.Shape == lips.Shape && c.Start <= lips.Peak && c.End >= lips.Peak);
        Assert.All(thin.Zip(thin.Skip(1)), p => Assert.True(p.First.Start < p.Second.Start));
    }

    [Fact]
    public void Shifting_the_take_shifts_the_mouth()
    {
        var speech = RandomSpeech(5);
        var rate = new FrameRate(25);
        var a = MouthPass.Evaluate(speech, new MouthDials(), rate, 0, 100).Frames;
        var b = MouthPass.Evaluate(speech, new MouthDials(), rate, -1, 125).Frames;
        for (var f = 0; f < 100; f++)
        for (var c = 0; c < MouthChannels.Count; c++)
            Assert.Equal(a[f][c], b[f + 25][c], 4);
    }

    [Theory]
    [InlineData("P", "Closed")]
    [InlineData("V", "Tuck")]
    [InlineData("DH", "Tongue")]
    [InlineData("NG", "Back")]
    [InlineData("CH", "Push")]
    [InlineData("ER", "Curl")]
    [InlineData("IY", "Wide")]
    [InlineData("W", "Pucker")]
    public void Phones_are_grouped_as_the_visemes_of_MPEG_4(string phone, string shape) =>
        // ISO/IEC 14496-2, visemes 1 to 14 (groups from memory).
        Assert.Equal(shape, MouthShapes.Of(phone).First.ToString());

    [Fact]
    public void Each_shape_is_nearest_to_itself() => Assert.All(MouthShapes.All, s => Assert.Equal(s, MouthShapes.Nearest(MouthShapes.TargetOf(s))));

    internal static SpeechAnalysis Say(params (string Phone, double Seconds)[] phones)
    {
        double at = 0;
        var segments = new List<PhoneSegment>();
        foreach (var (phone, seconds) in phones)
        {
            segments.Add(new PhoneSegment(phone, at, at + seconds));
            at += seconds;
        }
        return new SpeechAnalysis(at, segments, [], Enumerable.Repeat(-20f, (int)(at * 100) + 1).ToArray(), SpeechSource.Engine);
    }

    [Fact]
    public void Each_shape_has_a_strength_of_its_own_and_short_shapes_give_way()
    {
        var speech = Say(("AA", 0.2), ("T", 0.06), ("IY", 0.2), ("K", 0.12), ("UW", 0.2));
        var usual = MouthPass.Cues(speech, new MouthDials { Dynamics = 0 });
        var open = MouthPass.Cues(
            speech,
            new MouthDials
            {
                Dynamics = 0,
                ShapeStrengths = new Dictionary<MouthShape, float> { [MouthShape.Open] = 0.5f },
            }
        );
        Assert.Equal(0.5f * usual.Single(c => c.Shape == MouthShape.Open).Strength, open.Single(c => c.Shape == MouthShape.Open).Strength, 3);
        Assert.Equal(usual.Single(c => c.Shape == MouthShape.Wide).Strength, open.Single(c => c.Shape == MouthShape.Wide).Strength);
        // 60 ms of T are under two frames at 24 a second, 120 ms of K are not.
        Assert.DoesNotContain(usual, c => c.Shape == MouthShape.Tip);
        Assert.Contains(usual, c => c.Shape == MouthShape.Back);
        Assert.Contains(MouthPass.Cues(speech, new MouthDials { Shortest = 0, Density = 1 }), c => c.Shape == MouthShape.Tip);
    }
}
