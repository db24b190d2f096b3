using Zamblo.Core.Portraits;

namespace Zamblo.Media.Portraits;

/// <summary>A face that was followed through a clip.</summary>
/// <param name="Track">Where it is.</param>
/// <param name="Look">What is seen between its lips.</param>
/// <param name="Turned">Stretches in which it is turned too far away, in seconds of the clip.</param>
public sealed record FollowedFace(PlateTrack Track, MouthLook Look, IReadOnlyList<(double Start, double End)> Turned)
{
    /// <summary>Where a voice is heard but no mouth says it, in sentences.</summary>
    public IReadOnlyList<string> Notes() =>
        [
            .. Track
                .Gaps()
                .Select(gap =>
                {
                    var why = Turned.Any(t => t.Start < gap.End && t.End > gap.Start) ? "the face is turned away" : "no face is seen";
                    return FormattableString.Invariant($"From {gap.Start:0.0} to {gap.End:0.0} s {why}: a voice is heard there, but no mouth says it.");
                }),
        ];
}

/// <summary>A clip with the faces that were followed through it.</summary>
/// <param name="Hash">Under which its frames are found, for as long as they lie where they were laid.</param>
/// <param name="Faces">The largest first; at least one.</param>
public sealed record FollowedPlate(string Hash, IReadOnlyList<FollowedFace> Faces)
{
    /// <summary>The largest face.</summary>
    public PlateTrack Track => Faces[0].Track;

    /// <inheritdoc cref="Track"/>
    public MouthLook Look => Faces[0].Look;

    /// <summary>Where no mouth will be seen, and why, face by face.</summary>
    public IReadOnlyList<string> Notes() =>
        Faces.Count == 1 ? Faces[0].Notes() : [.. Faces.SelectMany((f, i) => f.Notes().Select(n => $"Face {i + 1}: {char.ToLowerInvariant(n[0])}{n[1..]}"))];
}
