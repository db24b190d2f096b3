using System.Globalization;
using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Core.Interchange;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Web.Jobs;
using Zamblo.Web.Services;

namespace Zamblo.Web.Api;

/// <summary>Hand work on mouth and words: cues, touch-ups, marks, boundaries, pronunciations, times from elsewhere, saved motion.</summary>
internal static class MouthEndpoints
{
    public sealed record EditCues(long? Revision, CueOperation Operation, int[] Cues, MouthShape Shape, double By);
    public sealed record PutShape(long? Revision, MouthShape Shape, double Start, double End);
    public sealed record PickTouches(long? Revision, Guid[] Ids, bool On);
    public sealed record Place(Guid Line, int Word);
    public sealed record ApplyWord(long? Revision, Place[] Places);
    public sealed record Paste(long? Revision, Guid Source, double Start, double End, double At);
    public sealed record Try(int Frame, Guid? Line, CueOperation Operation, int[]? Cues, MouthShape Shape, double By, Guid? Member, MouthDials? Mouth);
    public sealed record Mark(long? Revision, double Start, double End, bool IsVoice);
    public sealed record Pin(long? Revision, int Word, int Phone, double Time);
    public sealed record Respell(long? Revision, string Word, string Written);
    public sealed record Hear(string Voice, string Word, string Written);
    public sealed record SaveMotion(Guid Line, string Name);
    public sealed record Guide(long? Revision, string? Hash, string? Name);
    public sealed record Lay(long? Revision, Guid Motion);

    public static void Map(RouteGroupBuilder api)
    {
        MapCues(api);
        MapWords(api);
        MapTimes(api);
        MapMotions(api);
    }

    private static void MapCues(RouteGroupBuilder api)
    {
        api.MapPost("/lines/{id:guid}/cues", async (Guid id, EditCues body, Desk desk) =>
        {
            var work = await desk.OpenAsync(id);
            var edit = new CueEdit(body.Operation, body.Cues) { Shape = body.Shape, By = body.By };
            var name = body.Operation switch
            {
                CueOperation.Shape => $"Mouth: {body.Shape}",
                CueOperation.Strength => "Strength of a mouth",
                CueOperation.Remove => "Take out a mouth",
                CueOperation.Reset => "Mouth back to automatic",
                _ => "Time of a mouth",
            };
            var word = work.WordAt(body.Cues.Length > 0 && body.Cues[0] >= 0 && body.Cues[0] < work.Placed.Cues.Count ? work.Placed.Cues[body.Cues[0]].Peak : 0);
            return await desk.SaveAsync(work, body.Revision, name + (word.Length > 0 ? $" in \"{word}\"" : ""), CueEdits.Apply(work.Placed.Cues, work.Touches, edit, work.Placed.Speech.Duration));
        });
        api.MapPost("/lines/{id:guid}/shape", async (Guid id, PutShape body, Desk desk) =>
        {
            var work = await desk.OpenAsync(id);
            double start = Math.Max(0, Math.Min(body.Start, body.End)), end = Math.Min(work.Placed.Speech.Duration, Math.Max(body.Start, body.End));
            if (end - start < 0.01) throw new RequestException("That stretch is too short for a mouth.");
            return await desk.SaveAsync(work, body.Revision, body.Shape == MouthShape.Rest ? "Close the mouth" : $"Add a mouth: {body.Shape}", [.. work.Touches, CueEdits.Put(body.Shape, start, end)]);
        });
        api.MapPost("/scenes/{id:guid}/touches/reset", async (Guid id, PickTouches body, Desk desk) =>
            await desk.ChangeAsync(id, body.Revision, body.Ids.Length == 1 ? "Lift off a touch-up" : $"Lift off {body.Ids.Length} touch-ups", body.Ids, (db, rows) => db.Touches.RemoveRange(rows)));
        api.MapPost("/scenes/{id:guid}/touches/switch", async (Guid id, PickTouches body, Desk desk) =>
            await desk.ChangeAsync(id, body.Revision, body.On ? "Switch touch-ups on" : "Switch touch-ups off", body.Ids, (_, rows) => rows.ForEach(r => r.IsOn = body.On)));
        api.MapPost("/scenes/{id:guid}/try", async (Guid id, Try body, SceneDesk scenes) =>
        {
            // One frame as it would be: for looking before deciding. Nothing is kept.
            var scene = await scenes.LoadAsync(id);
            if (body.Frame < 0 || body.Frame >= scene.Stage.FrameCount) throw new RequestException("There is no such frame.");
            var ticket = scene.Ticket;
            if (body.Member is { } member && body.Mouth is { } dials)
                ticket = ticket with { Members = [.. ticket.Members.Select(m => m.Id == member ? m with { Mouth = dials.Clamped() } : m)] };
            if (body.Line is { } line && body.Cues is { } cues && scene.Placed(line) is { } placed)
            {
                var edit = new CueEdit(body.Operation, cues) { Shape = body.Shape, By = body.By };
                ticket = ticket with { Lines = [.. ticket.Lines.Select(l => l.Id == line ? l with { Touches = CueEdits.Apply(placed.Cues, placed.Touches, edit, placed.Speech.Duration) } : l)] };
            }
            return Results.Bytes(FrameWriter.Frames(ticket.ToScene(scene.SpeechOf), body.Frame, 1), "application/json");
        });
        api.MapPost("/lines/{id:guid}/paste", async (Guid id, Paste body, Desk desk) =>
        {
            var (work, source) = (await desk.OpenAsync(id), await desk.OpenAsync(body.Source));
            // On the same word it is fitted to that word; elsewhere it keeps its length.
            int here = work.WordIndexAt(body.At), there = source.WordIndexAt((body.Start + body.End) / 2);
            Func<double, double> map = t => body.At + (t - body.Start);
            if (here >= 0 && there >= 0 && PhoneMap.Plain(work.Words[here].Text) == PhoneMap.Plain(source.Words[there].Text))
            {
                var fit = CueEdits.Copy(source.Placed.Cues, body.Start, body.End, t => t) is { } copy ? PhoneMap.Fit(copy, source.PhonesOf(there), work.PhonesOf(here)) : null;
                if (fit != null) return await desk.SaveAsync(work, body.Revision, $"Paste a mouth on \"{work.Words[here].Text}\"", [.. work.Touches, fit]);
            }
            var pasted = CueEdits.Copy(source.Placed.Cues, body.Start, body.End, map) ?? throw new RequestException("There is no mouth to paste.");
            return await desk.SaveAsync(work, body.Revision, "Paste a mouth", [.. work.Touches, pasted]);
        });
    }

    private static void MapWords(RouteGroupBuilder api)
    {
        api.MapGet("/lines/{id:guid}/words/{word:int}/elsewhere", async (Guid id, int word, Desk desk) =>
        {
            var work = await desk.OpenAsync(id);
            var places = desk.Elsewhere(work, word).Select(p =>
            {
                var (line, index) = p;
                var (before, after) = desk.Preview(work, word, line, index);
                object Strip(IEnumerable<Cue> cues) => cues.Select(c => new { name = c.Shape.ToString(), picture = FormattableString.Invariant($"/api/characters/{line.Character}/mouths/{c.Shape}?strength={c.Strength:0.0}") }).ToArray();
                var words = line.Words;
                return new
                {
                    line = line.Id,
                    word = index,
                    role = line.Role,
                    time = Math.Round(line.Start + words[index].Start, 2),
                    text = string.Join(' ', words.Skip(Math.Max(0, index - 3)).Take(7).Select(w => w.Text)),
                    before = Strip(before),
                    after = Strip(after),
                };
            }).ToArray();
            return Results.Json(new { text = work.Words.ElementAtOrDefault(word).Text, places });
        });
        api.MapPost("/lines/{id:guid}/words/{word:int}/apply", async (Guid id, int word, ApplyWord body, Desk desk) =>
        {
            var work = await desk.OpenAsync(id);
            var changes = new List<(Work, IReadOnlyList<TouchUp>)>();
            foreach (var group in body.Places.GroupBy(p => p.Line))
            {
                var other = group.Key == id ? work : await desk.OpenAsync(group.Key);
                changes.Add((other, [.. group.Aggregate((IReadOnlyList<TouchUp>)other.Touches, (touches, place) => desk.Transfer(work, word, other, place.Word, touches))]));
            }
            return await desk.SaveAsync(body.Revision, $"Apply the mouth of \"{work.Words[word].Text}\" in {body.Places.Length} {(body.Places.Length == 1 ? "place" : "places")}", changes);
        });
        api.MapPost("/takes/{id:guid}/marks", async (Guid id, Mark body, Desk desk) =>
        {
            var care = await desk.CareOfAsync(id);
            // Marks belong to the sound as it came: another trim does not move them against it.
            double start = Math.Max(0, care.ToOriginal(Math.Min(body.Start, body.End))), end = care.ToOriginal(Math.Max(body.Start, body.End));
            if (end - start < 0.03) throw new RequestException("That stretch is too short to mark.");
            return await desk.ChangeTakeAsync(id, body.Revision, body.IsVoice ? "Mark as voice" : "Mark as not voice", async (db, take) =>
            {
                // The newest word counts: older marks give way where they overlap.
                foreach (var old in await db.Marks.Where(m => m.TakeId == id && m.Start < end && m.End > start).ToListAsync())
                {
                    if (old.End > end) db.Marks.Add(new TakeMark { Id = Guid.NewGuid(), TakeId = id, Start = end, End = old.End, IsVoice = old.IsVoice });
                    if (old.Start < start) old.End = start;
                    else db.Marks.Remove(old);
                }
                db.Marks.Add(new TakeMark { Id = Guid.NewGuid(), TakeId = id, Start = start, End = Math.Min(end, take.Duration), IsVoice = body.IsVoice });
            });
        });
        api.MapPost("/takes/{id:guid}/marks/{mark:guid}/lift", async (Guid id, Guid mark, PickTouches body, Desk desk) =>
            await desk.ChangeTakeAsync(id, body.Revision, "Lift off a mark", async (db, _) => db.Marks.RemoveRange(await db.Marks.Where(m => m.Id == mark).ToListAsync())));
        api.MapPost("/takes/{id:guid}/guide", async (Guid id, Guide body, Desk desk) =>
            await desk.ChangeTakeAsync(id, body.Revision, body.Hash == null ? "Take the guide away" : "Set a guide", async (db, take) =>
            {
                if (body.Hash != null && !await db.Assets.AnyAsync(a => a.Hash == body.Hash)) throw new RequestException("The guide has not been uploaded.");
                (take.GuideHash, take.GuideName) = (body.Hash, body.Name ?? "");
            }));
        api.MapPost("/lines/{id:guid}/pins", async (Guid id, Pin body, Desk desk) =>
        {
            var work = await desk.OpenAsync(id);
            if (body.Word < 0 || body.Word >= work.Words.Count) throw new RequestException("There is no such word any more.");
            var word = work.Words[body.Word];
            var phones = work.PhonesOf(body.Word);
            var care = await desk.CareOfAsync(work.Take);
            var near = care.ToOriginal(body.Phone < phones.Count ? phones[Math.Max(0, body.Phone)].Start : word.End);
            return await desk.ChangeTakeAsync(work.Take, body.Revision, $"Boundary of \"{word.Text}\"", async (db, _) =>
            {
                // One pin for one boundary.
                db.Pins.RemoveRange((await db.Pins.Where(p => p.TakeId == work.Take && p.Phone == body.Phone).ToListAsync()).Where(p => string.Equals(p.Word, word.Text, StringComparison.OrdinalIgnoreCase) && Math.Abs(p.Time - near) < 0.02));
                db.Pins.Add(new TakePin { Id = Guid.NewGuid(), TakeId = work.Take, Word = word.Text, Near = near, Phone = Math.Max(0, body.Phone), Time = care.ToOriginal(Math.Clamp(body.Time, 0, work.Placed.Speech.Duration)) });
            });
        });
        api.MapPost("/lines/{id:guid}/pins/lift", async (Guid id, PickTouches body, Desk desk) =>
        {
            var work = await desk.OpenAsync(id);
            return await desk.ChangeTakeAsync(work.Take, body.Revision, "Boundaries back to automatic", async (db, _) => db.Pins.RemoveRange(await db.Pins.Where(p => p.TakeId == work.Take).ToListAsync()));
        });
        api.MapPut("/productions/{id:guid}/respellings", async (Guid id, Respell body, Desk desk) =>
        {
            var word = PhoneMap.Plain(body.Word);
            if (word.Length == 0) throw new RequestException("That is no word.");
            var phones = body.Written.Trim().Length == 0 ? [] : WrittenSounds.Read(body.Written, SpeechModels.Analyzer.Say);
            if (body.Written.Trim().Length > 0 && phones.Length == 0) throw new RequestException($"\"{body.Written}\" is neither ARPAbet, nor IPA, nor a spelling with sounds.");
            return await desk.ChangeProductionAsync(id, body.Revision, $"How \"{word}\" is said", async db =>
            {
                db.Respellings.RemoveRange(await db.Respellings.Where(r => r.ProductionId == id && r.Word == word).ToListAsync());
                if (phones.Length > 0) db.Respellings.Add(new Respelling { Id = Guid.NewGuid(), ProductionId = id, Word = word, Written = body.Written.Trim(), Phones = string.Join(' ', phones) });
            });
        });
        api.MapPost("/hear", async (Hear body, CancellationToken cancel) =>
        {
            var phones = WrittenSounds.Read(body.Written.Trim().Length > 0 ? body.Written : body.Word, SpeechModels.Analyzer.Say);
            if (phones.Length == 0) throw new RequestException("There is nothing to hear in that.");
            var spoken = await Synthesis.SpeakAsync(body.Voice, WrittenSounds.ForEngine(phones), new Delivery(0.85), cancel);
            var stream = new MemoryStream();
            Core.Audio.WavFile.Write(stream, [spoken.Audio.Samples], spoken.Audio.SampleRate);
            return Results.Json(new { phones = string.Join(' ', phones), sound = Convert.ToBase64String(stream.ToArray()) });
        });
    }

    private static void MapTimes(RouteGroupBuilder api)
    {
        api.MapGet("/lines/{id:guid}/times", async (Guid id, string format, Desk desk) =>
        {
            var work = await desk.OpenAsync(id);
            var name = $"{work.Role}-{work.Number}".Replace(' ', '_');
            using var stream = new MemoryStream();
            using (var writer = new StreamWriter(stream, new UTF8Encoding(false), leaveOpen: true))
                switch (format)
                {
                    case "textgrid": TextGrid.Write(writer, work.Placed.Speech); break;
                    case "csv": SpeechExports.WriteCues(writer, work.Placed.Speech, work.Placed.Cues); break;
                    case "json": SpeechExports.WriteJson(stream, work.Placed.Speech, work.Placed.Cues); break;
                    default: throw new RequestException("Times go out as textgrid, csv or json.");
                }
            return Results.File(stream.ToArray(), "application/octet-stream", $"{name}.{(format == "textgrid" ? "TextGrid" : format)}");
        });
        api.MapPost("/lines/{id:guid}/times", async (Guid id, long? revision, HttpContext http, Desk desk, AssetStore assets, IDbContextFactory<ZambloContext> contexts) =>
        {
            var work = await desk.OpenAsync(id);
            using var body = new MemoryStream();
            await http.Request.Body.CopyToAsync(body);
            if (!(await desk.CareOfAsync(work.Take)).KeepsTimes) throw new RequestException("The times of a file are those of the whole sound: take trim and speed off, bring them in, and trim again.");
            if (body.Length > 20 << 20) throw new RequestException("A file of times has at most 20 MB.");
            body.Position = 0;
            using var reader = new StreamReader(body, Encoding.UTF8, detectEncodingFromByteOrderMarks: true);
            var speech = SpeechTimes.Read(await reader.ReadToEndAsync(), work.Placed.Speech);
            var (hash, length) = await assets.SaveAsync(new MemoryStream(JsonSerializer.SerializeToUtf8Bytes(speech)));
            await using (var db = await contexts.CreateDbContextAsync()) await db.KeepAssetAsync(hash, length, "times.json");
            return await desk.ChangeTakeAsync(work.Take, revision, "Bring in times", (_, take) => { take.SpeechHash = hash; return Task.CompletedTask; });
        });
    }

    private static void MapMotions(RouteGroupBuilder api)
    {
        api.MapGet("/motions", async (IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            return await db.MouthMotions.AsNoTracking().OrderBy(m => m.Name).Select(m => new { m.Id, m.Name, m.Duration }).ToListAsync();
        });
        api.MapPost("/motions", async (SaveMotion body, Desk desk, IDbContextFactory<ZambloContext> contexts) =>
        {
            if (body.Name.Trim().Length is 0 or > 80) throw new RequestException("A name has 1 to 80 characters.");
            var work = await desk.OpenAsync(body.Line);
            var touch = CueEdits.Copy(work.Placed.Cues, 0, work.Placed.Speech.Duration, t => t) ?? throw new RequestException("This line has no mouth to save.");
            await using var db = await contexts.CreateDbContextAsync();
            var motion = new MouthMotion { Id = Guid.NewGuid(), Name = body.Name.Trim(), Duration = work.Placed.Speech.Duration, Cues = JsonSerializer.Serialize(touch.Cues, JsonSerializerOptions.Web), Created = DateTime.UtcNow };
            db.MouthMotions.Add(motion);
            await db.SaveChangesAsync();
            return Results.Json(new { id = motion.Id }, statusCode: 201);
        });
        api.MapDelete("/motions/{id:guid}", async (Guid id, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            return await db.MouthMotions.Where(m => m.Id == id).ExecuteDeleteAsync() == 0 ? throw new NotFoundException("such motion") : Results.NoContent();
        });
        api.MapPost("/lines/{id:guid}/lay", async (Guid id, Lay body, Desk desk, IDbContextFactory<ZambloContext> contexts) =>
        {
            var work = await desk.OpenAsync(id);
            await using var db = await contexts.CreateDbContextAsync();
            var motion = await db.MouthMotions.AsNoTracking().FirstOrDefaultAsync(m => m.Id == body.Motion) ?? throw new NotFoundException("such motion");
            var end = work.Placed.Speech.Duration;
            var cues = JsonSerializer.Deserialize<TouchCue[]>(motion.Cues, JsonSerializerOptions.Web)!.Where(c => c.Start < end).Select(c => c with { End = Math.Min(c.End, end), Peak = Math.Min(c.Peak, end) }).ToArray();
            // The whole mouth of the line is the saved one; what it had by hand gives way.
            var laid = new TouchUp { Id = Guid.NewGuid(), Kind = TouchKind.Replace, Start = 0, End = end, Cues = cues };
            return await desk.SaveAsync(work, body.Revision, $"Lay the mouth \"{motion.Name}\"", [laid]);
        });
    }

    /// <summary>A line opened for hand work.</summary>
    internal sealed class Work(LoadedScene scene, Line line, PlacedSpeech placed, IReadOnlyList<ContextPhone> sequence, IReadOnlyList<TouchUp> touches)
    {
        public LoadedScene Scene => scene;
        public Guid Id => line.Id;
        public Guid Take => line.TakeId!.Value;
        public PlacedSpeech Placed => placed;
        public double Start => placed.Start;
        public IReadOnlyList<WordSegment> Words => placed.Speech.Words;
        /// <summary>Touch-ups that are on and found their place.</summary>
        public IReadOnlyList<TouchUp> Touches => touches;
        private TicketMember Member => scene.Ticket.Members.First(m => m.Id == line.CastMemberId);
        public string Role => Member.RoleName;
        public string Character => Member.Character;
        public int Number => scene.Lines.ToList().FindIndex(l => l.Id == line.Id) + 1;

        public int WordIndexAt(double t)
        {
            for (var i = 0; i < Words.Count; i++) if (t >= Words[i].Start && t < Words[i].End) return i;
            return -1;
        }

        public string WordAt(double t) => WordIndexAt(t) is var i and >= 0 ? Words[i].Text : "";

        public IReadOnlyList<ContextPhone> PhonesOf(int word) => [.. sequence.Where(p => (p.Start + p.End) / 2 is var m && m >= Words[word].Start && m < Words[word].End)];
    }

    /// <summary>Opens lines for hand work and files what was done.</summary>
    public sealed class Desk(SceneDesk scenes, ProductionStore store, JobDesk jobs, IDbContextFactory<ZambloContext> contexts)
    {
        internal async Task<Work> OpenAsync(Guid id)
        {
            await using var db = await contexts.CreateDbContextAsync();
            var sceneId = await db.Lines.Where(l => l.Id == id).Select(l => (Guid?)l.SceneId).FirstOrDefaultAsync() ?? throw new NotFoundException("such line");
            return Open(await scenes.LoadAsync(sceneId), id);
        }

        internal async Task<VoiceCare> CareOfAsync(Guid take)
        {
            await using var db = await contexts.CreateDbContextAsync();
            var json = await db.Takes.Where(t => t.Id == take).Select(t => t.Care).FirstOrDefaultAsync() ?? throw new NotFoundException("such take");
            return SceneDesk.Read<VoiceCare>(json);
        }

        private static Work Open(LoadedScene scene, Guid id)
        {
            var line = scene.Lines.FirstOrDefault(l => l.Id == id) ?? throw new NotFoundException("such line");
            var placed = scene.Placed(id) ?? throw new RequestException("This line has not been listened to yet.");
            return new Work(scene, line, placed, PhoneMap.Sequence(placed.Speech), placed.Touches);
        }

        internal Task<IResult> SaveAsync(Work work, long? revision, string name, IReadOnlyList<TouchUp> touches) => SaveAsync(revision, name, [(work, touches)]);

        /// <summary>Files the touch-ups of lines as they are now: new ones, changed ones, and those that are gone.</summary>
        internal async Task<IResult> SaveAsync(long? revision, string name, IReadOnlyList<(Work Work, IReadOnlyList<TouchUp> Touches)> changes)
        {
            if (changes.Count == 0) throw new RequestException("There is nothing to change.");
            var touched = new List<Guid>();
            var now = await store.EditAsync(changes[0].Work.Scene.Production.Id, revision, name, async db =>
            {
                foreach (var (work, touches) in changes)
                {
                    var rows = await db.Touches.Where(t => t.LineId == work.Id).ToListAsync();
                    var last = rows.Count == 0 ? 0 : rows.Max(r => r.Order);
                    foreach (var before in work.Touches)
                        if (touches.All(t => t.Id != before.Id) && rows.FirstOrDefault(r => r.Id == before.Id) is { } gone) db.Touches.Remove(gone);
                    foreach (var touch in touches)
                    {
                        if (work.Touches.Contains(touch)) continue;
                        var hung = CueEdits.Hang(touch, work.Placed.Speech);
                        var row = rows.FirstOrDefault(r => r.Id == touch.Id);
                        if (row == null)
                        {
                            row = new LineTouch { Id = touch.Id, LineId = work.Id, Order = ++last };
                            db.Touches.Add(row);
                        }
                        row.Data = JsonSerializer.Serialize(hung, JsonSerializerOptions.Web);
                        row.Title = Title(work, touch);
                        touched.Add(touch.Id);
                    }
                }
            });
            return Results.Json(new { revision = now, touched });
        }

        internal async Task<IResult> ChangeAsync(Guid scene, long? revision, string name, Guid[] ids, Action<ZambloContext, List<LineTouch>> change)
        {
            var loaded = await scenes.LoadAsync(scene);
            var now = await store.EditAsync(loaded.Production.Id, revision, name, async db => change(db, await db.Touches.Where(t => ids.Contains(t.Id)).ToListAsync()));
            return Results.Json(new { revision = now });
        }

        /// <summary>An edit of what is known about a take; it is listened to again where that matters.</summary>
        internal async Task<IResult> ChangeTakeAsync(Guid id, long? revision, string name, Func<ZambloContext, Take, Task> change)
        {
            await using var look = await contexts.CreateDbContextAsync();
            var production = await (from t in look.Takes join l in look.Lines on t.LineId equals l.Id join s in look.Scenes on l.SceneId equals s.Id where t.Id == id select (Guid?)s.ProductionId).FirstOrDefaultAsync()
                ?? throw new NotFoundException("such take");
            return await ChangeProductionAsync(production, revision, name, async db => await change(db, await db.Takes.FirstAsync(t => t.Id == id)));
        }

        internal async Task<IResult> ChangeProductionAsync(Guid production, long? revision, string name, Func<ZambloContext, Task> change)
        {
            var now = await store.EditAsync(production, revision, name, change);
            await ListenWhereNeededAsync(production);
            return Results.Json(new { revision = now });
        }

        /// <summary>Orders a hearing for every line of a production whose analysis is missing, once.</summary>
        internal async Task ListenWhereNeededAsync(Guid production)
        {
            await using var db = await contexts.CreateDbContextAsync();
            foreach (var scene in await db.Scenes.Where(s => s.ProductionId == production).Select(s => s.Id).ToListAsync()) await ListenWhereNeededAsync(await scenes.LoadAsync(scene));
        }

        /// <summary>The same for one scene: what is asked whenever it is shown.</summary>
        internal async Task ListenWhereNeededAsync(LoadedScene scene)
        {
            var missing = scene.Ticket.Lines.Where(l => !scenes.IsFinal(l)).ToArray();
            if (missing.Length == 0) return;
            await using var db = await contexts.CreateDbContextAsync();
            var production = scene.Production.Id;
            var ordered = await db.Jobs.AsNoTracking().Where(j => j.ProductionId == production && j.Kind == "listen" && (j.State == JobState.Queued || j.State == JobState.Running)).Select(j => j.Payload).ToListAsync();
            foreach (var line in missing)
                if (!ordered.Any(p => p.Contains(line.Id.ToString(), StringComparison.Ordinal)))
                    await jobs.AddAsync("listen", production, "Listen again", new ListenOrder(line.Id, null));
        }

        /// <summary>All other places of a scene where a word is said.</summary>
        internal IEnumerable<(Work Line, int Word)> Elsewhere(Work work, int word)
        {
            if (word < 0 || word >= work.Words.Count) yield break;
            var text = PhoneMap.Plain(work.Words[word].Text);
            foreach (var line in work.Scene.Lines)
            {
                if (work.Scene.Placed(line.Id) is not { } placed) continue;
                var other = line.Id == work.Id ? work : Open(work.Scene, line.Id);
                for (var i = 0; i < placed.Speech.Words.Count; i++)
                    if ((line.Id != work.Id || i != word) && PhoneMap.Plain(placed.Speech.Words[i].Text) == text) yield return (other, i);
            }
        }

        /// <summary>The touch-ups of another line with those of a word laid on the same word there; what that word had by hand gives way.</summary>
        internal IReadOnlyList<TouchUp> Transfer(Work work, int word, Work other, int otherWord, IReadOnlyList<TouchUp> touches)
        {
            if (word < 0 || word >= work.Words.Count || otherWord < 0 || otherWord >= other.Words.Count) throw new RequestException("There is no such word any more.");
            var own = work.Touches.Where(t => Over(t, work.Words[word])).ToArray();
            if (own.Length == 0) throw new RequestException($"\"{work.Words[word].Text}\" has no touch-up here: change its mouth first.");
            var kept = touches.Where(t => !Over(t, other.Words[otherWord]) || (other.Id == work.Id && own.Contains(t)));
            return [.. kept, .. own.Select(t => PhoneMap.Fit(t, work.PhonesOf(word), other.PhonesOf(otherWord)) with { Id = Guid.NewGuid() })];
        }

        internal (IEnumerable<Cue> Before, IEnumerable<Cue> After) Preview(Work work, int word, Work other, int otherWord)
        {
            var span = other.Words[otherWord];
            bool In(Cue c) => (c.Start + c.End) / 2 is var m && m >= span.Start && m < span.End;
            var dials = other.Placed.Mouth;
            IReadOnlyList<Cue> after;
            try
            {
                after = TouchUps.Apply(MouthPass.Cues(other.Placed.Speech, dials), Transfer(work, word, other, otherWord, other.Touches));
            }
            catch (RequestException)
            {
                after = other.Placed.Cues;
            }
            return (other.Placed.Cues.Where(In), after.Where(In));
        }

        private static bool Over(TouchUp t, WordSegment w) => Math.Min(t.End, w.End) - Math.Max(t.Start, w.Start) > 0.5 * Math.Min(t.End - t.Start, w.End - w.Start);

        private static string Title(Work work, TouchUp t)
        {
            var word = work.WordAt((t.Start + t.End) / 2);
            var what = t.Kind switch
            {
                TouchKind.Remove => "taken out",
                TouchKind.Strength => t.Factor > 1 ? "stronger" : "weaker",
                _ when t.Cues.Count > 3 => $"{t.Cues.Count} shapes",
                _ when t.Cues.All(c => c.Shape == MouthShape.Rest) => "closed",
                _ => string.Join(", ", t.Cues.Select(c => c.Shape)) + (t.From != null ? ", moved" : ""),
            };
            return (word.Length > 0 ? word : string.Create(CultureInfo.InvariantCulture, $"at {t.Start:0.00} s")) + ": " + what;
        }
    }
}
