using Zamblo.Core.Stage;

namespace Zamblo.Core.Scenes;

/// <summary>A place on the floor of a set that has a name (in a theatre a mark of tape shows where somebody stands).</summary>
/// <param name="Id">Its id.</param>
/// <param name="Floor">Of which set (<see cref="FloorOf"/>): it is there in all scenes that play in it.</param>
/// <param name="Name">What people call it.</param>
/// <param name="X">In stage units (the stage is 1280 wide); beyond 0 to 1280 is off stage.</param>
public sealed record FloorMark(Guid Id, string Floor, string Name, float X)
{
    /// <summary>Names the floor of a set: by day and by night it is the same, and so it is however dark or blurred a picture of one's own is.</summary>
    /// <param name="backdrop">Key of the set.</param>
    public static string FloorOf(string backdrop) =>
        PictureSet.Read(backdrop) is { } own ? own.Hash
        : backdrop.EndsWith(CastLibrary.Night, StringComparison.Ordinal) ? backdrop[..^CastLibrary.Night.Length]
        : backdrop;

    /// <summary>Longest name.</summary>
    public const int LongestName = 40;

    /// <summary>Most that a production has.</summary>
    public const int Most = 200;

    /// <summary>Where one can be, in stage units.</summary>
    public const float Leftmost = -400,
        Rightmost = 1680;
}

/// <summary>The marks of a production.</summary>
public sealed record FloorMarks
{
    /// <summary>In the order in which they were made.</summary>
    public IReadOnlyList<FloorMark> All { get; init; } = [];

    /// <summary>The same within their ranges.</summary>
    public FloorMarks Clamped() =>
        new()
        {
            All =
            [
                .. (All ?? [])
                    .Where(m => m is { Name: not null, Floor: not null } && float.IsFinite(m.X))
                    .Take(FloorMark.Most)
                    .Select(m => m with { X = Math.Clamp(m.X, FloorMark.Leftmost, FloorMark.Rightmost) }),
            ],
        };
}
