using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Views;
using Zamblo.Web.People;

namespace Zamblo.Web.Routes;

/// <summary>Productions as files, and what there is to be looked at before they are shown.</summary>
internal static class ArchiveRoutes
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/productions/{id:guid}/archive", SendAsync);
        api.MapPost("/archives", TakeAsync).WithMetadata(new Microsoft.AspNetCore.Mvc.DisableRequestSizeLimitAttribute());
        api.MapGet("/productions/{id:guid}/review", (Guid id, ReviewDesk reviews, CancellationToken cancel) => reviews.OfAsync(id, cancel));
        api.MapEdit<CallFine>("POST", "/productions/{id:guid}/fine", (e, id) => e with { Production = id });
        api.MapEdit<FixFlag>("POST", "/scenes/{id:guid}/fix", (e, id) => e with { Scene = id });
    }

    private static async Task<IResult> SendAsync(
        Guid id,
        ProductionArchive archive,
        DataFolder folder,
        IDbContextFactory<ZambloContext> contexts,
        CancellationToken cancel
    )
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var title =
            await db.Productions.Where(p => p.Id == id).Select(p => p.Title).FirstOrDefaultAsync(cancel) ?? throw new NotFoundException("such production");
        var path = Path.Combine(folder.Temporary, $"{Guid.NewGuid():N}.zamblo");
        // Gone as soon as it was sent.
        var file = new FileStream(
            path,
            FileMode.CreateNew,
            FileAccess.ReadWrite,
            FileShare.None,
            1 << 16,
            FileOptions.DeleteOnClose | FileOptions.Asynchronous
        );
        try
        {
            await archive.WriteAsync(id, file, cancel);
            file.Position = 0;
        }
        catch
        {
            await file.DisposeAsync();
            throw;
        }
        return Results.File(file, "application/zip", JobRoutes.FileName(title, ".zamblo"));
    }

    // The body is the file.
    private static async Task<IResult> TakeAsync(
        Guid? team,
        HttpContext http,
        TeamDesk teams,
        ProductionArchive archive,
        DataFolder folder,
        CancellationToken cancel
    )
    {
        ActingPerson.Team = await teams.ForAsync(http, team);
        folder.CheckRoom(http.Request.ContentLength ?? 0);
        var path = Path.Combine(folder.Temporary, $"{Guid.NewGuid():N}.zamblo");
        await using var file = new FileStream(path, FileMode.CreateNew, FileAccess.ReadWrite, FileShare.None, 1 << 16, FileOptions.DeleteOnClose);
        await Incoming.CopyAsync(http.Request.Body, file, UploadDesk.Largest, "A production's file", cancel);
        file.Position = 0;
        return Results.Json(new { id = await archive.ReadAsync(file, cancel) }, statusCode: 201);
    }
}
