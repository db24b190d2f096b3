using System.Text.Json;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Rigging;

namespace Zamblo.Studio.Views;

/// <summary>All that a face can do, side by side: it turns and nods, looks about, blinks, has every mouth and every mood.</summary>
public static class MotionStrip
{
    private static readonly (string Name, Pose Pose)[] Poses =
    [
        ("at rest", Pose.Neutral),
        ("turned left", Pose.Neutral with { HeadTurn = -30 }),
        ("turned right", Pose.Neutral with { HeadTurn = 30 }),
        ("nods", Pose.Neutral with { HeadNod = 18 }),
        ("head up", Pose.Neutral with { HeadNod = -18 }),
        ("tilted left", Pose.Neutral with { HeadTilt = -15 }),
        ("tilted right", Pose.Neutral with { HeadTilt = 15 }),
        ("looks left", Pose.Neutral with { GazeX = -1 }),
        ("looks right", Pose.Neutral with { GazeX = 1 }),
        ("looks up", Pose.Neutral with { GazeY = -1 }),
        ("looks down", Pose.Neutral with { GazeY = 1 }),
        ("blinks", Pose.Neutral with { LidLeft = 0, LidRight = 0 }),
        ("wide eyes", Pose.Neutral with { LidLeft = 1.2f, LidRight = 1.2f, BrowLeft = 1, BrowRight = 1 }),
        ("frowns", Pose.Neutral with { BrowLeft = -1, BrowRight = -1, BrowKnit = 1 }),
    ];

    /// <summary>
    /// As JSON: "shapes" as the stage has them, "view" with what is seen (middle across and down, width, in stage units), and "cells", each with its "name" and
    /// the "items" of the figure.
    /// </summary>
    /// <param name="library">For the paper behind.</param>
    /// <param name="figure">Who.</param>
    public static byte[] Of(CastLibrary library, Figure figure)
    {
        var still = RigTest.Scene(library, figure, "");
        var moods = RigTest.Scene(library, figure, "moods");
        var (first, count) = still.ShapesOf(0);
        using var bytes = new MemoryStream();
        using (var json = new Utf8JsonWriter(bytes))
        {
            json.WriteStartObject();
            json.WritePropertyName("shapes");
            json.WriteRawValue(FrameWriter.Shapes(still));
            var head = still.Heads[0];
            json.WriteStartArray("view");
            json.WriteNumberValue((head.Left + head.Right) / 2);
            json.WriteNumberValue(head.Eyes + 0.06f * (head.Right - head.Left));
            json.WriteNumberValue(1.45f * (head.Right - head.Left));
            json.WriteEndArray();
            json.WriteStartArray("cells");
            void Cell(string name, IReadOnlyList<DrawItem> items)
            {
                json.WriteStartObject();
                json.WriteString("name", name);
                json.WritePropertyName("items");
                json.WriteRawValue(FrameWriter.Items(first + 1, items));
                json.WriteEndObject();
            }
            foreach (var (name, pose) in Poses)
                Cell(name, still.DrawChanged(0, 0, _ => pose).Items);
            foreach (var shape in MouthShapes.All)
                Cell(
                    $"mouth: {shape.ToString().ToLowerInvariant()}",
                    still.DrawChanged(0, 0, _ => Pose.Neutral with { Mouth = MouthShapes.TargetOf(shape) }).Items
                );
            // Each when it is all there (RigTest).
            foreach (var (mood, i) in Moods.All.Select((m, i) => (m, i)))
                Cell(
                    $"mood: {mood.ToString().ToLowerInvariant()}",
                    moods.Draw(moods.Rate.FrameAt(0.2 + 1.4 * i + 0.8), 1).Frames[0][(first + 1)..(first + count)]
                );
            json.WriteEndArray();
            json.WriteEndObject();
        }
        return bytes.ToArray();
    }
}
