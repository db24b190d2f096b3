using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Studio;
using Zamblo.Web.People;

namespace Zamblo.Web.Routes;

/// <summary>What people have to say about places of a production.</summary>
internal static class RemarkRoutes
{
    private const int Longest = 2000,
        Most = 5000;
    private const double LastSecond = 1e6;

    internal sealed record NewRemark(string Text, double At, Guid? Line, double Offset);

    internal sealed record RemarkChange(string? Text, bool? IsDone);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet(
            "/productions/{id:guid}/remarks",
            async (Guid id, IDbContextFactory<ZambloContext> contexts) =>
            {
                await using var db = await contexts.CreateDbContextAsync();
                return await db.Remarks.AsNoTracking().Where(r => r.ProductionId == id).OrderBy(r => r.Created).ToListAsync();
            }
        );
        var says = new NeedsAttribute(PersonRole.Comments);
        api.MapPost("/scenes/{id:guid}/remarks", AddAsync).WithMetadata(says);
        api.MapPatch("/remarks/{id:guid}", ChangeAsync).WithMetadata(says);
        api.MapDelete("/remarks/{id:guid}", RemoveAsync).WithMetadata(says);
    }

    private static string Words(string? text) =>
        text?.Trim() is { Length: > 0 and <= Longest } words ? words : throw new RequestException($"A remark has 1 to {Longest} characters.");

    private static async Task<IResult> AddAsync(Guid id, NewRemark body, HttpContext http, IDbContextFactory<ZambloContext> contexts, NewsDesk news)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var scene = await db.Scenes.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id) ?? throw new NotFoundException("such scene");
        if (body.Line is { } line && !await db.Lines.AnyAsync(l => l.Id == line && l.SceneId == id))
            throw new NotFoundException("such line");
        if (await db.Remarks.CountAsync(r => r.ProductionId == scene.ProductionId) >= Most)
            throw new RequestException($"A production has at most {Most} remarks: delete some that are done.");
        var remark = new Remark
        {
            Id = Guid.NewGuid(),
            ProductionId = scene.ProductionId,
            SceneId = id,
            LineId = body.Line,
            Offset = Math.Clamp(body.Offset, -LastSecond, LastSecond),
            At = Math.Clamp(body.At, 0, LastSecond),
            Text = Words(body.Text),
            By = Caller.Of(http)?.Name ?? "",
            Created = DateTime.UtcNow,
        };
        db.Remarks.Add(remark);
        await db.SaveChangesAsync();
        news.Tell(scene.ProductionId, new News("remarks"));
        return Results.Json(new { remark.Id }, statusCode: 201);
    }

    // What somebody has said, nobody else puts into other words.
    private static async Task<IResult> ChangeAsync(Guid id, RemarkChange body, HttpContext http, IDbContextFactory<ZambloContext> contexts, NewsDesk news)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var remark = await db.Remarks.FirstOrDefaultAsync(r => r.Id == id) ?? throw new NotFoundException("such remark");
        if (body.Text != null)
            remark.Text = IsOwn(remark, http) ? Words(body.Text) : throw new RequestException("Only whoever has said it says it otherwise.");
        remark.IsDone = body.IsDone ?? remark.IsDone;
        await db.SaveChangesAsync();
        news.Tell(remark.ProductionId, new News("remarks"));
        return Results.NoContent();
    }

    private static async Task<IResult> RemoveAsync(Guid id, HttpContext http, IDbContextFactory<ZambloContext> contexts, NewsDesk news)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var remark = await db.Remarks.FirstOrDefaultAsync(r => r.Id == id) ?? throw new NotFoundException("such remark");
        if (!IsOwn(remark, http) && Caller.Of(http) is { Role: < PersonRole.Acts })
            throw new RequestException("Only whoever has said it, or works on the production, takes it away.");
        db.Remarks.Remove(remark);
        await db.SaveChangesAsync();
        news.Tell(remark.ProductionId, new News("remarks"));
        return Results.NoContent();
    }

    private static bool IsOwn(Remark remark, HttpContext http) => Caller.Of(http) is not { } me || me.Name == remark.By;
}
