namespace Zamblo.Core.Performance;

/// <summary>How a figure is made to live. Sizes are factors: 0 off, 1 as designed, up to 2.</summary>
public sealed record PerformanceDials
{
    /// <summary>Everything that moves but mouth and blinks: 0 calm, 1 as designed, 2 broad.</summary>
    public float Expressiveness { get; init; } = 1;

    /// <summary>Turning from side to side.</summary>
    public float Turn { get; init; } = 1;

    /// <summary>Nods on stressed syllables.</summary>
    public float Nod { get; init; } = 1;

    /// <summary>Tilting.</summary>
    public float Tilt { get; init; } = 1;

    /// <summary>Brows.</summary>
    public float Brows { get; init; } = 1;

    /// <summary>Blinks per minute while speaking are about 26 at 1 (Bentivoglio et al. 1997: 26 in conversation, 17 at rest; from memory).</summary>
    public float Blinks { get; init; } = 1;

    /// <summary>How much the eyes look about: 0 only ahead.</summary>
    public float Gaze { get; init; } = 1;

    /// <summary>Of what is not spent on partners, the share for the camera: 0 never, 1 as designed, 2 the camera in place of partners.</summary>
    public float Camera { get; init; } = 1;

    /// <summary>Hands and body.</summary>
    public float Body { get; init; } = 1;

    /// <summary>What dangles: caps, bells, dough; 0 firm.</summary>
    public float Dangle { get; init; } = 1;

    /// <summary>How far gestures go back before they begin and beyond before they rest; 0 as their keys stand.</summary>
    public float Swing { get; init; } = 1;

    /// <summary>Nods, looks and answers of the face while others speak.</summary>
    public float Listening { get; init; } = 1;

    /// <summary>Keeps the head within two degrees: for whoever must not sway.</summary>
    public bool IsSteady { get; init; }

    /// <summary>Seed of every random choice.</summary>
    public int Seed { get; init; } = 1;

    /// <summary>Seed of what the head and the brows do, in place of <see cref="Seed"/>; 0 for that one.</summary>
    public int HeadSeed { get; init; }

    /// <summary>Seed of looks and blinks; 0 for <see cref="Seed"/>.</summary>
    public int EyesSeed { get; init; }

    /// <summary>Seed of hands; 0 for <see cref="Seed"/>.</summary>
    public int HandsSeed { get; init; }

    /// <summary>The same within the ranges.</summary>
    public PerformanceDials Clamped() =>
        this with
        {
            Expressiveness = Range(Expressiveness),
            Turn = Range(Turn),
            Nod = Range(Nod),
            Tilt = Range(Tilt),
            Brows = Range(Brows),
            Blinks = Range(Blinks),
            Gaze = Range(Gaze),
            Camera = Range(Camera),
            Body = Range(Body),
            Dangle = Range(Dangle),
            Swing = Range(Swing),
            Listening = Range(Listening),
        };

    private static float Range(float x) => float.IsFinite(x) ? Math.Clamp(x, 0, 2) : 1;
}
