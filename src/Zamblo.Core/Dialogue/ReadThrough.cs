using Zamblo.Core.Speech;

namespace Zamblo.Core.Dialogue;

/// <summary>A line as it is said in a recording of several.</summary>
/// <param name="Start">Of its part of the recording, with air around what is said, in seconds.</param>
/// <param name="End">Of its part, in seconds.</param>
/// <param name="First">Start of its first word, in seconds.</param>
/// <param name="Last">End of its last word, in seconds.</param>
public sealed record ReadLine(double Start, double End, double First, double Last);

/// <summary>A whole scene read in one go: where in the recording each of its lines is said.</summary>
public static class ReadThrough
{
    // Air around a line, where its neighbours leave any, in seconds.
    private const double Before = 0.12,
        After = 0.2;

    // Of whose words less is said, it was left out.
    private const double LeastSaid = 0.5;

    /// <summary>Finds lines in what was heard.</summary>
    /// <param name="lines">Words of each line, in the order in which they are read.</param>
    /// <param name="heard">Words of the recording, heard with the lines as its script.</param>
    /// <param name="duration">Of the recording, in seconds.</param>
    /// <returns>For each line where it is; null for one that is not said.</returns>
    public static IReadOnlyList<ReadLine?> Find(IReadOnlyList<IReadOnlyList<string>> lines, IReadOnlyList<WordSegment> heard, double duration)
    {
        string[] script = [.. lines.SelectMany(l => l).Select(WordMatch.Plain)];
        var partners = WordMatch.Partners(script, [.. heard.Select(w => WordMatch.Plain(w.Text))]);
        var said = new (double First, double Last)?[lines.Count];
        var at = 0;
        for (var i = 0; i < lines.Count; at += lines[i++].Count)
        {
            int[] own = [.. partners[at..(at + lines[i].Count)].Where(p => p >= 0)];
            if (own.Length > 0 && own.Length >= LeastSaid * lines[i].Count)
                said[i] = (heard[own[0]].Start, heard[own[^1]].End);
        }
        // In their order one begins after the one before has ended: so the gaps between them can be shared out.
        var result = new ReadLine?[lines.Count];
        int[] there = [.. Enumerable.Range(0, lines.Count).Where(i => said[i] != null)];
        for (var k = 0; k < there.Length; k++)
        {
            var (first, last) = said[there[k]]!.Value;
            var before = k == 0 ? 0 : (said[there[k - 1]]!.Value.Last + first) / 2;
            var after = k + 1 == there.Length ? duration : (last + said[there[k + 1]]!.Value.First) / 2;
            result[there[k]] = new ReadLine(Math.Max(before, first - Before), Math.Min(after, last + After), first, last);
        }
        return result;
    }
}
