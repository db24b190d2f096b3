using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Dialogue;
using Zamblo.Data;
using Zamblo.Web.Services;

namespace Zamblo.Web.Api;

/// <summary>The scenes of a production: added, moved, cut in two, taken out.</summary>
internal static class SceneList
{
    public sealed record NewScene(long? Revision, string? Title);
    public sealed record CutScene(long? Revision, double At);

    public sealed record ChangeGaps(long? Revision, double? Factor);
    public sealed record Beat(long? Revision, double At, double Seconds);

    public static void Map(RouteGroupBuilder api)
    {
        // All pauses between lines at once: longer or shorter by a factor, or, without one, the scene's own.
        api.MapPost("/scenes/{id:guid}/gaps", async (Guid id, ChangeGaps body, SceneDesk desk, ProductionStore store) =>
        {
            if (body.Factor is < 0.1 or > 10) throw new RequestException("Pauses can become ten times as long, or a tenth.");
            var scene = await desk.LoadAsync(id);
            LineTime[] times = [.. scene.Ticket.Lines.Select(l => scene.Times[l.Id])];
            double[] starts = [.. scene.Ticket.Lines.Select(l => l.Start)];
            var revision = await store.EditAsync(scene.Production.Id, body.Revision, body.Factor switch { null => "Even out the pauses", > 1 => "Longer pauses", _ => "Shorter pauses" }, async db =>
            {
                var lines = await db.Lines.Where(l => l.SceneId == id).ToDictionaryAsync(l => l.Id);
                for (var i = 1; i < starts.Length; i++)
                {
                    var line = lines[scene.Ticket.Lines[i].Id];
                    var pause = Timing.PauseFor(times, starts, i, starts[i]);
                    // Who interrupts goes on interrupting: an overlap is no gap.
                    if (body.Factor is { } factor) (line.Start, line.Pause) = (null, pause > 0 ? Math.Round(pause.Value * factor, 3) : pause);
                    else (line.Start, line.Pause) = (null, null);
                }
            });
            return Results.Json(new { revision });
        });
        // Stillness at a moment: what begins after it comes later.
        api.MapPost("/scenes/{id:guid}/beat", async (Guid id, Beat body, SceneDesk desk, ProductionStore store) =>
        {
            if (body.Seconds is < 0.04 or > 60) throw new RequestException("A beat lasts 0.04 to 60 seconds.");
            var scene = await desk.LoadAsync(id);
            var next = scene.Ticket.Lines.Where(l => l.Start >= body.At - 1e-6).OrderBy(l => l.Start).FirstOrDefault() ?? throw new RequestException("Put the playhead before the line that is to come later.");
            var revision = await store.EditAsync(scene.Production.Id, body.Revision, "Put in a beat", async db =>
                await SceneEndpoints.MoveAsync(db, scene, await db.Lines.FirstAsync(l => l.Id == next.Id), next.Start + body.Seconds, null, alone: false));
            return Results.Json(new { revision });
        });
        api.MapPost("/productions/{id:guid}/scenes", async (Guid id, NewScene body, ProductionStore store) =>
        {
            Scene? scene = null;
            var revision = await store.EditAsync(id, body.Revision, "Add a scene", async db =>
            {
                var last = await db.Scenes.Where(s => s.ProductionId == id).OrderBy(s => s.Order).LastAsync();
                scene = await AddAfterAsync(db, last, body.Title == null ? null : Title(body.Title));
            });
            return Results.Json(new { revision, id = scene!.Id }, statusCode: 201);
        });
        api.MapDelete("/scenes/{id:guid}", async (Guid id, long? revision, ProductionStore store, IDbContextFactory<ZambloContext> contexts) =>
        {
            var production = await SceneEndpoints.ProductionOf(contexts, id);
            var now = await store.EditAsync(production, revision, "Take out a scene", async db =>
            {
                if (await db.Scenes.CountAsync(s => s.ProductionId == production) < 2) throw new RequestException("A production has at least one scene.");
                await db.RemoveLinesAsync(await db.Lines.Where(l => l.SceneId == id).ToListAsync());
                db.Clips.RemoveRange(await db.Clips.Where(c => c.SceneId == id).ToListAsync());
                db.Sounds.RemoveRange(await db.Sounds.Where(s => s.SceneId == id).ToListAsync());
                db.Scenes.Remove(await db.Scenes.FirstAsync(s => s.Id == id));
            });
            return Results.Json(new { revision = now });
        });
        // Lines that begin at or after a moment become a scene of their own, with what hangs on them, in the same rhythm.
        api.MapPost("/scenes/{id:guid}/cut", async (Guid id, CutScene body, SceneDesk desk, ProductionStore store) =>
        {
            var loaded = await desk.LoadAsync(id);
            var later = loaded.Ticket.Lines.Where(l => l.Start >= body.At - 1e-6).Select(l => l.Id).ToHashSet();
            if (later.Count == 0 || later.Count == loaded.Ticket.Lines.Count) throw new RequestException("Put the playhead between two lines: what begins after it becomes the next scene.");
            Scene? second = null;
            var revision = await store.EditAsync(loaded.Production.Id, body.Revision, "Cut the scene in two", async db =>
            {
                var scene = await db.Scenes.FirstAsync(s => s.Id == id);
                second = await AddAfterAsync(db, scene, null);
                (second.Backdrop, second.Gap, second.LeadIn, second.LeadOut) = (scene.Backdrop, scene.Gap, scene.LeadIn, scene.LeadOut);
                var shift = scene.LeadIn - loaded.Ticket.Lines.Where(l => later.Contains(l.Id)).Min(l => l.Start);
                // What sounds after the cut goes along; what goes on over it, such as music, stays.
                foreach (var sound in await db.Sounds.Where(s => s.SceneId == id && s.Start >= body.At).ToListAsync()) (sound.SceneId, sound.Start) = (second.Id, Math.Max(0, sound.Start + shift));
                var order = 0;
                // Lines without a voice yet go with the line before them.
                var goes = false;
                foreach (var line in await db.Lines.Where(l => l.SceneId == id).OrderBy(l => l.Order).ToListAsync())
                {
                    if (loaded.Ticket.Lines.FirstOrDefault(l => l.Id == line.Id) is { } ticket)
                    {
                        goes = later.Contains(line.Id);
                        // Each keeps its moment: who follows whom may have changed.
                        if (goes) (line.Start, line.Pause) = (Math.Max(0, ticket.Start + shift), null);
                    }
                    if (goes) (line.SceneId, line.Order) = (second.Id, ++order);
                }
                foreach (var clip in await db.Clips.Where(c => c.SceneId == id && c.LineId != null).ToListAsync()) if (later.Contains(clip.LineId!.Value)) clip.SceneId = second.Id;
            });
            return Results.Json(new { revision, id = second!.Id });
        });
    }

    public static string Title(string title)
    {
        title = title.Trim();
        return title.Length is 0 or > 120 ? throw new RequestException("The title of a scene has 1 to 120 characters.") : title;
    }

    /// <summary>A new scene behind another one.</summary>
    public static async Task<Scene> AddAfterAsync(ZambloContext db, Scene before, string? title)
    {
        var all = await db.Scenes.Where(s => s.ProductionId == before.ProductionId).OrderBy(s => s.Order).ToListAsync();
        foreach (var later in all.Where(s => s.Order > before.Order)) later.Order++;
        var number = all.Count + db.ChangeTracker.Entries<Scene>().Count(e => e.State == EntityState.Added);
        for (; title == null || all.Exists(s => s.Title == title); title = $"Scene {number}") number++;
        var scene = new Scene { Id = Guid.NewGuid(), ProductionId = before.ProductionId, Order = before.Order + 1, Title = title, Backdrop = before.Backdrop };
        db.Scenes.Add(scene);
        return scene;
    }

    public static async Task MoveAsync(ZambloContext db, Scene scene, int places)
    {
        var all = await db.Scenes.Where(s => s.ProductionId == scene.ProductionId).OrderBy(s => s.Order).ToListAsync();
        var from = all.IndexOf(scene);
        all.RemoveAt(from);
        all.Insert(Math.Clamp(from + places, 0, all.Count), scene);
        for (var i = 0; i < all.Count; i++) all[i].Order = i + 1;
    }
}
