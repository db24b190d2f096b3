using System.Text.Json.Serialization;
using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>What is known about a take before it is listened to.</summary>
/// <param name="Script">What is said, or null; without it only English gets draft words.</param>
/// <param name="Language">BCP 47 tag, such as "en-gb" or "de".</param>
public sealed record SpeechQuery(string? Script, string Language)
{
    /// <summary>Whether somebody said that it is this language: else it may turn out to be another one.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool IsTold { get; init; }

    /// <summary>The part of the recording that the take is; null for all of it. Everything else is in seconds of that part.</summary>
    public SoundPart? Part { get; init; }

    /// <summary>When the words of the script are sung, as far as it says so; null where it does not.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<LyricTime>? Times { get; init; }

    /// <summary>Where there is a voice and where not, as far as somebody said so.</summary>
    public IReadOnlyList<VoiceMark> Marks { get; init; } = [];

    /// <summary>Boundaries set by hand.</summary>
    public IReadOnlyList<BoundaryPin> Pins { get; init; } = [];

    /// <summary>How words are said here, by the word in lower case, as ARPAbet.</summary>
    public IReadOnlyDictionary<string, string[]> Pronunciations { get; init; } = new Dictionary<string, string[]>();

    /// <summary>
    /// Names and other words of the production that may be said, as they are written: draft words are looked at twice for them. Not a part of what a hearing is
    /// kept by: who is called otherwise later changes no text.
    /// </summary>
    [JsonIgnore]
    public IReadOnlyList<string> Names { get; init; } = [];

    /// <summary>What is known from what is written.</summary>
    /// <param name="text">With directions and times; empty where nothing is.</param>
    /// <param name="language">BCP 47 tag.</param>
    public static SpeechQuery Of(string text, string language)
    {
        var spoken = Directions.Spoken(text);
        var script = spoken.Trim();
        if (script.Length == 0)
            return new SpeechQuery(null, language);
        var cut = spoken.Length - spoken.TrimStart().Length;
        LyricTime[] times = [.. LyricTimes.In(text).Select(t => t with { Offset = Math.Max(0, t.Offset - cut) })];
        return new SpeechQuery(script, language) { Times = times.Length == 0 ? null : times };
    }

    /// <summary>Whether the acoustic model was made for this language.</summary>
    public bool IsNative => Language.Split('-')[0] == "en";
}
