using FsCheck.Xunit;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>Gaze, listening, moods and gestures.</summary>
public class ActingTests
{
    private static readonly FrameRate Rate = new(25);

    // Phrases of two seconds with short pauses; the pitch may rise at the end.
    private static PlacedSpeech Turn(double start, double seconds, bool rises = false)
    {
        var phones = new List<(string, double)> { ("M", 0.06) };
        double at = 0.06;
        while (at < seconds - 0.3)
        {
            if (at % 2.3 > 2.05)
            {
                phones.Add(("SIL", 0.3));
                at += 0.3;
            }
            phones.Add(("AA", 0.14));
            phones.Add(("P", 0.08));
            at += 0.22;
        }
        phones.Add(("AA", 0.4));
        var speech = MouthTests.Say([.. phones]);
        var pitch = Enumerable.Repeat(120f, (int)(100 * speech.Duration)).ToArray();
        if (rises)
            for (var i = 1; i <= 30; i++)
                pitch[^i] = 170 - i;
        return new PlacedSpeech(speech with { PitchHz = pitch }, start, new MouthDials());
    }

    // Two who talk by turns of about six seconds.
    private static (List<PlacedSpeech> A, List<PlacedSpeech> B) Conversation(double seconds)
    {
        var (a, b) = (new List<PlacedSpeech>(), new List<PlacedSpeech>());
        double at = 0.5;
        for (var n = 0; at < seconds - 8; n++)
        {
            var turn = Turn(at, 5 + n % 3, n % 4 == 1);
            (n % 2 == 0 ? a : b).Add(turn);
            at = turn.End + 0.2;
        }
        return (a, b);
    }

    [Fact]
    public void Speakers_and_listeners_look_at_each_other_as_people_do()
    {
        // Argyle and Cook 1976 (from memory): a speaker looks at the listener about 40 % of the time, a listener at the speaker about 75 %.
        var (a, b) = Conversation(120);
        double speaking = 0,
            speakingAt = 0,
            listening = 0,
            listeningAt = 0;
        for (var seed = 0; seed < 10; seed++)
        {
            var one = new Performer(
                new Part
                {
                    Lines = a,
                    Partners = [new Partner(0.7f, b)],
                    Dials = new PerformanceDials { Seed = seed },
                },
                120
            );
            for (var t = 1.0; t < 110; t += 0.05)
            {
                if (a.Exists(l => t > l.Start && t < l.End))
                {
                    speaking++;
                    if (one.LooksAt(t) == 0)
                        speakingAt++;
                }
                else if (b.Exists(l => t > l.Start && t < l.End))
                {
                    listening++;
                    if (one.LooksAt(t) == 0)
                        listeningAt++;
                }
            }
        }
        Assert.InRange(speakingAt / speaking, 0.3, 0.52);
        Assert.InRange(listeningAt / listening, 0.65, 0.87);
    }

    [Fact]
    public void A_listener_turns_to_who_begins_to_speak_and_never_opens_the_mouth()
    {
        var b = new List<PlacedSpeech> { Turn(3, 5), Turn(9, 4) };
        var c = new List<PlacedSpeech> { Turn(14, 5) };
        for (var seed = 0; seed < 20; seed++)
        {
            var one = new Performer(
                new Part
                {
                    Partners = [new Partner(-0.7f, b), new Partner(0.7f, c)],
                    Dials = new PerformanceDials { Seed = seed },
                },
                20
            );
            var poses = one.Evaluate(Rate, 0, 500);
            Assert.All(poses, p => Assert.Equal(0, p.Mouth.Openness));
            // Within a second of the first word the speaker has been looked at.
            Assert.Contains(Enumerable.Range(0, 20), i => one.LooksAt(3 + 0.05 * i) == 0);
            Assert.Contains(Enumerable.Range(0, 20), i => one.LooksAt(14 + 0.05 * i) == 1);
        }
    }

    [Fact]
    public void A_listener_nods_after_phrases_and_raises_the_brows_at_a_question()
    {
        var asks = Turn(1, 4, rises: true);
        float Brow(PlacedSpeech line, float listening)
        {
            var dials = new PerformanceDials
            {
                Brows = 1,
                Listening = listening,
                Gaze = 0,
            };
            var poses = new Performer(new Part { Partners = [new Partner(0.6f, [line])], Dials = dials }, 10).Evaluate(Rate, 0, 250);
            var at = Rate.FrameAt(line.End + 0.2);
            return poses[at].BrowLeft + poses[at].BrowRight;
        }
        Assert.True(Brow(asks, 1) > Brow(Turn(1, 4), 1) + 0.5f);
        Assert.True(Math.Abs(Brow(asks, 0)) < 0.3f);
        // Nods: deeper heads after the others' phrases than while they speak.
        double after = 0,
            during = 0;
        var says = Turn(1, 4);
        for (var seed = 0; seed < 40; seed++)
        {
            var still = new PerformanceDials
            {
                Seed = seed,
                Gaze = 0,
                Tilt = 0,
            };
            var poses = new Performer(new Part { Partners = [new Partner(0.6f, [says])], Dials = still }, 10).Evaluate(Rate, 0, 250);
            after += poses[Rate.FrameAt(says.End + 0.4)].HeadNod;
            during += poses[Rate.FrameAt(says.Start + 1.2)].HeadNod;
        }
        Assert.True(after > during + 20);
    }

    [Fact]
    public void Who_is_interrupted_raises_the_brows_and_looks()
    {
        var own = Turn(1, 6);
        var other = Turn(4, 3);
        var one = new Performer(new Part { Lines = [own], Partners = [new Partner(0.8f, [other])] }, 10);
        Assert.Contains(Enumerable.Range(0, 14), i => one.LooksAt(4 + 0.05 * i) == 0);
        var poses = one.Evaluate(Rate, 0, 250);
        Assert.True(poses[Rate.FrameAt(4.3)].BrowLeft > 0.5f);
    }

    [Fact]
    public void Lips_that_meet_still_meet_under_every_mood()
    {
        var line = Turn(0.5, 6);
        var plain = new Performer(new Part { Lines = [line] }, 7).Evaluate(Rate, 0, 175);
        Assert.True(plain.Count(p => p.Mouth.Openness == 0) > 20);
        foreach (var mood in Moods.All)
        {
            var under = new Performer(new Part { Lines = [line], Moods = [new MoodSpan(mood, 0, 7, 1)] }, 7).Evaluate(Rate, 0, 175);
            for (var f = 0; f < 175; f++)
            {
                // At rest the mood has the mouth: a grin, a gasp. Near a sound nobody has it but the sound.
                if (!Enumerable.Range(Math.Max(0, f - 2), Math.Min(5, 175 - f)).Any(g => plain[g].Mouth.Openness > 0 || plain[g].Mouth[MouthChannel.Press] > 0))
                    continue;
                Assert.Equal(plain[f].Mouth.Openness, under[f].Mouth.Openness, 0.004f);
                Assert.Equal(plain[f].Mouth[MouthChannel.Tuck], under[f].Mouth[MouthChannel.Tuck], 4);
            }
        }
    }

    [Fact]
    public void Each_mood_has_a_face_of_its_own_that_grows_with_its_intensity()
    {
        float[] Face(Mood mood, float intensity)
        {
            var p = new Performer(
                new Part
                {
                    Moods = [new MoodSpan(mood, 0, 4, intensity)],
                    Dials = new PerformanceDials { Blinks = 0 },
                },
                4
            ).Evaluate(Rate, 50, 1)[0];
            return
            [
                p.BrowLeft,
                p.BrowRight,
                p.BrowKnit,
                2 * p.LidLeft,
                p.Mouth[MouthChannel.CornerLeft],
                p.Mouth[MouthChannel.CornerRight],
                p.HeadNod / 10,
                p.HeadTilt / 10,
            ];
        }
        float Distance(float[] a, float[] b) => MathF.Sqrt(a.Zip(b, (x, y) => (x - y) * (x - y)).Sum());
        var calm = Face(Mood.Neutral, 1);
        foreach (var a in Moods.All)
        {
            Assert.True(Distance(Face(a, 1), calm) > 0.5f, a.ToString());
            Assert.True(Distance(Face(a, 1), calm) > Distance(Face(a, 0.4f), calm), a.ToString());
            foreach (var b in Moods.All)
                if (a != b)
                    Assert.True(Distance(Face(a, 1), Face(b, 1)) > 0.3f, $"{a} and {b}");
        }
    }

    [Property]
    public bool Moods_mix_by_shares_whatever_their_order(ushort seed, byte count)
    {
        var random = new Random(seed);
        var spans = Enumerable
            .Range(0, 1 + count % 6)
            .Select(_ => new MoodSpan((Mood)random.Next(12), 5 * random.NextDouble(), 5 + 5 * random.NextDouble(), (float)random.NextDouble()))
            .ToArray();
        for (var t = 0.0; t < 10; t += 0.1)
        {
            var mix = Moods.MixAt(spans, t);
            var other = Moods.MixAt([.. spans.Reverse()], t);
            if (Math.Abs(mix.Brows - other.Brows) > 1e-4 || Math.Abs(mix.Corners - other.Corners) > 1e-4)
                return false;
            if (Math.Abs(mix.Brows) > 1.001 || Math.Abs(mix.Corners) > 1.001)
                return false;
            // No jump from one frame of a fast film to the next.
            if (Math.Abs(Moods.MixAt(spans, t + 0.002).Brows - mix.Brows) > 0.05)
                return false;
        }
        return true;
    }

    [Fact]
    public void The_library_has_thirty_gestures_and_more_that_start_and_end_at_rest()
    {
        Assert.True(Gestures.All.Count >= 30);
        Assert.Equal(Gestures.All.Count, Gestures.All.Select(g => g.Key).Distinct().Count());
        foreach (var g in Gestures.All)
        {
            Assert.InRange(g.Stroke, 0.05, g.Length);
            Assert.Contains(g.Part, (string[])["face", "head", "hands", "body"]);
            Assert.All(g.Moods, m => Assert.True(Enum.TryParse<Mood>(m, true, out _), m));
            foreach (var (channel, keys) in g.Tracks)
            {
                Assert.Contains(channel, Gestures.ChannelNames);
                Assert.Equal([0, 0], keys[0]);
                Assert.Equal([g.Length, 0], keys[^1]);
                for (var i = 1; i < keys.Length; i++)
                    Assert.True(keys[i][0] > keys[i - 1][0], $"{g.Key} {channel}");
            }
            // Speeds that a head can reach; arms and feet are faster.
            for (var t = 0.0; t < g.Length; t += 0.01)
                foreach (var channel in (string[])["headTurn", "headNod", "headTilt"])
                    if (g.Tracks.TryGetValue(channel, out var keys))
                        Assert.InRange((Keys.At(keys, t + 0.01) - Keys.At(keys, t)) * 100, -200, 200);
        }
    }

    [Fact]
    public void A_curve_goes_through_its_keys_and_never_beyond_them()
    {
        var random = new Random(6);
        for (var round = 0; round < 200; round++)
        {
            var t = 0.0;
            var keys = Enumerable.Range(0, 2 + random.Next(6)).Select(_ => new[] { t += 0.05 + random.NextDouble(), 20 * random.NextDouble() - 10 }).ToArray();
            foreach (var k in keys)
                Assert.Equal(k[1], Keys.At(keys, k[0]), 6);
            for (var i = 0; i + 1 < keys.Length; i++)
            for (var x = 0.0; x < 1; x += 0.07)
                Assert.InRange(
                    Keys.At(keys, keys[i][0] + x * (keys[i + 1][0] - keys[i][0])),
                    Math.Min(keys[i][1], keys[i + 1][1]) - 1e-9,
                    Math.Max(keys[i][1], keys[i + 1][1]) + 1e-9
                );
        }
    }

    [Fact]
    public void Gestures_blend_without_a_jump_whatever_their_order_over_cuts_loops_and_overlaps()
    {
        var random = new Random(8);
        for (var round = 0; round < 300; round++)
        {
            var spans = Enumerable
                .Range(0, 1 + random.Next(4))
                .Select(_ =>
                {
                    var start = 2 * random.NextDouble();
                    return new GestureSpan(
                        Gestures.All[random.Next(Gestures.All.Count)],
                        start,
                        start + 0.8 + 2 * random.NextDouble(),
                        (float)(0.5 + random.NextDouble()),
                        random.Next(2) == 0,
                        1 + random.Next(3),
                        0.3 * random.NextDouble(),
                        0.7 + 0.3 * random.NextDouble(),
                        0.15,
                        0.2
                    );
                })
                .ToArray();
            // A cut gesture that is looped has a seam: only whole ones are looped here.
            spans = [.. spans.Select(s => s.Loops > 1 ? s with { From = 0, To = 1 } : s)];
            Pose last = default;
            for (var t = 0.0; t < 5; t += 0.002)
            {
                Pose a = Pose.Neutral,
                    b = Pose.Neutral;
                Gestures.Apply(spans, t, ref a);
                Gestures.Apply([.. spans.Reverse()], t, ref b);
                Assert.Equal(a.ArmRight, b.ArmRight, 0.01f);
                Assert.Equal(a.HeadNod, b.HeadNod, 0.01f);
                if (t > 0)
                {
                    // A cheer three times as fast as it is lifts an arm by some 10 degrees in 2 ms.
                    Assert.InRange(a.ArmRight - last.ArmRight, -12, 12);
                    Assert.InRange(a.HeadTurn - last.HeadTurn, -2, 2);
                }
                last = a;
            }
        }
    }

    [Fact]
    public void A_gesture_winds_up_and_follows_through_and_holds_where_it_did()
    {
        var point = Gestures.Find("point")!;
        float Arm(double t, float swing, bool performed = false)
        {
            var pose = Pose.Neutral;
            Gestures.Apply([new GestureSpan(point, 0, 1.5, BlendIn: 0, BlendOut: 0, Replaces: performed)], t, ref pose, swing);
            return pose.ArmRight;
        }
        // Back before it goes, beyond as it arrives.
        Assert.True(Arm(0.03, 1) < Arm(0.03, 0) - 1, $"{Arm(0.03, 0)} {Arm(0.03, 1)}");
        var most = Enumerable.Range(0, 150).Max(i => Arm(i / 100.0, 1));
        Assert.InRange(most, 74, 90);
        Assert.Equal(72, Enumerable.Range(0, 150).Max(i => Arm(i / 100.0, 0)), 1f);
        // In the middle of what it holds it is as it was; twice the dial is twice as far.
        Assert.Equal(Arm(0.7, 0), Arm(0.7, 1), 0.6f);
        Assert.Equal(2 * (Arm(0.4, 1) - Arm(0.4, 0)), Arm(0.4, 2) - Arm(0.4, 0), 0.01f);
        Assert.Equal(Arm(0.3, 0, true), Arm(0.3, 1, true));
    }

    [Fact]
    public void A_mirrored_gesture_is_the_same_on_the_other_side_and_a_stretched_one_takes_longer()
    {
        var point = Gestures.Find("point")!;
        Pose a = Pose.Neutral,
            b = Pose.Neutral,
            slow = Pose.Neutral;
        Gestures.Apply([new GestureSpan(point, 0, 1.5)], 0.5, ref a);
        Gestures.Apply([new GestureSpan(point, 0, 1.5, Mirror: true)], 0.5, ref b);
        Gestures.Apply([new GestureSpan(point, 0, 3)], 1.0, ref slow);
        Assert.Equal((a.ArmRight, a.ArmLeft, a.HeadTurn), (b.ArmLeft, b.ArmRight, -b.HeadTurn));
        Assert.Equal(a.ArmRight, slow.ArmRight, 3);
        Assert.Equal(0.5, new GestureSpan(point, 0, 3).Speed, 6);
    }

    [Fact]
    public void A_steady_head_stays_within_two_degrees_and_expressiveness_widens_motion()
    {
        var line = Turn(0.5, 20);
        float Reach(PerformanceDials dials) =>
            new Performer(new Part { Lines = [line], Dials = dials }, 21)
                .Evaluate(Rate, 0, 500)
                .Max(p => Math.Abs(p.HeadTurn) + Math.Abs(p.HeadNod) + Math.Abs(p.HeadTilt));
        foreach (
            var p in new Performer(
                new Part
                {
                    Lines = [line],
                    Moods = [new MoodSpan(Mood.Sadness, 0, 20, 1)],
                    Dials = new PerformanceDials { IsSteady = true, Expressiveness = 2 },
                },
                21
            ).Evaluate(Rate, 0, 500)
        )
        {
            Assert.InRange(p.HeadTurn, -2, 2);
            Assert.InRange(p.HeadNod, -2, 2);
            Assert.InRange(p.HeadTilt, -2, 2);
        }
        Assert.True(Reach(new PerformanceDials { Expressiveness = 2, Gaze = 0 }) > 1.5f * Reach(new PerformanceDials { Expressiveness = 0.5f, Gaze = 0 }));
    }

    [Fact]
    public void Most_of_the_heads_motion_is_slower_than_three_hertz_and_goes_with_the_voice()
    {
        // Head motion in speech lies under 3 Hz and follows pitch (Yehia, Kuratate and Vatikiotis-Bateson 2002; figures from memory).
        var line = Turn(0.5, 40);
        for (var i = 0; i < line.Speech.PitchHz.Length; i++)
            line.Speech.PitchHz[i] = 120 * MathF.Pow(2, 0.25f * MathF.Sin(i / 60f));
        var poses = new Performer(new Part { Lines = [line] }, 42).Evaluate(Rate, 0, 1024);
        double slow = 0,
            all = 0;
        var x = poses.Select(p => (double)p.HeadNod).ToArray();
        var mean = x.Average();
        for (var k = 1; k < 512; k++)
        {
            var sum = System.Numerics.Complex.Zero;
            for (var n = 0; n < 1024; n++)
                sum += (x[n] - mean) * System.Numerics.Complex.Exp(new(0, -2 * Math.PI * k * n / 1024));
            var power = sum.Magnitude * sum.Magnitude;
            all += power;
            if (k * 25.0 / 1024 < 3)
                slow += power;
        }
        Assert.True(slow > 0.85 * all, $"{slow / all:0.00}");
        // The head goes up (less nod) where the pitch does.
        var pitch = Enumerable.Range(0, 1024).Select(f => (double)line.Prosody.PitchAt(Rate.TimeOf(f) - 0.5)).ToArray();
        double pm = pitch.Average(),
            xy = 0,
            xx = 0,
            yy = 0;
        for (var n = 0; n < 1024; n++)
        {
            xy += (pitch[n] - pm) * (x[n] - mean);
            xx += (pitch[n] - pm) * (pitch[n] - pm);
            yy += (x[n] - mean) * (x[n] - mean);
        }
        Assert.InRange(xy / Math.Sqrt(xx * yy), -1, -0.25);
    }
}
