using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Props;

namespace Zamblo.Core.Scenes;

/// <summary>A prop in a scene.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Art">Key of its look.</param>
/// <param name="Place">Where and how it stands.</param>
public sealed record LaidProp(PropId Id, string Art, PropPlace Place)
{
    // Where things stand by themselves, in stage units: on the floor before the cast, on the counter, at the lower edge where there is none.
    private const float Floor = 706,
        Counter = 604,
        Edge = 700,
        Wall = 300;

    /// <summary>Where a prop stands when it comes into a scene.</summary>
    /// <param name="art">Its look.</param>
    /// <param name="backdrop">Of the scene: whether there is a counter.</param>
    /// <param name="x">In stage units.</param>
    public static PropPlace PlaceOf(PropArt art, Backdrop backdrop, float x)
    {
        var y = art.Stands switch
        {
            PropGround.Floor => Floor,
            PropGround.Table => backdrop.Front.Count > 0 ? Counter : Edge,
            PropGround.Wall => Wall,
            _ => art.Height,
        };
        return new PropPlace(x, y)
        {
            // What is on walls and hangs is behind everybody; so is what is large: nobody is hidden by a bookcase that was only just brought in.
            Order = art.Stands == PropGround.Table ? PropPlace.Nearest - 1 : -1,
            Motion = art.Motion,
            Amount = art.Amount,
            Period = art.Period,
        };
    }
}
