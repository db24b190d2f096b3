using Zamblo.Core.Mouth;

namespace Zamblo.Core.Performance;

/// <summary>Everything about a figure in one frame that does not depend on which figure it is. Left and right are the picture's.</summary>
public record struct Pose
{
    /// <summary>Head turned to the picture's right, in degrees, -30 to 30.</summary>
    public float HeadTurn;

    /// <summary>Head nodded down, in degrees, -20 to 20.</summary>
    public float HeadNod;

    /// <summary>Head tilted clockwise, in degrees, -20 to 20.</summary>
    public float HeadTilt;

    /// <summary>Left brow, -1 lowered to 1 raised.</summary>
    public float BrowLeft;

    /// <summary>Right brow, -1 lowered to 1 raised.</summary>
    public float BrowRight;

    /// <summary>Brows drawn together, 0 to 1; negative slants them outwards, as in worry.</summary>
    public float BrowKnit;

    /// <summary>Left lids, 0 shut, 1 as at rest, to 1.3 wide.</summary>
    public float LidLeft;

    /// <summary>Right lids, 0 shut, 1 as at rest, to 1.3 wide.</summary>
    public float LidRight;

    /// <summary>Lower lids raised, as in a smile that reaches the eyes, 0 to 1.</summary>
    public float Squint;

    /// <summary>Gaze to the picture's right, -1 to 1.</summary>
    public float GazeX;

    /// <summary>Gaze down, -1 to 1.</summary>
    public float GazeY;

    /// <summary>Breath, 0 out to 1 in.</summary>
    public float Breath;

    /// <summary>Body leaned clockwise, in degrees.</summary>
    public float Lean;

    /// <summary>Left arm raised from where it hangs, in degrees at shoulder.</summary>
    public float ArmLeft;

    /// <summary>Right arm raised from where it hangs, in degrees at shoulder.</summary>
    public float ArmRight;

    /// <summary>Left elbow bent further, in degrees.</summary>
    public float ElbowLeft;

    /// <summary>Right elbow bent further, in degrees.</summary>
    public float ElbowRight;

    /// <summary>
    /// How much the left hand is where <see cref="HandLeftX"/> and <see cref="HandLeftY"/> say, whatever the body does: 0 hangs on the arm, 1 is
    /// there.
    /// </summary>
    public float HandLeft;

    /// <summary>Left hand to the picture's right of its shoulder, in lengths of its arm.</summary>
    public float HandLeftX;

    /// <summary>Left hand below its shoulder, in lengths of its arm.</summary>
    public float HandLeftY;

    /// <summary>How much the right hand is where <see cref="HandRightX"/> and <see cref="HandRightY"/> say.</summary>
    public float HandRight;

    /// <summary>Right hand to the picture's right of its shoulder, in lengths of its arm.</summary>
    public float HandRightX;

    /// <summary>Right hand below its shoulder, in lengths of its arm.</summary>
    public float HandRightY;

    // As numbers, like all else here: poses are settled as rows of numbers.
    private float _fingersLeft,
        _fingersRight;

    /// <summary>What the left hand does with its fingers.</summary>
    public HandShape HandShapeLeft
    {
        readonly get => (HandShape)_fingersLeft;
        set => _fingersLeft = (float)value;
    }

    /// <summary>What the right hand does with its fingers.</summary>
    public HandShape HandShapeRight
    {
        readonly get => (HandShape)_fingersRight;
        set => _fingersRight = (float)value;
    }

    /// <summary>Left foot moved to the picture's right, in heights of the drawing.</summary>
    public float FootLeftX;

    /// <summary>Left foot off the ground, in heights of the drawing.</summary>
    public float FootLeftUp;

    /// <summary>Right foot moved to the picture's right, in heights of the drawing.</summary>
    public float FootRightX;

    /// <summary>Right foot off the ground, in heights of the drawing.</summary>
    public float FootRightUp;

    /// <summary>Body lowered while the feet stay, in heights of the drawing.</summary>
    public float Crouch;

    /// <summary>The whole figure moved to the picture's right, in heights of its drawing.</summary>
    public float ShiftX;

    /// <summary>The whole figure off the ground, in heights of its drawing.</summary>
    public float Rise;

    /// <summary>The whole figure taller (and narrower) by this share; less than 0 shorter.</summary>
    public float Stretch;

    /// <summary>The mouth.</summary>
    public MouthChannels Mouth;

    /// <summary>A figure that stands, looks ahead and is silent.</summary>
    public static Pose Neutral => new() { LidLeft = 1, LidRight = 1 };
}
