using System.Globalization;
using System.Text.RegularExpressions;

namespace Zamblo.Core.Speech;

/// <summary>When what follows in a text is sung.</summary>
/// <param name="Offset">In characters of the text: what begins there or later is sung at this time or later.</param>
/// <param name="Time">In seconds of the recording.</param>
public readonly record struct LyricTime(int Offset, double Time);

/// <summary>
/// Times within lyrics as LRC files have them: "[01:23.45] words of a row", or "&lt;01:23.45&gt;" before a word (the common form of the format, from memory:
/// minutes, seconds, hundredths or thousandths).
/// </summary>
public static partial class LyricTimes
{
    // Rows are timed by ear, and mostly early (common practice: so that one can read along): words lie no further outside their row than this, in seconds.
    private const double Early = 0.7,
        Late = 0.7;

    // "[100:00.125]".
    private const int Longest = 12;

    /// <summary>The length of the mark at a place of a text, in characters; 0 where there is none.</summary>
    public static int LengthAt(string text, int at)
    {
        foreach (var found in Mark().EnumerateMatches(text.AsSpan(at, Math.Min(Longest, text.Length - at))))
            return found.Index == 0 ? found.Length : 0;
        return 0;
    }

    /// <summary>The times of a text, in its order.</summary>
    /// <param name="text">As it is written.</param>
    public static IReadOnlyList<LyricTime> In(string text) => [.. Mark().Matches(text).Select(m => new LyricTime(m.Index, 60 * Number(m, 1) + Number(m, 2)))];

    private static double Number(Match m, int group) => double.Parse(m.Groups[group].Value.Replace(':', '.'), CultureInfo.InvariantCulture);

    /// <summary>Words with the time in which each is looked for; those without a time before them have none.</summary>
    /// <param name="words">Of the text.</param>
    /// <param name="times">Of the text, in its order; where they do not rise they are not believed.</param>
    /// <param name="shift">Seconds of the recording before the sound that is listened to.</param>
    public static IReadOnlyList<ScriptWord> Apply(IReadOnlyList<ScriptWord> words, IReadOnlyList<LyricTime> times, double shift)
    {
        if (times.Count == 0 || times.Zip(times.Skip(1)).Any(p => p.Second.Time < p.First.Time))
            return words;
        return
        [
            .. words.Select(w =>
            {
                var row = times.Count(t => t.Offset <= w.Offset) - 1;
                return row < 0
                    ? w with
                    {
                        Latest = times[0].Time - shift + Late,
                    }
                    : w with
                    {
                        Earliest = times[row].Time - shift - Early,
                        Latest = row + 1 < times.Count ? times[row + 1].Time - shift + Late : null,
                    };
            }),
        ];
    }

    [GeneratedRegex(@"[\[<](\d{1,3}):(\d{2}(?:[.:]\d{1,3})?)[\]>]")]
    private static partial Regex Mark();
}
