using System.Globalization;
using System.Numerics;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Light;

/// <summary>A lamp of a scene: a place that light comes from, seen as a glow on whatever is around it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="X">Where it is, in stage units from the left.</param>
/// <param name="Y">From the top.</param>
public sealed record Lamp(Guid Id, float X, float Y)
{
    /// <summary>So many there are in a scene at most.</summary>
    public const int Most = 8;

    /// <summary>How far its light reaches at least and at most, in stage units.</summary>
    public const float Nearest = 40,
        Farthest = 1600;

    /// <summary>How far its light reaches, in stage units.</summary>
    public float Reach { get; init; } = 320;

    /// <summary>Its colour, "#rrggbb".</summary>
    public string Color { get; init; } = "#ffc46b";

    /// <summary>How bright it is, 0 to 1.</summary>
    public float Strength { get; init; } = 0.7f;

    /// <summary>How unsteady it burns, 0 a bulb to 1 a torch in the wind.</summary>
    public float Flicker { get; init; }

    /// <summary>The same with everything within its range.</summary>
    public Lamp Clamped() =>
        this with
        {
            X = Within(X, -400, StageScene.Width + 400, StageScene.Width / 2),
            Y = Within(Y, -200, StageScene.Height + 200, StageScene.Height / 3),
            Reach = Within(Reach, Nearest, Farthest, 320),
            Color = IsColor(Color) ? Color : "#ffc46b",
            Strength = Within(Strength, 0, 1, 0.7f),
            Flicker = Within(Flicker, 0, 1, 0),
        };

    /// <summary>Whether a text is a colour that a lamp can have: "#rrggbb".</summary>
    public static bool IsColor(string? text) => text is { Length: 7 } && ArtText.IsColor(text);

    private static float Within(float value, float least, float most, float usual) => float.IsFinite(value) ? Math.Clamp(value, least, most) : usual;

    /// <summary>How bright it burns at a moment, beside its usual strength: 1 for a steady one. The same moment is always as bright.</summary>
    /// <param name="t">In seconds of the scene, 0 or more.</param>
    public float BurnsAt(double t)
    {
        if (Flicker <= 0)
            return 1;
        var random = new SeededRandom(BitConverter.ToUInt64(Id.ToByteArray(), 0));
        // Slowly by itself, and quickly as the air moves; now and then it nearly goes out.
        float slow = Noise(random.Fork(1), 2.1 * t),
            quick = Noise(random.Fork(2), 8.7 * t);
        return 1 - Flicker * (0.55f * slow + 0.35f * quick * quick);
    }

    // Random values at whole numbers, 0 to 1, and softly from each to the next.
    private static float Noise(SeededRandom random, double at)
    {
        var whole = (int)Math.Floor(at);
        double from = random.Uniform(whole),
            to = random.Uniform(whole + 1);
        return (float)(from + (to - from) * Ease.Smooth(at - whole));
    }
}

/// <summary>The lamps of a scene over time.</summary>
/// <param name="Lamps">All of them.</param>
/// <param name="Steps">How bright all of them come to be beside themselves, 0 to 1, and when.</param>
public sealed record LampCourse(IReadOnlyList<Lamp> Lamps, IReadOnlyList<AmountStep> Steps)
{
    // In front of the figures a glow is thinner than behind them: they stand in it.
    private const float Before = 0.4f;

    // The path of a glow has this radius, and is made as large as the light reaches.
    private const float Unit = 100;

    private static readonly string Circle = new PathText().Ellipse(0, 0, Unit, Unit).ToString();

    // Falls about as the square of the distance does, and ends softly.
    private static readonly (float At, float Much)[] Falling = [(0, 1), (0.08f, 0.9f), (0.2f, 0.6f), (0.38f, 0.31f), (0.6f, 0.12f), (0.8f, 0.035f), (1, 0)];

    /// <summary>A glow for each.</summary>
    public IEnumerable<DrawShape> Shapes => Lamps.Select(l => Glow(l.Color));

    private static DrawShape Glow(string color)
    {
        string Alpha(float much) => ((int)MathF.Round(255 * much)).ToString("x2", CultureInfo.InvariantCulture);
        var colors = string.Concat(Falling.Select(f => color + Alpha(f.Much)));
        return new DrawShape(Circle, null)
        {
            Blend = DrawBlend.Screen,
            Gradient = new DrawGradient(true, Vector2.Zero, new Vector2(Unit, 0), [.. Falling.Select(f => f.At)], colors),
        };
    }

    /// <summary>Names what stands in the shapes.</summary>
    public string ShapesKey => string.Join(' ', Lamps.Select(l => l.Color));

    /// <summary>Names all of it.</summary>
    public string Key => $"{string.Join(' ', Lamps)} {string.Join(' ', Steps)}";

    /// <summary>Draws the glows of a moment.</summary>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="lit">How bright what lies over them leaves them, 0 to 1; 1 where nothing does.</param>
    /// <param name="isBefore">Those in front of the figures.</param>
    /// <param name="items">One for each.</param>
    public void Draw(double t, float lit, bool isBefore, Span<DrawItem> items)
    {
        var share = AmountStep.At(1, Steps, t);
        for (var i = 0; i < Lamps.Count; i++)
        {
            var lamp = Lamps[i];
            var much = (float)share * lamp.Strength * lamp.BurnsAt(t) * (isBefore ? Before : 1 / Math.Max(0.25f, lit));
            var place = Matrix3x2.CreateScale(lamp.Reach / Unit) * Matrix3x2.CreateTranslation(lamp.X, lamp.Y);
            items[i] = new DrawItem(place, Math.Clamp(much, 0, 1));
        }
    }
}
