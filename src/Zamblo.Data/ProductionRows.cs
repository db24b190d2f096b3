using System.Linq.Expressions;
using System.Reflection;
using System.Text.RegularExpressions;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.ChangeTracking;
using Microsoft.EntityFrameworkCore.Metadata;

namespace Zamblo.Data;

/// <summary>
/// The rows that a production is made of, found from the model's own foreign keys: all that hangs on a production, directly or through
/// others. What is copied, deleted and recorded follows from this; a new kind of row needs nothing but its keys.
/// </summary>
public static partial class ProductionRows
{
    /// <summary>Annotation of a property that refers to a row without a foreign key; its value is the name of the entity.</summary>
    internal const string RefersTo = "Zamblo:RefersTo";

    // Made by the store itself, or made again from the rest.
    private static readonly Type[] Aside =
    [
        typeof(HistoryEntry),
        typeof(EditTrace),
        typeof(Asset),
        typeof(Hearing),
        typeof(Job),
        typeof(LookLink),
        typeof(Team),
        typeof(Membership),
        typeof(Invitation),
        typeof(Passkey),
        typeof(Remark),
    ];

    /// <summary>Kinds of rows of a production, parents before their children.</summary>
    public static IReadOnlyList<IEntityType> Types(IModel model)
    {
        var found = new List<IEntityType> { model.FindEntityType(typeof(Production))! };
        var left = model.GetEntityTypes().Where(t => !Aside.Contains(t.ClrType) && t.ClrType != typeof(Production) && Parents(t).Any()).ToList();
        while (left.Count > 0)
        {
            var next =
                left.FirstOrDefault(t => Parents(t).All(k => found.Contains(k.PrincipalEntityType) || k.PrincipalEntityType == t))
                ?? throw new InvalidOperationException("The model's foreign keys go in a circle.");
            left.Remove(next);
            found.Add(next);
        }
        return found;
    }

    /// <summary>Whether a row is part of a production, so that its changes are recorded.</summary>
    public static bool IsPart(IModel model, Type type) => Types(model).Any(t => t.ClrType == type);

    // Keys that lead to other rows of a production.
    private static IEnumerable<IForeignKey> Parents(IReadOnlyEntityType type) =>
        ((IEntityType)type).GetForeignKeys().Where(k => !Aside.Contains(k.PrincipalEntityType.ClrType));

    // The key that says what a row is part of: the first that it cannot do without.
    private static IForeignKey Owner(IEntityType type) => Parents(type).First(k => k.IsRequired);

    /// <summary>All rows of a production as they are in the database, kind by kind, parents first.</summary>
    public static async Task<IReadOnlyList<object>> LoadAsync(ZambloContext db, Guid production, bool isTracked)
    {
        var rows = new List<object>();
        var ids = new Dictionary<Type, HashSet<Guid>> { [typeof(Production)] = [production] };
        foreach (var type in Types(db.Model))
        {
            var own =
                type.ClrType == typeof(Production)
                    ? await QueryAsync(db, type, "Id", [production], isTracked)
                    : await QueryAsync(db, type, Owner(type).Properties[0].Name, ids[Owner(type).PrincipalEntityType.ClrType], isTracked);
            ids[type.ClrType] = [.. own.Select(r => IdOf(type, r))];
            rows.AddRange(own);
        }
        return rows;
    }

    /// <summary>
    /// Marks rows for deletion, with everything that hangs on them, as the context knows it: what an edit has moved elsewhere meanwhile stays.
    /// </summary>
    public static async Task RemoveAsync(ZambloContext db, IEnumerable<object> rows)
    {
        var gone = new HashSet<object>(ReferenceEqualityComparer.Instance);
        var left = new Queue<object>(rows);
        while (left.TryDequeue(out var row))
        {
            if (!gone.Add(row))
                continue;
            var type = db.Model.FindEntityType(row.GetType())!;
            var id = IdOf(type, row);
            foreach (var child in Types(db.Model))
            foreach (var key in Parents(child).Where(k => k.PrincipalEntityType == type))
            {
                var name = key.Properties[0].Name;
                foreach (var other in await QueryAsync(db, child, name, [id], isTracked: true))
                    if (db.Entry(other) is { State: not EntityState.Deleted } entry && Equals(entry.Property(name).CurrentValue, id))
                        left.Enqueue(other);
            }
        }
        // Children before their parents, or the model takes them for orphans.
        var order = Types(db.Model).Select((t, i) => (t.ClrType, i)).ToDictionary(x => x.ClrType, x => x.i);
        foreach (var row in gone.OrderByDescending(r => order[r.GetType()]))
            db.Remove(row);
    }

    /// <summary>Copies a production: every row anew, every reference to a copied row led to its copy, everything else as it is.</summary>
    /// <param name="db">Gets the new rows; they are not saved yet.</param>
    /// <param name="production">Which.</param>
    /// <returns>The new production.</returns>
    /// <exception cref="NotFoundException">There is none.</exception>
    public static async Task<Production> CopyAsync(ZambloContext db, Guid production)
    {
        var rows = await LoadAsync(db, production, isTracked: false);
        if (rows.Count == 0)
            throw new NotFoundException("such production");
        return Renew(db, rows);
    }

    /// <summary>Rows of a production that came from elsewhere: what refers to nothing is let go, every row gets a new id, and all are added.</summary>
    /// <param name="db">Gets the new rows; they are not saved yet.</param>
    /// <param name="rows">In any order; assets that they name must be known.</param>
    /// <param name="isAsset">Whether an asset is there.</param>
    /// <returns>The new production; null where there is not exactly one.</returns>
    public static Production? Take(ZambloContext db, IReadOnlyList<object> rows, Func<string, bool> isAsset)
    {
        var order = Types(db.Model).Select((t, i) => (t.ClrType, i)).ToDictionary(x => x.ClrType, x => x.i);
        var there = new Dictionary<Type, HashSet<Guid>>();
        var kept = new List<object>();
        foreach (var row in rows.OrderBy(r => order[r.GetType()]))
        {
            var type = db.Model.FindEntityType(row.GetType())!;
            var known = there.TryGetValue(row.GetType(), out var ids) ? ids : there[row.GetType()] = [];
            if (type.GetForeignKeys().All(k => Holds(k, row, there, isAsset)) && known.Add(IdOf(type, row)))
                kept.Add(row);
        }
        if (kept.OfType<Production>().Count() != 1)
            return null;
        // What names a row without a key of the database may name one that was let go.
        foreach (var row in kept)
        foreach (var (property, target) in References(db.Model.FindEntityType(row.GetType())!))
            if (property.IsNullable && property.PropertyInfo!.GetValue(row) is Guid id && !there.Any(t => t.Key.Name == target && t.Value.Contains(id)))
                property.PropertyInfo.SetValue(row, null);
        return Renew(db, kept);
    }

    private static bool Holds(IForeignKey key, object row, Dictionary<Type, HashSet<Guid>> there, Func<string, bool> isAsset)
    {
        var property = key.Properties[0];
        var isThere = property.PropertyInfo!.GetValue(row) switch
        {
            null => true,
            Guid id => there.TryGetValue(key.PrincipalEntityType.ClrType, out var ids) && ids.Contains(id),
            string hash => isAsset(hash),
            _ => false,
        };
        if (!isThere && property.IsNullable)
            property.PropertyInfo.SetValue(row, null);
        return isThere || property.IsNullable;
    }

    private static Production Renew(ZambloContext db, IReadOnlyList<object> rows)
    {
        var ids = rows.ToDictionary(r => (r.GetType().Name, IdOf(db.Model.FindEntityType(r.GetType())!, r)), _ => Guid.NewGuid());
        var inTexts = ids.ToDictionary(i => i.Key.Item2, i => i.Value);
        foreach (var kind in rows.GroupBy(r => r.GetType()))
        {
            var type = db.Model.FindEntityType(kind.Key)!;
            var references = References(type).ToArray();
            var texts = type.GetProperties().Where(p => p.ClrType == typeof(string)).Select(p => p.PropertyInfo!).ToArray();
            var id = type.FindPrimaryKey()!.Properties[0].PropertyInfo!;
            foreach (var row in kind)
            {
                // References first: they are found under the old ids.
                foreach (var (property, target) in references)
                    if (property.PropertyInfo!.GetValue(row) is Guid old && ids.TryGetValue((target, old), out var copied))
                        property.PropertyInfo.SetValue(row, copied);
                // Ids may stand within texts, too: there they have their dashes.
                foreach (var property in texts)
                    if (property.GetValue(row) is string { Length: >= 36 } text && text.Contains('-', StringComparison.Ordinal))
                        property.SetValue(
                            row,
                            Ids().Replace(text, m => inTexts.TryGetValue(Guid.Parse(m.Value), out var copied) ? copied.ToString() : m.Value)
                        );
                id.SetValue(row, ids[(kind.Key.Name, (Guid)id.GetValue(row)!)]);
            }
        }
        db.AddRange(rows);
        return rows.OfType<Production>().Single();
    }

    [GeneratedRegex("[0-9a-fA-F]{8}(-[0-9a-fA-F]{4}){3}-[0-9a-fA-F]{12}", RegexOptions.None, matchTimeoutMilliseconds: 5000)]
    private static partial Regex Ids();

    private static IEnumerable<(IProperty Property, string Target)> References(IEntityType type)
    {
        foreach (var key in Parents(type))
            yield return (key.Properties[0], key.PrincipalEntityType.ClrType.Name);
        foreach (var property in type.GetProperties())
            if (property.FindAnnotation(RefersTo)?.Value is string target)
                yield return (property, target);
    }

    private static Guid IdOf(IEntityType type, object row) => (Guid)type.FindPrimaryKey()!.Properties[0].PropertyInfo!.GetValue(row)!;

    private static readonly MethodInfo Query = typeof(ProductionRows).GetMethod(nameof(QueryOf), BindingFlags.NonPublic | BindingFlags.Static)!;

    private static Task<List<object>> QueryAsync(ZambloContext db, IEntityType type, string property, IReadOnlyCollection<Guid> values, bool isTracked) =>
        (Task<List<object>>)Query.MakeGenericMethod(type.ClrType).Invoke(null, [db, property, values, isTracked])!;

    private static async Task<List<object>> QueryOf<T>(ZambloContext db, string property, IReadOnlyCollection<Guid> values, bool isTracked)
        where T : class
    {
        var row = Expression.Parameter(typeof(T));
        var member = Expression.Property(row, property);
        var value = member.Type == typeof(Guid) ? (Expression)member : Expression.Property(member, nameof(Nullable<Guid>.Value));
        Expression body = Expression.Call(typeof(Enumerable), nameof(Enumerable.Contains), [typeof(Guid)], Expression.Constant(values.ToArray()), value);
        if (member.Type != typeof(Guid))
            body = Expression.AndAlso(Expression.Property(member, nameof(Nullable<Guid>.HasValue)), body);
        IQueryable<T> query = db.Set<T>().Where(Expression.Lambda<Func<T, bool>>(body, row));
        return [.. await (isTracked ? query : query.AsNoTracking()).ToListAsync()];
    }
}
