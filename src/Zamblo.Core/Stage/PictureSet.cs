using System.Globalization;
using System.Text.RegularExpressions;

namespace Zamblo.Core.Stage;

/// <summary>A picture of one's own as a backdrop; written down as its key, so that it stands wherever a set's key does.</summary>
/// <param name="Hash">Of the picture: SHA-256 in lower-case hexadecimal.</param>
/// <param name="Width">In pixels.</param>
/// <param name="Height">In pixels.</param>
/// <param name="Edge">What lies beyond it, "#rrggbb".</param>
public sealed partial record PictureSet(string Hash, int Width, int Height, string Edge)
{
    private const int Largest = 20_000;

    /// <summary>All of it is seen, with its edge around; else it fills the stage and what is too much is cut.</summary>
    public bool IsWhole { get; init; }

    /// <summary>How much darker it is, in percent, 0 to 90: figures stand out.</summary>
    public int Darker { get; init; }

    /// <summary>How far it is out of focus, 0 to 30: the standard deviation of the blur in stage units.</summary>
    public int Blur { get; init; }

    private const int MostBlur = 30;

    /// <summary>As a set's key: "picture:HASH:1600x900:rrggbb:fill:0", and ":12" where it is out of focus.</summary>
    public string Key =>
        string.Create(CultureInfo.InvariantCulture, $"picture:{Hash}:{Width}x{Height}:{Edge[1..]}:{(IsWhole ? "whole" : "fill")}:{Math.Clamp(Darker, 0, 90)}")
        + (Blur > 0 ? string.Create(CultureInfo.InvariantCulture, $":{Math.Min(Blur, MostBlur)}") : "");

    /// <summary>Reads a key; null where it is none.</summary>
    public static PictureSet? Read(string? key)
    {
        if (key == null || key.Length > 140 || Form().Match(key) is not { Success: true } m)
            return null;
        int Number(int group) => int.Parse(m.Groups[group].ValueSpan, CultureInfo.InvariantCulture);
        var (width, height, darker) = (Number(2), Number(3), Number(6));
        var blur = m.Groups[7].Success ? Number(7) : 0;
        return width is < 1 or > Largest || height is < 1 or > Largest || darker > 90 || blur > MostBlur
            ? null
            : new PictureSet(m.Groups[1].Value, width, height, "#" + m.Groups[4].Value)
            {
                IsWhole = m.Groups[5].Value == "whole",
                Darker = darker,
                Blur = blur,
            };
    }

    [GeneratedRegex(
        "^picture:([0-9a-f]{64}):([0-9]{1,5})x([0-9]{1,5}):([0-9a-fA-F]{6}):(fill|whole):([0-9]{1,2})(?::([0-9]{1,2}))?\\z",
        RegexOptions.CultureInvariant
    )]
    private static partial Regex Form();

    /// <summary>What is drawn.</summary>
    public Backdrop ToBackdrop()
    {
        float across = StageScene.Width / Width,
            down = StageScene.Height / Height,
            scale = IsWhole ? Math.Min(across, down) : Math.Max(across, down),
            w = Width * scale,
            h = Height * scale;
        var shapes = new List<DrawShape>
        {
            new(Beyond, Edge),
            new(Box((StageScene.Width - w) / 2, (StageScene.Height - h) / 2, w, h), null) { Picture = Hash, Blur = Blur },
        };
        if (Darker > 0)
            shapes.Add(new DrawShape(Beyond, "#000000" + (255 * Darker / 100).ToString("X2", CultureInfo.InvariantCulture)));
        return new Backdrop(shapes, []);
    }

    /// <summary>Far more than any picture shows.</summary>
    internal const string Beyond = "M-1200 -1800L2480 -1800L2480 2600L-1200 2600Z";

    private static string Box(float x, float y, float w, float h) =>
        new PathText().Move(x, y).Line(x + w, y).Line(x + w, y + h).Line(x, y + h).Close().ToString();
}
