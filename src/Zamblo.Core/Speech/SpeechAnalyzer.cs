using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>
/// Hears a take: from 16 kHz sound, and a script where there is one, to words and phones in time. The one entry to this folder.
/// Safe to use from several threads.
/// </summary>
public sealed class SpeechAnalyzer
{
    private const float AlignBeam = 160, LoopBeam = 60;
    private readonly AcousticModel _model;
    private readonly PronunciationDictionary _dictionary;
    private readonly Func<string, IReadOnlyList<string[]>>? _pronounce;
    private readonly Func<AudioBuffer, CancellationToken, IReadOnlyList<string>>? _recognise;
    private readonly Func<AudioBuffer, CancellationToken, float[]>? _voice;
    private readonly CepstralFrontEnd _frontEnd;
    private readonly Lazy<PhoneGraph> _loop;

    /// <param name="model">The acoustic model.</param>
    /// <param name="dictionary">Words of the model's language.</param>
    /// <param name="pronounce">How to say a word that the dictionary lacks, as ARPAbet; may return nothing.</param>
    /// <param name="voice">Probability of voice, one value per <see cref="VoiceActivity.ModelStep"/>; without it level alone decides.</param>
    /// <param name="recognise">Draft words for sound without a script; may return nothing.</param>
    public SpeechAnalyzer(AcousticModel model, PronunciationDictionary dictionary, Func<string, IReadOnlyList<string[]>>? pronounce = null,
        Func<AudioBuffer, CancellationToken, IReadOnlyList<string>>? recognise = null, Func<AudioBuffer, CancellationToken, float[]>? voice = null)
    {
        _voice = voice;
        _recognise = recognise;
        _model = model;
        _dictionary = dictionary;
        _pronounce = pronounce;
        _frontEnd = new CepstralFrontEnd(model.FrontEnd);
        _loop = new Lazy<PhoneGraph>(() => PhoneLoop.Build(_model, PhoneBigram.FromDictionary(_dictionary)));
    }

    /// <summary>The acoustic model.</summary>
    public AcousticModel Model => _model;

    /// <summary>Words of the model's language.</summary>
    public PronunciationDictionary Dictionary => _dictionary;

    /// <summary>Analyses a take.</summary>
    /// <param name="audio">Any sample rate is an error here: 16 kHz only.</param>
    /// <param name="script">What is said, or null.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <returns>Phones and words from 0 to the end of the sound; all silence where nothing is said.</returns>
    /// <exception cref="ArgumentException">The sound is not at 16 kHz.</exception>
    public SpeechAnalysis Analyze(AudioBuffer audio, string? script = null, Action<double>? progress = null, CancellationToken cancel = default) =>
        Analyze(audio, script == null ? [] : ScriptText.Words(script), Pronounce, NativeWeights, progress, cancel);

    /// <summary>Analyses a take in any language: the caller says how each word sounds, in the nearest phones of the model.</summary>
    /// <param name="audio">16 kHz only.</param>
    /// <param name="words">What is said; nothing for a take without a script.</param>
    /// <param name="pronounce">Pronunciations of a spoken word; a word without any is left out.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="ArgumentException">The sound is not at 16 kHz.</exception>
    public SpeechAnalysis Analyze(AudioBuffer audio, IReadOnlyList<ScriptWord> words, Func<string, IReadOnlyList<string[]>> pronounce, Action<double>? progress = null, CancellationToken cancel = default) =>
        Analyze(audio, words, pronounce, MappedWeights, progress, cancel);

    private static readonly ScriptGraph.Weights NativeWeights = new();

    // Phones of another language fit the model badly everywhere: a bad fit is no reason to leave a word out or to think that it is foreign.
    private static readonly ScriptGraph.Weights MappedWeights = new() { Skip = -400, Foreign = -200, ForeignFrame = -12 };

    private SpeechAnalysis Analyze(AudioBuffer audio, IReadOnlyList<ScriptWord> words, Func<string, IReadOnlyList<string[]>> pronounce, ScriptGraph.Weights weights, Action<double>? progress, CancellationToken cancel)
    {
        if (audio.SampleRate != CepstralFrontEnd.SampleRate) throw new ArgumentException("Speech analysis works at 16 kHz.", nameof(audio));
        var levels = LoudnessEnvelope.LevelsDb(audio);
        var voiced = _voice == null ? VoiceActivity.FromLevels(levels) : VoiceActivity.FromLevelsAndModel(levels, _voice(audio, cancel));
        if (voiced.Count == 0 || _frontEnd.FrameCount(audio.Samples.Length) < 3)
            return SpeechAnalysis.Silent(audio.Duration) with { LevelsDb = levels };

        var cepstra = _frontEnd.Compute(audio.Samples, cancel);
        var features = Features.FromCepstra(cepstra);
        var frames = features.Length / Features.Length;
        ReadOnlySpan<float> FrameAt(int f) => features.AsSpan(f * Features.Length, Features.Length);
        var background = new Background(_model, features, cancel);
        progress?.Invoke(0.1);
        Action<double>? inner = progress == null ? null : p => progress(0.1 + 0.9 * p);

        var source = SpeechSource.Script;
        if (words.Count == 0 && _recognise != null)
        {
            words = [.. _recognise(audio, cancel).Select(w => new ScriptWord(w, [w], 0))];
            source = SpeechSource.Recognised;
        }
        return words.Count > 0
            ? Align(words, pronounce, weights, source, frames, FrameAt, background, audio, levels, voiced, inner, cancel)
            : DecodePhones(frames, FrameAt, background, audio, levels, voiced, inner, cancel);
    }

    private SpeechAnalysis Align(IReadOnlyList<ScriptWord> words, Func<string, IReadOnlyList<string[]>> pronounce, ScriptGraph.Weights weights, SpeechSource source, int frames, Func<int, ReadOnlySpan<float>> frameAt, Background background, AudioBuffer audio, float[] levels,
        IReadOnlyList<(double Start, double End)> voiced, Action<double>? progress, CancellationToken cancel)
    {
        // A written word may be several spoken ones; each is a word of the network and they are joined again afterwards.
        var spoken = words.SelectMany((w, i) => w.Spoken.Select(s => (Word: i, Spoken: s))).ToArray();
        var pronunciations = new List<int[][]>();
        var owners = new List<int>();
        foreach (var (owner, text) in spoken)
        {
            var found = pronounce(text).Where(p => p.Length > 0 && p.All(_model.HasPhone)).Select(p => p.Select(_model.PhoneIndex).ToArray()).ToArray();
            if (found.Length == 0) continue;
            pronunciations.Add(found);
            owners.Add(owner);
        }
        var graph = ScriptGraph.Build(_model, pronunciations, weights);
        // A beam that lost every way to the end is opened until there is one.
        List<PathStep> path;
        var beam = AlignBeam;
        while (true)
        {
            path = new ViterbiDecoder(_model).Decode(graph, frames, frameAt, background, beam, out var complete, progress, cancel);
            if (complete || beam > 10_000) break;
            beam *= 4;
        }
        var confidence = Confidence(graph, path, frameAt, background);

        var phones = BoundaryRefiner.Refine(Segments(graph, path, confidence, audio), audio);
        var spans = new Dictionary<int, (double Start, double End, double Sum)>();
        for (var i = 0; i < path.Count; i++)
        {
            var word = graph.Word[path[i].Node];
            if (word < 0) continue;
            var p = phones[i];
            spans[owners[word]] = spans.TryGetValue(owners[word], out var f) ? (f.Start, p.End, f.Sum + p.Confidence * p.Duration) : (p.Start, p.End, p.Confidence * p.Duration);
        }
        var segments = spans.OrderBy(p => p.Value.Start)
            .Select(p => new WordSegment(words[p.Key].Text, p.Value.Start, p.Value.End, (float)(p.Value.Sum / Math.Max(1e-6, p.Value.End - p.Value.Start)))).ToList();
        var all = FillForeign(graph, path, phones, frameAt, background, voiced, cancel);
        // Words that were only heard count where a voice is; a script is believed.
        if (source == SpeechSource.Recognised)
        {
            all = SegmentLists.Gate(all, voiced);
            segments.RemoveAll(w => !voiced.Any(v => v.Start < w.End && v.End > w.Start));
        }
        return new SpeechAnalysis(audio.Duration, SegmentLists.Tidy(all, audio.Duration), segments, levels, source);
    }

    /// <summary>Speech that no word explains is listened to sound by sound: the mouth must not stand still for a missing word.</summary>
    private List<PhoneSegment> FillForeign(PhoneGraph graph, List<PathStep> path, List<PhoneSegment> phones, Func<int, ReadOnlySpan<float>> frameAt, Background background,
        IReadOnlyList<(double Start, double End)> voiced, CancellationToken cancel)
    {
        var result = new List<PhoneSegment>();
        for (var i = 0; i < path.Count; i++)
        {
            if (graph.Model[path[i].Node] != PhoneGraph.Foreign) { result.Add(phones[i]); continue; }
            // One piece of foreign speech is many short steps.
            var last = i;
            while (last + 1 < path.Count && graph.Model[path[last + 1].Node] == PhoneGraph.Foreign) last++;
            int from = path[i].Start, count = path[last].End - from;
            double start = phones[i].Start, end = phones[last].End;
            i = last;
            if (count < 8) { result.Add(new PhoneSegment(Arpabet.Silence, start, end)); continue; }
            var loop = _loop.Value;
            var steps = new ViterbiDecoder(_model).Decode(loop, count, f => frameAt(from + f), background, LoopBeam, out _, null, cancel);
            var heard = steps.Select(s => new PhoneSegment(_model.PhoneNames[loop.Phone[s.Node]], Math.Clamp(Time(from + s.Start), start, end), Math.Clamp(Time(from + s.End), start, end), 0.3f)).ToList();
            heard[0] = heard[0] with { Start = start };
            heard[^1] = heard[^1] with { End = end };
            result.AddRange(SegmentLists.Gate(heard, voiced));
        }
        return result;
    }

    /// <summary>One segment per step, from 0 to the end of the sound; noises and speech that cannot be told are silence.</summary>
    private List<PhoneSegment> Segments(PhoneGraph graph, List<PathStep> path, float[] confidence, AudioBuffer audio)
    {
        var phones = new List<PhoneSegment>(path.Count);
        for (var i = 0; i < path.Count; i++)
        {
            var name = _model.PhoneNames[graph.Phone[path[i].Node]];
            phones.Add(new PhoneSegment(Arpabet.IsSilent(name) || name == Arpabet.Spoken ? Arpabet.Silence : name,
                i == 0 ? 0 : Time(path[i].Start), i == path.Count - 1 ? audio.Duration : Time(path[i].End), confidence[i]));
        }
        return phones;
    }

    private SpeechAnalysis DecodePhones(int frames, Func<int, ReadOnlySpan<float>> frameAt, Background background, AudioBuffer audio, float[] levels,
        IReadOnlyList<(double Start, double End)> voiced, Action<double>? progress, CancellationToken cancel)
    {
        var graph = _loop.Value;
        var path = new ViterbiDecoder(_model).Decode(graph, frames, frameAt, background, LoopBeam, out _, progress, cancel);
        var confidence = Confidence(graph, path, frameAt, background);
        var phones = BoundaryRefiner.Refine(Segments(graph, path, confidence, audio), audio);
        return new SpeechAnalysis(audio.Duration, SegmentLists.Tidy(SegmentLists.Gate(phones, voiced), audio.Duration), [], levels, SpeechSource.Phones);
    }

    // A frame's state describes the middle of its window; a boundary lies half a shift before the middle of the first frame after it.
    private double Time(int frame) => _frontEnd.CentreOf(frame) - _model.FrontEnd.ShiftSamples / 2.0 / CepstralFrontEnd.SampleRate;

    private IReadOnlyList<string[]> Pronounce(string word)
    {
        IEnumerable<string[]> found = _dictionary.Lookup(word);
        if (!found.Any() && word.EndsWith("'s", StringComparison.Ordinal)) found = _dictionary.Lookup(word[..^2]).Select(p => (string[])[.. p, p[^1] is "P" or "T" or "K" or "F" or "TH" ? "S" : "Z"]);
        if (!found.Any() && _pronounce != null) found = _pronounce(word);
        return [.. found];
    }

    /// <summary>Per step how well its phone explains its frames against the best of all phones, 0 to 1.</summary>
    private float[] Confidence(PhoneGraph graph, List<PathStep> path, Func<int, ReadOnlySpan<float>> frameAt, Background background)
    {
        var scorer = new SenoneScorer(_model);
        var result = new float[path.Count];
        for (var i = 0; i < path.Count; i++)
        {
            var model = graph.Model[path[i].Node];
            if (model == PhoneGraph.Foreign) continue;
            double sum = 0;
            for (var t = path[i].Start; t < path[i].End; t++)
            {
                scorer.SetFrame(frameAt(t));
                var own = float.NegativeInfinity;
                foreach (var s in _model.SenonesOf(model)) own = MathF.Max(own, scorer.Score(s));
                sum += Math.Max(0, background[t] - own);
            }
            // Logistic in the mean shortfall per frame; four nats is even odds (chosen on read speech).
            var shortfall = sum / Math.Max(1, path[i].End - path[i].Start);
            result[i] = (float)(1 / (1 + Math.Exp(shortfall - 4)) / (1 / (1 + Math.Exp(-4))));
        }
        return result;
    }
}

/// <summary>Small operations on ordered segments.</summary>
public static class SegmentLists
{
    /// <summary>Joins silences that touch, makes the list gapless from 0 to the end and drops what has no length.</summary>
    public static IReadOnlyList<PhoneSegment> Tidy(List<PhoneSegment> phones, double duration)
    {
        var result = new List<PhoneSegment>();
        double at = 0;
        foreach (var p in phones)
        {
            var end = Math.Min(p.End, duration);
            if (end <= at + 1e-9) continue;
            if (result.Count > 0 && p.Phone == Arpabet.Silence && result[^1].Phone == Arpabet.Silence) result[^1] = result[^1] with { End = end };
            else result.Add(p with { Start = at, End = end });
            at = end;
        }
        if (duration > at + 1e-9)
        {
            if (result.Count > 0 && result[^1].Phone == Arpabet.Silence) result[^1] = result[^1] with { End = duration };
            else result.Add(new PhoneSegment(Arpabet.Silence, at, duration));
        }
        return result;
    }

    /// <summary>Makes silence of everything that lies outside the voiced regions.</summary>
    public static List<PhoneSegment> Gate(List<PhoneSegment> phones, IReadOnlyList<(double Start, double End)> voiced)
    {
        var result = new List<PhoneSegment>();
        var r = 0;
        foreach (var p in phones)
        {
            if (p.Phone == Arpabet.Silence) { result.Add(p); continue; }
            while (r < voiced.Count && voiced[r].End <= p.Start) r++;
            var at = p.Start;
            for (var i = r; i < voiced.Count && voiced[i].Start < p.End; i++)
            {
                double from = Math.Max(at, voiced[i].Start), to = Math.Min(p.End, voiced[i].End);
                if (from > at) result.Add(new PhoneSegment(Arpabet.Silence, at, from));
                result.Add(p with { Start = from, End = to });
                at = to;
            }
            if (at < p.End) result.Add(new PhoneSegment(Arpabet.Silence, at, p.End));
        }
        return result;
    }
}
