namespace Zamblo.Core.Dialogue;

/// <summary>Cuts a long talk into scenes at its long pauses, so that each is quick to work on.</summary>
public static class SceneCuts
{
    /// <summary>A scene is at least this long before a pause may end it, in seconds.</summary>
    public const double Shortest = 120;

    /// <summary>After this, in seconds, it ends at the longest pause since <see cref="Shortest"/>, however short that is.</summary>
    public const double Longest = 300;

    /// <summary>A pause that ends a scene at once, in seconds: far longer than those between turns (about 0.2 s; Stivers et al. 2009; from memory).</summary>
    public const double LongPause = 1.2;

    /// <summary>Where scenes begin.</summary>
    /// <param name="turns">Start and end of each turn in seconds, in order of their starts.</param>
    /// <returns>Indices of first turns, the first of them 0; nothing for no turns.</returns>
    public static IReadOnlyList<int> Find(IReadOnlyList<(double Start, double End)> turns)
    {
        var cuts = new List<int>();
        if (turns.Count == 0)
            return cuts;
        cuts.Add(0);
        var (best, bestPause) = (-1, double.NegativeInfinity);
        var end = turns[0].End;
        // What is left after a cut must be worth a scene.
        var last = turns.Max(t => t.End);
        for (var i = 1; i < turns.Count; i++)
        {
            var pause = turns[i].Start - end;
            var length = end - turns[cuts[^1]].Start;
            end = Math.Max(end, turns[i].End);
            if (length < Shortest || last - turns[i].Start < Shortest / 2)
                continue;
            if (pause > bestPause)
                (best, bestPause) = (i, pause);
            if (pause < LongPause && length < Longest)
                continue;
            cuts.Add(pause >= LongPause ? i : best);
            // Back to where the new scene begins.
            i = cuts[^1];
            end = turns[i].End;
            (best, bestPause) = (-1, double.NegativeInfinity);
        }
        return cuts;
    }
}
