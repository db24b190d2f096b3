using Zamblo.Core.Mouth;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Performance;

/// <summary>A take where it stands in the scene. Immutable.</summary>
public sealed class PlacedSpeech
{
    private sealed class Contents(SpeechAnalysis speech, MouthDials mouth, IReadOnlyList<TouchUp> touches)
    {
        public readonly SpeechAnalysis Speech = speech;
        public readonly MouthDials Mouth = mouth;
        public readonly IReadOnlyList<TouchUp> Touches = touches;
        public readonly Lazy<IReadOnlyList<Cue>> Cues = new(() => TouchUps.Apply(MouthPass.Cues(speech, mouth), touches));
        public readonly Lazy<Prosody> Prosody = new(() => Zamblo.Core.Speech.Prosody.Of(speech));
    }

    private readonly Contents _contents;

    private PlacedSpeech(Contents contents, double start) => (_contents, Start) = (contents, start);

    /// <summary>Puts a take in its place.</summary>
    /// <param name="speech">What is said.</param>
    /// <param name="start">When the take starts, in seconds of the scene.</param>
    /// <param name="mouth">How the mouth moves with it.</param>
    /// <param name="touches">What was changed by hand, in its place within this speech, in order.</param>
    public PlacedSpeech(SpeechAnalysis speech, double start, MouthDials mouth, IReadOnlyList<TouchUp>? touches = null)
        : this(new Contents(speech, mouth, touches ?? []), start) { }

    /// <summary>The same take elsewhere: nothing is worked out again.</summary>
    /// <param name="start">In seconds of the scene.</param>
    public PlacedSpeech At(double start) => start == Start ? this : new PlacedSpeech(_contents, start) { Acting = Acting };

    /// <summary>How much moves meanwhile.</summary>
    public LineActing Acting { get; init; } = new();

    /// <summary>The same take with something else moving.</summary>
    /// <param name="acting">How much.</param>
    public PlacedSpeech With(LineActing acting) => acting == Acting ? this : new PlacedSpeech(_contents, Start) { Acting = acting };

    /// <summary>The same object for the same take, wherever it stands: a key for what hangs on its contents.</summary>
    public object Key => _contents;

    /// <summary>What was changed by hand.</summary>
    public IReadOnlyList<TouchUp> Touches => _contents.Touches;

    /// <summary>What is said.</summary>
    public SpeechAnalysis Speech => _contents.Speech;

    /// <summary>When the take starts, in seconds of the scene.</summary>
    public double Start { get; }

    /// <summary>When it ends, in seconds of the scene.</summary>
    public double End => Start + Speech.Duration;

    /// <summary>How the mouth moves with it.</summary>
    public MouthDials Mouth => _contents.Mouth;

    /// <summary>The mouth's cues in seconds of the take: automatic, with the touch-ups over them.</summary>
    public IReadOnlyList<Cue> Cues => _contents.Cues.Value;

    /// <summary>Syllables, phrases and pitch, in seconds of the take.</summary>
    public Prosody Prosody => _contents.Prosody.Value;
}
