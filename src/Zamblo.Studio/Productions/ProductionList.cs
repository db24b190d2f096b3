using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Productions;

/// <summary>A production on the shelf.</summary>
/// <param name="Id">Of the production.</param>
/// <param name="Title">That people read.</param>
/// <param name="Revision">That holds.</param>
/// <param name="Modified">When it was worked on last.</param>
/// <param name="Lines">So many are in all its scenes.</param>
/// <param name="Members">So many are in its cast.</param>
/// <param name="Team">That it belongs to; null for everybody.</param>
public sealed record ProductionCard(Guid Id, string Title, long Revision, DateTime Modified, int Lines, int Members, Guid? Team);

/// <summary>What of the shelf somebody sees.</summary>
/// <param name="All">Everything there is.</param>
/// <param name="Common">What belongs to no team.</param>
/// <param name="Teams">What belongs to these.</param>
public sealed record ShelfSight(bool All, bool Common, IReadOnlyList<Guid> Teams)
{
    /// <summary>All that there is.</summary>
    public static readonly ShelfSight Everything = new(true, true, []);

    /// <summary>Those of some productions that are seen.</summary>
    public IQueryable<Production> Of(IQueryable<Production> productions) =>
        All ? productions : productions.Where(p => p.TeamId == null ? Common : Teams.Contains(p.TeamId.Value));
}

/// <summary>A part of the shelf.</summary>
/// <param name="Total">So many productions there are, of those that were asked for.</param>
/// <param name="Cards">Some of them.</param>
public sealed record ShelfPage(int Total, IReadOnlyList<ProductionCard> Cards);

/// <summary>Productions on the shelf, and how they come into being.</summary>
public sealed class ProductionList(IDbContextFactory<ZambloContext> contexts, CastLibrary library, HearingDesk hearings)
{
    private const int MostAtOnce = 500;

    /// <summary>Those that are not in the bin, the newest first.</summary>
    /// <param name="from">So many are passed over.</param>
    /// <param name="count">So many are given at the most.</param>
    /// <param name="find">Words of the title, or null for any.</param>
    /// <param name="sight">What whoever asks sees.</param>
    /// <param name="team">Only what belongs to it; the empty id for what belongs to none, null for all.</param>
    public async Task<ShelfPage> ListAsync(int from, int count, string? find, ShelfSight sight, Guid? team = null)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var all = sight.Of(db.Productions.Where(p => p.DeletedAt == null));
        if (team is { } only)
            all = all.Where(p => only == Guid.Empty ? p.TeamId == null : p.TeamId == only);
        foreach (var word in (find ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries).Take(8))
        {
            var like = $"%{word.Replace("\\", "\\\\").Replace("%", "\\%").Replace("_", "\\_")}%";
            // SQLite's LIKE looks at no case of its own; a server's does.
            all = db.IsServer ? all.Where(p => EF.Functions.ILike(p.Title, like, "\\")) : all.Where(p => EF.Functions.Like(p.Title, like, "\\"));
        }
        var cards = await all.OrderByDescending(p => p.Modified)
            .ThenBy(p => p.Id)
            .Skip(Math.Max(0, from))
            .Take(Math.Clamp(count, 0, MostAtOnce))
            .Select(p => new ProductionCard(
                p.Id,
                p.Title,
                p.Revision,
                p.Modified,
                db.Scenes.Where(s => s.ProductionId == p.Id).Sum(s => db.Lines.Count(l => l.SceneId == s.Id)),
                db.CastMembers.Count(m => m.ProductionId == p.Id),
                p.TeamId
            ))
            .ToListAsync();
        return new ShelfPage(await all.CountAsync(), cards);
    }

    /// <summary>A new production; gives its id.</summary>
    public async Task<Guid> AddAsync(string? title)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var production = Add(
            db,
            library,
            title == null ? await FreeTitleAsync(db, "Untitled production") : Check.Name(title, ProductionEdits.LongestTitle, "A title")
        );
        await db.SaveChangesAsync();
        return production.Id;
    }

    /// <summary>A copy, equal to its original in everything but its title; gives its id.</summary>
    public async Task<Guid> DuplicateAsync(Guid id)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var copy = await ProductionRows.CopyAsync(db, id);
        copy.Title = await FreeTitleAsync(db, copy.Title[..Math.Min(copy.Title.Length, ProductionEdits.LongestTitle - 10)] + " copy");
        (copy.Revision, copy.HistoryPosition, copy.DeletedAt, copy.Created, copy.Modified) = (0, 0, null, DateTime.UtcNow, DateTime.UtcNow);
        await db.SaveChangesAsync();
        await hearings.AskAsync(copy.Id);
        return copy.Id;
    }

    /// <summary>Puts a production into the bin, or takes it out again.</summary>
    /// <exception cref="NotFoundException">There is none.</exception>
    public async Task BinAsync(Guid id, bool isIn)
    {
        await using var db = await contexts.CreateDbContextAsync();
        if (await db.Productions.Where(p => p.Id == id).ExecuteUpdateAsync(u => u.SetProperty(p => p.DeletedAt, isIn ? DateTime.UtcNow : null)) == 0)
            throw new NotFoundException("such production");
    }

    /// <summary>The first scene of a production.</summary>
    /// <exception cref="NotFoundException">There is no such production.</exception>
    public async Task<Guid> FirstSceneAsync(Guid id)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return await db.Scenes.Where(s => s.ProductionId == id).OrderBy(s => s.Order).Select(s => (Guid?)s.Id).FirstOrDefaultAsync()
            ?? throw new NotFoundException("such production");
    }

    internal static async Task<string> FreeTitleAsync(ZambloContext db, string wish)
    {
        var taken = await db.Productions.Where(p => p.DeletedAt == null && p.Title.StartsWith(wish)).Select(p => p.Title).ToListAsync();
        var title = wish;
        for (var n = 2; taken.Contains(title); n++)
            title = $"{wish} {n}";
        return title;
    }

    /// <summary>A production with one scene and one member, ready for a voice.</summary>
    internal static Production Add(ZambloContext db, CastLibrary library, string title)
    {
        var production = new Production
        {
            Id = Guid.NewGuid(),
            Title = title,
            TeamId = ActingPerson.Team,
            Created = DateTime.UtcNow,
            Modified = DateTime.UtcNow,
        };
        db.Productions.Add(production);
        db.Scenes.Add(
            new Scene
            {
                Id = Guid.NewGuid(),
                ProductionId = production.Id,
                Order = 1,
                Title = "Scene 1",
                Camera = Column.Write(CameraDials.Calm),
            }
        );
        db.CastMembers.Add(Member(library, production.Id, 1, library.CharacterKeys[0]));
        return production;
    }

    /// <summary>A member with its character's name and voice, and an ink of its own.</summary>
    internal static CastMember Member(CastLibrary library, Guid production, int order, string character)
    {
        var rig = library.Character(character).Rig;
        return new CastMember
        {
            Id = Guid.NewGuid(),
            ProductionId = production,
            Order = order,
            RoleName = rig.Name,
            Character = character,
            Voice = rig.Voice,
            Ink = SceneBuilder.Inks[(order - 1) % SceneBuilder.Inks.Count],
        };
    }
}
