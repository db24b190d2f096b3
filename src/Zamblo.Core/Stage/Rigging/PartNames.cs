using System.Text.RegularExpressions;
using Zamblo.Core.Performance;

namespace Zamblo.Core.Stage.Rigging;

/// <summary>What a part of a drawing is.</summary>
internal enum PartKind
{
    Body,
    Hips,
    Neck,
    Head,
    Hair,
    Hat,
    Ear,
    Horn,
    Nose,
    Cheek,
    Glasses,
    Beard,
    Eye,
    Pupil,
    Lid,
    Brow,
    Mouth,
    Arm,
    Forearm,
    Hand,
    Leg,
    Shin,
    Foot,
    Tail,
    Wing,

    /// <summary>Has a name that says nothing here.</summary>
    Other,
}

/// <summary>Which of two.</summary>
internal enum PartSide
{
    None,
    Left,
    Right,
}

/// <summary>What a name says.</summary>
/// <param name="Kind">Null where it says no more than a side.</param>
/// <param name="Side">Of the picture or of the figure: people mean either.</param>
/// <param name="IsBack">Behind.</param>
internal readonly record struct PartName(PartKind? Kind, PartSide Side, bool IsBack);

/// <summary>Understands the names that people give to the parts of a figure ("Left arm", "eye_R", "hairBack"); docs/characters.md has the list.</summary>
internal static partial class PartNames
{
    // Words of two parts come before those of one.
    private static readonly Dictionary<string, PartKind> Nouns = new()
    {
        ["eye brow"] = PartKind.Brow,
        ["eye lid"] = PartKind.Lid,
        ["eye ball"] = PartKind.Eye,
        ["upper arm"] = PartKind.Arm,
        ["lower arm"] = PartKind.Forearm,
        ["fore arm"] = PartKind.Forearm,
        ["upper leg"] = PartKind.Leg,
        ["lower leg"] = PartKind.Shin,
        ["body"] = PartKind.Body,
        ["torso"] = PartKind.Body,
        ["trunk"] = PartKind.Body,
        ["chest"] = PartKind.Body,
        ["belly"] = PartKind.Body,
        ["shirt"] = PartKind.Body,
        ["coat"] = PartKind.Body,
        ["dress"] = PartKind.Body,
        ["hip"] = PartKind.Hips,
        ["pelvis"] = PartKind.Hips,
        ["neck"] = PartKind.Neck,
        ["head"] = PartKind.Head,
        ["face"] = PartKind.Head,
        ["skull"] = PartKind.Head,
        ["hair"] = PartKind.Hair,
        ["fringe"] = PartKind.Hair,
        ["hat"] = PartKind.Hat,
        ["cap"] = PartKind.Hat,
        ["crown"] = PartKind.Hat,
        ["helmet"] = PartKind.Hat,
        ["ear"] = PartKind.Ear,
        ["horn"] = PartKind.Horn,
        ["antler"] = PartKind.Horn,
        ["antenna"] = PartKind.Horn,
        ["nose"] = PartKind.Nose,
        ["snout"] = PartKind.Nose,
        ["cheek"] = PartKind.Cheek,
        ["blush"] = PartKind.Cheek,
        ["glasses"] = PartKind.Glasses,
        ["spectacles"] = PartKind.Glasses,
        ["beard"] = PartKind.Beard,
        ["moustache"] = PartKind.Beard,
        ["whiskers"] = PartKind.Beard,
        ["eye"] = PartKind.Eye,
        ["eyeball"] = PartKind.Eye,
        ["pupil"] = PartKind.Pupil,
        ["iris"] = PartKind.Pupil,
        ["lid"] = PartKind.Lid,
        ["eyelid"] = PartKind.Lid,
        ["brow"] = PartKind.Brow,
        ["eyebrow"] = PartKind.Brow,
        ["mouth"] = PartKind.Mouth,
        ["lips"] = PartKind.Mouth,
        ["arm"] = PartKind.Arm,
        ["upperarm"] = PartKind.Arm,
        ["forearm"] = PartKind.Forearm,
        ["lowerarm"] = PartKind.Forearm,
        ["hand"] = PartKind.Hand,
        ["paw"] = PartKind.Hand,
        ["leg"] = PartKind.Leg,
        ["thigh"] = PartKind.Leg,
        ["upperleg"] = PartKind.Leg,
        ["shin"] = PartKind.Shin,
        ["calf"] = PartKind.Shin,
        ["lowerleg"] = PartKind.Shin,
        ["foot"] = PartKind.Foot,
        ["feet"] = PartKind.Foot,
        ["shoe"] = PartKind.Foot,
        ["boot"] = PartKind.Foot,
        ["tail"] = PartKind.Tail,
        ["wing"] = PartKind.Wing,
    };

    /// <summary>Kinds of which a figure has two, or more.</summary>
    public static bool IsPaired(PartKind kind) =>
        kind
            is PartKind.Ear
                or PartKind.Horn
                or PartKind.Cheek
                or PartKind.Eye
                or PartKind.Pupil
                or PartKind.Lid
                or PartKind.Brow
                or PartKind.Arm
                or PartKind.Forearm
                or PartKind.Hand
                or PartKind.Leg
                or PartKind.Shin
                or PartKind.Foot
                or PartKind.Wing;

    /// <summary>Whether it goes along with the head.</summary>
    public static bool IsOnHead(PartKind kind) => kind is >= PartKind.Head and <= PartKind.Mouth;

    /// <summary>What a name says; null for nothing.</summary>
    public static PartName? Of(string name)
    {
        var words = Word().Matches(name).Select(m => m.Value.ToLowerInvariant()).ToArray();
        PartKind? kind = null;
        for (var i = 0; i < words.Length; i++)
            if (i > 0 && Nouns.TryGetValue($"{words[i - 1]} {Single(words[i])}", out var pair))
                kind = pair;
            else if (Nouns.TryGetValue(words[i], out var one) || Nouns.TryGetValue(Single(words[i]), out one))
                kind = one;
        // The sound L is no side.
        if (words.Contains("mouth") || words.Contains("lips"))
            return new PartName(PartKind.Mouth, PartSide.None, false);
        var side =
            words.Any(w => w is "left" or "l" or "lt") ? PartSide.Left
            : words.Any(w => w is "right" or "r" or "rt") ? PartSide.Right
            : PartSide.None;
        return kind == null && side == PartSide.None ? null : new PartName(kind, side, words.Any(w => w is "back" or "behind" or "rear"));
    }

    /// <summary>What the fingers of a hand do, by its name: "hand left fist".</summary>
    public static HandShape FingersOf(string name)
    {
        foreach (var word in Word().Matches(name).Select(m => m.Value.ToLowerInvariant()))
            if (Enum.TryParse<HandShape>(word, true, out var shape))
                return shape;
        return HandShape.Relaxed;
    }

    // One of several.
    private static string Single(string word) => word.Length > 3 && word.EndsWith('s') ? word[..^1] : word;

    /// <summary>Whether somebody has written it: programs number what has no name.</summary>
    public static bool IsOfPerson(string name) => !Numbered().IsMatch(name);

    [GeneratedRegex("[A-Z]?[a-z]+|[A-Z]+(?![a-z])", RegexOptions.CultureInvariant)]
    private static partial Regex Word();

    [GeneratedRegex(
        @"\A_?(?:g|path|layer|group|rect|circle|ellipse|line|svg|use|polygon|polyline|surface|clip|mask|shape|vector|id|x)?[-_ ]?[\d_-]*\z",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    )]
    private static partial Regex Numbered();
}
