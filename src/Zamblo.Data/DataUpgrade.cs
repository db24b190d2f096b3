using Microsoft.EntityFrameworkCore;

namespace Zamblo.Data;

/// <summary>Data that this program cannot open; the message is a sentence for a person.</summary>
public sealed class DataTooOldException(string message) : Exception(message);

/// <summary>
/// Brings a database to the model of now. The migrations from before the first release are folded into one, which has the name of the last of them.
/// </summary>
public static class DataUpgrade
{
    private const string Folded = "20261125201105_HandRevisions";

    /// <summary>Makes or upgrades the database; a write-ahead log lets readers go on while somebody writes.</summary>
    /// <exception cref="DataTooOldException">It was made before the folded migrations were complete.</exception>
    public static async Task RunAsync(ZambloContext db)
    {
        var applied = (await db.Database.GetAppliedMigrationsAsync()).ToArray();
        if (!db.IsServer && applied.Length > 0 && !applied.Contains(Folded))
            throw new DataTooOldException(
                "This data was made by a version that never came out. Open it once with the last version before this one, then again with "
                    + "this one; nothing was changed."
            );
        await db.Database.MigrateAsync();
        if (!db.IsServer)
            await db.Database.ExecuteSqlRawAsync("PRAGMA journal_mode=WAL");
    }
}
