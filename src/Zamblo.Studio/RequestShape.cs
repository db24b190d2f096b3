using System.Collections;
using System.Collections.Concurrent;
using System.Reflection;
using System.Text.Json.Nodes;

namespace Zamblo.Studio;

/// <summary>
/// What holds for every value that comes from outside, whatever it is for: numbers are finite, names of choices are known, lists have no holes, texts
/// no NUL, and nothing is unreasonably long (OWASP ASVS 4.0.3, 5.1.3 and 5.1.4). What a value means is checked by whoever uses it.
/// </summary>
public static class RequestShape
{
    /// <summary>A text has at most so many characters: ten times a long screenplay.</summary>
    public const int LongestText = 2_000_000;

    /// <summary>A list has at most so many elements: half an hour of a hand's motion at 100 Hz.</summary>
    public const int LongestList = 200_000;

    // Nothing that we take is nested as deeply.
    private const int Deepest = 12;

    private static readonly ConcurrentDictionary<Type, PropertyInfo[]> Properties = new();

    /// <summary>Looks at a value and everything in it.</summary>
    /// <exception cref="RequestException">It cannot be what anybody meant.</exception>
    public static void Check(object? value) => Check(value, 0);

    private static void Check(object? value, int depth)
    {
        switch (value)
        {
            case null or bool or Guid or int or long or JsonNode or Stream or Delegate:
                return;
            case double d:
                Finite(double.IsFinite(d));
                return;
            case float f:
                Finite(float.IsFinite(f));
                return;
            case string s:
                if (s.Length > LongestText)
                    throw new RequestException($"A text has at most {LongestText:N0} characters.");
                if (s.Contains('\0', StringComparison.Ordinal))
                    throw new RequestException("A text has no NUL characters.");
                return;
            case Enum e:
                if (!Enum.IsDefined(e.GetType(), e))
                    throw new RequestException($"There is no choice \"{e}\".");
                return;
        }
        if (depth > Deepest)
            throw new RequestException("This request is nested too deeply.");
        if (value is IDictionary pairs)
        {
            Count(pairs.Count);
            foreach (DictionaryEntry pair in pairs)
            {
                Check(pair.Key, depth + 1);
                Check(pair.Value ?? throw Missing(), depth + 1);
            }
        }
        else if (value is IEnumerable list)
        {
            var count = 0;
            foreach (var element in list)
            {
                Count(++count);
                Check(element ?? throw Missing(), depth + 1);
            }
        }
        else if (value.GetType().Assembly.GetName().Name!.StartsWith("Zamblo", StringComparison.Ordinal))
            foreach (var property in Properties.GetOrAdd(value.GetType(), Own))
                Check(property.GetValue(value), depth + 1);
    }

    private static PropertyInfo[] Own(Type type) =>
        [.. type.GetProperties(BindingFlags.Public | BindingFlags.Instance).Where(p => p.CanWrite && p.GetIndexParameters().Length == 0)];

    private static void Finite(bool isFinite)
    {
        if (!isFinite)
            throw new RequestException("A number in this request is too large, or none.");
    }

    private static void Count(int count)
    {
        if (count > LongestList)
            throw new RequestException($"A list has at most {LongestList:N0} elements.");
    }

    private static RequestException Missing() => new("Something in a list of this request is missing.");
}
