using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Jobs;
using Zamblo.Web.People;

namespace Zamblo.Web.Routes;

/// <summary>Links with which anybody looks at one film for a while.</summary>
internal static class FilmLinkRoutes
{
    private const int MostDays = 90,
        MostLinks = 20;

    private sealed record NewLink(int Days);

    public static void Map(RouteGroupBuilder api, WebApplication app)
    {
        api.MapPost("/jobs/{id:guid}/links", AddAsync);
        api.MapGet("/jobs/{id:guid}/links", ListAsync);
        api.MapDelete(
            "/links/{id:guid}",
            async (Guid id, IDbContextFactory<ZambloContext> contexts) =>
            {
                await using var db = await contexts.CreateDbContextAsync();
                return await db.FilmLinks.Where(l => l.Id == id).ExecuteDeleteAsync() > 0 ? Results.NoContent() : throw new NotFoundException("such link");
            }
        );
        app.MapGet(
                "/look/{token}/film",
                async (string token, bool? download, IDbContextFactory<ZambloContext> contexts, DataFolder folder) =>
                {
                    var job = (await FindAsync(contexts, token))?.Job ?? throw new NotFoundException("such film");
                    return JobRoutes.FilmOf(job, folder, download == true);
                }
            )
            .WithMetadata(new OpenToAllAttribute());
    }

    /// <summary>The film of a link that is still good; null where it is not.</summary>
    public static async Task<(Job Job, DateTime Expires)?> FindAsync(IDbContextFactory<ZambloContext> contexts, string token)
    {
        var hash = PeopleDesk.HashOf(token);
        await using var db = await contexts.CreateDbContextAsync();
        var link = await db.FilmLinks.AsNoTracking().FirstOrDefaultAsync(l => l.TokenHash == hash && l.Expires > DateTime.UtcNow);
        return link != null && await db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Id == link.JobId && j.State == JobState.Done) is { } job
            ? (job, link.Expires)
            : null;
    }

    private static async Task<IResult> AddAsync(Guid id, NewLink body, HttpContext http, IDbContextFactory<ZambloContext> contexts, PeopleDesk people)
    {
        if (body.Days is < 1 or > MostDays)
            throw new RequestException($"A link is good for 1 to {MostDays} days.");
        await using var db = await contexts.CreateDbContextAsync();
        var job =
            await db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Id == id && j.Kind == FilmTicket.Kind && j.State == JobState.Done)
            ?? throw new NotFoundException("such film");
        await db.FilmLinks.Where(l => l.Expires < DateTime.UtcNow).ExecuteDeleteAsync();
        if (await db.FilmLinks.CountAsync(l => l.JobId == id) >= MostLinks)
            throw new RequestException($"A film has at most {MostLinks} links: take one away first.");
        var (token, hash) = PeopleDesk.NewToken();
        var link = new FilmLink
        {
            Id = Guid.NewGuid(),
            TokenHash = hash,
            JobId = id,
            By = Caller.NameOf(http),
            Created = DateTime.UtcNow,
            Expires = DateTime.UtcNow.AddDays(body.Days),
        };
        db.FilmLinks.Add(link);
        await db.SaveChangesAsync();
        await people.NoteAsync(link.By, $"makes a link to the film \"{job.Title}\"");
        return Results.Json(
            new
            {
                link.Id,
                path = $"/look/{token}",
                link.Expires,
            },
            statusCode: 201
        );
    }

    private static async Task<IResult> ListAsync(Guid id, IDbContextFactory<ZambloContext> contexts)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return Results.Json(
            await db
                .FilmLinks.Where(l => l.JobId == id && l.Expires > DateTime.UtcNow)
                .OrderBy(l => l.Expires)
                .Select(l => new
                {
                    l.Id,
                    l.By,
                    l.Expires,
                })
                .ToListAsync()
        );
    }
}
