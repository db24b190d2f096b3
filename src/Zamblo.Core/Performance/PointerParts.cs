namespace Zamblo.Core.Performance;

/// <summary>A part of a figure that a pointer can perform.</summary>
/// <param name="Key">What it is asked for by.</param>
/// <param name="Name">What people read.</param>
/// <param name="Values">Channels of the pose for a pointer at x and y (-1 to 1 from the middle of the picture, y down) and a tilt (-1 to 1).</param>
/// <param name="Adds">Always lies over what is there.</param>
public sealed record PointerPart(string Key, string Name, Func<float, float, float, IEnumerable<(string Channel, float Value)>> Values, bool Adds = false);

/// <summary>What a pointer makes of each part. Angles in degrees, lids and brows in their own units; how far they go is chosen by eye.</summary>
public static class PointerParts
{
    /// <summary>All of them; hands follow the pointer to a place and are not here.</summary>
    public static IReadOnlyList<PointerPart> All { get; } =
    [
        new("head", "Head", (x, y, tilt) => [("headTurn", 26 * x), ("headNod", 15 * y), ("headTilt", 12 * tilt)]),
        new("eyes", "Eyes", (x, y, _) => [("gazeX", x), ("gazeY", y)]),
        new("lids", "Lids", (x, y, _) => [("lidLeft", Lids(y)), ("lidRight", Lids(y)), ("squint", Math.Max(0, x))], Adds: true),
        new("brows", "Brows", (x, y, tilt) => [("browLeft", -y - 0.6f * tilt), ("browRight", -y + 0.6f * tilt), ("browKnit", x)]),
        new("body", "Body", (x, y, _) => [("lean", 9 * x), ("crouch", Math.Max(0, 0.1f * y)), ("stretch", Math.Max(0, -0.06f * y))]),
        new("place", "Place on stage", (x, y, _) => [("shiftX", 0.6f * x), ("rise", Math.Max(0, -0.3f * y))]),
    ];

    /// <summary>A part by its key, or null.</summary>
    public static PointerPart? Find(string key) => All.FirstOrDefault(p => p.Key == key);

    private static float Lids(float y) => -Math.Max(0, y) + 0.3f * Math.Max(0, -y);
}
