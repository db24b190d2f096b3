using System.Text.Json;
using System.Text.Json.Serialization;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Portraits;

/// <summary>An eye's own pictures: what is seen between the lids without an iris, and the iris.</summary>
/// <param name="White">Hash of the picture of the eye without its iris.</param>
/// <param name="X">Where it lies in the portrait's picture, in pixels: its left edge.</param>
/// <param name="Y">Its upper edge.</param>
/// <param name="Width">Its width.</param>
/// <param name="Height">Its height.</param>
/// <param name="Iris">Hash of the picture of the iris, a square about its middle; null for an eye without.</param>
/// <param name="IrisSide">Of that square, in pixels of the portrait's picture.</param>
/// <param name="PixelsWide">Of the picture without iris.</param>
/// <param name="PixelsHigh">Of the picture without iris.</param>
/// <param name="IrisPixels">Of the iris' own picture.</param>
/// <param name="Lash">Colour of the upper lid's edge, "#rrggbb".</param>
public sealed record EyePatch(
    string White,
    float X,
    float Y,
    float Width,
    float Height,
    string? Iris,
    float IrisSide,
    int PixelsWide,
    int PixelsHigh,
    int IrisPixels,
    string Lash
);

/// <summary>A row of teeth as a picture.</summary>
/// <param name="Hash">Of it.</param>
/// <param name="Width">In pixels.</param>
/// <param name="Height">In pixels.</param>
public sealed record TeethPatch(string Hash, int Width, int Height);

/// <summary>What is seen between lips: colours, and rows of teeth.</summary>
public sealed record MouthLook
{
    /// <summary>Upper and lower teeth; null for a mouth without.</summary>
    public TeethPatch? TeethUpper { get; init; }

    /// <inheritdoc cref="TeethUpper"/>
    public TeethPatch? TeethLower { get; init; }

    /// <summary>Where the upper teeth are, in mouth widths: their upper edge below the line between the lips, their width, their height.</summary>
    public float UpperTop { get; init; } = -0.15f;

    /// <inheritdoc cref="UpperTop"/>
    public float UpperWide { get; init; } = 0.86f;

    /// <inheritdoc cref="UpperTop"/>
    public float UpperHigh { get; init; } = 0.23f;

    /// <summary>Colours of the inside, the tongue, the line between the lips, and the lips; "#rrggbb".</summary>
    public string Inside { get; init; } = "#3A1519";

    /// <inheritdoc cref="Inside"/>
    public string Tongue { get; init; } = "#A9524F";

    /// <inheritdoc cref="Inside"/>
    public string LipLine { get; init; } = "#4A2222";

    /// <inheritdoc cref="Inside"/>
    public string Lips { get; init; } = "#B4675C";
}

/// <summary>A character made from a picture: everything that is needed to draw it. Pictures are named by their hashes.</summary>
public sealed record PortraitRecipe
{
    /// <summary>Name that people read.</summary>
    public required string Name { get; init; }

    /// <summary>One sentence.</summary>
    public string Description { get; init; } = "";

    /// <summary>Voice that suits it.</summary>
    public string Voice { get; init; } = "espeak:en-us";

    /// <summary>Hash of the picture; where the figure is cut out, it has holes.</summary>
    public required string Picture { get; init; }

    /// <summary>Of the picture, in pixels.</summary>
    public required int Width { get; init; }

    /// <summary>Of the picture, in pixels.</summary>
    public required int Height { get; init; }

    /// <summary>The face.</summary>
    public required PortraitMarks Marks { get; init; }

    /// <summary>Eyes at the picture's left and right; null for none, or where they cannot be told.</summary>
    public EyePatch? EyeLeft { get; init; }

    /// <inheritdoc cref="EyeLeft"/>
    public EyePatch? EyeRight { get; init; }

    /// <summary>What is seen between the lips.</summary>
    public MouthLook Mouth { get; init; } = new();

    /// <summary>Parts that hang on pivots; null for none.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<PartPatch>? Parts { get; init; }

    /// <summary>The figure is cut out: it may move and stand anywhere.</summary>
    public bool IsFree { get; init; }

    /// <summary>Cells across and down of <see cref="Cover"/>.</summary>
    public const int CoverSide = 48;

    /// <summary>Which cells of the picture have anything in them, row by row, a bit each, the lowest first, in hexadecimal; null for all.</summary>
    public string? Cover { get; init; }

    /// <summary>Key of the set that the picture makes with nobody in it; null where there is none.</summary>
    public string? Behind { get; init; }

    /// <summary>What is wrong with it; null where nothing is.</summary>
    public string? Error()
    {
        if (string.IsNullOrWhiteSpace(Name) || Name.Length > 80 || Description.Length > 200)
            return "A portrait has a name of up to 80 characters.";
        if (Width is < 16 or > 20_000 || Height is < 16 or > 20_000)
            return "A portrait's picture has 16 to 20,000 pixels a side.";
        if (!Hashes.All(ArtText.IsHash))
            return "A portrait names its pictures by their hashes.";
        if (Mouth != null && new[] { Mouth.UpperTop, Mouth.UpperWide, Mouth.UpperHigh }.Any(v => !(MathF.Abs(v) <= 3)))
            return "The teeth are not in the mouth.";
        if (Mouth == null)
            return "A portrait says what is seen between its lips.";
        string[] colors = [Mouth.Inside, Mouth.Tongue, Mouth.LipLine, Mouth.Lips, .. new[] { EyeLeft, EyeRight }.OfType<EyePatch>().Select(e => e.Lash)];
        if (colors.FirstOrDefault(c => !ArtText.IsColor(c)) is { } color)
            return $"\"{color}\" is no colour: colours are written as #rrggbb.";
        if (Cover != null && (Cover.Length != CoverSide * CoverSide / 4 || !Cover.All(char.IsAsciiHexDigit)))
            return "A portrait says which cells of its picture have anything in them, or nothing of it.";
        if (Parts is { Count: > LoosePart.Most } || Parts?.Contains(null!) == true)
            return $"A portrait has at most {LoosePart.Most} parts that hang on pivots.";
        if (Parts?.Select(p => p.Error()).FirstOrDefault(e => e != null) is { } wrong)
            return wrong;
        if (Behind != null && PictureSet.Read(Behind) is not { Frames: 0 })
            return "What is behind a portrait is a picture.";
        return Marks.ErrorFor(Width, Height);
    }

    /// <summary>Hashes of all its pictures.</summary>
    public IEnumerable<string> Hashes =>
        new[]
        {
            Picture,
            EyeLeft?.White,
            EyeLeft?.Iris,
            EyeRight?.White,
            EyeRight?.Iris,
            Mouth?.TeethUpper?.Hash,
            Mouth?.TeethLower?.Hash,
            PictureSet.Read(Behind)?.Hash,
        }
            .Concat(Parts?.Select(p => p?.Hash) ?? [])
            .OfType<string>()
            .Distinct();

    /// <summary>Written down, in one order.</summary>
    public string ToJson() => JsonSerializer.Serialize(this, JsonSerializerOptions.Web);

    /// <summary>Reads what <see cref="ToJson"/> has written; null where it is none.</summary>
    public static PortraitRecipe? Read(string json)
    {
        try
        {
            var read = JsonSerializer.Deserialize<PortraitRecipe>(json, JsonSerializerOptions.Web);
            return read?.Error() == null ? read : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
