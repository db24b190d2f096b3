using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Data;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>
/// The one way to change a production: finds whose it is, lets the edit's handler prepare and change rows in one transaction with one entry in
/// the history, then sends off the work that was ordered, has listened to what sounds new, and tells every open page.
/// </summary>
public sealed class EditRunner(
    ProductionStore store,
    IDbContextFactory<ZambloContext> contexts,
    SceneDesk scenes,
    HearingDesk hearings,
    JobDesk jobs,
    NewsDesk news,
    DataFolder folder,
    IServiceProvider services
)
{
    /// <summary>Makes an edit.</summary>
    /// <exception cref="StaleRevisionException">What it touches has changed since the revision that it was made on.</exception>
    /// <exception cref="NotFoundException">What it is aimed at is not there.</exception>
    /// <exception cref="RequestException">It cannot be done.</exception>
    public async Task<EditAnswer> RunAsync<T>(T edit, CancellationToken cancel = default)
        where T : Edit
    {
        var handler = services.GetRequiredService<IEditHandler<T>>();
        // Even looking takes room: SQLite's shared memory may have to grow.
        var production = await folder.WithRoomAsync(() => ProductionOfAsync(edit.Target));
        var prepared = await handler.PrepareAsync(edit, cancel);
        EditScope? scope = null;
        var done = await folder.WithRoomAsync(() =>
            store.EditAsync(
                production,
                edit.Revision,
                async (db, root) =>
                {
                    scope = new EditScope(db, root, scenes, prepared);
                    await handler.ApplyAsync(edit, scope);
                    return scope.Name;
                }
            )
        );
        await AfterAsync(production, done, scope!.Orders);
        return scope.Answer with { Revision = done.Revision };
    }

    /// <summary>Takes the last edit back, or makes it again. Returns its name, or null when there is none.</summary>
    public async Task<string?> MoveAsync(Guid production, long? revision, bool isForward)
    {
        var name = await folder.WithRoomAsync(() => isForward ? store.RedoAsync(production, revision) : store.UndoAsync(production, revision));
        if (name == null)
            return null;
        await using var db = await contexts.CreateDbContextAsync();
        await AskAsync(production);
        news.Tell(production, new News("changed", await db.Productions.Where(p => p.Id == production).Select(p => p.Revision).FirstAsync()));
        return name;
    }

    // What is to be heard is written down, too: on a full disk an edit that is in is not refused for that.
    private Task AskAsync(Guid production, HashSet<Guid>? lines = null) =>
        folder.WithRoomAsync(async () =>
        {
            await hearings.AskAsync(production, lines);
            return true;
        });

    private async Task AfterAsync(Guid production, EditDone done, IReadOnlyList<Job> orders)
    {
        foreach (var job in orders)
            jobs.Enqueue(job);
        if (done.Changed.Count == 0)
            return;
        // What is known about a sound may have changed for every line; else only the lines that were touched may sound new.
        var isWide = done.Changed.Any(c => c.Kind is nameof(Respelling) or nameof(CastMember) or nameof(TakeMark) or nameof(TakePin));
        if (isWide)
            await AskAsync(production);
        else if (await LinesOfAsync(done.Changed) is { Count: > 0 } lines)
            await AskAsync(production, lines);
        news.Tell(production, new News("changed", done.Revision));
    }

    private async Task<HashSet<Guid>> LinesOfAsync(IReadOnlyList<(string Kind, Guid Id)> changed)
    {
        Guid[] Of(string kind) => [.. changed.Where(c => c.Kind == kind).Select(c => c.Id)];
        var takes = Of(nameof(Take));
        HashSet<Guid> lines = [.. Of(nameof(Line))];
        if (takes.Length == 0)
            return lines;
        await using var db = await contexts.CreateDbContextAsync();
        lines.UnionWith(await db.Takes.Where(t => takes.Contains(t.Id)).Select(t => t.LineId).ToListAsync());
        return lines;
    }

    /// <summary>Whose a thing is.</summary>
    /// <exception cref="NotFoundException">It is not there.</exception>
    public async Task<Guid> ProductionOfAsync(EditTarget target)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var kind = target.Kind.ToString().ToLowerInvariant();
        return await Belonging.ProductionOfAsync(db, kind + "s", target.Id)
            ?? throw new NotFoundException(target.Kind == TargetKind.Member ? "such cast member" : "such " + kind);
    }
}
