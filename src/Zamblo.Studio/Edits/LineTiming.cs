using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Data;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>Lines are moved in time, and what comes after them.</summary>
internal static class LineTiming
{
    /// <summary>What each line of a scene comes after.</summary>
    public static IReadOnlyDictionary<Guid, Guid> Before(IEnumerable<Line> lines)
    {
        Line[] order = [.. lines.OrderBy(l => l.Order)];
        return order.Zip(order.Skip(1)).ToDictionary(p => p.Second.Id, p => p.First.Id);
    }

    /// <summary>Who was said at once with a line that is not before it any more follows whatever is.</summary>
    public static void Apart(IEnumerable<Line> lines, IReadOnlyDictionary<Guid, Guid> before)
    {
        var now = Before(lines);
        foreach (var line in lines.Where(l => l.IsTogether && (!now.TryGetValue(l.Id, out var one) || one != before.GetValueOrDefault(l.Id))))
            line.IsTogether = false;
    }

    /// <summary>
    /// Moves a line to a moment, or by a pause that is given (null is the scene's). What comes after it goes along: lines that follow do by
    /// themselves, those that stand at a moment of their own are moved by as much; alone, the next one stays where it is.
    /// </summary>
    public static async Task MoveAsync(ZambloContext db, LoadedScene scene, Line line, double? at, double? pause, bool isAlone)
    {
        var order = scene.Evaluated.Lines;
        var index = order.ToList().FindIndex(l => l.Id.Value == line.Id);
        if (index < 0)
            throw new RequestException("This line has no voice yet: there is nothing to move.");
        var (times, starts) = scene.Timing();
        line.IsTogether = false;
        // The first one follows nothing.
        (line.Start, line.Pause) = at is { } moment
            ? Timing.PauseFor(times, starts, index, moment) is { } found
                ? (null, found)
                : (moment, null)
            : ((double?)null, pause);
        times[index] = times[index] with { Start = line.Start, Pause = line.Pause, IsTogether = false };
        var document = scene.Evaluated.Document;
        var by = Timing.Lay(times[..(index + 1)], document.LeadIn, document.Gap, document.Rate)[index] - starts[index];
        if (!isAlone)
        {
            // Those that follow do so by themselves.
            var later = order.Skip(index + 1).Where(l => l.Time.Start != null).Select(l => l.Id.Value).ToHashSet();
            if (later.Count > 0)
                foreach (var other in await db.Lines.Where(l => l.SceneId == line.SceneId && l.Start != null).ToListAsync())
                    if (later.Contains(other.Id))
                        other.Start = Math.Max(0, other.Start!.Value + by);
            return;
        }
        if (index + 1 == order.Count)
            return;
        starts[index] += by;
        var next = await db.Lines.FirstAsync(l => l.Id == order[index + 1].Id.Value);
        if (next.Start == null)
            next.Pause = Timing.PauseFor(times, starts, index + 1, starts[index + 1]);
    }

    /// <summary>
    /// Lines that stand at moments of their own follow each other with the pauses that they have: what comes between, or is longer, finds room.
    /// </summary>
    /// <param name="scene">As it is.</param>
    /// <param name="lines">Rows to be changed, by the id that the line has in the scene.</param>
    public static void Relax(LoadedScene scene, IReadOnlyDictionary<Guid, Line> lines)
    {
        var (times, starts) = scene.Timing();
        for (var i = 1; i < starts.Length; i++)
        {
            var line = lines[scene.Evaluated.Lines[i].Id.Value];
            if (line.Start != null)
                (line.Start, line.Pause) = (null, Timing.PauseFor(times, starts, i, starts[i]) is { } pause ? Math.Round(pause, 3) : null);
        }
    }

    /// <summary>When its start moves by so many seconds, what is left of a line stays where it was in the scene.</summary>
    public static void KeepInPlace(LoadedScene scene, Line line, double by)
    {
        var index = scene.Evaluated.Lines.ToList().FindIndex(l => l.Id.Value == line.Id);
        var (times, starts) = scene.Timing();
        var was = times[index];
        times[index] = was with { Duration = was.Duration - by, First = Math.Max(0, was.First - by), Last = Math.Max(0, was.Last - by) };
        var place = starts[index] + by;
        if (line.Start != null)
            line.Start = place;
        else if (was.First < by || was.First == 0)
        {
            if (Timing.PauseFor(times, starts, index, place) is { } pause)
                line.Pause = pause;
            else
                line.Start = Math.Max(0, place);
        }
    }

    /// <summary>
    /// After the boundary between two turns has moved (<see cref="LineHands.MoveBoundary"/>): the later one goes on where the earlier ends, and where
    /// they are further apart in the scene what is left of it stays in its place.
    /// </summary>
    public static void KeepBoundary(LoadedScene scene, PlacedLine first, PlacedLine second, Line row, double gap, double by)
    {
        var place = second.Start + (by > 0 ? by : by - gap);
        if (second.Start >= first.Start)
            place = Math.Max(place, first.Start + first.Duration + (by > 0 ? gap + by : by));
        var lines = scene.Evaluated.Lines.ToList();
        int one = lines.FindIndex(l => l.Id == first.Id),
            two = lines.FindIndex(l => l.Id == second.Id);
        var (times, starts) = scene.Timing();
        if (row.Start != null || two == 0)
        {
            row.Start = Math.Max(0, place);
            return;
        }
        // Where the first and the last sound lie now.
        var cut = by > 0 ? by : first.Duration + by;
        var giver = by > 0 ? second : first;
        LineTime Of(double from, double to) => LineTime.Of(to - from, LineHands.Part(giver.Speech, from, to));
        var (moved, left) = by > 0 ? (Of(0, cut), Of(cut, second.Duration)) : (Of(cut, first.Duration), Of(0, cut));
        times[one] = times[one] with { Last = by > 0 ? first.Duration + gap + moved.Last : left.Last };
        times[two] = times[two] with { First = by > 0 ? left.First : moved.First };
        if (Timing.PauseFor(times, starts, two, place) is { } pause)
            row.Pause = pause;
    }
}
