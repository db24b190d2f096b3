using System.Text.Json;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Rigging;
using Zamblo.Media;

namespace Zamblo.Studio.Views;

/// <summary>A drawn character on the rig bench.</summary>
/// <param name="Key">Of the character.</param>
/// <param name="Name">Of the character.</param>
/// <param name="IsOwn">Made here: what is kept takes its place; of one that is shipped a copy is kept.</param>
/// <param name="Rig">As it stands in its file.</param>
/// <param name="Order">Names of its parts, back to front.</param>
/// <param name="Boxes">Where each part lies at rest: left, top, width, height in the drawing's units.</param>
/// <param name="ShapeParts">The part of each shape of the figure.</param>
/// <param name="Place">Of the drawing on the stage of a test: scale, and where its upper left corner is.</param>
/// <param name="Size">Of the drawing, in its units: width and height.</param>
/// <param name="Findings">What it has, what it lacks, and what stands in.</param>
/// <param name="Tests">What can be looked at: key and name.</param>
/// <param name="Motions">What can drive a part: key and name.</param>
public sealed record RigSheet(
    string Key,
    string Name,
    bool IsOwn,
    JsonElement Rig,
    IReadOnlyList<string> Order,
    IReadOnlyDictionary<string, float[]> Boxes,
    IReadOnlyList<string> ShapeParts,
    IReadOnlyList<float> Place,
    IReadOnlyList<float> Size,
    IReadOnlyList<RigFinding> Findings,
    IReadOnlyList<RigChoice> Tests,
    IReadOnlyList<RigChoice> Motions
)
{
    /// <summary>The sheet of a character.</summary>
    public static RigSheet Of(string key, bool isOwn, DrawnRecipe recipe)
    {
        var figure = recipe.Make(key);
        var scale = RigTest.ScaleOf(figure);
        return new RigSheet(
            key,
            figure.Rig.Name,
            isOwn,
            JsonSerializer.Deserialize<JsonElement>(figure.Rig.ToJson()),
            recipe.Order(),
            RiggedDrawings.BoxesOf(recipe),
            figure.PartsOfShapes,
            [scale, StageScene.Width / 2 - figure.Rig.Anchor[0] * scale, RigTest.Floor - figure.Rig.Anchor[1] * scale],
            [figure.Size.X, figure.Size.Y],
            RigReport.Of(figure.Rig),
            [.. RigTest.All.Select(t => new RigChoice(t.Key, t.Name))],
            [.. MotionNames.Select(m => new RigChoice(JsonNamingPolicy.CamelCase.ConvertName(m.Key.ToString()), m.Value))]
        );
    }

    private static readonly Dictionary<RigMotion, string> MotionNames = new()
    {
        [RigMotion.None] = "What it hangs on",
        [RigMotion.Body] = "Body: leans, breathes",
        [RigMotion.Head] = "Head: turns, nods, tilts",
        [RigMotion.Hips] = "Hips: crouch",
        [RigMotion.ArmLeft] = "Arm, picture's left",
        [RigMotion.ArmRight] = "Arm, picture's right",
        [RigMotion.ElbowLeft] = "Forearm, picture's left",
        [RigMotion.ElbowRight] = "Forearm, picture's right",
        [RigMotion.LegLeft] = "Leg, picture's left",
        [RigMotion.LegRight] = "Leg, picture's right",
        [RigMotion.KneeLeft] = "Shin, picture's left",
        [RigMotion.KneeRight] = "Shin, picture's right",
        [RigMotion.Level] = "Foot: keeps level",
        [RigMotion.EyeLeft] = "Eye, picture's left: squeezed shut",
        [RigMotion.EyeRight] = "Eye, picture's right: squeezed shut",
        [RigMotion.Pupil] = "Pupil: goes where the eyes look",
        [RigMotion.LidLeft] = "Lid, picture's left: comes down",
        [RigMotion.LidRight] = "Lid, picture's right: comes down",
        [RigMotion.BrowLeft] = "Brow, picture's left",
        [RigMotion.BrowRight] = "Brow, picture's right",
    };
}

/// <summary>Something to choose.</summary>
/// <param name="Key">As it is sent.</param>
/// <param name="Name">As it is read.</param>
public sealed record RigChoice(string Key, string Name);
