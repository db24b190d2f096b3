using System.Numerics;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Props;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Views;

namespace Zamblo.Web.Routes;

/// <summary>Props: those to choose from, and those of a scene.</summary>
internal static class PropRoutes
{
    // Of a small picture, in pixels, and the room around the prop in it.
    private const int Thumb = 144;
    private const float Room = 1.12f;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/props", () => PropStock.All.Select(p => new PropCard(p.Key, p.Name, p.Kind)));
        api.MapGet(
            "/props/{key}/picture",
            (string key, HttpContext http) =>
            {
                http.Response.Headers.CacheControl = "private, max-age=86400";
                return Results.Bytes(PictureOf(PropStock.Find(key) ?? throw new NotFoundException("such prop")), "image/png");
            }
        );
        api.MapEdit<AddProp>("POST", "/scenes/{id:guid}/props", (e, id) => e with { Scene = id });
        api.MapEdit<ChangeProp>("PATCH", "/props/{id:guid}", (e, id) => e with { Prop = id });
        api.MapEdit<CopyProp>("POST", "/props/{id:guid}/copy", (e, id) => e with { Prop = id });
        api.MapRemoval("/props/{id:guid}", (id, revision) => new RemoveProp { Prop = id, Revision = revision });
    }

    private static byte[] PictureOf(PropArt art)
    {
        var side = Room * Math.Max(art.Width, art.Height);
        using var rasteriser = new Rasteriser(Thumb, Thumb, (-side / 2, -art.Height / 2 - side / 2, side, side), grain: false);
        var still = new DrawItem(Matrix3x2.Identity, 1);
        rasteriser.Draw(
            new DrawingList(
                art.Shapes,
                [
                    [.. art.Shapes.Select(_ => still)],
                ]
            ),
            0
        );
        return rasteriser.ToPng();
    }
}
