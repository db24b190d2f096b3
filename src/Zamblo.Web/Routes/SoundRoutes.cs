using Zamblo.Core.Audio;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Scenes;

namespace Zamblo.Web.Routes;

/// <summary>Music, room tone and effects of a scene, and how loud all of it is together.</summary>
internal static class SoundRoutes
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost(
            "/scenes/{id:guid}/sounds",
            async (Guid id, AddSound body, EditRunner edits, CancellationToken cancel) =>
                Results.Json(await edits.RunAsync(body with { Scene = id }, cancel), statusCode: 201)
        );
        api.MapEdit<ChangeSound>("PATCH", "/sounds/{id:guid}", (e, id) => e with { Sound = id });
        api.MapRemoval("/sounds/{id:guid}", (id, revision) => new RemoveSound { Sound = id, Revision = revision });
        api.MapGet(
            "/scenes/{id:guid}/loudness",
            async (Guid id, SceneDesk scenes, VoiceStore voices, CancellationToken cancel) =>
            {
                var scene = await scenes.LoadAsync(id);
                var mix = await scene.Evaluated.MixAsync(voices, 0, scene.Stage.Duration, null, cancel);
                return Results.Json(new { lufs = Math.Round(Loudness.Integrated(mix), 1), truePeak = Math.Round(Loudness.TruePeakDb(mix.Samples), 1) });
            }
        );
    }
}
