using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Data;
using Zamblo.Web.Services;

namespace Zamblo.Web.Api;

/// <summary>Music, room tone and effects of a scene, and how loud all of it is together.</summary>
internal static class SoundEndpoints
{
    public sealed record NewSound(long? Revision, string Hash, string Name, SoundKind? Kind, double? Start);
    /// <summary>A change of a sound; a length less than 0 goes to the end of the scene.</summary>
    public sealed record ChangeSound(long? Revision, SoundKind? Kind, double? Start, double? From, double? Length, double? Gain, double? FadeIn, double? FadeOut, double? Duck, bool? Loops);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/scenes/{id:guid}/sounds", async (Guid id, NewSound body, ProductionStore store, VoiceStore voices, IDbContextFactory<ZambloContext> contexts, CancellationToken cancel) =>
        {
            await using var look = await contexts.CreateDbContextAsync(cancel);
            if (!await look.Assets.AnyAsync(a => a.Hash == body.Hash, cancel)) throw new RequestException("The sound has not been uploaded.");
            // Decoded before it is filed: a broken file changes nothing.
            var master = await voices.MasterAsync(body.Hash, body.Name, cancel);
            var kind = body.Kind ?? (master.Duration > 8 ? SoundKind.Music : SoundKind.Effect);
            var sound = new SceneSound
            {
                Id = Guid.NewGuid(),
                SceneId = id,
                Kind = kind,
                AssetHash = body.Hash,
                Name = body.Name.Length > 200 ? body.Name[..200] : body.Name,
                Duration = master.Duration,
                // What goes on and on begins with the scene, unless somebody says what it is and where.
                Start = body.Kind == null && kind != SoundKind.Effect ? 0 : Math.Clamp(body.Start ?? 0, 0, 7200),
                // An effect is heard once and as it is; what lies under speech gives way to it.
                Gain = kind == SoundKind.Effect ? 0 : -12,
                Duck = kind == SoundKind.Music ? 9 : 0,
                Loops = kind != SoundKind.Effect,
                FadeIn = kind == SoundKind.Effect ? 0 : 0.5,
                FadeOut = kind == SoundKind.Effect ? 0 : 1,
            };
            var revision = await store.EditAsync(await SceneEndpoints.ProductionOf(contexts, id), body.Revision, $"Bring in {sound.Name}", db =>
            {
                db.Sounds.Add(sound);
                return Task.CompletedTask;
            });
            return Results.Json(new { revision, id = sound.Id }, statusCode: 201);
        });
        api.MapPatch("/sounds/{id:guid}", async (Guid id, ChangeSound body, ProductionStore store, IDbContextFactory<ZambloContext> contexts) =>
        {
            var revision = await store.EditAsync(await ProductionOf(contexts, id), body.Revision, body.Start != null ? "Move a sound" : "Change a sound", async db =>
            {
                var sound = await db.Sounds.FirstAsync(s => s.Id == id);
                sound.Kind = body.Kind ?? sound.Kind;
                sound.Start = Math.Clamp(body.Start ?? sound.Start, 0, 7200);
                sound.From = Math.Clamp(body.From ?? sound.From, 0, Math.Max(0, sound.Duration - 0.05));
                if (body.Length is { } length) sound.Length = length < 0 ? null : Math.Clamp(length, 0.05, 7200);
                sound.Gain = Math.Clamp(body.Gain ?? sound.Gain, -60, 12);
                sound.FadeIn = Math.Clamp(body.FadeIn ?? sound.FadeIn, 0, 60);
                sound.FadeOut = Math.Clamp(body.FadeOut ?? sound.FadeOut, 0, 60);
                sound.Duck = Math.Clamp(body.Duck ?? sound.Duck, 0, 60);
                sound.Loops = body.Loops ?? sound.Loops;
            });
            return Results.Json(new { revision });
        });
        api.MapDelete("/sounds/{id:guid}", async (Guid id, long? revision, ProductionStore store, IDbContextFactory<ZambloContext> contexts) =>
            Results.Json(new { revision = await store.EditAsync(await ProductionOf(contexts, id), revision, "Take out a sound", async db => db.Sounds.Remove(await db.Sounds.FirstAsync(s => s.Id == id))) }));
        api.MapGet("/scenes/{id:guid}/loudness", async (Guid id, SceneDesk desk, CancellationToken cancel) =>
        {
            var scene = await desk.LoadAsync(id);
            var mix = await desk.MixAsync(scene, 0, scene.Stage.Duration, null, cancel);
            return Results.Json(new { lufs = Math.Round(Loudness.Integrated(mix), 1), truePeak = Math.Round(Loudness.TruePeakDb(mix.Samples), 1) });
        });
    }

    private static async Task<Guid> ProductionOf(IDbContextFactory<ZambloContext> contexts, Guid sound)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return await SceneEndpoints.ProductionOf(contexts, await db.Sounds.Where(s => s.Id == sound).Select(s => (Guid?)s.SceneId).FirstOrDefaultAsync() ?? throw new NotFoundException("such sound"));
    }
}
