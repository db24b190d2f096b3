using System.Numerics;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage.Props;

/// <summary>Where and how a prop stands in a scene.</summary>
/// <param name="X">Middle of its foot, in stage units (the stage is 1280 wide).</param>
/// <param name="Y">Its foot, in stage units (the stage is 720 high).</param>
public sealed record PropPlace(float X, float Y)
{
    /// <summary>What lies before a counter comes after this in the order of drawing; the cast behind it and before it begin at 0 and at 1000.</summary>
    public const double Counter = 500,
        Before = 1000,
        Farthest = -100,
        Nearest = 1100;

    /// <summary>1 is its own.</summary>
    public float Size { get; init; } = 1;

    /// <summary>Turned clockwise about its middle, in degrees.</summary>
    public float Turn { get; init; }

    /// <summary>Left and right exchanged.</summary>
    public bool Flip { get; init; }

    /// <summary>More is drawn later: among the cast, which stands at 0 (behind a counter) or 1000 (before it) plus its depth.</summary>
    public double Order { get; init; } = Nearest;

    /// <summary>How it moves.</summary>
    public PropMotion Motion { get; init; }

    /// <summary>How much, 0 to 1.</summary>
    public float Amount { get; init; } = 0.5f;

    /// <summary>Of the motion, in seconds: once round, or there and back.</summary>
    public float Period { get; init; } = 3;

    /// <summary>A second place for motions that go somewhere, from the first one, in stage units.</summary>
    public float ToX { get; init; } = 300;

    /// <summary>The same, down.</summary>
    public float ToY { get; init; }

    /// <summary>The same within its ranges.</summary>
    public PropPlace Clamped()
    {
        static float In(float x, float low, float high, float other) => float.IsFinite(x) ? Math.Clamp(x, low, high) : other;
        return new PropPlace(In(X, -600, 1880, 640), In(Y, -400, 1400, 700))
        {
            Size = In(Size, 0.1f, 8, 1),
            Turn = In(Turn, -180, 180, 0),
            Flip = Flip,
            Order = double.IsFinite(Order) ? Math.Clamp(Order, Farthest, Nearest) : Nearest,
            Motion = Enum.IsDefined(Motion) ? Motion : PropMotion.Still,
            Amount = In(Amount, 0, 1, 0.5f),
            Period = In(Period, 0.2f, 60, 3),
            ToX = In(ToX, -2000, 2000, 300),
            ToY = In(ToY, -2000, 2000, 0),
        };
    }
}

/// <summary>A prop in a hand for a while.</summary>
/// <param name="Member">Index of who holds it.</param>
/// <param name="Right">In the hand at the picture's right.</param>
/// <param name="Start">Taken, in seconds of the scene.</param>
/// <param name="End">Put down, in seconds of the scene.</param>
public readonly record struct PropHold(int Member, bool Right, double Start, double End);

/// <summary>A prop on stage.</summary>
/// <param name="Art">Its look.</param>
/// <param name="Place">Where it stands while nobody holds it.</param>
/// <param name="Holds">When it is in a hand.</param>
public sealed record StageProp(PropArt Art, PropPlace Place, IReadOnlyList<PropHold> Holds)
{
    // The widest swing and sway, in degrees, and the highest bob, in stage units. Chosen by eye.
    private const float Swung = 32,
        Swayed = 14,
        Bobbed = 70;

    /// <summary>From the drawing of the prop to the stage, while it stands in its place.</summary>
    /// <param name="t">In seconds of the scene.</param>
    public Matrix3x2 StandsAt(double t)
    {
        var (art, p) = (Art, Place);
        var wave = MathF.Sin((float)(2 * Math.PI * (t / p.Period % 1)));
        Vector2 top = new(0, -art.Height),
            middle = new(0, -art.Height / 2);
        var own = p.Motion switch
        {
            PropMotion.Swing => Matrix3x2.CreateRotation(Radians(Swung * p.Amount * wave), top),
            PropMotion.Sway => Matrix3x2.CreateRotation(Radians(Swayed * p.Amount * wave), Vector2.Zero),
            PropMotion.Spin => Matrix3x2.CreateRotation((float)(2 * Math.PI * (t / p.Period % 1)), middle),
            PropMotion.Bob => Matrix3x2.CreateTranslation(0, -Bobbed * p.Amount * (0.5f + 0.5f * wave)),
            _ => Matrix3x2.Identity,
        };
        var way = p.Motion switch
        {
            // Slow at both ends, as whatever turns round there.
            PropMotion.BackAndForth => 0.5f - 0.5f * MathF.Cos((float)(2 * Math.PI * (t / p.Period % 1))),
            PropMotion.Across => (float)(t / p.Period % 1),
            _ => 0,
        };
        return own
            * Matrix3x2.CreateRotation(Radians(p.Turn), middle)
            * Matrix3x2.CreateScale(p.Flip ? -p.Size : p.Size, p.Size)
            * Matrix3x2.CreateTranslation(p.X + way * p.ToX, p.Y + way * p.ToY);
    }

    /// <summary>From the drawing of the prop to the stage, in a hand.</summary>
    /// <param name="hand">The hand, in stage units.</param>
    public Matrix3x2 HeldAt(Vector2 hand) =>
        Matrix3x2.CreateTranslation(-Art.GripPoint)
        * Matrix3x2.CreateScale(Place.Flip ? -Place.Size : Place.Size, Place.Size)
        * Matrix3x2.CreateTranslation(hand);

    // So long it is on its way between its place and a hand, in seconds.
    private const double Way = 0.4;

    /// <summary>How far a prop is in a hand at a moment: 0 in its place, 1 in the hand.</summary>
    public static float HeldShare(PropHold hold, double t) =>
        t < hold.Start || t > hold.End ? 0 : (float)(Ease.Smooth((t - hold.Start) / Way) * Ease.Smooth((hold.End - t) / Way));

    /// <summary>Whether its shadow is seen at its foot: it stands on something.</summary>
    public bool HasShadow => !Art.Flat && Art.Stands is PropGround.Floor or PropGround.Table && Place.Motion is PropMotion.Still or PropMotion.Sway;

    private static float Radians(float degrees) => degrees * MathF.PI / 180;
}
