using Zamblo.Core.Speech;

namespace Zamblo.Core.Performance;

/// <summary>A gesture that a direction within a line asks for.</summary>
/// <param name="Gesture">Its key in the library.</param>
/// <param name="Words">So many words are said before it.</param>
/// <param name="Direction">As it stands in the line.</param>
public sealed record DirectedGesture(string Gesture, int Words, string Direction);

/// <summary>Gestures for directions such as "[sighs]" and "(shrugs)".</summary>
public static class DirectedGestures
{
    // Beginning of a word, and with "a b" a second word that is there as well; the first that fits is taken (chosen by what the library has).
    private static readonly (string Words, string Gesture)[] Known =
    [
        ("sigh", "sigh"),
        ("exhal", "sigh"),
        ("breath", "sigh"),
        ("shrug", "shrug"),
        ("shak head", "shake"),
        ("nod", "nod"),
        ("wav", "wave"),
        ("wink", "wink"),
        ("bow", "bow"),
        ("thumb", "thumb-up"),
        ("shak fist", "shake-fist"),
        ("pinch", "pinch"),
        ("stop", "stop"),
        ("count", "count"),
        ("point", "point"),
        ("roll eyes", "eye-roll"),
        ("frown", "frown"),
        ("squint", "squint"),
        ("think", "think"),
        ("cheer", "cheer"),
        ("shiver", "shiver"),
        ("shudder", "shiver"),
        ("trembl", "shiver"),
        ("stamp", "stamp"),
        ("hop", "hop"),
        ("jump", "hop"),
        ("laugh", "sway"),
        ("chuckl", "sway"),
        ("giggl", "sway"),
        ("gasp", "perk-up"),
        ("double take", "double-take"),
        ("lean in", "lean-in"),
        ("lean forward", "lean-in"),
        ("lean back", "lean-back"),
        ("look away", "look-aside"),
        ("aside", "look-aside"),
        ("raise brow", "one-brow"),
        ("blink", "double-blink"),
    ];

    /// <summary>What a direction asks for, or null.</summary>
    public static string? Of(string direction)
    {
        var words = direction.ToLowerInvariant().Split([' ', ',', '.', ';', '!', '-'], StringSplitOptions.RemoveEmptyEntries);
        foreach (var (known, gesture) in Known)
            if (known.Split(' ').All(k => Array.Exists(words, w => w.StartsWith(k, StringComparison.Ordinal))))
                return gesture;
        return null;
    }

    /// <summary>All gestures that the directions in a line ask for, in order.</summary>
    public static IReadOnlyList<DirectedGesture> In(string text)
    {
        var found = new List<DirectedGesture>();
        foreach (var d in Directions.In(text))
            if (Of(d.Text) is { } gesture)
                found.Add(new DirectedGesture(gesture, ScriptText.PlainWords(Directions.Spoken(text[..d.Start])).Count, d.Text));
        return found;
    }
}
