using System.Text;
using System.Text.Json;
using Zamblo.Core.Audio;
using Zamblo.Core.Interchange;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Stage;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Scenes;
using Zamblo.Studio.Views;
using Zamblo.Web.People;

namespace Zamblo.Web.Routes;

/// <summary>A scene: its state, its frames, its sound, and what is only tried.</summary>
internal static class SceneRoutes
{
    /// <summary>A frame as it would be with other mouths or dials: for looking before deciding. Nothing is kept.</summary>
    internal sealed record Trial(
        int Frame,
        Guid? Line,
        CueOperation Operation,
        int[]? Cues,
        MouthShape Shape,
        double By,
        Guid? Member,
        System.Text.Json.Nodes.JsonObject? Mouth
    );

    /// <summary>A recording of a whole scene.</summary>
    internal sealed record FindLines(string? Hash, string? Name);

    /// <summary>A script that somebody is about to bring.</summary>
    internal sealed record ScriptText(string? Text);

    /// <summary>What is being performed right now: channels of the pose with their values, and where a hand of the stage points, in stage units.</summary>
    internal sealed record TryPerformance(
        Guid Member,
        int Frame,
        Dictionary<string, float>? Values,
        bool Replaces,
        float[]? LeftHand,
        float[]? RightHand,
        string? Part,
        float[]? Pointer
    );

    internal sealed record FindTurns(string? Hash, string? Name, int? Speakers);

    public static void Map(RouteGroupBuilder api)
    {
        var scene = api.MapGroup("/scenes/{id:guid}");
        scene.MapGet("", (Guid id, SceneViews views) => views.OfAsync(id, null));
        scene.MapPost("/state", (Guid id, KnownScene body, SceneViews views) => views.OfAsync(id, body with { Heard = body.Heard ?? [] })).OnlyReads();
        scene.MapGet("/shapes", async (Guid id, HttpContext http, SceneDesk desk) => Kept(http, FrameWriter.Shapes((await desk.LoadAsync(id)).Stage)));
        scene.MapGet(
            "/frames",
            async (Guid id, int from, int count, HttpContext http, SceneDesk desk) => Kept(http, Frames(await desk.LoadAsync(id), from, count))
        );
        PictureRoutes.Map(scene);
        scene.MapGet("/framings", async (Guid id, SceneDesk desk) => FramingCard.Of(await desk.LoadAsync(id)));
        scene.MapGet("/sound", SoundAsync);
        scene.MapGet("/captions", CaptionsAsync);
        scene.MapGet("/caption-list", async (Guid id, string? language, SceneDesk desk) => CaptionList.Of(await desk.LoadAsync(id), Check.Language(language)));
        scene.MapPost("/try", TryAsync).OnlyReads();
        scene.MapPost("/perform", PerformAsync).OnlyReads();
        scene.MapGet("/members/{member:guid}/alternate", AlternateAsync);
        scene.MapPost(
            "/renders",
            async (Guid id, FilmOrder? order, FilmDesk films) => Results.Json(new { job = await films.RenderSceneAsync(id, order) }, statusCode: 202)
        );
        scene.MapPost(
            "/lines",
            async (Guid id, NewLine body, TakeDesk takes) => Results.Json(new { job = await takes.OrderLineAsync(id, body) }, statusCode: 202)
        );
        scene.MapPost(
            "/turns",
            async (Guid id, FindTurns body, TakeDesk takes) =>
                Results.Json(new { job = await takes.FindTurnsAsync(id, body.Hash, body.Name, body.Speakers) }, statusCode: 202)
        );
        scene.MapPost(
            "/reading",
            async (Guid id, FindLines body, TakeDesk takes) => Results.Json(new { job = await takes.FindLinesAsync(id, body.Hash, body.Name) }, statusCode: 202)
        );
        scene.MapEdit<ChangeScene>("PATCH", "", (e, id) => e with { Scene = id });
        scene.MapRemoval("", (id, revision) => new RemoveScene { Scene = id, Revision = revision });
        scene.MapEdit<PlaceMember>("POST", "/places", (e, id) => e with { Scene = id });
        scene.MapEdit<FaceEachOther>("POST", "/places/facing", (e, id) => e with { Scene = id });
        scene.MapEdit<SetFloorMark>("POST", "/marks", (e, id) => e with { Scene = id });
        scene.MapEdit<SetLamp>("POST", "/lamps", (e, id) => e with { Scene = id });
        scene.MapEdit<DropLamp>("POST", "/lamps/drop", (e, id) => e with { Scene = id });
        scene.MapEdit<LiftFloorMark>("POST", "/marks/lift", (e, id) => e with { Scene = id });
        scene.MapEdit<UnplaceMember>("POST", "/places/own", (e, id) => e with { Scene = id });
        scene.MapEdit<CutScene>("POST", "/cut", (e, id) => e with { Scene = id });
        scene.MapEdit<ChangeGaps>("POST", "/gaps", (e, id) => e with { Scene = id });
        scene.MapEdit<CarryOn>("POST", "/carry", (e, id) => e with { Scene = id });
        scene.MapEdit<PutBeat>("POST", "/beat", (e, id) => e with { Scene = id });
        scene.MapEdit<MendScene>("POST", "/mend", (e, id) => e with { Scene = id });
        scene.MapEdit<SwapMembers>("POST", "/swap", (e, id) => e with { Scene = id });
        scene.MapEdit<BringScript>("POST", "/script", (e, id) => e with { Scene = id, Text = e.Text ?? "" });
        // How a script is understood; nothing is changed.
        scene
            .MapPost(
                "/script/look",
                async (Guid id, ScriptText body, SceneDesk scenes, CastLibrary library) => ScriptView.Of(body.Text ?? "", await scenes.CastOfAsync(id), library)
            )
            .OnlyReads();
        scene.MapEdit<ReviseScript>("POST", "/script/changed", (e, id) => e with { Scene = id, Text = e.Text ?? "" });
        scene
            .MapPost("/script/compare", (Guid id, ReviseScript body, ScriptDesk desk, CancellationToken cancel) => desk.CompareAsync(id, body, cancel))
            .OnlyReads();
        scene.MapGet("/dubbing", (Guid id, Guid? beside, DubDesk desk) => desk.OfAsync(id, beside));
        scene.MapEdit<FitLines>("POST", "/fit", (e, id) => e with { Scene = id });
        scene.MapEdit<CutFile>("POST", "/parts", (e, id) => e with { Scene = id });
        scene.MapEdit<CutLive>("POST", "/cut-live", (e, id) => e with { Scene = id });
        scene.MapEdit<KeepShots>("POST", "/keep-shots", (e, id) => e with { Scene = id });
        scene.MapEdit<FreeCamera>("POST", "/free-camera", (e, id) => e with { Scene = id });
        scene.MapEdit<SpeakStale>("POST", "/speak-stale", (e, id) => e with { Scene = id });
    }

    // Addresses carry the revision, so what they answer never changes.
    internal static IResult Kept(HttpContext http, byte[] bytes, string type = "application/json")
    {
        if (http.Request.Query.ContainsKey("r"))
            http.Response.Headers.CacheControl = "private, max-age=86400, immutable";
        return Results.Bytes(bytes, type);
    }

    internal static byte[] Frames(LoadedScene scene, int from, int count, StageScene? stage = null) =>
        from < 0 || from >= (stage ?? scene.Stage).FrameCount || count is < 1 or > 250
            ? throw new RequestException("There are no such frames.")
            : FrameWriter.Frames(stage ?? scene.Stage, from, count, scene.Document.Width, scene.Document.Height);

    internal static async Task<IResult> SoundAsync(
        Guid id,
        double? speed,
        Guid? bare,
        double? from,
        double? to,
        HttpContext http,
        SceneDesk desk,
        VoiceStore voices,
        CancellationToken cancel
    )
    {
        if (speed is not (null or (>= 0.25 and <= 1)))
            throw new RequestException("Sound plays at a quarter of its speed up to its own.");
        var scene = await desk.LoadAsync(id);
        double end = Math.Clamp(Finite(to) ?? scene.Stage.Duration, 0, scene.Stage.Duration),
            start = Math.Clamp(Finite(from) ?? 0, 0, end);
        var sound = await AudioFiles.StretchAsync(await scene.Evaluated.MixAsync(voices, start, end, bare, cancel), speed ?? 1, cancel);
        return Kept(http, WaveAnswer.Of(sound), "audio/wav");
    }

    private static double? Finite(double? value) => value is { } v && double.IsFinite(v) ? v : null;

    private static async Task<IResult> CaptionsAsync(Guid id, string format, string? language, SceneDesk desk)
    {
        if (language != null)
            Check.Language(language);
        var scene = await desk.LoadAsync(id);
        var captions = SceneText.Subtitles(scene.Evaluated, language);
        using var writer = new StringWriter();
        if (format == "srt")
            Captions.WriteSrt(writer, captions);
        else if (format == "vtt")
            Captions.WriteVtt(writer, captions);
        else
            throw new RequestException("Captions are written as vtt or srt.");
        return Results.File(
            Encoding.UTF8.GetBytes(writer.ToString()),
            format == "vtt" ? "text/vtt; charset=utf-8" : "text/plain; charset=utf-8",
            JobRoutes.FileName(scene.Production.Title, (string.IsNullOrEmpty(language) ? "." : $".{language}.") + format)
        );
    }

    private static async Task<IResult> TryAsync(Guid id, Trial body, SceneDesk desk, CastLibrary library)
    {
        var scene = await desk.LoadAsync(id);
        if (body.Frame < 0 || body.Frame >= scene.Stage.FrameCount)
            throw new RequestException("There is no such frame.");
        var document = scene.Document;
        if (body.Member is { } member && body.Mouth is { } dials)
            document = document with
            {
                Members = [.. document.Members.Select(m => m.Id.Value == member ? m with { Mouth = Dials.Turned(m.Mouth, dials).Clamped() } : m)],
            };
        if (body.Line is { } line && body.Cues is { } cues && scene.Spoken(line) is { } placed && double.IsFinite(body.By))
        {
            var touches = CueEdits.Apply(
                placed.Cues,
                placed.Touches,
                new CueEdit(body.Operation, cues) { Shape = body.Shape, By = body.By },
                placed.Speech.Duration
            );
            document = document with { Lines = [.. document.Lines.Select(l => l.Id.Value == line ? l with { Touches = touches } : l)] };
        }
        return Results.Bytes(Frames(scene, body.Frame, 1, scene.With(document, library).Stage), "application/json");
    }

    private static async Task<IResult> PerformAsync(Guid id, TryPerformance body, SceneDesk desk)
    {
        var scene = await desk.LoadAsync(id);
        var index = scene.IndexOf(body.Member);
        var values = new Dictionary<string, float>((body.Values ?? []).Where(v => Gestures.ChannelNames.Contains(v.Key) && float.IsFinite(v.Value)));
        var frame = Math.Clamp(body.Frame, 0, scene.Stage.FrameCount - 1);
        foreach (var (point, right) in ((float[]?, bool)[])[(body.LeftHand, false), (body.RightHand, true)])
            if (point is { Length: 2 })
                foreach (var (channel, value) in PerformEdits.HandAt(scene, index, scene.Stage.Rate.TimeOf(frame), right, point[0], point[1]))
                    values[channel] = value;
        var part = PointerParts.Find(body.Part ?? "");
        if (part != null && body.Pointer is { Length: 3 } at && at.All(float.IsFinite))
            foreach (var (channel, value) in part.Values(at[0], at[1], at[2]))
                values[channel] = value;
        var (first, items) = scene.Stage.DrawChanged(
            frame,
            index,
            pose =>
            {
                Gestures.Set(values, body.Replaces && part is not { Adds: true }, ref pose);
                return pose;
            }
        );
        return Results.Bytes(FrameWriter.Items(first, items), "application/json");
    }

    // The scene with other dials of one member: for looking at alternatives side by side.
    private static async Task<IResult> AlternateAsync(Guid id, Guid member, string dials, int from, int count, SceneDesk desk, CastLibrary library)
    {
        var scene = await desk.LoadAsync(id);
        scene.Member(member);
        PerformanceDials other;
        try
        {
            other = JsonSerializer.Deserialize<PerformanceDials>(dials, JsonSerializerOptions.Web)!.Clamped();
        }
        catch (Exception e) when (e is JsonException or NullReferenceException)
        {
            throw new RequestException("These dials cannot be read.");
        }
        return Results.Bytes(Frames(scene, from, count, scene.Alternate(member, dials, other, library)), "application/json");
    }
}

/// <summary>Sound as an answer.</summary>
internal static class WaveAnswer
{
    public static byte[] Of(AudioBuffer sound)
    {
        using var stream = new MemoryStream();
        WavFile.Write(stream, [sound.Samples], sound.SampleRate);
        return stream.ToArray();
    }
}
