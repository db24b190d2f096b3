using System.Globalization;
using System.Reflection;
using System.Text;
using System.Text.Json;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Interchange;

/// <summary>A scene, or a stretch of one, whose motion is written.</summary>
/// <param name="Stage">The scene.</param>
/// <param name="Names">Of its members, in the order of the stage's cast.</param>
/// <param name="First">Its first frame.</param>
/// <param name="Count">So many frames of it.</param>
public sealed record MotionScene(StageScene Stage, IReadOnlyList<string> Names, int First, int Count)
{
    /// <summary>The poses of a member, frame by frame.</summary>
    /// <param name="member">Index among the stage's cast.</param>
    public IReadOnlyList<Pose> PosesOf(int member) => Stage.PosesOf(member)[First..(First + Count)];
}

/// <summary>
/// The motion of a film as numbers: a row for each frame and member with every channel of pose and mouth (units as <see cref="Pose"/> and
/// <see cref="MouthChannel"/> say), for whoever drives a rig of their own.
/// </summary>
public static class MotionTable
{
    // All channels of a pose but the mouth, by their names in the code.
    private static readonly FieldInfo[] Channels =
    [
        .. typeof(Pose).GetFields(BindingFlags.Public | BindingFlags.Instance).Where(f => f.FieldType == typeof(float)).OrderBy(f => f.MetadataToken),
    ];

    /// <summary>Names of the columns after <c>frame,time,scene,member</c>.</summary>
    public static IReadOnlyList<string> Columns { get; } = [.. SpeechExports.Columns, .. Channels.Select(f => Snake(f.Name))];

    /// <summary>CSV (RFC 4180): <c>frame</c> and <c>time</c> (seconds) of the film, <c>scene</c> from 1, <c>member</c>, then <see cref="Columns"/>.</summary>
    /// <param name="writer">Where to.</param>
    /// <param name="scenes">One after another.</param>
    public static void WriteCsv(TextWriter writer, IReadOnlyList<MotionScene> scenes)
    {
        writer.Write("frame,time,scene,member," + string.Join(',', Columns) + "\r\n");
        foreach (var (frame, time, scene, name, values) in Rows(scenes))
        {
            var member = name.AsSpan().ContainsAny(",\"\r\n") ? $"\"{name.Replace("\"", "\"\"")}\"" : name;
            writer.Write(string.Create(CultureInfo.InvariantCulture, $"{frame},{time:0.0000},{scene},{member}"));
            foreach (var v in values)
                writer.Write("," + v.ToString("0.0000", CultureInfo.InvariantCulture));
            writer.Write("\r\n");
        }
    }

    /// <summary>JSON: <c>fps</c>, <c>columns</c>, and <c>rows</c> with <c>frame</c>, <c>time</c>, <c>scene</c>, <c>member</c>, <c>values</c>.</summary>
    /// <param name="output">Where to.</param>
    /// <param name="scenes">As for CSV.</param>
    public static void WriteJson(Stream output, IReadOnlyList<MotionScene> scenes)
    {
        using var json = new Utf8JsonWriter(output);
        json.WriteStartObject();
        json.WriteNumber("fps", scenes.Count == 0 ? 0 : scenes[0].Stage.Rate.FramesPerSecond);
        json.WriteStartArray("columns");
        foreach (var c in Columns)
            json.WriteStringValue(c);
        json.WriteEndArray();
        json.WriteStartArray("rows");
        foreach (var (frame, time, scene, name, values) in Rows(scenes))
        {
            json.WriteStartObject();
            json.WriteNumber("frame", frame);
            json.WriteNumber("time", Math.Round(time, 4));
            json.WriteNumber("scene", scene);
            json.WriteString("member", name);
            json.WriteStartArray("values");
            foreach (var v in values)
                json.WriteNumberValue(Math.Round(v, 4));
            json.WriteEndArray();
            json.WriteEndObject();
        }
        json.WriteEndArray();
        json.WriteEndObject();
    }

    private static IEnumerable<(int Frame, double Time, int Scene, string Member, float[] Values)> Rows(IReadOnlyList<MotionScene> scenes)
    {
        var first = 0;
        for (var s = 0; s < scenes.Count; s++)
        {
            var scene = scenes[s];
            var poses = scene.Stage.Cast.Select((_, i) => scene.PosesOf(i)).ToArray();
            for (var f = 0; f < scene.Count; f++)
            for (var m = 0; m < poses.Length; m++)
                yield return (first + f, scene.Stage.Rate.TimeOf(first + f), s + 1, scene.Names[m], Values(poses[m][f]));
            first += scene.Count;
        }
    }

    private static float[] Values(Pose pose)
    {
        object boxed = pose;
        return
        [
            pose.Mouth.Openness,
            .. Enumerable.Range(0, MouthChannels.Count).Select(c => pose.Mouth[c]),
            .. Channels.Select(f => (float)f.GetValue(boxed)!),
        ];
    }

    // HeadTurn is head_turn.
    private static string Snake(string name)
    {
        var snake = new StringBuilder();
        foreach (var c in name)
            snake.Append(char.IsUpper(c) && snake.Length > 0 ? "_" : "").Append(char.ToLowerInvariant(c));
        return snake.ToString();
    }
}
