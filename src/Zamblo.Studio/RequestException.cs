using Zamblo.Core.Interchange;

namespace Zamblo.Studio;

/// <summary>What a caller asked for cannot be done; the message is a sentence for a person.</summary>
public sealed class RequestException(string message) : Exception(message);

/// <summary>Checks of what comes from outside; each gives the value or refuses it with a sentence.</summary>
public static class Check
{
    /// <summary>A name between 1 and so many characters, without control characters, trimmed.</summary>
    public static string Name(string? text, int most, string what)
    {
        text = text?.Trim() ?? "";
        if (text.Length == 0 || text.Length > most)
            throw new RequestException($"{what} has 1 to {most} characters.");
        if (text.Any(char.IsControl))
            throw new RequestException($"{what} has no control characters.");
        return text;
    }

    /// <summary>The tag of a language; empty for the one that is spoken.</summary>
    public static string Language(string? tag) =>
        CaptionWording.IsLanguage(tag ??= "") ? tag : throw new RequestException($"\"{tag}\" is no language: write a tag such as de or pt-BR.");

    /// <summary>A finite number within a range.</summary>
    public static double Range(double value, double low, double high, string what) =>
        double.IsFinite(value) ? Math.Clamp(value, low, high) : throw new RequestException($"{what} is a number.");

    /// <summary>A value that an enumeration has a name for: never a number in its place.</summary>
    public static T Known<T>(T value, string what)
        where T : struct, Enum => Enum.IsDefined(value) ? value : throw new RequestException($"There is no {what} \"{value}\".");

    /// <summary>The name of a file as people see it: without folders, not too long.</summary>
    public static string FileName(string? name, string otherwise)
    {
        name = Path.GetFileName((name ?? "").Replace('\\', '/')).Trim();
        name = string.Concat(name.Where(c => !char.IsControl(c)));
        return name.Length switch
        {
            0 => otherwise,
            > 200 => name[..200],
            _ => name,
        };
    }
}
