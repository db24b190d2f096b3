using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Scenes;
using Zamblo.Data;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

internal sealed class MarkEdits : IEditHandler<SetFloorMark>, IEditHandler<LiftFloorMark>
{
    private static FloorMarks MarksOf(EditScope scope) => Column.Read<FloorMarks>(scope.Production.Marks).Clamped();

    public async Task ApplyAsync(SetFloorMark edit, EditScope scope)
    {
        var floor = FloorMark.FloorOf(await scope.Db.Scenes.Where(s => s.Id == edit.Scene).Select(s => s.Backdrop).FirstAsync());
        var all = MarksOf(scope).All.ToList();
        var old = edit.Mark is { } id ? all.Find(m => m.Id == id) ?? throw new NotFoundException("such mark") : null;
        if (old == null && all.Count >= FloorMark.Most)
            throw new RequestException($"A production has at most {FloorMark.Most} marks.");
        var name =
            edit.Name != null
                ? Check.Name(edit.Name, FloorMark.LongestName, "The name of a mark")
                : old?.Name ?? FreeName(all.Where(m => m.Floor == floor).Select(m => m.Name));
        var x = edit.X is { } at ? (float)Check.Range(at, FloorMark.Leftmost, FloorMark.Rightmost, "A place") : old?.X ?? 640;
        var mark = new FloorMark(old?.Id ?? Guid.NewGuid(), old?.Floor ?? floor, name, MathF.Round(x, 1));
        if (old == null)
            all.Add(mark);
        else
            all[all.IndexOf(old)] = mark;
        scope.Name =
            old == null ? $"Mark \"{name}\""
            : edit.X != null ? $"Move the mark \"{name}\""
            : "Rename a mark";
        scope.Production.Marks = Column.Write(new FloorMarks { All = all });
        scope.Answer = new EditAnswer { Id = mark.Id };
    }

    public async Task ApplyAsync(LiftFloorMark edit, EditScope scope)
    {
        var all = MarksOf(scope).All.ToList();
        var old = all.Find(m => m.Id == edit.Mark) ?? throw new NotFoundException("such mark");
        scope.Name = $"Lift the mark \"{old.Name}\"";
        all.Remove(old);
        scope.Production.Marks = all.Count == 0 ? "" : Column.Write(new FloorMarks { All = all });
        // Whoever was to go there goes there all the same.
        var scenes = await scope.Db.Scenes.Where(s => s.ProductionId == scope.Production.Id).Select(s => s.Id).ToListAsync();
        foreach (var row in await scope.Db.Clips.Where(c => scenes.Contains(c.SceneId) && c.Kind == Core.Score.ClipKind.Walk).ToListAsync())
            if (ClipRows.Read(row) is Core.Score.WalkClip walk && walk.Mark == old.Id)
                ClipRows.Write(walk with { To = old.X, Mark = null }, row);
    }

    private static string FreeName(IEnumerable<string> taken)
    {
        var names = taken.ToHashSet(StringComparer.OrdinalIgnoreCase);
        return Enumerable.Range(0, FloorMark.Most + 1).Select(i => $"Mark {i + 1}").First(n => !names.Contains(n));
    }
}
