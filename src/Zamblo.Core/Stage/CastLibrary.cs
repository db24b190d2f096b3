using System.Collections.Concurrent;
using System.Numerics;

namespace Zamblo.Core.Stage;

/// <summary>What is behind and before the figures. The drawing is 1280 x 720 stage units.</summary>
/// <param name="Back">Behind.</param>
/// <param name="Front">Before those figures that stand behind it: a counter, a table.</param>
public sealed record Backdrop(IReadOnlyList<DrawShape> Back, IReadOnlyList<DrawShape> Front);

/// <summary>Characters and backdrops by their keys. Whoever puts somebody on stage is handed one; each is read once.</summary>
public sealed class CastLibrary
{
    private readonly ConcurrentDictionary<string, Figure> _figures = new();
    private readonly ConcurrentDictionary<string, Backdrop> _backdrops = new();

    /// <summary>Those that come with the program.</summary>
    public static CastLibrary Shipped() => new();

    private CastLibrary() { }

    /// <summary>Keys of the characters.</summary>
    public IReadOnlyList<string> CharacterKeys { get; } = ["maro", "bubb", "tock"];

    /// <summary>Keys of the backdrops.</summary>
    public IReadOnlyList<string> BackdropKeys { get; } = ["bakery", "paper"];

    /// <summary>A character by its key.</summary>
    /// <exception cref="KeyNotFoundException">There is none.</exception>
    public Figure Character(string key)
    {
        if (!CharacterKeys.Contains(key))
            throw new KeyNotFoundException($"There is no character \"{key}\". There are {string.Join(", ", CharacterKeys)}.");
        return _figures.GetOrAdd(
            key,
            k =>
            {
                using var art = Open($"Characters.{k}.art.svg");
                using var rig = Open($"Characters.{k}.rig.json");
                return Figure.Read(art, rig, k);
            }
        );
    }

    /// <summary>A backdrop by its key.</summary>
    /// <exception cref="KeyNotFoundException">There is none.</exception>
    public Backdrop Backdrop(string key)
    {
        if (!BackdropKeys.Contains(key))
            throw new KeyNotFoundException($"There is no backdrop \"{key}\". There are {string.Join(", ", BackdropKeys)}.");
        return _backdrops.GetOrAdd(
            key,
            k =>
            {
                if (k == "paper")
                    return new Backdrop([new DrawShape("M-1200 -1800L2480 -1800L2480 2600L-1200 2600Z", "#EFE6D3")], []);
                using var stream = Open($"Backdrops.{k}.art.svg");
                var art = SvgArt.Read(stream, k);
                return new Backdrop(
                    [.. art.Shapes.Where(s => s.Part == "back").Select(ToShape)],
                    [.. art.Shapes.Where(s => s.Part == "front").Select(ToShape)]
                );
            }
        );
    }

    private static DrawShape ToShape(ArtShape s) => new(s.Path, Fade(s.Fill, s.Opacity), Fade(s.Stroke, s.Opacity), s.Width, s.Nib);

    // A backdrop never changes, so its opacity goes into the colour: "#rrggbbaa".
    private static string? Fade(string? color, float opacity) =>
        color == null || opacity >= 1 ? color : color + ((int)MathF.Round(opacity * 255)).ToString("X2");

    private static Stream Open(string name) =>
        typeof(CastLibrary).Assembly.GetManifestResourceStream("Zamblo.Core.Stage." + name)
        ?? throw new InvalidOperationException($"The program lacks its own file \"{name}\".");
}
