using System.Text.Json;

namespace Zamblo.Data;

/// <summary>
/// What an edit touches, as text: "Line:id:Text" for a value, "Line:id" for a row that comes or goes, "CastMember:id:MouthDials.strength" for a
/// member of a value that is a JSON object. Two edits meet where one of these is the same or lies within the other.
/// </summary>
internal static class EditFootprint
{
    public static IEnumerable<string> Of(RowChange change)
    {
        var row = change.Row;
        if (change.Before == null || change.After == null)
        {
            yield return row;
            yield break;
        }
        foreach (var (name, before) in change.Before)
        {
            var after = change.After[name];
            if (before.GetRawText() == after.GetRawText())
                continue;
            var members = Members(before, after).ToArray();
            if (members.Length == 0)
                yield return $"{row}:{name}";
            foreach (var member in members)
                yield return $"{row}:{name}.{member}";
        }
    }

    /// <summary>Whether two of them meet.</summary>
    public static bool Meet(string a, string b) => a == b || Within(a, b) || Within(b, a);

    private static bool Within(string inner, string outer) => inner.StartsWith(outer, StringComparison.Ordinal) && inner[outer.Length] is ':' or '.';

    // Of two JSON objects in text, the members in which they differ; an empty text is an object without members.
    private static IEnumerable<string> Members(JsonElement before, JsonElement after)
    {
        if (Object(before) is not { } a || Object(after) is not { } b)
            yield break;
        foreach (var name in a.Keys.Union(b.Keys))
            if (!a.TryGetValue(name, out var x) || !b.TryGetValue(name, out var y) || x.GetRawText() != y.GetRawText())
                yield return name;
    }

    private static Dictionary<string, JsonElement>? Object(JsonElement value)
    {
        if (value.ValueKind != JsonValueKind.String)
            return null;
        var text = value.GetString()!;
        if (text.Length == 0)
            return [];
        if (text[0] != '{')
            return null;
        try
        {
            return JsonSerializer.Deserialize<Dictionary<string, JsonElement>>(text);
        }
        catch (JsonException)
        {
            return null;
        }
    }
}

/// <summary>A row before and after an edit.</summary>
internal sealed record RowChange(
    string Type,
    Dictionary<string, JsonElement> Key,
    Dictionary<string, JsonElement>? Before,
    Dictionary<string, JsonElement>? After
)
{
    /// <summary>Which row: "Line:id".</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public string Row => Type + ":" + string.Join(',', Key.Values);
}
