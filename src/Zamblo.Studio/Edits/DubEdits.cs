using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Studio.Scenes;
using Zamblo.Studio.Views;

namespace Zamblo.Studio.Edits;

/// <summary>Lines of a version become as long as they are in another language: faster or slower, the pitch kept.</summary>
/// <param name="Beside">The production in the other language.</param>
/// <param name="Line">Only this one; null for all of the scene.</param>
public sealed record FitLines(Guid Beside, Guid? Line = null) : SceneEdit;

internal sealed class DubEdits(DubDesk dubs) : IEditHandler<FitLines>
{
    /// <summary>Slowest and fastest that a voice is made to fit: beyond that it sounds drawn out or hurried (common practice: a quarter).</summary>
    public const double Slowest = 0.8,
        Fastest = 1.25;

    // Nobody hears less.
    private const double Near = 0.02;

    public async Task<object?> PrepareAsync(FitLines edit, CancellationToken cancel) => await dubs.LinesAsync(edit.Beside);

    public async Task ApplyAsync(FitLines edit, EditScope scope)
    {
        var there = scope.Prepared<IReadOnlyDictionary<Guid, (LoadedScene Scene, Data.Line Line)>>();
        var scene = await scope.SceneAsync(edit.Scene);
        scope.Name = edit.Line == null ? "Fit the lines to the other language" : "Fit a line to the other language";
        var (fitted, problems) = (0, new List<string>());
        foreach (var line in scene.Lines.Where(l => edit.Line == null || l.Id == edit.Line))
        {
            if (scene.Find(line.Id) is not { } mine || !there.TryGetValue(DubDesk.KeyOf(line), out var other))
                continue;
            if (other.Scene.Find(other.Line.Id) is not { } theirs || other.Line.Id == line.Id)
                continue;
            var care = mine.Line.Care;
            var wanted = care.Speed * DubDesk.LengthOf(mine) / DubDesk.LengthOf(theirs);
            var speed = Math.Round(Math.Clamp(wanted, Slowest, Fastest), 3);
            if (Math.Abs(wanted / speed - 1) > Near)
                problems.Add(
                    FormattableString.Invariant(
                        $"{scene.Member(line.CastMemberId).RoleName}, {mine.Start:0.0} s: {wanted / speed:0.0} times as long all the same"
                    )
                );
            if (Math.Abs(speed / care.Speed - 1) < Near)
                continue;
            var take = await scope.Db.Takes.FirstAsync(t => t.Id == line.TakeId);
            take.Care = Column.Write((care with { Speed = speed }).Clamped(take.Duration));
            fitted++;
        }
        scope.Answer = new EditAnswer { Count = fitted, Problems = problems };
    }
}
