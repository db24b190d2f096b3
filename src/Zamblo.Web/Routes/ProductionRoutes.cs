using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Text;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Interchange;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Scenes;
using Zamblo.Studio.Views;
using Zamblo.Web.People;

namespace Zamblo.Web.Routes;

/// <summary>Productions as wholes: the shelf, undo, the film, the script, news.</summary>
internal static class ProductionRoutes
{
    // A team's; nothing is said of it for where one makes them by habit.
    internal sealed record NewProduction(string? Title, Guid? Team);

    internal sealed record Move(long? Revision);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet(
                "/productions",
                (int? from, int? count, string? find, Guid? team, HttpContext http, ProductionList list) =>
                    list.ListAsync(from ?? 0, count ?? 60, find, Caller.Sight(http), team)
            )
            .WithMetadata(new NeedsAttribute(PersonRole.Enters));
        api.MapPost(
            "/productions",
            async (NewProduction body, HttpContext http, TeamDesk teams, ProductionList list) =>
            {
                ActingPerson.Team = await teams.ForAsync(http, body.Team);
                return Results.Json(new { id = await list.AddAsync(body.Title) }, statusCode: 201);
            }
        );
        api.MapGet("/productions/{id:guid}/me", (HttpContext http) => PeopleRoutes.Me(http));
        api.MapEdit<ChangeProduction>("PATCH", "/productions/{id:guid}", (e, id) => e with { Id = id });
        api.MapPost(
            "/productions/{id:guid}/duplicate",
            async (Guid id, ProductionList list) => Results.Json(new { id = await list.DuplicateAsync(id) }, statusCode: 201)
        );
        api.MapPost(
            "/productions/{id:guid}/versions",
            async (Guid id, NewVersion body, LanguageVersions versions, CancellationToken cancel) =>
                Results.Json(await versions.AddAsync(id, body, cancel), statusCode: 201)
        );
        api.MapGet("/productions/{id:guid}/versions", (Guid id, LanguageVersions versions) => versions.ListAsync(id));
        api.MapDelete(
            "/productions/{id:guid}",
            async (Guid id, ProductionList list) =>
            {
                await list.BinAsync(id, isIn: true);
                return Results.NoContent();
            }
        );
        api.MapPost(
            "/productions/{id:guid}/restore",
            async (Guid id, ProductionList list) =>
            {
                await list.BinAsync(id, isIn: false);
                return Results.NoContent();
            }
        );
        api.MapPost(
            "/productions/{id:guid}/undo",
            async (Guid id, Move body, EditRunner edits) => Results.Json(new { name = await edits.MoveAsync(id, body.Revision, isForward: false) })
        );
        api.MapPost(
            "/productions/{id:guid}/redo",
            async (Guid id, Move body, EditRunner edits) => Results.Json(new { name = await edits.MoveAsync(id, body.Revision, isForward: true) })
        );
        api.MapPost(
            "/productions/{id:guid}/renders",
            async (Guid id, FilmOrder? order, FilmDesk films) => Results.Json(new { job = await films.RenderAsync(id, order) }, statusCode: 202)
        );
        api.MapPost(
            "/productions/{id:guid}/scenes",
            async (Guid id, AddScene? body, EditRunner edits, CancellationToken cancel) =>
                Results.Json(await edits.RunAsync((body ?? new AddScene((string?)null)) with { Production = id }, cancel), statusCode: 201)
        );
        api.MapEdit<AddMember>("POST", "/productions/{id:guid}/members", (e, id) => e with { Production = id });
        api.MapEdit<Respell>("PUT", "/productions/{id:guid}/respellings", (e, id) => e with { Production = id });
        api.MapEdit<BringCaptions>("POST", "/productions/{id:guid}/captions", (e, id) => e with { Production = id });
        api.MapEdit<RemoveCaptions>("POST", "/productions/{id:guid}/captions/removal", (e, id) => e with { Production = id });
        api.MapEdit<ChangeMember>("PATCH", "/members/{id:guid}", (e, id) => e with { Member = id });
        api.MapRemoval("/members/{id:guid}", (id, revision) => new RemoveMember { Member = id, Revision = revision });
        api.MapGet("/productions/{id:guid}/news", News);
        api.MapGet(
            "/productions/{id:guid}/picture",
            async (Guid id, HttpContext http, ProductionList list, SceneDesk scenes) =>
            {
                var loaded = await scenes.LoadAsync(await list.FirstSceneAsync(id));
                using var rasteriser = Rasteriser.ForStage(640, 360);
                rasteriser.Draw(loaded.Stage.Draw(loaded.Stage.FirstSeen, 1), 0);
                http.Response.Headers.CacheControl = http.Request.Query.ContainsKey("r") ? "private, max-age=31536000, immutable" : "no-cache";
                return Results.Bytes(rasteriser.ToPng(), "image/png");
            }
        );
        api.MapGet("/productions/{id:guid}/script", ScriptAsync);
        api.MapGet("/productions/{id:guid}/find", (Guid id, string? text, SceneDesk scenes) => FoundLine.FindAsync(scenes, id, text ?? ""));
    }

    private static IResult News(Guid id, Guid? scene, HttpContext http, NewsDesk news, PeopleDesk people, CancellationToken cancel) =>
        TypedResults.ServerSentEvents(NewsOf(id, scene, Caller.Of(http), news, people, cancel));

    private static async IAsyncEnumerable<SseItem<News>> NewsOf(
        Guid id,
        Guid? scene,
        Caller? me,
        NewsDesk news,
        PeopleDesk people,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        await foreach (var item in news.ListenAsync(id, me == null ? null : new Presence(me.Name, scene), cancel))
        {
            // Whoever has been taken out meanwhile hears nothing any more.
            if (me != null && !await people.SeesAsync(me.Id, id))
                yield break;
            yield return new SseItem<News>(item, "news");
        }
    }

    // All lines of all scenes as Fountain.
    private static async Task<IResult> ScriptAsync(Guid id, SceneDesk scenes, IDbContextFactory<ZambloContext> contexts)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var title = await db.Productions.Where(p => p.Id == id).Select(p => p.Title).FirstOrDefaultAsync() ?? throw new NotFoundException("such production");
        using var writer = new StringWriter();
        (await ProductionScript.OfAsync(scenes, id, title)).WriteFountain(writer);
        return Results.File(Encoding.UTF8.GetBytes(writer.ToString()), "text/plain; charset=utf-8", JobRoutes.FileName(title, ".fountain"));
    }
}
