namespace Zamblo.Storm;

/// <summary>A fact for a PostgreSQL server; left out, with the reason, on a machine without one. Also part of the other projects that have such.</summary>
[AttributeUsage(AttributeTargets.Method)]
public sealed class PostgresFactAttribute : FactAttribute
{
    public PostgresFactAttribute() => Skip = PostgresServer.Missing;
}
