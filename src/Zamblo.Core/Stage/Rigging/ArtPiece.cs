using System.Numerics;
using Zamblo.Core.Stage.Wardrobe;

namespace Zamblo.Core.Stage.Rigging;

/// <summary>A rectangle of a drawing, in its units, y downwards.</summary>
public readonly record struct ArtBox(float Left, float Top, float Right, float Bottom)
{
    /// <summary>Width.</summary>
    public float Width => Right - Left;

    /// <summary>Height.</summary>
    public float Height => Bottom - Top;

    /// <summary>Its middle.</summary>
    public Vector2 Centre => new((Left + Right) / 2, (Top + Bottom) / 2);

    /// <summary>The least box around both.</summary>
    public ArtBox With(ArtBox other) => new(Math.Min(Left, other.Left), Math.Min(Top, other.Top), Math.Max(Right, other.Right), Math.Max(Bottom, other.Bottom));

    /// <summary>Larger by a share of its size at each side.</summary>
    public ArtBox Grown(float share) => new(Left - share * Width, Top - share * Height, Right + share * Width, Bottom + share * Height);

    /// <summary>Whether a point lies in it.</summary>
    public bool Has(Vector2 p) => p.X >= Left && p.X <= Right && p.Y >= Top && p.Y <= Bottom;

    /// <summary>The least box around several; null for none.</summary>
    public static ArtBox? Of(IEnumerable<ArtBox> boxes)
    {
        ArtBox? all = null;
        foreach (var box in boxes)
            all = all?.With(box) ?? box;
        return all;
    }
}

/// <summary>A group that somebody has given a name.</summary>
/// <param name="Number">Which: names may come twice.</param>
/// <param name="Name">As it was written.</param>
public sealed record ArtGroup(int Number, string Name);

/// <summary>A shape of a drawing that has no rig yet.</summary>
/// <param name="Groups">That it lies in, from the outermost in.</param>
/// <param name="Path">Path data with only absolute M, L, C, Q and Z.</param>
/// <param name="Box">Of the path, without its line.</param>
/// <param name="Fill">"#rrggbb", or null.</param>
/// <param name="Stroke">"#rrggbb", or null.</param>
/// <param name="Width">Of the stroke.</param>
/// <param name="IsSeen">Not hidden in the drawing; mouths and lids are taken all the same.</param>
public sealed record ArtPiece(IReadOnlyList<ArtGroup> Groups, string Path, ArtBox Box, string? Fill, string? Stroke, float Width, bool IsSeen = true)
{
    /// <summary>Corners and handles of the path.</summary>
    internal IReadOnlyList<Vector2> Points
    {
        get
        {
            var points = new List<Vector2>();
            PathPoints.Map(
                Path,
                p =>
                {
                    points.Add(p);
                    return p;
                }
            );
            return points;
        }
    }
}

/// <summary>A drawing with a rig.</summary>
/// <param name="Rig">How it moves.</param>
/// <param name="Groups">Its groups, back to front, all of them beside each other: name, and which shapes; none holds the place of what is drawn anew.</param>
/// <param name="Warnings">What could not be used, a sentence each.</param>
public sealed record RiggedArt(Rig Rig, IReadOnlyList<(string Id, IReadOnlyList<int> Pieces)> Groups, IReadOnlyList<string> Warnings);
