using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Web.Api;
using Zamblo.Web.Jobs;

namespace Zamblo.Web;

/// <summary>The made-up production that a new installation starts with.</summary>
internal static class Demo
{
    public const string Title = "Night Shift";

    private static readonly (string Role, string Text)[] Lines =
    [
        ("maro", "Three in the morning, and the oven is finally hot. Patience, Bubb. Your flour is on the scale."),
        ("maro", "Forty loaves by sunrise, one baker, and nobody to complain to but a jar and a clock."),
    ];

    /// <summary>Puts it in place once: a production of that name that was deleted stays deleted.</summary>
    public static async Task PlaceAsync(IDbContextFactory<ZambloContext> contexts, JobDesk jobs)
    {
        await using var db = await contexts.CreateDbContextAsync();
        if (await db.Productions.AnyAsync()) return;
        var production = ProductionList.Add(db, Title);
        db.CastMembers.Add(ProductionList.Member(production.Id, 2, "bubb"));
        db.CastMembers.Add(ProductionList.Member(production.Id, 3, "tock"));
        await db.SaveChangesAsync();
        var scene = await db.Scenes.FirstAsync(s => s.ProductionId == production.Id);
        scene.Title = "Bakery, night";
        await db.SaveChangesAsync();
        var members = await db.CastMembers.Where(m => m.ProductionId == production.Id).ToDictionaryAsync(m => m.Character, m => m.Id);
        foreach (var (role, text) in Lines)
            await jobs.AddAsync("speak", production.Id, "Speak a line", new TakeOrder(scene.Id, null, members[role], text, TakeKind.Synthesis, null, ""));
    }
}
