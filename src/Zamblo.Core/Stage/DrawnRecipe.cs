using System.Globalization;
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

    /// <summary>Its shapes, back to front: the part that each belongs to, and its path data.</summary>
    /// <exception cref="ArtException">The drawing is not as it must be.</exception>
    public IReadOnlyList<(string Part, string Path)> Shapes() => [.. SvgArt.Read(Stream(Art), "this character").Shapes.Select(s => (s.Part, s.Path))];

    /// <summary>Names of its groups, back to front.</summary>
    /// <exception cref="ArtException">The drawing is not as it must be.</exception>
    public IReadOnlyList<string> Order() => [.. SvgArt.Read(Stream(Art), "this character").Parts.Distinct()];

    /// <summary>The same with its groups in another order; they lie beside each other then, for what hangs on what the rig says.</summary>
    /// <param name="order">Back to front: all names that there are, each once.</param>
    /// <exception cref="ArtException">The order has other names than the drawing.</exception>
    public DrawnRecipe InOrder(IReadOnlyList<string> order)
    {
        var art = SvgArt.Read(Stream(Art), "this character");
        string[] parts = [.. art.Parts.Distinct()];
        if (parts.SequenceEqual(order))
            return this;
        if (order.Count != parts.Length || !parts.ToHashSet().SetEquals(order))
            throw new ArtException("The order of the parts names others than the drawing has.");
        var text = new StringBuilder();
        text.Append(CultureInfo.InvariantCulture, $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {art.Size.X} {art.Size.Y}\">\n");
        // What belongs to no part is no part's, and stays behind all.
        foreach (var part in order.Prepend(""))
        {
            if (part.Length > 0)
                text.Append($"<g id=\"{part}\">\n");
            foreach (var s in art.Shapes.Where(s => s.Part == part))
                text.Append(CultureInfo.InvariantCulture, $"<path d=\"{s.Path}\" fill=\"{s.Fill ?? "none"}\" stroke=\"{s.Stroke ?? "none"}\"")
                    .Append(CultureInfo.InvariantCulture, $" stroke-width=\"{s.Width}\" data-nib=\"{s.Nib}\" opacity=\"{s.Opacity}\"/>\n");
            text.Append(part.Length > 0 ? "</g>\n" : "");
        }
        return this with { Art = text.Append("</svg>\n").ToString() };
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
