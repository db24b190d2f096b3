using System.Globalization;
using System.Numerics;
using System.Text.RegularExpressions;
using System.Xml.Linq;
using SkiaSharp;

namespace Zamblo.Media;

/// <summary>How a shape is painted.</summary>
internal readonly record struct SvgLook(
    string? Fill,
    string? Stroke,
    float Width,
    float Nib,
    float Opacity,
    float FillOpacity,
    float StrokeOpacity,
    bool IsSeen
)
{
    /// <summary>What SVG says where nothing is said.</summary>
    public static readonly SvgLook Initial = new("#000000", null, 1, 0, 1, 1, 1, true);

    /// <summary>Of the whole shape.</summary>
    public float Shown => Opacity * (Fill == null ? StrokeOpacity : FillOpacity);
}

/// <summary>
/// Properties of a drawing's elements: presentation attributes, rules of style elements (CSS 2.1: elements, classes and ids, each alone or an element with a
/// class), and the style attribute, the later above the former (SVG 1.1, chapter 6).
/// </summary>
internal sealed partial class SvgStyles
{
    private readonly IReadOnlyDictionary<string, XElement> _named;
    private readonly Action<string> _warn;

    // By selector: what it sets.
    private readonly Dictionary<string, Dictionary<string, string>> _rules = [];

    private const int MostRules = 2000,
        LongestSheet = 400_000;

    public SvgStyles(XDocument document, IReadOnlyDictionary<string, XElement> named, Action<string> warn)
    {
        (_named, _warn) = (named, warn);
        foreach (var sheet in document.Descendants().Where(e => e.Name.LocalName == "style"))
            Read(sheet.Value);
    }

    private void Read(string sheet)
    {
        if (sheet.Length > LongestSheet)
        {
            _warn("The drawing's style element is too long and is not read.");
            return;
        }
        // Comments first, then rules without any inside them: what begins with @ is not read.
        foreach (var rule in Comment().Replace(sheet, " ").Split('}'))
        {
            if (rule.Split('{') is not [var selectors, var body] || selectors.TrimStart().StartsWith('@'))
                continue;
            foreach (var selector in selectors.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
            {
                if (!Selector().IsMatch(selector))
                    _warn($"The style rule \"{selector}\" is not understood and is left out.");
                else if (_rules.Count < MostRules)
                {
                    if (!_rules.TryGetValue(selector, out var sets))
                        _rules[selector] = sets = [];
                    foreach (var (key, value) in Declarations(body))
                        sets[key] = value;
                }
            }
        }
    }

    private static IEnumerable<(string Key, string Value)> Declarations(string body)
    {
        foreach (var pair in body.Split(';'))
            if (pair.Split(':', 2, StringSplitOptions.TrimEntries) is [var key, var value])
                yield return (key, value.Replace("!important", "").Trim());
    }

    /// <summary>What an element says of a property itself; null for nothing.</summary>
    public string? Property(XElement e, string name)
    {
        foreach (var (key, value) in Declarations(e.Attribute("style")?.Value ?? ""))
            if (key == name)
                return value;
        if (_rules.Count > 0)
        {
            var tag = e.Name.LocalName;
            if (e.Attribute("id")?.Value is { } id && Set("#" + id) is { } byId)
                return byId;
            var classes = (e.Attribute("class")?.Value ?? "").Split([' ', '\t', '\n'], StringSplitOptions.RemoveEmptyEntries);
            foreach (var c in classes.Reverse())
                if ((Set($"{tag}.{c}") ?? Set("." + c)) is { } byClass)
                    return byClass;
            if ((Set(tag) ?? Set("*")) is { } byTag)
                return byTag;
        }
        return e.Attribute(name)?.Value.Trim();

        string? Set(string selector) => _rules.TryGetValue(selector, out var sets) ? sets.GetValueOrDefault(name) : null;
    }

    /// <summary>How an element is painted in a group of another look.</summary>
    public SvgLook LookOf(XElement e, SvgLook from)
    {
        float N(string name, float other) => Property(e, name) is { } v && SvgGeometry.Numbers(v) is [var n, ..] ? (v.EndsWith('%') ? n / 100 : n) : other;
        return new SvgLook(
            Property(e, "fill") is { } fill ? Color(fill, from.Fill, e) : from.Fill,
            Property(e, "stroke") is { } stroke ? Color(stroke, from.Stroke, e) : from.Stroke,
            Math.Max(0, N("stroke-width", from.Width)),
            Math.Max(0, N("data-nib", from.Nib)),
            from.Opacity * Math.Clamp(N("opacity", 1), 0, 1),
            Math.Clamp(N("fill-opacity", from.FillOpacity), 0, 1),
            Math.Clamp(N("stroke-opacity", from.StrokeOpacity), 0, 1),
            from.IsSeen && Property(e, "display") != "none" && Property(e, "visibility") is not ("hidden" or "collapse")
        );
    }

    /// <summary>Id in "url(#id)"; null for anything else.</summary>
    public static string? UrlOf(string? text) => text != null && Reference().Match(text) is { Success: true } m ? m.Groups[1].Value : null;

    /// <summary>Id that an element refers to; null for none, or for something outside of the drawing.</summary>
    public static string? HrefOf(XElement e) =>
        e.Attributes().FirstOrDefault(a => a.Name.LocalName == "href")?.Value is ['#', .. var id] && id.Length > 0 ? id : null;

    private static string NameOf(XElement e) => e.Attribute("id")?.Value ?? e.Name.LocalName;

    private string? Color(string text, string? inherited, XElement e)
    {
        if (text is "none" or "transparent")
            return null;
        if (text is "inherit" or "context-fill" or "context-stroke")
            return inherited;
        if (text == "currentColor")
            return Property(e, "color") is { } color && color != text ? Color(color, inherited, e) : "#000000";
        if (UrlOf(text) is { } id)
        {
            if (_named.TryGetValue(id, out var paint) && paint.Name.LocalName is "linearGradient" or "radialGradient")
                return Mean(paint, 0);
            _warn($"\"{NameOf(e)}\" is painted with a pattern, which cannot be drawn: give it a colour.");
            return null;
        }
        if (Rgb().Match(text) is { Success: true } rgb)
        {
            int Part(int i) => Math.Clamp(int.Parse(rgb.Groups[i].Value, CultureInfo.InvariantCulture), 0, 255);
            return $"#{Part(1):x2}{Part(2):x2}{Part(3):x2}";
        }
        if (SKColor.TryParse(text.StartsWith('#') ? text : "?", out var hex))
            return $"#{hex.Red:x2}{hex.Green:x2}{hex.Blue:x2}";
        if (System.Drawing.Color.FromName(text) is { IsKnownColor: true, IsSystemColor: false } known)
            return $"#{known.R:x2}{known.G:x2}{known.B:x2}";
        _warn($"The colour \"{text}\" of \"{NameOf(e)}\" is not understood: write it as #rrggbb.");
        return inherited;
    }

    // The middle of a gradient's stops.
    private string? Mean(XElement gradient, int depth)
    {
        var stops = gradient.Elements().Where(s => s.Name.LocalName == "stop").ToArray();
        if (stops.Length == 0)
            return depth < 8 && HrefOf(gradient) is { } other && _named.TryGetValue(other, out var next) ? Mean(next, depth + 1) : null;
        var sum = Vector3.Zero;
        foreach (var stop in stops)
        {
            var hex = (Property(stop, "stop-color") is { } c && UrlOf(c) == null ? Color(c, null, stop) : null) ?? "#000000";
            sum += new Vector3(Convert.ToInt32(hex[1..3], 16), Convert.ToInt32(hex[3..5], 16), Convert.ToInt32(hex[5..7], 16));
        }
        var mean = sum / stops.Length;
        return $"#{(int)MathF.Round(mean.X):x2}{(int)MathF.Round(mean.Y):x2}{(int)MathF.Round(mean.Z):x2}";
    }

    [GeneratedRegex(@"/\*.*?\*/", RegexOptions.Singleline | RegexOptions.NonBacktracking)]
    private static partial Regex Comment();

    [GeneratedRegex(@"\A(?:\*|[A-Za-z]+|#[\w:.-]+|[A-Za-z]*\.[\w:-]+)\z")]
    private static partial Regex Selector();

    [GeneratedRegex(@"^url\(\s*['""]?#([^'"")]+)['""]?\s*\)")]
    private static partial Regex Reference();

    [GeneratedRegex(@"^rgba?\(\s*(\d{1,3})\s*[, ]\s*(\d{1,3})\s*[, ]\s*(\d{1,3})")]
    private static partial Regex Rgb();
}
