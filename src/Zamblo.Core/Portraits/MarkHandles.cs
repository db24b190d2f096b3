using System.Numerics;

namespace Zamblo.Core.Portraits;

/// <summary>A mark that can be taken hold of.</summary>
/// <param name="Name">Of it: "mouth-left", "eye-right-top".</param>
/// <param name="At">Where it is.</param>
public sealed record MarkHandle(string Name, Mark At);

/// <summary>
/// The few marks of a face by which the rest is moved: what lies between two on a line goes along by its share. A handle of one side takes its partner of the
/// other along, mirrored, if that is wished.
/// </summary>
public static class MarkHandles
{
    private const string Left = "-left",
        Right = "-right";

    // A line, and where on it a handle sits, from 0 to 1; all that sit together move together.
    private sealed record Seat(string Line, float At);

    private const int Around = 8;

    private static Dictionary<string, Seat[]> SeatsOf(PortraitMarks marks)
    {
        var seats = new Dictionary<string, Seat[]>
        {
            ["mouth-left"] = [.. Lips.Select(l => new Seat(l, 0))],
            ["mouth-right"] = [.. Lips.Select(l => new Seat(l, 1))],
            ["lip-top"] = [new("outer-upper", 0.5f)],
            ["lip-bottom"] = [new("outer-lower", 0.5f)],
        };
        if (IsShut(marks))
            seats["lips"] = [new("inner-upper", 0.5f), new("inner-lower", 0.5f)];
        else
        {
            seats["lip-upper"] = [new("inner-upper", 0.5f)];
            seats["lip-lower"] = [new("inner-lower", 0.5f)];
        }
        foreach (var (side, eye, brow) in new[] { (Left, marks.EyeLeft, marks.BrowLeft), (Right, marks.EyeRight, marks.BrowRight) })
        {
            // Outer and inner, so that partners have one name.
            var (first, last) = side == Left ? ("outer", "inner") : ("inner", "outer");
            if (eye != null)
            {
                seats[$"eye-{first}{side}"] = [new($"upper{side}", 0), new($"lower{side}", 0)];
                seats[$"eye-{last}{side}"] = [new($"upper{side}", 1), new($"lower{side}", 1)];
                seats[$"lid-upper{side}"] = [new($"upper{side}", 0.5f)];
                seats[$"lid-lower{side}"] = [new($"lower{side}", 0.5f)];
                seats[$"iris{side}"] = [new($"iris{side}", 0)];
            }
            if (brow.Length > 0)
            {
                seats[$"brow-{first}{side}"] = [new($"brow{side}", 0)];
                seats[$"brow-middle{side}"] = [new($"brow{side}", 0.5f)];
                seats[$"brow-{last}{side}"] = [new($"brow{side}", 1)];
            }
        }
        if (marks.Nose.Length == 5)
        {
            seats["nose"] = [new("nose", 0.25f)];
            seats["nostril-left"] = [new("nose", 0.5f)];
            seats["nostril-right"] = [new("nose", 0.75f)];
        }
        string[] ring = ["edge-top", "edge-temple-right", "edge-cheek-right", "edge-jaw-right", "chin", "edge-jaw-left", "edge-cheek-left", "edge-temple-left"];
        for (var i = 0; i < Around; i++)
            seats[ring[i]] = [new("outline", (float)i / Around)];
        return seats;
    }

    private static readonly string[] Lips = ["outer-upper", "outer-lower", "inner-upper", "inner-lower"];

    // In mouth widths: nearer than that, upper and lower lip are one line to take hold of.
    private static bool IsShut(PortraitMarks marks)
    {
        var m = marks.Mouth;
        return Vector2.Distance(m.InnerUpper[m.InnerUpper.Length / 2], m.InnerLower[m.InnerLower.Length / 2]) < 0.05f * m.Width;
    }

    private static Dictionary<string, Mark[]> LinesOf(PortraitMarks marks)
    {
        var lines = new Dictionary<string, Mark[]>
        {
            ["outline"] = [.. marks.Outline],
            ["outer-upper"] = [.. marks.Mouth.OuterUpper],
            ["outer-lower"] = [.. marks.Mouth.OuterLower],
            ["inner-upper"] = [.. marks.Mouth.InnerUpper],
            ["inner-lower"] = [.. marks.Mouth.InnerLower],
            ["brow-left"] = [.. marks.BrowLeft],
            ["brow-right"] = [.. marks.BrowRight],
            ["nose"] = [.. marks.Nose],
        };
        foreach (var (side, eye) in new[] { (Left, marks.EyeLeft), (Right, marks.EyeRight) })
            if (eye != null)
            {
                lines[$"upper{side}"] = [.. eye.Upper];
                lines[$"lower{side}"] = [.. eye.Lower];
                lines[$"iris{side}"] = [eye.Iris];
            }
        return lines;
    }

    private static PortraitMarks Of(PortraitMarks marks, Dictionary<string, Mark[]> lines)
    {
        EyeMarks? Eye(EyeMarks? eye, string side) =>
            eye == null ? null : eye with { Upper = lines[$"upper{side}"], Lower = lines[$"lower{side}"], Iris = lines[$"iris{side}"][0] };
        return marks with
        {
            Outline = lines["outline"],
            Mouth = new LipMarks
            {
                OuterUpper = lines["outer-upper"],
                OuterLower = lines["outer-lower"],
                InnerUpper = lines["inner-upper"],
                InnerLower = lines["inner-lower"],
            },
            BrowLeft = lines["brow-left"],
            BrowRight = lines["brow-right"],
            Nose = lines["nose"],
            EyeLeft = Eye(marks.EyeLeft, Left),
            EyeRight = Eye(marks.EyeRight, Right),
        };
    }

    private static int IndexOf(Seat seat, int count) =>
        seat.Line == "outline" ? (int)MathF.Round(seat.At * count) % count : (int)MathF.Round(seat.At * (count - 1));

    /// <summary>All handles of a face.</summary>
    public static IReadOnlyList<MarkHandle> Of(PortraitMarks marks)
    {
        var lines = LinesOf(marks);
        return [.. SeatsOf(marks).Select(s => new MarkHandle(s.Key, lines[s.Value[0].Line][IndexOf(s.Value[0], lines[s.Value[0].Line].Length)]))];
    }

    /// <summary>Lines of a face, to be drawn over its picture.</summary>
    public static IReadOnlyList<Mark[]> Drawn(PortraitMarks marks)
    {
        var lines = LinesOf(marks);
        return [.. lines.Where(l => l.Key != "nose" && l.Value.Length > 1).Select(l => l.Key == "outline" ? [.. l.Value, l.Value[0]] : l.Value)];
    }

    /// <summary>Moves a handle.</summary>
    /// <param name="marks">The face.</param>
    /// <param name="name">Of the handle; one that is not there moves nothing.</param>
    /// <param name="to">Where it goes.</param>
    /// <param name="isPaired">Its partner on the other side goes along, mirrored.</param>
    public static PortraitMarks Move(PortraitMarks marks, string name, Mark to, bool isPaired)
    {
        var seats = SeatsOf(marks);
        if (!seats.TryGetValue(name, out var own))
            return marks;
        var lines = LinesOf(marks);
        var from = lines[own[0].Line][IndexOf(own[0], lines[own[0].Line].Length)];
        var by = (Vector2)to - from;
        var across = Vector2.Normalize((Vector2)marks.Mouth.OuterUpper[^1] - marks.Mouth.OuterUpper[0]);
        Shift(lines, seats, own, by);
        if (isPaired && PartnerOf(name) is { } partner && seats.TryGetValue(partner, out var other))
            Shift(lines, seats, other, by - 2 * Vector2.Dot(by, across) * across);
        return Of(marks, lines);
    }

    private static string? PartnerOf(string name) =>
        name.EndsWith(Left, StringComparison.Ordinal) ? name[..^Left.Length] + Right
        : name.EndsWith(Right, StringComparison.Ordinal) ? name[..^Right.Length] + Left
        : null;

    private static void Shift(Dictionary<string, Mark[]> lines, Dictionary<string, Seat[]> seats, Seat[] own, Vector2 by)
    {
        foreach (var seat in own)
        {
            var line = lines[seat.Line];
            var n = line.Length;
            var isRing = seat.Line == "outline";
            int at = IndexOf(seat, n);
            int[] others = [.. seats.Values.SelectMany(s => s).Where(s => s.Line == seat.Line).Select(s => IndexOf(s, n)).Where(i => i != at).Distinct()];
            // Up to the next handle on each side; a line's end takes all of it.
            for (var step = 0; step < n; step++)
                foreach (var side in step == 0 ? new[] { 1 } : [1, -1])
                {
                    var i = at + side * step;
                    if (isRing)
                        i = (i % n + n) % n;
                    else if (i < 0 || i >= n)
                        continue;
                    var next = Next(at, side, others, n, isRing);
                    if (next > 0 && step < next)
                        line[i] = (Vector2)line[i] + (1 - (float)step / next) * by;
                }
        }
    }

    // How many marks it is to the next handle in a direction.
    private static int Next(int at, int side, int[] others, int n, bool isRing)
    {
        for (var step = 1; step < n; step++)
        {
            var i = at + side * step;
            if (!isRing && (i < 0 || i >= n))
                return step;
            if (others.Contains(isRing ? (i % n + n) % n : i))
                return step;
        }
        return n;
    }
}
