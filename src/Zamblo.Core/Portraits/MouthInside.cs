using System.Numerics;
using Zamblo.Core.Mouth;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Portraits;

/// <summary>Where a mouth is in a picture, in its pixels.</summary>
/// <param name="Middle">Of the line between the lips.</param>
/// <param name="Across">To the picture's right along it.</param>
/// <param name="Down">To the chin.</param>
/// <param name="Width">From corner to corner.</param>
/// <param name="JawDown">How far the lower teeth are down.</param>
/// <param name="IsOpen">It is open in the picture, so that a line between shut lips has to be drawn.</param>
internal readonly record struct MouthPlace(Vector2 Middle, Vector2 Across, Vector2 Down, float Width, float JawDown, bool IsOpen);

/// <summary>What is seen between the lips: dark, teeth that stay with the skull or go with the jaw, a tongue, a shadow, and the lips' edge.</summary>
internal sealed class MouthInside
{
    /// <summary>How many shapes it draws.</summary>
    public const int Count = 6;

    private readonly TeethPatch? _upper,
        _lower;
    private readonly MouthLook _look;

    /// <param name="look">Colours and teeth.</param>
    /// <param name="width">Of the mouth, in units of the figure.</param>
    /// <param name="first">Index of its first shape among the figure's.</param>
    public MouthInside(MouthLook look, float width, int first)
    {
        (_look, _upper, _lower) = (look, look.TeethUpper, look.TeethLower);
        Shapes =
        [
            new DrawShape(null, look.Inside),
            Quad(_upper?.Hash, _upper?.Width ?? 1, _upper?.Height ?? 1, first),
            Quad(_lower?.Hash, _lower?.Width ?? 1, _lower?.Height ?? 1, first),
            new DrawShape(null, look.Tongue, Clip: first),
            // What hangs over the mouth's inside throws a shadow on it.
            new DrawShape(null, null, "#1A0A0C", width * 0.06f, Clip: first),
            new DrawShape(null, null, look.LipLine, width * 0.011f),
        ];
    }

    /// <summary>What it draws, back to front.</summary>
    public IReadOnlyList<DrawShape> Shapes { get; }

    /// <summary>A picture on two triangles.</summary>
    public static DrawShape Quad(string? picture, int width, int height, int clip) =>
        new(null, null, Clip: clip) { Picture = picture, Mesh = new DrawMesh([0, 0, width, 0, width, height, 0, height], [0, 1, 2, 0, 2, 3]) };

    /// <summary>Draws it.</summary>
    /// <param name="m">The mouth.</param>
    /// <param name="upper">Inner edge of the upper lip, in units of the figure.</param>
    /// <param name="lower">Inner edge of the lower lip, in units of the figure.</param>
    /// <param name="at">Where the mouth is.</param>
    /// <param name="toFigure">From the picture's pixels, on the skull, to units of the figure.</param>
    /// <param name="place">From the figure to the stage.</param>
    /// <param name="items">One for each shape.</param>
    public void Draw(
        in MouthChannels m,
        ReadOnlySpan<Vector2> upper,
        ReadOnlySpan<Vector2> lower,
        MouthPlace at,
        Func<Vector2, Vector2> toFigure,
        Matrix3x2 place,
        Span<DrawItem> items
    )
    {
        for (var i = 0; i < Count; i++)
            items[i] = new DrawItem(place, 0);
        var middle = upper.Length / 2;
        var w = at.Width;
        var unit = Vector2.Distance(toFigure(at.Middle), toFigure(at.Middle + at.Across));
        var line = new PathText();
        Trace(line, upper);
        // The line between shut lips is the picture's own, where the picture has it.
        if (Vector2.Distance(upper[middle], lower[middle]) < 0.004f * w * unit)
        {
            items[5] = new DrawItem(place, at.IsOpen ? 0.75f : 0, line.ToString());
            return;
        }
        var inside = new PathText();
        Trace(inside, upper);
        for (var i = lower.Length - 2; i > 0; i--)
            inside.Line(lower[i].X, lower[i].Y);
        items[0] = new DrawItem(place, 1, inside.Close().ToString());
        var rest = at.Middle + (at.IsOpen ? 0 : 0.01f * w) * at.Down;
        // Lips that are drawn together hide them, and keep the light out.
        var hidden = 1 - 0.95f * Math.Clamp(-m[MouthChannel.Spread] * (1.2f - m[MouthChannel.Jaw]), 0, 1);
        items[1] = Teeth(_upper, rest + _look.UpperTop * w * at.Down, _look.UpperWide * w, _look.UpperHigh * w, at, toFigure, place);
        items[2] = Teeth(_lower, rest + (at.JawDown + 0.03f * w) * at.Down, 0.74f * w, 0.2f * w, at, toFigure, place);
        items[1] = items[1] with { Opacity = items[1].Opacity * hidden };
        items[2] = items[2] with { Opacity = items[2].Opacity * hidden };
        items[3] = Tongue(m, rest, at, toFigure, place);
        items[4] = new DrawItem(place, 0.2f, line.ToString());
        items[5] = new DrawItem(place, 0.32f, inside.ToString());
    }

    // It lies behind the lower teeth; its tip goes up to the upper ones.
    private static DrawItem Tongue(in MouthChannels m, Vector2 rest, MouthPlace at, Func<Vector2, Vector2> toFigure, Matrix3x2 place)
    {
        float tip = m[MouthChannel.TongueTip],
            back = m[MouthChannel.TongueBack],
            w = at.Width;
        if (m[MouthChannel.Jaw] <= 0.08f && tip <= 0.5f)
            return new DrawItem(place, 0);
        var top = rest + (at.JawDown * 0.92f + (0.08f - 0.05f * back) * w) * at.Down;
        top = Vector2.Lerp(top, rest + 0.07f * w * at.Down, 0.85f * tip);
        var half = (0.3f - 0.06f * tip) * w;
        Vector2 At(float x, float y) => toFigure(top + x * half * at.Across + y * 0.1f * w * at.Down);
        var (a, b, c, d, e) = (At(-1, 4), At(-1, 0.8f), At(0, -0.7f), At(1, 0.8f), At(1, 4));
        var (l, r) = (At(-0.75f, -0.5f), At(0.75f, -0.5f));
        var tongue = new PathText().Move(a.X, a.Y).Line(b.X, b.Y).Quad(l.X, l.Y, c.X, c.Y).Quad(r.X, r.Y, d.X, d.Y).Line(e.X, e.Y).Close();
        return new DrawItem(place, 0.9f, tongue.ToString());
    }

    private static DrawItem Teeth(TeethPatch? teeth, Vector2 top, float width, float height, MouthPlace at, Func<Vector2, Vector2> toFigure, Matrix3x2 place)
    {
        if (teeth == null)
            return new DrawItem(place, 0);
        var side = width / 2 * at.Across;
        var low = height * at.Down;
        Span<Vector2> quad = [toFigure(top - side), toFigure(top + side), toFigure(top + side + low), toFigure(top - side + low)];
        return new DrawItem(place, 1, DrawMesh.Write(quad));
    }

    /// <summary>A line through points.</summary>
    public static void Trace(PathText path, ReadOnlySpan<Vector2> line)
    {
        path.Move(line[0].X, line[0].Y);
        for (var i = 1; i < line.Length; i++)
            path.Line(line[i].X, line[i].Y);
    }
}
