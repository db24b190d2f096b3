using System.Globalization;
using System.Numerics;
using System.Text.Json.Serialization;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Light;

/// <summary>Ready light plots.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<LightKind>))]
public enum LightKind
{
    /// <summary>As the set is drawn.</summary>
    AsDrawn,

    /// <summary>Low, warm and rosy.</summary>
    Morning,

    /// <summary>Bright and even.</summary>
    Noon,

    /// <summary>Orange, the background going.</summary>
    Dusk,

    /// <summary>Blue and dark; figures stand out.</summary>
    Night,

    /// <summary>One warm lamp, dark around.</summary>
    Lamp,

    /// <summary>Grey and cold.</summary>
    Storm,

    /// <summary>Figures in white light before a dark house.</summary>
    Spot,
}

/// <summary>What is in the air.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<WeatherKind>))]
public enum WeatherKind
{
    /// <summary>Nothing.</summary>
    Clear,

    /// <summary>Rain.</summary>
    Rain,

    /// <summary>Snow.</summary>
    Snow,

    /// <summary>Leaves that fall.</summary>
    Leaves,

    /// <summary>Sparks that rise.</summary>
    Sparks,

    /// <summary>Dust in the light.</summary>
    Dust,

    /// <summary>White, rises and is gone.</summary>
    Steam,

    /// <summary>Grey, and drifts along.</summary>
    Smoke,

    /// <summary>Flames along the lower edge.</summary>
    Flames,
}

/// <summary>Light and air of a scene.</summary>
public sealed record LightDials
{
    /// <summary>The light.</summary>
    public LightKind Light { get; init; }

    /// <summary>How much of it, 0 as drawn to 1.</summary>
    public double Strength { get; init; } = 1;

    /// <summary>The air.</summary>
    public WeatherKind Weather { get; init; }

    /// <summary>How much of it, 0 to 1.</summary>
    public double Amount { get; init; } = 0.5;

    /// <summary>How much of the shade on the figures is seen, 0 flat to 1.</summary>
    public double Shade { get; init; } = 0.6;

    /// <summary>Places that light comes from.</summary>
    public IReadOnlyList<Lamp> Lamps { get; init; } = [];

    /// <summary>The same with everything within its range.</summary>
    public LightDials Clamped() =>
        this with
        {
            Shade = double.IsFinite(Shade) ? Math.Clamp(Shade, 0, 1) : 0.6,
            Lamps = [.. (Lamps ?? []).Where(l => l != null).Take(Lamp.Most).Select(l => l.Clamped())],
            Light = Enum.IsDefined(Light) ? Light : LightKind.AsDrawn,
            Weather = Enum.IsDefined(Weather) ? Weather : WeatherKind.Clear,
            Strength = double.IsFinite(Strength) ? Math.Clamp(Strength, 0, 1) : 1,
            Amount = double.IsFinite(Amount) ? Math.Clamp(Amount, 0, 1) : 0.5,
        };
}

/// <summary>
/// A light over a scene: colours are multiplied by it, those of the set and those of the figures each by their own, so that figures stand out. Multiplying the
/// colour of a shape is the same as laying a multiplied layer over it (W3C Compositing and Blending Level 1, "multiply"), and costs nothing in a frame.
/// </summary>
/// <param name="Set">Red, green and blue of what lies behind and before, 0 to 1.</param>
/// <param name="Figures">Of the figures.</param>
/// <param name="Shadow">How dark the shadow at their feet is, 0 to 1.</param>
/// <param name="Side">Where the light comes from: -1 from the left to 1 from the right; the shadow falls to the other side.</param>
public readonly record struct LightPlot(Vector3 Set, Vector3 Figures, float Shadow, float Side)
{
    /// <summary>What a figure's colours are multiplied with in the deepest shade of it; white where the light leaves none.</summary>
    public Vector3 Shade { get; init; } = Vector3.One;

    /// <summary>Of dials.</summary>
    public static LightPlot Of(LightDials dials)
    {
        var (drawn, full) = (Plot(LightKind.AsDrawn), Plot(dials.Light));
        var s = (float)dials.Strength;
        return new LightPlot(
            Vector3.Lerp(drawn.Set, full.Set, s),
            Vector3.Lerp(drawn.Figures, full.Figures, s),
            drawn.Shadow + (full.Shadow - drawn.Shadow) * s,
            full.Side * s
        )
        {
            Shade = Vector3.Lerp(Vector3.One, ShadeOf(dials.Light), s * (float)dials.Shade),
        };
    }

    // Warm light leaves cool shade, and the other way round; chosen by eye on all characters.
    private static Vector3 ShadeOf(LightKind kind) =>
        kind switch
        {
            LightKind.Morning => new(0.62f, 0.6f, 0.74f),
            LightKind.Noon => new(0.8f, 0.8f, 0.86f),
            LightKind.Dusk => new(0.5f, 0.42f, 0.58f),
            LightKind.Night => new(0.42f, 0.46f, 0.66f),
            LightKind.Lamp => new(0.36f, 0.3f, 0.36f),
            LightKind.Storm => new(0.72f, 0.74f, 0.8f),
            LightKind.Spot => new(0.36f, 0.36f, 0.46f),
            _ => Vector3.One,
        };

    // Chosen by eye on all sets.
    private static LightPlot Plot(LightKind kind) =>
        kind switch
        {
            LightKind.Morning => new(new(1, 0.9f, 0.82f), new(1, 0.95f, 0.9f), 0.24f, -0.8f),
            LightKind.Noon => new(new(1, 1, 0.97f), Vector3.One, 0.34f, 0),
            LightKind.Dusk => new(new(0.86f, 0.62f, 0.52f), new(1, 0.82f, 0.7f), 0.3f, 0.9f),
            LightKind.Night => new(new(0.36f, 0.42f, 0.62f), new(0.66f, 0.72f, 0.9f), 0.4f, 0.5f),
            LightKind.Lamp => new(new(0.5f, 0.4f, 0.3f), new(1, 0.88f, 0.7f), 0.45f, -0.3f),
            LightKind.Storm => new(new(0.58f, 0.64f, 0.68f), new(0.78f, 0.83f, 0.86f), 0.12f, 0),
            LightKind.Spot => new(new(0.26f, 0.24f, 0.3f), new(1, 1, 0.98f), 0.55f, 0),
            _ => new(Vector3.One, Vector3.One, 0.2f, 0),
        };

    /// <summary>A shape of the set in this light.</summary>
    public DrawShape OnSet(DrawShape shape) => Lit(shape, Set);

    /// <summary>A shape of a figure in this light.</summary>
    public DrawShape OnFigure(DrawShape shape) => Lit(shape, Figures);

    /// <summary>A picture among the figures in this light.</summary>
    public DrawShape OnPicture(DrawShape shape) => Figures == Vector3.One ? shape : OnFigure(shape) with { Tint = Times("#ffffff", Figures) };

    private static DrawShape Lit(DrawShape shape, Vector3 light) =>
        light == Vector3.One
            ? shape
            : shape with
            {
                Fill = Times(shape.Fill, light),
                Stroke = Times(shape.Stroke, light),
                Tint = shape.Mesh == null ? null : Times("#ffffff", light),
            };

    /// <summary>A colour, "#rrggbb" with or without alpha, times a light.</summary>
    internal static string? Times(string? color, Vector3 light)
    {
        if (color == null)
            return null;
        int Part(int at, float by) =>
            (int)MathF.Round(int.Parse(color.AsSpan(at, 2), NumberStyles.HexNumber, CultureInfo.InvariantCulture) * Math.Clamp(by, 0, 1));
        return $"#{Part(1, light.X):x2}{Part(3, light.Y):x2}{Part(5, light.Z):x2}{color[7..]}";
    }

    /// <summary>Over a picture of one's own, which has no colours to multiply: black, as much as the light takes.</summary>
    public DrawShape? OverPicture()
    {
        // ITU-R BT.709-6: shares of the three colours in brightness.
        var bright = Vector3.Dot(Set, new Vector3(0.2126f, 0.7152f, 0.0722f));
        return bright > 0.98f
            ? null
            : new DrawShape(PictureSet.Beyond, "#" + Tint() + ((int)MathF.Round(255 * (1 - bright))).ToString("x2", CultureInfo.InvariantCulture));
    }

    // What little colour the dark has.
    private string Tint()
    {
        int Part(float own) => (int)MathF.Round(60 * Math.Clamp(own, 0, 1));
        var most = Math.Max(Set.X, Math.Max(Set.Y, Set.Z));
        return $"{Part(Set.X / most * 0.5f):x2}{Part(Set.Y / most * 0.5f):x2}{Part(Set.Z / most * 0.5f):x2}";
    }
}
