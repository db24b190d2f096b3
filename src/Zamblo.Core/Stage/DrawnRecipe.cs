using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace Zamblo.Core.Stage;

/// <summary>A character that a hand has drawn: its drawing and its rig, as texts (docs/characters.md says what stands in them).</summary>
/// <param name="Art">SVG of the plain kind that <see cref="DrawnFigure"/> reads.</param>
/// <param name="Rig">JSON.</param>
public sealed record DrawnRecipe([property: JsonRequired] string Art, [property: JsonRequired] string Rig)
{
    /// <summary>The figure.</summary>
    /// <exception cref="ArtException">One of the texts is not as it must be; where.</exception>
    public DrawnFigure Make(string name) => DrawnFigure.Read(Stream(Art), Stream(Rig), name);

    /// <summary>Hashes of the pictures that its mouths are; none where the rig cannot be read.</summary>
    [JsonIgnore]
    public IReadOnlyList<string> Hashes
    {
        get
        {
            try
            {
                return JsonSerializer.Deserialize<Rig>(Rig, Stage.Rig.Json) is { } rig ? [.. rig.Mouth.Pictures] : [];
            }
            catch (JsonException)
            {
                return [];
            }
        }
    }

    /// <summary>Names of the parts that the rig knows, and of what is drawn anew in every frame: groups of the drawing with other names are none.</summary>
    /// <exception cref="ArtException">The rig cannot be read.</exception>
    public static IReadOnlySet<string> PartsOf(string rig)
    {
        try
        {
            var read = JsonSerializer.Deserialize<Rig>(rig, Stage.Rig.Json) ?? throw new ArtException("The rig is empty.");
            return read
                .Parts.Select(p => p.Id)
                .Concat(read.Eyes.Select(e => e.Part))
                .Concat(read.Brows.Select(b => b.Part))
                .Append(read.Mouth.Part)
                .Where(id => id != null && ArtText.IsName(id))
                .ToHashSet();
        }
        catch (JsonException e)
        {
            throw new ArtException($"The rig cannot be read: {e.Message}");
        }
    }

    /// <summary>As one text, to be kept.</summary>
    public string ToJson() => JsonSerializer.Serialize(this, JsonSerializerOptions.Web);

    /// <summary>What <see cref="ToJson"/> has written; null for anything else.</summary>
    public static DrawnRecipe? Read(string json)
    {
        try
        {
            return JsonSerializer.Deserialize<DrawnRecipe>(json, JsonSerializerOptions.Web) is { Art: not null, Rig: not null } read ? read : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    private static MemoryStream Stream(string text) => new(Encoding.UTF8.GetBytes(text));
}
