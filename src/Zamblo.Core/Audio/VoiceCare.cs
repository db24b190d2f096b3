using System.Text.Json.Serialization;

namespace Zamblo.Core.Audio;

/// <summary>How a voice is coloured. None of these changes its times.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<VoiceColour>))]
public enum VoiceColour
{
    /// <summary>As it is.</summary>
    Plain,

    /// <summary>A small creature: higher, with a shorter throat.</summary>
    Small,

    /// <summary>A giant: lower, with a longer throat.</summary>
    Giant,

    /// <summary>A machine: one tone.</summary>
    Machine,

    /// <summary>Through a telephone.</summary>
    Telephone,

    /// <summary>Out of a small radio.</summary>
    Radio,

    /// <summary>In a room.</summary>
    Room,

    /// <summary>In a wide hall.</summary>
    Hall,

    /// <summary>Breath in place of a tone.</summary>
    Whisper,

    /// <summary>Many with the same voice.</summary>
    Crowd,

    /// <summary>From behind a door.</summary>
    Door,
}

/// <summary>
/// What is done to the sound of a take: parameters that can be changed at any time, never written over the original. The take's times go
/// through trim and speed only, so colour never moves a mouth.
/// </summary>
public sealed record VoiceCare
{
    /// <summary>Cut off in front, in seconds of the original.</summary>
    public double TrimStart { get; init; }

    /// <summary>Cut off at the end, in seconds of the original.</summary>
    public double TrimEnd { get; init; }

    /// <summary>Speed with pitch kept, 0.5 to 2.</summary>
    public double Speed { get; init; } = 1;

    /// <summary>Fade in, in seconds.</summary>
    public double FadeIn { get; init; }

    /// <summary>Fade out, in seconds.</summary>
    public double FadeOut { get; init; }

    /// <summary>Gain in dB, -40 to 24, after levelling.</summary>
    public double Gain { get; init; }

    /// <summary>Integrated loudness to bring the take to, in LUFS (-40 to -10); null leaves it.</summary>
    public double? Level { get; init; }

    /// <summary>Rumble under 80 Hz out.</summary>
    public bool Rumble { get; init; }

    /// <summary>Mains hum and its harmonics out: 50 or 60 Hz; 0 for none.</summary>
    public int Hum { get; init; }

    /// <summary>Steady noise down by up to so many dB, 0 to 40.</summary>
    public double Hiss { get; init; }

    /// <summary>Clicks out.</summary>
    public bool Clicks { get; init; }

    /// <summary>Silence between words made quieter.</summary>
    public bool Gate { get; init; }

    /// <summary>Pitch in semitones, the resonance of the throat kept; -12 to 12.</summary>
    public double Pitch { get; init; }

    /// <summary>Resonance of the throat in semitones, the pitch kept; -8 to 8: less than 0 is a larger one.</summary>
    public double Resonance { get; init; }

    /// <summary>Colour.</summary>
    public VoiceColour Colour { get; init; }

    /// <summary>How much of it, 0 to 1.</summary>
    public double ColourAmount { get; init; } = 1;

    /// <summary>The same within the ranges.</summary>
    /// <param name="duration">Of the original, in seconds: at least a tenth of a second is left.</param>
    public VoiceCare Clamped(double duration)
    {
        static double In(double x, double low, double high, double other) => double.IsFinite(x) ? Math.Clamp(x, low, high) : other;
        var start = In(TrimStart, 0, Math.Max(0, duration - 0.1), 0);
        return this with
        {
            TrimStart = start,
            TrimEnd = In(TrimEnd, 0, Math.Max(0, duration - start - 0.1), 0),
            Speed = In(Speed, 0.5, 2, 1),
            FadeIn = In(FadeIn, 0, 30, 0),
            FadeOut = In(FadeOut, 0, 30, 0),
            Gain = In(Gain, -40, 24, 0),
            Level = Level is { } l ? In(l, -40, -10, -23) : null,
            Hum = Hum is 50 or 60 ? Hum : 0,
            Hiss = In(Hiss, 0, 40, 0),
            Pitch = In(Pitch, -12, 12, 0),
            Resonance = In(Resonance, -8, 8, 0),
            // Without a colour there is nothing of which there could be less.
            ColourAmount = Colour == VoiceColour.Plain ? 1 : In(ColourAmount, 0, 1, 1),
        };
    }

    /// <summary>Only what changes times: what is heard to compare with.</summary>
    [JsonIgnore]
    public VoiceCare Bare =>
        new()
        {
            TrimStart = TrimStart,
            TrimEnd = TrimEnd,
            Speed = Speed,
        };

    /// <summary>Whether the times of the original are those of the take.</summary>
    [JsonIgnore]
    public bool KeepsTimes => TrimStart == 0 && TrimEnd == 0 && Speed == 1;

    /// <summary>Length of the take, in seconds.</summary>
    /// <param name="original">Of the original.</param>
    public double DurationOf(double original) => Math.Max(0, original - TrimStart - TrimEnd) / Speed;

    /// <summary>From a time of the original to one of the take.</summary>
    public double ToTake(double original) => (original - TrimStart) / Speed;

    /// <summary>From a time of the take to one of the original.</summary>
    public double ToOriginal(double take) => take * Speed + TrimStart;
}
