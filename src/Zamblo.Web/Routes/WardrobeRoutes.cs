using System.Buffers.Text;
using System.Collections.Concurrent;
using System.Text;
using System.Text.Json;
using Zamblo.Core;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Wardrobe;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Views;
using Zamblo.Web.People;

namespace Zamblo.Web.Routes;

/// <summary>The Wardrobe: what there is, how a recipe looks, how it speaks. Nothing is kept here.</summary>
internal static class WardrobeRoutes
{
    private const string Sentence = "Fresh rolls at six, and not a minute later.";
    private const int LongestRecipe = 6000,
        Voices = 60,
        Thumb = 120;

    // How a sentence sounds in a voice: its mouth is the same for every figure.
    private static readonly ConcurrentDictionary<string, SpeechAnalysis> Spoken = new();

    /// <summary>A recipe to be looked at.</summary>
    internal sealed record Look(WardrobeRecipe? Recipe, Mood? Mood);

    public static void Map(RouteGroupBuilder api)
    {
        var group = api.MapGroup("/wardrobe");
        group.MapGet("/stock", () => Tailor.Stock());
        group.MapGet("/random", (int seed) => Tailor.AtRandom(seed));
        group.MapGet("/thumb", ThumbOf);
        group.MapPost("/shapes", (Look body) => Results.Bytes(FrameWriter.Shapes(SceneOf(body, null)), "application/json")).OnlyReads();
        group
            .MapPost(
                "/frames",
                async (Look body, int? from, int? count, CancellationToken cancel) =>
                {
                    var scene = SceneOf(body, await SpeechAsync(Known(body.Recipe).Voice, cancel));
                    var first = Math.Clamp(from ?? 0, 0, scene.FrameCount - 1);
                    return Results.Bytes(
                        FrameWriter.Frames(scene, first, Math.Clamp(count ?? scene.FrameCount, 1, scene.FrameCount - first)),
                        "application/json"
                    );
                }
            )
            .OnlyReads();
    }

    // A part on the recipe's own figure. The address says all of it, so that browsers keep the picture.
    private static IResult ThumbOf(string recipe, string kind, string part, HttpContext http)
    {
        if (recipe.Length > LongestRecipe)
            throw new RequestException("This recipe is too long.");
        WardrobeRecipe read;
        try
        {
            read = JsonSerializer.Deserialize<WardrobeRecipe>(Base64Url.DecodeFromChars(recipe), JsonSerializerOptions.Web) ?? throw new JsonException();
        }
        catch (Exception e) when (e is JsonException or FormatException)
        {
            throw new RequestException("This recipe cannot be read.");
        }
        RequestShape.Check(read);
        var figure = Made(read.With(kind, part));
        var onHead = Tailor.Stock().First(k => k.Kind == kind).IsOnHead;
        var v = figure.Rig.Portrait;
        var side = onHead ? Math.Max(v[2], v[3]) : Math.Max(figure.Size.X, figure.Size.Y) * 1.02f;
        var box = onHead ? (v[0] - (side - v[2]) / 2, v[1] - (side - v[3]) / 2, side, side) : ((figure.Size.X - side) / 2, figure.Size.Y - side, side, side);
        using var rasteriser = new Rasteriser(Thumb, Thumb, box, grain: false);
        rasteriser.Draw(StageScene.Portrait(figure, [Pose.Neutral]), 0);
        http.Response.Headers.CacheControl = "private, max-age=86400";
        return Results.Bytes(rasteriser.ToPng(), "image/png");
    }

    private static WardrobeRecipe Known(WardrobeRecipe? recipe) => recipe ?? throw new RequestException("This request has no recipe.");

    private static Figure Made(WardrobeRecipe? recipe)
    {
        try
        {
            return Tailor.Make(Known(recipe), "tried");
        }
        catch (ArtException e)
        {
            throw new RequestException(e.Message);
        }
    }

    /// <summary>How a sentence sounds in a voice.</summary>
    internal static async Task<SpeechAnalysis> SpeechAsync(string voice, CancellationToken cancel, string text = Sentence)
    {
        var key = voice + "\n" + text;
        if (Spoken.TryGetValue(key, out var known))
            return known;
        await Synthesis.CheckAsync(voice, cancel);
        var spoken = (await Synthesis.SpeakAsync(voice, text, new Delivery(), cancel)).Speech;
        if (Spoken.Count < Voices)
            Spoken[key] = spoken;
        return spoken;
    }

    // The figure alone, whole; with a voice it says the sentence, looks about and turns.
    private static StageScene SceneOf(Look look, SpeechAnalysis? speech)
    {
        var figure = Made(look.Recipe);
        var scale = 0.92f * StageScene.Height / figure.Size.Y;
        var length = 1.6 + (speech?.Duration ?? 0) + 1.4;
        var member = new StageMember(
            figure,
            StageScene.Width / 2,
            StageScene.Height * 0.985f,
            scale,
            true,
            speech == null ? [] : [new PlacedSpeech(speech, 1.4, new MouthDials())],
            new PerformanceDials { Expressiveness = 1.2f }
        )
        {
            Moods = look.Mood is { } mood ? [new MoodSpan(mood, 0, length + 2, 0.9f)] : [],
            Looks = [new LookSpan(0.2, 0.9, LookTarget.At(-0.9f, 0)), new LookSpan(length - 1.1, length - 0.3, LookTarget.At(0.9f, 0))],
        };
        return new StageScene(CastLibrary.Shipped().Backdrop("paper"), [member], new FrameRate(25), length);
    }
}
