using System.Globalization;
using System.Numerics;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Light;

/// <summary>A change of the light within a scene.</summary>
/// <param name="To">The light that comes.</param>
/// <param name="Start">When it begins to come, in seconds of the scene.</param>
/// <param name="End">When it is there.</param>
public readonly record struct LightStep(LightPlot To, double Start, double End);

/// <summary>
/// The light of a scene over time. Shapes have the colours of the brightest of all its lights; what is darker at a moment is multiplied over the picture: over
/// the set by itself, then over everything. A scene whose light stays has none of these layers.
/// </summary>
public sealed class LightCourse
{
    // Over more than any picture, in its own units.
    private const string All = "M-4000 -4000H9000V9000H-4000Z";

    private readonly LightStep[] _steps;
    private readonly LightPlot[] _plots;
    private readonly Vector3[][] _shades = [];

    /// <summary>A light that stays.</summary>
    /// <param name="plot">Which.</param>
    public LightCourse(LightPlot plot)
        : this(plot, []) { }

    /// <summary>A light that changes.</summary>
    /// <param name="first">At the beginning of the scene.</param>
    /// <param name="steps">What it becomes, and when.</param>
    public LightCourse(LightPlot first, IEnumerable<LightStep> steps)
    {
        _steps = [.. steps.OrderBy(s => s.Start)];
        _plots = [first, .. _steps.Select(s => s.To)];
        Baked = first with
        {
            Set = _plots.Aggregate(Vector3.Zero, (most, p) => Vector3.Max(most, p.Set)),
            Figures = _plots.Aggregate(Vector3.Zero, (most, p) => Vector3.Max(most, p.Figures)),
        };
        if (_steps.Length == 0)
            return;
        _shades = [.. _plots.Select(KeyShade.Of)];
        var over = _plots.Select(p => p.Figures / Baked.Figures).ToArray();
        OverAll = [.. over.Select(Layer)];
        // What the set lacks beside the figures.
        OverSet = [.. _plots.Select((p, i) => Layer(Vector3.Min(Vector3.One, p.Set / Baked.Set / over[i])))];
    }

    /// <summary>In whose colours shapes are drawn.</summary>
    public LightPlot Baked { get; }

    /// <summary>Multiplied over the set: a layer for each light; none where the light stays.</summary>
    public IReadOnlyList<DrawShape> OverSet { get; } = [];

    /// <summary>Multiplied over everything.</summary>
    public IReadOnlyList<DrawShape> OverAll { get; } = [];

    /// <summary>Names it, with its times.</summary>
    public string Key =>
        _steps.Length == 0
            ? $"{Baked}"
            : string.Join(' ', _plots.Select(p => p.ToString()).Concat(_steps.Select(s => string.Create(CultureInfo.InvariantCulture, $"{s.Start} {s.End}"))));

    /// <summary>Names what of it stands in the shapes.</summary>
    public string ShapesKey => string.Join(' ', _plots);

    private static DrawShape Layer(Vector3 color) => new(All, LightPlot.Times("#ffffff", color)) { Blend = DrawBlend.Multiply };

    // How much of a light there is at a moment: it has come, and none after it has.
    private float ShareOf(int plot, double t)
    {
        var share = plot == 0 ? 1f : Come(_steps[plot - 1], t);
        for (var later = plot; later < _steps.Length; later++)
            share *= 1 - Come(_steps[later], t);
        return share;
    }

    private static float Come(LightStep step, double t) => (float)Ease.Smooth((t - step.Start) / Math.Max(1e-3, step.End - step.Start));

    /// <summary>How dark shadows are at a moment, 0 to 1, and to which side they fall.</summary>
    /// <param name="t">In seconds of the scene.</param>
    public (float Shadow, float Side) ShadowAt(double t)
    {
        if (_steps.Length == 0)
            return (Baked.Shadow, Baked.Side);
        var sum = Vector2.Zero;
        for (var i = 0; i < _plots.Length; i++)
            sum += ShareOf(i, t) * new Vector2(_plots[i].Shadow, _plots[i].Side);
        return (sum.X, sum.Y);
    }

    /// <summary>Whether figures are ever shaded.</summary>
    public bool IsShaded => _plots.Any(KeyShade.IsSeen);

    /// <summary>Whether that changes within the scene.</summary>
    public bool ShadeChanges => _steps.Length > 0 && IsShaded;

    /// <summary>The shade on figures at a moment, as <see cref="KeyShade.Of"/> gives it.</summary>
    /// <param name="t">In seconds of the scene.</param>
    public Vector3[] ShadeAt(double t)
    {
        if (_steps.Length == 0)
            return KeyShade.Of(Baked);
        var sum = new Vector3[_shades[0].Length];
        for (var i = 0; i < _plots.Length; i++)
        {
            var share = ShareOf(i, t);
            for (var k = 0; k < sum.Length && share > 0; k++)
                sum[k] += share * _shades[i][k];
        }
        return sum;
    }

    /// <summary>How bright the layers over everything leave the picture at a moment, 0 to 1.</summary>
    /// <param name="t">In seconds of the scene.</param>
    public float BrightAt(double t)
    {
        var bright = 1f;
        for (var i = 0; i < OverAll.Count; i++)
        {
            var own = _plots[i].Figures / Baked.Figures;
            bright *= 1 - ShareOf(i, t) * (1 - (own.X + own.Y + own.Z) / 3);
        }
        return bright;
    }

    /// <summary>Draws the layers of a moment: each as much as there is of its light.</summary>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="set">One for each of <see cref="OverSet"/>.</param>
    /// <param name="all">One for each of <see cref="OverAll"/>.</param>
    public void Draw(double t, Span<DrawItem> set, Span<DrawItem> all)
    {
        for (var i = 0; i < OverAll.Count; i++)
        {
            var share = ShareOf(i, t);
            // White over something is nothing.
            DrawItem Of(DrawShape layer) => new(Matrix3x2.Identity, layer.Fill == "#ffffff" ? 0 : share);
            (set[i], all[i]) = (Of(OverSet[i]), Of(OverAll[i]));
        }
    }
}
