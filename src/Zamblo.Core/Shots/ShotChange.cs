using System.Text.Json.Serialization;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Shots;

/// <summary>How a shot begins.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<ShotChange>))]
public enum ShotChange
{
    /// <summary>From one frame to the next.</summary>
    Cut,

    /// <summary>One picture becomes the other: both are seen meanwhile.</summary>
    Dissolve,

    /// <summary>The picture goes to black, and the other one comes out of it.</summary>
    Dip,

    /// <summary>An edge passes over the picture, and the other one is behind it.</summary>
    Wipe,

    /// <summary>Something dark and out of focus passes close to the camera, and hides the edge.</summary>
    Pass,
}

/// <summary>A second view of the same moment, in one picture with the first while one shot becomes the next.</summary>
/// <param name="Near">Of the figures and all that stands with them.</param>
/// <param name="Far">Of what lies behind.</param>
/// <param name="Change">How.</param>
/// <param name="Share">How far it is, 0 to 1.</param>
public readonly record struct FrameBlend(StageView Near, StageView Far, ShotChange Change, float Share)
{
    /// <summary>Shortest and longest of them, in seconds, and what one has at first (common practice: half a second to one).</summary>
    public const double Shortest = 0.1,
        Longest = 4,
        Usual = 0.8;

    /// <summary>How much of the picture before is seen; for a wipe all of it, beyond the edge.</summary>
    public float Before =>
        Change switch
        {
            ShotChange.Dissolve => 1 - Share,
            ShotChange.Dip => Math.Max(0, 1 - 2 * Share),
            _ => 1,
        };

    /// <summary>Of what passes close to the camera: its width, in widths of the picture; its colour; how much of it there is from left to right.</summary>
    public const float PassWidth = 0.34f;

    /// <inheritdoc cref="PassWidth"/>
    public const string PassColor = "#10141f";

    /// <inheritdoc cref="PassWidth"/>
    public static IReadOnlyList<(float At, float Much)> PassStops { get; } = [(0, 0), (0.24f, 1), (0.76f, 1), (1, 0)];

    /// <summary>Where the edge is between the next picture, at its left, and the one before: 0 to 1 across the picture, whole pixels at the drawer's.</summary>
    public float Edge => Change == ShotChange.Pass ? Share * (1 + PassWidth) - PassWidth / 2 : Share;

    /// <summary>How much of the next picture is seen.</summary>
    public float After =>
        Change switch
        {
            ShotChange.Dissolve => Share,
            ShotChange.Dip => Math.Max(0, 2 * Share - 1),
            _ => 1,
        };
}
