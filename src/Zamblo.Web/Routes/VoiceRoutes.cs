using System.Collections.Concurrent;
using Zamblo.Media;
using Zamblo.Studio.Assets;

namespace Zamblo.Web.Routes;

/// <summary>The voices that can speak: all of them, to hear, to bring, to take away.</summary>
internal static class VoiceRoutes
{
    private const int KeptSamples = 100,
        LongestSample = 400;

    // A line of our own in the languages that people are likeliest to try; others say it in English.
    private static readonly Dictionary<string, string> Samples = new()
    {
        ["en"] = "Fresh rolls at six, and not a minute later.",
        ["de"] = "Frische Brötchen um sechs, und keine Minute später.",
        ["es"] = "Panecillos frescos a las seis, y ni un minuto más tarde.",
        ["fr"] = "Des petits pains frais à six heures, et pas une minute de plus.",
        ["it"] = "Panini freschi alle sei, e non un minuto più tardi.",
        ["pt"] = "Pãezinhos frescos às seis, e nem um minuto mais tarde.",
        ["nl"] = "Verse broodjes om zes uur, en geen minuut later.",
        ["pl"] = "Świeże bułki o szóstej i ani minuty później.",
        ["hi"] = "ताज़ी रोटी छह बजे, एक मिनट भी देर नहीं।",
        ["cmn"] = "六点有新鲜面包。",
        ["ja"] = "パンは ろくじに できます。",
    };

    private static readonly ConcurrentDictionary<string, byte[]> Heard = new();

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/voices", (CancellationToken cancel) => Synthesis.VoicesAsync(cancel));
        api.MapGet("/voices/sample", SampleAsync);
        api.MapGet(
            "/voices/own",
            (VoiceDesk desk) =>
                Results.Json(
                    new
                    {
                        keys = desk.OwnKeys(),
                        problems = NeuralVoices.Problems(),
                        recognisers = Recognisers.All(),
                        engines = VoiceDesk.Engines(),
                    }
                )
        );
        api.MapPost("/voices", (NewVoice body, VoiceDesk desk) => Results.Json(new { ticket = desk.Announce(body) }));
        api.MapPost(
                "/voices/models",
                async (string? ticket, HttpContext http, VoiceDesk desk, CancellationToken cancel) =>
                {
                    await desk.TakeAsync(ticket, http.Request.Body, http.Request.ContentLength, cancel);
                    return Results.Json(new { isKept = true });
                }
            )
            .WithMetadata(new Microsoft.AspNetCore.Mvc.DisableRequestSizeLimitAttribute());
        api.MapPatch(
            "/voices/licence",
            async (VoiceLicence body, VoiceDesk desk) =>
            {
                await desk.LicenseAsync(body);
                return Results.NoContent();
            }
        );
        api.MapDelete(
            "/voices",
            (string? key, VoiceDesk desk) =>
            {
                desk.Delete(key);
                return Results.NoContent();
            }
        );
        api.MapGet(
            "/deliveries",
            () =>
                Results.Json(
                    Delivery.Presets.Select(p => new
                    {
                        p.Name,
                        p.Delivery,
                        p.Mood,
                    })
                )
        );
    }

    // A sentence of ours, or words of one's own.
    private static async Task<IResult> SampleAsync(string key, string? text, string? delivery, CancellationToken cancel)
    {
        if (!string.IsNullOrWhiteSpace(text))
            return Results.Bytes(
                WaveAnswer.Of((await Synthesis.SpeakAsync(key, text.Length > LongestSample ? text[..LongestSample] : text, Named(delivery), cancel)).Audio),
                "audio/wav"
            );
        return await OwnSampleAsync(key, cancel);
    }

    private static Delivery Named(string? delivery) =>
        Delivery.Presets.FirstOrDefault(p => p.Name.Equals(delivery, StringComparison.OrdinalIgnoreCase)).Delivery ?? new Delivery();

    private static async Task<IResult> OwnSampleAsync(string key, CancellationToken cancel)
    {
        if (!Heard.TryGetValue(key, out var wav))
        {
            var language = Synthesis.LanguageOf(key).Split('-')[0];
            var sentence = Samples.GetValueOrDefault(language, Samples["en"]);
            wav = WaveAnswer.Of((await Synthesis.SpeakAsync(key, sentence, new Delivery(), cancel)).Audio);
            // The files of a neural voice may be others tomorrow.
            if (Heard.Count < KeptSamples && !key.StartsWith(NeuralVoices.Prefix, StringComparison.Ordinal))
                Heard[key] = wav;
        }
        return Results.Bytes(wav, "audio/wav");
    }
}
