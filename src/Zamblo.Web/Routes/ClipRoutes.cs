using Zamblo.Studio.Edits;
using Zamblo.Studio.Productions;

namespace Zamblo.Web.Routes;

/// <summary>Moods, gestures, looks and walks; performed motion; the library.</summary>
internal static class ClipRoutes
{
    internal sealed record Keep(string? Name);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/gestures", (MotionLibrary motions) => motions.GesturesAsync());
        api.MapEdit<AddClip>("POST", "/scenes/{id:guid}/clips", (e, id) => e with { Scene = id });
        api.MapEdit<FilePerformance>("POST", "/scenes/{id:guid}/performances", (e, id) => e with { Scene = id });
        api.MapEdit<SuggestMoods>("POST", "/scenes/{id:guid}/moods/suggest", (e, id) => e with { Scene = id });
        api.MapEdit<DeleteClips>("POST", "/scenes/{id:guid}/clips/delete", (e, id) => e with { Scene = id });
        api.MapEdit<JoinClips>("POST", "/scenes/{id:guid}/clips/join", (e, id) => e with { Scene = id });
        api.MapEdit<LineUpClips>("POST", "/scenes/{id:guid}/clips/line-up", (e, id) => e with { Scene = id });
        api.MapEdit<ChangeClip>("PATCH", "/clips/{id:guid}", (e, id) => e with { Clip = id });
        api.MapEdit<SplitClip>("POST", "/clips/{id:guid}/split", (e, id) => e with { Clip = id });
        api.MapGet("/clips/{id:guid}/motion", (Guid id, MotionLibrary motions) => motions.OwnOfAsync(id));
        api.MapPost(
            "/clips/{id:guid}/save",
            async (Guid id, Keep body, MotionLibrary motions) => Results.Json(new { key = await motions.SaveAsync(id, body.Name) })
        );
        api.MapDelete(
            "/gestures/{id:guid}",
            async (Guid id, MotionLibrary motions) =>
            {
                await motions.DeleteGestureAsync(id);
                return Results.Json(new { });
            }
        );
    }
}
