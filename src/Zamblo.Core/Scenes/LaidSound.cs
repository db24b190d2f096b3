using System.Text.Json.Serialization;
using Zamblo.Core.Audio;
using Zamblo.Core.Score;

namespace Zamblo.Core.Scenes;

/// <summary>What a sound is that nobody on stage speaks.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<SoundKind>))]
public enum SoundKind
{
    /// <summary>Music.</summary>
    Music,

    /// <summary>Room tone.</summary>
    Room,

    /// <summary>An effect.</summary>
    Effect,
}

/// <summary>Music, room tone or an effect in a scene. No mouth moves to it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Kind">What it is.</param>
/// <param name="SoundHash">The sound.</param>
/// <param name="Name">File name.</param>
/// <param name="Duration">Of the file, in seconds.</param>
/// <param name="Start">In seconds of the scene.</param>
/// <param name="From">How much of the file is cut off in front, in seconds.</param>
/// <param name="Length">How long it is heard, in seconds; null to the end of the scene, or of the file where it does not loop.</param>
/// <param name="Gain">In dB.</param>
/// <param name="FadeIn">In seconds.</param>
/// <param name="FadeOut">In seconds.</param>
/// <param name="Duck">How far it goes down while somebody speaks, in dB, 0 and more.</param>
/// <param name="Loops">Begins anew at the end of the file.</param>
public sealed record LaidSound(
    SoundId Id,
    SoundKind Kind,
    string SoundHash,
    string Name,
    double Duration,
    double Start,
    double From,
    double? Length,
    double Gain,
    double FadeIn,
    double FadeOut,
    double Duck,
    bool Loops
)
{
    /// <summary>The line that an effect hangs on, or null: then it stands at <see cref="Start"/>.</summary>
    public LineId? Line { get; init; }

    /// <summary>Where it starts in that line.</summary>
    public WordAnchor? Anchor { get; init; }

    /// <summary>Whether anything of it lies between two moments of the scene, in seconds.</summary>
    public bool Reaches(double from, double to) => Start <= to && Start + (Length ?? (Loops ? double.PositiveInfinity : Duration - From)) >= from;

    /// <summary>As it lies under a part of the scene: cut, looped, faded, and down while somebody speaks.</summary>
    /// <param name="file">All of the file.</param>
    /// <param name="sceneEnd">In seconds of the scene.</param>
    /// <param name="from">Start of the part, in seconds of the scene.</param>
    /// <param name="to">End of the part, in seconds of the scene.</param>
    /// <param name="speech">Where somebody speaks, in seconds of the scene.</param>
    /// <returns>Null where nothing of it is heard.</returns>
    public Mixer.Placed? Lay(AudioBuffer file, double sceneEnd, double from, double to, IEnumerable<(double Start, double End)> speech)
    {
        int rate = file.SampleRate,
            skip = (int)(From * rate),
            there = file.Samples.Length - skip;
        var seconds = Math.Min(sceneEnd - Start, Length ?? (Loops ? double.PositiveInfinity : (double)there / rate));
        var count = (int)(seconds * rate);
        if (there <= 0 || count <= 0)
            return null;
        if (!Loops)
            count = Math.Min(count, there);
        // In samples of the sound: the part that is asked for.
        int first = Math.Clamp((int)((from - Start) * rate), 0, count),
            last = Math.Clamp((int)((to - Start) * rate) + 1, first, count);
        var samples = new float[last - first];
        double gain = Math.Pow(10, Gain / 20),
            rise = Math.Max(1, FadeIn * rate),
            fall = Math.Max(1, FadeOut * rate);
        for (var i = first; i < last; i++)
            samples[i - first] = (float)(file.Samples[skip + i % there] * gain * Math.Min(1, (i + 1) / rise) * Math.Min(1, (count - i) / fall));
        Ducking.Apply(samples, rate, speech.Select(s => (s.Start - Start, s.End - Start)), Duck, first);
        // Placed by whole samples, so that every part falls on the same ones.
        return new Mixer.Placed(new AudioBuffer(samples, rate), (Math.Round(Start * rate) + first) / rate);
    }
}
