using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Dialogue;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Web.Jobs;
using Zamblo.Web.Services;

namespace Zamblo.Web.Api;

/// <summary>A scene: its state, its frames, its sound, and edits of cast, lines and stage.</summary>
internal static class SceneEndpoints
{
    private const long MaximalUpload = 1L << 30;

    public sealed record NewLine(Guid Member, string? Text, string Kind, string? Hash, string? Name, Delivery? Delivery);
    public sealed record NewTake(string Kind, string? Hash, string? Name, string? Text, Delivery? Delivery, NewPunch? Punch);
    /// <summary>Where in the line's take of now a recording is laid in: seconds of the line.</summary>
    public sealed record NewPunch(double At, bool KeepsRest);
    /// <summary>A change of a line. At puts its take at a moment of the scene, those after it follow unless Alone; Pause is the time before it, less than 0 gives it back to the scene's gap; Move is by so many places in the script.</summary>
    public sealed record ChangeLine(long? Revision, string? Text, Guid? Member, double? At, bool? Alone, double? Pause, bool? Follow, int? Move, bool? OffStage, bool? Mute, Guid[]? Also);
    /// <summary>What a page has of a scene already: numbers of what was heard in its lines, which does not travel again, and the frame that it shows, whose picture comes along.</summary>
    public sealed record Known(long[] Heard, int Frame);
    public sealed record NewMember(long? Revision, string Character);
    public sealed record ChangeMember(long? Revision, string? RoleName, string? Character, string? Voice, MouthDials? Mouth, PerformanceDials? Performance);
    public sealed record ChangeScene(long? Revision, string? Backdrop, double? Gap, double? LeadIn, double? LeadOut, string? Title, int? Move);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/scenes/{id:guid}", (Guid id, SceneDesk desk, ProductionStore store, MouthEndpoints.Desk hands) => State(id, null, desk, store, hands));
        api.MapPost("/scenes/{id:guid}/state", (Guid id, Known body, SceneDesk desk, ProductionStore store, MouthEndpoints.Desk hands) => State(id, body, desk, store, hands));
        api.MapGet("/scenes/{id:guid}/shapes", async (Guid id, HttpContext http, SceneDesk desk) =>
        {
            var scene = await desk.LoadAsync(id);
            Keep(http);
            return Results.Bytes(FrameWriter.Shapes(scene.Stage), "application/json");
        });
        api.MapGet("/scenes/{id:guid}/frames", async (Guid id, int from, int count, HttpContext http, SceneDesk desk) =>
        {
            var scene = await desk.LoadAsync(id);
            if (from < 0 || from >= scene.Stage.FrameCount || count is < 1 or > 250) throw new RequestException("There are no such frames.");
            Keep(http);
            return Results.Bytes(FrameWriter.Frames(scene.Stage, from, count), "application/json");
        });
        api.MapGet("/scenes/{id:guid}/frames/{frame:int}", async (Guid id, int frame, HttpContext http, SceneDesk desk) =>
        {
            // One frame as the film has it.
            var scene = await desk.LoadAsync(id);
            if (frame < 0 || frame >= scene.Stage.FrameCount) throw new RequestException("There is no such frame.");
            using var rasteriser = Rasteriser.ForStage(scene.Ticket.Width, scene.Ticket.Height);
            rasteriser.Draw(scene.Stage.Draw(frame, 1), 0);
            Keep(http);
            return Results.Bytes(rasteriser.ToPng(), "image/png");
        });
        api.MapGet("/scenes/{id:guid}/sound", async (Guid id, double? speed, Guid? bare, double? from, double? to, HttpContext http, SceneDesk desk, CancellationToken cancel) =>
        {
            if (speed is < 0.25 or > 1) throw new RequestException("Sound plays at a quarter of its speed up to its own.");
            var scene = await desk.LoadAsync(id);
            double end = Math.Min(to ?? scene.Stage.Duration, scene.Stage.Duration), start = Math.Clamp(from ?? 0, 0, end);
            var mix = await desk.MixAsync(scene, start, end, bare, cancel);
            var sound = await AudioFiles.StretchAsync(mix, speed ?? 1, cancel);
            Keep(http);
            var stream = new MemoryStream();
            WavFile.Write(stream, [sound.Samples], sound.SampleRate);
            stream.Position = 0;
            return Results.Stream(stream, "audio/wav");
        });
        api.MapPatch("/scenes/{id:guid}", async (Guid id, ChangeScene body, ProductionStore store, IDbContextFactory<ZambloContext> contexts) =>
        {
            if (body.Backdrop != null && !Cast.BackdropKeys.Contains(body.Backdrop)) throw new RequestException($"There is no backdrop \"{body.Backdrop}\".");
            var revision = await store.EditAsync(await ProductionOf(contexts, id), body.Revision, body.Backdrop != null ? "Change the backdrop" : body.Title != null ? "Rename the scene" : body.Move != null ? "Move the scene" : "Change the pauses", async db =>
            {
                var scene = await db.Scenes.FirstAsync(s => s.Id == id);
                if (body.Backdrop != null) scene.Backdrop = body.Backdrop;
                if (body.Gap is { } gap) scene.Gap = Math.Clamp(gap, -1, 10);
                if (body.LeadIn is { } before) scene.LeadIn = Math.Clamp(before, 0, 60);
                if (body.LeadOut is { } after) scene.LeadOut = Math.Clamp(after, 0, 60);
                if (body.Title != null) scene.Title = SceneList.Title(body.Title);
                if (body.Move is { } places) await SceneList.MoveAsync(db, scene, places);
            });
            return Results.Json(new { revision });
        });
        api.MapPost("/uploads", async (string name, HttpContext http, AssetStore assets, IDbContextFactory<ZambloContext> contexts, CancellationToken cancel) =>
        {
            name = Path.GetFileName(name.Replace('\\', '/'));
            if (name.Length is 0 or > 200) name = "voice";
            var (hash, length) = await assets.SaveAsync(http.Request.Body, MaximalUpload, cancel);
            var probe = await AudioFiles.ProbeAsync(assets.PathOf(hash), name, cancel);
            await using var db = await contexts.CreateDbContextAsync(cancel);
            await db.KeepAssetAsync(hash, length, name);
            return Results.Json(new { hash, name, seconds = probe.Duration });
        }).WithMetadata(new Microsoft.AspNetCore.Mvc.DisableRequestSizeLimitAttribute());
        api.MapPost("/scenes/{id:guid}/lines", async (Guid id, NewLine body, JobDesk jobs, IDbContextFactory<ZambloContext> contexts) =>
        {
            var production = await ProductionOf(contexts, id);
            await using (var db = await contexts.CreateDbContextAsync())
                if (!await db.CastMembers.AnyAsync(m => m.Id == body.Member && m.ProductionId == production)) throw new NotFoundException("such cast member");
            var job = await Order(jobs, contexts, production, new TakeOrder(id, null, body.Member, body.Text ?? "", Kind(body.Kind), body.Hash, body.Name ?? "", body.Delivery?.Clamped()));
            return Results.Json(new { job }, statusCode: 202);
        });
        api.MapPost("/lines/{id:guid}/takes", async (Guid id, NewTake body, JobDesk jobs, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            var line = await db.Lines.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id) ?? throw new NotFoundException("such line");
            PunchIn? punch = null;
            if (body.Punch is { } p)
            {
                var take = await db.Takes.AsNoTracking().FirstOrDefaultAsync(t => t.Id == line.TakeId) ?? throw new RequestException("There is no take to record into yet.");
                if (!double.IsFinite(p.At) || Kind(body.Kind) == TakeKind.Synthesis) throw new RequestException("Only a recording is laid into a take.");
                punch = new PunchIn(take.Id, SceneDesk.Read<VoiceCare>(take.Care).ToOriginal(Math.Max(0, p.At)), p.KeepsRest);
            }
            var job = await Order(jobs, contexts, await ProductionOf(contexts, line.SceneId), new TakeOrder(line.SceneId, id, line.CastMemberId, body.Text ?? line.Text, Kind(body.Kind), body.Hash, body.Name ?? "", (body.Delivery ?? BoothEndpoints.DeliveryOf(line)).Clamped(), punch));
            return Results.Json(new { job }, statusCode: 202);
        });
        api.MapPatch("/lines/{id:guid}", async (Guid id, ChangeLine body, ProductionStore store, JobDesk jobs, MouthEndpoints.Desk hands, SceneDesk desk, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var look = await contexts.CreateDbContextAsync();
            var before = await look.Lines.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id) ?? throw new NotFoundException("such line");
            var production = await ProductionOf(contexts, before.SceneId);
            var text = body.Text?.Trim();
            if (text?.Length > Espeak.MaximalText) throw new RequestException($"A line has at most {Espeak.MaximalText:N0} characters.");
            if (body.Member is { } who && !await look.CastMembers.AnyAsync(m => m.Id == who && m.ProductionId == production)) throw new NotFoundException("such cast member");
            var name = text != null ? "Change the words" : body.Member != null ? "Give the line to another" : body.OffStage is { } off ? off ? "Send a voice off stage" : "Bring a voice on stage" : body.Mute is { } mute ? mute ? "Make a pantomime" : "Make a line heard" : body.Also != null ? "Change who speaks in unison"
                : body.Pause != null || body.Follow == true ? "Change a pause" : "Move a line";
            var scene = body.At != null || body.Pause != null || body.Follow == true ? await desk.LoadAsync(before.SceneId) : null;
            var revision = await store.EditAsync(production, body.Revision, name, async db =>
            {
                var line = await db.Lines.FirstOrDefaultAsync(l => l.Id == id) ?? throw new NotFoundException("such line");
                if (text != null) line.Text = text;
                if (body.Member is { } member)
                {
                    line.CastMemberId = member;
                    foreach (var clip in await db.Clips.Where(c => c.LineId == id).ToListAsync()) clip.CastMemberId = member;
                }
                if (body.Follow == true) await MoveAsync(db, scene!, line, null, null, false);
                if (body.Pause is { } pause) await MoveAsync(db, scene!, line, null, Math.Clamp(pause, -60, 600), false);
                if (body.At is { } at) await MoveAsync(db, scene!, line, Math.Clamp(at, 0, 7200), null, body.Alone == true);
                if (body.OffStage is { } isOff) line.IsOffStage = isOff;
                if (body.Mute is { } isMute) line.IsMute = isMute;
                if (body.Also is { } also)
                {
                    if (await db.CastMembers.CountAsync(m => m.ProductionId == production && also.Contains(m.Id)) != also.Distinct().Count()) throw new NotFoundException("such cast member");
                    line.Also = string.Join(' ', also.Distinct().Where(m => m != line.CastMemberId));
                }
                if (body.Move is { } places) await ReorderAsync(db, line, places);
            });
            Guid? job = null;
            if (body.Member != null && text == null) await hands.ListenWhereNeededAsync(production);
            var take = await look.Takes.AsNoTracking().FirstOrDefaultAsync(t => t.Id == before.TakeId);
            if (text != null && text != before.Text && take != null)
                job = take.Kind == TakeKind.Synthesis
                    ? await Order(jobs, contexts, production, new TakeOrder(before.SceneId, id, body.Member ?? before.CastMemberId, text, TakeKind.Synthesis, null, "", BoothEndpoints.DeliveryOf(before)))
                    : await jobs.AddAsync("listen", production, "Listen again", new ListenOrder(id, await contexts.QueryAsync(production, before.CastMemberId, before.Text, take.Id)));
            return Results.Json(new { revision, job });
        });
        api.MapDelete("/lines/{id:guid}", async (Guid id, long? revision, ProductionStore store, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var look = await contexts.CreateDbContextAsync();
            var line = await look.Lines.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id) ?? throw new NotFoundException("such line");
            var now = await store.EditAsync(await ProductionOf(contexts, line.SceneId), revision, "Delete a line", async db =>
            {
                await db.RemoveLinesAsync([await db.Lines.FirstAsync(l => l.Id == id)]);
            });
            return Results.Json(new { revision = now });
        });
        api.MapPost("/productions/{id:guid}/members", async (Guid id, NewMember body, ProductionStore store) =>
        {
            if (!Cast.CharacterKeys.Contains(body.Character)) throw new RequestException($"There is no character \"{body.Character}\".");
            var revision = await store.EditAsync(id, body.Revision, "Add a cast member", async db =>
            {
                var there = await db.CastMembers.Where(m => m.ProductionId == id).ToListAsync();
                if (there.Count >= 8) throw new RequestException("Eight cast members are the most that one stage holds.");
                var member = ProductionList.Member(id, there.Count == 0 ? 1 : there.Max(m => m.Order) + 1, body.Character);
                for (var n = 2; there.Any(m => m.RoleName == member.RoleName); n++) member.RoleName = $"{Cast.Character(body.Character).Rig.Name} {n}";
                db.CastMembers.Add(member);
            });
            return Results.Json(new { revision });
        });
        api.MapPatch("/members/{id:guid}", async (Guid id, ChangeMember body, ProductionStore store, MouthEndpoints.Desk hands, IDbContextFactory<ZambloContext> contexts) =>
        {
            if (body.Character != null && !Cast.CharacterKeys.Contains(body.Character)) throw new RequestException($"There is no character \"{body.Character}\".");
            if (body.RoleName is { } given && given.Trim().Length is 0 or > 40) throw new RequestException("A role name has 1 to 40 characters.");
            var name = body.RoleName != null ? "Rename a role" : body.Character != null ? "Recast a role" : body.Voice != null ? "Change a voice" : body.Mouth != null ? "Turn a mouth dial" : "Turn a motion dial";
            var revision = await store.EditAsync(await ProductionOfMember(contexts, id), body.Revision, name, async db =>
            {
                var member = await db.CastMembers.FirstAsync(m => m.Id == id);
                if (body.RoleName != null) member.RoleName = body.RoleName.Trim();
                if (body.Character != null) member.Character = body.Character;
                if (body.Voice != null) member.Voice = body.Voice;
                if (body.Mouth is { } m) member.MouthDials = JsonSerializer.Serialize(m.Clamped(), JsonSerializerOptions.Web);
                if (body.Performance is { } p) member.PerformanceDials = JsonSerializer.Serialize(p.Clamped(), JsonSerializerOptions.Web);
            });
            if (body.Voice != null) await hands.ListenWhereNeededAsync(await ProductionOfMember(contexts, id));
            return Results.Json(new { revision });
        });
        api.MapDelete("/members/{id:guid}", async (Guid id, long? revision, ProductionStore store, IDbContextFactory<ZambloContext> contexts) =>
        {
            var now = await store.EditAsync(await ProductionOfMember(contexts, id), revision, "Remove a cast member", async db =>
            {
                // Who leaves takes the lines along; undo brings all of it back.
                await db.RemoveLinesAsync(await db.Lines.Where(l => l.CastMemberId == id).ToListAsync());
                db.Clips.RemoveRange(await db.Clips.Where(c => c.CastMemberId == id).ToListAsync());
                db.CastMembers.Remove(await db.CastMembers.FirstAsync(m => m.Id == id));
            });
            return Results.Json(new { revision = now });
        });
        api.MapPost("/scenes/{id:guid}/renders", async (Guid id, SceneDesk desk, JobDesk jobs) =>
        {
            var scene = await desk.LoadAsync(id);
            if (scene.Ticket.Lines.Count == 0) throw new RequestException("There is nothing to render yet: add a voice first.");
            var title = (await desk.ScenesAsync(scene.Production.Id)).Count > 1 ? $"{scene.Production.Title}, {scene.Scene.Title}" : scene.Production.Title;
            var job = await jobs.AddAsync("render", scene.Production.Id, title, new FilmTicket([scene.Ticket]));
            return Results.Json(new { job }, statusCode: 202);
        });
        api.MapPost("/productions/{id:guid}/renders", async (Guid id, SceneDesk desk, JobDesk jobs, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            var tickets = new List<SceneTicket>();
            // A scene in which nobody speaks yet is not part of the film.
            foreach (var scene in await db.Scenes.Where(s => s.ProductionId == id).OrderBy(s => s.Order).Select(s => s.Id).ToListAsync())
                if ((await desk.LoadAsync(scene)).Ticket is { Lines.Count: > 0 } ticket) tickets.Add(ticket);
            if (tickets.Count == 0) throw new RequestException("There is nothing to render yet: add a voice first.");
            var title = await db.Productions.Where(p => p.Id == id).Select(p => p.Title).FirstAsync();
            return Results.Json(new { job = await jobs.AddAsync("render", id, title, new FilmTicket(tickets)) }, statusCode: 202);
        });
    }

    // A line is moved by its pause, to a moment or by a pause that is given (null is the scene's). What comes after it goes along: lines that follow
    // do by themselves, those that stand at a moment of their own are moved by as much; alone, the next one stays where it is.
    internal static async Task MoveAsync(ZambloContext db, LoadedScene scene, Line line, double? at, double? pause, bool alone)
    {
        var order = scene.Ticket.Lines;
        var index = order.ToList().FindIndex(l => l.Id == line.Id);
        if (index < 0) throw new RequestException("This line has no voice yet: there is nothing to move.");
        LineTime[] times = [.. order.Select(l => scene.Times[l.Id])];
        double[] starts = [.. order.Select(l => l.Start)];
        // The first one follows nothing.
        (line.Start, line.Pause) = at is { } moment ? Timing.PauseFor(times, starts, index, moment) is { } found ? (null, found) : (moment, null) : ((double?)null, pause);
        times[index] = times[index] with { Start = line.Start, Pause = line.Pause };
        var by = Timing.Lay(times[..(index + 1)], scene.Scene.LeadIn, scene.Scene.Gap)[index] - starts[index];
        var ids = order.Skip(index + 1).Select(l => l.Id).ToArray();
        var later = await db.Lines.Where(l => ids.Contains(l.Id)).ToListAsync();
        if (!alone)
        {
            foreach (var other in later) if (other.Start is { } own) other.Start = Math.Max(0, own + by);
            return;
        }
        if (ids.Length == 0) return;
        starts[index] += by;
        var next = later.First(l => l.Id == ids[0]);
        if (next.Start == null) next.Pause = Timing.PauseFor(times, starts, index + 1, starts[index + 1]);
    }

    private static async Task ReorderAsync(ZambloContext db, Line line, int places)
    {
        var lines = await db.Lines.Where(l => l.SceneId == line.SceneId).OrderBy(l => l.Order).ToListAsync();
        var from = lines.FindIndex(l => l.Id == line.Id);
        var to = Math.Clamp(from + places, 0, lines.Count - 1);
        var moved = lines[from];
        lines.RemoveAt(from);
        lines.Insert(to, moved);
        // A pause belongs to the place in the talk that it was made for.
        if (from != to) line.Pause = null;
        for (var i = 0; i < lines.Count; i++) lines[i].Order = i + 1;
    }

    private static async Task<IResult> State(Guid id, Known? page, SceneDesk desk, ProductionStore store, MouthEndpoints.Desk hands)
    {
        var loaded = await desk.LoadAsync(id);
        // When a scene is opened the others are looked after as well; after an edit there is nothing new in them.
        if (page is { Heard.Length: > 0 }) await hands.ListenWhereNeededAsync(loaded);
        else await hands.ListenWhereNeededAsync(loaded.Production.Id);
        var (undo, redo) = await store.NamesAsync(loaded.Production.Id);
        var stage = loaded.Stage;
        var mouths = new MouthGallery();
        var known = page?.Heard.ToHashSet() ?? [];
        var placed = loaded.Ticket.Lines.ToDictionary(l => l.Id);
        var takes = loaded.Takes.Values.ToLookup(t => t.LineId);
        var touches = loaded.Hand.Touches.ToLookup(t => t.LineId);
        return Results.Json(new
        {
            id,
            production = new { loaded.Production.Id, loaded.Production.Title, loaded.Production.Revision, loaded.Production.Width, loaded.Production.Height, loaded.Production.Rate },
            scene = new { loaded.Scene.Title, loaded.Scene.Backdrop, backdrops = Cast.BackdropKeys, loaded.Scene.Gap, loaded.Scene.LeadIn, loaded.Scene.LeadOut },
            scenes = await desk.ScenesAsync(loaded.Production.Id),
            moods = Moods.All.Select(m => m.ToString()),
            clips = ClipEndpoints.State(loaded),
            sounds = loaded.Ticket.Sounds,
            heard = desk.Heard(loaded),
            sound = loaded.Ticket.SoundKey,
            fps = stage.Rate.FramesPerSecond,
            frames = stage.FrameCount,
            duration = stage.Duration,
            undo,
            redo,
            shapes = MouthShapes.All.Select(x => x.ToString()),
            respellings = loaded.Hand.Respellings.Select(r => new { r.Word, r.Written, r.Phones }),
            characters = Cast.CharacterKeys.Select(k => new { key = k, name = Cast.Character(k).Rig.Name, description = Cast.Character(k).Rig.Description }),
            members = loaded.Ticket.Members,
            // The picture that is looked at comes along: nothing has to wait for it.
            picture = page == null ? null : new RawJson(Encoding.UTF8.GetString(FrameWriter.Frames(stage, Math.Clamp(page.Frame, 0, stage.FrameCount - 1), 1))),
            shapesKey = string.Join(' ', loaded.Ticket.Members.Select(m => m.Character).Prepend(loaded.Scene.Backdrop)),
            lines = loaded.Lines.Select(line =>
            {
                var ticket = placed.GetValueOrDefault(line.Id);
                var spoken = loaded.Placed(line.Id);
                var speech = spoken?.Speech;
                var member = loaded.Ticket.Members.First(m => m.Id == line.CastMemberId);
                var take = line.TakeId is { } t ? loaded.Takes.GetValueOrDefault(t) : null;
                var light = JsonSerializer.Serialize(new
                {
                    line.Id,
                    member = line.CastMemberId,
                    line.Text,
                    start = ticket?.Start,
                    duration = ticket?.Duration,
                    follows = line.Start == null,
                    line.IsOffStage,
                    line.IsMute,
                    also = ticket?.Also ?? [],
                    pause = line.Pause,
                    take = take == null ? null : new { take.Id, kind = take.Kind.ToString().ToLowerInvariant(), take.Name, guide = take.GuideHash == null ? null : take.GuideName },
                    listening = ticket != null && speech == null,
                    touches = touches[line.Id].Select(t =>
                    {
                        var was = HandWork.Read(t);
                        var here = speech == null ? null : PhoneMap.Find(was, PhoneMap.Sequence(speech));
                        return new { t.Id, t.Title, on = t.IsOn, isLost = speech != null && here == null, start = R(here?.Start ?? was.Start), end = R(here?.End ?? was.End) };
                    }),
                    marks = take == null ? null : loaded.Hand.Marks.Where(m => m.TakeId == take.Id).Select(m => new { m.Id, start = R(Math.Max(0, ticket!.Care.ToTake(m.Start))), end = R(ticket.Care.ToTake(m.End)), m.IsVoice }),
                    takes = takes[line.Id].OrderBy(x => x.Created).Select(x => new { x.Id, kind = x.Kind.ToString().ToLowerInvariant(), x.Name, x.Duration, isUsed = x.Id == line.TakeId }),
                    care = ticket?.Care,
                    delivery = BoothEndpoints.DeliveryOf(line),
                    isStale = take != null && BoothEndpoints.IsStale(line, take, member.Voice),
                    pins = take == null ? 0 : loaded.Hand.Pins.Count(p => p.TakeId == take.Id),
                }, JsonSerializerOptions.Web);
                var heard = spoken == null ? null : HeardLine.Of(spoken, member.Character);
                return HeardLine.Join(light, heard, mouths, known);
            }).ToArray(),
            mouths = mouths.Pictures,
        });
    }

    private static double R(double seconds) => Math.Round(seconds, 3);

    // Addresses carry the revision, so what they answer never changes.
    private static void Keep(HttpContext http)
    {
        if (http.Request.Query.ContainsKey("r")) http.Response.Headers.CacheControl = "private, max-age=86400, immutable";
    }

    private static TakeKind Kind(string kind) => Enum.TryParse<TakeKind>(kind, true, out var k) ? k : throw new RequestException($"\"{kind}\" is no way for a voice to arrive.");

    internal static async Task<Guid> Order(JobDesk jobs, IDbContextFactory<ZambloContext> contexts, Guid production, TakeOrder order)
    {
        if (order.Kind == TakeKind.Synthesis)
        {
            if (string.IsNullOrWhiteSpace(order.Text)) throw new RequestException("Write what is to be said first.");
            if (order.Text.Length > Espeak.MaximalText) throw new RequestException($"A line has at most {Espeak.MaximalText:N0} characters; this one has {order.Text.Length:N0}. Cut it into lines.");
            return await jobs.AddAsync("speak", production, "Speak a line", order);
        }
        await using var db = await contexts.CreateDbContextAsync();
        if (order.Hash == null || !await db.Assets.AnyAsync(a => a.Hash == order.Hash)) throw new RequestException("The sound has not been uploaded.");
        return await jobs.AddAsync("take", production, order.Kind == TakeKind.Recording ? "Take in a recording" : $"Take in {order.Name}", order);
    }

    internal static async Task<Guid> ProductionOf(IDbContextFactory<ZambloContext> contexts, Guid scene)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return await db.Scenes.Where(s => s.Id == scene).Select(s => (Guid?)s.ProductionId).FirstOrDefaultAsync() ?? throw new NotFoundException("such scene");
    }

    private static async Task<Guid> ProductionOfMember(IDbContextFactory<ZambloContext> contexts, Guid member)
    {
        await using var db = await contexts.CreateDbContextAsync();
        return await db.CastMembers.Where(m => m.Id == member).Select(m => (Guid?)m.ProductionId).FirstOrDefaultAsync() ?? throw new NotFoundException("such cast member");
    }
}
