using System.Runtime.InteropServices;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>What is changed in one line leaves how the others are acted as it was.</summary>
public class LocalActingTests
{
    private static readonly FrameRate Rate = new(25);
    private const int Lines = 24;
    private const double Every = 4,
        Duration = Lines * Every + 4;

    // Two seconds of syllables, said with these words.
    private static PlacedSpeech Line(int n, string words, double start)
    {
        var phones = Enumerable.Range(0, 16).Select(i => i % 2 == 0 ? ("AA", 0.12 + 0.06 * ((n + i) % 3)) : ("T", 0.1)).ToArray();
        var speech = MouthTests.Say(phones);
        var said = words.Split(' ');
        var each = speech.Duration / said.Length;
        return new PlacedSpeech(speech with { Words = [.. said.Select((w, i) => new WordSegment(w, i * each, (i + 1) * each))] }, start, new MouthDials());
    }

    // Two who talk in turns; the first one's poses.
    private static Pose[] Poses(int seed, IReadOnlyList<MoodSpan>? moods = null, int changed = -1, double longer = 0)
    {
        PlacedSpeech At(int n) =>
            Line(
                n,
                n == changed ? "quite another thing to say" : $"this is what number {n} says",
                0.5 + Every * n + (changed >= 0 && n > changed ? longer : 0)
            );
        var all = Enumerable.Range(0, Lines).Select(At).ToArray();
        return new Performer(
            new Part
            {
                Lines = [.. all.Where((_, i) => i % 2 == 0)],
                Partners = [new Partner(0.5f, [.. all.Where((_, i) => i % 2 == 1)])],
                Moods = moods ?? [],
                Rest = HandRest.Both,
                Dials = new PerformanceDials { Seed = seed },
            },
            Duration + longer
        ).Evaluate(Rate, 0, (int)(Duration * 25));
    }

    private static bool IsSame(in Pose a, in Pose b) =>
        MemoryMarshal.AsBytes(new ReadOnlySpan<Pose>(in a)).SequenceEqual(MemoryMarshal.AsBytes(new ReadOnlySpan<Pose>(in b)));

    private static int LastDifference(Pose[] a, Pose[] b)
    {
        for (var i = a.Length - 1; i >= 0; i--)
            if (!IsSame(a[i], b[i]))
                return i;
        return -1;
    }

    [Fact]
    public void A_mood_over_one_line_is_over_some_seconds_after_it()
    {
        var late = new List<double>();
        for (var seed = 1; seed <= 40; seed++)
        {
            var changed = Poses(seed, [new MoodSpan(Mood.Anger, 40, 44, 1)]);
            var last = LastDifference(Poses(seed), changed);
            Assert.True(last > 40 * 25, "nothing has changed");
            late.Add(last / 25.0 - 44);
        }
        // Mostly until the hands next come to rest elsewhere, and the clock of what drifts is back.
        late.Sort();
        Assert.InRange(late[late.Count / 2], 0, 8);
        Assert.InRange(late[late.Count * 9 / 10], 0, 14);
    }

    [Fact]
    public void Other_words_in_one_line_change_nothing_in_the_lines_before_and_little_after_it()
    {
        var late = new List<double>();
        for (var seed = 1; seed <= 40; seed++)
        {
            var (a, b) = (Poses(seed), Poses(seed, changed: 8));
            var first = Enumerable.Range(0, a.Length).First(i => !IsSame(a[i], b[i])) / 25.0;
            Assert.True(first > (Every * 8) - 3, $"{first}");
            late.Add(LastDifference(a, b) / 25.0 - (Every * 9));
        }
        late.Sort();
        Assert.InRange(late[late.Count / 2], -4, 8);
        Assert.InRange(late[late.Count * 9 / 10], -4, 14);
    }

    // A line that becomes longer moves all that follow: they are nodded and blinked as before, only later.
    [Fact]
    public void Lines_that_come_later_are_stressed_as_before()
    {
        for (var seed = 1; seed <= 20; seed++)
        {
            const double longer = 1.24;
            var (a, b) = (Poses(seed), Poses(seed, changed: 4, longer: longer));
            double[] Blinks(Pose[] poses, double by) =>
                [.. Enumerable.Range(1, poses.Length - 1).Where(i => poses[i].LidLeft < 0.5f && poses[i - 1].LidLeft >= 0.5f).Select(i => (i / 25.0) - by)];
            // Over half a minute of turns well after it, in their own times.
            double[] was = [.. Blinks(a, 0).Where(t => t is > 40 and < 68)],
                now = Blinks(b, longer);
            Assert.InRange(was.Length, 3, 25);
            Assert.InRange(was.Count(t => now.Any(n => Math.Abs(n - t) < 0.09)), 0.9 * was.Length, was.Length);
        }
    }

    // To the last bit: so the pictures are the same, and need not be drawn again.
    [Fact]
    public void What_comes_after_a_longer_line_is_acted_as_it_was_so_many_frames_later()
    {
        var late = new List<double>();
        for (var seed = 1; seed <= 40; seed++)
        {
            const int frames = 31;
            MoodSpan[] Feels(double by) => [new MoodSpan(Mood.Joy, 50 + by, 53 + by, 1)];
            var (a, b) = (Poses(seed, Feels(0)), Poses(seed, Feels(frames / 25.0), changed: 4, longer: frames / 25.0));
            late.Add(LastDifference(a[..^frames], b[frames..]) / 25.0 - (Every * 5));
        }
        late.Sort();
        Assert.InRange(late[late.Count / 2], -4, 8);
        Assert.InRange(late[late.Count * 9 / 10], -4, 14);
    }
}
