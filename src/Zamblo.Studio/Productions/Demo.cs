using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Productions;

/// <summary>The made-up production that a new installation starts with.</summary>
public static class Demo
{
    public const string Title = "Night Shift";

    private static readonly (string Role, string Text, string? Delivery, Mood? Mood)[] Lines =
    [
        ("maro", "Three in the morning, and the oven is finally hot. Patience, Bubb. Your flour is on the scale.", null, null),
        ("bubb", "Patience? You fed me at noon, and that was a hundred years ago!", null, Mood.Anger),
        ("tock", "Correction. Fifteen hours and four minutes. And the rolls are done in nine.", null, null),
        ("maro", "Nine? Oh, the rolls! Forty of them, one baker, and nobody to complain to but a jar and a clock.", "Bright", Mood.Surprise),
        ("wick", "And a moth. Nobody ever counts the moth.", "Sad", Mood.Sadness),
    ];

    /// <summary>Puts it in place once: a production of that name that was deleted stays deleted.</summary>
    public static async Task PlaceAsync(IDbContextFactory<ZambloContext> contexts, CastLibrary library, JobDesk jobs)
    {
        await using var db = await contexts.CreateDbContextAsync();
        if (await db.Productions.AnyAsync())
            return;
        var production = ProductionList.Add(db, library, Title);
        db.CastMembers.Add(ProductionList.Member(library, production.Id, 2, "bubb"));
        db.CastMembers.Add(ProductionList.Member(library, production.Id, 3, "tock"));
        db.CastMembers.Add(ProductionList.Member(library, production.Id, 4, "wick"));
        await db.SaveChangesAsync();
        var scene = await db.Scenes.FirstAsync(s => s.ProductionId == production.Id);
        scene.Title = "Bakery, night";
        var members = await db.CastMembers.Where(m => m.ProductionId == production.Id).ToDictionaryAsync(m => m.Character, m => m.Id);
        var orders = new List<TakeOrder>();
        foreach (var (role, text, preset, mood) in Lines)
        {
            var delivery = preset == null ? new Delivery() : Delivery.Presets.First(p => p.Name == preset).Delivery;
            var line = new Line
            {
                Id = Guid.NewGuid(),
                SceneId = scene.Id,
                CastMemberId = members[role],
                Order = orders.Count + 1,
                Text = text,
                Delivery = Column.Write(delivery),
            };
            db.Lines.Add(line);
            if (mood is { } m)
                db.Clips.Add(ClipRows.WholeLine(line, m));
            orders.Add(new TakeOrder(scene.Id, line.Id, line.CastMemberId, text, TakeKind.Synthesis, null, "", delivery));
        }
        var ordered = orders.ConvertAll(o => JobDesk.New(TakeOrder.Speak, production.Id, "Speak a line", o));
        db.Jobs.AddRange(ordered);
        await db.SaveChangesAsync();
        ordered.ForEach(jobs.Enqueue);
    }
}
