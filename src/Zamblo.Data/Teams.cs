using Microsoft.EntityFrameworkCore;

namespace Zamblo.Data;

/// <summary>Some of the studio's people. What belongs to a team is seen by its people, and by whoever owns the studio.</summary>
public sealed class Team
{
    public Guid Id { get; set; }
    public string Name { get; set; } = "";
    public DateTime Created { get; set; }
}

/// <summary>Somebody is in a team.</summary>
public sealed class Membership
{
    public Guid TeamId { get; set; }
    public Guid PersonId { get; set; }

    /// <summary>What the person may do in the team's productions.</summary>
    public PersonRole Role { get; set; }
}

/// <summary>A kind of thing that has an id in an address, and the production that one of it is part of.</summary>
public static class Belonging
{
    private static readonly Dictionary<string, Func<ZambloContext, Guid, IQueryable<Guid>>> Kinds = new(StringComparer.Ordinal)
    {
        ["productions"] = (db, id) => db.Productions.Where(p => p.Id == id).Select(p => p.Id),
        ["scenes"] = (db, id) => db.Scenes.Where(s => s.Id == id).Select(s => s.ProductionId),
        ["members"] = (db, id) => db.CastMembers.Where(m => m.Id == id).Select(m => m.ProductionId),
        ["lines"] = (db, id) => db.Lines.Where(l => l.Id == id).Join(db.Scenes, l => l.SceneId, s => s.Id, (l, s) => s.ProductionId),
        ["takes"] = (db, id) =>
            from t in db.Takes
            join l in db.Lines on t.LineId equals l.Id
            join s in db.Scenes on l.SceneId equals s.Id
            where t.Id == id
            select s.ProductionId,
        ["clips"] = (db, id) => db.Clips.Where(c => c.Id == id).Join(db.Scenes, c => c.SceneId, s => s.Id, (c, s) => s.ProductionId),
        ["props"] = (db, id) => db.Props.Where(p => p.Id == id).Join(db.Scenes, p => p.SceneId, s => s.Id, (p, s) => s.ProductionId),
        ["sounds"] = (db, id) => db.Sounds.Where(p => p.Id == id).Join(db.Scenes, p => p.SceneId, s => s.Id, (p, s) => s.ProductionId),
        ["remarks"] = (db, id) => db.Remarks.Where(r => r.Id == id).Select(r => r.ProductionId),
        ["jobs"] = (db, id) => db.Jobs.Where(j => j.Id == id).Select(j => j.ProductionId),
        ["links"] = (db, id) =>
            db.LookLinks.Where(l => l.Id == id).Select(l => l.ProductionId ?? db.Jobs.Where(j => j.Id == l.JobId).Select(j => j.ProductionId).First()),
    };

    /// <summary>Whether things of this kind are part of a production.</summary>
    /// <param name="kind">As it stands in addresses: "lines".</param>
    public static bool Knows(string kind) => Kinds.ContainsKey(kind);

    /// <summary>The production that something is part of; null where there is no such thing.</summary>
    /// <exception cref="KeyNotFoundException">Nothing of this kind is part of a production.</exception>
    public static async Task<Guid?> ProductionOfAsync(ZambloContext db, string kind, Guid id, CancellationToken cancel = default)
    {
        var found = await Kinds[kind](db, id).Take(1).ToListAsync(cancel);
        return found.Count > 0 ? found[0] : null;
    }
}
