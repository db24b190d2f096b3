using System.Collections.Concurrent;
using System.Numerics;
using System.Text.Json;
using Zamblo.Core.Portraits;
using Zamblo.Core.Stage.Wardrobe;

namespace Zamblo.Core.Stage;

/// <summary>What is behind and before the figures. The drawing is 1280 x 720 stage units.</summary>
/// <param name="Back">Behind.</param>
/// <param name="Front">Before those figures that stand behind it: a counter, a table.</param>
public sealed record Backdrop(IReadOnlyList<DrawShape> Back, IReadOnlyList<DrawShape> Front)
{
    /// <summary>A clip that lies on what is behind; null for none.</summary>
    public BackdropFilm? Film { get; init; }
}

/// <summary>Characters and backdrops by their keys. Whoever puts somebody on stage is handed one; each is read once.</summary>
public sealed class CastLibrary
{
    private readonly ConcurrentDictionary<string, Figure> _figures = new();
    private readonly ConcurrentDictionary<string, Backdrop> _backdrops = new();

    /// <summary>Those that come with the program.</summary>
    public static CastLibrary Shipped() => new(_ => null, _ => null, _ => null, _ => null);

    // Ends the key of a character that is in a cast a second time, in other colours: "ines~2".
    private const char Twin = '~';

    private readonly Func<string, WardrobeRecipe?> _own;

    private readonly Func<string, PortraitRecipe?> _portraits;
    private readonly Func<string, PlateFigure?> _plates;
    private readonly Func<string, DrawnRecipe?> _drawings;

    private CastLibrary(
        Func<string, WardrobeRecipe?> own,
        Func<string, PortraitRecipe?> portraits,
        Func<string, PlateFigure?> plates,
        Func<string, DrawnRecipe?> drawings
    ) => (_own, _portraits, _plates, _drawings) = (own, portraits, plates, drawings);

    /// <summary>Those that come with the program, and one's own.</summary>
    /// <param name="own">The recipe of one of one's own by its key; null where there is none.</param>
    /// <param name="portraits">What one that was made from a picture is made of, by its key; null where there is none.</param>
    /// <param name="plates">Somebody in a clip, by its key; null where there is none.</param>
    /// <param name="drawings">One that somebody has drawn, by its key; null where there is none.</param>
    public static CastLibrary With(
        Func<string, WardrobeRecipe?> own,
        Func<string, PortraitRecipe?>? portraits = null,
        Func<string, PlateFigure?>? plates = null,
        Func<string, DrawnRecipe?>? drawings = null
    ) => new(own, portraits ?? (_ => null), plates ?? (_ => null), drawings ?? (_ => null));

    // Drawn by hand, each with a rig of its own.
    private static readonly (string Key, string Kind)[] HandMade =
    [
        ("maro", "person"),
        ("bubb", "creature"),
        ("tock", "machine"),
        ("wick", "creature"),
        ("kett", "thing"),
        ("sift", "thing"),
    ];

    // Put together in the Wardrobe.
    private sealed record Dressed(string Key, string Kind, WardrobeRecipe Recipe);

    private static readonly Lazy<IReadOnlyList<Dressed>> People = new(() =>
    {
        using var stream = Open("Wardrobe.people.json");
        return JsonSerializer.Deserialize<Dressed[]>(stream, JsonSerializerOptions.Web)!;
    });

    /// <summary>Keys of the characters that come with the program, those of the house first.</summary>
    public IReadOnlyList<string> CharacterKeys { get; } = [.. HandMade.Select(c => c.Key), .. People.Value.Select(p => p.Key)];

    /// <summary>What a character is: "person", "creature", "thing" or "machine".</summary>
    public string KindOf(string key) => HandMade.FirstOrDefault(c => c.Key == key).Kind ?? People.Value.FirstOrDefault(p => p.Key == key)?.Kind ?? "person";

    /// <summary>What a character was made of in the Wardrobe; null for one that a hand has drawn.</summary>
    public WardrobeRecipe? RecipeOf(string key)
    {
        var twin = key.LastIndexOf(Twin);
        if (twin > 0)
            return int.TryParse(key.AsSpan(twin + 1), out var n) && n is > 1 and < 100 ? RecipeOf(key[..twin])?.Twin(n) : null;
        return People.Value.FirstOrDefault(p => p.Key == key)?.Recipe ?? _own(key);
    }

    /// <summary>Whether there is such a character.</summary>
    public bool Has(string key) =>
        HandMade.Any(c => c.Key == key) || RecipeOf(key) != null || PortraitOf(key) != null || _plates(key) != null || _drawings(key) != null;

    /// <summary>Drawing and rig of a character that a hand has drawn; null for any other.</summary>
    public DrawnRecipe? DrawingOf(string key)
    {
        if (HandMade.All(c => c.Key != key))
            return _drawings(key);
        using StreamReader art = new(Open($"Characters.{key}.art.svg")),
            rig = new(Open($"Characters.{key}.rig.json"));
        return new DrawnRecipe(art.ReadToEnd(), rig.ReadToEnd());
    }

    /// <summary>What a character is made of that was made from a picture; null for any other.</summary>
    public PortraitRecipe? PortraitOf(string key) => _portraits(key);

    /// <summary>The key under which a character joins a cast: where it is in it already, in other colours.</summary>
    /// <param name="key">The character.</param>
    /// <param name="cast">Keys of the characters that are in the cast.</param>
    public string Apart(string key, IReadOnlyCollection<string> cast)
    {
        if (RecipeOf(key) == null)
            return key;
        var free = key;
        for (var n = 2; cast.Contains(free) && n < 100; n++)
            free = $"{key}{Twin}{n}";
        return free;
    }

    /// <summary>A character's key without its other colours.</summary>
    public static string Plain(string key) => key.LastIndexOf(Twin) is > 0 and var at ? key[..at] : key;

    /// <summary>Keys of the backdrops.</summary>
    public IReadOnlyList<string> BackdropKeys { get; } =
    [.. Places.SelectMany(p => p.HasNight ? new[] { p.Key, p.Key + Night } : [p.Key]), .. Papers.Keys, Clear];

    /// <summary>Ends the key of a set by night: "bakery-night".</summary>
    internal const string Night = "-night";

    /// <summary>Key of no set at all: what can keep it has a transparent ground, all else a black one.</summary>
    public const string Clear = "clear";

    private static readonly (string Key, string Name, bool HasNight)[] Places =
    [
        ("bakery", "Bakery", false),
        ("kitchen", "Kitchen", true),
        ("living", "Living room", true),
        ("street", "Street", true),
        ("shop", "Shop", true),
        ("office", "Office", true),
        ("booth", "Radio booth", true),
        ("stage", "Stage", true),
        ("garden", "Garden", true),
        ("train", "Train", true),
        ("space", "Space", true),
        ("harbour", "Harbour", true),
    ];

    // Plain colours.
    private static readonly Dictionary<string, (string Name, string Color)> Papers = new()
    {
        ["paper"] = ("Paper", "#EFE6D3"),
        ["rose"] = ("Rose", "#E7C3B4"),
        ["sky"] = ("Sky", "#BCD3DA"),
        ["leaf"] = ("Leaf", "#B9C9A4"),
        ["ink"] = ("Ink", "#2A303C"),
    };

    /// <summary>Whether there is such a backdrop: one that comes with the program, or a picture of one's own.</summary>
    public bool HasBackdrop(string key) => BackdropKeys.Contains(key) || PictureSet.Read(key) != null;

    /// <summary>What people call a backdrop.</summary>
    public static string BackdropName(string key) =>
        key.StartsWith("picture:", StringComparison.Ordinal) ? "A picture of your own"
        : key.StartsWith("clip:", StringComparison.Ordinal) ? "A clip of your own"
        : key == Clear ? "Nothing (transparent)"
        : Papers.TryGetValue(key, out var paper) ? paper.Name
        : key.EndsWith(Night, StringComparison.Ordinal) ? BackdropName(key[..^Night.Length]) + ", night"
        : Places.FirstOrDefault(p => p.Key == key).Name ?? key;

    /// <summary>A character by its key.</summary>
    /// <exception cref="KeyNotFoundException">There is none.</exception>
    public Figure Character(string key)
    {
        if (!Has(key))
            throw new KeyNotFoundException($"There is no character \"{key}\". There are {string.Join(", ", CharacterKeys)}.");
        return _figures.GetOrAdd(
            key,
            k =>
            {
                if (_plates(k) is { } plate)
                    return plate;
                if (PortraitOf(k) is { } portrait)
                    return new PortraitFigure(portrait, k);
                return DrawingOf(k) is { } drawing ? drawing.Make(k) : Tailor.Make(RecipeOf(k)!, k);
            }
        );
    }

    /// <summary>A backdrop by its key.</summary>
    /// <exception cref="KeyNotFoundException">There is none.</exception>
    public Backdrop Backdrop(string key)
    {
        if (PictureSet.Read(key) is { } picture)
            return picture.ToBackdrop();
        if (!BackdropKeys.Contains(key))
            throw new KeyNotFoundException($"There is no backdrop \"{key}\". There are {string.Join(", ", BackdropKeys)}.");
        return _backdrops.GetOrAdd(
            key,
            k =>
            {
                if (k == Clear)
                    return new Backdrop([], []);
                if (Papers.TryGetValue(k, out var paper))
                    return new Backdrop([new DrawShape(PictureSet.Beyond, paper.Color)], []);
                using var stream = Open($"Backdrops.{k.Replace('-', '_')}.art.svg");
                var art = SvgArt.Read(stream, k);
                return new Backdrop(
                    [.. art.Shapes.Where(s => s.Part == "back").Select(ToShape)],
                    [.. art.Shapes.Where(s => s.Part == "front").Select(ToShape)]
                );
            }
        );
    }

    internal static DrawShape ToShape(ArtShape s) => new(s.Path, Fade(s.Fill, s.Opacity), Fade(s.Stroke, s.Opacity), s.Width, s.Nib);

    // A backdrop never changes, so its opacity goes into the colour: "#rrggbbaa".
    private static string? Fade(string? color, float opacity) =>
        color == null || opacity >= 1 ? color : color + ((int)MathF.Round(opacity * 255)).ToString("X2");

    private static Stream Open(string name) =>
        typeof(CastLibrary).Assembly.GetManifestResourceStream("Zamblo.Core.Stage." + name)
        ?? throw new InvalidOperationException($"The program lacks its own file \"{name}\".");
}
