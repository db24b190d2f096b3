using System.Text.Json;
using System.Text.Json.Nodes;

namespace Zamblo.Studio.Edits;

/// <summary>Dials of which some are turned.</summary>
public static class Dials
{
    /// <summary>Dials with some of them turned; a dial within a dial (the strength of a shape) is turned by itself, too.</summary>
    /// <exception cref="RequestException">What is given are no dials.</exception>
    public static T Turned<T>(T dials, JsonObject change)
    {
        var all = JsonSerializer.SerializeToNode(dials, JsonSerializerOptions.Web)!.AsObject();
        foreach (var (name, value) in change)
        {
            var key = all.Select(p => p.Key).FirstOrDefault(k => k.Equals(name, StringComparison.OrdinalIgnoreCase)) ?? name;
            if (value is JsonObject inner && all[key] is JsonObject own)
                foreach (var (n, v) in inner)
                    own[n] = v?.DeepClone();
            else
                all[key] = value?.DeepClone();
        }
        try
        {
            return all.Deserialize<T>(JsonSerializerOptions.Web) ?? dials;
        }
        catch (JsonException)
        {
            throw new RequestException("These dials cannot be read.");
        }
    }
}
