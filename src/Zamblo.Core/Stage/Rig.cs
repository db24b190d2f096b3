using System.Numerics;
using System.Text.Json;
using System.Text.Json.Serialization;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage;

/// <summary>How a character's drawing moves; read from its <c>rig.json</c>. All lengths in units of the drawing.</summary>
public sealed record Rig
{
    /// <summary>Name in addresses and files.</summary>
    public required string Key { get; init; }

    /// <summary>Name that people read.</summary>
    public required string Name { get; init; }

    /// <summary>One sentence.</summary>
    public string Description { get; init; } = "";

    /// <summary>Where the figure stands: x and y.</summary>
    public required float[] Anchor { get; init; }

    /// <summary>The part of the drawing that a small portrait shows: x, y, width, height.</summary>
    public required float[] Portrait { get; init; }

    /// <summary>Voice that suits it.</summary>
    public string Voice { get; init; } = "espeak:en-us";

    /// <summary>Where it usually stands.</summary>
    public RigStage Stage { get; init; } = new();

    /// <summary>Colour of outlines that are made up anew in each frame.</summary>
    public string Ink { get; init; } = "#1E2430";

    /// <summary>The parts; a part that is not named here does not move against its group.</summary>
    public required RigPart[] Parts { get; init; }

    /// <summary>The head, as a globe on which the face lies.</summary>
    public required RigHead Head { get; init; }

    /// <summary>Eyes: one, two or more.</summary>
    public RigEye[] Eyes { get; init; } = [];

    /// <summary>Brows.</summary>
    public RigBrow[] Brows { get; init; } = [];

    /// <summary>The mouth.</summary>
    public required RigMouth Mouth { get; init; }

    /// <summary>How far down or up breath moves the body, as a share of its height.</summary>
    public float Breath { get; init; } = 0.012f;

    /// <summary>As it stands in <c>rig.json</c>.</summary>
    public string ToJson() => JsonSerializer.Serialize(this, Written);

    private static readonly JsonSerializerOptions Written = new(JsonSerializerDefaults.Web)
    {
        WriteIndented = true,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) },
    };

    internal static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        ReadCommentHandling = JsonCommentHandling.Skip,
        AllowTrailingCommas = true,
        UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow,
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) },
    };
}

/// <summary>Where a character usually stands on the 1280 x 720 stage.</summary>
public sealed record RigStage
{
    /// <summary>Of its drawing.</summary>
    public float Scale { get; init; } = 0.6f;

    /// <summary>Where its feet are, in stage units from the top.</summary>
    public float Y { get; init; } = 700;

    /// <summary>Before the backdrop's front layer (on the counter), not behind it.</summary>
    public bool BeforeFront { get; init; }

    /// <summary>How it gets from place to place.</summary>
    public Gait Gait { get; init; }

    /// <summary>Of a step or a hop, in heights of the drawing.</summary>
    public float Stride { get; init; } = 0.16f;
}

/// <summary>What drives a part.</summary>
public enum RigMotion
{
    /// <summary>Moves with its parent only.</summary>
    None,

    /// <summary>The body: leans and breathes.</summary>
    Body,

    /// <summary>The head: tilts, nods and turns.</summary>
    Head,

    /// <summary>Arm at the picture's left, at the shoulder.</summary>
    ArmLeft,

    /// <summary>Arm at the picture's right, at the shoulder.</summary>
    ArmRight,

    /// <summary>Forearm at the picture's left.</summary>
    ElbowLeft,

    /// <summary>Forearm at the picture's right.</summary>
    ElbowRight,

    /// <summary>What goes down when the figure crouches: hips and all above them.</summary>
    Hips,

    /// <summary>Thigh at the picture's left: reaches with the shin for where the foot stands.</summary>
    LegLeft,

    /// <summary>Thigh at the picture's right.</summary>
    LegRight,

    /// <summary>Shin and foot at the picture's left.</summary>
    KneeLeft,

    /// <summary>Shin and foot at the picture's right.</summary>
    KneeRight,

    /// <summary>Goes along with what it hangs on and keeps its angle: a foot on the ground.</summary>
    Level,

    /// <summary>A drawn eye that follows the left lid: it is squeezed to a line as the lid shuts.</summary>
    EyeLeft,

    /// <summary>A drawn eye that follows the right lid.</summary>
    EyeRight,

    /// <summary>A drawn pupil: goes as far as <see cref="RigPart.Reach"/> where the eyes look.</summary>
    Pupil,

    /// <summary>A drawn lid over the left eye: comes down from its pivot, its upper edge; it is not seen while the eye is open.</summary>
    LidLeft,

    /// <summary>A drawn lid over the right eye.</summary>
    LidRight,

    /// <summary>A drawn brow at the picture's left: goes up and down by <see cref="RigPart.Reach"/>, and turns when the brows knit.</summary>
    BrowLeft,

    /// <summary>A drawn brow at the picture's right.</summary>
    BrowRight,
}

/// <summary>A named group of the drawing.</summary>
public sealed record RigPart
{
    /// <summary>The group's id.</summary>
    public required string Id { get; init; }

    /// <summary>The part that it hangs on.</summary>
    public string? Parent { get; init; }

    /// <summary>The point it turns about: x, y.</summary>
    public float[] Pivot { get; init; } = [0, 0];

    /// <summary>What drives it.</summary>
    public RigMotion Motion { get; init; }

    /// <summary>Lies on the globe of the head at this share of its radius, about its pivot; 0 when it does not.</summary>
    public float Surface { get; init; }

    /// <summary>Moves against the head when it turns, as a share of the radius: hair at the back is negative, a nose tip above 1 is better a surface.</summary>
    public float Shift { get; init; }

    /// <summary>Degrees per degree of the arm's motion; negative turns the other way.</summary>
    public float Gain { get; init; } = 1;

    /// <summary>For the last part of an arm or a leg: the hand or the sole, x, y.</summary>
    public float[]? Tip { get; init; }

    /// <summary>How far what is drawn of a face goes to each side and up and down: x, y.</summary>
    public float[]? Reach { get; init; }

    /// <summary>A hand, seen only while the fingers have this shape; null for what is no hand.</summary>
    public RigHand? Hand { get; init; }

    /// <summary>How it dangles; none for what is firm.</summary>
    public RigSpring? Spring { get; init; }
}

/// <summary>A drawing of a hand.</summary>
/// <param name="Shape">While the fingers have it, and while they have one that is not drawn, for <see cref="HandShape.Relaxed"/>.</param>
/// <param name="IsRight">Of the arm at the picture's right.</param>
public sealed record RigHand(HandShape Shape, bool IsRight);

/// <summary>How a part dangles: its middle lags behind its pivot as a weight on a spring would.</summary>
public sealed record RigSpring
{
    /// <summary>Of the free swing, in Hz.</summary>
    public required float Frequency { get; init; }

    /// <summary>Share of the critical damping; under 1 it swings over.</summary>
    public float Damping { get; init; } = 0.3f;

    /// <summary>
    /// Degrees that it turns about its pivot per hundredth of the drawing's height that it lags to the picture's right; more than 0 for what stands
    /// up, less for what hangs down.
    /// </summary>
    public float Turn { get; init; }

    /// <summary>Share of the lag by which it moves.</summary>
    public float Slide { get; init; }
}

/// <summary>The globe of the head.</summary>
public sealed record RigHead
{
    /// <summary>Middle: x, y.</summary>
    public required float[] Centre { get; init; }

    /// <summary>Half width and half height.</summary>
    public required float[] Radius { get; init; }

    /// <summary>Furthest turn to each side in degrees.</summary>
    public float TurnLimit { get; init; } = 30;

    /// <summary>Furthest nod in degrees.</summary>
    public float NodLimit { get; init; } = 18;

    /// <summary>Furthest tilt in degrees.</summary>
    public float TiltLimit { get; init; } = 16;
}

/// <summary>An eye, drawn anew each frame in its (empty) group.</summary>
public sealed record RigEye
{
    /// <summary>The group that holds its place in the paint order.</summary>
    public required string Part { get; init; }

    /// <summary>Half width and half height of the open eye.</summary>
    public required float[] Radius { get; init; }

    /// <summary>Radius of the pupil, or of the iris where there is one.</summary>
    public required float Pupil { get; init; }

    /// <summary>Colour of the iris; none gives a plain dark pupil.</summary>
    public string? Iris { get; init; }

    /// <summary>Colour of the white.</summary>
    public string White { get; init; } = "#FFFDF8";

    /// <summary>Thickness of the upper lid's line.</summary>
    public float Lash { get; init; } = 6;

    /// <summary>Whether it follows the left or the right lid.</summary>
    public bool IsRight { get; init; }
}

/// <summary>A brow, drawn anew each frame in its (empty) group.</summary>
public sealed record RigBrow
{
    /// <summary>The group that holds its place in the paint order.</summary>
    public required string Part { get; init; }

    /// <summary>Half length.</summary>
    public required float Length { get; init; }

    /// <summary>Greatest thickness.</summary>
    public required float Thickness { get; init; }

    /// <summary>How far it goes down, and its ends apart.</summary>
    public float Rise { get; init; } = 19;

    /// <summary>How far it goes up, where hair or a hat leaves less room than that; else the same.</summary>
    public float? Up { get; init; }

    /// <summary>Colour.</summary>
    public required string Color { get; init; }

    /// <summary>Colour of an edge around it, that of the skin: seen only where it rises over hair of its own colour. Null for none.</summary>
    public string? Edge { get; init; }

    /// <summary>Whether it follows the left or the right brow.</summary>
    public bool IsRight { get; init; }
}

/// <summary>How a mouth is drawn from its channels.</summary>
public enum MouthStyle
{
    /// <summary>With lips, as people have.</summary>
    Lips,

    /// <summary>An opening without lips.</summary>
    Muzzle,

    /// <summary>A slot that opens like a shutter: machines.</summary>
    Slot,

    /// <summary>Two halves that part: birds and insects.</summary>
    Beak,

    /// <summary>A set of drawn mouths, one per shape.</summary>
    Drawn,

    /// <summary>One drawn mouth, open, that is stretched and pressed flat.</summary>
    Stretched,
}

/// <summary>The mouth, drawn anew each frame in the (empty) group <c>mouth</c>.</summary>
public sealed record RigMouth
{
    /// <summary>The group that holds its place in the paint order.</summary>
    public string Part { get; init; } = "mouth";

    /// <summary>Style.</summary>
    public MouthStyle Style { get; init; }

    /// <summary>Width at rest.</summary>
    public required float Width { get; init; }

    /// <summary>Height at its widest.</summary>
    public required float Height { get; init; }

    /// <summary>Thickness of the outline.</summary>
    public float Line { get; init; } = 5;

    /// <summary>Thickness of the lips.</summary>
    public float Lip { get; init; } = 9;

    /// <summary>Colour of the lips.</summary>
    public string LipColor { get; init; } = "#C4705F";

    /// <summary>Colour of the inside.</summary>
    public string Inside { get; init; } = "#5A1F27";

    /// <summary>Colour of the tongue.</summary>
    public string Tongue { get; init; } = "#D9695F";

    /// <summary>Colour of the teeth; none for a mouth without.</summary>
    public string? Teeth { get; init; } = "#FFFDF8";

    /// <summary>Corners at rest: 0 level, 1 a smile.</summary>
    public float Smile { get; init; } = 0.25f;

    /// <summary>What it is drawn as when drawn mouths are taken off again; null where it never was anything else.</summary>
    public MouthStyle? Otherwise { get; init; }

    /// <summary>
    /// For <see cref="MouthStyle.Drawn"/>: per shape (in lower case) the paths, back to front; for <see cref="MouthStyle.Stretched"/> of the only one.
    /// </summary>
    public Dictionary<string, DrawnPath[]> Drawn { get; init; } = [];

    /// <summary>
    /// For <see cref="MouthStyle.Drawn"/>: which drawn mouth is shown for a shape (both in lower case), where it is not the shape's own. What has neither
    /// shows the mouth at rest.
    /// </summary>
    public Dictionary<string, string> Serves { get; init; } = [];

    /// <summary>Hashes of the pictures that drawn mouths are.</summary>
    internal IEnumerable<string> Pictures => Drawn.Values.SelectMany(d => d).Select(d => d.Picture).OfType<string>().Distinct();

    /// <summary>The drawn mouth that is shown for a shape; null for none.</summary>
    public string? DrawnFor(MouthShape shape)
    {
        if (Style == MouthStyle.Stretched)
            return Drawn.Keys.FirstOrDefault();
        var name = MouthNames.Of(shape);
        var served = Serves.GetValueOrDefault(name) ?? name;
        return Drawn.ContainsKey(served) ? served
            : Drawn.ContainsKey("rest") ? "rest"
            : null;
    }
}

/// <summary>One path of a drawn mouth, about the mouth's middle.</summary>
/// <param name="D">Path data.</param>
/// <param name="Fill">Or null.</param>
/// <param name="Stroke">Or null.</param>
/// <param name="Width">Of the stroke.</param>
/// <param name="Picture">Hash of a picture that fills the box of the path; null for none.</param>
public sealed record DrawnPath(string D, string? Fill = null, string? Stroke = null, float Width = 0, string? Picture = null);
