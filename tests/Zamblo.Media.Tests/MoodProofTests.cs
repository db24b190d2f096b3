using Zamblo.Core;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;

namespace Zamblo.Media.Tests;

/// <summary>What is seen of a mood: at the size of a thumbnail no two are the same face, on any character.</summary>
public class MoodProofTests
{
    private const int Side = 160;

    // "Bobby may": lips that meet four times.
    private static readonly SpeechAnalysis Said = new(
        1.5,
        [
            new("SIL", 0, 0.2),
            new("B", 0.2, 0.28),
            new("AA", 0.28, 0.5),
            new("B", 0.5, 0.58),
            new("IY", 0.58, 0.75),
            new("M", 0.75, 0.86),
            new("EY", 0.86, 1.1),
            new("P", 1.1, 1.2),
            new("SIL", 1.2, 1.5),
        ],
        [new("bobby", 0.2, 0.75), new("may", 0.75, 1.2)],
        [],
        SpeechSource.Script
    );

    // How far apart two pictures are: mean difference of a pixel's channels, 0 to 255, where either has something.
    private static double Apart(byte[] a, byte[] b)
    {
        double sum = 0;
        var seen = 0;
        for (var i = 0; i < a.Length; i += 4)
        {
            if (a[i + 3] == 0 && b[i + 3] == 0)
                continue;
            seen++;
            for (var c = 0; c < 3; c++)
                sum += Math.Abs(a[i + c] - b[i + c]);
        }
        return sum / (3 * Math.Max(1, seen));
    }

    private static byte[] FaceOf(Figure figure, Mood mood, float intensity, int seed)
    {
        var dials = new PerformanceDials
        {
            Blinks = 0,
            Gaze = 0,
            Seed = seed,
        };
        var pose = new Performer(new Part { Moods = [new MoodSpan(mood, 0, 4, intensity)], Dials = dials }, 4).Evaluate(new FrameRate(25), 50, 1)[0];
        var v = figure.Rig.Portrait;
        var side = Math.Max(v[2], v[3]);
        using var rasteriser = new Rasteriser(Side, Side, (v[0] - (side - v[2]) / 2, v[1] - (side - v[3]) / 2, side, side), grain: false);
        return rasteriser.Draw(StageScene.Portrait(figure, [pose]), 0).GetPixelSpan().ToArray();
    }

    [Fact]
    public void At_160_pixels_moods_differ_more_than_two_seeds_of_the_same_mood_do()
    {
        var library = CastLibrary.Shipped();
        foreach (var key in library.CharacterKeys)
        foreach (var intensity in (float[])[0.7f, 1])
        {
            var figure = library.Character(key);
            var faces = Moods.All.Select(m => FaceOf(figure, m, intensity, 1)).ToArray();
            var others = Moods.All.Select(m => FaceOf(figure, m, intensity, 2)).ToArray();
            var seeds = faces.Zip(others, Apart).Average();
            for (var i = 0; i < faces.Length; i++)
            for (var j = 0; j < i; j++)
                Assert.True(
                    Apart(faces[i], faces[j]) > 1.05 * seeds,
                    $"{key}: {Moods.All[i]} and {Moods.All[j]} are {Apart(faces[i], faces[j]):0.0} apart at {intensity}, two seeds {seeds:0.0}"
                );
        }
    }

    // So many pixels of a face are other ones with its brows than without.
    private static int BrowsSeen(Figure figure, Mood mood, float intensity)
    {
        var dials = new PerformanceDials { Blinks = 0, Gaze = 0 };
        var pose = new Performer(new Part { Moods = [new MoodSpan(mood, 0, 4, intensity)], Dials = dials }, 4).Evaluate(new FrameRate(25), 50, 1)[0];
        var v = figure.Rig.Portrait;
        byte[] Draw(bool hasBrows)
        {
            var list = StageScene.Portrait(figure, [pose]);
            var brow = figure.Rig.Brows[0];
            for (var i = 0; !hasBrows && i < list.Shapes.Count; i++)
                if (list.Shapes[i].Path == null && (list.Shapes[i].Fill == brow.Color || list.Shapes[i].Fill == brow.Edge))
                    list.Frames[0][i] = list.Frames[0][i] with { Opacity = 0 };
            using var rasteriser = new Rasteriser(2 * Side, 2 * Side, (v[0], v[1], v[2], v[3]), grain: false);
            return rasteriser.Draw(list, 0).GetPixelSpan().ToArray();
        }
        byte[] with = Draw(true),
            without = Draw(false);
        return Enumerable.Range(0, with.Length / 4).Count(p => Enumerable.Range(0, 3).Sum(c => Math.Abs(with[4 * p + c] - without[4 * p + c])) > 40);
    }

    [Fact]
    public void Brows_are_never_lost_under_hair_or_a_hat()
    {
        var library = CastLibrary.Shipped();
        foreach (var key in library.CharacterKeys.Where(k => library.KindOf(k) == "person"))
        {
            var figure = library.Character(key);
            var rest = BrowsSeen(figure, Mood.Joy, 0);
            Assert.True(rest > 200, $"{key}: {rest} pixels at rest");
            foreach (var mood in Moods.All)
            foreach (var intensity in (float[])[1, MoodSpan.Most])
            {
                var seen = BrowsSeen(figure, mood, intensity);
                Assert.True(seen > 0.5 * rest, $"{key}, {mood} at {intensity}: {seen} of {rest} pixels");
            }
        }
    }

    [Fact]
    public void A_mood_never_opens_a_mouth_that_is_shut_for_a_sound_and_gives_the_mouth_back_before_the_first_one()
    {
        foreach (var mood in Moods.All)
        foreach (var intensity in (float[])[1, MoodSpan.Most])
        {
            var part = new Part { Moods = [new MoodSpan(mood, -1, 10, intensity)], Lines = [new PlacedSpeech(Said, 3, new MouthDials())] };
            var poses = new Performer(part, 8).Evaluate(new FrameRate(25), 0, 200);
            // Closed where the lips must be: as without the mood.
            var plain = new Performer(part with { Moods = [] }, 8).Evaluate(new FrameRate(25), 0, 200);
            for (var f = 0; f < 200; f++)
            {
                if (plain[f].Mouth[MouthChannel.Press] > 0.5f)
                    Assert.True(poses[f].Mouth.Openness < plain[f].Mouth.Openness + 0.001f, $"{mood} opens a closure at frame {f}");
                if (f > 0)
                    Assert.True(
                        Math.Abs(poses[f].Mouth[MouthChannel.Jaw] - poses[f - 1].Mouth[MouthChannel.Jaw])
                            < 0.12f * intensity + Math.Abs(plain[f].Mouth[MouthChannel.Jaw] - plain[f - 1].Mouth[MouthChannel.Jaw]),
                        $"{mood}: the jaw jumps at frame {f}"
                    );
            }
        }
    }
}
