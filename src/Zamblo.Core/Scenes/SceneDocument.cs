using System.Text.Json.Serialization;
using Zamblo.Core.Audio;
using Zamblo.Core.Lettering;
using Zamblo.Core.Light;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Score;
using Zamblo.Core.Shots;
using Zamblo.Core.Speech;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Props;

namespace Zamblo.Core.Scenes;

/// <summary>
/// All that is decided about a scene, as plain values: what is seen and heard follows from this, what was heard in its lines, and the characters.
/// </summary>
/// <param name="Backdrop">Key of the backdrop.</param>
/// <param name="Rate">Frame rate.</param>
/// <param name="Width">Of the picture, in pixels.</param>
/// <param name="Height">Of the picture, in pixels.</param>
public sealed record SceneDocument(string Backdrop, FrameRate Rate, int Width, int Height)
{
    /// <summary>Stillness before the first line, in seconds.</summary>
    public double LeadIn { get; init; } = 0.5;

    /// <summary>Stillness after the last line, in seconds.</summary>
    public double LeadOut { get; init; } = 0.8;

    /// <summary>Pause between a line and the one that follows it, in seconds.</summary>
    public double Gap { get; init; } = Dialogue.Timing.TurnGap;

    /// <summary>Left to right.</summary>
    public IReadOnlyList<SceneMember> Members { get; init; } = [];

    /// <summary>Those that have a voice, in order of the script.</summary>
    public IReadOnlyList<SceneLine> Lines { get; init; } = [];

    /// <summary>What the camera does by itself.</summary>
    public CameraDials Camera { get; init; } = CameraDials.Fixed;

    /// <summary>Light and air.</summary>
    public LightDials Light { get; init; } = new();

    /// <summary>What is written in the picture.</summary>
    public LetteringDials Lettering { get; init; } = new();

    /// <summary>Moods, gestures, looks, walks and shots by hand.</summary>
    public IReadOnlyList<LaneClip> Clips { get; init; } = [];

    /// <summary>Things that stand about and are held.</summary>
    public IReadOnlyList<LaidProp> Props { get; init; } = [];

    /// <summary>The things that are on stage, those whose look there is: in this order stage and shots number them.</summary>
    [JsonIgnore]
    public IReadOnlyList<(LaidProp Laid, PropArt Art)> Things => [.. Props.Select(p => (Laid: p, Art: PropStock.Find(p.Art)!)).Where(p => p.Art != null)];

    /// <summary>Places on its floor that have names.</summary>
    public IReadOnlyList<FloorMark> Marks { get; init; } = [];

    /// <summary>Pictures of one's own in it, by their hashes.</summary>
    [JsonIgnore]
    public IEnumerable<string> Pictures =>
        Props.Select(p => p.Art).Prepend(Backdrop).Select(PictureSet.Read).OfType<PictureSet>().Select(p => p.Hash).Distinct();

    /// <summary>A clip of one's own that it plays in; null for none.</summary>
    [JsonIgnore]
    public PictureSet? Film => PictureSet.Read(Backdrop) is { Frames: > 0 } film ? film : null;

    /// <summary>Music, room tone and effects.</summary>
    public IReadOnlyList<LaidSound> Sounds { get; init; } = [];
}

/// <summary>Someone on stage.</summary>
/// <param name="Id">Its id.</param>
/// <param name="RoleName">What the script calls it.</param>
/// <param name="Character">Key of the character.</param>
/// <param name="Voice">Key of the voice for typed lines.</param>
/// <param name="Ink">Own colour on script and score, "#rrggbb".</param>
/// <param name="Mouth">How its mouth moves.</param>
/// <param name="Performance">How the rest of it moves.</param>
public sealed record SceneMember(MemberId Id, string RoleName, string Character, string Voice, string Ink, MouthDials Mouth, PerformanceDials Performance)
{
    /// <summary>Where a hand has put it; null where it stands by itself.</summary>
    public MemberPlace? Place { get; init; }
}

/// <summary>A line with the take that is in use.</summary>
/// <param name="Id">Of the line.</param>
/// <param name="Member">Who says it.</param>
/// <param name="Take">Which take is in use.</param>
/// <param name="TakeDuration">Of the take's sound as it came, in seconds.</param>
/// <param name="SoundHash">The sound.</param>
/// <param name="SoundName">For messages.</param>
/// <param name="Query">What is known about the sound.</param>
public sealed record SceneLine(LineId Id, MemberId Member, TakeId Take, double TakeDuration, string SoundHash, string SoundName, SpeechQuery Query)
{
    /// <summary>Words and phones that came with the sound, as an asset; null where it is listened to.</summary>
    public string? EngineHash { get; init; }

    /// <summary>Sound that is listened to in place of the one that is heard, or null.</summary>
    public string? GuideHash { get; init; }

    /// <summary>Heard, but nobody's mouth moves.</summary>
    public bool IsOffStage { get; init; }

    /// <summary>Seen, but not heard.</summary>
    public bool IsMute { get; init; }

    /// <summary>Begins with the line before, not after it.</summary>
    public bool IsTogether { get; init; }

    /// <summary>How much moves meanwhile.</summary>
    public LineActing Acting { get; init; } = new();

    /// <summary>What captions have in place of what is said, by language; "" is the one that is spoken. A new row begins a new caption.</summary>
    public IReadOnlyDictionary<string, string> Captions { get; init; } = System.Collections.ObjectModel.ReadOnlyDictionary<string, string>.Empty;

    /// <summary>What is written of it, with directions; empty where that is what is said.</summary>
    public string Written { get; init; } = "";

    /// <summary>Who else says it, in unison.</summary>
    public IReadOnlyList<MemberId> Also { get; init; } = [];

    /// <summary>What is done to the sound.</summary>
    public VoiceCare Care { get; init; } = new();

    /// <summary>Changes of the mouth by hand that are switched on, in order, as they were made.</summary>
    public IReadOnlyList<TouchUp> Touches { get; init; } = [];

    /// <summary>A start set by hand, in seconds of the scene; null follows the line before.</summary>
    public double? Start { get; init; }

    /// <summary>Seconds after the line before, in place of the scene's gap.</summary>
    public double? Pause { get; init; }

    /// <summary>Length as it is heard, in seconds.</summary>
    [JsonIgnore]
    public double Duration => Care.DurationOf(TakeDuration);

    /// <summary>The sound that drives the mouth.</summary>
    [JsonIgnore]
    public string DrivingHash => GuideHash ?? SoundHash;
}
