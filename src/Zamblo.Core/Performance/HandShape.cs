using System.Text.Json.Serialization;

namespace Zamblo.Core.Performance;

/// <summary>What a hand does with its fingers.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<HandShape>))]
public enum HandShape
{
    /// <summary>Hanging, fingers together.</summary>
    Relaxed,

    /// <summary>Fingers spread: also a count of five.</summary>
    Open,

    /// <summary>Shut.</summary>
    Fist,

    /// <summary>The index finger out: also a count of one.</summary>
    Point,

    /// <summary>A fist with the thumb out.</summary>
    Thumb,

    /// <summary>Thumb and fingers meet.</summary>
    Pinch,

    /// <summary>About something.</summary>
    Hold,

    /// <summary>Two fingers out.</summary>
    Two,

    /// <summary>Three.</summary>
    Three,

    /// <summary>Four.</summary>
    Four,
}

/// <summary>What a figure has of arms.</summary>
public enum ArmKind
{
    /// <summary>None.</summary>
    None,

    /// <summary>Of one piece: stumps, wings, a spout.</summary>
    Stump,

    /// <summary>With elbows.</summary>
    Jointed,
}

/// <summary>From a moment of a gesture on a hand has a shape, until it has another.</summary>
/// <param name="At">In seconds from the gesture's start.</param>
/// <param name="Shape">Which.</param>
/// <param name="IsLeft">The hand at the picture's left; else the other one.</param>
public sealed record HandKey(double At, HandShape Shape, bool IsLeft = false);

/// <summary>Shapes of hands over time.</summary>
internal static class HandShapes
{
    // Under this weight a gesture has let the hand go.
    private const float Held = 0.3f;

    /// <summary>Lays the shapes of gestures over a pose: of several at once the one that weighs most.</summary>
    public static void Apply(IReadOnlyList<GestureSpan> spans, double t, ref Pose pose)
    {
        float left = Held,
            right = Held;
        foreach (var s in spans)
        {
            if (s.Gesture.Hands.Count == 0 || s.WeightAt(t) is not (> Held and var weight))
                continue;
            var local = s.LocalTime(t);
            foreach (var isLeft in (ReadOnlySpan<bool>)[true, false])
            {
                HandShape? shape = null;
                foreach (var key in s.Gesture.Hands)
                    if (key.IsLeft == isLeft && key.At <= local)
                        shape = key.Shape;
                if (shape is not { } seen)
                    continue;
                if (isLeft != s.Mirror && weight > left)
                    (pose.HandShapeLeft, left) = (seen, weight);
                else if (isLeft == s.Mirror && weight > right)
                    (pose.HandShapeRight, right) = (seen, weight);
            }
        }
    }

    /// <summary>What hands do by themselves: they close in anger.</summary>
    public static void OfMood(IReadOnlyList<MoodSpan> moods, double t, ref Pose pose)
    {
        foreach (var mood in moods)
            if (mood.Mood == Mood.Anger && mood.WeightAt(t) > 0.5f)
                pose.HandShapeLeft = pose.HandShapeRight = HandShape.Fist;
    }

    /// <summary>The shapes of several gestures as those of one that begins at a time.</summary>
    public static IReadOnlyList<HandKey> Join(IReadOnlyList<GestureSpan> spans, double start) =>
        [
            .. spans
                .SelectMany(s => s.Gesture.Hands.Select(k => new HandKey(s.Start - start + k.At / Math.Max(0.05, s.Speed), k.Shape, k.IsLeft != s.Mirror)))
                .OrderBy(k => k.At),
        ];
}
