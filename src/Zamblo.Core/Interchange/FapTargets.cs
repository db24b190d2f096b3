using System.Numerics;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using static Zamblo.Core.Interchange.FaceTargets;

namespace Zamblo.Core.Interchange;

/// <summary>
/// A face by the names of MPEG-4's facial animation parameters (ISO/IEC 14496-2, annex C, table of FAPs 3 to 50; names, directions and units from memory). A
/// weight of 1 is one whole unit of the standard's: mouth to nose (MNS) or half of the mouth's width and more (MW) for lips and jaw, an iris (IRISD) for lids,
/// eye to nose (ENS) and eye to eye (ES) for brows, one radian for eyes: times 1024 (for eyes 100,000) it is the value of the parameter. Some go both ways,
/// so weights are -1 to 1. Left and right are the figure's own.
/// </summary>
internal static class FapTargets
{
    // How far each goes at most, in the units above: chosen so that our widest mouth opens by the distance of mouth and nose.
    private const float Lip = 0.25f,
        Corner = 0.4f,
        Stretch = 0.3f,
        Push = 0.4f,
        Brow = 0.35f,
        Squeeze = 0.12f,
        Tongue = 0.5f;

    // As far as an eye turns at the ends of its channel.
    private const float Eye = MathF.PI / 6;

    /// <summary>Those that our channels move.</summary>
    public static IReadOnlyList<Target> All { get; } =
    [
        At("open_jaw", p => p.Mouth[MouthChannel.Jaw], Chin, 0, -0.25f),
        At("lower_t_midlip", p => -Lip * (p.Mouth[MouthChannel.UpperRaise] + 0.4f * p.Mouth.Openness), FaceTargets.Mouth, 0, -0.2f),
        At("raise_b_midlip", p => -0.9f * p.Mouth.Openness - Lip * (p.Mouth[MouthChannel.LowerDrop] - p.Mouth[MouthChannel.Tuck]), FaceTargets.Mouth, 0, 0.2f),
        At("stretch_l_cornerlip", p => Stretch * p.Mouth[MouthChannel.Spread], MouthRight, 0.3f, 0),
        At("stretch_r_cornerlip", p => Stretch * p.Mouth[MouthChannel.Spread], MouthLeft, -0.3f, 0),
        At("raise_l_cornerlip", p => Corner * p.Mouth[MouthChannel.CornerRight], MouthRight, 0, 0.25f),
        At("raise_r_cornerlip", p => Corner * p.Mouth[MouthChannel.CornerLeft], MouthLeft, 0, 0.25f),
        At("push_b_lip", p => Push * p.Mouth[MouthChannel.Protrusion], FaceTargets.Mouth, 0, -0.02f, 0.3f),
        At("push_t_lip", p => Push * p.Mouth[MouthChannel.Protrusion], FaceTargets.Mouth, 0, 0.02f, 0.3f),
        At("close_t_l_eyelid", p => 1 - p.LidRight, EyeRight, 0, -0.1f),
        At("close_t_r_eyelid", p => 1 - p.LidLeft, EyeLeft, 0, -0.1f),
        At("close_b_l_eyelid", p => 0.3f * p.Squint, EyeRight, 0, 0.1f),
        At("close_b_r_eyelid", p => 0.3f * p.Squint, EyeLeft, 0, 0.1f),
        At("yaw_l_eyeball", p => Eye * p.GazeX, EyeRight, 0.06f, 0),
        At("yaw_r_eyeball", p => Eye * p.GazeX, EyeLeft, 0.06f, 0),
        At("pitch_l_eyeball", p => Eye * p.GazeY, EyeRight, 0, -0.06f),
        At("pitch_r_eyeball", p => Eye * p.GazeY, EyeLeft, 0, -0.06f),
        At("raise_l_i_eyebrow", p => Brow * (p.BrowRight - 0.5f * p.BrowKnit), BrowRight * Inner, 0, 0.3f),
        At("raise_r_i_eyebrow", p => Brow * (p.BrowLeft - 0.5f * p.BrowKnit), BrowLeft * Inner, 0, 0.3f),
        At("raise_l_m_eyebrow", p => Brow * p.BrowRight, BrowRight, 0, 0.3f),
        At("raise_r_m_eyebrow", p => Brow * p.BrowLeft, BrowLeft, 0, 0.3f),
        At("raise_l_o_eyebrow", p => Brow * (p.BrowRight + 0.2f * p.BrowKnit), BrowRight * Outer, 0, 0.3f),
        At("raise_r_o_eyebrow", p => Brow * (p.BrowLeft + 0.2f * p.BrowKnit), BrowLeft * Outer, 0, 0.3f),
        At("squeeze_l_eyebrow", p => Squeeze * Math.Max(0, p.BrowKnit), BrowRight, -0.4f, 0),
        At("squeeze_r_eyebrow", p => Squeeze * Math.Max(0, p.BrowKnit), BrowLeft, 0.4f, 0),
        At("raise_tongue_tip", p => Tongue * p.Mouth[MouthChannel.TongueTip], FaceTargets.Mouth, 0, 0.02f, 0.02f),
        At("raise_tongue", p => Tongue * p.Mouth[MouthChannel.TongueBack], FaceTargets.Mouth, 0, 0.02f, -0.02f),
    ];

    private static Vector2 Inner => new(0.6f, 1);

    private static Vector2 Outer => new(1.4f, 1);

    private static Target At(string name, Func<Pose, float> value, Vector2 place, float x, float y, float z = 0) =>
        new(name, p => value(p) is var v && float.IsFinite(v) ? Math.Clamp(v, -1, 1) : 0, place, new Vector3(x, y, z));
}
