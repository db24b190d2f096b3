using System.Collections.Concurrent;
using System.Text;
using System.Text.Json;
using Zamblo.Core;
using Zamblo.Core.Audio;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Characters;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Views;

namespace Zamblo.Web.Routes;

/// <summary>Characters by themselves: portrait, mouths, and a sentence in which the mouth visits every shape.</summary>
internal static class CharacterRoutes
{
    // Of a set's picture, in pixels.
    private const int SetWidth = 256;

    // Stillness around the sentence, in seconds.
    private const double LeadIn = 0.5,
        LeadOut = 0.8;

    private static readonly JsonSerializerOptions FileJson = new(JsonSerializerOptions.Web) { WriteIndented = true };

    private static readonly ConcurrentDictionary<string, Lazy<Task<(StageScene Scene, AudioBuffer Sound)>>> Sentences = new();

    // More pictures of mouths are not brought at once.
    private const int MostMouths = 28;

    internal sealed record BringMouths(MouthFile[]? Files);

    internal sealed record MouthFile(string? Name, byte[]? Data);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/characters", (CharacterStore store) => store.Cards());
        api.MapPost("/characters", async (NewCharacter body, CharacterStore store) => new Saved(await store.SaveAsync(body)));
        // One that somebody has drawn: a zip with art.svg and rig.json.
        api.MapPost(
            "/characters/drawings",
            async (string? kind, HttpContext http, CharacterStore store, CancellationToken cancel) =>
                new Saved(
                    await store.SaveAsync(
                        DrawingFiles.Read(await Incoming.BytesAsync(http.Request.Body, DrawingFiles.Largest, "A character's file", cancel)),
                        kind,
                        cancel
                    )
                )
        );
        api.MapDelete(
            "/characters/{key}",
            async (string key, CharacterStore store) =>
            {
                await store.HideAsync(key);
                return Results.NoContent();
            }
        );
        api.MapGet(
            "/sets/{key}/picture",
            (string key, HttpContext http, CastLibrary library, PlateStore plates) =>
            {
                if (!library.HasBackdrop(key))
                    throw new NotFoundException("such set");
                if (PictureSet.Read(key) is { Frames: > 0 } film)
                    plates.Ready(film);
                using var rasteriser = Rasteriser.ForStage(SetWidth, SetWidth * 9 / 16);
                rasteriser.Draw(new StageScene(library.Backdrop(key), [], new FrameRate(25), 1).Draw(0, 1), 0);
                return Keep(http, Results.Bytes(rasteriser.ToPng(), "image/png"));
            }
        );
        api.MapGet("/sets", (CastLibrary library) => library.BackdropKeys.Select(k => new SetCard(k, CastLibrary.BackdropName(k))));
        var group = api.MapGroup("/characters/{key}");
        group.MapGet(
            "/view",
            (string key, CastLibrary library, CharacterStore store) => library.Has(key) ? store.ViewOf(key) : throw new NotFoundException("such character")
        );
        group.MapGet(
            "/recipe",
            (string key, bool? download, CastLibrary library) =>
                library.RecipeOf(key) is not { } recipe ? throw new NotFoundException("recipe of this character")
                : download == true
                    ? Results.File(
                        JsonSerializer.SerializeToUtf8Bytes(recipe, FileJson),
                        "application/json",
                        JobRoutes.FileName(recipe.Name, ".character.json")
                    )
                : Results.Json(recipe)
        );
        group.MapGet(
            "/drawing",
            (string key, CastLibrary library, AssetStore assets) =>
                library.DrawingOf(key) is not { } drawing
                    ? throw new NotFoundException("drawing of this character")
                    : Results.File(
                        DrawingFiles.Write(drawing, hash => File.Exists(assets.PathOf(hash)) ? File.ReadAllBytes(assets.PathOf(hash)) : null),
                        "application/zip",
                        JobRoutes.FileName(library.Character(key).Rig.Name, ".zip")
                    )
        );
        // Its mouths, drawn as pictures; and which of them serves a shape.
        group.MapPost(
            "/mouths",
            async (string key, BringMouths body, CastLibrary library, CharacterStore store, CancellationToken cancel) =>
            {
                var before = library.DrawingOf(key) ?? throw new NotFoundException("drawing of this character");
                if (body.Files is not { Length: > 0 and <= MostMouths } files || files.Any(f => f.Data == null))
                    throw new RequestException($"Bring one picture for each mouth, {MostMouths} at most.");
                var made = MouthPictures.Lay(before, [.. files.Select(f => (Check.Name(f.Name ?? "", 200, "The name of a picture"), f.Data!))]);
                var own = store.IsOwn(key) ? made : made with { Recipe = DrawingFiles.Named(made.Recipe, library.Character(key).Rig.Name + ", own mouths") };
                return new Saved(await store.SaveAsync(own, store.KindOf(key), cancel));
            }
        );
        group.MapPost(
            "/mouths/off",
            async (string key, CastLibrary library, CharacterStore store) =>
                new Saved(
                    await store.SaveAsync(
                        MouthPictures.Off(library.DrawingOf(key) ?? throw new NotFoundException("drawing of this character")),
                        store.KindOf(key),
                        isDrawnOver: true
                    )
                )
        );
        group.MapPost(
            "/mouths/{shape}",
            async (string key, MouthShape shape, MouthShape by, CastLibrary library, CharacterStore store) =>
                new Saved(
                    await store.SaveAsync(
                        MouthPictures.Serve(library.DrawingOf(key) ?? throw new NotFoundException("drawing of this character"), shape, by),
                        store.KindOf(key),
                        isDrawnOver: true
                    )
                )
        );
        // Its drawing, drawn over: an SVG with the same parts.
        group.MapPost(
            "/drawing",
            async (string key, string? name, HttpContext http, CastLibrary library, CharacterStore store, CancellationToken cancel) =>
            {
                var before = library.DrawingOf(key) ?? throw new NotFoundException("drawing of this character");
                var art = Encoding.UTF8.GetString(await Incoming.BytesAsync(http.Request.Body, DrawingFiles.Largest, "A drawing", cancel));
                var called = string.IsNullOrWhiteSpace(name) ? library.Character(key).Rig.Name + ", drawn over" : name.Trim();
                return new Saved(await store.SaveAsync(DrawingFiles.Over(before, art, called), store.KindOf(key), isDrawnOver: true));
            }
        );
        group.MapGet(
            "/picture",
            (string key, HttpContext http, CastLibrary library) =>
            {
                var figure = Find(library, key);
                return Keep(http, Picture(figure, Pose.Neutral));
            }
        );
        group.MapGet(
            "/moods/{mood}",
            (string key, Mood mood, float? intensity, HttpContext http, CastLibrary library) =>
            {
                var figure = Find(library, key);
                // Two seconds in, where the mood stands and no blink falls.
                var pose = new Performer(
                    new Part
                    {
                        Moods = [new MoodSpan(mood, 0, 4, Math.Clamp(intensity ?? 1, 0, MoodSpan.Most))],
                        Dials = new PerformanceDials { Blinks = 0, Gaze = 0 },
                    },
                    4
                ).Evaluate(new FrameRate(25), 50, 1);
                return Keep(http, Picture(figure, pose[0]));
            }
        );
        group.MapGet(
            "/mouths/{shape}",
            (string key, MouthShape shape, float? strength, HttpContext http, CastLibrary library) =>
                Keep(http, Mouth(Find(library, key), shape, Math.Clamp(strength ?? 1, 0, 1.5f)))
        );
        group.MapGet(
            "/gestures/{gesture}",
            async (string key, string gesture, CastLibrary library, MotionLibrary motions) =>
                Results.Bytes(FrameWriter.Frames(Preview(library, key, await motions.FindAsync(gesture)), 0, 250), "application/json")
        );
        group.MapGet(
            "/preview-shapes",
            (string key, CastLibrary library) => Results.Bytes(FrameWriter.Shapes(Preview(library, key, null)), "application/json")
        );
        group.MapGet(
            "/sentence",
            async (string key, CastLibrary library) =>
            {
                var (scene, _) = await SentenceAsync(library, key);
                return Results.Json(
                    new
                    {
                        text = TestSentence.Text,
                        fps = scene.Rate.FramesPerSecond,
                        frames = scene.FrameCount,
                        duration = scene.Duration,
                    }
                );
            }
        );
        group.MapGet(
            "/sentence/shapes",
            async (string key, CastLibrary library) => Results.Bytes(FrameWriter.Shapes((await SentenceAsync(library, key)).Scene), "application/json")
        );
        group.MapGet(
            "/sentence/frames",
            async (string key, int from, int count, CastLibrary library) =>
            {
                var (scene, _) = await SentenceAsync(library, key);
                if (from < 0 || from >= scene.FrameCount || count is < 1 or > 250)
                    throw new RequestException("There are no such frames.");
                return Results.Bytes(FrameWriter.Frames(scene, from, count), "application/json");
            }
        );
        group.MapGet(
            "/sentence/sound",
            async (string key, double? speed, CastLibrary library, CancellationToken cancel) =>
            {
                if (speed is not (null or (>= 0.25 and <= 1)))
                    throw new RequestException("Sound plays at a quarter of its speed up to its own.");
                var sound = await AudioFiles.StretchAsync((await SentenceAsync(library, key)).Sound, speed ?? 1, cancel);
                return Results.Bytes(WaveAnswer.Of(sound), "audio/wav");
            }
        );
    }

    private static StageScene Preview(CastLibrary library, string key, Gesture? gesture) => CharacterPreview.SceneOf(library, Find(library, key), gesture);

    // Square, with all of the portrait in it.
    private static IResult Picture(Figure figure, Pose pose)
    {
        var view = figure.Rig.Portrait;
        var side = Math.Max(view[2], view[3]);
        using var rasteriser = new Rasteriser(192, 192, (view[0] - (side - view[2]) / 2, view[1] - (side - view[3]) / 2, side, side), grain: false);
        rasteriser.Draw(StageScene.Portrait(figure, [pose]), 0);
        return Results.Bytes(rasteriser.ToPng(), "image/png");
    }

    // A drawn mouth by itself; the mouth of a picture in its face.
    private static IResult Mouth(Figure figure, MouthShape shape, float strength)
    {
        if (figure.MouthBox is not { } box)
            return Results.Bytes(Encoding.UTF8.GetBytes(MouthGallery.Svg(figure, shape, strength)), "image/svg+xml");
        using var rasteriser = new Rasteriser(MouthWidth, (int)(MouthWidth * box.Height / box.Width), box, grain: false);
        rasteriser.Draw(StageScene.Portrait(figure, [Pose.Neutral with { Mouth = MouthShapes.TargetOf(shape, strength) }]), 0);
        return Results.Bytes(rasteriser.ToPng(), "image/png");
    }

    // Of a mouth's picture, in pixels.
    private const int MouthWidth = 160;

    private static Figure Find(CastLibrary library, string key) => library.Has(key) ? library.Character(key) : throw new NotFoundException("such character");

    private static IResult Keep(HttpContext http, IResult result)
    {
        http.Response.Headers.CacheControl = "private, max-age=3600";
        return result;
    }

    private static async Task<(StageScene Scene, AudioBuffer Sound)> SentenceAsync(CastLibrary library, string key)
    {
        var figure = Find(library, key);
        var rig = figure.Rig;
        var lazy = Sentences.GetOrAdd(
            key,
            k => new Lazy<Task<(StageScene, AudioBuffer)>>(async () =>
            {
                var spoken = await Synthesis.SpeakAsync(rig.Voice, TestSentence.Text, new Delivery(0.9));
                var audio = await AudioFiles.ResampleAsync(spoken.Audio, AudioFiles.MasterRate);
                // The portrait fills the stage: here the mouth is what counts.
                var view = rig.Portrait;
                var scale = 0.96f * StageScene.Height / view[3];
                float x = StageScene.Width / 2 - (view[0] + view[2] / 2 - rig.Anchor[0]) * scale,
                    y = StageScene.Height / 2 - (view[1] + view[3] / 2 - rig.Anchor[1]) * scale;
                var member = new StageMember(figure, x, y, scale, true, [new PlacedSpeech(spoken.Speech, LeadIn, new MouthDials())], new PerformanceDials());
                var scene = new StageScene(library.Backdrop("paper"), [member], new FrameRate(25), LeadIn + spoken.Speech.Duration + LeadOut);
                return (scene, Mixer.Mix([new Mixer.Placed(audio, LeadIn)], scene.Duration, AudioFiles.MasterRate));
            })
        );
        try
        {
            return await lazy.Value;
        }
        catch
        {
            // A failure is told, not kept.
            Sentences.TryRemove(key, out _);
            throw;
        }
    }
}
