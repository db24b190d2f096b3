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
        // A long turn may be cut within, so and so long after its begin: what was said until a word that changed stays as well.
        int[] places =
        [
            .. Enumerable.Range(0, begins.Length).SelectMany(i => Within(begins[i], i + 1 < begins.Length ? begins[i + 1] : scene.FrameCount, usual, shortest)),
        ];
        var at = 0;
        var next = 0;
        while (true)
        {
            while (next < places.Length && places[next] < at + shortest)
                next++;
            // Of several the one whose neighbours say so: taking the first, turns of one length would be paired forever as they first were.
            var (best, least) = (-1, 2.0);
            for (var i = next; i < places.Length && places[i] <= at + longest; i++)
                if (Sign(begins, places[i]) is var sign && sign < least)
                    (best, least) = (i, sign);
            at = best >= 0 ? places[best] : at + usual;
            if (at >= scene.FrameCount)
                yield break;
            yield return at;
        }
    }

    private static IEnumerable<int> Within(int begin, int end, int usual, int shortest)
    {
        for (var at = begin; at == begin || at <= end - shortest; at += usual)
            yield return at;
    }

    // A number that follows from how long it is until the next two begin, and looks random; where nothing begins there is a cut only for want of a better.
    private static double Sign(int[] begins, int place)
    {
        var i = Array.BinarySearch(begins, place);
        if (i < 0)
            return 1;
        int To(int k) => k < begins.Length ? begins[k] - begins[k - 1] : 0;
        return new SeededRandom((ulong)To(i + 1)).Fork(To(i + 2)).Uniform(0);
    }
}
