using System.Numerics;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Web.Services;

namespace Zamblo.Web.Api;

/// <summary>Motion performed by hand, several clips made one or lined up, and the library of what was saved.</summary>
internal static class PerformEndpoints
{
    /// <summary>What is being performed right now: channels of the pose with their values, and where a hand of the stage points, in stage units.</summary>
    public sealed record Try(Guid Member, int Frame, Dictionary<string, float> Values, bool Replaces, float[]? LeftHand, float[]? RightHand);
    /// <summary>A performance: per channel samples of time (seconds of the scene) and value, as they came; hands as places on the stage.</summary>
    public sealed record Performance(long? Revision, Guid Member, string Part, double Start, double End, Dictionary<string, double[][]> Samples, double[][]? LeftHand, double[][]? RightHand, bool Replaces, double Smooth);
    public sealed record Clips(long? Revision, Guid[] Ids, int? GapFrames);
    public sealed record Keep(string Name);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/scenes/{id:guid}/perform", async (Guid id, Try body, SceneDesk desk) =>
        {
            var scene = await desk.LoadAsync(id);
            var index = scene.IndexOf(body.Member);
            var values = new Dictionary<string, float>(body.Values.Where(v => Gestures.ChannelNames.Contains(v.Key) && float.IsFinite(v.Value)));
            foreach (var (point, right) in ((float[]?, bool)[])[(body.LeftHand, false), (body.RightHand, true)])
                if (point is { Length: 2 }) foreach (var (channel, value) in HandAt(scene, index, scene.Stage.Rate.TimeOf(body.Frame), right, point[0], point[1])) values[channel] = value;
            var frame = Math.Clamp(body.Frame, 0, scene.Stage.FrameCount - 1);
            var (first, items) = scene.Stage.DrawChanged(frame, index, pose =>
            {
                Gestures.Set(values, body.Replaces, ref pose);
                return pose;
            });
            return Results.Bytes(FrameWriter.Items(first, items), "application/json");
        });
        api.MapPost("/scenes/{id:guid}/performances", async (Guid id, Performance body, SceneDesk desk, ProductionStore store) =>
        {
            var scene = await desk.LoadAsync(id);
            var index = scene.IndexOf(body.Member);
            if (!(body.End - body.Start >= 0.1)) throw new RequestException("That was too short to keep: a tenth of a second at least.");
            var samples = new Dictionary<string, double[][]>(body.Samples.Where(s => Gestures.ChannelNames.Contains(s.Key)));
            foreach (var (points, right) in ((double[][]?, bool)[])[(body.LeftHand, false), (body.RightHand, true)])
                foreach (var p in (points ?? []).Where(p => p.Length == 3))
                    foreach (var (channel, value) in HandAt(scene, index, p[0], right, (float)p[1], (float)p[2]))
                        samples[channel] = [.. samples.GetValueOrDefault(channel, []), [p[0], value]];
            var tracks = new Dictionary<string, double[][]>();
            foreach (var (channel, list) in samples)
            {
                var ordered = new List<double[]>();
                foreach (var s in list.Where(s => s.Length == 2 && double.IsFinite(s[0]) && double.IsFinite(s[1])).OrderBy(s => s[0]))
                    if (ordered.Count == 0 || s[0] - body.Start > ordered[^1][0] + 1e-4) ordered.Add([s[0] - body.Start, s[1]]);
                if (ordered.Count > 0) tracks[channel] = MotionKeys.Reduce(MotionKeys.Smooth(ordered, Math.Clamp(body.Smooth, 0, 0.5)), MotionKeys.ToleranceOf(channel));
            }
            var own = ClipEndpoints.Checked(new Gesture { Key = "own", Name = $"Performed: {body.Part}", Part = "own", Length = body.End - body.Start, Stroke = (body.End - body.Start) / 2, Tracks = tracks });
            var clip = new ScoreClip { Id = Guid.NewGuid(), SceneId = id, CastMemberId = body.Member, Kind = ClipKind.Gesture, Name = "own" };
            ClipEndpoints.Place(scene, clip, new ClipData(new WordAnchor(-1, "", 0, 0, 0), null, 0) { Own = own, Replaces = body.Replaces, BlendIn = 0.2, BlendOut = 0.3 }, body.Start, body.End);
            var revision = await store.EditAsync(scene.Production.Id, body.Revision, own.Name, db =>
            {
                db.Clips.Add(clip);
                return Task.CompletedTask;
            });
            return Results.Json(new { revision, clip.Id, keys = tracks.Sum(t => t.Value.Length) });
        });
        api.MapGet("/clips/{id:guid}/motion", async (Guid id, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            var clip = await db.Clips.AsNoTracking().FirstOrDefaultAsync(c => c.Id == id) ?? throw new NotFoundException("such clip");
            return Results.Json(JsonSerializer.Deserialize<ClipData>(clip.Data, JsonSerializerOptions.Web)!.Own ?? throw new NotFoundException("motion of its own"));
        });
        // The scene with other dials of one member: for looking at alternatives side by side.
        api.MapGet("/scenes/{id:guid}/members/{member:guid}/alternate", async (Guid id, Guid member, string dials, int from, int count, SceneDesk desk) =>
        {
            var scene = await desk.LoadAsync(id);
            scene.IndexOf(member);
            if (from < 0 || from >= scene.Stage.FrameCount || count is < 1 or > 250) throw new RequestException("There are no such frames.");
            var stage = Alternates.GetValue(scene, _ => new()).GetOrAdd((member, dials), _ =>
            {
                PerformanceDials other;
                try
                {
                    other = JsonSerializer.Deserialize<PerformanceDials>(dials, JsonSerializerOptions.Web)!.Clamped();
                }
                catch (JsonException)
                {
                    throw new RequestException("These dials cannot be read.");
                }
                return (scene.Ticket with { Members = [.. scene.Ticket.Members.Select(m => m.Id == member ? m with { Performance = other } : m)] }).ToScene(scene.SpeechOf);
            });
            return Results.Bytes(FrameWriter.Frames(stage, from, count), "application/json");
        });
        api.MapPost("/scenes/{id:guid}/clips/delete", async (Guid id, Clips body, SceneDesk desk, ProductionStore store) =>
        {
            var scene = await desk.LoadAsync(id);
            var revision = await store.EditAsync(scene.Production.Id, body.Revision, body.Ids.Length == 1 ? "Delete a clip" : $"Delete {body.Ids.Length} clips", async db =>
                db.Clips.RemoveRange(await db.Clips.Where(c => c.SceneId == id && body.Ids.Contains(c.Id)).ToListAsync()));
            return Results.Json(new { revision });
        });
        api.MapPost("/scenes/{id:guid}/clips/join", async (Guid id, Clips body, SceneDesk desk, ProductionStore store) =>
        {
            var (scene, clips) = await PickAsync(id, body, desk);
            if (clips.Any(c => c.Clip.Kind != clips[0].Clip.Kind || c.Clip.Member != clips[0].Clip.Member)) throw new RequestException("Pick clips of one sort and of one member to join them.");
            var kind = clips[0].Clip.Kind;
            if (kind is ClipKind.Look or ClipKind.Walk || (kind == ClipKind.Mood && clips.Any(c => c.Clip.Name != clips[0].Clip.Name))) throw new RequestException("Gestures can be joined, and moods of the same name.");
            double start = clips.Min(c => c.Start), end = clips.Max(c => c.End);
            var revision = await store.EditAsync(scene.Production.Id, body.Revision, $"Join {clips.Length} clips", async db =>
            {
                var rows = await db.Clips.Where(c => body.Ids.Contains(c.Id)).ToListAsync();
                var first = rows.First(r => r.Id == clips[0].Clip.Id);
                db.Clips.RemoveRange(rows.Where(r => r != first));
                var data = clips[0].Clip.Data;
                if (kind == ClipKind.Gesture)
                {
                    var spans = clips.Select(c => c.Clip.AsGesture((c.Start, c.End))!).ToArray();
                    data = data with { Own = Gestures.Join(spans, string.Join(", ", spans.Select(s => s.Gesture.Name).Distinct().Take(3))), From = 0, To = 1, Loops = 1, Mirror = false, Replaces = spans.Any(s => s.Replaces), BlendIn = 0, BlendOut = 0 };
                    (first.Name, first.Strength) = ("own", 1);
                }
                ClipEndpoints.Place(scene, first, data, start, end);
            });
            return Results.Json(new { revision, clips[0].Clip.Id });
        });
        // One after the other, so many frames apart; less than 0 overlaps.
        api.MapPost("/scenes/{id:guid}/clips/line-up", async (Guid id, Clips body, SceneDesk desk, ProductionStore store) =>
        {
            var (scene, clips) = await PickAsync(id, body, desk);
            var gap = Math.Clamp(body.GapFrames ?? 0, -500, 5000) / scene.Stage.Rate.FramesPerSecond;
            var revision = await store.EditAsync(scene.Production.Id, body.Revision, $"Line up {clips.Length} clips", async db =>
            {
                var at = clips[0].End;
                foreach (var (ticket, start, end) in clips.Skip(1))
                {
                    var row = await db.Clips.FirstAsync(c => c.Id == ticket.Id);
                    var place = Math.Max(0, at + gap);
                    ClipEndpoints.Place(scene, row, ticket.Data, place, place + end - start);
                    at = place + end - start;
                }
            });
            return Results.Json(new { revision });
        });
        api.MapPost("/clips/{id:guid}/save", async (Guid id, Keep body, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            var clip = await db.Clips.AsNoTracking().FirstOrDefaultAsync(c => c.Id == id) ?? throw new NotFoundException("such clip");
            var own = JsonSerializer.Deserialize<ClipData>(clip.Data, JsonSerializerOptions.Web)!.Own ?? throw new RequestException("This gesture is in the library already.");
            var name = body.Name.Trim();
            if (name.Length is 0 or > 60) throw new RequestException("A name has 1 to 60 characters.");
            var saved = new SavedGesture { Id = Guid.NewGuid(), Name = name, Data = JsonSerializer.Serialize(own with { Name = name }, JsonSerializerOptions.Web), Created = DateTime.UtcNow };
            db.SavedGestures.Add(saved);
            await db.SaveChangesAsync();
            return Results.Json(new { key = ClipEndpoints.Saved + saved.Id });
        });
        api.MapDelete("/gestures/{id:guid}", async (Guid id, IDbContextFactory<ZambloContext> contexts) =>
        {
            await using var db = await contexts.CreateDbContextAsync();
            if (await db.SavedGestures.Where(g => g.Id == id).ExecuteDeleteAsync() == 0) throw new NotFoundException("such gesture");
            return Results.Json(new { });
        });
    }

    private static readonly System.Runtime.CompilerServices.ConditionalWeakTable<LoadedScene, System.Collections.Concurrent.ConcurrentDictionary<(Guid, string), StageScene>> Alternates = [];

    // A point of the stage as the place of a hand of a member who stands there.
    private static IEnumerable<(string Channel, float Value)> HandAt(LoadedScene scene, int index, double t, bool right, float x, float y)
    {
        var member = scene.Stage.Cast[index];
        var figure = Core.Stage.Cast.Character(member.Character);
        if (!figure.HasArm(right)) yield break;
        var point = new Vector2((x - scene.Stage.PlaceOf(index, t)) / member.Scale + figure.Rig.Anchor[0], (y - member.Y) / member.Scale + figure.Rig.Anchor[1]);
        var place = figure.ToArm(right, point);
        var hand = right ? "handRight" : "handLeft";
        yield return (hand, 1);
        yield return (hand + "X", place.X);
        yield return (hand + "Y", place.Y);
    }

    private static async Task<(LoadedScene Scene, (TicketClip Clip, double Start, double End)[] Clips)> PickAsync(Guid id, Clips body, SceneDesk desk)
    {
        var scene = await desk.LoadAsync(id);
        var clips = scene.Ticket.Clips.Where(c => body.Ids.Contains(c.Id)).Select(c => (Clip: c, Place: c.Place(scene.Ticket.Lines, scene.SpeechOf))).Select(x => (x.Clip, x.Place.Start, x.Place.End)).OrderBy(c => c.Start).ToArray();
        return clips.Length < 2 ? throw new RequestException("Pick two clips or more.") : (scene, clips);
    }
}
