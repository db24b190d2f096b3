using Zamblo.Core.Interchange;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Productions;

/// <summary>All lines of all scenes of a production, as a screenplay.</summary>
public static class ProductionScript
{
    /// <summary>Reads it.</summary>
    /// <param name="scenes">Where scenes are.</param>
    /// <param name="production">Whose.</param>
    /// <param name="title">For its title page.</param>
    public static async Task<Screenplay> OfAsync(SceneDesk scenes, Guid production, string title)
    {
        var cards = await scenes.ScenesAsync(production);
        var lines = new List<ScreenplayLine>();
        for (var s = 0; s < cards.Count; s++)
        {
            var scene = await scenes.LoadAsync(cards[s].Id);
            foreach (var line in scene.Lines)
                if (scene.WrittenOf(line) is { Length: > 0 } text)
                    lines.Add(new ScreenplayLine(scene.Member(line.CastMemberId).RoleName, text, DirectionOf(line, text), s) { IsTogether = line.IsTogether });
        }
        return new Screenplay(title, [.. cards.Select(s => s.Title)], lines, []);
    }

    /// <summary>How a line is spoken, as a script says it; null where its text says so itself, or for plainly.</summary>
    internal static string? DirectionOf(Line line, string text) =>
        Directions.Leading(text) == null ? Delivery.Presets.FirstOrDefault(p => p.Delivery == Takes.DeliveryOf(line)).Name?.ToLowerInvariant() : null;
}
