using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.ChangeTracking;

namespace Zamblo.Data;

/// <summary>An edit was made on an older state, and what it touches has changed since; nothing was changed.</summary>
public sealed class StaleRevisionException(long current, string message) : Exception(message)
{
    /// <summary>The revision that holds.</summary>
    public long Current { get; } = current;
}

/// <summary>There is no such thing, or no longer.</summary>
public sealed class NotFoundException(string what) : Exception($"There is no {what} here any more.");

/// <summary>What came of an edit.</summary>
/// <param name="Revision">That holds now.</param>
/// <param name="Changed">The rows that were changed: names of their kinds and their ids.</param>
public sealed record EditDone(long Revision, IReadOnlyList<(string Kind, Guid Id)> Changed);

/// <summary>
/// Edits with history: one command, one transaction, one entry. What an edit did is kept as rows before and after, so every edit can be
/// undone and redone without code of its own, also after a restart.
/// </summary>
public sealed class ProductionStore(IDbContextFactory<ZambloContext> contexts)
{
    // So many edits of others may lie between the state that an edit was made on and the one that it meets.
    private const int KeptTraces = 2000;

    // What the history itself moves, and whose a production is, is no part of an edit.
    private static readonly HashSet<string> Bookkeeping =
    [
        nameof(Production.Revision),
        nameof(Production.HistoryPosition),
        nameof(Production.Modified),
        nameof(Production.TeamId),
    ];

    /// <summary>Makes an edit.</summary>
    /// <param name="production">Whose.</param>
    /// <param name="expected">The revision that the edit was made on; null for work that does not depend on one. An edit of an older state is carried out
    /// unless it touches what has changed since.</param>
    /// <param name="edit">Changes tracked rows, which it loads in their present state, and gives what people read in the history: "Delete line 4".</param>
    /// <returns>The new revision, and the kinds of rows that were changed; the same revision and none where nothing was.</returns>
    /// <exception cref="StaleRevisionException">What it touches has changed since.</exception>
    /// <exception cref="NotFoundException">There is no such production.</exception>
    public Task<EditDone> EditAsync(Guid production, long? expected, Func<ZambloContext, Production, Task<string>> edit)
    {
        var attempt = Guid.NewGuid();
        return contexts.TransactAsync(db => EditAsync(db, production, expected, edit, attempt), db => IsThereAsync(db, production, attempt));
    }

    private static async Task<EditDone> EditAsync(
        ZambloContext db,
        Guid production,
        long? expected,
        Func<ZambloContext, Production, Task<string>> edit,
        Guid attempt
    )
    {
        var root = await LoadAsync(db, production);
        if (expected > root.Revision)
            throw new StaleRevisionException(root.Revision, "This page knows of changes that are not there; it is brought up to date.");
        var name = await edit(db, root);
        db.ChangeTracker.DetectChanges();
        var parts = ProductionRows.Types(db.Model).Select(t => t.ClrType).ToHashSet();
        var changes = db
            .ChangeTracker.Entries()
            .Where(e => parts.Contains(e.Entity.GetType()) && e.State is EntityState.Added or EntityState.Modified or EntityState.Deleted)
            .Select(Describe)
            .OfType<RowChange>()
            .ToList();
        // What else was added, such as work for later, belongs to the same transaction.
        if (changes.Count == 0 && !db.ChangeTracker.HasChanges())
            return new EditDone(root.Revision, []);
        if (expected < root.Revision)
            await CheckAsync(db, root, expected.Value, changes);
        if (changes.Count == 0)
        {
            await db.SaveChangesAsync();
            return new EditDone(root.Revision, []);
        }
        await db.History.Where(h => h.ProductionId == production && h.Position > root.HistoryPosition).ExecuteDeleteAsync();
        root.HistoryPosition++;
        db.History.Add(
            new HistoryEntry
            {
                ProductionId = production,
                Position = root.HistoryPosition,
                Name = name,
                Changes = JsonSerializer.Serialize(changes),
                At = DateTime.UtcNow,
                By = ActingPerson.Name,
            }
        );
        var revision = await SaveAsync(db, root, changes, attempt);
        return new EditDone(revision, [.. changes.Select(c => (c.Type, c.Key.Values.First().GetGuid()))]);
    }

    // An edit of an older state holds where nothing that it touches has changed since.
    private static async Task CheckAsync(ZambloContext db, Production root, long expected, IReadOnlyList<RowChange> changes)
    {
        var traces = await db.Traces.AsNoTracking().Where(t => t.ProductionId == root.Id && t.Revision > expected).Select(t => t.Touched).ToListAsync();
        if (traces.Count < root.Revision - expected)
            throw new StaleRevisionException(root.Revision, "Too much has changed here since this page was up to date; it shows now how things stand.");
        var since = traces.SelectMany(t => JsonSerializer.Deserialize<string[]>(t)!).ToHashSet();
        foreach (var change in changes)
        foreach (var mine in EditFootprint.Of(change))
            if (since.Any(other => EditFootprint.Meet(mine, other)))
                throw new StaleRevisionException(root.Revision, Sentence(change, mine));
    }

    private static string Sentence(RowChange change, string touched)
    {
        var property = touched[change.Row.Length..].TrimStart(':').Split('.')[0];
        if (change.Before == null || change.After == null || !change.Before.TryGetValue(property, out var now))
            return "Somebody else changed this in the meantime; here is how it stands now.";
        var text = now.ValueKind == JsonValueKind.String ? now.GetString()! : now.GetRawText();
        var isReadable = text.Length is > 0 and <= 200 && text[0] is not ('{' or '[') && !Guid.TryParse(text, out _);
        return isReadable
            ? $"Somebody else changed this in the meantime: it is \"{text}\" now."
            : "Somebody else changed this in the meantime; here is how it stands now.";
    }

    /// <summary>Takes the last edit back. Returns its name, or null when there is none.</summary>
    public Task<string?> UndoAsync(Guid production, long? expected) => MoveAsync(production, expected, forward: false);

    /// <summary>Makes the last edit that was taken back again. Returns its name, or null when there is none.</summary>
    public Task<string?> RedoAsync(Guid production, long? expected) => MoveAsync(production, expected, forward: true);

    /// <summary>Names of the edits that undo and redo would move over, with who made them where somebody has said so.</summary>
    public async Task<(string? Undo, string? Redo)> NamesAsync(Guid production)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var at = await db.Productions.Where(p => p.Id == production).Select(p => p.HistoryPosition).FirstOrDefaultAsync();
        var names = await db
            .History.Where(h => h.ProductionId == production && (h.Position == at || h.Position == at + 1))
            .ToDictionaryAsync(h => h.Position, h => h.By == null ? h.Name : $"{h.Name} ({h.By})");
        return (names.GetValueOrDefault(at), names.GetValueOrDefault(at + 1));
    }

    private Task<string?> MoveAsync(Guid production, long? expected, bool forward)
    {
        var attempt = Guid.NewGuid();
        return contexts.TransactAsync(db => MoveAsync(db, production, expected, forward, attempt), db => IsThereAsync(db, production, attempt));
    }

    private static async Task<string?> MoveAsync(ZambloContext db, Guid production, long? expected, bool forward, Guid attempt)
    {
        var root = await LoadAsync(db, production);
        // Exactly: else what would be taken back is not what was seen.
        if (expected is { } seen && seen != root.Revision)
            throw new StaleRevisionException(
                root.Revision,
                "Something was changed in the meantime, and that would be taken back; look at it, and press again."
            );
        var position = forward ? root.HistoryPosition + 1 : root.HistoryPosition;
        var entry = await db.History.FirstOrDefaultAsync(h => h.ProductionId == production && h.Position == position);
        if (entry == null)
            return null;
        var changes = JsonSerializer.Deserialize<List<RowChange>>(entry.Changes)!;
        if (!forward)
            changes.Reverse();
        foreach (var change in changes)
            await ApplyAsync(db, change.Type, change.Key, forward ? change.After : change.Before);
        root.HistoryPosition += forward ? 1 : -1;
        await SaveAsync(db, root, changes, attempt);
        return entry.Name;
    }

    private static Task<bool> IsThereAsync(ZambloContext db, Guid production, Guid attempt) =>
        db.Traces.AnyAsync(t => t.ProductionId == production && t.Attempt == attempt);

    // A file lets one writer in at a time; on a server edits of one production wait for each other here, those of others go on.
    private static async Task<Production> LoadAsync(ZambloContext db, Guid production)
    {
        var query = db.IsServer
            ? db.Productions.FromSql($"""SELECT * FROM "Productions" WHERE "Id" = {production} FOR UPDATE""")
            : db.Productions.Where(p => p.Id == production);
        return (await query.ToListAsync()).FirstOrDefault() ?? throw new NotFoundException("such production");
    }

    private static async Task<long> SaveAsync(ZambloContext db, Production root, IReadOnlyList<RowChange> changes, Guid attempt)
    {
        root.Revision++;
        root.Modified = DateTime.UtcNow;
        db.Traces.Add(
            new EditTrace
            {
                ProductionId = root.Id,
                Revision = root.Revision,
                Attempt = attempt,
                Touched = JsonSerializer.Serialize(changes.SelectMany(EditFootprint.Of)),
            }
        );
        if (root.Revision % 100 == 0)
            await db.Traces.Where(t => t.ProductionId == root.Id && t.Revision <= root.Revision - KeptTraces).ExecuteDeleteAsync();
        try
        {
            await db.SaveChangesAsync();
        }
        catch (DbUpdateConcurrencyException)
        {
            throw new StaleRevisionException(root.Revision, "Somebody else changed this in the same moment; here is how it stands now.");
        }
        return root.Revision;
    }

    private static RowChange? Describe(EntityEntry entry)
    {
        Dictionary<string, JsonElement> Values(PropertyValues values) =>
            entry
                .Metadata.GetProperties()
                .Where(p => !Bookkeeping.Contains(p.Name))
                .ToDictionary(p => p.Name, p => JsonSerializer.SerializeToElement(values[p.Name], p.ClrType));
        var before = entry.State == EntityState.Added ? null : Values(entry.OriginalValues);
        var after = entry.State == EntityState.Deleted ? null : Values(entry.CurrentValues);
        if (before != null && after != null && before.All(b => b.Value.GetRawText() == after[b.Key].GetRawText()))
            return null;
        var key = entry.Metadata.FindPrimaryKey()!.Properties.ToDictionary(p => p.Name, p => (before ?? after)![p.Name]);
        return new RowChange(entry.Metadata.ClrType.Name, key, before, after);
    }

    private static async Task ApplyAsync(ZambloContext db, string typeName, Dictionary<string, JsonElement> key, Dictionary<string, JsonElement>? target)
    {
        var type = db.Model.GetEntityTypes().First(t => t.ClrType.Name == typeName && ProductionRows.IsPart(db.Model, t.ClrType));
        var keys = type.FindPrimaryKey()!.Properties.Select(p => key[p.Name].Deserialize(p.ClrType)).ToArray();
        var entity = await db.FindAsync(type.ClrType, keys);
        if (target == null)
        {
            if (entity != null)
                db.Remove(entity);
            return;
        }
        var entry = entity == null ? db.Entry(Activator.CreateInstance(type.ClrType)!) : db.Entry(entity);
        foreach (var property in type.GetProperties())
            if (target.TryGetValue(property.Name, out var value))
                entry.Property(property.Name).CurrentValue = value.Deserialize(property.ClrType);
        if (entity == null)
            entry.State = EntityState.Added;
    }
}
