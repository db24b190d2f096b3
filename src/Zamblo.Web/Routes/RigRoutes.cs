using System.Text;
using System.Text.Json;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Rigging;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Characters;
using Zamblo.Studio.Views;
using Zamblo.Web.People;

namespace Zamblo.Web.Routes;

/// <summary>The rig bench: drawings without a rig get one, and what was guessed is put right by hand.</summary>
internal static class RigRoutes
{
    // Before the sentence, in seconds.
    private const double LeadIn = 0.6;

    /// <summary>A rig that is being tried.</summary>
    /// <param name="Rig">As it stands in rig.json.</param>
    /// <param name="Order">Names of the parts, back to front; null leaves them as they are.</param>
    /// <param name="Test">What is looked at; null for standing still.</param>
    internal sealed record Draft(JsonElement? Rig, string[]? Order, string? Test);

    internal sealed record Brought(string Key, IReadOnlyList<string> Warnings);

    public static void Map(RouteGroupBuilder api)
    {
        // An SVG whose groups have names.
        api.MapPost(
            "/characters/rigged",
            async (string? name, string? kind, HttpContext http, CharacterStore store, CancellationToken cancel) =>
            {
                var svg = Encoding.UTF8.GetString(await Incoming.BytesAsync(http.Request.Body, DrawingFiles.Largest, "A drawing", cancel));
                var called = string.IsNullOrWhiteSpace(name) ? "My drawing" : Check.Name(name, 60, "A character's name");
                var made = RiggedDrawings.Read(svg, called);
                return new Brought(await store.SaveAsync(made, kind, cancel), made.Warnings);
            }
        );
        api.MapGet("/drawings/{example}", Example);
        var group = api.MapGroup("/characters/{key}/rig");
        group.MapGet("", (string key, CastLibrary library, CharacterStore store) => RigSheet.Of(key, store.IsOwn(key), DrawingOf(library, key)));
        group
            .MapPost(
                "/shapes",
                (string key, Draft body, CastLibrary library) =>
                    Results.Bytes(FrameWriter.Shapes(RigTest.Scene(library, Tried(library, key, body).Figure, "")), "application/json")
            )
            .OnlyReads();
        group
            .MapPost(
                "/frames",
                async (string key, Draft body, CastLibrary library, CancellationToken cancel) =>
                {
                    var figure = Tried(library, key, body).Figure;
                    PlacedSpeech? speech =
                        body.Test == "sentence"
                            ? new PlacedSpeech(await WardrobeRoutes.SpeechAsync(figure.Rig.Voice, cancel, TestSentence.Text), LeadIn, new MouthDials())
                            : null;
                    var scene = RigTest.Scene(library, figure, body.Test ?? "", speech);
                    return Results.Bytes(FrameWriter.Frames(scene, 0, body.Test == null ? 1 : scene.FrameCount), "application/json");
                }
            )
            .OnlyReads();
        // What the list of parts says of it as it is now.
        group.MapPost("/findings", (string key, Draft body, CastLibrary library) => RigReport.Of(Tried(library, key, body).Figure.Rig)).OnlyReads();
        group.MapPost(
            "",
            async (string key, Draft body, CastLibrary library, CharacterStore store) =>
            {
                var made = Tried(library, key, body).Recipe;
                var name = library.Character(key).Rig.Name;
                return new Saved(
                    await store.SaveAsync(store.IsOwn(key) ? made : DrawingFiles.Named(made, name + ", own rig"), store.KindOf(key), isDrawnOver: true)
                );
            }
        );
    }

    private static DrawnRecipe DrawingOf(CastLibrary library, string key) => library.DrawingOf(key) ?? throw new NotFoundException("drawing of this character");

    private static (DrawnRecipe Recipe, DrawnFigure Figure) Tried(CastLibrary library, string key, Draft body)
    {
        var before = DrawingOf(library, key);
        if (body.Rig is not { ValueKind: JsonValueKind.Object } rig)
            throw new RequestException("This request has no rig.");
        try
        {
            var made = before with { Rig = rig.GetRawText() };
            made = body.Order == null ? made : made.InOrder(body.Order);
            return (made, made.Make(key));
        }
        catch (ArtException e)
        {
            throw new RequestException(e.Message);
        }
    }

    private static IResult Example(string example) =>
        DrawingExamples.Read(example) is { } svg
            ? Results.File(Encoding.UTF8.GetBytes(svg), "image/svg+xml", example + ".svg")
            : throw new NotFoundException("such drawing");
}
