using System.Numerics;

namespace Zamblo.Core.Stage;

/// <summary>How a fill meets what lies below it: W3C Compositing and Blending Level 1, section 5.</summary>
public enum DrawBlend
{
    /// <summary>Covers it.</summary>
    Normal,

    /// <summary>Both colours are multiplied: never brighter than either.</summary>
    Multiply,

    /// <summary>Their complements are multiplied: never darker than either. Light that is added.</summary>
    Screen,

    /// <summary>Darkens or lightens, as the fill is dark or light.</summary>
    SoftLight,
}

/// <summary>Colours that run along a line, or from a point outwards; beyond both ends the last colour goes on.</summary>
/// <param name="IsRadial">From a point outwards, as far as the other point is away.</param>
/// <param name="From">Where the first colour is, in the shape's own units.</param>
/// <param name="To">Where the last colour is; of one that goes outwards, any point of its edge.</param>
/// <param name="At">Where each colour is, 0 to 1, rising.</param>
/// <param name="Colors">One for each, one after the other with nothing between: "#rrggbb#rrggbb", all with alpha ("#rrggbbaa") or none.</param>
public sealed record DrawGradient(bool IsRadial, Vector2 From, Vector2 To, IReadOnlyList<float> At, string Colors)
{
    /// <summary>The colours, one by one.</summary>
    /// <param name="colors">As in <see cref="Colors"/>.</param>
    public static string[] Apart(string colors) => [.. colors.Split('#', StringSplitOptions.RemoveEmptyEntries).Select(c => "#" + c)];
}
