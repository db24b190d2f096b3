using System.Globalization;
using System.Numerics;
using System.Text;
using System.Text.Encodings.Web;
using Zamblo.Core.Shots;
using Zamblo.Core.Stage;

namespace Zamblo.Studio.Views;

/// <summary>
/// The stage protocol. Shapes go once. Frames go in chunks: each frame is a list of what changed since the one before, as
/// [index, a, b, c, d, e, f, opacity, path]; the path is 0 where the shape has its own; the colours of a gradient follow where they change.
/// A chunk's first frame is complete but for the backdrop. Beside the frames goes what the camera sees in each: the part of the stage that is
/// near, and of what lies behind, each as x, y, width, then 1 while the camera moves; 0 where all of it is as in the frame before.
/// </summary>
public static class FrameWriter
{
    /// <summary>All shapes of a scene.</summary>
    public static byte[] Shapes(StageScene scene)
    {
        var json = new StringBuilder("{\"back\":")
            .Append(scene.BackCount)
            .Append(",\"over\":")
            .Append(scene.OverFirst)
            .Append(scene.HasGrain ? "" : ",\"grain\":false")
            .Append(",\"shapes\":[");
        // On the picture itself: the camera does not touch them.
        var flat = scene.Groups.Where(g => g.Plane == DrawPlane.Over).SelectMany(g => Enumerable.Range(g.First, g.Count)).ToHashSet();
        for (var i = 0; i < scene.Shapes.Count; i++)
        {
            var s = scene.Shapes[i];
            if (i > 0)
                json.Append(',');
            json.Append("{\"d\":")
                .Append(Text(s.Path))
                .Append(",\"fill\":")
                .Append(Text(s.Fill))
                .Append(",\"stroke\":")
                .Append(Text(s.Stroke))
                .Append(",\"width\":")
                .Append(N(s.Width, 2))
                .Append(",\"nib\":")
                .Append(N(s.Nib, 2))
                .Append(",\"clip\":")
                .Append(s.Clip);
            if (flat.Contains(i))
                json.Append(",\"flat\":true");
            if (s.Blend != DrawBlend.Normal)
                json.Append(",\"blend\":").Append(Text(NameOf(s.Blend)));
            if (s.Gradient is { } g)
                json.Append(",\"gradient\":{\"radial\":")
                    .Append(g.IsRadial ? "true" : "false")
                    .Append(",\"line\":[")
                    .AppendJoin(',', new[] { g.From.X, g.From.Y, g.To.X, g.To.Y }.Select(v => N(v, 2)))
                    .Append("],\"at\":[")
                    .AppendJoin(',', g.At.Select(v => N(v, 3)))
                    .Append("],\"colors\":")
                    .Append(Text(g.Colors))
                    .Append('}');
            if (s.Picture != null)
                json.Append(",\"picture\":").Append(Text(s.Picture));
            if (s.Blur > 0)
                json.Append(",\"blur\":").Append(N(s.Blur, 2));
            if (s.Filmed > 0)
                json.Append(",\"filmed\":").Append(s.Filmed);
            if (s.Tint != null)
                json.Append(",\"tint\":").Append(Text(s.Tint));
            if (s.Mesh is { } mesh)
                json.Append(",\"mesh\":{\"at\":[")
                    .AppendJoin(',', mesh.Texture.Select(v => N(v, 2)))
                    .Append("],\"triangles\":[")
                    .AppendJoin(',', mesh.Triangles)
                    .Append("]}");
            json.Append('}');
        }
        return Encoding.UTF8.GetBytes(json.Append("]}").ToString());
    }

    // As a canvas calls it.
    private static string NameOf(DrawBlend blend) =>
        blend switch
        {
            DrawBlend.Multiply => "multiply",
            DrawBlend.Screen => "screen",
            _ => "soft-light",
        };

    /// <summary>A chunk of frames.</summary>
    /// <param name="scene">Whose.</param>
    /// <param name="from">The first.</param>
    /// <param name="count">How many.</param>
    /// <param name="width">Of the picture; 0 leaves out what the camera sees.</param>
    /// <param name="height">Of the picture.</param>
    public static byte[] Frames(StageScene scene, int from, int count, int width = 0, int height = 0)
    {
        var list = scene.Draw(from, count);
        var json = new StringBuilder(1 << 16).Append("{\"from\":").Append(from).Append(",\"frames\":[");
        DrawItem[]? previous = null;
        foreach (var frame in list.Frames)
        {
            json.Append(previous == null ? "[" : ",[");
            var first = true;
            for (var i = scene.BackCount; i < frame.Length; i++)
            {
                var item = frame[i];
                if (previous != null && previous[i].Equals(item))
                    continue;
                if (!first)
                    json.Append(',');
                first = false;
                Append(json, i, item);
            }
            json.Append(']');
            previous = frame;
        }
        if (width > 0)
            AppendLooks(json, list, width, height);
        // Where everybody is, where somebody walks: for whoever takes hold of them.
        if (scene.IsWalked)
            json.Append("],\"places\":[").AppendJoin(',', Enumerable.Range(from, list.Frames.Count).Select(f => $"[{string.Join(',', PlacesAt(scene, f))}]"));
        return Encoding.UTF8.GetBytes(json.Append("]}").ToString());
    }

    private static IEnumerable<string> PlacesAt(StageScene scene, int frame) =>
        Enumerable.Range(0, scene.Cast.Count).Select(i => N(scene.PlaceOf(i, scene.Rate.TimeOf(frame)), 1));

    private static void AppendLooks(StringBuilder json, DrawingList list, int width, int height)
    {
        json.Append("],\"looks\":[");
        FrameLook? before = null;
        for (var f = 0; f < list.Frames.Count; f++)
        {
            var look = list.LookAt(f, width, height);
            json.Append(f > 0 ? "," : "");
            if (look == before)
                json.Append('0');
            else
                json.Append('[').AppendJoin(',', Numbers(look)).Append(']');
            before = look;
        }
    }

    /// <summary>
    /// What the camera sees, as the page reads it; while one shot becomes the next, there follow how much is seen of both, the way of the change
    /// (2 a wipe, 3 behind something that passes), where the edge is, and what the next one shows.
    /// </summary>
    public static float[] Look(FrameLook look)
    {
        float[] one = [.. Of(look.Near), .. Of(look.Far), look.Moves ? 1 : 0];
        return look.Next is { } n ? [.. one, n.Before, n.After, WayOf(n.Change), n.Edge, .. Of(n.Near), .. Of(n.Far)] : one;
        static float[] Of(StageView v) => [v.X, v.Y, v.Width];
    }

    private static float WayOf(ShotChange change) =>
        change switch
        {
            ShotChange.Wipe => 2,
            ShotChange.Pass => 3,
            _ => 1,
        };

    private static IEnumerable<string> Numbers(FrameLook look) => Look(look).Select(v => N(v, 3));

    /// <summary>What is drawn of one member, to be laid over a frame that is there.</summary>
    public static byte[] Items(int first, IReadOnlyList<DrawItem> items)
    {
        var json = new StringBuilder(1 << 13).Append('[');
        for (var i = 0; i < items.Count; i++)
        {
            if (i > 0)
                json.Append(',');
            Append(json, first + i, items[i]);
        }
        return Encoding.UTF8.GetBytes(json.Append(']').ToString());
    }

    private static void Append(StringBuilder json, int index, DrawItem item)
    {
        var m = item.Transform;
        json.Append('[').Append(index);
        foreach (var (value, digits) in (ReadOnlySpan<(float, int)>)[(m.M11, 5), (m.M12, 5), (m.M21, 5), (m.M22, 5), (m.M31, 3), (m.M32, 3), (item.Opacity, 3)])
            json.Append(',').Append(N(value, digits));
        json.Append(',').Append(item.Path == null ? "0" : Text(item.Path));
        if (item.Colors != null)
            json.Append(',').Append(Text(item.Colors));
        json.Append(']');
    }

    private static string Text(string? value) => value == null ? "null" : "\"" + JavaScriptEncoder.Default.Encode(value) + "\"";

    private static string N(float value, int digits) => MathF.Round(value, digits).ToString("0.#####", CultureInfo.InvariantCulture);
}
