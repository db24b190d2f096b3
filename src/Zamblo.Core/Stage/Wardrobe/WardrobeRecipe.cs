namespace Zamblo.Core.Stage.Wardrobe;

/// <summary>Colours of a character by what they are for, as #rrggbb; darker and lighter ones follow from them.</summary>
public sealed record WardrobePalette
{
    /// <summary>Skin, or fur.</summary>
    public string Skin { get; init; } = "#EDB993";

    /// <summary>Hair, beard and brows.</summary>
    public string Hair { get; init; } = "#3B2B2A";

    /// <summary>Of what is worn above.</summary>
    public string Cloth1 { get; init; } = "#3F7F86";

    /// <summary>Of what is worn below, and of stripes.</summary>
    public string Cloth2 { get; init; } = "#4B4A5E";

    /// <summary>Of hats, scarves and the like.</summary>
    public string Cloth3 { get; init; } = "#C8452D";

    /// <summary>Of frames, buttons and jewellery.</summary>
    public string Metal { get; init; } = "#D9A93F";

    /// <summary>Lips; null takes them from the skin.</summary>
    public string? Lip { get; init; }

    /// <summary>Iris; null gives plain dark pupils.</summary>
    public string? Iris { get; init; }

    /// <summary>All that are set, with the names that people read.</summary>
    public IEnumerable<(string Name, string? Color)> All() =>
        [
            ("skin", Skin),
            ("hair", Hair),
            ("first cloth", Cloth1),
            ("second cloth", Cloth2),
            ("third cloth", Cloth3),
            ("metal", Metal),
            ("lips", Lip),
            ("iris", Iris),
        ];
}

/// <summary>
/// A character put together in the Wardrobe: a part of each kind by its key, colours, and proportions. The same recipe is always the same figure.
/// </summary>
public sealed record WardrobeRecipe
{
    /// <summary>Name that people read, at most 40 characters.</summary>
    public required string Name { get; init; }

    /// <summary>One sentence.</summary>
    public string Description { get; init; } = "";

    /// <summary>Voice that suits it.</summary>
    public string Voice { get; init; } = "espeak:en-us";

    /// <summary>Key of the part of each kind; a kind that is not named has its first part.</summary>
    public IReadOnlyDictionary<string, string> Parts { get; init; } = new Dictionary<string, string>();

    /// <summary>Colours.</summary>
    public WardrobePalette Palette { get; init; } = new();

    /// <summary>Height on the stage, 0.6 to 1.3 of the usual.</summary>
    public float Height { get; init; } = 1;

    /// <summary>Width of the body, 0.75 to 1.4 of the usual.</summary>
    public float Build { get; init; } = 1;

    /// <summary>Size of the head, 0.85 to 1.35 of the usual.</summary>
    public float Head { get; init; } = 1;

    /// <summary>Length of body and legs, 0.65 to 1.15 of the usual.</summary>
    public float Body { get; init; } = 1;

    /// <summary>Thickness of the ink, 0.6 to 1.5 of the usual.</summary>
    public float Line { get; init; } = 1;

    /// <summary>The same in other clothes' colours, so that two of one character tell apart.</summary>
    /// <param name="n">2 for the second, 3 for the third...</param>
    public WardrobeRecipe Twin(int n)
    {
        string Turned(string color) => InkAndColour.Turned(color, n * 137.5);
        return this with { Palette = Palette with { Cloth1 = Turned(Palette.Cloth1), Cloth2 = Turned(Palette.Cloth2), Cloth3 = Turned(Palette.Cloth3) } };
    }

    /// <summary>The part of a kind that is worn.</summary>
    public string? PartOf(string kind) => Parts.GetValueOrDefault(kind);

    /// <summary>The same with another part of a kind.</summary>
    public WardrobeRecipe With(string kind, string key) => this with { Parts = new Dictionary<string, string>(Parts) { [kind] = key } };
}
