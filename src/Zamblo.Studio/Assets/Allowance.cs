using Microsoft.EntityFrameworkCore;
using Zamblo.Data;

namespace Zamblo.Studio.Assets;

/// <summary>How much each person may bring: files and recordings that are kept, counted for whoever was first to bring them.</summary>
public sealed class Allowance(IDbContextFactory<ZambloContext> contexts)
{
    /// <summary>Refuses what whoever acts now may not bring; where nobody signs in, everything may be brought.</summary>
    /// <param name="bytes">So much more; null where it does not say.</param>
    /// <exception cref="RequestException">It is more than the person may bring.</exception>
    public async Task CheckAsync(long? bytes)
    {
        if (ActingPerson.Name is not { } name)
            return;
        await using var db = await contexts.CreateDbContextAsync();
        if (await db.People.Where(p => p.Name == name).Select(p => p.QuotaBytes).FirstOrDefaultAsync() is not { } quota)
            return;
        if (bytes is not { } more)
            throw new RequestException("This file does not say how large it is.");
        var used = await db.Assets.Where(a => a.By == name).SumAsync(a => a.Length);
        if (used + more > quota)
            throw new RequestException(
                $"You may bring {quota / (1 << 20):N0} MB to this studio and have brought {used / (1 << 20):N0} MB. Whoever owns it can let you bring more."
            );
    }
}
