using System.Numerics;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage;

/// <summary>A character ready to be posed, whatever it is made of: the fixed list of shapes that it draws, and how they move. Immutable.</summary>
public abstract class Figure
{
    /// <summary>How it moves, where it stands, what it is called.</summary>
    public abstract Rig Rig { get; }

    /// <summary>Width and height of the drawing.</summary>
    public abstract Vector2 Size { get; }

    /// <summary>What it draws; clips index into this list.</summary>
    public abstract IReadOnlyList<DrawShape> Shapes { get; }

    /// <summary>Whether the key light leaves shade on it: what lies on a picture takes the light whole, as the picture does.</summary>
    public virtual bool TakesShade => false;

    /// <summary>Where a shape's own units begin in the drawing: those that are made anew in each frame lie about their own middle.</summary>
    /// <param name="shape">Index among <see cref="Shapes"/>.</param>
    public virtual Vector2 OriginOf(int shape) => Vector2.Zero;

    /// <summary>How many parts dangle.</summary>
    public virtual int SpringCount => 0;

    /// <summary>The springs of the parts that dangle.</summary>
    public virtual Spring SpringAt(int i) => throw new ArgumentOutOfRangeException(nameof(i));

    /// <summary>Whether a hand can be sent to a place.</summary>
    /// <param name="right">The one at the picture's right.</param>
    public virtual bool HasArm(bool right) => false;

    /// <summary>Where a hand is in a pose, in the units of the place that is given.</summary>
    /// <param name="pose">The pose.</param>
    /// <param name="right">The one at the picture's right.</param>
    /// <param name="place">From the drawing's units to the stage.</param>
    /// <returns>Null where it has no such arm.</returns>
    public virtual Vector2? HandAt(in Pose pose, bool right, Matrix3x2 place) => null;

    /// <summary>Which of <see cref="Shapes"/> are the hand itself: fingers lie over what it holds.</summary>
    /// <param name="right">The one at the picture's right.</param>
    public virtual IReadOnlyList<int> HandShapes(bool right) => [];

    /// <summary>What its hands do while they have nothing to do.</summary>
    public virtual HandRest Rest => HandRest.None;

    /// <summary>A hand's place for a point of the drawing, as the pose has it: seen from the shoulder, in lengths of the arm.</summary>
    public virtual Vector2 ToArm(bool right, Vector2 point) => Vector2.Zero;

    /// <summary>Where the pivots of the parts that dangle are in a pose.</summary>
    /// <param name="pose">The pose.</param>
    /// <param name="places">One per part that dangles, in heights of the drawing.</param>
    public virtual void Hang(in Pose pose, Span<Vector2> places) { }

    /// <summary>Draws a pose.</summary>
    /// <param name="pose">The pose.</param>
    /// <param name="place">From the drawing's units to the stage.</param>
    /// <param name="items">One per shape of <see cref="Shapes"/>.</param>
    /// <param name="lags">How far the parts that dangle lag, in heights of the drawing; none for a figure that stands still.</param>
    public abstract void Draw(in Pose pose, Matrix3x2 place, Span<DrawItem> items, ReadOnlySpan<Vector2> lags = default);

    /// <summary>Draws a pose at a moment: for a figure that is filmed, and so another at every moment.</summary>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="pose">The pose.</param>
    /// <param name="place">From the drawing's units to the stage.</param>
    /// <param name="items">One per shape of <see cref="Shapes"/>.</param>
    /// <param name="lags">As for <see cref="Draw"/>.</param>
    public virtual void DrawAt(double t, in Pose pose, Matrix3x2 place, Span<DrawItem> items, ReadOnlySpan<Vector2> lags = default) =>
        Draw(pose, place, items, lags);

    /// <summary>Where its mouth is in the drawing, as far as it opens, where that is a part of a picture; else null: then it is drawn by itself.</summary>
    public virtual (float X, float Y, float Width, float Height)? MouthBox => null;

    /// <summary>The mouth alone, about its middle: for the lip strip and for sheets.</summary>
    /// <returns>Shapes with clips within this list, a path or null for each, and the mouth's width and height at their widest.</returns>
    public abstract (IReadOnlyList<DrawShape> Shapes, string?[] Paths, float Width, float Height) MouthPicture(in MouthChannels mouth);
}
