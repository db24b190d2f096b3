using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Web.Services;

namespace Zamblo.Web.Api;

/// <summary>Moods and gestures on the score.</summary>
internal static class ClipEndpoints
{
    /// <summary>A clip as people place it: seconds of the scene.</summary>
    public sealed record NewClip(long? Revision, Guid Member, ClipKind Kind, string Name, double Start, double? End, double? Strength, bool? Mirror, int? Loops, double? Ease, double? From, double? To, double? At)
    {
        /// <summary>For a walk: where to, and for an entrance where from, in stage units.</summary>
        public float? WalkTo { get; init; }
        public float? WalkFrom { get; init; }
        /// <summary>For a gesture that is no longer or not in the library: the motion itself.</summary>
        public Gesture? Own { get; init; }
        public bool? Replaces { get; init; }
    }
    public sealed record ChangeClip(long? Revision, string? Name, double? Start, double? End, double? Strength, bool? Mirror, int? Loops, double? Ease, double? From, double? To)
    {
        public float? WalkTo { get; init; }
        public bool? Replaces { get; init; }
        public double? BlendIn { get; init; }
        public double? BlendOut { get; init; }
    }
    public sealed record Suggest(long? Revision);
    public sealed record Split(long? Revision, double At);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/gestures", async (IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            var saved = await db.SavedGestures.AsNoTracking().OrderBy(g => g.Name).ToListAsync();
            return Results.Json(Gestures.All.Select(g => new { g.Key, g.Name, g.Part, g.Length, g.Stroke, g.Moods })
                .Concat(saved.Select(r => (Row: r, G: JsonSerializer.Deserialize<Gesture>(r.Data, JsonSerializerOptions.Web)!)).Select(x => new { Key = Saved + x.Row.Id, x.Row.Name, Part = "own", x.G.Length, x.G.Stroke, x.G.Moods })));
        });
        api.MapGet("/characters/{key}/gestures/{gesture}", async (string key, string gesture, IDbContextFactory<ZambloContext> contexts) =>
        {
            if (!Cast.CharacterKeys.Contains(key)) throw new NotFoundException("such character");
            var g = Gestures.Find(gesture) ?? await SavedAsync(gesture, contexts);
            return Results.Bytes(FrameWriter.Frames(Preview(key, new Part { Gestures = [new GestureSpan(g, 0.2, 0.2 + g.Length)] }, g.Length + 0.4), 0, 250), "application/json");
        });
        api.MapGet("/characters/{key}/preview-shapes", (string key) =>
            Cast.CharacterKeys.Contains(key) ? Results.Bytes(FrameWriter.Shapes(Preview(key, new Part(), 1)), "application/json") : throw new NotFoundException("such character"));
        api.MapPost("/scenes/{id:guid}/clips", async (Guid id, NewClip body, SceneDesk desk, ProductionStore store, IDbContextFactory<ZambloContext> contexts) =>
        {
            var scene = await desk.LoadAsync(id);
            var index = scene.IndexOf(body.Member);
            var member = scene.Ticket.Members[index];
            var own = body.Own == null ? null : Checked(body.Own);
            var name = own != null ? "own" : await CheckAsync(body.Kind, body.Name, scene, contexts);
            if (body.Kind == ClipKind.Gesture && own == null && Gestures.Find(name) == null) own = await SavedAsync(name, contexts);
            var clip = new ScoreClip { Id = Guid.NewGuid(), SceneId = id, CastMemberId = member.Id, Kind = body.Kind, Name = name, Strength = Strength(body.Kind, body.Strength ?? (body.Kind == ClipKind.Mood ? 0.7 : 1)) };
            var manner = new ClipData(new WordAnchor(-1, "", 0, 0, 0), null, 0)
            {
                Mirror = body.Mirror ?? false,
                Loops = Math.Clamp(body.Loops ?? 1, 1, 50),
                Ease = Math.Clamp(body.Ease ?? 0.5, 0, 5),
                From = Math.Clamp(body.From ?? 0, 0, 0.95),
                To = Math.Clamp(body.To ?? 1, 0.05, 1),
                Own = own,
                Replaces = body.Replaces ?? false,
                WalkTo = OnStage(body.WalkTo ?? scene.Stage.Cast[index].X),
                WalkFrom = body.WalkFrom is { } wing ? OnStage(wing) : null,
            };
            if (own != null) clip.Name = "own";
            double start = body.Start, end;
            if (body.Kind == ClipKind.Gesture)
            {
                var g = own ?? Gestures.Find(name)!;
                var length = body.End is { } e ? e - body.Start : g.Length * manner.Loops * (manner.To - manner.From);
                // Dropped on a moment, the stroke falls there.
                if (body.At is { } at) start = at - new TicketClip(clip.Id, member.Id, null, clip.Kind, name, 1, manner).StrokeShare * length;
                end = start + length;
            }
            else if (body.Kind == ClipKind.Walk) end = body.End ?? start + Math.Max(1, Math.Abs(manner.WalkTo - (manner.WalkFrom ?? scene.Stage.PlaceOf(index, start))) / WalkingPace);
            else end = body.End ?? start + 2;
            Place(scene, clip, manner, start, end);
            var revision = await store.EditAsync(scene.Production.Id, body.Revision, $"{Title(clip, scene)} for {member.RoleName}", db =>
            {
                db.Clips.Add(clip);
                return Task.CompletedTask;
            });
            return Results.Json(new { revision, clip.Id });
        });
        api.MapPost("/scenes/{id:guid}/moods/suggest", async (Guid id, Suggest body, SceneDesk desk, ProductionStore store) =>
        {
            var scene = await desk.LoadAsync(id);
            var clips = new List<ScoreClip>();
            foreach (var line in scene.Ticket.Lines)
            {
                // Where a mood is already, somebody has decided.
                if (scene.Ticket.Clips.Any(c => c.Kind == ClipKind.Mood && c.Line == line.Id) || scene.SpeechOf(line) is not { } speech) continue;
                var others = scene.Ticket.Lines.Where(l => l.Member == line.Member && l.Id != line.Id).Select(scene.SpeechOf).OfType<SpeechAnalysis>().ToArray();
                if (MoodSuggestions.For(scene.WrittenOf(scene.Lines.First(l => l.Id == line.Id)), speech, others) is not { } s) continue;
                var clip = new ScoreClip { Id = Guid.NewGuid(), SceneId = id, CastMemberId = line.Member, Kind = ClipKind.Mood, Name = s.Mood.ToString(), Strength = Math.Round(s.Intensity, 2) };
                Place(scene, clip, new ClipData(new WordAnchor(-1, "", 0, 0, 0), null, 0), line.Start + s.Start, line.Start + s.End);
                clips.Add(clip);
            }
            if (clips.Count == 0) return Results.Json(new { count = 0, scene.Production.Revision });
            var revision = await store.EditAsync(scene.Production.Id, body.Revision, "Suggest moods", db =>
            {
                db.Clips.AddRange(clips);
                return Task.CompletedTask;
            });
            return Results.Json(new { clips.Count, revision });
        });
        api.MapPatch("/clips/{id:guid}", async (Guid id, ChangeClip body, SceneDesk desk, ProductionStore store, IDbContextFactory<ZambloContext> contexts) =>
        {
            var (scene, known) = await FindAsync(id, desk, contexts);
            var revision = await store.EditAsync(scene.Production.Id, body.Revision, body.Start != null || body.End != null ? $"Move {Title(known, scene)}" : $"Change {Title(known, scene)}", async db =>
            {
                var clip = await db.Clips.FirstOrDefaultAsync(c => c.Id == id) ?? throw new NotFoundException("such clip");
                var ticket = scene.Ticket.Clips.First(c => c.Id == id);
                var (start, end) = ticket.Place(scene.Ticket.Lines, scene.SpeechOf);
                if (body.Name != null && ticket.Data.Own == null) clip.Name = await CheckAsync(clip.Kind, body.Name, scene, contexts);
                if (body.Strength is { } s) clip.Strength = Strength(clip.Kind, s);
                var data = ticket.Data with
                {
                    Mirror = body.Mirror ?? ticket.Data.Mirror,
                    Loops = Math.Clamp(body.Loops ?? ticket.Data.Loops, 1, 50),
                    Ease = Math.Clamp(body.Ease ?? ticket.Data.Ease, 0, 5),
                    From = Math.Clamp(body.From ?? ticket.Data.From, 0, 0.95),
                    To = Math.Clamp(body.To ?? ticket.Data.To, 0.05, 1),
                    Replaces = body.Replaces ?? ticket.Data.Replaces,
                    BlendIn = Math.Clamp(body.BlendIn ?? ticket.Data.BlendIn, 0, 5),
                    BlendOut = Math.Clamp(body.BlendOut ?? ticket.Data.BlendOut, 0, 5),
                    WalkTo = OnStage(body.WalkTo ?? ticket.Data.WalkTo),
                };
                if (body.Name != null && ticket.Data.Own is { } renamed) data = data with { Own = renamed with { Name = Named(body.Name) } };
                if (data.To - data.From < 0.05) throw new RequestException("Nothing of the gesture would be left.");
                // More loops at the same speed take longer.
                if (body.Loops is { } && body.End == null) end = start + (end - start) * data.Loops / ticket.Data.Loops;
                Place(scene, clip, data, body.Start ?? start, body.End ?? (body.Start is { } moved ? moved + end - start : end));
            });
            return Results.Json(new { revision });
        });
        api.MapPost("/clips/{id:guid}/split", async (Guid id, Split body, SceneDesk desk, ProductionStore store, IDbContextFactory<ZambloContext> contexts) =>
        {
            var (scene, known) = await FindAsync(id, desk, contexts);
            var ticket = scene.Ticket.Clips.First(c => c.Id == id);
            var (start, end) = ticket.Place(scene.Ticket.Lines, scene.SpeechOf);
            if (body.At < start + 0.05 || body.At > end - 0.05) throw new RequestException("Put the playhead inside it to split it.");
            if (ticket.Data.Loops > 1) throw new RequestException("A looped gesture cannot be split; set its loops to one first.");
            var revision = await store.EditAsync(scene.Production.Id, body.Revision, $"Split {Title(known, scene)}", async db =>
            {
                var clip = await db.Clips.FirstAsync(c => c.Id == id);
                var share = ticket.Data.From + (ticket.Data.To - ticket.Data.From) * (body.At - start) / (end - start);
                var second = new ScoreClip { Id = Guid.NewGuid(), SceneId = clip.SceneId, CastMemberId = clip.CastMemberId, Kind = clip.Kind, Name = clip.Name, Strength = clip.Strength };
                Place(scene, clip, ticket.Data with { To = share }, start, body.At);
                Place(scene, second, ticket.Data with { From = share }, body.At, end);
                db.Clips.Add(second);
            });
            return Results.Json(new { revision });
        });
    }

    /// <summary>A mood over a line that has not been spoken yet: it lies over all of it, however long it comes to be.</summary>
    public static ScoreClip WholeLine(Line line, Mood mood) => new()
    {
        Id = Guid.NewGuid(),
        SceneId = line.SceneId,
        CastMemberId = line.CastMemberId,
        LineId = line.Id,
        Kind = ClipKind.Mood,
        Name = mood.ToString(),
        Strength = 0.7,
        Data = JsonSerializer.Serialize(new ClipData(new WordAnchor(-1, "", 0, 0, 1), new WordAnchor(-1, "", 0, 1, 1), 0), JsonSerializerOptions.Web),
    };

    /// <summary>What the page needs to draw the lanes.</summary>
    public static IEnumerable<object> State(LoadedScene scene) => scene.Ticket.Clips.Select(c =>
    {
        var (start, end) = c.Place(scene.Ticket.Lines, scene.SpeechOf);
        return new
        {
            c.Id,
            c.Member,
            c.Line,
            kind = c.Kind.ToString().ToLowerInvariant(),
            c.Name,
            title = Title(c.Kind, c.Name, c.Data, scene.Ticket.Members),
            isOwn = c.Data.Own != null,
            c.Data.Replaces,
            c.Data.BlendIn,
            c.Data.BlendOut,
            c.Data.WalkTo,
            c.Data.WalkFrom,
            start = Math.Round(start, 3),
            end = Math.Round(end, 3),
            c.Strength,
            c.Data.Mirror,
            c.Data.Loops,
            c.Data.Ease,
            c.Data.From,
            c.Data.To,
            speed = c.AsGesture((start, end)) is { } g ? Math.Round(g.Speed, 2) : 1,
        };
    });

    // Hangs a clip on the line of its member that it lies on, else on the scene.
    internal static void Place(LoadedScene scene, ScoreClip clip, ClipData data, double start, double end)
    {
        if (!double.IsFinite(start) || !double.IsFinite(end)) throw new RequestException("A place has a start and an end.");
        end = Math.Max(end, start + 0.1);
        var share = new TicketClip(clip.Id, clip.CastMemberId, null, clip.Kind, clip.Name, 1, data).StrokeShare;
        var hold = clip.Kind == ClipKind.Gesture ? start + share * (end - start) : (start + end) / 2;
        var line = scene.Ticket.Lines.FirstOrDefault(l => l.Member == clip.CastMemberId && hold >= l.Start && hold <= l.Start + l.Duration);
        clip.LineId = line?.Id;
        var speech = line == null ? null : scene.SpeechOf(line);
        WordAnchor Anchor(double t) => WordAnchor.At(speech, t - (line?.Start ?? 0));
        data = clip.Kind == ClipKind.Gesture ? data with { Start = Anchor(hold), End = null, Length = end - start } : data with { Start = Anchor(start), End = Anchor(end), Length = 0 };
        clip.Data = JsonSerializer.Serialize(data, JsonSerializerOptions.Web);
    }

    private static async Task<(LoadedScene Scene, ScoreClip Clip)> FindAsync(Guid id, SceneDesk desk, IDbContextFactory<ZambloContext> contexts)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var clip = await db.Clips.AsNoTracking().FirstOrDefaultAsync(c => c.Id == id) ?? throw new NotFoundException("such clip");
        return (await desk.LoadAsync(clip.SceneId), clip);
    }

    private static async Task<string> CheckAsync(ClipKind kind, string name, LoadedScene scene, IDbContextFactory<ZambloContext> contexts)
    {
        switch (kind)
        {
            case ClipKind.Mood: return Enum.TryParse<Mood>(name, true, out var mood) ? mood.ToString() : throw new RequestException($"There is no mood \"{name}\".");
            case ClipKind.Walk: return "walk";
            case ClipKind.Look:
                if (name is "camera" or "left" or "right" or "up" or "down" || scene.Ticket.Members.Any(m => m.Id.ToString() == name)) return name;
                throw new RequestException("There is nobody and nothing of that name to look at.");
        }
        if (Gestures.Find(name) is { } g) return g.Key;
        await SavedAsync(name, contexts);
        return name;
    }

    private static async Task<Gesture> SavedAsync(string name, IDbContextFactory<ZambloContext> contexts)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var saved = name.StartsWith(Saved, StringComparison.Ordinal) && Guid.TryParse(name[Saved.Length..], out var id) ? await db.SavedGestures.FirstOrDefaultAsync(g => g.Id == id) : null;
        return JsonSerializer.Deserialize<Gesture>(saved?.Data ?? throw new RequestException($"There is no gesture \"{name}\"."), JsonSerializerOptions.Web)!;
    }

    /// <summary>What keys of saved gestures begin with.</summary>
    internal const string Saved = "saved:";

    /// <summary>A motion that came over the wire, within its bounds.</summary>
    internal static Gesture Checked(Gesture own)
    {
        if (own.Tracks.Count is 0 or > 40 || own.Tracks.Sum(t => t.Value.Length) is 0 or > 200_000) throw new RequestException("This motion has nothing in it, or too much.");
        if (!own.Tracks.Keys.All(Gestures.ChannelNames.Contains)) throw new RequestException("This motion moves something that no figure has.");
        foreach (var keys in own.Tracks.Values)
            for (var i = 0; i < keys.Length; i++)
                if (keys[i].Length != 2 || !double.IsFinite(keys[i][0]) || !double.IsFinite(keys[i][1]) || Math.Abs(keys[i][1]) > 400 || (i > 0 && keys[i][0] <= keys[i - 1][0])) throw new RequestException("The keys of this motion are out of order.");
        return own with { Key = "own", Name = Named(own.Name), Length = Math.Clamp(own.Length, 0.1, 3600), Stroke = Math.Clamp(own.Stroke, 0, Math.Clamp(own.Length, 0.1, 3600)) };
    }

    private static string Named(string name) => name.Trim() is { Length: > 0 } n ? n.Length > 60 ? n[..60] : n : "Performed";

    // In stage units a second: about a quarter of the stage.
    private const double WalkingPace = 330;

    // The wings lie a figure's width off stage.
    private static float OnStage(float x) => float.IsFinite(x) ? Math.Clamp(x, -400, StageScene.Width + 400) : StageScene.Width / 2;

    private static double Strength(ClipKind kind, double strength) => Math.Clamp(double.IsFinite(strength) ? strength : 1, 0, kind == ClipKind.Mood ? 1 : 2);

    private static string Title(ScoreClip clip, LoadedScene scene) => Title(clip.Kind, clip.Name, JsonSerializer.Deserialize<ClipData>(clip.Data, JsonSerializerOptions.Web)!, scene.Ticket.Members);

    private static string Title(ClipKind kind, string name, ClipData data, IReadOnlyList<TicketMember> members) => kind switch
    {
        ClipKind.Gesture => data.Own?.Name ?? Gestures.Find(name)?.Name ?? name,
        ClipKind.Look => "To " + (members.FirstOrDefault(m => m.Id.ToString() == name)?.RoleName ?? (name is "left" or "right" ? "the " + name : name == "camera" ? "the camera" : name)),
        ClipKind.Walk => data.WalkTo is < 0 or > StageScene.Width ? "Exit" : data.WalkFrom != null ? "Entrance" : "Walk",
        _ => name,
    };

    // A figure alone that fills the picture, hands and all.
    private static StageScene Preview(string key, Part part, double seconds)
    {
        var figure = Cast.Character(key);
        var scale = 0.86f * StageScene.Height / figure.Size.Y;
        var member = new StageMember(key, StageScene.Width / 2, StageScene.Height * 0.97f, scale, true, [], new PerformanceDials { Gaze = 0, Blinks = 0 }) { Moods = part.Moods, Gestures = part.Gestures };
        return new StageScene("paper", [member], new Core.FrameRate(25), seconds);
    }
}
