using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Views;

namespace Zamblo.Web.Routes;

/// <summary>Work in the background, and its films.</summary>
internal static class JobRoutes
{
    internal sealed record FormCard(string Key, string Title, string Purpose, bool HasSound, bool HasTrack, bool IsWhole);

    private const int Shown = 20,
        ShownFailed = 50;

    public static void Map(RouteGroupBuilder api)
    {
        // All that is under way or waits to be run again, and the newest of what has ended.
        api.MapGet(
            "/productions/{id:guid}/jobs",
            async (Guid id, IDbContextFactory<ZambloContext> contexts) =>
            {
                await using var db = await contexts.CreateDbContextAsync();
                var own = db.Jobs.AsNoTracking().Where(j => j.ProductionId == id);
                var active = await own.Where(j => j.State == JobState.Queued || j.State == JobState.Running || j.State == JobState.Paused).ToListAsync();
                active.AddRange(await own.Where(j => j.State == JobState.Failed).OrderByDescending(j => j.Created).Take(ShownFailed).ToListAsync());
                var ended = await own.Where(j => j.State == JobState.Done || j.State == JobState.Cancelled)
                    .OrderByDescending(j => j.Created)
                    .Take(Shown)
                    .ToListAsync();
                return active.Concat(ended).OrderByDescending(j => j.Created).Select(JobView.Of);
            }
        );
        api.MapPost(
            "/jobs/{id:guid}/cancel",
            async (Guid id, JobDesk jobs) =>
            {
                await jobs.CancelAsync(id);
                return Results.NoContent();
            }
        );
        api.MapPost(
            "/jobs/{id:guid}/pause",
            async (Guid id, JobDesk jobs) =>
            {
                await jobs.PauseAsync(id);
                return Results.NoContent();
            }
        );
        api.MapPost(
            "/jobs/{id:guid}/go-on",
            async (Guid id, JobDesk jobs) =>
            {
                await jobs.GoOnAsync(id);
                return Results.NoContent();
            }
        );
        api.MapPost(
            "/jobs/{id:guid}/retry",
            async (Guid id, JobDesk jobs) =>
            {
                await jobs.RetryAsync(id);
                return Results.NoContent();
            }
        );
        api.MapDelete(
            "/jobs/{id:guid}",
            async (Guid id, JobDesk jobs) =>
            {
                await jobs.ForgetAsync(id);
                return Results.NoContent();
            }
        );
        api.MapGet(
            "/jobs/{id:guid}/film",
            async (Guid id, bool? download, IDbContextFactory<ZambloContext> contexts, DataFolder folder) =>
            {
                await using var db = await contexts.CreateDbContextAsync();
                var job =
                    await db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Id == id && j.Kind == FilmTicket.Kind && j.State == JobState.Done)
                    ?? throw new NotFoundException("such film");
                return FilmOf(job, folder, download == true);
            }
        );
        api.MapGet("/film-forms", () => FilmForm.All.Select(f => new FormCard(f.Key, f.Title, f.Purpose, f.HasSound, f.HasTrack, f.IsWhole)));
        api.MapGet("/grain", Grain);
    }

    /// <summary>The grain of the picture.</summary>
    internal static IResult Grain(HttpContext http)
    {
        http.Response.Headers.CacheControl = "private, max-age=86400";
        return Results.Bytes(Rasteriser.GrainPng(), "image/png");
    }

    /// <summary>The file of a finished film.</summary>
    /// <exception cref="NotFoundException">It is gone.</exception>
    internal static IResult FilmOf(Job job, DataFolder folder, bool isDownload)
    {
        var (ending, type) = FilmShows.Of(job) is { } shows ? (shows.Ending, shows.Kind.ContentType) : (".mp4", FilmForm.Usual.ContentType);
        var path = folder.FilmOf(job.Id, ending);
        return File.Exists(path)
            ? Results.File(path, type, isDownload ? FileName(job.Title, ending) : null, enableRangeProcessing: true)
            : throw new NotFoundException("file of this film");
    }

    /// <summary>A name for a file that is downloaded: a title without what file systems refuse.</summary>
    internal static string FileName(string title, string ending)
    {
        var name = string.Concat(title.Select(c => char.IsLetterOrDigit(c) || c is ' ' or '-' or '_' ? c : '_')).Trim();
        return (name.Length == 0 ? "film" : name) + ending;
    }
}
