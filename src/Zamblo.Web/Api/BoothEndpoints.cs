using System.Collections.Concurrent;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Web.Jobs;
using Zamblo.Web.Services;

namespace Zamblo.Web.Api;

/// <summary>Takes of a line and what is done to their sound; voices to hear; lines to be spoken again.</summary>
internal static class BoothEndpoints
{
    public sealed record UseTake(long? Revision, Guid Take);
    public sealed record ChangeCare(long? Revision, VoiceCare Care);
    public sealed record ChangeDelivery(long? Revision, Delivery Delivery);

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

    /// <summary>How a line is to be spoken.</summary>
    public static Delivery DeliveryOf(Line line) => SceneDesk.Read<Delivery>(line.Delivery);

    /// <summary>Whether a synthesized take no longer says what the line says, in the voice that the member has now.</summary>
    public static bool IsStale(Line line, Take take, string voice) =>
        take.Kind == TakeKind.Synthesis && (take.Name != voice || (take.SpokenText.Length > 0 && take.SpokenText != line.Text) || (take.SpokenDelivery.Length > 0 && SceneDesk.Read<Delivery>(take.SpokenDelivery) != DeliveryOf(line)));

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/voices/sample", async (string key, CancellationToken cancel) =>
        {
            if (!Heard.TryGetValue(key, out var wav))
            {
                var language = VoiceStore.LanguageOf(key).Split('-')[0];
                var spoken = await Synthesis.SpeakAsync(key, Samples.GetValueOrDefault(key.StartsWith(Flite.Prefix, StringComparison.Ordinal) ? "en" : language, Samples["en"]), new Delivery(), cancel);
                using var stream = new MemoryStream();
                WavFile.Write(stream, [spoken.Audio.Samples], spoken.Audio.SampleRate);
                wav = stream.ToArray();
                if (Heard.Count < 100) Heard[key] = wav;
            }
            return Results.Bytes(wav, "audio/wav");
        });
        api.MapGet("/deliveries", () => Results.Json(Delivery.Presets.Select(p => new { p.Name, p.Delivery, p.Mood })));
        api.MapPost("/lines/{id:guid}/use", async (Guid id, UseTake body, ProductionStore store, MouthEndpoints.Desk hands, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var look = await contexts.CreateDbContextAsync();
            var line = await look.Lines.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id) ?? throw new NotFoundException("such line");
            if (!await look.Takes.AnyAsync(t => t.Id == body.Take && t.LineId == id)) throw new NotFoundException("such take");
            var production = await SceneEndpoints.ProductionOf(contexts, line.SceneId);
            var revision = await store.EditAsync(production, body.Revision, "Use another take", async db => (await db.Lines.FirstAsync(l => l.Id == id)).TakeId = body.Take);
            await hands.ListenWhereNeededAsync(production);
            return Results.Json(new { revision });
        });
        api.MapDelete("/takes/{id:guid}", async (Guid id, long? revision, ProductionStore store, IDbContextFactory<ZambloContext> contexts) =>
        {
            var (production, _) = await FindAsync(contexts, id);
            var now = await store.EditAsync(production, revision, "Delete a take", async db =>
            {
                var take = await db.Takes.FirstAsync(t => t.Id == id);
                var line = await db.Lines.FirstAsync(l => l.Id == take.LineId);
                // The line falls back to its newest other take; the last one leaves it without a voice.
                if (line.TakeId == id) line.TakeId = await db.Takes.Where(t => t.LineId == line.Id && t.Id != id).OrderByDescending(t => t.Created).Select(t => (Guid?)t.Id).FirstOrDefaultAsync();
                db.Marks.RemoveRange(await db.Marks.Where(m => m.TakeId == id).ToListAsync());
                db.Pins.RemoveRange(await db.Pins.Where(p => p.TakeId == id).ToListAsync());
                db.Takes.Remove(take);
            });
            return Results.Json(new { revision = now });
        });
        api.MapPatch("/takes/{id:guid}/care", async (Guid id, ChangeCare body, ProductionStore store, VoiceStore voices, IDbContextFactory<ZambloContext> contexts, CancellationToken cancel) =>
        {
            var (production, take) = await FindAsync(contexts, id);
            var care = body.Care.Clamped(take.Duration);
            // Made before it is filed: a filter that fails changes nothing.
            await voices.CaredAsync(take.AssetHash, take.Name, care, cancel);
            var revision = await store.EditAsync(production, body.Revision, "Change the sound of a take", async db =>
                (await db.Takes.FirstAsync(t => t.Id == id)).Care = care == new VoiceCare() ? "" : JsonSerializer.Serialize(care, JsonSerializerOptions.Web));
            return Results.Json(new { revision });
        });
        api.MapGet("/lines/{id:guid}/dead-air", async (Guid id, SceneDesk desk, VoiceStore voices, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            var line = await db.Lines.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id) ?? throw new NotFoundException("such line");
            var ticket = (await desk.LoadAsync(line.SceneId)).Ticket.Lines.FirstOrDefault(l => l.Id == id) ?? throw new RequestException("This line has no voice yet.");
            var (start, end) = voices.AtHandUntrimmed(ticket).Speech is { } speech ? CaredSpeech.DeadAir(speech) : throw new RequestException("This line has not been listened to yet.");
            return Results.Json(new { trimStart = Math.Round(start, 3), trimEnd = Math.Round(end, 3) });
        });
        api.MapPatch("/lines/{id:guid}/delivery", async (Guid id, ChangeDelivery body, ProductionStore store, JobDesk jobs, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var look = await contexts.CreateDbContextAsync();
            var line = await look.Lines.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id) ?? throw new NotFoundException("such line");
            var delivery = body.Delivery.Clamped();
            var production = await SceneEndpoints.ProductionOf(contexts, line.SceneId);
            var revision = await store.EditAsync(production, body.Revision, "Change the delivery", async db => (await db.Lines.FirstAsync(l => l.Id == id)).Delivery = JsonSerializer.Serialize(delivery, JsonSerializerOptions.Web));
            return Results.Json(new { revision });
        });
        api.MapPost("/scenes/{id:guid}/speak-stale", async (Guid id, SceneDesk desk, JobDesk jobs, IDbContextFactory<ZambloContext> contexts) =>
        {
            var scene = await desk.LoadAsync(id);
            var count = 0;
            foreach (var line in scene.Lines)
            {
                if (line.TakeId is not { } t || !scene.Takes.TryGetValue(t, out var take) || line.Text.Length == 0) continue;
                if (!IsStale(line, take, scene.Ticket.Members.First(m => m.Id == line.CastMemberId).Voice)) continue;
                await SceneEndpoints.Order(jobs, contexts, scene.Production.Id, new TakeOrder(id, line.Id, line.CastMemberId, line.Text, TakeKind.Synthesis, null, "", DeliveryOf(line)));
                count++;
            }
            return Results.Json(new { count }, statusCode: 202);
        });
    }

    private static async Task<(Guid Production, Take Take)> FindAsync(IDbContextFactory<ZambloContext> contexts, Guid id)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var take = await db.Takes.AsNoTracking().FirstOrDefaultAsync(t => t.Id == id) ?? throw new NotFoundException("such take");
        var scene = await db.Lines.Where(l => l.Id == take.LineId).Select(l => l.SceneId).FirstAsync();
        return (await SceneEndpoints.ProductionOf(contexts, scene), take);
    }
}
