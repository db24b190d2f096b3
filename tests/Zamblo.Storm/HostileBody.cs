using System.Collections;
using System.Reflection;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;

namespace Zamblo.Storm;

/// <summary>
/// Bodies that a program other than ours might send: a good one, and from it many in which one value is missing, of another kind, out of range or
/// unreasonably large (OWASP ASVS 4.0.3, 5.1.3 and 5.1.4: positive validation of every input, with structure, type, length and range).
/// </summary>
public static class HostileBody
{
    // Too large for the parser of numbers, or no numbers at all, so no JSON library writes them.
    private const string Huge = "\u0001huge";

    private static readonly string[] Words =
    [
        "",
        " ",
        "\0",
        "99",
        "-1",
        "../../../../etc/passwd",
        "'; DROP TABLE Lines; --",
        "<speak><audio src='file:///etc/passwd'/></speak>",
        "[[[[[[[[",
        "\u202e\ud83e\udd56 \u0928\u092e\u0938\u094d\u0924\u0947",
        "NaN",
    ];

    /// <summary>A body that is as good as can be made without knowing more than names and types.</summary>
    /// <param name="type">Of the body.</param>
    /// <param name="known">Values of properties by their names in small letters: ids that are there, words, times.</param>
    public static JsonNode? Good(Type type, IReadOnlyDictionary<string, JsonNode?> known) => Good(type, "", known, 0);

    /// <summary>Everything that a good body becomes by one change.</summary>
    public static IEnumerable<string> Spoilt(Type type, JsonNode? good)
    {
        foreach (var whole in (string[])["", "null", "[]", "{}", "\"x\"", "17", "{\"", "[[[[[[[[[[", "{\"a\":{\"a\":{\"a\":{\"a\":{}}}}}"])
            yield return whole;
        foreach (var (path, at) in Places(type, [], 0))
        foreach (var value in Values(at))
        {
            var body = good?.DeepClone();
            if (body != null && Put(body, path, value))
                yield return Written(body);
        }
    }

    /// <summary>As it travels.</summary>
    public static string Written(JsonNode body) => body.ToJsonString().Replace($"\"{JsonEncodedText.Encode(Huge)}\"", "1e999", StringComparison.Ordinal);

    /// <summary>Hostile values of a type, as they stand in an address.</summary>
    public static IEnumerable<string> InAddress(Type type) =>
        Nullable.GetUnderlyingType(type) is { } inner ? InAddress(inner)
        : type == typeof(string) ? [.. Words, new string('a', 4000)]
        : type == typeof(Guid) ? ["x", Guid.Empty.ToString(), Guid.NewGuid().ToString()]
        : type == typeof(bool) ? ["x", "2"]
        : ["", "-1", "0", "1e308", "-1e308", "NaN", "Infinity", "x", "2147483647", "-2147483648", "9223372036854775807", "0.0000001"];

    private static bool IsNumber(Type t) => t == typeof(int) || t == typeof(long) || t == typeof(float) || t == typeof(double) || t == typeof(short);

    private static Type? ElementOf(Type t) =>
        t == typeof(string) ? null
        : t.IsArray ? t.GetElementType()
        : t.IsGenericType && typeof(IEnumerable).IsAssignableFrom(t) ? t.GetGenericArguments()[^1]
        : null;

    private static IEnumerable<PropertyInfo> Properties(Type t) =>
        t.GetProperties(BindingFlags.Public | BindingFlags.Instance)
            .Where(p =>
                p.GetIndexParameters().Length == 0 && p.GetCustomAttribute<JsonIgnoreAttribute>() == null && (p.CanWrite || p.Name != "EqualityContract")
            );

    private static string Name(PropertyInfo p) => JsonNamingPolicy.CamelCase.ConvertName(p.Name);

    private static JsonNode? Good(Type type, string name, IReadOnlyDictionary<string, JsonNode?> known, int depth)
    {
        type = Nullable.GetUnderlyingType(type) ?? type;
        if (known.TryGetValue(name.ToLowerInvariant(), out var value))
            return value?.DeepClone();
        if (type == typeof(string))
            return "Oven";
        if (type == typeof(Guid))
            return Guid.NewGuid().ToString();
        if (type == typeof(bool))
            return true;
        if (IsNumber(type))
            return type == typeof(float) || type == typeof(double) ? 0.5 : 1;
        if (type.IsEnum)
            return Enum.GetNames(type)[0];
        if (depth > 4)
            return null;
        if (ElementOf(type) is { } element)
            return new JsonArray(Good(element, name.TrimEnd('s'), known, depth + 1), Good(element, name.TrimEnd('s'), known, depth + 1));
        var body = new JsonObject();
        foreach (var p in Properties(type))
            body[Name(p)] = Good(p.PropertyType, p.Name, known, depth + 1);
        return body;
    }

    private static IEnumerable<(IReadOnlyList<string> Path, Type Type)> Places(Type type, IReadOnlyList<string> path, int depth)
    {
        type = Nullable.GetUnderlyingType(type) ?? type;
        if (path.Count > 0)
            yield return (path, type);
        if (depth > 3 || type == typeof(string) || type.IsPrimitive || type.IsEnum || type == typeof(Guid))
            yield break;
        if (ElementOf(type) is { } element)
        {
            foreach (var place in Places(element, [.. path, "0"], depth + 1))
                yield return place;
            yield break;
        }
        foreach (var p in Properties(type))
        foreach (var place in Places(p.PropertyType, [.. path, Name(p)], depth + 1))
            yield return place;
    }

    private static IEnumerable<JsonNode?> Values(Type type)
    {
        yield return null;
        yield return new JsonObject();
        yield return new JsonArray();
        yield return new JsonArray(new JsonArray(new JsonArray()));
        if (type == typeof(string) || type.IsEnum)
        {
            foreach (var word in Words)
                yield return word;
            yield return new string('a', 100_000);
            yield return 999;
            yield return -1;
        }
        else if (type == typeof(Guid))
        {
            yield return "x";
            yield return Guid.Empty.ToString();
            yield return Guid.NewGuid().ToString();
        }
        else if (type == typeof(bool))
            yield return "true";
        else if (IsNumber(type))
        {
            foreach (var number in (double[])[0, -1, 0.001, 1e308, -1e308, 2147483647, -2147483648, 9.3e18])
                yield return number;
            yield return "NaN";
            yield return Huge;
        }
        else if (ElementOf(type) is { } element)
        {
            yield return new JsonArray(null, null);
            yield return new JsonArray([.. Enumerable.Range(0, 3000).Select(_ => IsNumber(element) ? (JsonNode)1e300 : new JsonObject())]);
        }
    }

    private static bool Put(JsonNode body, IReadOnlyList<string> path, JsonNode? value)
    {
        var at = body;
        for (var i = 0; i < path.Count; i++)
        {
            var isLast = i == path.Count - 1;
            if (at is JsonObject o)
            {
                if (isLast)
                    o[path[i]] = value;
                at = isLast ? at : o[path[i]];
            }
            else if (at is JsonArray { Count: > 0 } a)
            {
                if (isLast)
                    a[0] = value;
                at = isLast ? at : a[0];
            }
            else
                return false;
            if (at == null)
                return false;
        }
        return true;
    }
}
