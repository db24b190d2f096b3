namespace Zamblo.Core.Stage;

/// <summary>Where a head is, in stage units, with hair and hat.</summary>
/// <param name="Left">Of it.</param>
/// <param name="Right">Of it.</param>
/// <param name="Top">Of the whole figure.</param>
/// <param name="Floor">Where the figure stands.</param>
public readonly record struct HeadBox(float Left, float Right, float Top, float Floor)
{
    /// <summary>Lower edge of the face.</summary>
    public float Chin { get; init; } = Top + (Floor - Top) * 0.4f;

    /// <summary>Height of the eyes.</summary>
    public float Eyes { get; init; } = Top + (Floor - Top) * 0.22f;

    /// <summary>The same head elsewhere.</summary>
    /// <param name="by">To the right, in stage units.</param>
    public HeadBox Moved(float by) => by == 0 ? this : this with { Left = Left + by, Right = Right + by };
}

/// <summary>A part of the stage, in stage units.</summary>
public readonly record struct StageBox(float Left, float Top, float Right, float Bottom)
{
    /// <summary>Both, and what lies between.</summary>
    public StageBox With(StageBox other) =>
        new(Math.Min(Left, other.Left), Math.Min(Top, other.Top), Math.Max(Right, other.Right), Math.Max(Bottom, other.Bottom));
}

/// <summary>
/// The part of the stage that a picture shows: as much as covers it, moved or widened until every head is in it. Beyond the stage the backdrop goes on.
/// </summary>
/// <param name="X">Its middle, in stage units.</param>
/// <param name="Y">Its middle, in stage units.</param>
/// <param name="Width">So many stage units lie across the picture.</param>
public readonly record struct StageView(float X, float Y, float Width)
{
    // Beside the outermost heads, in stage units (chosen by eye: shoulders are cut, faces breathe).
    private const float Margin = 24;

    // The heads' share of the picture's height below which they are said to be small.
    private const float Small = 0.09f;

    /// <summary>Pixels for a stage unit.</summary>
    /// <param name="width">Of the picture in pixels.</param>
    public float ScaleFor(int width) => width / Width;

    /// <summary>The view of a picture that is as wide as the stage, or of one without heads.</summary>
    public static StageView Cover(int width, int height)
    {
        var scale = Math.Max(width / StageScene.Width, height / StageScene.Height);
        return new StageView(StageScene.Width / 2, StageScene.Height / 2, width / scale);
    }

    /// <summary>What a picture shows.</summary>
    /// <param name="heads">Of everybody on stage.</param>
    /// <param name="width">In pixels.</param>
    /// <param name="height">In pixels.</param>
    public static StageView For(IReadOnlyList<HeadBox> heads, int width, int height)
    {
        var cover = Cover(width, height);
        if (heads.Count == 0)
            return cover;
        float left = heads.Min(h => h.Left) - Margin,
            right = heads.Max(h => h.Right) + Margin;
        var half = cover.Width / 2;
        if (right - left <= cover.Width)
        {
            // Moved no further than it must be, nor beyond the edge of the stage while heads allow it.
            var low = Math.Min(half, right - half);
            var x = Math.Clamp(Math.Clamp(cover.X, right - half, left + half), low, Math.Max(low, Math.Max(StageScene.Width - half, left + half)));
            return cover with { X = x };
        }
        var units = right - left;
        var tall = units * height / width;
        if (tall <= StageScene.Height)
            return new StageView((left + right) / 2, StageScene.Height / 2, units);
        // A tall picture: the figures a little below its middle.
        float top = heads.Min(h => h.Top),
            floor = Math.Min(StageScene.Height, heads.Max(h => h.Floor));
        return new StageView((left + right) / 2, (top + floor) / 2 - 0.1f * tall, units);
    }

    /// <summary>Whether everybody is in the picture, but small.</summary>
    /// <param name="heads">Of everybody on stage.</param>
    /// <param name="width">In pixels.</param>
    /// <param name="height">In pixels.</param>
    public static bool IsSmall(IReadOnlyList<HeadBox> heads, int width, int height)
    {
        var tall = For(heads, width, height).Width * height / width;
        return heads.Any(h => h.Right - h.Left < Small * tall);
    }
}
