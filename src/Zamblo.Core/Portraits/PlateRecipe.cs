using System.Text.Json;
using System.Text.Json.Serialization;
using Zamblo.Core.Stage;

namespace Zamblo.Core.Portraits;

/// <summary>A character that is somebody in a clip: everything that is needed to draw it, by the hashes of its files.</summary>
public sealed record PlateRecipe
{
    /// <summary>Name that people read.</summary>
    public required string Name { get; init; }

    /// <summary>Voice that suits it.</summary>
    public string Voice { get; init; } = "espeak:en-us";

    /// <summary>Hash of the clip.</summary>
    public required string Clip { get; init; }

    /// <summary>Hash of the file that says where the face is in each of its frames (<see cref="PlateTrack"/>).</summary>
    public required string Track { get; init; }

    /// <summary>What is seen between the lips.</summary>
    public MouthLook Mouth { get; init; } = new();

    /// <summary>Colour of the lids' edge, "#rrggbb"; null where it was not measured.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Lash { get; init; }

    /// <summary>Which part of it is played, and how it goes on; null for all of it, forth and back.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public PlatePlay? Play { get; init; }

    /// <summary>What is wrong with it; null where nothing is.</summary>
    public string? Error()
    {
        if (string.IsNullOrWhiteSpace(Name) || Name.Length > 80)
            return "A plate has a name of up to 80 characters.";
        if (Mouth == null || new[] { Mouth.Inside, Mouth.Tongue, Mouth.LipLine, Mouth.Lips }.Any(c => c == null || !ArtText.IsColor(c)))
            return "A plate says what is seen between its lips, in colours that are written as #rrggbb.";
        if (Lash != null && !ArtText.IsColor(Lash))
            return "The edge of a lid has a colour that is written as #rrggbb.";
        if (Play?.Error() is { } error)
            return error;
        return Hashes.All(ArtText.IsHash) ? null : "A plate names its files by their hashes.";
    }

    /// <summary>Hashes of all its files.</summary>
    public IEnumerable<string> Hashes => new[] { Clip, Track, Mouth?.TeethUpper?.Hash, Mouth?.TeethLower?.Hash }.OfType<string>().Distinct();

    /// <summary>Written down, in one order.</summary>
    public string ToJson() => JsonSerializer.Serialize(this, JsonSerializerOptions.Web);

    /// <summary>Reads what <see cref="ToJson"/> has written; null where it is none.</summary>
    public static PlateRecipe? Read(string json)
    {
        try
        {
            var read = JsonSerializer.Deserialize<PlateRecipe>(json, JsonSerializerOptions.Web);
            return read?.Error() == null ? read : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
