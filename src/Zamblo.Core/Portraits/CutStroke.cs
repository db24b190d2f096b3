namespace Zamblo.Core.Portraits;

/// <summary>A stroke of the brush over a cut-out: what it touches belongs to the figure, or does not.</summary>
/// <param name="IsKept">It belongs to the figure.</param>
/// <param name="Size">Width of the brush, in pixels of the picture.</param>
/// <param name="Feather">How soft its edge is, 0 hard to 1: share of its width.</param>
/// <param name="Points">Where it goes: x and y in pixels of the picture, one after the other.</param>
public sealed record CutStroke(bool IsKept, float Size, float Feather, IReadOnlyList<float> Points)
{
    /// <summary>Strokes of a picture at most, and numbers in one.</summary>
    public const int Most = 300,
        MostNumbers = 2000;

    /// <summary>What is wrong with it; null where nothing is.</summary>
    public string? Error() =>
        Points == null || Points.Count < 2 || Points.Count % 2 != 0 || Points.Count > MostNumbers || !Points.All(v => MathF.Abs(v) < 40_000)
            ? "A stroke of the brush is a list of places, x and y."
        : Size is >= 1 and <= 4000 && Feather is >= 0 and <= 1 ? null
        : "A brush is 1 to 4000 pixels wide, its softness 0 to 1.";
}
