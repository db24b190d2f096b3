using Microsoft.EntityFrameworkCore;
using Zamblo.Core;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Web.Services;

namespace Zamblo.Web.Api;

/// <summary>The shelf: productions as wholes.</summary>
internal static class ProductionEndpoints
{
    public sealed record NewProduction(string? Title);
    public sealed record ChangeProduction(long? Revision, string? Title, string? Size, string? Rate);
    public sealed record Move(long? Revision);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/productions", async (IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            return await ProductionList.LoadAsync(db);
        });
        api.MapPost("/productions", async (NewProduction body, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            var title = Title(body.Title ?? await ProductionList.FreeTitleAsync(db, "Untitled production"));
            var production = ProductionList.Add(db, title);
            await db.SaveChangesAsync();
            return Results.Json(new { id = production.Id }, statusCode: 201);
        });
        api.MapPatch("/productions/{id:guid}", async (Guid id, ChangeProduction body, ProductionStore store) =>
        {
            var name = body.Title != null ? "Rename the production" : body.Size != null ? "Change the picture size" : "Change the frame rate";
            var revision = await store.EditAsync(id, body.Revision, name, async db =>
            {
                var p = await db.Productions.FirstAsync(x => x.Id == id);
                if (body.Title != null) p.Title = Title(body.Title);
                if (body.Size != null) (p.Width, p.Height) = FrameSize.Parse(body.Size);
                if (body.Rate != null) p.Rate = FrameRate.Parse(body.Rate).ToString();
            });
            return Results.Json(new { revision });
        });
        api.MapPost("/productions/{id:guid}/duplicate", async (Guid id, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            return Results.Json(new { id = await ProductionList.DuplicateAsync(db, id) }, statusCode: 201);
        });
        api.MapDelete("/productions/{id:guid}", (Guid id, IDbContextFactory<ZambloContext> contexts) => Bin(contexts, id, DateTime.UtcNow));
        api.MapPost("/productions/{id:guid}/restore", (Guid id, IDbContextFactory<ZambloContext> contexts) => Bin(contexts, id, null));
        api.MapPost("/productions/{id:guid}/undo", async (Guid id, Move body, ProductionStore store) => Results.Json(new { name = await store.UndoAsync(id, body.Revision) }));
        api.MapPost("/productions/{id:guid}/redo", async (Guid id, Move body, ProductionStore store) => Results.Json(new { name = await store.RedoAsync(id, body.Revision) }));
        api.MapGet("/productions/{id:guid}/picture", async (Guid id, HttpContext http, IDbContextFactory<ZambloContext> contexts, SceneDesk desk) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            var scene = await db.Scenes.Where(s => s.ProductionId == id).OrderBy(s => s.Order).Select(s => s.Id).FirstOrDefaultAsync();
            var loaded = await desk.LoadAsync(scene);
            using var rasteriser = Rasteriser.ForStage(640, 360);
            rasteriser.Draw(loaded.Stage.Draw(0, 1), 0);
            http.Response.Headers.CacheControl = http.Request.Query.ContainsKey("r") ? "private, max-age=31536000, immutable" : "no-cache";
            return Results.Bytes(rasteriser.ToPng(), "image/png");
        });
    }

    private static async Task<IResult> Bin(IDbContextFactory<ZambloContext> contexts, Guid id, DateTime? when)
    {
        await using var db = await contexts.CreateDbContextAsync();
        if (await db.Productions.Where(p => p.Id == id).ExecuteUpdateAsync(u => u.SetProperty(p => p.DeletedAt, when)) == 0) throw new NotFoundException("such production");
        return Results.NoContent();
    }

    private static string Title(string title)
    {
        title = title.Trim();
        return title.Length is 0 or > 120 ? throw new RequestException("A title has 1 to 120 characters.") : title;
    }
}

/// <summary>Productions on the shelf, and how they come into being.</summary>
internal static class ProductionList
{
    public sealed record Card(Guid Id, string Title, long Revision, DateTime Modified, int Lines, int Members);

    public static async Task<List<Card>> LoadAsync(ZambloContext db) => await db.Productions.Where(p => p.DeletedAt == null).OrderByDescending(p => p.Modified)
        .Select(p => new Card(p.Id, p.Title, p.Revision, p.Modified, db.Lines.Count(l => db.Scenes.Any(s => s.Id == l.SceneId && s.ProductionId == p.Id)), db.CastMembers.Count(m => m.ProductionId == p.Id)))
        .ToListAsync();

    public static async Task<string> FreeTitleAsync(ZambloContext db, string wish)
    {
        var taken = await db.Productions.Where(p => p.DeletedAt == null && p.Title.StartsWith(wish)).Select(p => p.Title).ToListAsync();
        var title = wish;
        for (var n = 2; taken.Contains(title); n++) title = $"{wish} {n}";
        return title;
    }

    /// <summary>A production with one scene and one member, ready for a voice.</summary>
    public static Production Add(ZambloContext db, string title)
    {
        var production = new Production { Id = Guid.NewGuid(), Title = title, Created = DateTime.UtcNow, Modified = DateTime.UtcNow };
        db.Productions.Add(production);
        db.Scenes.Add(new Scene { Id = Guid.NewGuid(), ProductionId = production.Id, Order = 1, Title = "Scene 1" });
        db.CastMembers.Add(Member(production.Id, 1, "maro"));
        return production;
    }

    public static CastMember Member(Guid production, int order, string character)
    {
        var rig = Cast.Character(character).Rig;
        return new CastMember { Id = Guid.NewGuid(), ProductionId = production, Order = order, RoleName = rig.Name, Character = character, Voice = rig.Voice, Ink = Inks[(order - 1) % Inks.Length] };
    }

    // Dark enough on paper (4.5:1) and apart for colour-blind eyes, after Okabe and Ito, "Color Universal Design", 2008, darkened.
    private static readonly string[] Inks = ["#0B6A8A", "#A34A00", "#00694E", "#8A3E72", "#6B5B00", "#3D3D8F"];

    public static async Task<Guid> DuplicateAsync(ZambloContext db, Guid id)
    {
        var p = await db.Productions.AsNoTracking().FirstOrDefaultAsync(x => x.Id == id) ?? throw new NotFoundException("such production");
        var scenes = await db.Scenes.AsNoTracking().Where(s => s.ProductionId == id).ToListAsync();
        var members = await db.CastMembers.AsNoTracking().Where(m => m.ProductionId == id).ToListAsync();
        var sceneIds = scenes.Select(s => s.Id).ToArray();
        var lines = await db.Lines.AsNoTracking().Where(l => sceneIds.Contains(l.SceneId)).ToListAsync();
        var lineIds = lines.Select(l => l.Id).ToArray();
        var takes = await db.Takes.AsNoTracking().Where(t => lineIds.Contains(t.LineId)).ToListAsync();
        var takeIds = takes.Select(t => t.Id).ToArray();
        var touches = await db.Touches.AsNoTracking().Where(t => lineIds.Contains(t.LineId)).ToListAsync();
        var clips = await db.Clips.AsNoTracking().Where(c => sceneIds.Contains(c.SceneId)).ToListAsync();
        var sounds = await db.Sounds.AsNoTracking().Where(s => sceneIds.Contains(s.SceneId)).ToListAsync();
        var marks = await db.Marks.AsNoTracking().Where(m => takeIds.Contains(m.TakeId)).ToListAsync();
        var pins = await db.Pins.AsNoTracking().Where(m => takeIds.Contains(m.TakeId)).ToListAsync();
        var respellings = await db.Respellings.AsNoTracking().Where(r => r.ProductionId == id).ToListAsync();
        var ids = new Dictionary<Guid, Guid>();
        Guid New(Guid old) => ids.TryGetValue(old, out var known) ? known : ids[old] = Guid.NewGuid();
        p.Title = await FreeTitleAsync(db, p.Title + " copy");
        (p.Id, p.Revision, p.HandRevision, p.HistoryPosition, p.DeletedAt, p.Created, p.Modified) = (New(id), 0, 0, 0, null, DateTime.UtcNow, DateTime.UtcNow);
        foreach (var s in scenes) (s.Id, s.ProductionId) = (New(s.Id), p.Id);
        foreach (var m in members) (m.Id, m.ProductionId) = (New(m.Id), p.Id);
        foreach (var l in lines) (l.Id, l.SceneId, l.CastMemberId, l.TakeId) = (New(l.Id), New(l.SceneId), New(l.CastMemberId), l.TakeId is { } t ? New(t) : null);
        foreach (var l in lines) l.Also = string.Join(' ', l.Also.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(m => New(Guid.Parse(m))));
        foreach (var t in takes) (t.Id, t.LineId) = (New(t.Id), New(t.LineId));
        foreach (var t in touches) (t.Id, t.LineId) = (New(t.Id), New(t.LineId));
        foreach (var c in clips) (c.Id, c.SceneId, c.CastMemberId, c.LineId) = (New(c.Id), New(c.SceneId), New(c.CastMemberId), c.LineId is { } l ? New(l) : null);
        foreach (var s in sounds) (s.Id, s.SceneId) = (New(s.Id), New(s.SceneId));
        foreach (var m in marks) (m.Id, m.TakeId) = (New(m.Id), New(m.TakeId));
        foreach (var m in pins) (m.Id, m.TakeId) = (New(m.Id), New(m.TakeId));
        foreach (var r in respellings) (r.Id, r.ProductionId) = (New(r.Id), p.Id);
        db.Add(p);
        db.AddRange(touches);
        db.AddRange(clips);
        db.AddRange(sounds);
        db.AddRange(marks);
        db.AddRange(pins);
        db.AddRange(respellings);
        db.AddRange(scenes);
        db.AddRange(members);
        db.AddRange(lines);
        db.AddRange(takes);
        await db.SaveChangesAsync();
        return p.Id;
    }
}
