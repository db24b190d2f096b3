using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Studio;
using Zamblo.Web.Routes;

namespace Zamblo.Web.People;

/// <summary>Somebody in a team.</summary>
public sealed record TeamPerson(Guid Id, string Name, PersonRole Role);

/// <summary>A team as whoever leads it sees it.</summary>
/// <param name="Id">Of the team.</param>
/// <param name="Name">That people read.</param>
/// <param name="Role">What whoever asks may do in it.</param>
/// <param name="People">Who is in it; null for those who do not lead it.</param>
/// <param name="Productions">So many belong to it.</param>
public sealed record TeamView(Guid Id, string Name, PersonRole Role, IReadOnlyList<TeamPerson>? People, int Productions);

/// <summary>Who works with whom, and on what.</summary>
internal sealed class TeamDesk(IDbContextFactory<ZambloContext> contexts, PeopleDesk people)
{
    private const int LongestName = 60,
        MostTeams = 500;

    /// <summary>The teams that somebody is in; all of them for whoever owns the studio.</summary>
    public async Task<IReadOnlyList<TeamView>> ListAsync(Caller? me)
    {
        if (me == null)
            return [];
        await using var db = await contexts.CreateDbContextAsync();
        var own = me.Teams.Keys.ToArray();
        var teams = await db.Teams.AsNoTracking().Where(t => me.Studio == PersonRole.Owns || own.Contains(t.Id)).OrderBy(t => t.Name).ToListAsync();
        var rows = await db
            .Memberships.Join(db.People, m => m.PersonId, p => p.Id, (m, p) => new { m.TeamId, Person = new TeamPerson(p.Id, p.Name, m.Role) })
            .ToListAsync();
        var within = rows.ToLookup(m => m.TeamId, m => m.Person);
        var counts = await db
            .Productions.Where(p => p.TeamId != null && p.DeletedAt == null)
            .GroupBy(p => p.TeamId!.Value)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count);
        return
        [
            .. teams.Select(t =>
            {
                var role = me.In(t.Id)!.Value;
                var seen = role == PersonRole.Owns ? within[t.Id].OrderBy(p => p.Name, StringComparer.Ordinal).ToArray() : null;
                return new TeamView(t.Id, t.Name, role, seen, counts.GetValueOrDefault(t.Id));
            }),
        ];
    }

    /// <summary>A new team; gives its id.</summary>
    /// <exception cref="RequestException">There is one of that name, or there are too many.</exception>
    public async Task<Guid> AddAsync(string? name, string by)
    {
        var team = new Team
        {
            Id = Guid.NewGuid(),
            Name = Check.Name(name, LongestName, "The name of a team"),
            Created = DateTime.UtcNow,
        };
        await using var db = await contexts.CreateDbContextAsync();
        if (await db.Teams.CountAsync() >= MostTeams)
            throw new RequestException($"A studio has at most {MostTeams} teams.");
        await RefuseTwiceAsync(db, team.Id, team.Name);
        db.Teams.Add(team);
        await db.SaveChangesAsync();
        await people.NoteAsync(by, $"makes the team \"{team.Name}\"");
        return team.Id;
    }

    private static async Task RefuseTwiceAsync(ZambloContext db, Guid id, string name)
    {
        if (await db.Teams.AnyAsync(t => t.Name == name && t.Id != id))
            throw new RequestException($"There is a team \"{name}\" already: take another name.");
    }

    /// <summary>Gives a team another name.</summary>
    /// <exception cref="RequestException">There is one of that name.</exception>
    public async Task RenameAsync(Guid id, string? name, string by)
    {
        name = Check.Name(name, LongestName, "The name of a team");
        await using var db = await contexts.CreateDbContextAsync();
        var team = await FindAsync(db, id);
        await RefuseTwiceAsync(db, id, name);
        var before = team.Name;
        team.Name = name;
        await db.SaveChangesAsync();
        await people.NoteAsync(by, $"calls the team \"{before}\" \"{name}\"");
    }

    /// <summary>The team that something is made for; nothing is said of it for where whoever asks makes things by habit.</summary>
    /// <exception cref="ForbiddenException">Whoever asks does not work there.</exception>
    /// <exception cref="NotFoundException">There is no such team.</exception>
    public async Task<Guid?> ForAsync(HttpContext http, Guid? wish)
    {
        var team = wish == Guid.Empty ? null : wish ?? ActingPerson.Team;
        if (!Caller.May(http, team, PersonRole.Acts))
            throw new ForbiddenException("You do not work in this team: ask whoever owns it.");
        await using var db = await contexts.CreateDbContextAsync();
        return team is { } id ? (await FindAsync(db, id)).Id : null;
    }

    private static async Task<Team> FindAsync(ZambloContext db, Guid id) =>
        await db.Teams.FirstOrDefaultAsync(t => t.Id == id) ?? throw new NotFoundException("such team");

    /// <summary>Ends a team that nothing belongs to any more.</summary>
    /// <exception cref="RequestException">Something belongs to it, be it in the bin.</exception>
    public async Task RemoveAsync(Guid id, string by)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var team = await FindAsync(db, id);
        var mine = db.Productions.Where(p => p.TeamId == id);
        if (await mine.CountAsync(p => p.DeletedAt == null) is > 0 and var count)
            throw new RequestException($"{count} {(count == 1 ? "production belongs" : "productions belong")} to this team: give them to another first.");
        // What lies in the bin is everybody's who may open it: whoever owns the studio.
        await mine.ExecuteUpdateAsync(u => u.SetProperty(p => p.TeamId, (Guid?)null));
        db.Teams.Remove(team);
        await db.SaveChangesAsync();
        await people.NoteAsync(by, $"ends the team \"{team.Name}\"");
    }

    /// <summary>Somebody is in a team from now on, or may do something else there.</summary>
    /// <param name="id">Of the team.</param>
    /// <param name="name">Of the person.</param>
    /// <param name="role">What the person may do there.</param>
    /// <param name="by">Who says so.</param>
    /// <exception cref="RequestException">Nobody of that name comes in here, or it is no role of a team.</exception>
    public async Task PutAsync(Guid id, string? name, PersonRole role, string by)
    {
        if (role < PersonRole.Looks)
            throw new RequestException("Whoever is in a team may look at what it makes, at least.");
        var normal = (name ?? "").Trim().ToUpperInvariant();
        await using var db = await contexts.CreateDbContextAsync();
        var team = await FindAsync(db, id);
        var person =
            await db.People.AsNoTracking().FirstOrDefaultAsync(p => p.NormalizedName == normal)
            ?? throw new RequestException("Nobody of that name comes in here: send a link instead.");
        if (await db.Memberships.FirstOrDefaultAsync(m => m.TeamId == id && m.PersonId == person.Id) is { } there)
            there.Role = role;
        else
            db.Memberships.Add(
                new Membership
                {
                    TeamId = id,
                    PersonId = person.Id,
                    Role = role,
                }
            );
        await db.SaveChangesAsync();
        await people.NoteAsync(by, $"has {person.Name} in the team \"{team.Name}\" as one who {PeopleDesk.Word(role)}");
    }

    /// <summary>Somebody is not in a team any more.</summary>
    public async Task TakeOutAsync(Guid id, Guid person, string by)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var team = await FindAsync(db, id);
        var name = await db.People.Where(p => p.Id == person).Select(p => p.Name).FirstOrDefaultAsync();
        if (await db.Memberships.Where(m => m.TeamId == id && m.PersonId == person).ExecuteDeleteAsync() == 0)
            throw new NotFoundException("such person");
        await people.NoteAsync(by, $"takes {name} out of the team \"{team.Name}\"");
    }

    /// <summary>The production that something is part of, and the team that it belongs to; null where there is no such thing.</summary>
    public async Task<(Guid Production, Guid? Team)?> PlaceOfAsync(string kind, Guid id)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return await Belonging.ProductionOfAsync(db, kind, id) is { } production ? (production, await people.TeamOfAsync(production)) : null;
    }

    /// <summary>A production belongs to another team from now on.</summary>
    /// <param name="production">Which.</param>
    /// <param name="team">Null for everybody.</param>
    /// <param name="by">Who says so.</param>
    public async Task GiveAsync(Guid production, Guid? team, string by)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var to = team is { } id ? (await FindAsync(db, id)).Name : null;
        var title =
            await db.Productions.Where(p => p.Id == production).Select(p => p.Title).FirstOrDefaultAsync() ?? throw new NotFoundException("such production");
        await db.Productions.Where(p => p.Id == production).ExecuteUpdateAsync(u => u.SetProperty(p => p.TeamId, team));
        await people.NoteAsync(by, to == null ? $"makes \"{title}\" everybody's" : $"gives \"{title}\" to the team \"{to}\"");
    }
}
