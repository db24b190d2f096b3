namespace Zamblo.Core.Speech;

/// <summary>How a person writes down what a word sounds like, read as phones; and phones written so that a synthesis engine says them.</summary>
public static class WrittenSounds
{
    // Mnemonics of espeak-ng's en-us voice (its documentation, "Phonemes"; checked by ear with the engine).
    private static readonly Dictionary<string, string> Mnemonics = new()
    {
        ["AA"] = "A:",
        ["AE"] = "a",
        ["AH"] = "V",
        ["AO"] = "O:",
        ["AW"] = "aU",
        ["AY"] = "aI",
        ["B"] = "b",
        ["CH"] = "tS",
        ["D"] = "d",
        ["DH"] = "D",
        ["EH"] = "E",
        ["ER"] = "3:",
        ["EY"] = "eI",
        ["F"] = "f",
        ["G"] = "g",
        ["HH"] = "h",
        ["IH"] = "I",
        ["IY"] = "i:",
        ["JH"] = "dZ",
        ["K"] = "k",
        ["L"] = "l",
        ["M"] = "m",
        ["N"] = "n",
        ["NG"] = "N",
        ["OW"] = "oU",
        ["OY"] = "OI",
        ["P"] = "p",
        ["R"] = "r",
        ["S"] = "s",
        ["SH"] = "S",
        ["T"] = "t",
        ["TH"] = "T",
        ["UH"] = "U",
        ["UW"] = "u:",
        ["V"] = "v",
        ["W"] = "w",
        ["Y"] = "j",
        ["Z"] = "z",
        ["ZH"] = "Z",
    };

    // The sign of each phone that the mnemonic is not already (International Phonetic Association, 2020, as espeak-ng writes American English).
    private static readonly Dictionary<string, string> Signs = new()
    {
        ["AA"] = "ɑː",
        ["AE"] = "æ",
        ["AH"] = "ʌ",
        ["AO"] = "ɔː",
        ["AW"] = "aʊ",
        ["AY"] = "aɪ",
        ["CH"] = "tʃ",
        ["DH"] = "ð",
        ["EH"] = "ɛ",
        ["ER"] = "ɜː",
        ["EY"] = "eɪ",
        ["G"] = "ɡ",
        ["IH"] = "ɪ",
        ["IY"] = "iː",
        ["JH"] = "dʒ",
        ["NG"] = "ŋ",
        ["OW"] = "oʊ",
        ["OY"] = "ɔɪ",
        ["R"] = "ɹ",
        ["SH"] = "ʃ",
        ["TH"] = "θ",
        ["UH"] = "ʊ",
        ["UW"] = "uː",
        ["ZH"] = "ʒ",
    };

    /// <summary>Whether what was written is neither ARPAbet nor IPA, but letters to be read.</summary>
    public static bool IsSpelling(string written) => Sounds(written.Trim()) == null;

    // Phones that are written as such, or null.
    private static string[]? Sounds(string written)
    {
        var tokens = written.ToUpperInvariant().Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries).Select(t => t.TrimEnd('0', '1', '2')).ToArray();
        // A single "a" or "I" is a word; two and more that are all phones are phones.
        if (tokens.Length > 0 && tokens.All(Arpabet.Phones.Contains) && (tokens.Length > 1 || written == tokens[0]))
            return tokens;
        var inMarks = written.Length > 2 && (written[0], written[^1]) is ('/', '/') or ('[', ']');
        return inMarks ? Ipa.ToArpabet(written[1..^1])
            : written.Any(c => c > 0x24F) ? Ipa.ToArpabet(written)
            : null;
    }

    /// <summary>
    /// Reads what was written: ARPAbet ("OW V AH N", stress digits allowed), IPA (in slashes or brackets, or with any sign that only IPA has),
    /// or a spelling ("uvn"), which goes to <paramref name="spelling"/>.
    /// </summary>
    /// <param name="written">What was written.</param>
    /// <param name="spelling">How a plain word is said.</param>
    /// <returns>Phones; none when nothing of it is a sound.</returns>
    public static string[] Read(string written, Func<string, IReadOnlyList<string[]>> spelling)
    {
        written = written.Trim();
        if (Sounds(written) is { } sounds)
            return sounds;
        return [.. written.ToLowerInvariant().Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries).SelectMany(w => spelling(w).FirstOrDefault() ?? [])];
    }

    /// <summary>Phones as the engine espeak-ng reads them in a text.</summary>
    /// <param name="phones">ARPAbet; the first vowel is stressed.</param>
    public static string ForEngine(IReadOnlyList<string> phones) => $"[[{Written(phones, p => Mnemonics.GetValueOrDefault(p), "'")}]]";

    /// <summary>Phones in IPA.</summary>
    /// <param name="phones">ARPAbet; the first vowel is stressed.</param>
    public static string ToIpa(IReadOnlyList<string> phones) => Written(phones, p => Signs.GetValueOrDefault(p) ?? Mnemonics.GetValueOrDefault(p), "ˈ");

    private static string Written(IReadOnlyList<string> phones, Func<string, string?> signOf, string stress)
    {
        var stressed = false;
        var text = "";
        foreach (var p in phones)
        {
            if (signOf(p) is not { } sign)
                continue;
            if (!stressed && Arpabet.Vowels.Contains(p))
                (stressed, text) = (true, text + stress);
            text += sign;
        }
        return text;
    }
}
