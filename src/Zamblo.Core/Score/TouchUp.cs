using System.Text.Json.Serialization;
using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Score;

/// <summary>What a touch-up does to the automatic mouth.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<TouchKind>))]
public enum TouchKind
{
    /// <summary>Puts its own cues in the place of whatever lies there.</summary>
    Replace,

    /// <summary>Makes what lies there stronger or weaker.</summary>
    Strength,

    /// <summary>Takes away what lies there; the neighbours meet in the middle.</summary>
    Remove,
}

/// <summary>A cue put down by hand.</summary>
/// <param name="Shape">Which shape.</param>
/// <param name="Start">In seconds of the take.</param>
/// <param name="Peak">Where it is fullest, in seconds, from <paramref name="Start"/> to <paramref name="End"/>.</param>
/// <param name="End">In seconds.</param>
/// <param name="Strength">0 to 1.5.</param>
public readonly record struct TouchCue(MouthShape Shape, double Start, double Peak, double End, float Strength);

/// <summary>A stretch of a take.</summary>
/// <param name="Start">In seconds.</param>
/// <param name="End">In seconds.</param>
public readonly record struct Stretch(double Start, double End);

/// <summary>
/// A change made by hand, lying over the mouth pass. It hangs on the phones around it (<see cref="Context"/>), so that it is found again
/// in another take or after a change of the script (<see cref="PhoneMap"/>).
/// </summary>
public sealed record TouchUp
{
    /// <summary>Names it.</summary>
    public Guid Id { get; init; }

    /// <summary>What it does.</summary>
    public TouchKind Kind { get; init; }

    /// <summary>Start of its place in seconds of the take.</summary>
    public double Start { get; init; }

    /// <summary>End of its place in seconds of the take.</summary>
    public double End { get; init; }

    /// <summary>For <see cref="TouchKind.Replace"/>: the cues, in order, within the place; none is a mouth at rest.</summary>
    public IReadOnlyList<TouchCue> Cues { get; init; } = [];

    /// <summary>For <see cref="TouchKind.Strength"/>: a factor, 0 to 3.</summary>
    public float Factor { get; init; } = 1;

    /// <summary>For a cue that was moved: where it stood before; it is taken away from there first.</summary>
    public Stretch? From { get; init; }

    /// <summary>The phones about its place as they were when it was made.</summary>
    public IReadOnlyList<ContextPhone> Context { get; init; } = [];

    /// <summary>The same change with its times put through a map.</summary>
    public TouchUp Moved(Func<double, double> map) =>
        this with
        {
            Start = map(Start),
            End = map(End),
            From = From is { } f ? new Stretch(map(f.Start), map(f.End)) : null,
            Cues = [.. Cues.Select(c => c with { Start = map(c.Start), Peak = map(c.Peak), End = map(c.End) })],
        };
}

/// <summary>Lays touch-ups over automatic cues.</summary>
public static class TouchUps
{
    // What a cut leaves of a neighbour is dropped when it is shorter than this: nobody could see it.
    private const double Sliver = 0.012;

    /// <summary>Cues with the touch-ups laid over them, in the order given; ordered and without overlaps when <paramref name="cues"/> are.</summary>
    public static IReadOnlyList<Cue> Apply(IReadOnlyList<Cue> cues, IReadOnlyList<TouchUp> touches)
    {
        if (touches.Count == 0)
            return cues;
        var list = cues.ToList();
        // What was moved away leaves its old place before anything is put down: else one cue of a moved group would sweep away the next.
        foreach (var touch in touches)
            if (touch.From is { } from)
                Remove(list, from.Start, from.End);
        foreach (var touch in touches)
        {
            switch (touch.Kind)
            {
                case TouchKind.Replace:
                    Replace(list, touch);
                    break;
                case TouchKind.Strength:
                    for (var i = 0; i < list.Count; i++)
                        if (IsWithin(list[i], touch.Start, touch.End) && list[i].Shape != MouthShape.Rest)
                            list[i] = list[i] with { Strength = Math.Clamp(list[i].Strength * touch.Factor, 0, 1.5f), Touch = touch.Id };
                    break;
                case TouchKind.Remove:
                    Remove(list, touch.Start, touch.End);
                    break;
            }
        }
        return list;
    }

    private static bool IsWithin(Cue cue, double start, double end) => (cue.Start + cue.End) / 2 is var middle && middle >= start && middle < end;

    private static void Remove(List<Cue> list, double start, double end)
    {
        for (var i = 0; i < list.Count; i++)
        {
            if (!IsWithin(list[i], start, end) || list[i].Shape == MouthShape.Rest)
                continue;
            var gone = list[i];
            list.RemoveAt(i);
            // The time goes to the neighbours that speak; between two rests it is rest.
            var left = i > 0 && gone.Start - list[i - 1].End < Sliver ? i - 1 : -1;
            var right = i < list.Count && list[i].Start - gone.End < Sliver ? i : -1;
            var leftRests = left >= 0 && list[left].Shape == MouthShape.Rest;
            var rightRests = right >= 0 && list[right].Shape == MouthShape.Rest;
            var meet =
                left >= 0 && right >= 0 && leftRests == rightRests ? (gone.Start + gone.End) / 2
                : right < 0 || (left >= 0 && rightRests) ? gone.End
                : gone.Start;
            if (left >= 0)
                list[left] = list[left] with { End = Math.Max(list[left].End, meet) };
            if (right >= 0)
                list[right] = list[right] with { Start = Math.Min(list[right].Start, meet) };
            i--;
        }
    }

    private static void Replace(List<Cue> list, TouchUp touch)
    {
        if (touch.End <= touch.Start)
            return;
        for (var i = 0; i < list.Count; i++)
        {
            var c = list[i];
            if (c.End <= touch.Start || c.Start >= touch.End)
                continue;
            list.RemoveAt(i--);
            foreach (var (start, end) in (ReadOnlySpan<(double, double)>)[(c.Start, Math.Min(c.End, touch.Start)), (Math.Max(c.Start, touch.End), c.End)])
                if (end - start >= Sliver)
                    list.Insert(++i, c with { Start = start, End = end, Peak = c.Peak > start && c.Peak < end ? c.Peak : (start + end) / 2 });
        }
        var at = list.FindIndex(c => c.Start >= touch.End - 1e-9);
        if (at < 0)
            at = list.Count;
        IReadOnlyList<TouchCue> laid =
            touch.Cues.Count > 0 ? touch.Cues : [new TouchCue(MouthShape.Rest, touch.Start, (touch.Start + touch.End) / 2, touch.End, 1)];
        foreach (var c in laid)
            if (c.End > c.Start)
                list.Insert(
                    at++,
                    new Cue(c.Shape, c.Start, Math.Clamp(c.Peak, c.Start, c.End), c.End, Math.Clamp(c.Strength, 0, 1.5f), "", 1) { Touch = touch.Id }
                );
    }
}
