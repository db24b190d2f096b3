using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Characters;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Scenes;
using Zamblo.Studio.Views;
using Zamblo.Web.People;

namespace Zamblo.Web.Routes;

/// <summary>Links with which anybody looks at one film, or at one production as it is, for a while; and what is seen with them.</summary>
internal static class LookRoutes
{
    private const int MostDays = 90,
        MostLinks = 20;

    internal sealed record NewLink(int Days);

    internal sealed record SceneName(Guid Id, string Title);

    public static void Map(RouteGroupBuilder api, WebApplication app)
    {
        api.MapPost("/jobs/{id:guid}/links", AddToFilmAsync);
        api.MapGet(
            "/jobs/{id:guid}/links",
            (Guid id, IDbContextFactory<ZambloContext> contexts) => ListAsync(contexts, links => links.Where(l => l.JobId == id))
        );
        api.MapPost("/productions/{id:guid}/links", AddToProductionAsync);
        api.MapGet(
            "/productions/{id:guid}/links",
            (Guid id, IDbContextFactory<ZambloContext> contexts) => ListAsync(contexts, links => links.Where(l => l.ProductionId == id))
        );
        api.MapDelete(
            "/links/{id:guid}",
            async (Guid id, IDbContextFactory<ZambloContext> contexts) =>
            {
                await using var db = await contexts.CreateDbContextAsync();
                return await db.LookLinks.Where(l => l.Id == id).ExecuteDeleteAsync() > 0 ? Results.NoContent() : throw new NotFoundException("such link");
            }
        );
        var open = app.MapGroup("/look/{token}").WithMetadata(new OpenToAllAttribute());
        open.MapGet(
            "/film",
            async (string token, bool? download, IDbContextFactory<ZambloContext> contexts, DataFolder folder) =>
                JobRoutes.FilmOf(await FilmAsync(contexts, token) ?? throw new NotFoundException("such film"), folder, download == true)
        );
        MapScenes(open.MapGroup("").AddEndpointFilter<ApiFilter>());
    }

    // What is seen of a production and nothing else of it: pictures, sound, and what is said.
    private static void MapScenes(RouteGroupBuilder open)
    {
        open.MapGet(
            "/scenes",
            async (string token, IDbContextFactory<ZambloContext> contexts, SceneDesk desk) =>
                (await desk.ScenesAsync((await ProductionAsync(contexts, token)).Id)).Select(s => new SceneName(s.Id, s.Title))
        );
        var scene = open.MapGroup("/scenes/{scene:guid}");
        scene.MapGet(
            "",
            async (string token, Guid scene, IDbContextFactory<ZambloContext> contexts, SceneDesk desk) =>
                LookedScene.Of(await LoadAsync(contexts, desk, token, scene))
        );
        scene.MapGet(
            "/shapes",
            async (string token, Guid scene, HttpContext http, IDbContextFactory<ZambloContext> contexts, SceneDesk desk) =>
                SceneRoutes.Kept(http, FrameWriter.Shapes((await LoadAsync(contexts, desk, token, scene)).Stage))
        );
        scene.MapGet(
            "/frames",
            async (string token, Guid scene, int from, int count, HttpContext http, IDbContextFactory<ZambloContext> contexts, SceneDesk desk) =>
                SceneRoutes.Kept(http, SceneRoutes.Frames(await LoadAsync(contexts, desk, token, scene), from, count))
        );
        scene.MapGet(
            "/sound",
            async (
                string token,
                Guid scene,
                double? from,
                double? to,
                HttpContext http,
                IDbContextFactory<ZambloContext> contexts,
                SceneDesk desk,
                VoiceStore voices,
                CancellationToken cancel
            ) =>
            {
                await LoadAsync(contexts, desk, token, scene);
                return await SceneRoutes.SoundAsync(scene, null, null, from, to, http, desk, voices, cancel);
            }
        );
        open.MapGet(
            "/pictures/{hash}",
            async (string token, string hash, HttpContext http, IDbContextFactory<ZambloContext> contexts, PortraitDesk portraits, AssetStore assets) =>
            {
                await ProductionAsync(contexts, token);
                return await UploadRoutes.PictureAsync(hash, http, assets, portraits, contexts);
            }
        );
        open.MapGet(
            "/plates/{clip}/frames/{frame:int}",
            async (string token, string clip, int frame, HttpContext http, IDbContextFactory<ZambloContext> contexts, PlateStore plates) =>
            {
                await ProductionAsync(contexts, token);
                return PlateRoutes.FrameOf(clip, frame, http, plates);
            }
        );
        open.MapGet("/grain", (HttpContext http) => JobRoutes.Grain(http));
    }

    private static async Task<LookLink?> FindAsync(ZambloContext db, string token)
    {
        var hash = PeopleDesk.HashOf(token);
        return await db.LookLinks.AsNoTracking().FirstOrDefaultAsync(l => l.TokenHash == hash && l.Expires > DateTime.UtcNow);
    }

    /// <summary>Until when a link is good, and where it leads: to a finished film or to a production on the shelf. Null where it is good no more.</summary>
    public static async Task<(DateTime Expires, Job? Film, Production? Production)?> FindAsync(IDbContextFactory<ZambloContext> contexts, string token)
    {
        await using var db = await contexts.CreateDbContextAsync();
        if (await FindAsync(db, token) is not { } link)
            return null;
        var film = link.JobId == null ? null : await db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Id == link.JobId && j.State == JobState.Done);
        var production =
            link.ProductionId == null ? null : await db.Productions.AsNoTracking().FirstOrDefaultAsync(p => p.Id == link.ProductionId && p.DeletedAt == null);
        return film == null && production == null ? null : (link.Expires, film, production);
    }

    private static async Task<Job?> FilmAsync(IDbContextFactory<ZambloContext> contexts, string token) => (await FindAsync(contexts, token))?.Film;

    private static async Task<Production> ProductionAsync(IDbContextFactory<ZambloContext> contexts, string token) =>
        (await FindAsync(contexts, token))?.Production ?? throw new NotFoundException("such production");

    private static async Task<LoadedScene> LoadAsync(IDbContextFactory<ZambloContext> contexts, SceneDesk desk, string token, Guid scene)
    {
        var production = await ProductionAsync(contexts, token);
        await using var db = await contexts.CreateDbContextAsync();
        return await db.Scenes.AnyAsync(s => s.Id == scene && s.ProductionId == production.Id)
            ? await desk.LoadAsync(scene)
            : throw new NotFoundException("such scene");
    }

    private static async Task<IResult> AddToFilmAsync(Guid id, NewLink body, HttpContext http, IDbContextFactory<ZambloContext> contexts, PeopleDesk people)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var job =
            await db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Id == id && j.Kind == FilmTicket.Kind && j.State == JobState.Done)
            ?? throw new NotFoundException("such film");
        return await AddAsync(db, body, new LookLink { JobId = id }, $"the film \"{job.Title}\"", http, people);
    }

    private static async Task<IResult> AddToProductionAsync(
        Guid id,
        NewLink body,
        HttpContext http,
        IDbContextFactory<ZambloContext> contexts,
        PeopleDesk people
    )
    {
        await using var db = await contexts.CreateDbContextAsync();
        var title =
            await db.Productions.Where(p => p.Id == id && p.DeletedAt == null).Select(p => p.Title).FirstOrDefaultAsync()
            ?? throw new NotFoundException("such production");
        return await AddAsync(db, body, new LookLink { ProductionId = id }, $"the production \"{title}\"", http, people);
    }

    private static async Task<IResult> AddAsync(ZambloContext db, NewLink body, LookLink link, string to, HttpContext http, PeopleDesk people)
    {
        if (body.Days is < 1 or > MostDays)
            throw new RequestException($"A link is good for 1 to {MostDays} days.");
        await db.LookLinks.Where(l => l.Expires < DateTime.UtcNow).ExecuteDeleteAsync();
        if (await db.LookLinks.CountAsync(l => l.JobId == link.JobId && l.ProductionId == link.ProductionId) >= MostLinks)
            throw new RequestException($"There are {MostLinks} links to this already: take one back first.");
        var (token, hash) = PeopleDesk.NewToken();
        (link.Id, link.TokenHash, link.By) = (Guid.NewGuid(), hash, Caller.NameOf(http));
        (link.Created, link.Expires) = (DateTime.UtcNow, DateTime.UtcNow.AddDays(body.Days));
        db.LookLinks.Add(link);
        await db.SaveChangesAsync();
        await people.NoteAsync(link.By, $"makes a link to {to}");
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

    private static async Task<IResult> ListAsync(IDbContextFactory<ZambloContext> contexts, Func<IQueryable<LookLink>, IQueryable<LookLink>> those)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return Results.Json(
            await those(db.LookLinks)
                .Where(l => l.Expires > DateTime.UtcNow)
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
