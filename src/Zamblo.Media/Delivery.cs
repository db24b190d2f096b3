using System.Security;
using System.Text;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>How a text is to be spoken.</summary>
/// <param name="Speed">1 is the voice's own; 0.5 to 2.</param>
/// <param name="Pitch">0 to 1, 0.5 is the voice's own.</param>
/// <param name="Range">Liveliness, 0 to 1, 0.5 is the voice's own.</param>
/// <param name="Volume">0 to 2, 1 is the voice's own.</param>
/// <param name="Pauses">Extra pause between words, in seconds; 0 to 0.5.</param>
/// <param name="IsWhispered">Without the voice's tone, where the engine can.</param>
public sealed record Delivery(double Speed = 1, double Pitch = 0.5, double Range = 0.5, double Volume = 1, double Pauses = 0, bool IsWhispered = false)
{
    /// <summary>Deliveries with a name, and the mood that each suggests (none for calm).</summary>
    public static IReadOnlyList<(string Name, Delivery Delivery, string? Mood)> Presets { get; } =
    [
        ("Calm", new(0.92, 0.47, 0.4, 0.95, 0.01), null),
        ("Bright", new(1.08, 0.6, 0.75, 1.05), "Joy"),
        ("Angry", new(1.12, 0.55, 0.85, 1.4), "Anger"),
        ("Sad", new(0.8, 0.4, 0.22, 0.8, 0.03), "Sadness"),
        ("Whispering", new(0.9, 0.5, 0.3, 0.9, 0.01, true), "Mischief"),
        ("Solemn", new(0.78, 0.36, 0.3, 1, 0.04), "Pride"),
    ];

    private static readonly (string Preset, string[] Words)[] Directions =
    [
        ("Whispering", ["whisper", "hushed", "under her breath", "under his breath", "secret"]),
        ("Angry", ["angr", "furious", "shout", "yell", "snap", "loud", "annoyed"]),
        ("Sad", ["sad", "sob", "cry", "weep", "mourn", "tearful", "hopeless"]),
        ("Bright", ["bright", "happ", "cheer", "laugh", "excited", "joy", "delight", "smil"]),
        ("Solemn", ["solemn", "grave", "formal", "ominous", "proud"]),
        ("Calm", ["calm", "quiet", "soft", "gentl", "patient", "slow"]),
    ];

    /// <summary>What a direction in a script asks for: "(whispering)"; plain where it says nothing about the voice.</summary>
    public static Delivery FromDirection(string? direction) => NameOf(direction) is { } name ? Presets.First(p => p.Name == name).Delivery : new Delivery();

    /// <summary>Name of the delivery that a direction asks for, or null.</summary>
    public static string? NameOf(string? direction) =>
        direction == null ? null : Directions.FirstOrDefault(d => d.Words.Any(w => direction.Contains(w, StringComparison.OrdinalIgnoreCase))).Preset;

    /// <summary>The same within the ranges.</summary>
    public Delivery Clamped()
    {
        static double In(double x, double low, double high, double other) => double.IsFinite(x) ? Math.Clamp(x, low, high) : other;
        return this with
        {
            Speed = In(Speed, 0.5, 2, 1),
            Pitch = In(Pitch, 0, 1, 0.5),
            Range = In(Range, 0, 1, 0.5),
            Volume = In(Volume, 0, 2, 1),
            Pauses = In(Pauses, 0, 0.5, 0),
        };
    }
}

/// <summary>Marks up a text for espeak-ng, which reads SSML (W3C, "Speech Synthesis Markup Language 1.1").
/// Markup that somebody has typed is text like any other: an engine that is handed foreign markup opens files and starts programs.</summary>
internal static class Ssml
{
    /// <summary>
    /// The text marked up, and for each of its characters (as code points) the place in the text that it stands for; null and null where nothing
    /// needs marking up.
    /// </summary>
    /// <param name="text">What is said.</param>
    /// <param name="reading">What is stressed, and which words are said in their own way.</param>
    /// <param name="language">Of the voice, as a BCP 47 tag: the engine's signs for English sounds are an English voice's only.</param>
    public static (string? Text, int[]? Map) Write(string text, Reading reading, string language)
    {
        var isEnglish = language.StartsWith("en", StringComparison.Ordinal);
        var own = new Dictionary<int, (int Length, string Said)>();
        foreach (var figure in isEnglish ? [] : WrittenNumbers.In(text, language))
            if (figure.Reading != text.Substring(figure.Start, figure.Length))
                own[figure.Start] = (figure.Length, SecurityElement.Escape(figure.Reading));
        foreach (var (start, length, lexeme) in reading.In(text))
            if (SaidAs(lexeme, isEnglish) is { } said)
                own[start] = (length, said);
        if (reading.Stressed.Count == 0 && own.Count == 0)
            return (null, null);
        HashSet<int> starts = [.. reading.Stressed.Select(s => s.Start)],
            ends = [.. reading.Stressed.Select(s => s.End)];
        var result = new StringBuilder();
        var map = new List<int>();
        int rune = 0,
            leftOut = 0;
        void Put(string s, int at)
        {
            result.Append(s);
            for (var n = s.EnumerateRunes().Count(); n > 0; n--)
                map.Add(at);
        }
        var index = 0;
        foreach (var r in text.EnumerateRunes())
        {
            if (starts.Contains(index))
                Put("<prosody pitch=\"+25%\" volume=\"+45%\" rate=\"88%\">", rune);
            if (index >= leftOut && own.TryGetValue(index, out var word))
            {
                Put(word.Said, rune);
                leftOut = index + word.Length;
            }
            if (index >= leftOut)
                Put(SecurityElement.Escape(r.ToString()), rune);
            index += r.Utf16SequenceLength;
            if (ends.Contains(index))
                Put("</prosody>", rune);
            rune++;
        }
        return (result.ToString(), [.. map]);
    }

    // The blank keeps the engine from taking what follows for sounds too.
    private static string? SaidAs(Lexeme word, bool isEnglish) =>
        isEnglish ? WrittenSounds.ForEngine(word.Phones) + " "
        : word.Spelling is { } letters ? SecurityElement.Escape(letters)
        : null;
}
