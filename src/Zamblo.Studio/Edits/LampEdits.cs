using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Light;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>A lamp of the scene: a new one, or one that is moved or changed; what is null stays.</summary>
/// <param name="Lamp">Which; null for a new one.</param>
/// <param name="X">From the left, in stage units.</param>
/// <param name="Y">From the top.</param>
/// <param name="Reach">How far its light reaches, in stage units.</param>
/// <param name="Color">"#rrggbb".</param>
/// <param name="Strength">How bright it is, 0 to 1.</param>
/// <param name="Flicker">How unsteady it burns, 0 to 1.</param>
public sealed record SetLamp(Guid? Lamp, double? X, double? Y, double? Reach, string? Color, double? Strength, double? Flicker) : SceneEdit;

/// <summary>A lamp is taken away.</summary>
public sealed record DropLamp(Guid Lamp) : SceneEdit;

internal sealed class LampEdits : IEditHandler<SetLamp>, IEditHandler<DropLamp>
{
    public async Task ApplyAsync(SetLamp edit, EditScope scope)
    {
        var (scene, light) = await OpenAsync(edit.Scene, scope);
        var all = light.Lamps.ToList();
        if (edit.Lamp == null && all.Count >= Lamp.Most)
            throw new RequestException($"A scene has at most {Lamp.Most} lamps.");
        var old = edit.Lamp is { } id ? Find(all, id) : new Lamp(Guid.NewGuid(), StageScene.Width / 2, StageScene.Height / 3);
        if (edit.Color is { } color && !Lamp.IsColor(color))
            throw new RequestException("A colour is written as #rrggbb.");
        float Of(double? value, float was, double least, double most, string what) => value is { } v ? (float)Check.Range(v, least, most, what) : was;
        var lamp = (
            old with
            {
                X = Of(edit.X, old.X, -400, StageScene.Width + 400, "A place"),
                Y = Of(edit.Y, old.Y, -200, StageScene.Height + 200, "A height"),
                Reach = Of(edit.Reach, old.Reach, Lamp.Nearest, Lamp.Farthest, "A reach"),
                Color = edit.Color?.ToLowerInvariant() ?? old.Color,
                Strength = Of(edit.Strength, old.Strength, 0, 1, "A strength"),
                Flicker = Of(edit.Flicker, old.Flicker, 0, 1, "A flicker"),
            }
        ).Clamped();
        if (edit.Lamp == null)
            all.Add(lamp);
        else
            all[all.IndexOf(old)] = lamp;
        scope.Name =
            edit.Lamp == null ? "Add a lamp"
            : edit.X != null || edit.Y != null ? "Move a lamp"
            : "Change a lamp";
        scene.Light = Column.Write(light with { Lamps = all });
        scope.Answer = new EditAnswer { Id = lamp.Id };
    }

    public async Task ApplyAsync(DropLamp edit, EditScope scope)
    {
        scope.Name = "Take a lamp away";
        var (scene, light) = await OpenAsync(edit.Scene, scope);
        var old = Find(light.Lamps, edit.Lamp);
        scene.Light = Column.Write(light with { Lamps = [.. light.Lamps.Where(l => l != old)] });
    }

    private static async Task<(Scene Scene, LightDials Light)> OpenAsync(Guid id, EditScope scope)
    {
        var scene = await scope.Db.Scenes.FirstAsync(s => s.Id == id);
        return (scene, Column.Read<LightDials>(scene.Light).Clamped());
    }

    private static Lamp Find(IEnumerable<Lamp> all, Guid id) => all.FirstOrDefault(l => l.Id == id) ?? throw new NotFoundException("such lamp");
}
