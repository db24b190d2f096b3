using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>
/// Where a scene is cut into pieces of some seconds: where shots and lines begin, so that what comes later because a line before it became longer is cut where
/// it was. From one cut the next is found, without what came before: two ways to cut the same lines soon meet (as in content-defined chunking).
/// </summary>
internal static class FilmPieces
{
    // Shortest and longest piece, and how long one is where nothing begins, in seconds. Each begins with a whole picture, so short ones weigh more.
    private const double Shortest = 2.8,
        Longest = 7.6,
        Usual = 4;

    /// <summary>Frames of the pieces that a stretch is made of, in order and without holes.</summary>
    /// <param name="scene">All of it is cut, and the stretch out of that: its pieces within are those of the whole scene.</param>
    /// <param name="first">First frame of the stretch.</param>
    /// <param name="frames">How many it has.</param>
    public static IEnumerable<(int First, int Count)> Of(StageScene scene, int first, int frames)
    {
        int[] cuts = [.. CutsOf(scene).SkipWhile(c => c <= first).TakeWhile(c => c < first + frames)];
        var from = first;
        foreach (var to in cuts.Append(first + frames))
        {
            yield return (from, to - from);
            from = to;
        }
    }

    private static IEnumerable<int> CutsOf(StageScene scene)
    {
        int Frames(double seconds) => Math.Max(1, (int)Math.Round(seconds * scene.Rate.FramesPerSecond));
        var (shortest, longest, usual) = (Frames(Shortest), Frames(Longest), Frames(Usual));
        int[] begins =
        [
            .. scene
                .Cast.SelectMany(m => m.Lines)
                .Select(l => scene.Rate.FrameAt(l.Start))
                .Concat(Enumerable.Range(0, scene.Shots.Shots.Count).Select(i => scene.Shots.FirstFrame(i, scene.Rate)))
                .Distinct()
                .Order(),
        ];
        var at = 0;
        var next = 0;
        while (true)
        {
            while (next < begins.Length && begins[next] < at + shortest)
                next++;
            // Of several the one whose neighbours say so: taking the first, turns of one length would be paired forever as they first were.
            var (best, least) = (-1, 1.0);
            for (var i = next; i < begins.Length && begins[i] <= at + longest; i++)
                if (Sign(begins, i) is var sign && sign < least)
                    (best, least) = (i, sign);
            at = best >= 0 ? begins[best] : at + usual;
            if (at >= scene.FrameCount)
                yield break;
            yield return at;
        }
    }

    // A number that follows from how long it is until the next two begin, and looks random.
    private static double Sign(int[] begins, int i)
    {
        int To(int k) => k < begins.Length ? begins[k] - begins[k - 1] : 0;
        return new SeededRandom((ulong)To(i + 1)).Fork(To(i + 2)).Uniform(0);
    }
}
