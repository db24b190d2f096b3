using System.Globalization;
using System.Numerics;
using System.Text.RegularExpressions;

namespace Zamblo.Core.Stage;

/// <summary>A picture or a clip of one's own as a backdrop; written down as its key, so that it stands wherever a set's key does.</summary>
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

    /// <summary>How far it is moved to the right and down, in percent of the stage, -100 to 100; what fills the stage goes on filling it.</summary>
    public int Right { get; init; }

    /// <inheritdoc cref="Right"/>
    public int Down { get; init; }

    /// <summary>How large it is beside what it would be, in percent, 50 to 400; what fills the stage is never smaller.</summary>
    public int Size { get; init; } = 100;

    private const int MostMoved = 100,
        Smallest = 50,
        MostSize = 400;

    /// <summary>Of a clip: how many frames it has, at <see cref="FilmRate"/>; it begins again after the last. 0 for a picture.</summary>
    public int Frames { get; init; }

    /// <summary>At which clips are taken apart.</summary>
    public static FrameRate FilmRate { get; } = new(25);

    private const int MostFrames = 40_000;

    /// <summary>
    /// As a set's key: "picture:HASH:1600x900:rrggbb:fill:0", and ":12" where it is out of focus; of a clip "clip:HASH:1600x900:rrggbb:fill:0:0:250", with its
    /// frames. Where it is moved or made larger there follows ":m10,-5,120": to the right, down, and its size.
    /// </summary>
    public string Key =>
        (Frames == 0 ? PictureKey : "clip" + PictureKey["picture".Length..] + (Blur > 0 ? "" : ":0") + $":{Frames}")
        + (Right == 0 && Down == 0 && Size == 100 ? "" : string.Create(CultureInfo.InvariantCulture, $":m{Right},{Down},{Size}"));

    private string PictureKey =>
        string.Create(CultureInfo.InvariantCulture, $"picture:{Hash}:{Width}x{Height}:{Edge[1..]}:{(IsWhole ? "whole" : "fill")}:{Math.Clamp(Darker, 0, 90)}")
        + (Blur > 0 ? string.Create(CultureInfo.InvariantCulture, $":{Math.Min(Blur, MostBlur)}") : "");

    /// <summary>Reads a key; null where it is none.</summary>
    public static PictureSet? Read(string? key)
    {
        if (key == null || key.Length > 150 || Form().Match(key) is not { Success: true } m)
            return null;
        int Number(int group) => int.Parse(m.Groups[group].ValueSpan, CultureInfo.InvariantCulture);
        var (width, height, darker) = (Number(2), Number(3), Number(6));
        var blur = m.Groups[7].Success ? Number(7) : 0;
        var frames = m.Groups[8].Success ? Number(8) : 0;
        int Moved(int group, int usual) => m.Groups[group].Success ? int.Parse(m.Groups[group].ValueSpan, CultureInfo.InvariantCulture) : usual;
        var (right, down, size) = (Moved(9, 0), Moved(10, 0), Moved(11, 100));
        if (Math.Abs(right) > MostMoved || Math.Abs(down) > MostMoved || size is < Smallest or > MostSize)
            return null;
        if (key.StartsWith("clip", StringComparison.Ordinal) ? frames is < 1 or > MostFrames : frames != 0)
            return null;
        return width is < 1 or > Largest || height is < 1 or > Largest || darker > 90 || blur > MostBlur
            ? null
            : new PictureSet(m.Groups[1].Value, width, height, "#" + m.Groups[4].Value)
            {
                IsWhole = m.Groups[5].Value == "whole",
                Darker = darker,
                Blur = blur,
                Frames = frames,
                Right = right,
                Down = down,
                Size = size,
            };
    }

    [GeneratedRegex(
        "^(?:picture|clip):([0-9a-f]{64}):([0-9]{1,5})x([0-9]{1,5}):([0-9a-fA-F]{6}):(fill|whole):([0-9]{1,2})(?::([0-9]{1,2}))?(?::([0-9]{1,5}))?"
            + "(?::m(-?[0-9]{1,3}),(-?[0-9]{1,3}),([0-9]{2,3}))?\\z",
        RegexOptions.CultureInvariant
    )]
    private static partial Regex Form();

    /// <summary>Where its upper left corner lies on the stage, and stage units for a pixel.</summary>
    public (Vector2 Corner, float Scale) Placement
    {
        get
        {
            float across = StageScene.Width / Width,
                down = StageScene.Height / Height,
                scale = (IsWhole ? Math.Min(across, down) * Size : Math.Max(across, down) * Math.Max(100, Size)) / 100;
            var room = new Vector2(StageScene.Width - Width * scale, StageScene.Height - Height * scale);
            var corner = room / 2 + new Vector2(StageScene.Width * Right, StageScene.Height * Down) / 100;
            return (IsWhole ? corner : Vector2.Clamp(corner, Vector2.Min(room, Vector2.Zero), Vector2.Zero), scale);
        }
    }

    /// <summary>What is drawn.</summary>
    public Backdrop ToBackdrop()
    {
        var (corner, scale) = Placement;
        float w = Width * scale,
            h = Height * scale;
        var dark = Darker > 0 ? new DrawShape(Beyond, "#000000" + (255 * Darker / 100).ToString("X2", CultureInfo.InvariantCulture)) : null;
        if (Frames > 0)
            return new Backdrop([new DrawShape(Beyond, Edge)], []) { Film = new BackdropFilm(this, corner, scale, dark) };
        var shapes = new List<DrawShape>
        {
            new(Beyond, Edge),
            new(Box(corner.X, corner.Y, w, h), null) { Picture = Hash, Blur = Blur },
        };
        if (dark != null)
            shapes.Add(dark);
        return new Backdrop(shapes, []);
    }

    /// <summary>Far more than any picture shows.</summary>
    internal const string Beyond = "M-1200 -1800L2480 -1800L2480 2600L-1200 2600Z";

    private static string Box(float x, float y, float w, float h) =>
        new PathText().Move(x, y).Line(x + w, y).Line(x + w, y + h).Line(x, y + h).Close().ToString();
}
