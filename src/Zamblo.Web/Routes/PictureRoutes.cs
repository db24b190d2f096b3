using Zamblo.Core.Shots;
using Zamblo.Core.Stage;
using Zamblo.Media;
using Zamblo.Studio;
using Zamblo.Studio.Scenes;

namespace Zamblo.Web.Routes;

/// <summary>Single frames of a scene as pictures: as the film has them, in another size, or of the whole set.</summary>
internal static class PictureRoutes
{
    private const int Widest = 4096,
        Least = 16;

    public static void Map(RouteGroupBuilder scene)
    {
        scene.MapGet("/frames/{frame:int}", FrameAsync);
        scene.MapGet("/frames/{frame:int}/place", PlaceAsync);
    }

    private static async Task<IResult> FrameAsync(
        Guid id,
        int frame,
        int? width,
        string? size,
        bool? whole,
        HttpContext http,
        SceneDesk desk,
        CastLibrary library
    )
    {
        var loaded = await desk.LoadAsync(id);
        if (frame < 0 || frame >= loaded.Stage.FrameCount || width is < Least or > Widest)
            throw new RequestException("There is no such frame.");
        var (stage, full) = (loaded.Stage, new FrameSize(loaded.Document.Width, loaded.Document.Height));
        if (size != null && FrameSize.Parse(size) is var other && other != full)
            (stage, full) = (loaded.In(other, library), other);
        var (w, h) = (full.Width, full.Height);
        if (width is { } small)
            (w, h) = (small, Math.Clamp(small * h / w, 1, Widest));
        using var rasteriser = Rasteriser.ForStage(w, h);
        var list = stage.Draw(frame, 1);
        if (whole == true)
            list = list with { LookAt = (_, across, tall) => WholeOf(stage, across, tall) };
        rasteriser.Draw(list, 0);
        return SceneRoutes.Kept(http, rasteriser.ToPng(), "image/png");
    }

    // Where what a shot shows lies within the whole set, as shares of its picture.
    private static async Task<IResult> PlaceAsync(Guid id, int frame, HttpContext http, SceneDesk desk)
    {
        var loaded = await desk.LoadAsync(id);
        if (frame < 0 || frame >= loaded.Stage.FrameCount)
            throw new RequestException("There is no such frame.");
        var (w, h) = (loaded.Document.Width, loaded.Document.Height);
        var (whole, seen) = (WholeOf(loaded.Stage, w, h).Near, loaded.Stage.LookAt(frame, w, h).Near);
        float share = seen.Width / whole.Width,
            tall = whole.Width * h / w;
        return Results.Json(
            new
            {
                left = 0.5f + (seen.X - whole.X) / whole.Width - share / 2,
                top = 0.5f + (seen.Y - whole.Y) / tall - share / 2,
                share,
            }
        );
    }

    private static FrameLook WholeOf(StageScene stage, int width, int height) => ShotList.StillOf(new Shot(0, Framing.Wide, -1, ""), stage, width, height);
}
