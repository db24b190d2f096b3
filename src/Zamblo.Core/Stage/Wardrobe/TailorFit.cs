using System.Numerics;

namespace Zamblo.Core.Stage.Wardrobe;

/// <summary>Where points of the one head and the one body come to lie in a recipe's proportions.</summary>
internal sealed class TailorFit(WardrobeRecipe recipe)
{
    // All of it moves down by so much, so that hats and ears stay in the drawing.
    private float _down;

    /// <summary>Top of what is on the head, in units of the finished drawing.</summary>
    public float Top { get; private set; } = 30;

    /// <summary>A point of the body.</summary>
    public Vector2 Body(Vector2 p) =>
        new(
            Tailor.MiddleLine + (p.X - Tailor.MiddleLine) * recipe.Build,
            _down + (p.Y <= Tailor.NeckLine ? p.Y : Tailor.NeckLine + (p.Y - Tailor.NeckLine) * recipe.Body)
        );

    /// <summary>A point of the head: it grows from the neck.</summary>
    public Vector2 Head(Vector2 p) =>
        new(Tailor.MiddleLine + (p.X - Tailor.MiddleLine) * recipe.Head, _down + Tailor.NeckLine + (p.Y - Tailor.NeckLine) * recipe.Head);

    /// <summary>Makes room above for what is on the head.</summary>
    public void Lift(IReadOnlyDictionary<string, List<StockPath>> layers)
    {
        var top = Tailor.NeckLine;
        foreach (var layer in (string[])["hat", "crown", "hair-top", "hair-back", "back-hair", "skull"])
        foreach (var path in layers.GetValueOrDefault(layer) ?? [])
            top = MathF.Min(top, Head(new Vector2(0, PathPoints.Heights(path.D).Top)).Y);
        _down = MathF.Max(0, 12 - top);
        Top = top + _down;
    }
}
