using System.Globalization;
using System.Xml.Linq;

namespace Zamblo.Core.Stage.Wardrobe;

/// <summary>One path of a part; colours may be roles of the palette.</summary>
internal sealed record StockPath(string D, string? Fill, string? Stroke, float Width, float Nib, float Opacity);

/// <summary>Something to wear, or a feature of a face.</summary>
/// <param name="Kind">"hair", "hat", "nose"...</param>
/// <param name="Key">Within its kind.</param>
/// <param name="Name">What people read.</param>
/// <param name="Options">How it is put on: sleeves, whether it swings, numbers of eyes and mouths.</param>
/// <param name="Layers">Paths by the layer that they lie in.</param>
internal sealed record WardrobePart(
    string Kind,
    string Key,
    string Name,
    IReadOnlyDictionary<string, string> Options,
    IReadOnlyDictionary<string, IReadOnlyList<StockPath>> Layers
)
{
    public string? Option(string name) => Options.GetValueOrDefault(name);

    public float Number(string name, float otherwise) =>
        Options.TryGetValue(name, out var text) ? float.Parse(text, NumberStyles.Float, CultureInfo.InvariantCulture) : otherwise;
}

/// <summary>A kind of part, as one chooses from it.</summary>
/// <param name="Kind">"hair", "hat"...</param>
/// <param name="Name">What people read.</param>
/// <param name="IsOnHead">Seen on a portrait; else on the whole figure.</param>
/// <param name="Parts">Keys and names.</param>
public sealed record WardrobeKind(string Kind, string Name, bool IsOnHead, IReadOnlyList<WardrobeChoice> Parts);

/// <summary>One part to choose.</summary>
/// <param name="Key">Within its kind.</param>
/// <param name="Name">What people read.</param>
public sealed record WardrobeChoice(string Key, string Name);

/// <summary>All parts of the Wardrobe, drawn about one head and one body: eyes at 288, mouth at 378, shoulders at 434.</summary>
internal static class WardrobeStock
{
    private static readonly Lazy<IReadOnlyDictionary<string, IReadOnlyList<WardrobePart>>> Read = new(() =>
    {
        using var stream = typeof(WardrobeStock).Assembly.GetManifestResourceStream("Zamblo.Core.Stage.Wardrobe.parts.xml")!;
        return XDocument
            .Load(stream)
            .Root!.Elements("part")
            .Select(PartOf)
            .GroupBy(p => p.Kind)
            .ToDictionary(g => g.Key, IReadOnlyList<WardrobePart> (g) => [.. g]);
    });

    /// <summary>The kinds in the order in which one chooses, with the names that people read.</summary>
    public static IReadOnlyList<(string Kind, string Name)> Kinds { get; } =
    [
        ("head", "Head"),
        ("hair", "Hair"),
        ("beard", "Beard"),
        ("brows", "Brows"),
        ("eyes", "Eyes"),
        ("nose", "Nose"),
        ("mouth", "Mouth"),
        ("ears", "Ears"),
        ("snout", "Snout"),
        ("horns", "Horns"),
        ("marks", "Marks"),
        ("glasses", "Glasses"),
        ("hat", "Hat"),
        ("earrings", "Earrings"),
        ("neckwear", "Round the neck"),
        ("top", "Above"),
        ("bottom", "Below"),
        ("shoes", "Shoes"),
        ("tool", "In the hand"),
    ];

    /// <summary>The parts of a kind; the first is worn where nothing is said.</summary>
    public static IReadOnlyList<WardrobePart> Of(string kind) => Read.Value[kind];

    /// <summary>A part by its key.</summary>
    /// <exception cref="ArtException">There is none.</exception>
    public static WardrobePart Find(string kind, string? key) =>
        key == null
            ? Of(kind)[0]
            : Of(kind).FirstOrDefault(p => p.Key == key)
                ?? throw new ArtException($"The Wardrobe has no {kind} \"{key}\". It has {string.Join(", ", Of(kind).Select(p => p.Key))}.");

    private static WardrobePart PartOf(XElement e) =>
        new(
            e.Attribute("kind")!.Value,
            e.Attribute("key")!.Value,
            e.Attribute("name")!.Value,
            e.Attributes().Where(a => a.Name.LocalName is not ("kind" or "key" or "name")).ToDictionary(a => a.Name.LocalName, a => a.Value),
            e.Elements("layer").ToDictionary(l => l.Attribute("in")!.Value, IReadOnlyList<StockPath> (l) => [.. l.Elements("path").Select(PathOf)])
        );

    private static StockPath PathOf(XElement e)
    {
        string? Paint(string name) => e.Attribute(name)?.Value is { } v and not "none" ? v : null;
        float Number(string name, float otherwise) => (float?)e.Attribute(name) ?? otherwise;
        return new StockPath(e.Attribute("d")!.Value, Paint("fill"), Paint("stroke"), Number("stroke-width", 0), Number("data-nib", 0), Number("opacity", 1));
    }
}
