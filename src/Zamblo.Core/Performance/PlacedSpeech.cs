using Zamblo.Core.Mouth;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Performance;

/// <summary>A take where it stands in the scene. Immutable.</summary>
/// <param name="speech">What is said.</param>
/// <param name="start">When the take starts, in seconds of the scene.</param>
/// <param name="mouth">How the mouth moves with it.</param>
/// <param name="touches">What was changed by hand, in its place within this speech, in order.</param>
public sealed class PlacedSpeech(SpeechAnalysis speech, double start, MouthDials mouth, IReadOnlyList<TouchUp>? touches = null)
{
    private readonly Lazy<IReadOnlyList<Cue>> _cues = new(() => TouchUps.Apply(MouthPass.Cues(speech, mouth), touches ?? []));
    private readonly Lazy<Prosody> _prosody = new(() => Prosody.Of(speech));

    /// <summary>What was changed by hand.</summary>
    public IReadOnlyList<TouchUp> Touches => touches ?? [];
    /// <summary>What is said.</summary>
    public SpeechAnalysis Speech => speech;
    /// <summary>When the take starts, in seconds of the scene.</summary>
    public double Start => start;
    /// <summary>When it ends, in seconds of the scene.</summary>
    public double End => start + speech.Duration;
    /// <summary>How the mouth moves with it.</summary>
    public MouthDials Mouth => mouth;
    /// <summary>The mouth's cues in seconds of the take: automatic, with the touch-ups over them.</summary>
    public IReadOnlyList<Cue> Cues => _cues.Value;
    /// <summary>Syllables, phrases and pitch, in seconds of the take.</summary>
    public Prosody Prosody => _prosody.Value;
}
