using System.Globalization;
using System.Text.RegularExpressions;
using System.Xml.Linq;
using SkiaSharp;

namespace Zamblo.Media;

/// <summary>Shapes, transforms and numbers of SVG 1.1 (chapters 7 to 9).</summary>
internal static partial class SvgGeometry
{
    /// <summary>The path of a shape; null for what is none, which is named.</summary>
    public static SKPath? PathOf(XElement e, string kind, string name, Action<string> warn)
    {
        float N(string attribute) => Number(e, attribute);
        using var made = new SKPathBuilder();
        switch (kind)
        {
            case "path":
                var read = SKPath.ParseSvgPathData(e.Attribute("d")?.Value ?? "");
                if (read == null)
                    warn($"The path \"{name}\" cannot be read and is left out.");
                return read;
            case "rect":
                var round = Math.Max(N("rx"), N("ry"));
                made.AddRoundRect(new SKRoundRect(SKRect.Create(N("x"), N("y"), N("width"), N("height")), round, round));
                break;
            case "circle":
                made.AddCircle(N("cx"), N("cy"), N("r"));
                break;
            case "ellipse":
                made.AddOval(new SKRect(N("cx") - N("rx"), N("cy") - N("ry"), N("cx") + N("rx"), N("cy") + N("ry")));
                break;
            case "line":
                made.MoveTo(N("x1"), N("y1"));
                made.LineTo(N("x2"), N("y2"));
                break;
            case "polygon" or "polyline":
                var points = Numbers(e.Attribute("points")?.Value ?? "").Chunk(2).Where(p => p.Length == 2).Select(p => new SKPoint(p[0], p[1])).ToArray();
                if (points.Length > 1)
                    made.AddPoly(points, kind == "polygon");
                break;
            default:
                warn($"<{kind}> (\"{name}\") cannot be drawn and is left out: turn it into paths.");
                return null;
        }
        return made.Detach();
    }

    /// <summary>Path data with at most three decimals.</summary>
    public static string DataOf(SKPath path) =>
        Digits()
            .Replace(
                path.ToSvgPathData(),
                m => float.Parse(m.ValueSpan, NumberStyles.Float, CultureInfo.InvariantCulture).ToString("0.###", CultureInfo.InvariantCulture)
            );

    /// <summary>A transform attribute; what is not understood is named and leaves everything where it is.</summary>
    public static SKMatrix MatrixOf(string transform, Action<string> warn)
    {
        var all = SKMatrix.Identity;
        foreach (Match m in Function().Matches(transform))
        {
            var n = Numbers(m.Groups[2].Value);
            float At(int i, float other = 0) => i < n.Length ? n[i] : other;
            SKMatrix? one = m.Groups[1].Value switch
            {
                "matrix" => new SKMatrix(At(0, 1), At(2), At(4), At(1), At(3, 1), At(5), 0, 0, 1),
                "translate" => SKMatrix.CreateTranslation(At(0), At(1)),
                "scale" => SKMatrix.CreateScale(At(0, 1), At(1, At(0, 1))),
                "rotate" => SKMatrix.CreateRotationDegrees(At(0), At(1), At(2)),
                "skewX" => SKMatrix.CreateSkew(MathF.Tan(At(0) * MathF.PI / 180), 0),
                "skewY" => SKMatrix.CreateSkew(0, MathF.Tan(At(0) * MathF.PI / 180)),
                _ => null,
            };
            if (one is { } known)
                all = all.PreConcat(known);
            else
                warn($"The transform \"{m.Groups[1].Value}\" is not understood and is left out.");
        }
        return all;
    }

    /// <summary>A length; 0 where there is none.</summary>
    public static float Number(XElement e, string name) => e.Attribute(name) is { } a && Numbers(a.Value) is [var n, ..] ? n : 0;

    /// <summary>All numbers in a text; one that is not finite is 0.</summary>
    public static float[] Numbers(string text) =>
        [
            .. Digits()
                .Matches(text)
                .Select(m => float.TryParse(m.Value, NumberStyles.Float, CultureInfo.InvariantCulture, out var n) && float.IsFinite(n) ? n : 0),
        ];

    [GeneratedRegex(@"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")]
    private static partial Regex Digits();

    [GeneratedRegex(@"(\w+)\s*\(([^)]*)\)")]
    private static partial Regex Function();
}
