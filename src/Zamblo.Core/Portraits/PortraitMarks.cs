using System.Numerics;

namespace Zamblo.Core.Portraits;

/// <summary>A point of a picture, in its pixels from the top left.</summary>
/// <param name="X">To the right.</param>
/// <param name="Y">Down.</param>
public readonly record struct Mark(float X, float Y)
{
    /// <summary>As a vector.</summary>
    public static implicit operator Vector2(Mark m) => new(m.X, m.Y);

    /// <summary>From a vector.</summary>
    public static implicit operator Mark(Vector2 v) => new(v.X, v.Y);
}

/// <summary>An eye in a picture.</summary>
public sealed record EyeMarks
{
    /// <summary>Edge of the upper lid from the picture's left to its right, corners included.</summary>
    public required Mark[] Upper { get; init; }

    /// <summary>Edge of the lower lid from the picture's left to its right, corners included.</summary>
    public required Mark[] Lower { get; init; }

    /// <summary>Middle of the iris.</summary>
    public required Mark Iris { get; init; }

    /// <summary>Radius of the iris, in pixels; 0 for an eye without.</summary>
    public required float Radius { get; init; }

    /// <summary>From corner to corner, in pixels.</summary>
    internal float Width => Vector2.Distance(Upper[0], Upper[^1]);

    internal EyeMarks Moved(Func<Vector2, Vector2> by) =>
        this with
        {
            Upper = PortraitMarks.All(Upper, by),
            Lower = PortraitMarks.All(Lower, by),
            Iris = by(Iris),
            Radius = Radius * Vector2.Distance(by(Upper[0]), by(Upper[^1])) / MathF.Max(1e-3f, Width),
        };
}

/// <summary>A mouth in a picture; every line goes from the picture's left corner to its right one, corners included.</summary>
public sealed record LipMarks
{
    /// <summary>Upper edge of the upper lip.</summary>
    public required Mark[] OuterUpper { get; init; }

    /// <summary>Lower edge of the lower lip.</summary>
    public required Mark[] OuterLower { get; init; }

    /// <summary>Lower edge of the upper lip.</summary>
    public required Mark[] InnerUpper { get; init; }

    /// <summary>Upper edge of the lower lip.</summary>
    public required Mark[] InnerLower { get; init; }

    internal float Width => Vector2.Distance(OuterUpper[0], OuterUpper[^1]);
}

/// <summary>What is known about a face in a picture. Left and right are the picture's.</summary>
public sealed record PortraitMarks
{
    /// <summary>Edge of the face, from the middle of the forehead clockwise; not closed.</summary>
    public required Mark[] Outline { get; init; }

    /// <summary>The mouth.</summary>
    public required LipMarks Mouth { get; init; }

    /// <summary>Eye at the picture's left; null for a face without.</summary>
    public EyeMarks? EyeLeft { get; init; }

    /// <summary>Eye at the picture's right; null for a face without.</summary>
    public EyeMarks? EyeRight { get; init; }

    /// <summary>Brow at the picture's left, from its left to its right; empty for none.</summary>
    public Mark[] BrowLeft { get; init; } = [];

    /// <summary>Brow at the picture's right, from its left to its right; empty for none.</summary>
    public Mark[] BrowRight { get; init; } = [];

    /// <summary>Bridge, tip, left wing, right wing and lower end of the nose; empty for none.</summary>
    public Mark[] Nose { get; init; } = [];

    // More than any guess has; a hand-made file may have as many.
    private const int MostMarks = 100;

    /// <summary>What is wrong with it for a picture of that size; null where nothing is.</summary>
    /// <param name="width">In pixels.</param>
    /// <param name="height">In pixels.</param>
    public string? ErrorFor(int width, int height)
    {
        // What was read from a file may lack anything.
        if (Mouth == null || BrowLeft == null || BrowRight == null || Nose == null)
            return "The face has no mouth.";
        Mark[]?[] given = [Outline, Mouth.OuterUpper, Mouth.OuterLower, Mouth.InnerUpper, Mouth.InnerLower, .. EyeLines(EyeLeft), .. EyeLines(EyeRight)];
        if (given.Contains(null))
            return "A line of the face is missing.";
        Mark[][] lines = [Outline, Mouth.OuterUpper, Mouth.OuterLower, Mouth.InnerUpper, Mouth.InnerLower, .. EyeLines(EyeLeft), .. EyeLines(EyeRight)];
        if (lines.Append(BrowLeft).Append(BrowRight).Append(Nose).Any(l => l.Length > MostMarks))
            return $"A line of the face has more than {MostMarks} marks.";
        if (Outline.Length < 8 || lines.Any(l => l.Length < 3))
            return "A line of the face has too few marks.";
        if (Nose.Length is not (0 or 5) || BrowLeft.Length is 1 or 2 || BrowRight.Length is 1 or 2)
            return "A nose has five marks, a brow three or more.";
        var all = lines.SelectMany(l => l).Concat(BrowLeft).Concat(BrowRight).Concat(Nose);
        if (all.Any(m => !float.IsFinite(m.X) || !float.IsFinite(m.Y) || m.X < -width || m.Y < -height || m.X > 2 * width || m.Y > 2 * height))
            return "A mark lies far outside the picture.";
        if (Mouth.Width < 4 || Vector2.Distance(Mouth.InnerUpper[0], Mouth.InnerUpper[^1]) < 3)
            return "The mouth is too small to open: mark it larger, or bring a larger picture.";
        if (Area(Outline) < 4 * Mouth.Width * Mouth.Width * 0.25f)
            return "The edge of the face is smaller than its mouth.";
        return null;
    }

    private static IEnumerable<Mark[]> EyeLines(EyeMarks? eye) => eye == null ? [] : [eye.Upper, eye.Lower];

    /// <summary>All of it elsewhere: for a picture that is cut or made smaller.</summary>
    /// <param name="by">From where a mark is to where it shall be.</param>
    public PortraitMarks Moved(Func<Vector2, Vector2> by) =>
        new()
        {
            Outline = All(Outline, by),
            Mouth = new LipMarks
            {
                OuterUpper = All(Mouth.OuterUpper, by),
                OuterLower = All(Mouth.OuterLower, by),
                InnerUpper = All(Mouth.InnerUpper, by),
                InnerLower = All(Mouth.InnerLower, by),
            },
            EyeLeft = EyeLeft?.Moved(by),
            EyeRight = EyeRight?.Moved(by),
            BrowLeft = All(BrowLeft, by),
            BrowRight = All(BrowRight, by),
            Nose = All(Nose, by),
        };

    internal static Mark[] All(Mark[] marks, Func<Vector2, Vector2> by) => [.. marks.Select(m => (Mark)by(m))];

    private static float Area(Mark[] ring)
    {
        var twice = 0f;
        for (var i = 0; i < ring.Length; i++)
        {
            Mark a = ring[i],
                b = ring[(i + 1) % ring.Length];
            twice += a.X * b.Y - b.X * a.Y;
        }
        return MathF.Abs(twice) / 2;
    }
}
