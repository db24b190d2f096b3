using Zamblo.Core.Scenes;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Characters;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Jobs;

/// <summary>What a ticket asks for, made ready to be drawn and heard.</summary>
internal static class TicketParts
{
    /// <summary>The parts of its film. Sound is read when it is asked for, and need not be there before.</summary>
    /// <param name="film">The ticket; every line of it has been listened to.</param>
    /// <param name="voices">What was heard.</param>
    /// <param name="library">The characters.</param>
    /// <param name="assets">Pictures.</param>
    /// <param name="plates">Clips.</param>
    public static IReadOnlyList<FilmPart> Of(FilmTicket film, VoiceStore voices, CastLibrary library, AssetStore assets, PlateStore plates)
    {
        foreach (var hash in film.Scenes.SelectMany(s => s.Pictures))
            PictureShelf.Know(hash, assets.PathOf(hash));
        foreach (var clip in film.Scenes.Select(s => s.Film))
            plates.Ready(clip);
        var order = film.Order;
        return
        [
            .. film.Scenes.Select(
                (document, i) =>
                {
                    var scene = SceneEvaluator.Evaluate(document, l => voices.AtHand(l).Speech, library, Typesetter.Shared);
                    var part = FilmPart.Of(scene, stop => scene.MixAsync(voices, 0, scene.Stage.Duration, null, stop), _ => null) with
                    {
                        Stretch = (from, to, stop) => scene.MixAsync(voices, from, to, null, stop),
                        Stems = scene.StemsOf(voices),
                        Title = film.Titles.ElementAtOrDefault(i) ?? "",
                    };
                    return order.From != null || order.To != null ? part.Between(order.From ?? 0, order.To) : part;
                }
            ),
        ];
    }
}
