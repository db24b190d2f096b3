using Zamblo.Core.Performance;
using Zamblo.Core.Portraits;

namespace Zamblo.Core.Stage;

/// <summary>Someone on stage.</summary>
/// <param name="Figure">Whose drawing.</param>
/// <param name="X">Where it stands, in stage units (the stage is 1280 wide).</param>
/// <param name="Y">Where it stands (the stage is 720 high).</param>
/// <param name="Scale">Of its drawing.</param>
/// <param name="BeforeFront">Stands before the backdrop's front layer, not behind it.</param>
/// <param name="Lines">What it says, in order of start.</param>
/// <param name="Dials">How it moves.</param>
public sealed record StageMember(Figure Figure, float X, float Y, float Scale, bool BeforeFront, IReadOnlyList<PlacedSpeech> Lines, PerformanceDials Dials)
{
    /// <summary>How it feels, and when.</summary>
    public IReadOnlyList<MoodSpan> Moods { get; init; } = [];

    /// <summary>What it does, and when.</summary>
    public IReadOnlyList<GestureSpan> Gestures { get; init; } = [];

    /// <summary>
    /// The same as its body can do them: without elbows all of it says what hands would, and with something in the one hand the other one does what takes
    /// one hand (mirrored, the one that holds it does).
    /// </summary>
    internal IReadOnlyList<GestureSpan> Bodily
    {
        get
        {
            var arms =
                Figure.Rest != HandRest.None ? ArmKind.Jointed
                : Figure.HasArm(false) || Figure.HasArm(true) ? ArmKind.Stump
                : ArmKind.None;
            if (Figure.Rest == HandRest.LeftOnly)
                return [.. Gestures.Select(g => g.Gesture.IsOfOneHand ? g with { Mirror = !g.Mirror } : g)];
            return arms == ArmKind.Jointed ? Gestures : [.. Gestures.Select(g => g with { Gesture = g.Gesture.For(arms) })];
        }
    }

    /// <summary>Its head where it stands.</summary>
    internal HeadBox Head
    {
        get
        {
            var rig = Figure.Rig;
            var x = X + (rig.Head.Centre[0] - rig.Anchor[0]) * Scale;
            // Hair, ears and hats stand out.
            var half = 1.3f * rig.Head.Radius[0] * Scale;
            float Height(float y) => Y + (y - rig.Anchor[1]) * Scale;
            return new HeadBox(x - half, x + half, Height(0), Height(Figure.Size.Y))
            {
                Chin = Height(rig.Head.Centre[1] + rig.Head.Radius[1]),
                // A little above the middle of a face (common practice in drawing).
                Eyes = Height(rig.Head.Centre[1] - 0.1f * rig.Head.Radius[1]),
            };
        }
    }

    /// <summary>Where it looks, as far as a hand has set it.</summary>
    public IReadOnlyList<LookSpan> Looks { get; init; } = [];

    /// <summary>Where it goes.</summary>
    public IReadOnlyList<WalkSpan> Walks { get; init; } = [];

    /// <summary>What of its clip is shown when, if it is filmed.</summary>
    public FootageClock Footage { get; init; } = FootageClock.Plain;

    /// <summary>More is further in front within its layer; those of one depth lie in their order.</summary>
    public int Depth { get; init; }

    /// <summary>To which side it is turned when it looks at nobody, -1 left to 1 right; 0 is to the camera.</summary>
    public float Facing { get; init; }

    /// <summary>Where the corners of the mouth are while nothing is said, -1 down to 1 up.</summary>
    public float RestCorners { get; init; }
}

/// <summary>A walk over the stage.</summary>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="End">In seconds of the scene.</param>
/// <param name="To">Where to, in stage units; beyond 0 to 1280 is off stage.</param>
/// <param name="From">Where it starts, for an entrance; null for wherever the figure is.</param>
/// <param name="Manner">How.</param>
public readonly record struct WalkSpan(double Start, double End, float To, float? From = null, WalkManner Manner = WalkManner.Walk);
