using Zamblo.Core;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;
using Zamblo.Core.Score;
using Zamblo.Core.Stage;
using Zamblo.Studio;
using Zamblo.Studio.Characters;
using Zamblo.Studio.Productions;
using Zamblo.Studio.Views;

namespace Zamblo.Web.Routes;

/// <summary>Pictures that become characters: brought, marked, looked at, kept.</summary>
internal static class PortraitRoutes
{
    /// <summary>A face that somebody has drawn a box around.</summary>
    internal sealed record Box(string? Picture, float Left, float Top, float Width, float Height, PortraitKind Kind);

    /// <summary>A mark that was dragged.</summary>
    internal sealed record Drag(PortraitMarks? Marks, string? Handle, float X, float Y, bool IsPaired);

    /// <summary>A face to be looked at.</summary>
    internal sealed record Look(PortraitOrder? Order, int Which, Mood? Mood)
    {
        /// <summary>On plain paper, so that one sees what is cut out.</summary>
        public bool IsAlone { get; init; }
    }

    /// <summary>A production with all of one picture.</summary>
    internal sealed record Begin(string? Title, string[]? Keys, string? Set, string? Size);

    // Of a picture, in pixels.
    private const int LargestSide = 20_000;

    public static void Map(RouteGroupBuilder api)
    {
        var group = api.MapGroup("/portraits");
        group
            .MapPost(
                "/pictures",
                (string? name, HttpContext http, PortraitDesk desk, CancellationToken cancel) =>
                    desk.TakeAsync(http.Request.Body, name, http.Request.ContentLength, cancel)
            )
            .WithMetadata(new Microsoft.AspNetCore.Mvc.DisableRequestSizeLimitAttribute());
        group.MapPost("/guess", (Box body, PortraitDesk desk) => desk.FindInAsync(body.Picture ?? "", body.Left, body.Top, body.Width, body.Height, body.Kind));
        group.MapPost(
            "/moved",
            (Drag body) =>
                body.Marks == null || body.Marks.ErrorFor(LargestSide, LargestSide) != null
                    ? throw new RequestException("These are no marks of a face.")
                    : FaceCard.Of(MarkHandles.Move(body.Marks, body.Handle ?? "", new Mark(body.X, body.Y), body.IsPaired))
        );
        group.MapPost(
            "/shapes",
            async (Look body, PortraitDesk desk) => Results.Bytes(FrameWriter.Shapes(await SceneOf(body, desk, null)), "application/json")
        );
        group.MapPost(
            "/frames",
            async (Look body, PortraitDesk desk, CancellationToken cancel) =>
            {
                var voice = body.Order?.Faces?.ElementAtOrDefault(body.Which)?.Voice;
                var scene = await SceneOf(body, desk, await WardrobeRoutes.SpeechAsync(voice is { Length: > 0 } ? voice : "espeak:en-us", cancel));
                return Results.Bytes(FrameWriter.Frames(scene, 0, scene.FrameCount), "application/json");
            }
        );
        group.MapPost(
            "/strip",
            async (Look body, PortraitDesk desk, CastLibrary library) =>
            {
                var recipes = await desk.TryAsync(body.Order);
                if (body.Which < 0 || body.Which >= recipes.Count)
                    throw new RequestException("There is no such face.");
                return Results.Bytes(MotionStrip.Of(library, FigureOf(recipes[body.Which])), "application/json");
            }
        );
        group.MapPost(
            "/production",
            async (Begin body, PortraitProduction productions) =>
                Results.Json(new { id = await productions.BeginAsync(body.Title, new MadeOfPicture(body.Keys ?? [], body.Set, body.Size ?? "")) })
        );
        group.MapPost("", (PortraitOrder body, PortraitDesk desk) => desk.SaveAsync(body));
    }

    private static PortraitFigure FigureOf(PortraitRecipe recipe)
    {
        try
        {
            return new PortraitFigure(recipe, "tried");
        }
        catch (ArtException e)
        {
            throw new RequestException(e.Message);
        }
    }

    // All of them in their place; the one that is looked at turns, looks, blinks and says the sentence.
    private static async Task<StageScene> SceneOf(Look look, PortraitDesk desk, Zamblo.Core.Speech.SpeechAnalysis? speech)
    {
        var recipes = await desk.TryAsync(look.Order);
        var length = 3.2 + (speech?.Duration ?? 0) + 0.8;
        var members = recipes.Select(
            (recipe, i) =>
            {
                var figure = FigureOf(recipe);
                var (x, y, scale) = figure.InPlace();
                var isShown = i == look.Which;
                return new StageMember(
                    figure,
                    x,
                    y,
                    scale,
                    true,
                    isShown && speech != null ? [new PlacedSpeech(speech, 3.2, new MouthDials())] : [],
                    new PerformanceDials { Expressiveness = 1.2f, Seed = i + 1 }
                )
                {
                    Moods = isShown && look.Mood is { } mood ? [new MoodSpan(mood, 0, length + 2, 0.9f)] : [],
                    Looks = isShown
                        ?
                        [
                            new LookSpan(0.2, 1.1, LookTarget.At(-0.95f, 0)),
                            new LookSpan(1.3, 2.2, LookTarget.At(0.95f, 0)),
                            new LookSpan(2.3, 2.8, LookTarget.At(0, 0.7f)),
                        ]
                        : [],
                };
            }
        );
        var backdrop =
            !look.IsAlone && recipes[0].Behind is { } key && PictureSet.Read(key) is { } set ? set.ToBackdrop() : CastLibrary.Shipped().Backdrop("paper");
        return new StageScene(backdrop, [.. members], new FrameRate(25), length);
    }
}
