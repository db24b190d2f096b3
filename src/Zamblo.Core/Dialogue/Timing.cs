using Zamblo.Core.Speech;

namespace Zamblo.Core.Dialogue;

/// <summary>A line that is to be laid on the timeline.</summary>
/// <param name="Duration">Of its take, in seconds.</param>
/// <param name="First">First sound of speech within the take, in seconds.</param>
/// <param name="Last">Last sound of speech within the take, in seconds.</param>
/// <param name="Start">A start set by hand, in seconds of the scene; null follows the line before.</param>
/// <param name="Pause">From the last sound of the line before to the first sound of this one, in seconds; null takes the scene's gap.</param>
public readonly record struct LineTime(double Duration, double First, double Last, double? Start = null, double? Pause = null)
{
    /// <summary>Names the recording that the take is of; empty where it is of none. What was cut out of one recording goes on without a seam.</summary>
    public string? Recording { get; init; }

    /// <summary>Its first sound is that of the line before: both speak at once. What follows them comes when both have ended.</summary>
    public bool IsTogether { get; init; }

    /// <summary>A line as it is heard; a take without speech counts as a whole.</summary>
    public static LineTime Of(double duration, SpeechAnalysis? speech, double? start = null, double? pause = null)
    {
        var spoken = speech?.Phones.Where(p => !Arpabet.IsSilent(p.Phone)).ToArray() ?? [];
        return spoken.Length == 0 ? new LineTime(duration, 0, duration, start, pause) : new LineTime(duration, spoken[0].Start, spoken[^1].End, start, pause);
    }
}

/// <summary>Lays lines one after another, from sound to sound: silence at the ends of a take is no part of the rhythm.</summary>
public static class Timing
{
    /// <summary>Mean gap between turns in conversation, about 200 ms (Stivers et al., PNAS 106, 2009; from memory).</summary>
    public const double TurnGap = 0.2;

    /// <summary>Starts of the takes in seconds of the scene, none before 0.</summary>
    /// <param name="lines">In order of the script.</param>
    /// <param name="leadIn">Stillness before the first sound, in seconds.</param>
    /// <param name="gap">Between a line and the one that follows it, in seconds.</param>
    /// <param name="rate">
    /// Takes that follow begin with the nearest frame: where a line becomes longer, the pictures of what comes after it are the same, so many frames later.
    /// Null for any moment.
    /// </param>
    public static double[] Lay(IReadOnlyList<LineTime> lines, double leadIn, double gap, FrameRate? rate = null)
    {
        var starts = new double[lines.Count];
        double? last = null;
        for (var i = 0; i < lines.Count; i++)
        {
            var line = lines[i];
            var goesOn = i > 0 && !string.IsNullOrEmpty(line.Recording) && line.Recording == lines[i - 1].Recording;
            var isWith = IsWithBefore(lines, i);
            var sounds =
                isWith ? starts[i - 1] + lines[i - 1].First
                : last is { } end ? end + (line.Pause ?? gap)
                : leadIn;
            starts[i] = Math.Max(0, line.Start ?? Near(sounds - line.First, goesOn ? null : rate));
            last = isWith ? Math.Max(last!.Value, starts[i] + line.Last) : starts[i] + line.Last;
        }
        return starts;
    }

    private static bool IsWithBefore(IReadOnlyList<LineTime> lines, int i) => i > 0 && lines[i].IsTogether && lines[i].Start == null;

    // The last sound of all who speak at once before a line.
    private static double EndBefore(IReadOnlyList<LineTime> lines, IReadOnlyList<double> starts, int index)
    {
        var end = starts[index - 1] + lines[index - 1].Last;
        for (var i = index - 1; IsWithBefore(lines, i); i--)
            end = Math.Max(end, starts[i - 1] + lines[i - 1].Last);
        return end;
    }

    private static double Near(double moment, FrameRate? rate) => rate is { } r ? r.TimeOf(r.FrameAt(moment + r.FrameSeconds / 2)) : moment;

    /// <summary>The pause that puts a line's take at a start.</summary>
    /// <param name="lines">As in <see cref="Lay"/>.</param>
    /// <param name="starts">Where they lie.</param>
    /// <param name="index">Which.</param>
    /// <param name="start">In seconds of the scene.</param>
    /// <returns>Null for the first line, which follows nothing.</returns>
    public static double? PauseFor(IReadOnlyList<LineTime> lines, IReadOnlyList<double> starts, int index, double start) =>
        index == 0 ? null : start + lines[index].First - EndBefore(lines, starts, index);
}
