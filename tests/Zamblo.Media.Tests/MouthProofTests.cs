using Zamblo.Core;
using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;

namespace Zamblo.Media.Tests;

/// <summary>The mouth on voices whose phone times the engine itself says: what an animator would check.</summary>
public class MouthProofTests
{
    private const string Text =
        "Bubb, please move the big pan of bread. Forty loaves by five, every one of them perfect; who would believe it? My father "
        + "baked, and his father before him.";

    // Fast, plain and slow voices.
    public static TheoryData<string, double> Voices =>
        new()
        {
            { "espeak:en-us", 1 },
            { "espeak:en-gb+f3", 1.5 },
            { "espeak:en-us+m7", 0.7 },
        };

    [Theory]
    [MemberData(nameof(Voices))]
    public async Task Every_lip_contact_of_a_spoken_text_is_seen_and_the_mouth_keeps_its_limits(string voice, double speed)
    {
        var speech = (await Espeak.SpeakAsync(voice, Text, new Delivery(speed))).Speech;
        foreach (var rate in (FrameRate[])[new(24), new(25), new(30)])
        foreach (var hold in (int[])[0, 1, 2])
        {
            var dials = new MouthDials { HoldFrames = hold };
            var (frames, cues) = MouthPass.Evaluate(speech, dials, rate, 0, rate.FramesFor(speech.Duration + 0.5));
            bool Seen(PhoneSegment p, Func<MouthChannels, bool> test)
            {
                int from = Math.Max(0, rate.FrameAt(p.Start - dials.Lead) - 1),
                    to = Math.Min(frames.Length - 1, rate.FrameAt(p.End - dials.Lead) + 1);
                return Enumerable.Range(from, to - from + 1).Any(f => test(frames[f]));
            }
            var where = $"{voice} at {speed}, {rate} frames a second, hold {hold}";
            foreach (var p in speech.Phones)
            {
                if (p.Phone is "P" or "B" or "M")
                    Assert.True(Seen(p, m => m[MouthChannel.Part] == 0), $"{p.Phone} at {p.Start:0.00} stays open: {where}");
                if (p.Phone is "F" or "V")
                    Assert.True(Seen(p, m => m[MouthChannel.Tuck] >= 0.99f), $"{p.Phone} at {p.Start:0.00} has no contact: {where}");
            }
            // Away from the voice the mouth is shut.
            int quiet = 0,
                shut = 0;
            for (var f = 0; f < frames.Length; f++)
            {
                var t = rate.TimeOf(f) + dials.Lead;
                if (speech.Phones.Any(p => p.Phone != Arpabet.Silence && t > p.Start - 0.25 && t < p.End + 0.25))
                    continue;
                quiet++;
                if (frames[f].Openness < 0.02f)
                    shut++;
            }
            Assert.True(shut >= 0.99 * quiet, $"{shut} of {quiet} quiet frames are shut: {where}");
            // So many shapes a second at most (conversation has about 12 phones a second: common practice), and none shorter than it can be seen.
            var spoken = speech.Phones.Where(p => p.Phone != Arpabet.Silence).Sum(p => p.Duration);
            Assert.InRange(cues.Count(c => c.Shape != MouthShape.Rest) / spoken, 3, 17);
            // From one frame to the next no channel of a smooth mouth jumps further than a lip can go in that time: three quarters of its
            // range in a frame of 24, but for the contacts, which are put where they must be (chosen by eye).
            if (hold > 0)
                continue;
            var jumps = 0;
            for (var f = 1; f < frames.Length; f++)
                if (Math.Abs(frames[f][MouthChannel.Jaw] - frames[f - 1][MouthChannel.Jaw]) > 0.75f * 24 / rate.FramesPerSecond)
                    jumps++;
            Assert.True(jumps == 0, $"the jaw jumps {jumps} times: {where}");
        }
    }

    [Fact]
    public async Task The_density_dial_thins_out_without_losing_a_contact()
    {
        var speech = (await Espeak.SpeakAsync("espeak:en-us", Text, new Delivery(1.6))).Speech;
        var counts = new[] { 1f, 0.7f, 0.3f, 0f }.Select(d => MouthPass.Cues(speech, new MouthDials { Density = d, Shortest = 0 })).ToArray();
        for (var i = 1; i < counts.Length; i++)
        {
            Assert.True(counts[i].Count < counts[i - 1].Count);
            Assert.Equal(counts[0].Count(c => c.Shape is MouthShape.Closed), counts[i].Count(c => c.Shape is MouthShape.Closed));
        }
    }
}
