using System.Security.Cryptography;
using System.Text.Json;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Studio.Farm;
using Zamblo.Web.People;

namespace Zamblo.Web.Routes;

/// <summary>For workers on other machines; every request is signed. And for the page that shows them.</summary>
internal static class FarmRoutes
{
    private const string Root = "/pieces";

    // A hello, a beat, a reason.
    private const int LargestBody = 1 << 16;

    // Names as in C#, as the workers write them.
    private static readonly JsonSerializerOptions Options = JsonSerializerOptions.Default;

    /// <summary>Before the routes: lets nothing through that is not signed.</summary>
    public static void Guard(WebApplication app) =>
        app.UseWhen(
            http => http.Request.Path.StartsWithSegments(Root, StringComparison.Ordinal),
            farm =>
                farm.Use(
                    async (http, next) =>
                    {
                        if (await IsSignedAsync(http))
                            await next(http);
                        else
                            await Results
                                .Json(
                                    new { error = "The key is not this studio's, or the clocks of the two machines are more than five minutes apart." },
                                    statusCode: 401
                                )
                                .ExecuteAsync(http);
                    }
                )
        );

    private static async Task<bool> IsSignedAsync(HttpContext http)
    {
        string Header(string name) => http.Request.Headers[name].ToString();
        var body = Header(FarmKey.BodyHeader);
        var key = http.RequestServices.GetRequiredService<FarmKey>();
        var isSigned = key.Holds(
            http.Request.Method,
            http.Request.Path + http.Request.QueryString,
            Header(FarmKey.TimeHeader),
            body,
            Header(FarmKey.SignatureHeader)
        );
        // A file is looked at while it comes, by whoever takes it.
        if (!isSigned || HttpMethods.IsPut(http.Request.Method))
            return isSigned;
        var small = new MemoryStream();
        var buffer = new byte[4096];
        int n;
        while ((n = await http.Request.Body.ReadAsync(buffer)) > 0)
        {
            small.Write(buffer, 0, n);
            if (small.Length > LargestBody)
                return false;
        }
        small.Position = 0;
        var isSame = Convert.ToHexStringLower(await SHA256.HashDataAsync(small)) == body;
        small.Position = 0;
        http.Request.Body = small;
        return isSame;
    }

    /// <summary>The routes of workers.</summary>
    public static void Map(WebApplication app)
    {
        var farm = app.MapGroup(Root);
        farm.MapPost("/crew", async (HttpContext http, FarmDesk desk) => Json(desk.Hello(await ReadAsync<WorkerHello>(http))));
        farm.MapDelete(
            "/crew/{worker:guid}",
            (Guid worker, FarmDesk desk) =>
            {
                desk.Goodbye(worker);
                return Results.NoContent();
            }
        );
        farm.MapPost(
            "/crew/{worker:guid}/work",
            async (Guid worker, FarmDesk desk, CancellationToken cancel) => await desk.LendAsync(worker, cancel) is { } loan ? Json(loan) : Results.NoContent()
        );
        var loan = farm.MapGroup("/crew/{worker:guid}/loans/{loan:guid}");
        loan.MapPost(
            "",
            async (Guid worker, Guid loan, HttpContext http, FarmDesk desk) =>
            {
                desk.Beat(worker, loan, (await ReadAsync<ChunkBeat>(http)).Frames);
                return Results.NoContent();
            }
        );
        loan.MapPost(
            "/failure",
            async (Guid worker, Guid loan, HttpContext http, FarmDesk desk) =>
            {
                desk.Fail(worker, loan, (await ReadAsync<ChunkFailure>(http)).Reason);
                return Results.NoContent();
            }
        );
        loan.MapPut(
            "/chunk",
            async (Guid worker, Guid loan, HttpContext http, FarmDesk desk, CancellationToken cancel) =>
            {
                // The desk has a limit of its own for each chunk.
                http.Features.GetRequiredFeature<IHttpMaxRequestBodySizeFeature>().MaxRequestBodySize = null;
                await desk.TakeAsync(worker, loan, http.Request.Body, http.Request.Headers[FarmKey.BodyHeader].ToString(), cancel);
                return Results.NoContent();
            }
        );
        var errand = farm.MapGroup("/crew/{worker:guid}/errands/{loan:guid}");
        errand.MapPost(
            "",
            async (Guid worker, Guid loan, HttpContext http, FarmDesk desk) =>
            {
                desk.BeatErrand(worker, loan, (await ReadAsync<ErrandBeat>(http)).Share);
                return Results.NoContent();
            }
        );
        errand.MapPost(
            "/failure",
            async (Guid worker, Guid loan, HttpContext http, FarmDesk desk) =>
            {
                desk.FailErrand(worker, loan, (await ReadAsync<ChunkFailure>(http)).Reason);
                return Results.NoContent();
            }
        );
        errand.MapGet(
            "/sound",
            (Guid worker, Guid loan, FarmDesk desk) => Results.File(desk.SoundOf(worker, loan), "application/octet-stream", enableRangeProcessing: true)
        );
        errand.MapGet(
            "/voice/{hash}",
            (Guid worker, Guid loan, string hash, FarmDesk desk) =>
                Results.File(desk.VoiceFileOf(worker, loan, hash), "application/octet-stream", enableRangeProcessing: true)
        );
        errand.MapPut(
            "/made",
            async (Guid worker, Guid loan, HttpContext http, FarmDesk desk, CancellationToken cancel) =>
            {
                // The board has a limit of its own.
                http.Features.GetRequiredFeature<IHttpMaxRequestBodySizeFeature>().MaxRequestBodySize = null;
                await desk.TakeErrandAsync(worker, loan, http.Request.Body, http.Request.Headers[FarmKey.BodyHeader].ToString(), cancel);
                return Results.NoContent();
            }
        );
        farm.MapGet("/films/{film:guid}", (Guid film, FarmDesk desk) => Json(desk.PackageOf(film)));
        farm.MapGet(
            "/films/{film:guid}/files/{hash}",
            (Guid film, string hash, FarmDesk desk) => Results.File(desk.FileOf(film, hash), "application/octet-stream", enableRangeProcessing: true)
        );
        farm.MapGet("/films/{film:guid}/speech/{key}", (Guid film, string key, FarmDesk desk) => Results.File(desk.SpeechOf(film, key), "application/json"));
    }

    /// <summary>For the page.</summary>
    public static void MapView(RouteGroupBuilder api) =>
        api.MapGet(
            "/workers",
            async (HttpContext http, FarmDesk desk, IDbContextFactory<ZambloContext> contexts) =>
            {
                var sight = Caller.Sight(http);
                if (sight.All)
                    return desk.Workers();
                await using var db = await contexts.CreateDbContextAsync();
                var own = sight.Of(db.Productions).Select(p => p.Id);
                return desk.Workers(await db.Jobs.Where(j => j.State == JobState.Running && own.Contains(j.ProductionId)).Select(j => j.Id).ToHashSetAsync());
            }
        );

    private static IResult Json(object value) => Results.Json(value, Options);

    private static async Task<T> ReadAsync<T>(HttpContext http)
    {
        try
        {
            var body = await JsonSerializer.DeserializeAsync<T>(http.Request.Body, Options);
            Studio.RequestShape.Check(body ?? throw new BadHttpRequestException("empty"));
            return body;
        }
        catch (JsonException e)
        {
            throw new BadHttpRequestException("unreadable", e);
        }
    }
}
