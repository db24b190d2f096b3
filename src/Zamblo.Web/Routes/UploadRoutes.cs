using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Characters;
using Zamblo.Studio.Hearings;

namespace Zamblo.Web.Routes;

/// <summary>Files come in, and are looked at before they become lines.</summary>
internal static class UploadRoutes
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost(
                "/uploads",
                async (string? name, HttpContext http, UploadDesk uploads, CancellationToken cancel) =>
                {
                    var upload = await uploads.TakeAsync(http.Request.Body, name, http.Request.ContentLength, cancel);
                    return Results.Json(
                        new
                        {
                            upload.Hash,
                            upload.Name,
                            seconds = upload.Duration,
                        }
                    );
                }
            )
            .WithMetadata(new Microsoft.AspNetCore.Mvc.DisableRequestSizeLimitAttribute());
        api.MapPost(
                "/pictures",
                async (string? name, HttpContext http, PictureDesk pictures, CancellationToken cancel) =>
                    Results.Json(new { set = (await pictures.TakeAsync(http.Request.Body, name, http.Request.ContentLength, cancel)).Key })
            )
            .WithMetadata(new Microsoft.AspNetCore.Mvc.DisableRequestSizeLimitAttribute());
        api.MapGet("/pictures/{hash}", PictureAsync);
        // For drawing: greatest amplitudes, 0 to 255, one per column.
        api.MapGet(
            "/assets/{hash}/peaks",
            async (
                string hash,
                double from,
                double to,
                int columns,
                AssetStore assets,
                VoiceStore voices,
                IDbContextFactory<ZambloContext> contexts,
                CancellationToken cancel
            ) =>
            {
                if (columns is < 1 or > 4000)
                    throw new RequestException("There is nothing to draw.");
                var peaks = (await PartAsync(hash, from, to, assets, voices, contexts, cancel)).Peaks(columns);
                var bytes = new byte[columns];
                for (var i = 0; i < columns; i++)
                    bytes[i] = (byte)Math.Clamp(255 * Math.Max(-peaks[2 * i], peaks[2 * i + 1]), 0, 255);
                return Results.Json(new { peaks = Convert.ToBase64String(bytes) });
            }
        );
        api.MapGet(
            "/assets/{hash}/sound",
            async (
                string hash,
                double from,
                double to,
                AssetStore assets,
                VoiceStore voices,
                IDbContextFactory<ZambloContext> contexts,
                CancellationToken cancel
            ) => Results.Bytes(WaveAnswer.Of(await PartAsync(hash, from, Math.Min(to, from + 600), assets, voices, contexts, cancel)), "audio/wav")
        );
    }

    /// <summary>A picture that something shows. Written anew by us, so it is a JPEG or a PNG and nothing else.</summary>
    internal static async Task<IResult> PictureAsync(
        string hash,
        HttpContext http,
        AssetStore assets,
        PortraitDesk portraits,
        IDbContextFactory<ZambloContext> contexts
    )
    {
        await using var db = await contexts.CreateDbContextAsync();
        if (!AssetStore.IsHash(hash) || !File.Exists(assets.PathOf(hash)))
            throw new NotFoundException("such picture");
        if (
            !await db.Scenes.AnyAsync(s => s.BackdropHash == hash)
            && !await db.Props.AnyAsync(p => p.PictureHash == hash)
            && !await portraits.MayShowAsync(hash)
        )
            throw new NotFoundException("such picture");
        http.Response.Headers.CacheControl = "private, max-age=31536000, immutable";
        var file = File.OpenRead(assets.PathOf(hash));
        var isPng = file.ReadByte() == 0x89;
        file.Position = 0;
        return Results.File(file, isPng ? "image/png" : "image/jpeg");
    }

    private static async Task<AudioBuffer> PartAsync(
        string hash,
        double from,
        double to,
        AssetStore assets,
        VoiceStore voices,
        IDbContextFactory<ZambloContext> contexts,
        CancellationToken cancel
    )
    {
        if (!double.IsFinite(from) || !double.IsFinite(to) || !(to > from))
            throw new RequestException("There is nothing there.");
        var name = await assets.NameOfAsync(contexts, hash, cancel);
        var length = await voices.LengthAsync(hash, name, cancel);
        double start = Math.Clamp(from, 0, length),
            end = Math.Clamp(to, 0, length);
        return end > start
            ? await voices.CaredAsync(hash, name, new SoundPart(start, end), new VoiceCare(), cancel)
            : throw new RequestException("There is nothing there.");
    }
}
