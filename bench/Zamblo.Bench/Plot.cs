using System.Globalization;
using System.Text;

namespace Zamblo.Bench;

/// <summary>Draws figures for the documentation.</summary>
internal static class Plot
{
    private static readonly string[] Inks = ["#C8452D", "#2F666D", "#B98527", "#4B4A5E"];

    /// <summary>What share of the boundaries is within how many milliseconds, a curve per set, as SVG.</summary>
    public static string Cumulative(IReadOnlyList<(string Name, IReadOnlyList<double> Errors)> curves)
    {
        const int width = 640,
            height = 360,
            left = 56,
            top = 16,
            right = 20,
            bottom = 44,
            most = 60;
        double X(double ms) => left + ms / most * (width - left - right);
        double Y(double share) => height - bottom - share * (height - top - bottom);
        var svg = new StringBuilder();
        void Add(string text) => svg.Append(text).Append('\n');
        Add($"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {width} {height}\" font-family=\"sans-serif\" font-size=\"12\">");
        Add($"<rect width=\"{width}\" height=\"{height}\" fill=\"#FFFDF8\"/>");
        for (var share = 0; share <= 100; share += 20)
        {
            Add($"<line x1=\"{left}\" x2=\"{width - right}\" y1=\"{Y(share / 100.0):0.0}\" y2=\"{Y(share / 100.0):0.0}\" stroke=\"#DDD5C5\"/>");
            Add($"<text x=\"{left - 8}\" y=\"{Y(share / 100.0) + 4:0.0}\" text-anchor=\"end\">{share} %</text>");
        }
        for (var ms = 0; ms <= most; ms += 10)
        {
            Add($"<line x1=\"{X(ms):0.0}\" x2=\"{X(ms):0.0}\" y1=\"{top}\" y2=\"{height - bottom}\" stroke=\"#DDD5C5\"/>");
            Add($"<text x=\"{X(ms):0.0}\" y=\"{height - bottom + 18}\" text-anchor=\"middle\">{ms}</text>");
        }
        Add($"<text x=\"{(left + width - right) / 2}\" y=\"{height - 8}\" text-anchor=\"middle\">boundary error, ms</text>");
        for (var c = 0; c < curves.Count; c++)
        {
            var sorted = curves[c].Errors.Order().ToArray();
            if (sorted.Length == 0)
                continue;
            var points = string.Join(
                ' ',
                Enumerable
                    .Range(0, most + 1)
                    .Select(ms => string.Create(CultureInfo.InvariantCulture, $"{X(ms):0.0},{Y((double)sorted.Count(e => e <= ms) / sorted.Length):0.0}"))
            );
            Add($"<polyline points=\"{points}\" fill=\"none\" stroke=\"{Inks[c % Inks.Length]}\" stroke-width=\"2\"/>");
            Add(
                $"<text x=\"{width - right - 6}\" y=\"{height - bottom - 12 - 18 * (curves.Count - 1 - c)}\" text-anchor=\"end\" "
                    + $"fill=\"{Inks[c % Inks.Length]}\">{curves[c].Name} ({sorted.Length} boundaries)</text>"
            );
        }
        return svg.Append("</svg>\n").ToString();
    }
}
