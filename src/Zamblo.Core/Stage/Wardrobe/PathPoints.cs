using System.Globalization;
using System.Numerics;
using System.Text;
using System.Text.RegularExpressions;

namespace Zamblo.Core.Stage.Wardrobe;

/// <summary>Moves the points of path data that has only absolute M, L, C, Q and Z.</summary>
internal static partial class PathPoints
{
    /// <summary>Whether a path is of the kind that can be moved.</summary>
    public static bool IsPlain(string d) => Plain().IsMatch(d);

    /// <summary>The same path with every point moved.</summary>
    public static string Map(string d, Func<Vector2, Vector2> move)
    {
        var result = new StringBuilder(d.Length + 16);
        float? x = null;
        Each(
            d,
            letter => result.Append(result.Length > 0 ? " " : "").Append(letter),
            number =>
            {
                if (x is not { } first)
                {
                    x = number;
                    return;
                }
                x = null;
                var p = move(new Vector2(first, number));
                result.Append(CultureInfo.InvariantCulture, $" {MathF.Round(p.X, 1)} {MathF.Round(p.Y, 1)}");
            }
        );
        return result.ToString();
    }

    /// <summary>Its least and greatest y, control points and all.</summary>
    public static (float Top, float Bottom) Heights(string d) => Extent(d) is var (low, high) ? (low.Y, high.Y) : default;

    /// <summary>Its least and greatest x, control points and all.</summary>
    public static (float Left, float Right) Widths(string d) => Extent(d) is var (low, high) ? (low.X, high.X) : default;

    private static (Vector2 Low, Vector2 High) Extent(string d)
    {
        var (low, high) = (new Vector2(float.MaxValue), new Vector2(float.MinValue));
        Map(
            d,
            p =>
            {
                (low, high) = (Vector2.Min(low, p), Vector2.Max(high, p));
                return p;
            }
        );
        return (low, high);
    }

    [GeneratedRegex(@"\A(?:[MLCQZ ,]|-?[0-9]+(?:\.[0-9]+)?)*\z", RegexOptions.CultureInvariant | RegexOptions.NonBacktracking)]
    private static partial Regex Plain();

    private static void Each(string d, Action<char> letter, Action<float> number)
    {
        for (var i = 0; i < d.Length; )
        {
            if (char.IsAsciiLetter(d[i]))
                letter(d[i++]);
            else if (d[i] is ' ' or ',')
                i++;
            else
            {
                var from = i;
                for (i++; i < d.Length && (char.IsAsciiDigit(d[i]) || d[i] == '.'); i++) { }
                number(float.Parse(d.AsSpan(from, i - from), NumberStyles.Float, CultureInfo.InvariantCulture));
            }
        }
    }
}
