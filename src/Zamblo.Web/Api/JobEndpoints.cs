using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Web.Jobs;
using Zamblo.Web.Services;

namespace Zamblo.Web.Api;

/// <summary>Work in the background: how far it is, stop, run again, and what came out.</summary>
internal static class JobEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/productions/{id:guid}/jobs", async (Guid id, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            var jobs = await db.Jobs.AsNoTracking().Where(j => j.ProductionId == id).OrderByDescending(j => j.Created).Take(20).ToListAsync();
            return jobs.Select(j => new { j.Id, j.Kind, j.Title, state = j.State.ToString().ToLowerInvariant(), j.Progress, j.Detail, j.Error, hasFilm = j.Kind == "render" && j.State == JobState.Done, news = j.Kind == "speak" ? j.Result : null, j.Created });
        });
        api.MapPost("/jobs/{id:guid}/cancel", async (Guid id, JobDesk jobs) => { await jobs.CancelAsync(id); return Results.NoContent(); });
        api.MapPost("/jobs/{id:guid}/retry", async (Guid id, JobDesk jobs) => { await jobs.RetryAsync(id); return Results.NoContent(); });
        api.MapGet("/jobs/{id:guid}/film", async (Guid id, bool? download, IDbContextFactory<ZambloContext> contexts, DataFolder folder) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            var job = await db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Id == id && j.Kind == "render" && j.State == JobState.Done) ?? throw new NotFoundException("such film");
            var path = Path.Combine(folder.Renders, job.Id.ToString("N") + ".mp4");
            if (!File.Exists(path)) throw new NotFoundException("file of this film");
            return Results.File(path, "video/mp4", download == true ? FileName(job.Title, ".mp4") : null, enableRangeProcessing: true);
        });
        api.MapGet("/voices", async () => await Synthesis.VoicesAsync());
        api.MapGet("/grain", (HttpContext http) =>
        {
            http.Response.Headers.CacheControl = "private, max-age=86400";
            return Results.Bytes(Rasteriser.GrainPng(), "image/png");
        });
    }

    /// <summary>A name for a file that is downloaded: a title without what file systems refuse.</summary>
    internal static string FileName(string title, string ending)
    {
        var name = string.Concat(title.Select(c => char.IsLetterOrDigit(c) || c is ' ' or '-' ? c : '_')).Trim();
        return (name.Length == 0 ? "film" : name) + ending;
    }
}
