using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Scenes;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Props;
using Zamblo.Data;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>A prop is brought into a scene: by the key of its look, or by that of a picture of one's own.</summary>
/// <param name="Art">The key.</param>
/// <param name="X">In stage units; null finds room.</param>
public sealed record AddProp(string? Art, double? X) : SceneEdit;

/// <summary>An edit of a prop.</summary>
public abstract record PropEdit : Edit
{
    [JsonIgnore]
    public Guid Prop { get; init; }
    public override EditTarget Target => new(TargetKind.Prop, Prop);
}

/// <summary>A prop is put elsewhere or moves otherwise; what is null stays.</summary>
/// <param name="X">Middle of its foot, in stage units.</param>
/// <param name="Y">Its foot, in stage units.</param>
/// <param name="Size">1 is its own.</param>
/// <param name="Turn">In degrees.</param>
/// <param name="Flip">Left and right exchanged.</param>
/// <param name="Step">Before the next thing, or behind it.</param>
public sealed record ChangeProp(double? X, double? Y, double? Size, double? Turn, bool? Flip, int? Step) : PropEdit
{
    public PropMotion? Motion { get; init; }
    public double? Amount { get; init; }
    public double? Period { get; init; }
    public double? ToX { get; init; }
    public double? ToY { get; init; }
}

/// <summary>A second one like it.</summary>
public sealed record CopyProp : PropEdit;

/// <summary>A prop is taken out, and from all hands.</summary>
public sealed record RemoveProp : PropEdit;

internal sealed class PropEdits(CastLibrary library) : IEditHandler<AddProp>, IEditHandler<ChangeProp>, IEditHandler<CopyProp>, IEditHandler<RemoveProp>
{
    // More of them nobody can look through.
    private const int Most = 80;

    // Beside each other, and so far from the edges of the stage, in stage units.
    private const float Apart = 70,
        Margin = 90;

    public async Task ApplyAsync(AddProp edit, EditScope scope)
    {
        var art = PropStock.Find(edit.Art) ?? throw new RequestException("There is no such prop.");
        var scene = await scope.SceneAsync(edit.Scene);
        var x = edit.X is { } given ? (float)Check.Range(given, -600, 1880, "A place") : RoomFor(scene);
        scope.Name = $"Bring in {NameOf(art)}";
        var picture = await SceneEdits.PictureOfAsync(scope.Db, art.Key);
        Bring(scope, scene, art.Key, picture, LaidProp.PlaceOf(art, library.Backdrop(scene.Document.Backdrop), x));
    }

    private static void Bring(EditScope scope, LoadedScene scene, string art, string? picture, PropPlace place)
    {
        if (scene.Document.Props.Count >= Most)
            throw new RequestException($"A scene has at most {Most} props.");
        var prop = new SceneProp
        {
            Id = Guid.NewGuid(),
            SceneId = scene.Scene.Id,
            Art = art,
            PictureHash = picture,
            Place = Column.Write(place.Clamped()),
        };
        scope.Db.Props.Add(prop);
        scope.Answer = new EditAnswer { Id = prop.Id };
    }

    // Where nobody and nothing stands, as far as there is such a place: the one that is farthest from all.
    private static float RoomFor(LoadedScene scene)
    {
        float[] taken = [.. scene.Stage.Cast.Select(m => m.X), .. scene.Document.Props.Select(p => p.Place.X)];
        var best = StageScene.Width / 2;
        float most = -1;
        for (var x = Margin; x <= StageScene.Width - Margin; x += Apart / 2)
        {
            var room = taken.Length == 0 ? 0 : taken.Min(t => Math.Abs(t - x));
            if (room > most + 1)
                (best, most) = (x, room);
        }
        return taken.Length == 0 ? StageScene.Width / 2 : best;
    }

    private static async Task<(SceneProp Row, LoadedScene Scene, int Index)> OpenAsync(EditScope scope, Guid id)
    {
        var row = await scope.Db.Props.FirstOrDefaultAsync(p => p.Id == id) ?? throw new NotFoundException("such prop");
        var scene = await scope.SceneAsync(row.SceneId);
        return (row, scene, scene.Document.Props.ToList().FindIndex(p => p.Id.Value == id));
    }

    public async Task ApplyAsync(ChangeProp edit, EditScope scope)
    {
        var (row, scene, index) = await OpenAsync(scope, edit.Prop);
        var prop = scene.Document.Props[index];
        var isMoved = edit.X != null || edit.Y != null || edit.Step != null;
        scope.Name = $"{(isMoved ? "Place" : "Change")} {NameOf(PropStock.Find(prop.Art))}";
        static float? Number(double? x) => x is not { } n || double.IsFinite(n) ? (float?)x : throw new RequestException("A place is a number.");
        var p = prop.Place;
        p = p with
        {
            X = Number(edit.X) ?? p.X,
            Y = Number(edit.Y) ?? p.Y,
            Size = Number(edit.Size) ?? p.Size,
            Turn = Number(edit.Turn) ?? p.Turn,
            Flip = edit.Flip ?? p.Flip,
            Motion = edit.Motion is { } motion ? Check.Known(motion, "motion of a prop") : p.Motion,
            Amount = Number(edit.Amount) ?? p.Amount,
            Period = Number(edit.Period) ?? p.Period,
            ToX = Number(edit.ToX) ?? p.ToX,
            ToY = Number(edit.ToY) ?? p.ToY,
        };
        if (edit.Step is { } step && step != 0)
            p = p with { Order = scene.Stage.OrderAfter(index, Math.Sign(step)) };
        row.Place = Column.Write(p.Clamped());
    }

    public async Task ApplyAsync(CopyProp edit, EditScope scope)
    {
        var (row, scene, index) = await OpenAsync(scope, edit.Prop);
        var place = scene.Document.Props[index].Place;
        scope.Name = $"Copy {NameOf(PropStock.Find(row.Art))}";
        Bring(scope, scene, row.Art, row.PictureHash, place with { X = place.X + (place.X > StageScene.Width - 2 * Apart ? -Apart : Apart) });
    }

    public async Task ApplyAsync(RemoveProp edit, EditScope scope)
    {
        var (row, _, _) = await OpenAsync(scope, edit.Prop);
        scope.Name = $"Take out {NameOf(PropStock.Find(row.Art))}";
        await ProductionRows.RemoveAsync(scope.Db, [row]);
    }

    private static string NameOf(PropArt? art) => art == null ? "a prop" : "the " + art.Name.ToLowerInvariant();
}
