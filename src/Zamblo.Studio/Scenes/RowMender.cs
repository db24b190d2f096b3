using Zamblo.Core;
using Zamblo.Core.Scenes;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Props;
using Zamblo.Data;

namespace Zamblo.Studio.Scenes;

/// <summary>
/// Rows as they can be shown: what cannot be (a file system that wrote half, a hand in the database, an older or newer version) is the nearest that
/// can, so that
/// a production always opens and the row can be changed or taken out. Nothing is written back.
/// </summary>
internal static class RowMender
{
    // No scene of ours is longer, in seconds; sizes in pixels.
    private const double Longest = 4 * 3600,
        LongestPause = 600;
    private const int Smallest = 64,
        Largest = 7680;

    /// <summary>A production and a scene.</summary>
    public static void Mend(Production production, Scene scene, CastLibrary library)
    {
        (production.Width, production.Height) = (Math.Clamp(production.Width, Smallest, Largest) & ~1, Math.Clamp(production.Height, Smallest, Largest) & ~1);
        if (!FrameRate.TryParse(production.Rate, out _))
            production.Rate = new Production().Rate;
        scene.LeadIn = In(scene.LeadIn, 0, LongestPause, 0.5);
        scene.LeadOut = In(scene.LeadOut, 0, LongestPause, 0.8);
        scene.Gap = In(scene.Gap, -LongestPause, LongestPause, 0.2);
        if (!library.HasBackdrop(scene.Backdrop))
            scene.Backdrop = library.BackdropKeys[0];
    }

    /// <summary>Someone in the cast; a character that is not there has a stand-in.</summary>
    public static void Mend(CastMember member, CastLibrary library)
    {
        if (!library.Has(member.Character))
            member.Character = library.CharacterKeys[0];
        if (!IsInk(member.Ink))
            member.Ink = new CastMember().Ink;
    }

    /// <summary>A line.</summary>
    public static void Mend(Line line)
    {
        line.Start = Or(line.Start, 0, Longest);
        line.Pause = Or(line.Pause, -LongestPause, LongestPause);
    }

    /// <summary>A take.</summary>
    public static void Mend(Take take)
    {
        if (!Enum.IsDefined(take.Kind))
            take.Kind = TakeKind.File;
        take.Duration = In(take.Duration, 0, Longest, 0);
        take.PartStart = Or(take.PartStart, 0, Longest);
        take.PartEnd = Or(take.PartEnd, 0, Longest);
        if (take.PartEnd <= take.PartStart)
            (take.PartStart, take.PartEnd) = (null, null);
        if (!AssetStore.IsHash(take.AssetHash))
            take.AssetHash = NoHash;
        take.SpeechHash = AssetStore.IsHash(take.SpeechHash) ? take.SpeechHash : null;
        take.GuideHash = AssetStore.IsHash(take.GuideHash) ? take.GuideHash : null;
    }

    /// <summary>A sound beside the voices.</summary>
    public static void Mend(SceneSound sound)
    {
        sound.Duration = In(sound.Duration, 0, Longest, 0);
        sound.Start = In(sound.Start, -Longest, Longest, 0);
        sound.From = In(sound.From, 0, Longest, 0);
        sound.Length = Or(sound.Length, 0, Longest);
        sound.Gain = In(sound.Gain, -60, 24, 0);
        sound.FadeIn = In(sound.FadeIn, 0, LongestPause, 0);
        sound.FadeOut = In(sound.FadeOut, 0, LongestPause, 0);
        sound.Duck = In(sound.Duck, 0, 60, 0);
        if (!Enum.IsDefined(sound.Kind))
            sound.Kind = SoundKind.Effect;
        if (!AssetStore.IsHash(sound.AssetHash))
            sound.AssetHash = NoHash;
    }

    /// <summary>A clip.</summary>
    public static void Mend(ScoreClip clip) => clip.Strength = In(clip.Strength, 0, 4, 1);

    /// <summary>A prop; what nobody knows is a crate.</summary>
    public static void Mend(SceneProp prop)
    {
        if (PropStock.Find(prop.Art) == null)
            prop.Art = "crate";
    }

    /// <summary>What was set by hand on a take.</summary>
    public static void Mend(TakeMark mark) => (mark.Start, mark.End) = (In(mark.Start, 0, Longest, 0), In(mark.End, 0, Longest, 0));

    /// <summary>The same.</summary>
    public static void Mend(TakePin pin) => (pin.Near, pin.Time) = (In(pin.Near, 0, Longest, 0), In(pin.Time, 0, Longest, 0));

    // A sound that is not there: it is asked for, and missed in a sentence.
    private static readonly string NoHash = new('0', 64);

    private static bool IsInk(string ink) => ink.Length == 7 && ink[0] == '#' && ink.Skip(1).All(char.IsAsciiHexDigit);

    private static double In(double value, double low, double high, double otherwise) => double.IsFinite(value) ? Math.Clamp(value, low, high) : otherwise;

    private static double? Or(double? value, double low, double high) => value is { } v && double.IsFinite(v) ? Math.Clamp(v, low, high) : null;
}
