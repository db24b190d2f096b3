using Zamblo.Core.Stage.Props;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Views;

/// <summary>A prop to choose.</summary>
public sealed record PropCard(string Key, string Name, string Kind);

/// <summary>A prop of a scene.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Art">Key of its look.</param>
/// <param name="Name">As people call it.</param>
/// <param name="Place">Where and how it stands.</param>
/// <param name="Box">Left, top, width and height where it stands, in stage units.</param>
/// <param name="Shapes">Its stretches of shapes, first and count: its own, then those in hands.</param>
public sealed record PropPart(Guid Id, string Art, string Name, PropPlace Place, float[] Box, IReadOnlyList<int[]> Shapes)
{
    /// <summary>Of a scene, those in front first.</summary>
    public static IReadOnlyList<PropPart> Of(LoadedScene scene) =>
        [
            .. scene
                .Document.Props.Select(
                    (p, i) =>
                    {
                        var (art, place) = (scene.Stage.Props[i].Art, p.Place);
                        var (w, h) = (art.Width * place.Size, art.Height * place.Size);
                        return new PropPart(
                            p.Id.Value,
                            p.Art,
                            art.Name,
                            place,
                            [place.X - w / 2, place.Y - h, w, h],
                            [.. scene.Stage.ShapesOfProp(i).Select(s => new[] { s.First, s.Count })]
                        );
                    }
                )
                .OrderByDescending(p => p.Place.Order),
        ];
}
