namespace Zamblo.Core.Speech;

/// <summary>
/// The phone set of the acoustic model and of the whole program: the 39 phones of the CMU pronouncing dictionary
/// (ARPAbet without stress digits), silence and two noises.
/// </summary>
public static class Arpabet
{
    /// <summary>Silence.</summary>
    public const string Silence = "SIL";

    /// <summary>Breath, click or other noise that is not speech.</summary>
    public const string Noise = "+NSN+";

    /// <summary>Speech that cannot be told.</summary>
    public const string Spoken = "+SPN+";

    /// <summary>Vowels, diphthongs included; each is the nucleus of a syllable.</summary>
    public static readonly IReadOnlySet<string> Vowels = new HashSet<string>
    {
        "AA",
        "AE",
        "AH",
        "AO",
        "AW",
        "AY",
        "EH",
        "ER",
        "EY",
        "IH",
        "IY",
        "OW",
        "OY",
        "UH",
        "UW",
    };

    /// <summary>All 39 speech phones, in alphabetical order.</summary>
    public static readonly IReadOnlyList<string> Phones =
    [
        "AA",
        "AE",
        "AH",
        "AO",
        "AW",
        "AY",
        "B",
        "CH",
        "D",
        "DH",
        "EH",
        "ER",
        "EY",
        "F",
        "G",
        "HH",
        "IH",
        "IY",
        "JH",
        "K",
        "L",
        "M",
        "N",
        "NG",
        "OW",
        "OY",
        "P",
        "R",
        "S",
        "SH",
        "T",
        "TH",
        "UH",
        "UW",
        "V",
        "W",
        "Y",
        "Z",
        "ZH",
    ];

    /// <summary>True for phones during which no speech is made.</summary>
    public static bool IsSilent(string phone) => phone is Silence or Noise or "";
}
