using Zamblo.Core.Interchange;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Performance;

/// <summary>A look that a direction within a line asks for.</summary>
/// <param name="Name">Index of the name that is looked at; null for a direction or the camera.</param>
/// <param name="Aim">"camera", "left", "right", "up" or "down"; null where somebody is looked at.</param>
/// <param name="Words">So many words are said before it.</param>
public sealed record DirectedLook(int? Name, string? Aim, int Words);

/// <summary>Looks for directions such as "(to Bubb)", "[looks up]", "(turns to the camera)" (common practice in screenplays).</summary>
public static class DirectedLooks
{
    // Beginnings of words for what eyes do.
    private static readonly string[] Looking = ["look", "turn", "glanc", "stare", "staring", "gaz", "fac", "peer"];
    private static readonly string[] Lens = ["camera", "audience", "viewer", "viewers"];
    private static readonly string[] Sides = ["left", "right", "up", "down"];

    /// <summary>What a direction asks the eyes to do, or null.</summary>
    /// <param name="direction">Without its marks.</param>
    /// <param name="names">Of those who can be looked at.</param>
    public static (int? Name, string? Aim)? Of(string direction, IReadOnlyList<string> names)
    {
        var words = Parts(direction);
        var from = Array.FindIndex(words, w => w is "to" or "at" or "toward" or "towards" or "facing");
        var looks = Array.Exists(words, w => Array.Exists(Looking, k => w.StartsWith(k, StringComparison.Ordinal)));
        // "(to Bubb)", "(quietly, to Bubb)" without a verb: whom it is said to.
        if (from >= 0 && from < words.Length - 1)
        {
            var whom = words[(from + 1)..];
            for (var i = 0; i < names.Count; i++)
                if (Parts(names[i]) is { Length: > 0 } name && (whom.Contains(name[^1]) || (name[0].Length > 2 && whom.Contains(name[0]))))
                    return (i, null);
            if (whom.Any(w => Lens.Contains(w)))
                return (null, "camera");
        }
        if (looks && !words.Contains("away") && Array.Find(words, w => Sides.Contains(w)) is { } side && !words.Contains("eyes"))
            return (null, side);
        return null;
    }

    /// <summary>All looks that the directions in a line ask for, in order.</summary>
    /// <param name="text">Of the line, with its directions.</param>
    /// <param name="names">Of those who can be looked at: everybody but whoever speaks.</param>
    public static IReadOnlyList<DirectedLook> In(string text, IReadOnlyList<string> names)
    {
        var found = new List<DirectedLook>();
        foreach (var d in Directions.In(text))
            if (Of(d.Text, names) is { } look)
                found.Add(new DirectedLook(look.Name, look.Aim, ScriptText.PlainWords(Directions.Spoken(text[..d.Start])).Count));
        return found;
    }

    /// <summary>Whom and where a speech of a screenplay has eyes look, in words: role names, "camera", "left", "right", "up", "down".</summary>
    public static IReadOnlyList<string> In(Screenplay play, ScreenplayLine line)
    {
        string[] others =
        [
            .. play.Lines.Select(l => l.Role).Distinct(StringComparer.OrdinalIgnoreCase).Where(r => !r.Equals(line.Role, StringComparison.OrdinalIgnoreCase)),
        ];
        return [.. In(line.WithDirection, others).Select(l => l.Name is { } who ? RoleNames.Of(others[who]) : l.Aim!)];
    }

    private static string[] Parts(string text) =>
        text.ToLowerInvariant().Split([' ', ',', '.', ';', '!', ':', '-', '"', '\''], StringSplitOptions.RemoveEmptyEntries);
}
