namespace Zamblo.Core.Stage;

/// <summary>From the words of a scene heading to a set: "INT. SHOP - NIGHT" plays in the shop by night.</summary>
public static class SetWords
{
    // Beginnings of words, the most telling first.
    private static readonly (string Set, string[] Words)[] Known =
    [
        ("bakery", ["bakery", "bakehouse", "proving", "oven"]),
        ("booth", ["radio", "booth", "podcast", "on air"]),
        ("kitchen", ["kitchen", "pantry", "galley"]),
        ("train", ["train", "tram", "carriage", "compartment", "railway", "station"]),
        ("space", ["space", "rocket", "orbit", "moon", "planet", "cockpit"]),
        ("harbour", ["harbour", "harbor", "quay", "port", "pier", "dock", "beach", "sea"]),
        ("garden", ["garden", "park", "yard", "orchard", "meadow", "lawn"]),
        ("stage", ["stage", "theatre", "theater", "backstage", "auditorium"]),
        ("office", ["office", "desk", "bureau", "meeting", "studio"]),
        ("shop", ["shop", "store", "market", "counter", "kiosk"]),
        ("street", ["street", "road", "square", "alley", "pavement", "sidewalk", "town", "city", "bus stop", "outside"]),
        ("living", ["living", "lounge", "room", "home", "house", "flat", "apartment", "parlour", "parlor", "bedroom"]),
    ];

    private static readonly string[] Dark = ["night", "evening", "midnight", "dusk", "dark"];

    /// <summary>The key of the set that a heading asks for; null where it names no place that there is.</summary>
    public static string? SetOf(string heading)
    {
        var words = heading.ToLowerInvariant();
        bool Has(string word)
        {
            for (var at = 0; (at = words.IndexOf(word, at, StringComparison.Ordinal)) >= 0; at++)
                if (at == 0 || !char.IsLetter(words[at - 1]))
                    return true;
            return false;
        }
        var set = Known.FirstOrDefault(k => k.Words.Any(Has)).Set ?? (words.StartsWith("ext", StringComparison.Ordinal) ? "street" : null);
        if (set == null)
            return null;
        var night = set + "-night";
        return Dark.Any(Has) && CastLibrary.Shipped().BackdropKeys.Contains(night) ? night : set;
    }
}
