using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Studio;

namespace Zamblo.Web.People;

/// <summary>Somebody as the page of people shows it.</summary>
/// <param name="Id">Of the person.</param>
/// <param name="Name">Signs in with it.</param>
/// <param name="Role">What the person may do.</param>
/// <param name="Created">Since when.</param>
/// <param name="IsLocked">No password is right just now.</param>
/// <param name="QuotaBytes">So much may be brought; null for as much as there is room for.</param>
/// <param name="BroughtBytes">So much has been brought and is still there.</param>
public sealed record PersonView(Guid Id, string Name, PersonRole Role, DateTime Created, bool IsLocked, long? QuotaBytes, long BroughtBytes);

/// <summary>An open invitation.</summary>
/// <param name="Id">Of it.</param>
/// <param name="Role">What whoever comes may do.</param>
/// <param name="Team">In which team; null for the studio as a whole.</param>
/// <param name="By">Who has invited.</param>
/// <param name="Expires">Until when it is good.</param>
public sealed record InvitationView(Guid Id, PersonRole Role, string? Team, string By, DateTime Expires);

/// <summary>Who may come in, and as what.</summary>
internal sealed class PeopleDesk(IDbContextFactory<ZambloContext> contexts, IServiceScopeFactory scopes)
{
    private static readonly TimeSpan InvitationLasts = TimeSpan.FromDays(7),
        FirstLasts = TimeSpan.FromDays(1);
    private const string Console = "the console";

    // A petabyte, in bytes.
    private const double MostQuota = 1L << 50;
    private const int TokenBytes = 24,
        MostPeople = 1000,
        ShownAudit = 200;

    /// <summary>What stands in a link, and what is kept of it.</summary>
    public static (string Token, string Hash) NewToken()
    {
        var token = Base64Url.EncodeToString(RandomNumberGenerator.GetBytes(TokenBytes));
        return (token, HashOf(token));
    }

    /// <summary>What is kept of a token.</summary>
    public static string HashOf(string token) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(token)));

    /// <summary>Writes something down that matters to who may do what.</summary>
    public async Task NoteAsync(string who, string what)
    {
        await using var db = await contexts.CreateDbContextAsync();
        Note(db, who, what);
        await db.SaveChangesAsync();
    }

    private static void Note(ZambloContext db, string who, string what) =>
        db.Audit.Add(
            new AuditEntry
            {
                At = DateTime.UtcNow,
                Who = who.Length > 80 ? who[..80] : who,
                What = what,
            }
        );

    /// <summary>Where nobody owns the studio yet: says how its owner comes in.</summary>
    /// <param name="address">Of the studio.</param>
    /// <param name="say">Where to.</param>
    public async Task GreetAsync(string address, TextWriter say)
    {
        await using var db = await contexts.CreateDbContextAsync();
        if (await db.People.AnyAsync(p => p.Role == PersonRole.Owns))
            return;
        await db.Invitations.Where(i => i.By == Console).ExecuteDeleteAsync();
        var token = await InviteAsync(PersonRole.Owns, Console, null, FirstLasts);
        await say.WriteLineAsync($"Nobody owns this studio yet. Whoever opens {address.TrimEnd('/')}/join/{token} first does; the link is good for a day.");
        await say.FlushAsync();
    }

    /// <summary>Invites somebody; gives what stands in the link, which is known to nobody else.</summary>
    /// <param name="role">What that somebody may do.</param>
    /// <param name="by">Who invites.</param>
    /// <param name="team">In which team; null for the studio as a whole.</param>
    public Task<string> InviteAsync(PersonRole role, string by, Guid? team = null) =>
        team != null && role < PersonRole.Looks
            ? throw new RequestException("Whoever is in a team may look at what it makes, at least.")
            : InviteAsync(role, by, team, InvitationLasts);

    private async Task<string> InviteAsync(PersonRole role, string by, Guid? team, TimeSpan lasts)
    {
        var (token, hash) = NewToken();
        await using var db = await contexts.CreateDbContextAsync();
        var into = await db.Teams.Where(t => t.Id == team).Select(t => t.Name).FirstOrDefaultAsync();
        if (team != null && into == null)
            throw new NotFoundException("such team");
        await db.Invitations.Where(i => i.Expires < DateTime.UtcNow).ExecuteDeleteAsync();
        if (await db.People.CountAsync() + await db.Invitations.CountAsync() >= MostPeople)
            throw new RequestException($"A studio has at most {MostPeople} people.");
        db.Invitations.Add(
            new Invitation
            {
                Id = Guid.NewGuid(),
                TokenHash = hash,
                Role = role,
                TeamId = team,
                By = by,
                Created = DateTime.UtcNow,
                Expires = DateTime.UtcNow + lasts,
            }
        );
        Note(db, by, $"invites somebody who {Word(role)}" + (into == null ? "" : $" in the team \"{into}\""));
        await db.SaveChangesAsync();
        return token;
    }

    internal static string Word(PersonRole role) => role.ToString().ToLowerInvariant();

    /// <summary>Whether a link still lets somebody in, and as what.</summary>
    public async Task<(PersonRole Role, string? Team)?> OfferAsync(string token)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return await FindInvitationAsync(db, token) is { } invitation
            ? (invitation.Role, await db.Teams.Where(t => t.Id == invitation.TeamId).Select(t => t.Name).FirstOrDefaultAsync())
            : null;
    }

    private static Task<Invitation?> FindInvitationAsync(ZambloContext db, string token)
    {
        var hash = HashOf(token);
        return db.Invitations.AsNoTracking().FirstOrDefaultAsync(i => i.TokenHash == hash && i.Expires > DateTime.UtcNow);
    }

    /// <summary>Somebody comes in with a link. The link is used up.</summary>
    /// <exception cref="RequestException">The link is not good any more, the name is taken, or the password is too weak.</exception>
    public async Task<Person> JoinAsync(string token, string? name, string? password)
    {
        name = Check.Name(name, 40, "A name");
        using var scope = scopes.CreateScope();
        var users = scope.ServiceProvider.GetRequiredService<UserManager<Person>>();
        await using var db = await contexts.CreateDbContextAsync();
        var invitation = await FindInvitationAsync(db, token) ?? throw new RequestException("This link is not good any more: ask for a new one.");
        var person = new Person
        {
            Id = Guid.NewGuid(),
            Name = name,
            // Whoever comes for a team sees what is that team's.
            Role = invitation.TeamId == null ? invitation.Role : PersonRole.Enters,
            Created = DateTime.UtcNow,
        };
        foreach (var check in users.PasswordValidators)
            Require(await check.ValidateAsync(users, person, password ?? ""));
        foreach (var check in users.UserValidators)
            Require(await check.ValidateAsync(users, person));
        // Whoever takes the link out of the table has it: nobody else comes in with it.
        if (await db.Invitations.Where(i => i.Id == invitation.Id).ExecuteDeleteAsync() == 0)
            throw new RequestException("This link is not good any more: ask for a new one.");
        Require(await users.CreateAsync(person, password ?? ""));
        if (invitation.TeamId is { } team)
        {
            db.Memberships.Add(
                new Membership
                {
                    TeamId = team,
                    PersonId = person.Id,
                    Role = invitation.Role,
                }
            );
            await db.SaveChangesAsync();
        }
        await NoteAsync(name, $"comes in and {Word(invitation.Role)}");
        return person;
    }

    private static void Require(IdentityResult result)
    {
        if (!result.Succeeded)
            throw new RequestException(string.Join(" ", result.Errors.Select(e => e.Description)));
    }

    /// <summary>Gives somebody a new password; whoever was signed in as that person has to sign in again.</summary>
    /// <exception cref="RequestException">The old one is wrong, or the new one is too weak.</exception>
    public async Task ChangePasswordAsync(Guid id, string old, string now)
    {
        using var scope = scopes.CreateScope();
        var users = scope.ServiceProvider.GetRequiredService<UserManager<Person>>();
        var person = await users.FindByIdAsync(id.ToString()) ?? throw new NotFoundException("such person");
        Require(await users.ChangePasswordAsync(person, old, now));
        await NoteAsync(person.Name, "has a new password");
    }

    /// <summary>Somebody by the id, as of now; null where there is none.</summary>
    public async Task<Person?> FindAsync(Guid id)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return await db.People.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id);
    }

    /// <summary>What somebody may do in each team that has the person in.</summary>
    public async Task<IReadOnlyDictionary<Guid, PersonRole>> TeamsOfAsync(Guid id)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return await db.Memberships.AsNoTracking().Where(m => m.PersonId == id).ToDictionaryAsync(m => m.TeamId, m => m.Role);
    }

    /// <summary>Whether somebody still comes in, and sees a production.</summary>
    public async Task<bool> SeesAsync(Guid id, Guid production) =>
        await FindAsync(id) is { } person
        && new Caller(id, person.Name, person.Role, person.Role, await TeamsOfAsync(id)).In(await TeamOfAsync(production)) >= PersonRole.Looks;

    /// <summary>The team that a production belongs to; null for everybody's, or where there is no such production.</summary>
    public async Task<Guid?> TeamOfAsync(Guid production)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return await db.Productions.Where(p => p.Id == production).Select(p => p.TeamId).FirstOrDefaultAsync();
    }

    /// <summary>Everybody, open invitations, and what happened lately.</summary>
    public async Task<object> ViewAsync()
    {
        await using var db = await contexts.CreateDbContextAsync();
        var now = DateTime.UtcNow;
        return new
        {
            people = await db
                .People.OrderBy(p => p.Name)
                .Select(p => new PersonView(
                    p.Id,
                    p.Name,
                    p.Role,
                    p.Created,
                    p.LockedUntil > now,
                    p.QuotaBytes,
                    db.Assets.Where(a => a.By == p.Name).Sum(a => a.Length)
                ))
                .ToListAsync(),
            invitations = await db
                .Invitations.Where(i => i.Expires > now)
                .OrderBy(i => i.Expires)
                .Select(i => new InvitationView(i.Id, i.Role, db.Teams.Where(t => t.Id == i.TeamId).Select(t => t.Name).FirstOrDefault(), i.By, i.Expires))
                .ToListAsync(),
            audit = await db
                .Audit.OrderByDescending(a => a.Id)
                .Take(ShownAudit)
                .Select(a => new
                {
                    a.At,
                    a.Who,
                    a.What,
                })
                .ToListAsync(),
        };
    }

    /// <summary>Somebody may do something else from now on.</summary>
    /// <exception cref="RequestException">Nobody would own the studio any more.</exception>
    public async Task ChangeRoleAsync(Guid id, PersonRole role, string by)
    {
        await OneByOneAsync(async db =>
        {
            var person = await db.People.FirstOrDefaultAsync(p => p.Id == id) ?? throw new NotFoundException("such person");
            if (role != PersonRole.Owns)
                await KeepAnOwnerAsync(db, person);
            person.Role = role;
            Note(db, by, $"lets {person.Name} be one who {Word(role)}");
        });
    }

    // Two who take each other's ownership in the same moment do not both.
    private Task OneByOneAsync(Func<ZambloContext, Task> change) =>
        contexts.TransactAsync(
            async db =>
            {
                await change(db);
                return await db.SaveChangesAsync();
            },
            isolation: System.Data.IsolationLevel.Serializable
        );

    /// <summary>Somebody may bring so much from now on; what is there stays.</summary>
    /// <param name="id">Who.</param>
    /// <param name="bytes">At the most; 0 for as much as there is room for.</param>
    /// <param name="by">Who says so.</param>
    /// <exception cref="RequestException">It is no such number.</exception>
    public Task ChangeQuotaAsync(Guid id, double bytes, string by)
    {
        if (bytes is not (>= 0 and <= MostQuota))
            throw new RequestException("What somebody may bring is a number of gigabytes; 0 is as much as there is room for.");
        return OneByOneAsync(async db =>
        {
            var person = await db.People.FirstOrDefaultAsync(p => p.Id == id) ?? throw new NotFoundException("such person");
            person.QuotaBytes = bytes == 0 ? null : (long)bytes;
            Note(db, by, bytes == 0 ? $"lets {person.Name} bring as much as there is room for" : $"lets {person.Name} bring {bytes / (1 << 20):N0} MB");
        });
    }

    /// <summary>Somebody does not come in any more.</summary>
    /// <exception cref="RequestException">Nobody would own the studio any more.</exception>
    public async Task RemoveAsync(Guid id, string by)
    {
        await OneByOneAsync(async db =>
        {
            var person = await db.People.FirstOrDefaultAsync(p => p.Id == id) ?? throw new NotFoundException("such person");
            await KeepAnOwnerAsync(db, person);
            db.People.Remove(person);
            Note(db, by, $"takes {person.Name} out");
        });
    }

    private static async Task KeepAnOwnerAsync(ZambloContext db, Person person)
    {
        if (person.Role == PersonRole.Owns && await db.People.CountAsync(p => p.Role == PersonRole.Owns) == 1)
            throw new RequestException($"{person.Name} is the only one who owns the studio: let somebody else own it first.");
    }

    /// <summary>Takes an invitation back.</summary>
    public async Task RevokeAsync(Guid id, string by)
    {
        await using var db = await contexts.CreateDbContextAsync();
        if (await db.Invitations.Where(i => i.Id == id).ExecuteDeleteAsync() == 0)
            throw new NotFoundException("such invitation");
        Note(db, by, "takes an invitation back");
        await db.SaveChangesAsync();
    }
}
