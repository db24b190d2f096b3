using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>What an engine says piece by piece, with its own phone times: put together, and words found in it.</summary>
/// <param name="reading">How words are said.</param>
internal sealed class SpokenPieces(Reading reading)
{
    private readonly List<float> _samples = [];
    private readonly List<PhoneSegment> _phones = [];
    private readonly List<WordSegment> _words = [];
    private int _rate = CepstralFrontEnd.SampleRate;

    /// <summary>Whether anything was said.</summary>
    public bool IsSilent => _phones.Count == 0;

    /// <summary>The sound so far.</summary>
    public AudioBuffer Sound => new([.. _samples], _rate);

    /// <summary>One more piece.</summary>
    /// <param name="written">Its words.</param>
    /// <param name="audio">Its sound; all pieces have one rate.</param>
    /// <param name="ends">Its phones by the engine's names, and where each ends, in seconds of the piece.</param>
    public void Add(string written, AudioBuffer audio, IEnumerable<(string Phone, double End)> ends)
    {
        _rate = audio.SampleRate;
        double before = (double)_samples.Count / _rate,
            at = 0;
        _samples.AddRange(audio.Samples);
        var first = _phones.Count;
        foreach (var (phone, ending) in ends)
        {
            var end = Math.Min(audio.Duration, ending);
            if (end > at)
                _phones.Add(new PhoneSegment(Flite.PhoneOf(phone), before + at, before + end));
            at = Math.Max(at, end);
        }
        _words.AddRange(WordFinder.Find(ScriptText.Words(written), _phones[first..], reading.Over(SpeechModels.Analyzer.Say)));
    }

    /// <summary>All of it, in the delivery that is asked for.</summary>
    public async Task<SpokenText> SpokenAsync(Delivery delivery, CancellationToken cancel)
    {
        var sound = await Synthesis.ColouredAsync(Sound, delivery, cancel);
        return new SpokenText(
            sound,
            new SpeechAnalysis(sound.Duration, SegmentLists.Tidy(_phones, sound.Duration), _words, LoudnessEnvelope.LevelsDb(sound), SpeechSource.Engine)
            {
                PitchHz = PitchTracker.Track(sound, cancel),
            }
        );
    }
}
