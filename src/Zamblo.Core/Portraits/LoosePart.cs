using System.Numerics;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Portraits;

/// <summary>A part of a picture that hangs on a pivot: an ear, a tail, a hat, an arm.</summary>
/// <param name="Edge">Around it, in pixels of the picture; not closed.</param>
/// <param name="Pivot">What it turns about.</param>
public sealed record LoosePart(IReadOnlyList<Mark> Edge, Mark Pivot)
{
    /// <summary>Parts of a figure at most, and marks around one.</summary>
    public const int Most = 8,
        MostMarks = 400;

    /// <summary>It moves to and fro by itself; else it swings as what it hangs on moves.</summary>
    public bool Wags { get; init; }

    /// <summary>How far it goes, 0 to 1.</summary>
    public float Amount { get; init; } = 0.5f;

    /// <summary>It lies behind the rest of the figure.</summary>
    public bool IsBehind { get; init; }

    /// <summary>What is wrong with it for a picture of that size; null where nothing is.</summary>
    public string? ErrorFor(int width, int height)
    {
        if (Edge == null || Edge.Count is < 3 or > MostMarks)
            return $"A part has 3 to {MostMarks} marks around it.";
        bool IsNear(Mark m) => m.X >= -width && m.Y >= -height && m.X <= 2 * width && m.Y <= 2 * height;
        if (!Edge.Append(Pivot).All(IsNear) || Amount is not (>= 0 and <= 1))
            return "A part lies in the picture, and goes 0 to 1 far.";
        return Edge.Max(m => m.X) - Edge.Min(m => m.X) < 4 || Edge.Max(m => m.Y) - Edge.Min(m => m.Y) < 4 ? "A part is too small to be seen." : null;
    }
}

/// <summary>A part of a picture as a picture of its own.</summary>
/// <param name="Hash">Of it.</param>
/// <param name="X">Where it lies in the portrait's picture, in pixels: its left edge.</param>
/// <param name="Y">Its upper edge.</param>
/// <param name="Width">Its width, in pixels; as wide as it lies there.</param>
/// <param name="Height">Its height.</param>
/// <param name="Pivot">What it turns about, in pixels of the portrait's picture.</param>
/// <param name="Wags">It moves to and fro by itself.</param>
/// <param name="Amount">How far it goes, 0 to 1.</param>
/// <param name="IsBehind">It lies behind the rest.</param>
public sealed record PartPatch(string Hash, float X, float Y, int Width, int Height, Mark Pivot, bool Wags, float Amount, bool IsBehind)
{
    // Degrees at most, and how often it goes to and fro in a second; it is lively for a while, and then hardly (chosen by eye).
    private const float MostWag = 13,
        MostSwing = 16,
        PerSecond = 1.3f;

    /// <summary>How what swings hangs: a soft tail more than a stiff ear.</summary>
    public static Spring Hangs { get; } = new(1.5f, 0.16f);

    internal string? Error() =>
        Width is < 1 or > 20_000 || Height is < 1 or > 20_000 || !(MathF.Abs(X) < 40_000 && MathF.Abs(Y) < 40_000) ? "A part of a portrait lies in its picture."
        : MathF.Abs(Pivot.X) < 40_000 && MathF.Abs(Pivot.Y) < 40_000 && Amount is >= 0 and <= 1 ? null
        : "A part of a portrait hangs on a point of it.";

    /// <summary>How far it is turned, in radians.</summary>
    /// <param name="t">In seconds of the scene.</param>
    /// <param name="lag">How far it lags behind what it hangs on, in heights of the figure.</param>
    public float TurnAt(double t, Vector2 lag)
    {
        if (!Wags)
        {
            // What hangs down lags as what stands up does, the other way round.
            var reach = Vector2.Normalize(new Vector2(X + Width / 2f, Y + Height / 2f) - Pivot + new Vector2(1e-3f));
            var swing = 900 * Amount * (reach.X * lag.Y - reach.Y * lag.X);
            return MathF.PI / 180 * MostSwing * MathF.Tanh(swing / MostSwing);
        }
        var lively = 0.25f + 0.75f * (float)Ease.Smooth(1.2 * Math.Sin(2 * Math.PI * t / 5.3 + Pivot.X) + 0.5);
        return MathF.PI / 180 * MostWag * Amount * lively * (float)Math.Sin(2 * Math.PI * PerSecond * t + Pivot.Y);
    }

    /// <summary>Its four corners, turned, in pixels of the portrait's picture.</summary>
    public Vector2[] Corners(float turn)
    {
        var by = Matrix3x2.CreateRotation(turn, Pivot);
        return [.. new Vector2[] { new(X, Y), new(X + Width, Y), new(X + Width, Y + Height), new(X, Y + Height) }.Select(c => Vector2.Transform(c, by))];
    }
}
