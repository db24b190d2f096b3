using System.Text.Json.Serialization;
using Zamblo.Core.Audio;
using Zamblo.Core.Scenes;

namespace Zamblo.Core.Review;

/// <summary>What may be wrong with a film.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<ReviewKind>))]
public enum ReviewKind
{
    /// <summary>A mouth is open while nothing is said.</summary>
    OpenInSilence,

    /// <summary>Lips do not meet on a P, B or M.</summary>
    LipsApart,

    /// <summary>A mouth goes open and shut faster than anybody speaks.</summary>
    Chatter,

    /// <summary>Whoever speaks in a clip is not seen, or turned away.</summary>
    MouthNotSeen,

    /// <summary>A word was not surely heard.</summary>
    UnsureWord,

    /// <summary>The script says other things than the voice.</summary>
    OtherWords,

    /// <summary>Somebody on stage has nothing to say in the whole film.</summary>
    NoVoice,

    /// <summary>A line has no voice.</summary>
    NoTake,

    /// <summary>Two speak at once.</summary>
    Overlap,

    /// <summary>Nothing happens for long.</summary>
    DeadAir,

    /// <summary>The sound is cut off at its greatest level.</summary>
    Clipping,

    /// <summary>A voice is much louder or softer than the one before.</summary>
    LevelJump,

    /// <summary>Noise under a voice.</summary>
    Noise,

    /// <summary>A head stands still while its mouth speaks.</summary>
    HeadStill,

    /// <summary>A head turns faster than heads do.</summary>
    HeadJerk,

    /// <summary>Too few or too many blinks.</summary>
    Blinks,

    /// <summary>A face is turned too far away while it speaks.</summary>
    TurnedAway,

    /// <summary>Whoever speaks is not in the picture.</summary>
    OutOfPicture,

    /// <summary>A face is cut by the edge of the picture.</summary>
    FaceCut,

    /// <summary>A face is behind another one, or behind a prop.</summary>
    Covered,

    /// <summary>A shot is too short to be seen.</summary>
    ShortShot,

    /// <summary>A caption is gone before it can be read.</summary>
    FastCaption,

    /// <summary>A gesture is cut off by the end of the scene.</summary>
    CutGesture,

    /// <summary>Nobody speaks in a scene.</summary>
    EmptyScene,

    /// <summary>Somebody speaks to others and looks at none of them for long.</summary>
    LooksAtNobody,

    /// <summary>A caption that is more than can be taken in at once.</summary>
    LongCaption,

    /// <summary>What is written goes beyond what is surely seen of a picture.</summary>
    TextCut,

    /// <summary>Two stand on the other side of each other after a cut: the line was jumped.</summary>
    SidesSwapped,

    /// <summary>A take that somebody starred is not the one in use.</summary>
    UnusedTake,

    /// <summary>Sound and picture of a finished film are apart.</summary>
    OutOfSync,
}

/// <summary>Something that somebody should look at.</summary>
/// <param name="Kind">What.</param>
/// <param name="IsSerious">The audience will see or hear it.</param>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="End">In seconds of the scene.</param>
/// <param name="Text">A sentence.</param>
/// <param name="Measure">What was measured, with its unit and its limit.</param>
public sealed record ReviewFlag(ReviewKind Kind, bool IsSerious, double Start, double End, string Text, string Measure)
{
    /// <summary>Whom it is about; null for the scene.</summary>
    public MemberId? Member { get; init; }

    /// <summary>The line that it is about, or null.</summary>
    public LineId? Line { get; init; }

    /// <summary>The same for the same thing as long as it stands: what somebody has called fine stays so.</summary>
    public string Key => $"{Kind}:{Line?.Value ?? Member?.Value ?? Guid.Empty}:{(Line == null ? Math.Round(Start) : 0)}:{Text.GetDeterministicHash()}";
}

/// <summary>What is looked at.</summary>
/// <param name="Scene">A scene, evaluated.</param>
/// <param name="SoundOf">The sound of a line as it is heard, or null where it is not at hand: then what is to be heard in it is not looked at.</param>
public sealed record ReviewedScene(EvaluatedScene Scene, Func<PlacedLine, AudioBuffer?> SoundOf)
{
    /// <summary>Lines that have no voice: who should say them, and the words.</summary>
    public IReadOnlyList<(LineId Line, MemberId Member, string Words)> Unvoiced { get; init; } = [];
}

internal static class TextHash
{
    // FNV-1a (Fowler, Noll and Vo): the same in every run.
    public static uint GetDeterministicHash(this string text)
    {
        var hash = 2166136261;
        foreach (var c in text)
            hash = (hash ^ c) * 16777619;
        return hash;
    }
}
