using System.Globalization;
using System.Numerics;
using System.Text;

namespace Zamblo.Core.Stage;

/// <summary>
/// Triangles with a picture on them. Where the corners are is told by each frame as text, "x,y x,y ..." in the shape's own units, one pair for each corner:
/// so a mesh goes wherever path data goes.
/// </summary>
/// <param name="Texture">Where each corner is in the picture: x and y in its pixels, one pair after the other.</param>
/// <param name="Triangles">Three corners for each triangle.</param>
public sealed record DrawMesh(IReadOnlyList<float> Texture, IReadOnlyList<ushort> Triangles)
{
    /// <summary>Writes down where the corners are, to a hundredth of a unit.</summary>
    public static string Write(ReadOnlySpan<Vector2> corners)
    {
        var text = new StringBuilder(corners.Length * 13);
        foreach (var c in corners)
        {
            if (text.Length > 0)
                text.Append(' ');
            Put(text, c.X);
            text.Append(',');
            Put(text, c.Y);
        }
        return text.ToString();
    }

    private static void Put(StringBuilder text, float value)
    {
        var hundredths = (int)MathF.Round(Math.Clamp(value, -1e6f, 1e6f) * 100);
        if (hundredths < 0)
        {
            text.Append('-');
            hundredths = -hundredths;
        }
        text.Append(hundredths / 100);
        var rest = hundredths % 100;
        if (rest == 0)
            return;
        text.Append('.').Append((char)('0' + rest / 10));
        if (rest % 10 != 0)
            text.Append((char)('0' + rest % 10));
    }

    /// <summary>
    /// The same for a clip: which of its frames lies on the triangles, and where each corner is in that; "#frame x,y,u,v ...".
    /// </summary>
    /// <param name="frame">Of the clip.</param>
    /// <param name="corners">In the shape's own units.</param>
    /// <param name="texture">In pixels of the frame.</param>
    public static string Write(int frame, ReadOnlySpan<Vector2> corners, ReadOnlySpan<Vector2> texture)
    {
        var text = new StringBuilder(corners.Length * 26).Append('#').Append(frame);
        for (var i = 0; i < corners.Length; i++)
        {
            text.Append(' ');
            Put(text, corners[i].X);
            text.Append(',');
            Put(text, corners[i].Y);
            text.Append(',');
            Put(text, texture[i].X);
            text.Append(',');
            Put(text, texture[i].Y);
        }
        return text.ToString();
    }

    /// <summary>Reads what either way of writing has written.</summary>
    /// <returns>The clip's frame, -1 for a picture; corners; and where they are in the frame, or null.</returns>
    /// <exception cref="FormatException">It is not written so.</exception>
    public static (int Frame, Vector2[] Corners, Vector2[]? Texture) ReadAny(string text)
    {
        if (!text.StartsWith('#'))
            return (-1, Read(text), null);
        var space = text.IndexOf(' ');
        var frame = int.Parse(text.AsSpan(1, space - 1), CultureInfo.InvariantCulture);
        var corners = new List<Vector2>(text.Length / 24);
        var texture = new List<Vector2>(text.Length / 24);
        Span<Range> parts = stackalloc Range[5];
        var rest = text.AsSpan(space + 1);
        foreach (var range in rest.Split(' '))
        {
            var four = rest[range];
            if (four.Split(parts, ',') != 4)
                throw new FormatException("A corner of a clip is written as x,y,u,v.");
            var (x, y, u, v) = (Number(four[parts[0]]), Number(four[parts[1]]), Number(four[parts[2]]), Number(four[parts[3]]));
            corners.Add(new Vector2(x, y));
            texture.Add(new Vector2(u, v));
        }
        return (frame, [.. corners], [.. texture]);
    }

    private static float Number(ReadOnlySpan<char> text) => float.Parse(text, CultureInfo.InvariantCulture);

    /// <summary>Reads where the corners are.</summary>
    /// <exception cref="FormatException">It is not written so.</exception>
    public static Vector2[] Read(string text)
    {
        var corners = new List<Vector2>(text.Length / 12);
        foreach (var range in text.AsSpan().Split(' '))
        {
            var pair = text.AsSpan(range);
            var comma = pair.IndexOf(',');
            if (comma < 0)
                throw new FormatException("A corner is written as x,y.");
            corners.Add(new Vector2(float.Parse(pair[..comma], CultureInfo.InvariantCulture), float.Parse(pair[(comma + 1)..], CultureInfo.InvariantCulture)));
        }
        return [.. corners];
    }
}
