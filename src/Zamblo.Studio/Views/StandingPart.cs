using Zamblo.Core.Portraits;
using Zamblo.Core.Scenes;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Views;

/// <summary>Where somebody stands before any walk, in stage units.</summary>
/// <param name="X">Of what it stands with.</param>
/// <param name="Y">Of the ground.</param>
/// <param name="Box">Left, top, width and height of its drawing.</param>
/// <param name="Lift">Above its own ground.</param>
/// <param name="Size">1 is the character's own.</param>
/// <param name="IsPlaced">By hand.</param>
/// <param name="IsFixed">It cannot be put elsewhere.</param>
/// <param name="First">Its first shape.</param>
/// <param name="Count">How many it has.</param>
public sealed record StandingPart(float X, float Y, float[] Box, float Lift, float Size, bool IsPlaced, bool IsFixed, int First, int Count)
{
    /// <summary>To which side it is turned, -1 to 1.</summary>
    public float Facing { get; init; }

    /// <summary>Left, top, width and height of its face.</summary>
    public required float[] Face { get; init; }

    // Height of a face by how far the chin is from the eyes (HeadBox: a tenth of half the face above its middle).
    private const float ToChin = 2 / 1.1f;

    /// <summary>Of a member of a scene.</summary>
    public static StandingPart Of(LoadedScene scene, int index)
    {
        var stage = scene.Stage;
        var m = stage.Cast[index];
        var place = scene.Document.Members[index].Place;
        var (rig, size) = (m.Figure.Rig, m.Figure.Size);
        var (first, count) = stage.ShapesOf(index);
        var head = stage.Heads[index];
        return new StandingPart(
            m.X,
            m.Y,
            [m.X - rig.Anchor[0] * m.Scale, m.Y - rig.Anchor[1] * m.Scale, size.X * m.Scale, size.Y * m.Scale],
            place?.Lift ?? 0,
            place?.Size ?? 1,
            // Whoever is only turned stands where it stands.
            place is { } p
                && p with { Facing = 0 } != new MemberPlace(),
            m.Figure is PlateFigure,
            first,
            count
        )
        {
            Facing = place?.Facing ?? 0,
            // From the brow to the chin: hats and hair stay out of it.
            Face = [head.Left, head.Chin - ToChin * (head.Chin - head.Eyes), head.Right - head.Left, ToChin * (head.Chin - head.Eyes)],
        };
    }
}
