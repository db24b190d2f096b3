using Zamblo.Core.Portraits;

namespace Zamblo.Media.Portraits;

/// <summary>A face that was followed through a clip.</summary>
/// <param name="Track">Where it is.</param>
/// <param name="Look">What is seen between its lips.</param>
/// <param name="Map">How well it is seen, from the first frame to the last.</param>
public sealed record FollowedFace(PlateTrack Track, MouthLook Look, IReadOnlyList<PlateStretch> Map)
{
    /// <summary>Colour of its lids' edge; null where it has none.</summary>
    public string? Lash { get; init; }

    /// <summary>Where it will not look well, or no mouth is seen, in sentences.</summary>
    public IReadOnlyList<string> Notes() => [.. Map.Select(s => s.Note()).OfType<string>()];
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

    /// <summary>Where it will not look well, or no mouth is seen, and why, face by face.</summary>
    public IReadOnlyList<string> Notes() =>
        Faces.Count == 1 ? Faces[0].Notes() : [.. Faces.SelectMany((f, i) => f.Notes().Select(n => $"Face {i + 1}: {char.ToLowerInvariant(n[0])}{n[1..]}"))];
}
