namespace Zamblo.Web.Tests;

/// <summary>A fact for a file of SQLite's, whose own commands it uses; left out where the tests run on a PostgreSQL server.</summary>
[AttributeUsage(AttributeTargets.Method)]
public sealed class FileFactAttribute : FactAttribute
{
    public FileFactAttribute() => Skip = TestDatabases.OnServer ? "It is about a file of SQLite's." : null;
}
