using System.Text.Json.Serialization;
using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Score;

/// <summary>What is done to cues.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<CueOperation>))]
public enum CueOperation
{
    /// <summary>Another shape.</summary>
    Shape,

    /// <summary>Another strength.</summary>
    Strength,

    /// <summary>Elsewhere in time.</summary>
    Move,

    /// <summary>Another start.</summary>
    Start,

    /// <summary>Another end.</summary>
    End,

    /// <summary>Away with it; the neighbours meet.</summary>
    Remove,

    /// <summary>Back to automatic.</summary>
    Reset,
}

/// <summary>An edit of cues.</summary>
/// <param name="Operation">What.</param>
/// <param name="Cues">Indices into the list of cues as it is shown.</param>
public sealed record CueEdit(CueOperation Operation, IReadOnlyList<int> Cues)
{
    /// <summary>For <see cref="CueOperation.Shape"/>.</summary>
    public MouthShape Shape { get; init; }

    /// <summary>
    /// A factor for <see cref="CueOperation.Strength"/>; seconds for <see cref="CueOperation.Move"/>, <see cref="CueOperation.Start"/> and <see
    /// cref="CueOperation.End"/>.
    /// </summary>
    public double By { get; init; }
}

/// <summary>Edits as touch-ups: an automatic cue gets one of its own, a cue that has one keeps it.</summary>
public static class CueEdits
{
    // The shortest cue that hands can make, in seconds: a frame at 50 frames a second.
    private const double Shortest = 0.02;
    private const double Same = 0.002;

    /// <summary>The touch-ups of a line after an edit.</summary>
    /// <param name="cues">The cues as they are shown, touch-ups included.</param>
    /// <param name="touches">The line's touch-ups in their present places, in order.</param>
    /// <param name="edit">What is done; indices outside the list are passed over.</param>
    /// <param name="duration">Length of the take in seconds.</param>
    public static IReadOnlyList<TouchUp> Apply(IReadOnlyList<Cue> cues, IReadOnlyList<TouchUp> touches, CueEdit edit, double duration)
    {
        var result = touches.ToList();
        if (edit.Operation == CueOperation.Move)
        {
            // A group stays together: it moves as far as the first of it may.
            var group = edit.Cues.Where(i => i >= 0 && i < cues.Count && cues[i].Shape != MouthShape.Rest).Select(i => cues[i]).ToArray();
            if (group.Length > 0)
                edit = edit with { By = Math.Clamp(edit.By, -group.Min(c => c.Start), Math.Max(0, duration - group.Max(c => c.End))) };
        }
        if (edit.Operation == CueOperation.Reset)
        {
            // All that hands did there: what shows, what lies under it, and what was taken out between.
            var chosen = edit.Cues.Where(i => i >= 0 && i < cues.Count).Select(i => cues[i]).ToArray();
            if (chosen.Length == 0)
                return result;
            double start = chosen.Min(c => c.Start),
                end = chosen.Max(c => c.End);
            result.RemoveAll(t => chosen.Any(c => c.Touch == t.Id) || ((t.Start + t.End) / 2 is var middle && middle >= start && middle <= end));
            return result;
        }
        foreach (var index in edit.Cues.Distinct().Order())
        {
            if (index < 0 || index >= cues.Count)
                continue;
            var cue = cues[index];
            var at = result.FindIndex(t => t.Id == cue.Touch);
            var changed =
                at >= 0 ? Change(result[at], cue, edit, duration)
                : cue.Touch == Guid.Empty ? New(cue, edit, duration)
                : null;
            if (changed == null)
                continue;
            if (at >= 0)
                result[at] = changed;
            else
                result.Add(changed);
        }
        return result;
    }

    /// <summary>Puts a shape, or rest, on a stretch, whatever lies there.</summary>
    public static TouchUp Put(MouthShape shape, double start, double end, float strength = 1) =>
        new()
        {
            Id = Guid.NewGuid(),
            Kind = TouchKind.Replace,
            Start = start,
            End = end,
            Cues = [new TouchCue(shape, start, (start + end) / 2, end, strength)],
        };

    /// <summary>Copies what is shown in one stretch to another place, as one touch-up.</summary>
    /// <param name="cues">The cues as they are shown where the copy is from.</param>
    /// <param name="start">Start of the stretch that is copied, in seconds.</param>
    /// <param name="end">Its end.</param>
    /// <param name="map">From times there to times here.</param>
    /// <returns>Null where nothing lies in the stretch.</returns>
    public static TouchUp? Copy(IReadOnlyList<Cue> cues, double start, double end, Func<double, double> map)
    {
        var copied = new List<TouchCue>();
        foreach (var c in cues)
        {
            double from = Math.Max(c.Start, start),
                to = Math.Min(c.End, end);
            if (to - from < 0.5 * Math.Min(Shortest, c.End - c.Start))
                continue;
            copied.Add(new TouchCue(c.Shape, map(from), map(Math.Clamp(c.Peak, from, to)), map(to), c.Strength));
        }
        return copied.Count == 0
            ? null
            : new TouchUp
            {
                Id = Guid.NewGuid(),
                Kind = TouchKind.Replace,
                Start = copied[0].Start,
                End = copied[^1].End,
                Cues = copied,
            };
    }

    /// <summary>A touch-up with the phones about its place remembered, as it hangs on them.</summary>
    public static TouchUp Hang(TouchUp touch, SpeechAnalysis speech) =>
        touch with
        {
            Context = PhoneMap.About(
                PhoneMap.Sequence(speech),
                Math.Min(touch.Start, touch.From?.Start ?? touch.Start),
                Math.Max(touch.End, touch.From?.End ?? touch.End)
            ),
        };

    private static TouchUp? New(Cue cue, CueEdit edit, double duration)
    {
        var touch = new TouchUp
        {
            Id = Guid.NewGuid(),
            Start = cue.Start,
            End = cue.End,
        };
        return edit.Operation switch
        {
            CueOperation.Remove => cue.Shape == MouthShape.Rest ? null : touch with { Kind = TouchKind.Remove },
            CueOperation.Strength => cue.Shape == MouthShape.Rest ? null : touch with { Kind = TouchKind.Strength, Factor = (float)edit.By },
            CueOperation.Shape => touch with
            {
                Kind = TouchKind.Replace,
                Cues = [Shaped(new TouchCue(cue.Shape, cue.Start, cue.Peak, cue.End, cue.Strength), edit.Shape)],
            },
            // A pause has no edges of its own: those of its neighbours move.
            _ => cue.Shape == MouthShape.Rest
                ? null
                : Timed(
                    touch with
                    {
                        Kind = TouchKind.Replace,
                        From = new Stretch(cue.Start, cue.End),
                        Cues = [new TouchCue(cue.Shape, cue.Start, cue.Peak, cue.End, cue.Strength)],
                    },
                    0,
                    edit,
                    duration
                ),
        };
    }

    private static TouchUp? Change(TouchUp touch, Cue cue, CueEdit edit, double duration)
    {
        if (touch.Kind != TouchKind.Replace)
            return edit.Operation switch
            {
                CueOperation.Strength when touch.Kind == TouchKind.Strength => touch with { Factor = Math.Clamp(touch.Factor * (float)edit.By, 0, 3) },
                _ => New(cue with { Touch = Guid.Empty }, edit, duration) is { } fresh ? fresh with { Id = touch.Id } : null,
            };
        var i = -1;
        for (var k = 0; k < touch.Cues.Count; k++)
            if (Math.Abs(touch.Cues[k].Start - cue.Start) < Same || Math.Abs(touch.Cues[k].End - cue.End) < Same)
            {
                i = k;
                break;
            }
        // The mouth that was shut by hand has no cue of its own.
        if (touch.Cues.Count == 0)
            (touch, i) = (touch with { Cues = [new TouchCue(MouthShape.Rest, touch.Start, (touch.Start + touch.End) / 2, touch.End, 1)] }, 0);
        if (i < 0)
            return null;
        var list = touch.Cues.ToList();
        switch (edit.Operation)
        {
            case CueOperation.Shape:
                list[i] = Shaped(list[i], edit.Shape);
                return touch with { Cues = list };
            case CueOperation.Strength:
                list[i] = list[i] with { Strength = Math.Clamp(list[i].Strength * (float)edit.By, 0, 1.5f) };
                return touch with { Cues = list };
            case CueOperation.Remove:
                if (list.Count == 1)
                    return touch with
                    {
                        Kind = TouchKind.Remove,
                        Cues = [],
                        Start = touch.From?.Start ?? touch.Start,
                        End = touch.From?.End ?? touch.End,
                        From = null,
                    };
                list.RemoveAt(i);
                return Extent(touch with { Cues = list });
            default:
                return Timed(touch, i, edit, duration);
        }
    }

    // A shape with a weak strength of old would hardly be seen as the new one.
    private static TouchCue Shaped(TouchCue cue, MouthShape shape) =>
        cue with
        {
            Shape = shape,
            Strength = cue.Shape == MouthShape.Rest ? 1 : Math.Max(0.6f, cue.Strength),
        };

    private static TouchUp Timed(TouchUp touch, int i, CueEdit edit, double duration)
    {
        var list = touch.Cues.ToList();
        var c = list[i];
        var share = c.End - c.Start < 1e-9 ? 0.5 : (c.Peak - c.Start) / (c.End - c.Start);
        double start = c.Start,
            end = c.End;
        // Within one touch-up neighbours do not overlap.
        double low = i > 0 ? list[i - 1].End : 0,
            high = i + 1 < list.Count ? list[i + 1].Start : duration;
        if (edit.Operation == CueOperation.Move)
        {
            var by = Math.Clamp(edit.By, low - start, Math.Max(low - start, high - end));
            (start, end) = (start + by, end + by);
        }
        else if (edit.Operation == CueOperation.Start)
            start = Math.Clamp(start + edit.By, low, Math.Max(low, end - Shortest));
        else
            end = Math.Clamp(end + edit.By, Math.Min(high, start + Shortest), high);
        list[i] = c with { Start = start, Peak = start + share * (end - start), End = end };
        return Extent(touch with { Cues = list });
    }

    private static TouchUp Extent(TouchUp touch) => touch with { Start = touch.Cues[0].Start, End = touch.Cues[^1].End };
}
