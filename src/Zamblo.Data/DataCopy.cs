using System.Data;
using System.Reflection;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;

namespace Zamblo.Data;

/// <summary>All rows of one database brought into another, of either kind: how a file becomes a server's database, and a server's a backup.</summary>
public static class DataCopy
{
    // Rows of the history are the largest, with some kilobytes each.
    private const int AtOnce = 200;

    private static readonly MethodInfo Kind = typeof(DataCopy).GetMethod(nameof(CopyOf), BindingFlags.NonPublic | BindingFlags.Static)!;

    /// <summary>Copies everything as of one moment, whoever writes meanwhile; all of it is there afterwards, or nothing.</summary>
    /// <param name="from">Has the same model, upgraded.</param>
    /// <param name="to">Is upgraded, and empty.</param>
    /// <param name="cancel">Leaves the target as it was.</param>
    /// <returns>How many rows there are.</returns>
    /// <exception cref="DataNotEmptyException">There is something in the target.</exception>
    public static Task<int> RunAsync(IDbContextFactory<ZambloContext> from, IDbContextFactory<ZambloContext> to, CancellationToken cancel = default) =>
        from.TransactAsync(source => to.TransactAsync(target => CopyAsync(source, target, cancel)), isolation: IsolationLevel.RepeatableRead);

    private static async Task<int> CopyAsync(ZambloContext from, ZambloContext to, CancellationToken cancel)
    {
        if (await to.Productions.AnyAsync(cancel) || await to.People.AnyAsync(cancel) || await to.Assets.AnyAsync(cancel))
            throw new DataNotEmptyException();
        var rows = 0;
        foreach (var type in InOrder(to.Model))
            rows += await (Task<int>)Kind.MakeGenericMethod(type.ClrType).Invoke(null, [from, to, cancel])!;
        if (to.IsServer)
            foreach (var type in to.Model.GetEntityTypes())
                if (type.FindPrimaryKey()!.Properties is [{ ValueGenerated: ValueGenerated.OnAdd } number] && number.ClrType == typeof(long))
                    await CountOnAsync(to, type.GetTableName()!, number.GetColumnName(), cancel);
        return rows;
    }

    // Kinds of rows, those that are referred to before those that refer.
    private static IEnumerable<IEntityType> InOrder(IModel model)
    {
        var left = model.GetEntityTypes().ToList();
        while (left.Count > 0)
        {
            var next =
                left.FirstOrDefault(t => t.GetForeignKeys().All(k => k.PrincipalEntityType == t || !left.Contains(k.PrincipalEntityType)))
                ?? throw new InvalidOperationException("The model's foreign keys go in a circle.");
            left.Remove(next);
            yield return next;
        }
    }

    private static async Task<int> CopyOf<T>(ZambloContext from, ZambloContext to, CancellationToken cancel)
        where T : class
    {
        var count = 0;
        await foreach (var row in from.Set<T>().AsNoTracking().AsAsyncEnumerable().WithCancellation(cancel))
        {
            to.Add(row);
            if (++count % AtOnce == 0)
                await SaveAsync();
        }
        await SaveAsync();
        return count;

        async Task SaveAsync()
        {
            await to.SaveChangesAsync(cancel);
            to.ChangeTracker.Clear();
        }
    }

    // A server's own counter does not know of numbers that were brought along.
    private static Task<int> CountOnAsync(ZambloContext db, string table, string column, CancellationToken cancel)
    {
#pragma warning disable EF1002 // Names of the model's own tables and columns.
        return db.Database.ExecuteSqlRawAsync(
            $"""SELECT setval(pg_get_serial_sequence('"{table}"', '{column}'), (SELECT coalesce(max("{column}"), 0) + 1 FROM "{table}"), false)""",
            cancel
        );
#pragma warning restore EF1002
    }
}

/// <summary>There is something already where a copy was to go; nothing was changed.</summary>
public sealed class DataNotEmptyException() : Exception("There are productions in that database already: name an empty one.");
