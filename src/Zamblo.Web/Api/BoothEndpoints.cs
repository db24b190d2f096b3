using System.Collections.Concurrent;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Interchange;
using Zamblo.Core.Performance;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Web.Jobs;
using Zamblo.Web.Services;

namespace Zamblo.Web.Api;

/// <summary>Takes of a line and what is done to their sound; voices to hear; lines to be spoken again.</summary>
internal static class BoothEndpoints
{
    public sealed record Script(long? Revision, string Text);
    public sealed record FindTurns(string Hash, string Name, int? Speakers);
    public sealed record SwapMembers(long? Revision, Guid First, Guid Second);
    public sealed record SplitLine(long? Revision, double At);
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
        api.MapPost("/scenes/{id:guid}/script", async (Guid id, Script body, ProductionStore store, JobDesk jobs, IDbContextFactory<ZambloContext> contexts) =>
        {
            if (body.Text.Length > 2_000_000) throw new RequestException("A script has at most two million characters.");
            var play = Screenplay.Read(body.Text);
            if (play.Lines.Count == 0) throw new RequestException(string.Join(" ", play.Problems));
            if (play.Lines.FirstOrDefault(l => l.Text.Length > Espeak.MaximalText) is { } tooLong) throw new RequestException($"What {tooLong.Role} says is longer than {Espeak.MaximalText:N0} characters: cut it into speeches.");
            var production = await SceneEndpoints.ProductionOf(contexts, id);
            var orders = new List<TakeOrder>();
            var added = 0;
            var revision = await store.EditAsync(production, body.Revision, "Bring in a script", async db =>
            {
                var members = await db.CastMembers.Where(m => m.ProductionId == production).OrderBy(m => m.Order).ToListAsync();
                var roles = play.Lines.Select(l => l.Role).Distinct(StringComparer.OrdinalIgnoreCase).ToArray();
                var missing = roles.Where(r => !members.Exists(m => m.RoleName.Equals(r, StringComparison.OrdinalIgnoreCase))).ToArray();
                if (members.Count + missing.Length > 8) throw new RequestException($"Eight cast members are the most that one stage holds; with this script there would be {members.Count + missing.Length}.");
                var casting = SceneBuilder.Casting(missing, [.. members.Select(m => m.Voice)]);
                var order = members.Count == 0 ? 0 : members.Max(m => m.Order);
                for (var i = 0; i < missing.Length; i++)
                {
                    var member = ProductionList.Member(production, ++order, casting[i].Character);
                    (member.RoleName, member.Voice) = (Named(missing[i]), casting[i].Voice);
                    db.CastMembers.Add(member);
                    members.Add(member);
                    added++;
                }
                var last = await db.Lines.Where(l => l.SceneId == id).MaxAsync(l => (int?)l.Order) ?? 0;
                var scene = await db.Scenes.FirstAsync(s => s.Id == id);
                // The scene that is open takes the first one of the script; each further one that is spoken in follows as a scene of its own.
                var heading = play.Lines[0].Scene;
                if (last == 0 && Heading(heading) is { } first) scene.Title = first;
                foreach (var said in play.Lines)
                {
                    if (said.Scene != heading)
                    {
                        (heading, last) = (said.Scene, 0);
                        scene = await SceneList.AddAfterAsync(db, scene, Heading(heading));
                    }
                    var member = members.First(m => m.RoleName.Equals(said.Role, StringComparison.OrdinalIgnoreCase));
                    var delivery = Delivery.FromDirection(said.Parenthetical);
                    var line = new Line { Id = Guid.NewGuid(), SceneId = scene.Id, CastMemberId = member.Id, Order = ++last, Text = said.Text, Delivery = JsonSerializer.Serialize(delivery, JsonSerializerOptions.Web) };
                    db.Lines.Add(line);
                    if (said.Parenthetical != null && MoodSuggestions.FromDirection(said.Parenthetical) is { } mood) db.Clips.Add(ClipEndpoints.WholeLine(line, mood));
                    orders.Add(new TakeOrder(scene.Id, line.Id, member.Id, said.Text, TakeKind.Synthesis, null, "", delivery));
                }
            });
            string? Heading(int number) => play.Scenes.ElementAtOrDefault(number) is { Length: > 0 } h ? h.Length > 120 ? h[..120] : h : null;
            foreach (var order in orders) await SceneEndpoints.Order(jobs, contexts, production, order);
            return Results.Json(new { revision, lines = play.Lines.Count, members = added, play.Problems }, statusCode: 202);
        });
        // The script of a production as Fountain, or what is said in a scene as captions with speakers.
        api.MapGet("/productions/{id:guid}/script", async (Guid id, SceneDesk desk, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            var production = await db.Productions.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id) ?? throw new NotFoundException("such production");
            var scenes = await db.Scenes.AsNoTracking().Where(s => s.ProductionId == id).OrderBy(s => s.Order).ToListAsync();
            var members = await db.CastMembers.AsNoTracking().Where(m => m.ProductionId == id).ToDictionaryAsync(m => m.Id, m => m.RoleName);
            var lines = new List<ScreenplayLine>();
            for (var s = 0; s < scenes.Count; s++)
            {
                var scene = await desk.LoadAsync(scenes[s].Id);
                foreach (var line in scene.Lines.OrderBy(l => l.Order))
                    if (scene.WrittenOf(line) is { Length: > 0 } text) lines.Add(new ScreenplayLine(members[line.CastMemberId], text, Delivery.Presets.FirstOrDefault(p => p.Delivery == DeliveryOf(line)).Name?.ToLowerInvariant(), s));
            }
            using var writer = new StringWriter();
            new Screenplay(production.Title, [.. scenes.Select(s => s.Title)], lines, []).WriteFountain(writer);
            return Results.File(System.Text.Encoding.UTF8.GetBytes(writer.ToString()), "text/plain; charset=utf-8", JobEndpoints.FileName(production.Title, ".fountain"));
        });
        api.MapGet("/scenes/{id:guid}/captions", async (Guid id, string format, SceneDesk desk) =>
        {
            var scene = await desk.LoadAsync(id);
            var captions = scene.Ticket.Lines.SelectMany(l => scene.SpeechOf(l) is { } speech
                ? Captions.FromWords([.. speech.Words.Select(w => w with { Start = w.Start + l.Start, End = w.End + l.Start })], scene.WrittenOf(scene.Lines.First(x => x.Id == l.Id))).Select(c => c with { Speaker = scene.Ticket.Members.First(m => m.Id == l.Member).RoleName }) : [])
                .OrderBy(c => c.Start).ToArray();
            using var writer = new StringWriter();
            if (format == "srt") Captions.WriteSrt(writer, captions);
            else if (format == "vtt") Captions.WriteVtt(writer, captions);
            else throw new RequestException("Captions are written as vtt or srt.");
            return Results.File(System.Text.Encoding.UTF8.GetBytes(writer.ToString()), format == "vtt" ? "text/vtt; charset=utf-8" : "text/plain; charset=utf-8", JobEndpoints.FileName(scene.Production.Title, "." + format));
        });
        api.MapPost("/scenes/{id:guid}/turns", async (Guid id, FindTurns body, JobDesk jobs, IDbContextFactory<ZambloContext> contexts) =>
        {
            if (body.Speakers is < Turns.Fewest or > Turns.Most) throw new RequestException($"There can be {Turns.Fewest} to {Turns.Most} speakers.");
            await using var db = await contexts.CreateDbContextAsync();
            if (!await db.Assets.AnyAsync(a => a.Hash == body.Hash)) throw new RequestException("The sound has not been uploaded.");
            return Results.Json(new { job = await jobs.AddAsync("turns", await SceneEndpoints.ProductionOf(contexts, id), $"Find who speaks in {body.Name}", new TurnsOrder(id, body.Hash, body.Name, body.Speakers)) }, statusCode: 202);
        });
        api.MapPost("/scenes/{id:guid}/swap", async (Guid id, SwapMembers body, ProductionStore store, MouthEndpoints.Desk hands, IDbContextFactory<ZambloContext> contexts) =>
        {
            var production = await SceneEndpoints.ProductionOf(contexts, id);
            var revision = await store.EditAsync(production, body.Revision, "Change two speakers over", async db =>
            {
                if (await db.CastMembers.CountAsync(m => m.ProductionId == production && (m.Id == body.First || m.Id == body.Second)) != 2) throw new NotFoundException("such cast member");
                Guid Other(Guid member) => member == body.First ? body.Second : body.First;
                foreach (var line in await db.Lines.Where(l => l.SceneId == id && (l.CastMemberId == body.First || l.CastMemberId == body.Second)).ToListAsync()) line.CastMemberId = Other(line.CastMemberId);
                foreach (var clip in await db.Clips.Where(c => c.SceneId == id && c.LineId != null && (c.CastMemberId == body.First || c.CastMemberId == body.Second)).ToListAsync()) clip.CastMemberId = Other(clip.CastMemberId);
            });
            await hands.ListenWhereNeededAsync(production);
            return Results.Json(new { revision });
        });
        api.MapPost("/lines/{id:guid}/split", async (Guid id, SplitLine body, SceneDesk desk, ProductionStore store, MouthEndpoints.Desk hands, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var look = await contexts.CreateDbContextAsync();
            var sceneId = await look.Lines.Where(l => l.Id == id).Select(l => (Guid?)l.SceneId).FirstOrDefaultAsync() ?? throw new NotFoundException("such line");
            var scene = await desk.LoadAsync(sceneId);
            var ticket = scene.Ticket.Lines.FirstOrDefault(l => l.Id == id) ?? throw new RequestException("This line has no voice yet.");
            var at = body.At - ticket.Start;
            if (at < 0.1 || at > ticket.Duration - 0.1) throw new RequestException("Put the playhead inside the line to split it.");
            var revision = await store.EditAsync(scene.Production.Id, body.Revision, "Split a line", async db =>
            {
                var line = await db.Lines.FirstAsync(l => l.Id == id);
                var take = await db.Takes.FirstAsync(t => t.Id == line.TakeId);
                var (before, after) = LineSplit.Text(line.Text, scene.SpeechOf(ticket)?.Words ?? [], at);
                var cut = ticket.Care.ToOriginal(at) + (take.PartStart ?? 0);
                var end = take.PartEnd ?? take.Duration;
                foreach (var later in await db.Lines.Where(l => l.SceneId == sceneId && l.Order > line.Order).ToListAsync()) later.Order++;
                var second = new Line { Id = Guid.NewGuid(), SceneId = sceneId, CastMemberId = line.CastMemberId, Order = line.Order + 1, Text = after, Start = ticket.Start + at, Delivery = line.Delivery };
                Take Part(double from, double to, VoiceCare care) => new()
                {
                    Id = Guid.NewGuid(),
                    Kind = take.Kind,
                    AssetHash = take.AssetHash,
                    Name = take.Name,
                    Duration = to - from,
                    SpeechHash = take.SpeechHash,
                    GuideHash = take.GuideHash,
                    GuideName = take.GuideName,
                    PartStart = from,
                    PartEnd = to,
                    Care = care == new VoiceCare() ? "" : JsonSerializer.Serialize(care, JsonSerializerOptions.Web),
                    SpokenDelivery = take.SpokenDelivery,
                    Created = DateTime.UtcNow,
                };
                // The take that was is kept: the two are new ones, so that undo and going back to it are the same.
                var first = Part(take.PartStart ?? 0, cut, ticket.Care with { TrimEnd = 0, FadeOut = 0 });
                var rest = Part(cut, end, ticket.Care with { TrimStart = 0, FadeIn = 0 });
                (first.LineId, rest.LineId, first.SpokenText, rest.SpokenText) = (line.Id, second.Id, take.SpokenText.Length > 0 ? before : "", take.SpokenText.Length > 0 ? after : "");
                db.Lines.Add(second);
                db.Takes.AddRange(first, rest);
                (line.TakeId, second.TakeId, line.Text, line.Start) = (first.Id, rest.Id, before, ticket.Start);
            });
            await hands.ListenWhereNeededAsync(scene.Production.Id);
            return Results.Json(new { revision });
        });
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
            await voices.CaredAsync(take.AssetHash, take.Name, VoiceStore.PartOf(take), care, cancel);
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

    // MARO becomes Maro; what is written in small letters stays.
    private static string Named(string role)
    {
        var name = role.Any(char.IsLower) ? role : string.Join(' ', role.Split(' ').Select(w => w.Length > 1 ? w[..1] + w[1..].ToLowerInvariant() : w));
        return name.Length > 40 ? name[..40] : name;
    }

    private static async Task<(Guid Production, Take Take)> FindAsync(IDbContextFactory<ZambloContext> contexts, Guid id)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var take = await db.Takes.AsNoTracking().FirstOrDefaultAsync(t => t.Id == id) ?? throw new NotFoundException("such take");
        var scene = await db.Lines.Where(l => l.Id == take.LineId).Select(l => l.SceneId).FirstAsync();
        return (await SceneEndpoints.ProductionOf(contexts, scene), take);
    }
}
