using Zamblo.Core.Shots;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Views;

/// <summary>A framing to choose while a scene plays.</summary>
/// <param name="Framing">How much it shows.</param>
/// <param name="Member">Whom; null for everybody.</param>
/// <param name="Look">What the camera sees, as in frames.</param>
public sealed record FramingCard(string Framing, Guid? Member, float[] Look)
{
    /// <summary>Everybody; then each member in their order, with head and chest and with the face alone.</summary>
    public static IReadOnlyList<FramingCard> Of(LoadedScene scene)
    {
        FramingCard Card(Core.Shots.Framing framing, int member) =>
            new(
                framing.ToString(),
                member < 0 ? null : scene.Members[member].Id.Value,
                FrameWriter.Look(ShotList.StillOf(new Shot(0, framing, member, ""), scene.Stage, scene.Document.Width, scene.Document.Height))
            );
        return
        [
            Card(Core.Shots.Framing.Wide, -1),
            .. Enumerable.Range(0, scene.Members.Count).SelectMany(i => new[] { Card(Core.Shots.Framing.Medium, i), Card(Core.Shots.Framing.Close, i) }),
        ];
    }
}
