using Zamblo.Core.Performance;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Score;

/// <summary>A moment of a motion that hangs on a word.</summary>
/// <param name="At">The moment of what is said.</param>
/// <param name="Share">How far the motion is by then, 0 to 1.</param>
public sealed record MotionBeat(WordAnchor At, double Share);

/// <summary>Ties a motion to the words that it was made over: where another take says them slower, it is slower there.</summary>
public static class MotionBeats
{
    // Between words that are further apart, in seconds, there is a pause of its own; the same for what is too near to an end to be a moment of its own.
    private const double Apart = 0.12;

    // The least time between two moments, in seconds: words that have changed places do not turn time round.
    private const double Least = 0.01;

    /// <summary>Takes hold of the words that a motion lies over.</summary>
    /// <param name="speech">What is said; null where there is no take or nobody has listened.</param>
    /// <param name="start">Of the motion, in seconds of the take.</param>
    /// <param name="end">Of the motion, in seconds of the take; after the start.</param>
    /// <param name="before">As it was laid until now, of which it keeps where it is slow and where it is quick; null is even.</param>
    /// <returns>Two at least, in order: the ends, and between them where words start, and where one ends before a pause.</returns>
    public static IReadOnlyList<MotionBeat> Over(SpeechAnalysis? speech, double start, double end, GestureSpan? before)
    {
        var words = speech?.Words ?? [];
        var moments = new List<double> { start };
        for (var i = 0; i < words.Count; i++)
        {
            moments.Add(words[i].Start);
            if (i + 1 == words.Count || words[i + 1].Start - words[i].End > Apart)
                moments.Add(words[i].End);
        }
        var kept = new List<double> { start };
        foreach (var moment in moments.Where(m => m < end - Apart))
            if (moment > kept[^1] + Apart)
                kept.Add(moment);
        kept.Add(end);
        double Share(double at) => before?.ShareAt(at) ?? at;
        return [.. kept.Select(m => new MotionBeat(WordAnchor.At(speech, m), Share((m - start) / Math.Max(Least, end - start))))];
    }

    /// <summary>Where the moments are in what is said now: those whose words are gone are left out, but for the ends.</summary>
    /// <param name="beats">In order.</param>
    /// <param name="speech">What is said; null where there is no take or nobody has listened.</param>
    /// <returns>Times in seconds of the take, growing, and shares; null for fewer than two.</returns>
    public static (double Time, double Share)[]? Find(IReadOnlyList<MotionBeat> beats, SpeechAnalysis? speech)
    {
        if (beats.Count < 2)
            return null;
        var found = new List<(double Time, double Share)>();
        for (var i = 0; i < beats.Count; i++)
        {
            if (i > 0 && i < beats.Count - 1 && !beats[i].At.IsIn(speech))
                continue;
            var time = beats[i].At.Find(speech);
            found.Add((found.Count == 0 ? time : Math.Max(time, found[^1].Time + Least), beats[i].Share));
        }
        return [.. found];
    }
}
