using System.Numerics;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Interchange;

/// <summary>By whose names a face's morph targets go.</summary>
public enum FaceNames
{
    /// <summary>Channels of our own and, beside them, the mouths and blinks of VRM 1.0.</summary>
    Zamblo,

    /// <summary>Expressions of the open avatar format VRM 1.0 alone.</summary>
    Vrm,

    /// <summary>Facial animation parameters of MPEG-4.</summary>
    Mpeg4,
}

/// <summary>
/// A face as morph targets: each channel of pose and mouth as weights from 0 to 1, by names of our own, and beside them the mouth and blink expressions of the
/// open avatar format VRM 1.0 (VRMC_vrm, "expressions": aa, ih, ou, ee, oh, blinkLeft, blinkRight; from memory), which are approximations: a vowel by how far
/// the mouth is open, spread and rounded. Left and right of VRM are the figure's own.
/// </summary>
public static class FaceTargets
{
    /// <summary>A target.</summary>
    /// <param name="Name">Of the weight.</param>
    /// <param name="Weight">From a pose, 0 to 1.</param>
    /// <param name="Place">Of what it moves on the face: x to the picture's right, y up, -1 to 1.</param>
    /// <param name="Way">How far it moves there.</param>
    public sealed record Target(string Name, Func<Pose, float> Weight, Vector2 Place, Vector3 Way);

    internal static readonly Vector2 Mouth = new(0, -0.4f),
        Chin = new(0, -0.75f),
        MouthLeft = new(-0.35f, -0.4f),
        MouthRight = new(0.35f, -0.4f),
        EyeLeft = new(-0.4f, 0.2f),
        EyeRight = new(0.4f, 0.2f),
        BrowLeft = new(-0.4f, 0.5f),
        BrowRight = new(0.4f, 0.5f);

    /// <summary>Those of a kind, in the order of the weights.</summary>
    public static IReadOnlyList<Target> By(FaceNames names) =>
        names switch
        {
            FaceNames.Vrm => Vrm,
            FaceNames.Mpeg4 => FapTargets.All,
            _ => All,
        };

    /// <summary>Our own, then what VRM has of mouths and blinks.</summary>
    public static IReadOnlyList<Target> All { get; } =
    [
        Of("jaw", MouthChannel.Jaw, Chin, 0, -0.25f),
        Of("part", MouthChannel.Part, Mouth, 0, -0.08f),
        Of("spread", MouthChannel.Spread, MouthRight, 0.12f, 0),
        new("pucker", p => Unit(-p.Mouth[MouthChannel.Spread]), MouthRight, new Vector3(-0.12f, 0, 0)),
        Of("protrusion", MouthChannel.Protrusion, Mouth, 0, 0, 0.15f),
        Of("press", MouthChannel.Press, Mouth, 0, 0.02f, -0.03f),
        Of("tuck", MouthChannel.Tuck, Mouth, 0, 0.05f, -0.06f),
        Of("upper_raise", MouthChannel.UpperRaise, Mouth, 0, 0.08f),
        Of("lower_drop", MouthChannel.LowerDrop, Mouth, 0, -0.08f),
        Of("tongue_tip", MouthChannel.TongueTip, Mouth, 0, 0.01f, 0.02f),
        Of("tongue_back", MouthChannel.TongueBack, Mouth, 0, 0.01f, -0.02f),
        Of("corner_left_up", MouthChannel.CornerLeft, MouthLeft, 0, 0.12f),
        new("corner_left_down", p => Unit(-p.Mouth[MouthChannel.CornerLeft]), MouthLeft, new Vector3(0, -0.12f, 0)),
        Of("corner_right_up", MouthChannel.CornerRight, MouthRight, 0, 0.12f),
        new("corner_right_down", p => Unit(-p.Mouth[MouthChannel.CornerRight]), MouthRight, new Vector3(0, -0.12f, 0)),
        new("brow_left_up", p => Unit(p.BrowLeft), BrowLeft, new Vector3(0, 0.12f, 0)),
        new("brow_left_down", p => Unit(-p.BrowLeft), BrowLeft, new Vector3(0, -0.12f, 0)),
        new("brow_right_up", p => Unit(p.BrowRight), BrowRight, new Vector3(0, 0.12f, 0)),
        new("brow_right_down", p => Unit(-p.BrowRight), BrowRight, new Vector3(0, -0.12f, 0)),
        new("brows_knit", p => Unit(p.BrowKnit), BrowRight, new Vector3(-0.08f, -0.03f, 0)),
        new("brows_worry", p => Unit(-p.BrowKnit), BrowRight, new Vector3(-0.04f, 0.08f, 0)),
        new("lid_left_shut", p => Unit(1 - p.LidLeft), EyeLeft, new Vector3(0, -0.1f, 0)),
        new("lid_right_shut", p => Unit(1 - p.LidRight), EyeRight, new Vector3(0, -0.1f, 0)),
        new("lids_wide", p => Unit((Math.Max(p.LidLeft, p.LidRight) - 1) / 0.3f), EyeRight, new Vector3(0, 0.04f, 0)),
        new("squint", p => Unit(p.Squint), EyeRight, new Vector3(0, 0.05f, 0)),
        new("gaze_left", p => Unit(-p.GazeX), EyeLeft, new Vector3(-0.04f, 0, 0)),
        new("gaze_right", p => Unit(p.GazeX), EyeRight, new Vector3(0.04f, 0, 0)),
        new("gaze_up", p => Unit(-p.GazeY), EyeRight, new Vector3(0, 0.04f, 0)),
        new("gaze_down", p => Unit(p.GazeY), EyeRight, new Vector3(0, -0.04f, 0)),
        .. Expressions(),
    ];

    // VRM 1.0 moves eyes by expressions of their own, too.
    private static IReadOnlyList<Target> Vrm { get; } =
    [
        .. Expressions(),
        new("lookUp", p => Unit(-p.GazeY), EyeRight, new Vector3(0, 0.04f, 0)),
        new("lookDown", p => Unit(p.GazeY), EyeRight, new Vector3(0, -0.04f, 0)),
        // The picture's right is the figure's left.
        new("lookLeft", p => Unit(p.GazeX), EyeRight, new Vector3(0.04f, 0, 0)),
        new("lookRight", p => Unit(-p.GazeX), EyeLeft, new Vector3(-0.04f, 0, 0)),
    ];

    private static IEnumerable<Target> Expressions() =>
        [
            new("aa", p => Vowel(p, 1, 0, 0), Chin, new Vector3(0, -0.25f, 0)),
            new("ih", p => Vowel(p, 0.45f, 0.6f, 0), MouthRight, new Vector3(0.08f, 0, 0)),
            new("ou", p => Vowel(p, 0.25f, 0, 1), Mouth, new Vector3(0, 0, 0.15f)),
            new("ee", p => Vowel(p, 0.3f, 1, 0), MouthRight, new Vector3(0.12f, 0, 0)),
            new("oh", p => Vowel(p, 0.7f, 0, 0.7f), Mouth, new Vector3(0, -0.1f, 0.08f)),
            // The picture's right is the figure's left.
            new("blinkLeft", p => Unit(1 - p.LidRight), EyeRight, new Vector3(0, -0.1f, 0)),
            new("blinkRight", p => Unit(1 - p.LidLeft), EyeLeft, new Vector3(0, -0.1f, 0)),
        ];

    /// <summary>How the head is turned: x to the picture's right, y up, z towards the camera (the axes of glTF 2.0, 3.4).</summary>
    public static Quaternion HeadOf(Pose pose) =>
        Quaternion.Normalize(
            Quaternion.CreateFromAxisAngle(Vector3.UnitY, Radians(pose.HeadTurn))
                * Quaternion.CreateFromAxisAngle(Vector3.UnitX, Radians(pose.HeadNod))
                * Quaternion.CreateFromAxisAngle(Vector3.UnitZ, -Radians(pose.HeadTilt))
        );

    private static float Radians(float degrees) => degrees * MathF.PI / 180;

    private static Target Of(string name, MouthChannel channel, Vector2 place, float x, float y, float z = 0) =>
        new(name, p => Unit(p.Mouth[channel]), place, new Vector3(x, y, z));

    private static float Unit(float value) => float.IsFinite(value) ? Math.Clamp(value, 0, 1) : 0;

    // How near a mouth is to a vowel that is so far open, so spread, so rounded; nothing while it is shut.
    private static float Vowel(Pose pose, float open, float spread, float round)
    {
        var mouth = pose.Mouth;
        float o = mouth.Openness,
            s = Unit(mouth[MouthChannel.Spread]),
            r = Unit(Math.Max(mouth[MouthChannel.Protrusion], -mouth[MouthChannel.Spread]));
        var far = Math.Abs(o - open) + Math.Abs(s - spread) + Math.Abs(r - round);
        return Unit(1 - 1.4f * far) * Unit(4 * o);
    }
}
