using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Characters;

namespace Zamblo.Web.Routes;

/// <summary>Clips in which somebody is given another mouth: brought, followed, shown frame by frame.</summary>
internal static class PlateRoutes
{
    public static void Map(RouteGroupBuilder api)
    {
        var group = api.MapGroup("/plates");
        group
            .MapPost(
                "",
                async (string? name, HttpContext http, PlateDesk desk, CancellationToken cancel) =>
                    Results.Json(new { id = await desk.BeginAsync(http.Request.Body, name, http.Request.ContentLength, cancel) }, statusCode: 202)
            )
            .WithMetadata(new Microsoft.AspNetCore.Mvc.DisableRequestSizeLimitAttribute());
        group
            .MapPost(
                "/sets",
                async (string? name, HttpContext http, PlateDesk desk, CancellationToken cancel) =>
                    Results.Json(new { set = (await desk.TakeAsSetAsync(http.Request.Body, name, http.Request.ContentLength, cancel)).Key })
            )
            .WithMetadata(new Microsoft.AspNetCore.Mvc.DisableRequestSizeLimitAttribute());
        group.MapPost("/play", (PlateWish body, PlateDesk desk) => desk.PlayAsync(body));
        group.MapGet("/{id:guid}", (Guid id, PlateDesk desk) => desk.Find(id));
        group.MapDelete(
            "/{id:guid}",
            (Guid id, PlateDesk desk) =>
            {
                desk.Cancel(id);
                return Results.NoContent();
            }
        );
        group.MapGet("/{clip}/frames/{frame:int}", FrameOf);
    }

    /// <summary>A frame of a clip. Written by us, so it is a JPEG and nothing else.</summary>
    internal static IResult FrameOf(string clip, int frame, HttpContext http, PlateStore plates)
    {
        if (!AssetStore.IsHash(clip) || frame < 0)
            throw new NotFoundException("such frame");
        var path = VideoFrames.PathOf(plates.FramesOf(clip), frame);
        if (!File.Exists(path))
            throw new NotFoundException("such frame");
        http.Response.Headers.CacheControl = "private, max-age=31536000, immutable";
        return Results.File(File.OpenRead(path), "image/jpeg");
    }
}
