using System.Text;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;
using Npgsql;

namespace Zamblo.Data;

/// <summary>The same model on a PostgreSQL server, with migrations of its own (`Migrations/Postgres`).</summary>
public sealed class PostgresContext(DbContextOptions<PostgresContext> options) : ZambloContext(options)
{
    protected override void ConfigureConventions(ModelConfigurationBuilder configuration)
    {
        base.ConfigureConventions(configuration);
        configuration.Properties<string>().HaveConversion<PlainText>();
    }

    /// <summary>Saves; what was in already, over a line that broke before it said so, is not saved twice.</summary>
    public override async Task<int> SaveChangesAsync(bool acceptAllChangesOnSuccess, CancellationToken cancellationToken = default)
    {
        try
        {
            return await base.SaveChangesAsync(acceptAllChangesOnSuccess, cancellationToken);
        }
        catch (DbUpdateException e)
            when (e.InnerException is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation } && Database.CurrentTransaction == null)
        {
            // Our numbers are drawn by chance: a row that has one of them is ours, and with it came all the rest.
            var added = ChangeTracker
                .Entries()
                .FirstOrDefault(x => x.State == EntityState.Added && x.Metadata.FindPrimaryKey()!.Properties is [{ } key] && key.ClrType == typeof(Guid));
            if (added == null || await added.GetDatabaseValuesAsync(cancellationToken) == null)
                throw;
            var count = ChangeTracker.Entries().Count(x => x.State is not EntityState.Unchanged);
            ChangeTracker.AcceptAllChanges();
            return count;
        }
    }

    // PostgreSQL takes no NUL and no half of a surrogate pair in a text (chapter 8.3, 24.3 of its manual); SQLite takes both.
    private sealed class PlainText() : ValueConverter<string, string>(text => Clean(text), text => text);

    private static string Clean(string text)
    {
        var isClean = true;
        for (var i = 0; i < text.Length && isClean; i++)
            if (char.IsHighSurrogate(text[i]) && i + 1 < text.Length && char.IsLowSurrogate(text[i + 1]))
                i++;
            else
                isClean = text[i] != '\0' && !char.IsSurrogate(text[i]);
        return isClean ? text : Encoding.UTF8.GetString(Encoding.UTF8.GetBytes(text)).Replace('\0', '\uFFFD');
    }
}

/// <summary>Lets the migration tool make a context for PostgreSQL.</summary>
public sealed class PostgresDesignTimeFactory : IDesignTimeDbContextFactory<PostgresContext>
{
    public PostgresContext CreateDbContext(string[] args) =>
        (PostgresContext)new ZambloContexts(DatabaseAddress.OfServer("postgresql://design/design")).CreateDbContext();
}
