namespace Zamblo.Core.Speech;

/// <summary>
/// From the International Phonetic Alphabet to the nearest phones of the acoustic model. For sounds that American English lacks the
/// choice goes by what is seen on the mouth first (place, lip rounding, opening) and by sound second; the reason stands beside each.
/// </summary>
public static class Ipa
{
    // Longest first within each first letter; several phones where one IPA sign is two of ours.
    private static readonly (string Sign, string[] Phones)[] Table =
    [
        // Diphthongs and rhotic vowels as espeak-ng writes them.
        ("aɪə", ["AY", "AH"]),
        ("aɪɚ", ["AY", "ER"]),
        ("aʊə", ["AW", "AH"]),
        ("aɪ", ["AY"]),
        ("aʊ", ["AW"]),
        ("eɪ", ["EY"]),
        ("ɔɪ", ["OY"]),
        ("oʊ", ["OW"]),
        ("əʊ", ["OW"]),
        ("oːɹ", ["AO", "R"]),
        ("ɔːɹ", ["AO", "R"]),
        ("ɑːɹ", ["AA", "R"]),
        ("ɪɹ", ["IH", "R"]),
        ("ɛɹ", ["EH", "R"]),
        ("ʊɹ", ["UH", "R"]),
        ("ɪə", ["IH", "AH"]),
        ("eə", ["EH", "AH"]),
        ("ʊə", ["UH", "AH"]),
        ("iə", ["IY", "AH"]),
        ("əl", ["AH", "L"]),
        ("n̩", ["AH", "N"]),
        ("l̩", ["AH", "L"]),
        ("m̩", ["AH", "M"]),
        ("ɔø", ["OY"]),
        ("ɔʏ", ["OY"]),
        ("ʊɪ", ["UW", "IY"]),
        ("œy", ["ER", "IY"]),
        ("ɛɪ", ["EY"]),
        ("ʌʊ", ["AW"]),
        ("ɐ̃", ["AH", "N"]),
        // Affricates.
        ("tʃ", ["CH"]),
        ("dʒ", ["JH"]),
        ("t͡ʃ", ["CH"]),
        ("d͡ʒ", ["JH"]),
        ("ts", ["T", "S"]),
        ("dz", ["D", "Z"]),
        ("pf", ["P", "F"]),
        ("tɕ", ["CH"]),
        ("dʑ", ["JH"]),
        ("tʂ", ["CH"]),
        ("dʐ", ["JH"]),
        ("ʈʂ", ["CH"]),
        ("ɖʐ", ["JH"]),
        ("cɕ", ["CH"]),
        ("ɟʑ", ["JH"]),
        // Vowels.
        ("iː", ["IY"]),
        ("i", ["IY"]),
        ("ɪ", ["IH"]),
        ("ᵻ", ["IH"]),
        (
            "ɨ",
            ["IH"] /* central, unrounded, close */
        ),
        ("e", ["EY"]),
        ("ɛ", ["EH"]),
        ("æ", ["AE"]),
        ("a", ["AA"]),
        ("ɐ", ["AH"]),
        ("ɑ", ["AA"]),
        (
            "ɒ",
            ["AA"] /* the model's AA covers the unrounded and the short back vowel */
        ),
        ("ɔ", ["AO"]),
        ("o", ["OW"]),
        ("ʊ", ["UH"]),
        ("uː", ["UW"]),
        ("u", ["UW"]),
        ("ʌ", ["AH"]),
        ("ə", ["AH"]),
        ("ɚ", ["ER"]),
        ("ɝ", ["ER"]),
        (
            "ɜ",
            ["ER"] /* British: no r, same lips */
        ),
        (
            "y",
            ["UW"] /* front but rounded: lips decide */
        ),
        ("ʏ", ["UH"]),
        (
            "ø",
            ["UH"] /* mid, rounded */
        ),
        (
            "œ",
            ["ER"] /* open-mid, rounded */
        ),
        (
            "ɯ",
            ["UW"] /* Japanese u: compressed lips */
        ),
        ("ɤ", ["AH"]),
        ("ʉ", ["UW"]),
        ("ɘ", ["AH"]),
        ("ɵ", ["UH"]),
        ("ɶ", ["AE"]),
        // Consonants.
        ("p", ["P"]),
        ("b", ["B"]),
        ("t", ["T"]),
        ("d", ["D"]),
        ("k", ["K"]),
        ("ɡ", ["G"]),
        ("g", ["G"]),
        ("m", ["M"]),
        ("n", ["N"]),
        ("ŋ", ["NG"]),
        (
            "ɲ",
            ["N"] /* tongue only; Y follows by itself */
        ),
        ("ɳ", ["N"]),
        ("ɴ", ["NG"]),
        ("ɱ", ["M"]),
        ("f", ["F"]),
        ("v", ["V"]),
        ("θ", ["TH"]),
        ("ð", ["DH"]),
        ("s", ["S"]),
        ("z", ["Z"]),
        ("ʃ", ["SH"]),
        ("ʒ", ["ZH"]),
        ("h", ["HH"]),
        ("ɦ", ["HH"]),
        ("ɕ", ["SH"]),
        ("ʑ", ["ZH"]),
        ("ʂ", ["SH"]),
        ("ʐ", ["ZH"]),
        (
            "x",
            ["HH"] /* velar, no lips; K would add a burst */
        ),
        ("χ", ["HH"]),
        ("ç", ["HH"]),
        ("ɣ", ["G"]),
        ("ʁ", ["R"]),
        ("ħ", ["HH"]),
        ("ʕ", ["AA"]),
        (
            "ɸ",
            ["F"] /* both lips near: F is the nearest that is seen */
        ),
        ("β", ["V"]),
        ("ʋ", ["V"]),
        ("ɹ", ["R"]),
        ("r", ["R"]),
        (
            "ɾ",
            ["D"] /* one tap of the tongue tip */
        ),
        ("ɽ", ["D"]),
        ("ʀ", ["R"]),
        ("ɻ", ["R"]),
        ("l", ["L"]),
        ("ɫ", ["L"]),
        ("ʎ", ["L"]),
        ("ɭ", ["L"]),
        ("ɬ", ["L"]),
        ("j", ["Y"]),
        ("w", ["W"]),
        ("ɥ", ["W"]),
        ("ʍ", ["W"]),
        ("ʈ", ["T"]),
        ("ɖ", ["D"]),
        ("c", ["K"]),
        ("ɟ", ["G"]),
        ("q", ["K"]),
        ("ɓ", ["B"]),
        ("ɗ", ["D"]),
    ];

    private static readonly Dictionary<char, (string Sign, string[] Phones)[]> ByFirst = Table
        .GroupBy(t => t.Sign[0])
        .ToDictionary(g => g.Key, g => g.OrderByDescending(t => t.Sign.Length).ToArray());

    /// <summary>Phones for a transcription. Stress, length and signs without a sound of their own are passed over.</summary>
    public static string[] ToArpabet(string ipa)
    {
        var phones = new List<string>();
        // The engine marks a change of language as "(en)": not a sound.
        ipa = System.Text.RegularExpressions.Regex.Replace(ipa, @"\([a-z-]+\)", "").Replace("_", "").Replace("\u0361", "");
        // Letters with a built-in mark (centralised, nasal) are looked up without it.
        foreach (var (marked, plain) in (ReadOnlySpan<(char, char)>)[('ä', 'a'), ('ã', 'a'), ('ẽ', 'e'), ('ĩ', 'i'), ('õ', 'o'), ('ũ', 'u'), ('ỹ', 'y')])
            ipa = ipa.Replace(marked, plain);
        for (var i = 0; i < ipa.Length; )
        {
            var step = 1;
            if (ByFirst.TryGetValue(ipa[i], out var candidates))
                foreach (var (sign, found) in candidates)
                    if (string.CompareOrdinal(ipa, i, sign, 0, sign.Length) == 0)
                    {
                        phones.AddRange(found);
                        step = sign.Length;
                        break;
                    }
            i += step;
        }
        return [.. phones];
    }
}
