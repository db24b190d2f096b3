using System.Text.Json.Serialization;

namespace Zamblo.Core.Speech;

/// <summary>One phone in time.</summary>
/// <param name="Phone">ARPAbet without stress digits, or <see cref="Arpabet.Silence"/>.</param>
/// <param name="Start">In seconds from the start of the take.</param>
/// <param name="End">In seconds; greater than <paramref name="Start"/>.</param>
/// <param name="Confidence">0 to 1.</param>
public readonly record struct PhoneSegment(string Phone, double Start, double End, float Confidence = 1)
{
    /// <summary>Length in seconds.</summary>
    public double Duration => End - Start;
}

/// <summary>One word in time.</summary>
/// <param name="Text">As it stands in the script, or as it was recognised.</param>
/// <param name="Start">In seconds.</param>
/// <param name="End">In seconds.</param>
/// <param name="Confidence">0 to 1.</param>
public readonly record struct WordSegment(string Text, double Start, double End, float Confidence = 1);

/// <summary>Where the times of an analysis come from.</summary>
public enum SpeechSource
{
    /// <summary>A synthesis engine said them.</summary>
    Engine,

    /// <summary>A script was aligned.</summary>
    Script,

    /// <summary>The phone decoder heard them; there are no words.</summary>
    Phones,

    /// <summary>Words were recognised, then aligned.</summary>
    Recognised,
}

/// <summary>What was heard in one take: the input of every pass.</summary>
/// <param name="Duration">Length of the sound in seconds.</param>
/// <param name="Phones">Ordered, without gaps, from 0 to <paramref name="Duration"/>; silence included.</param>
/// <param name="Words">Ordered; silence is what lies between them.</param>
/// <param name="LevelsDb">Short-time level, one value per 10 ms (<see cref="Audio.LoudnessEnvelope"/>).</param>
/// <param name="Source">Where the times come from.</param>
public sealed record SpeechAnalysis(
    double Duration,
    IReadOnlyList<PhoneSegment> Phones,
    IReadOnlyList<WordSegment> Words,
    float[] LevelsDb,
    SpeechSource Source
)
{
    /// <summary>Pitch in Hz, one value per 10 ms, 0 where there is no voice (<see cref="Audio.PitchTracker"/>); empty where nobody has looked.</summary>
    public float[] PitchHz { get; init; } = [];

    /// <summary>How long the echo was that was taken away for listening (RT60), in seconds; null where there was none to speak of.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public double? Room { get; init; }

    /// <summary>Whether a band plays with the voice; it was taken away for listening.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool HasBand { get; init; }

    /// <summary>Whether somebody sings alone, without a band.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool SingsAlone { get; init; }

    /// <summary>Whether it does not sound like the model's language, where nobody said which one it is (<see cref="DraftWord.SoundForeign"/>).</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool IsForeign { get; init; }

    /// <summary>Laughs, sobs, breaths and the like, in order, apart; silence among the phones. Null where there are none.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<VocalSound>? Sounds { get; init; }

    /// <summary>Rows that are sung again though they are written once: their sounds are among the phones, not their words. Null where there are none.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<SungRepeat>? Repeats { get; init; }

    /// <summary>What was recognised, as it would be written; empty where somebody wrote it, and where there are no words.</summary>
    public string Draft { get; init; } = "";

    /// <summary>Whether the band hides what is sung: its words are so unsure that most of their times are guesses.</summary>
    [JsonIgnore]
    public bool IsHidden => HasBand && Words.Count > 0 && Words.Average(w => w.Confidence) < Hidden;

    // Of the bench's songs those under it have 15 to 38 % of their frames right, those above it 46 to 74.
    private const float Hidden = 0.7f;

    /// <summary>The greatest short-time level within a phone, in dB.</summary>
    public float PeakDb(PhoneSegment phone)
    {
        var best = Audio.LoudnessEnvelope.SilenceDb;
        for (var i = Math.Max(0, (int)(phone.Start * 100)); i < Math.Min(LevelsDb.Length, (int)(phone.End * 100) + 1); i++)
            best = Math.Max(best, LevelsDb[i]);
        return best;
    }

    /// <summary>Silence of a given length.</summary>
    public static SpeechAnalysis Silent(double duration) => new(duration, duration > 0 ? [new(Arpabet.Silence, 0, duration)] : [], [], [], SpeechSource.Phones);
}
