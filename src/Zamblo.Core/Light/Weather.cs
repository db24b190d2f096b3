using System.Numerics;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Light;

/// <summary>
/// Rain, snow, leaves, sparks, dust, steam, smoke, flames: each drop is a function of time and its number, so that any frame can be drawn alone. In picture
/// units, 720 high; a far layer behind the figures and a near one before them.
/// </summary>
public sealed class Weather
{
    private const float Height = 720,
        Beyond = 100;

    // So many drops at full amount in a picture as wide as 16:9, near and far together.
    private readonly record struct Kind(int Count, string Near, string Far, float Fall, float Sway, float Size)
    {
        // Widths of strokes, before the figures and behind them; 0 where it is filled.
        public float NearStroke { get; init; }
        public float FarStroke { get; init; }

        // Leans to the left as it falls, in place of swaying.
        public bool Leans { get; init; }
    }

    private readonly WeatherKind _kind;
    private readonly Kind _how;
    private readonly float _width;
    private readonly int _near,
        _far;

    private readonly double _amount,
        _first;
    private readonly AmountStep[] _steps;

    private Weather(WeatherKind kind, double amount, float width, AmountStep[] steps)
    {
        _kind = kind;
        // There are as many as there ever come to be.
        (_first, _steps) = (amount, steps);
        _amount = amount = steps.Aggregate(amount, (most, s) => Math.Max(most, s.Amount));
        _how = kind switch
        {
            WeatherKind.Rain => new Kind(170, "#d8e6f2a0", "#b9cddd70", 980, 26, 1)
            {
                NearStroke = 2.4f,
                FarStroke = 1.4f,
                Leans = true,
            },
            WeatherKind.Snow => new Kind(130, "#fffffff0", "#ffffffa0", 78, 34, 4.2f),
            WeatherKind.Leaves => new Kind(34, "#c8642def", "#a8763cb0", 96, 90, 9),
            WeatherKind.Sparks => new Kind(60, "#ffd27aef", "#ff9a4aa0", -120, 40, 2.6f),
            WeatherKind.Steam => new Kind(46, "#ffffff70", "#ffffff48", -62, 14, 1) { NearStroke = 7, FarStroke = 4.5f },
            WeatherKind.Flames => new Kind(66, "#ffd24ad8", "#f5762ad0", 0, 16, 1),
            WeatherKind.Smoke => new Kind(20, "#4a485030", "#4a48504c", -30, 90, 60),
            _ => new Kind(70, "#fff3d680", "#fff3d650", 9, 26, 2),
        };
        _width = width;
        var all = Math.Max(2, (int)(_how.Count * amount * width / 1280));
        (_near, _far) = (Math.Max(1, all / 3), Math.Max(1, all - all / 3));
    }

    /// <summary>Of dials; null for clear air.</summary>
    /// <param name="dials">What and how much.</param>
    /// <param name="width">Of the picture, in its units.</param>
    /// <param name="steps">How much comes to be in the air, and when.</param>
    public static Weather? Of(LightDials dials, float width, IEnumerable<AmountStep>? steps = null)
    {
        AmountStep[] all = [.. (steps ?? []).OrderBy(s => s.Start)];
        return dials.Weather == WeatherKind.Clear || dials.Amount <= 0 && all.All(s => s.Amount <= 0)
            ? null
            : new Weather(dials.Weather, dials.Amount, width, all);
    }

    /// <summary>How much of what there ever is of it is there at a moment, 0 to 1.</summary>
    /// <param name="t">In seconds of the scene.</param>
    public double ShareAt(double t) => AmountStep.At(_first, _steps, t) / _amount;

    /// <summary>Names it.</summary>
    public string Key =>
        string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{_kind} {_near} {_far} {_width}")
        + (_steps.Length == 0 ? "" : string.Create(System.Globalization.CultureInfo.InvariantCulture, $" {_first}") + string.Concat(_steps.Select(KeyOf)));

    private static string KeyOf(AmountStep step) => string.Create(System.Globalization.CultureInfo.InvariantCulture, $" {step.Amount} {step.Start} {step.End}");

    /// <summary>Behind the figures: one shape, whose path comes with each frame.</summary>
    public DrawShape Far => ShapeOf(_how.Far, _how.FarStroke);

    /// <summary>Before them.</summary>
    public DrawShape Near => ShapeOf(_how.Near, _how.NearStroke);

    private DrawShape ShapeOf(string color, float width) => width > 0 ? new DrawShape(null, null, color, width) : new DrawShape(null, color);

    /// <summary>What is in the air at a moment.</summary>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="isNear">Before the figures.</param>
    public DrawItem At(double t, bool isNear)
    {
        var path = new PathText();
        var count = isNear ? _near : _far;
        var near = isNear ? 1 : 0.62f;
        // The last ones become small before they are gone, and come as such.
        var share = _steps.Length == 0 ? 1 : ShareAt(t);
        var seen = _kind == WeatherKind.Flames && share > 0 ? count : (float)(share * count);
        for (var i = 0; i < Math.Min(count, seen); i++)
        {
            if (_kind == WeatherKind.Flames)
            {
                Flame(path, i, count, t, isNear, (float)share);
                continue;
            }
            var size = near * Math.Clamp(seen - i, 0, 1);
            var random = new SeededRandom((ulong)(i + (isNear ? 100_003 : 7)));
            float own = 0.75f + 0.5f * (float)random.Uniform(0),
                span = Height + 2 * Beyond,
                start = (float)random.Uniform(1) * span,
                way = start + (float)(t * _how.Fall * near * own);
            // Round and round, elsewhere each time.
            var turn = MathF.Floor(way / span);
            var y = way - turn * span - Beyond;
            var x = (float)random.Fork((int)turn).Uniform(2) * (_width + 2 * Beyond) - Beyond;
            var phase = 6.2832f * (float)random.Uniform(3);
            x += _how.Leans ? -_how.Sway * (y / Height) : _how.Sway * MathF.Sin((float)t * 0.9f * own + phase);
            Add(path, x, y, size * own, (float)t * own + phase);
        }
        return new DrawItem(Matrix3x2.Identity, 1, path.ToString());
    }

    // Tongues along the lower edge: each leans, rises and falls by itself; those behind are higher. Less of it is lower: fires die down.
    private void Flame(PathText path, int i, int count, double t, bool isNear, float share)
    {
        var random = new SeededRandom((ulong)(i + (isNear ? 90_007 : 11)));
        float at = (i + 0.5f) / count * (_width + Beyond) - Beyond / 2 + 14 * ((float)random.Uniform(0) - 0.5f),
            phase = 6.2832f * (float)random.Uniform(1),
            pace = 5.5f + 3 * (float)random.Uniform(2),
            wide = (isNear ? 1.5f : 1.9f) * (_width + Beyond) / count * (0.8f + 0.5f * (float)random.Uniform(3));
        var lick = 0.62f + 0.26f * MathF.Sin((float)t * pace + phase) + 0.12f * MathF.Sin((float)t * pace * 2.3f + 1.7f * phase);
        var high = (isNear ? 84 : 150) * (0.7f + 0.6f * (float)random.Uniform(4)) * lick * share;
        float lean = _how.Sway * MathF.Sin((float)t * pace * 0.5f + phase),
            foot = Height + 8;
        void To(float x, float y, float nextX, float nextY, float leans, float nextLeans) =>
            path.Quad(at + x * wide + leans * lean, foot - y * high, at + nextX * wide + nextLeans * lean, foot - nextY * high);
        path.Move(at - wide / 2, foot);
        To(-0.5f, 0.3f, -0.2f, 0.5f, 0, 0.3f);
        To(0.02f, 0.66f, -0.06f, 1, 0.6f, 1);
        To(0.2f, 0.72f, 0.14f, 0.48f, 0.6f, 0.3f);
        To(0.3f, 0.55f, 0.3f, 0.66f, 0.4f, 0.7f);
        To(0.46f, 0.3f, 0.5f, 0, 0, 0);
        path.Close();
    }

    private void Add(PathText path, float x, float y, float size, float phase)
    {
        var r = _how.Size * size;
        switch (_kind)
        {
            case WeatherKind.Rain:
                path.Move(x, y).Line(x - 2.2f * size, y + 30 * size);
                break;
            case WeatherKind.Leaves:
                // A leaf that turns: two curves between its ends.
                float dx = r * MathF.Cos(phase * 1.3f),
                    dy = r * MathF.Sin(phase * 1.3f),
                    open = 0.55f * MathF.Sin(phase * 2.1f);
                path.Move(x - dx, y - dy).Quad(x - dy * open, y + dx * open, x + dx, y + dy).Quad(x + dy * 0.35f, y - dx * 0.35f, x - dx, y - dy).Close();
                break;
            case WeatherKind.Steam:
                // A curl that winds as it rises.
                var bend = 15 * size * MathF.Sin(phase * 1.6f);
                float step = 23 * size;
                path.Move(x, y).Quad(x + bend, y - step, x, y - 2 * step).Quad(x - bend, y - 3 * step, x + 0.3f * bend, y - 4 * step);
                break;
            case WeatherKind.Smoke:
                // A cloud of a few puffs; it grows as it rises.
                var puff = r * (0.45f + 0.75f * Math.Clamp(1 - y / Height, 0, 1));
                for (var k = 0; k < 5; k++)
                {
                    var at = phase + k * MathF.Tau / 5;
                    path.Ellipse(
                        x + 1.05f * puff * MathF.Cos(at),
                        y + 0.42f * puff * MathF.Sin(at),
                        puff * (0.62f + 0.14f * (k % 3)),
                        puff * (0.5f + 0.1f * (k % 2))
                    );
                }
                break;
            case WeatherKind.Sparks:
                var glow = r * (0.55f + 0.45f * MathF.Sin(phase * 5));
                path.Ellipse(x, y, glow, glow);
                break;
            default:
                path.Ellipse(x, y, r, r);
                break;
        }
    }
}
