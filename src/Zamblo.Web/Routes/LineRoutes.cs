using System.Text;
using System.Text.Json.Nodes;
using Zamblo.Core.Interchange;
using Zamblo.Core.Speech;
using Zamblo.Studio;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Jobs;
using Zamblo.Studio.Scenes;

namespace Zamblo.Web.Routes;

/// <summary>Lines and their takes.</summary>
internal static class LineRoutes
{
    /// <summary>A change of a line; one of them at a time.</summary>
    internal sealed record ChangeLine(
        long? Revision,
        string? Text,
        Guid? Member,
        double? At,
        double? By,
        bool? Alone,
        double? Pause,
        bool? Follow,
        bool? Together,
        int? Move,
        bool? OffStage,
        bool? Mute,
        Guid[]? Also,
        JsonObject? Acting,
        string? Language
    );

    public static void Map(RouteGroupBuilder api)
    {
        api.MapPatch("/lines/{id:guid}", ChangeAsync);
        api.MapRemoval("/lines/{id:guid}", (id, revision) => new RemoveLine { Line = id, Revision = revision });
        api.MapPost(
            "/lines/{id:guid}/takes",
            async (Guid id, NewTake body, TakeDesk takes) => Results.Json(new { job = await takes.OrderTakeAsync(id, body) }, statusCode: 202)
        );
        api.MapPost(
            "/lines/{id:guid}/hear",
            async (Guid id, EditRunner edits, HearingDesk hearings) =>
            {
                await hearings.RetryAsync(await edits.ProductionOfAsync(new EditTarget(TargetKind.Line, id)), id);
                return Results.NoContent();
            }
        );
        api.MapEdit<WriteWords>("PATCH", "/lines/{id:guid}/words", (e, id) => e with { Line = id });
        api.MapEdit<WriteRepeats>("POST", "/lines/{id:guid}/repeats", (e, id) => e with { Line = id });
        api.MapEdit<WriteCaption>("PUT", "/lines/{id:guid}/caption", (e, id) => e with { Line = id });
        api.MapEdit<SplitLine>("POST", "/lines/{id:guid}/split", (e, id) => e with { Line = id });
        api.MapEdit<JoinLines>("POST", "/lines/{id:guid}/join", (e, id) => e with { Line = id });
        api.MapEdit<MoveEdge>("PATCH", "/lines/{id:guid}/edge", (e, id) => e with { Line = id });
        api.MapEdit<UseTake>("POST", "/lines/{id:guid}/use", (e, id) => e with { Line = id });
        api.MapEdit<ChangeDelivery>("PATCH", "/lines/{id:guid}/delivery", (e, id) => e with { Line = id, Delivery = e.Delivery ?? new() });
        api.MapRemoval("/takes/{id:guid}", (id, revision) => new DeleteTake { TakeId = id, Revision = revision });
        api.MapEdit<NoteTake>("PATCH", "/takes/{id:guid}", (e, id) => e with { TakeId = id });
        api.MapEdit<ChangeCare>("PATCH", "/takes/{id:guid}/care", (e, id) => e with { TakeId = id, Care = e.Care ?? new() });
        api.MapEdit<SetGuide>("POST", "/takes/{id:guid}/guide", (e, id) => e with { TakeId = id });
        api.MapEdit<MarkTake>("POST", "/takes/{id:guid}/marks", (e, id) => e with { TakeId = id });
        api.MapPost(
            "/takes/{id:guid}/marks/{mark:guid}/lift",
            (Guid id, Guid mark, LiftMark? body, EditRunner edits, CancellationToken cancel) =>
                EditRoutes.AnswerAsync(edits, new LiftMark(mark) { TakeId = id, Revision = body?.Revision }, cancel)
        );
        api.MapGet(
            "/lines/{id:guid}/dead-air",
            async (Guid id, SceneDesk scenes, VoiceStore voices) =>
            {
                var line = (await scenes.LoadOfLineAsync(id)).Voiced(id);
                var (start, end) = voices.AtHandUntrimmed(line.Line).Speech is { } speech
                    ? CaredSpeech.DeadAir(speech)
                    : throw new RequestException("This line has not been listened to yet.");
                return Results.Json(new { trimStart = Math.Round(start, 3), trimEnd = Math.Round(end, 3) });
            }
        );
        api.MapGet(
            "/lines/{id:guid}/times",
            async (Guid id, string format, SceneDesk scenes) =>
            {
                var work = MouthWork.Open(await scenes.LoadOfLineAsync(id), id);
                var name = $"{work.Member.RoleName}-{work.Number}".Replace(' ', '_');
                using var stream = new MemoryStream();
                using (var writer = new StreamWriter(stream, new UTF8Encoding(false), leaveOpen: true))
                    switch (format)
                    {
                        case "textgrid":
                            TextGrid.Write(writer, work.Placed.Speech);
                            break;
                        case "csv":
                            SpeechExports.WriteCues(writer, work.Placed.Speech, work.Placed.Cues);
                            break;
                        case "json":
                            SpeechExports.WriteJson(stream, work.Placed.Speech, work.Placed.Cues);
                            break;
                        default:
                            throw new RequestException("Times go out as textgrid, csv or json.");
                    }
                return Results.File(stream.ToArray(), "application/octet-stream", JobRoutes.FileName(name, format == "textgrid" ? ".TextGrid" : "." + format));
            }
        );
        api.MapPost(
            "/lines/{id:guid}/times",
            async (Guid id, long? revision, HttpContext http, EditRunner edits, CancellationToken cancel) =>
            {
                using var reader = new StreamReader(http.Request.Body, Encoding.UTF8, detectEncodingFromByteOrderMarks: true);
                return await EditRoutes.AnswerAsync(edits, new BringTimes(await reader.ReadToEndAsync(cancel)) { Line = id, Revision = revision }, cancel);
            }
        );
    }

    private static Task<IResult> ChangeAsync(Guid id, ChangeLine body, EditRunner edits, CancellationToken cancel)
    {
        Task<IResult> Run<T>(T edit)
            where T : LineEdit => EditRoutes.AnswerAsync(edits, edit with { Line = id, Revision = body.Revision }, cancel);
        if (body.Text != null)
            return Run(new WriteLine(body.Text));
        if (body.Member is { } member)
            return Run(new GiveLine(member));
        if (body.Move is { } places)
            return Run(new ReorderLine(places));
        if (body.OffStage != null || body.Mute != null || body.Also != null)
            return Run(new SetLineManner(body.OffStage, body.Mute, body.Also));
        if (body.Language is { } language)
            return Run(new SetLineLanguage(language));
        if (body.Acting is { } acting)
            return Run(new SetLineActing(acting));
        if (body.Together == true)
            return Run(new MoveLine(null, null, false, null, false, IsTogether: true));
        // No longer together: it follows again.
        if (body.At != null || body.By != null || body.Pause != null || body.Follow == true || body.Together == false)
            return Run(new MoveLine(body.At, body.By, body.Alone == true, body.Pause, body.Follow == true || body.Together == false));
        throw new RequestException("There is nothing to change.");
    }
}
