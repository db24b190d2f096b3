using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.ChangeTracking;

namespace Zamblo.Data;

/// <summary>An edit was made on a state that is no longer the current one; nothing was changed.</summary>
public sealed class StaleRevisionException(long current) : Exception("Somebody else changed this production in the meantime; here is how it stands now.")
{
    /// <summary>The revision that holds.</summary>
    public long Current { get; } = current;
}

/// <summary>There is no such thing, or no longer.</summary>
public sealed class NotFoundException(string what) : Exception($"There is no {what} here any more.");

/// <summary>
/// Edits with history: one command, one transaction, one entry. What an edit did is kept as rows before and after, so every edit can be
/// undone and redone without code of its own, also after a restart.
/// </summary>
public sealed class ProductionStore(IDbContextFactory<ZambloContext> contexts)
{
    private sealed record RowChange(string Type, Dictionary<string, JsonElement> Key, Dictionary<string, JsonElement>? Before, Dictionary<string, JsonElement>? After);

    // What the history itself moves is no part of an edit.
    private static readonly HashSet<string> Bookkeeping = [nameof(Production.Revision), nameof(Production.HandRevision), nameof(Production.HistoryPosition), nameof(Production.Modified)];
    private static readonly Type[] Recorded = [typeof(Production), typeof(Scene), typeof(CastMember), typeof(Line), typeof(Take), typeof(LineTouch), typeof(ScoreClip), typeof(SceneSound), typeof(TakeMark), typeof(TakePin), typeof(Respelling)];

    /// <summary>Makes an edit.</summary>
    /// <param name="production">Whose.</param>
    /// <param name="expected">The revision that the edit was made on; null for work that does not depend on it. What such work has changed since is no reason to
    /// refuse an edit.</param>
    /// <param name="name">What people read in the history: "Delete line 4".</param>
    /// <param name="edit">Changes tracked rows; must load the rows that it deletes.</param>
    /// <returns>The new revision.</returns>
    /// <exception cref="StaleRevisionException">The production has moved on.</exception>
    /// <exception cref="NotFoundException">There is no such production.</exception>
    public async Task<long> EditAsync(Guid production, long? expected, string name, Func<ZambloContext, Task> edit)
    {
        await using var db = await contexts.CreateDbContextAsync();
        await using var transaction = await db.Database.BeginTransactionAsync();
        var root = await LoadAsync(db, production);
        if (expected is { } seen && (seen < root.HandRevision || seen > root.Revision)) throw new StaleRevisionException(root.Revision);
        await edit(db);
        db.ChangeTracker.DetectChanges();
        var changes = db.ChangeTracker.Entries().Where(e => Recorded.Contains(e.Entity.GetType()) && e.State is EntityState.Added or EntityState.Modified or EntityState.Deleted)
            .Select(Describe).OfType<RowChange>().ToList();
        if (changes.Count == 0) return root.Revision;
        await db.History.Where(h => h.ProductionId == production && h.Position > root.HistoryPosition).ExecuteDeleteAsync();
        root.HistoryPosition++;
        db.History.Add(new HistoryEntry { ProductionId = production, Position = root.HistoryPosition, Name = name, Changes = JsonSerializer.Serialize(changes), At = DateTime.UtcNow });
        return await CommitAsync(db, transaction, root, isByHand: expected != null);
    }

    /// <summary>Takes the last edit back. Returns its name, or null when there is none.</summary>
    public Task<string?> UndoAsync(Guid production, long? expected) => MoveAsync(production, expected, forward: false);

    /// <summary>Makes the last edit that was taken back again. Returns its name, or null when there is none.</summary>
    public Task<string?> RedoAsync(Guid production, long? expected) => MoveAsync(production, expected, forward: true);

    /// <summary>Names of the edits that undo and redo would move over.</summary>
    public async Task<(string? Undo, string? Redo)> NamesAsync(Guid production)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var at = await db.Productions.Where(p => p.Id == production).Select(p => p.HistoryPosition).FirstOrDefaultAsync();
        var names = await db.History.Where(h => h.ProductionId == production && (h.Position == at || h.Position == at + 1)).ToDictionaryAsync(h => h.Position, h => h.Name);
        return (names.GetValueOrDefault(at), names.GetValueOrDefault(at + 1));
    }

    private async Task<string?> MoveAsync(Guid production, long? expected, bool forward)
    {
        await using var db = await contexts.CreateDbContextAsync();
        await using var transaction = await db.Database.BeginTransactionAsync();
        var root = await LoadAsync(db, production);
        // Exactly: else what would be taken back is not what was seen.
        if (expected is { } seen && seen != root.Revision) throw new StaleRevisionException(root.Revision);
        var position = forward ? root.HistoryPosition + 1 : root.HistoryPosition;
        var entry = await db.History.FirstOrDefaultAsync(h => h.ProductionId == production && h.Position == position);
        if (entry == null) return null;
        var changes = JsonSerializer.Deserialize<List<RowChange>>(entry.Changes)!;
        if (!forward) changes.Reverse();
        foreach (var change in changes) await ApplyAsync(db, change.Type, change.Key, forward ? change.After : change.Before);
        root.HistoryPosition += forward ? 1 : -1;
        await CommitAsync(db, transaction, root, isByHand: true);
        return entry.Name;
    }

    private static async Task<Production> LoadAsync(ZambloContext db, Guid production) =>
        await db.Productions.FirstOrDefaultAsync(p => p.Id == production) ?? throw new NotFoundException("such production");

    private static async Task<long> CommitAsync(ZambloContext db, Microsoft.EntityFrameworkCore.Storage.IDbContextTransaction transaction, Production root, bool isByHand)
    {
        root.Revision++;
        if (isByHand) root.HandRevision = root.Revision;
        root.Modified = DateTime.UtcNow;
        try
        {
            await db.SaveChangesAsync();
        }
        catch (DbUpdateConcurrencyException)
        {
            throw new StaleRevisionException(root.Revision);
        }
        await transaction.CommitAsync();
        return root.Revision;
    }

    private static RowChange? Describe(EntityEntry entry)
    {
        Dictionary<string, JsonElement> Values(PropertyValues values) => entry.Metadata.GetProperties().Where(p => !Bookkeeping.Contains(p.Name))
            .ToDictionary(p => p.Name, p => JsonSerializer.SerializeToElement(values[p.Name], p.ClrType));
        var before = entry.State == EntityState.Added ? null : Values(entry.OriginalValues);
        var after = entry.State == EntityState.Deleted ? null : Values(entry.CurrentValues);
        if (before != null && after != null && before.All(b => b.Value.GetRawText() == after[b.Key].GetRawText())) return null;
        var key = entry.Metadata.FindPrimaryKey()!.Properties.ToDictionary(p => p.Name, p => (before ?? after)![p.Name]);
        return new RowChange(entry.Metadata.ClrType.Name, key, before, after);
    }

    private static async Task ApplyAsync(ZambloContext db, string typeName, Dictionary<string, JsonElement> key, Dictionary<string, JsonElement>? target)
    {
        var type = db.Model.GetEntityTypes().First(t => t.ClrType.Name == typeName && Recorded.Contains(t.ClrType));
        var keys = type.FindPrimaryKey()!.Properties.Select(p => key[p.Name].Deserialize(p.ClrType)).ToArray();
        var entity = await db.FindAsync(type.ClrType, keys);
        if (target == null)
        {
            if (entity != null) db.Remove(entity);
            return;
        }
        var entry = entity == null ? db.Entry(Activator.CreateInstance(type.ClrType)!) : db.Entry(entity);
        foreach (var property in type.GetProperties())
            if (target.TryGetValue(property.Name, out var value)) entry.Property(property.Name).CurrentValue = value.Deserialize(property.ClrType);
        if (entity == null) entry.State = EntityState.Added;
    }
}
