using System.Text;
using System.Text.Encodings.Web;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Productions;

namespace Zamblo.Web.Routes;

/// <summary>One take: an order, a picture before there is a voice, and the film as a page of its own.</summary>
internal static class OneTakeRoutes
{
    // Larger films are no page any more.
    private const long LargestPage = 300L << 20;

    // The picture before is for looking.
    private const int PreviewHeight = 540,
        PreviewWidth = 1280;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/one-take", async (OneTakeOrder order, OneTake takes) => Results.Json(await takes.BeginAsync(order), statusCode: 201));
        api.MapGet("/one-take/picture", Picture);
        api.MapGet("/jobs/{id:guid}/page", PageAsync);
    }

    private static IResult Picture(string? character, string? set, string? size, CastLibrary library, HttpContext http)
    {
        if (character == null || !library.Has(character))
            throw new NotFoundException("such character");
        if (set == null || !library.HasBackdrop(set))
            throw new NotFoundException("such set");
        FrameSize frame;
        try
        {
            frame = FrameSize.Parse(size ?? "1280x720");
        }
        catch (FormatException e)
        {
            throw new RequestException(e.Message);
        }
        var document = new SceneDocument(set, new FrameRate(25), frame.Width, frame.Height)
        {
            Members = [new SceneMember(new MemberId(Guid.Empty), "", character, "", "#000000", new Core.Mouth.MouthDials(), new PerformanceDials())],
        };
        var stage = SceneEvaluator.Evaluate(document, _ => null, library).Stage;
        var scale = Math.Min((double)PreviewHeight / frame.Height, (double)PreviewWidth / frame.Width);
        using var rasteriser = Rasteriser.ForStage(Math.Max(2, (int)(scale * frame.Width)), Math.Max(2, (int)(scale * frame.Height)));
        rasteriser.Draw(stage.Draw(0, 1), 0);
        http.Response.Headers.CacheControl = "private, max-age=600";
        return Results.Bytes(rasteriser.ToPng(), "image/png");
    }

    // One file with the film in it: plays offline, wherever it is sent.
    private static async Task<IResult> PageAsync(Guid id, IDbContextFactory<ZambloContext> contexts, DataFolder folder, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var job =
            await db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Id == id && j.Kind == FilmTicket.Kind && j.State == JobState.Done, cancel)
            ?? throw new NotFoundException("such film");
        var path = folder.FilmOf(job.Id);
        if (!File.Exists(path))
            throw new NotFoundException("file of this film");
        if (new FileInfo(path).Length > LargestPage)
            throw new RequestException("This film is too long for a page of its own: download it instead.");
        var title = HtmlEncoder.Default.Encode(job.Title);
        var html = $$"""
            <!doctype html>
            <html lang="en">
            <head><meta charset="utf-8" /><meta name="viewport" content="width=device-width, initial-scale=1" /><title>{{title}}</title>
            <style>body{margin:0;background:#1e2430;color:#faf6ee;font:16px system-ui,sans-serif;display:grid;place-items:center;min-height:100vh}
            video{max-width:100vw;max-height:88vh}p{margin:.6em;text-align:center}</style></head>
            <body><div><video controls playsinline src="data:video/mp4;base64,
            """.ReplaceLineEndings("\n").TrimEnd('\n');
        var page = html + Convert.ToBase64String(await File.ReadAllBytesAsync(path, cancel)) + $"\"></video><p>{title}</p></div></body>\n</html>\n";
        // Downloaded, never shown from here: what it holds is not this site's.
        return Results.File(Encoding.UTF8.GetBytes(page), "application/octet-stream", JobRoutes.FileName(job.Title, ".html"));
    }
}
