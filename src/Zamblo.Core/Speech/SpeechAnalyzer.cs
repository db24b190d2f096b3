using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>
/// Hears a take: from 16 kHz sound, and a script where there is one, to words and phones in time. The one entry to this folder.
/// Safe to use from several threads.
/// </summary>
public sealed class SpeechAnalyzer
{
    private const float AlignBeam = 160, LoopBeam = 60;
    // Rounds of adaptation, and the mean confidence above which none is needed: of the benchmark's voices those of the model's accent have
    // 0.85 and more, those of other accents 0.6 and less.
    private const int Rounds = 2;
    private const double GoodFit = 0.8, PoorFit = 0.65;
    private readonly AcousticModel _model;
    private readonly PronunciationDictionary _dictionary;
    private readonly Func<string, IReadOnlyList<string[]>>? _pronounce;
    private readonly Recogniser? _recognise;
    private readonly Func<AudioBuffer, CancellationToken, float[]>? _voice;
    private readonly CepstralFrontEnd _frontEnd;
    private readonly Lazy<PhoneGraph> _loop;

    /// <param name="model">The acoustic model.</param>
    /// <param name="dictionary">Words of the model's language.</param>
    /// <param name="pronounce">How to say a word that the dictionary lacks, as ARPAbet; may return nothing.</param>
    /// <param name="voice">Probability of voice, one value per <see cref="VoiceActivity.ModelStep"/>; without it level alone decides.</param>
    /// <param name="recognise">Draft words for sound without a script.</param>
    public SpeechAnalyzer(AcousticModel model, PronunciationDictionary dictionary, Func<string, IReadOnlyList<string[]>>? pronounce = null,
        Recogniser? recognise = null, Func<AudioBuffer, CancellationToken, float[]>? voice = null)
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
        Analyze(audio, Request(script), progress, cancel);

    /// <summary>A request for a script in the model's own language.</summary>
    /// <param name="script">What is said, or null.</param>
    public HearingRequest Request(string? script) => new() { Words = script == null ? [] : ScriptText.Words(script), Pronounce = Pronounce };

    // How far an analysis without a script is when its words are drafted: most of the time goes into them.
    private const double Drafted = 0.7;

    /// <summary>What is done to boundaries in the end; only learning looks at them before that.</summary>
    internal Func<IReadOnlyList<PhoneSegment>, AudioBuffer, double, bool, List<PhoneSegment>> Refining { get; init; } = BoundaryRefiner.Refine;

    /// <summary>Analyses a take as a request says.</summary>
    /// <param name="audio">16 kHz only.</param>
    /// <param name="request">What is said, how it sounds, what is known by hand.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="ArgumentException">The sound is not at 16 kHz.</exception>
    public SpeechAnalysis Analyze(AudioBuffer audio, HearingRequest request, Action<double>? progress = null, CancellationToken cancel = default)
    {
        if (audio.SampleRate != CepstralFrontEnd.SampleRate) throw new ArgumentException("Speech analysis works at 16 kHz.", nameof(audio));
        var levels = LoudnessEnvelope.LevelsDb(audio);
        audio = VoiceMarks.Mute(audio, request.Marks);
        var heardLevels = request.Marks.Any(m => !m.IsVoice) ? LoudnessEnvelope.LevelsDb(audio) : levels;
        var silent = SpeechAnalysis.Silent(audio.Duration) with { LevelsDb = levels };
        if ((VoiceActivity.FromLevels(heardLevels).Count == 0 && !request.Marks.Any(m => m.IsVoice)) || _frontEnd.FrameCount(audio.Samples.Length) < 3) return silent;
        // The voice model runs on one core: pitch and features are made beside it.
        var hearing = Task.Run(() => (PitchTracker.Track(audio, cancel), new Sound(_model, _frontEnd, audio, 0, cancel)), CancellationToken.None);
        float[]? probability = null;
        try
        {
            probability = _voice?.Invoke(audio, cancel);
        }
        finally
        {
            // Nobody leaves while the other still reads the sound.
            ((IAsyncResult)hearing).AsyncWaitHandle.WaitOne();
        }
        var (pitch, sound) = hearing.GetAwaiter().GetResult();
        sound.Doubt(heardLevels, probability);
        var voiced = probability == null ? VoiceActivity.FromLevels(heardLevels) : VoiceActivity.FromLevelsAndModel(heardLevels, probability);
        voiced = VoiceMarks.Join(voiced, request.Marks);
        if (voiced.Count == 0) return silent;
        progress?.Invoke(0.1);
        Action<double>? Part(double from, double to) => progress == null ? null : p => progress(from + (to - from) * p);
        var inner = Part(0.1, 1);
        var source = SpeechSource.Script;
        var words = request.Words;
        var draft = "";
        if (words.Count == 0 && _recognise != null)
        {
            var drafted = _recognise(audio, voiced, Part(0.1, Drafted), cancel);
            inner = Part(Drafted, 1);
            draft = string.Join(' ', drafted.Select(w => w.Text));
            words = [.. drafted.SelectMany(d => ScriptText.Words(d.Text).Select(w => w with { Likelihood = d.Likelihood }))];
            source = SpeechSource.Recognised;
        }
        if (words.Count == 0)
        {
            var phones = Refining(Segments(sound, Listen(ref sound, inner, cancel), audio.Duration), audio, 0, sound.IsDrowned);
            return new SpeechAnalysis(audio.Duration, SegmentLists.Tidy(SegmentLists.Gate(Calibration.Of(phones, SpeechSource.Phones, sound.IsDrowned), voiced), audio.Duration), [], levels, SpeechSource.Phones) { PitchHz = pitch };
        }
        var (all, segments) = Align(sound, 0, sound.Frames, words, request, voiced, inner, cancel);
        // Words that were only heard count where a voice is; a script is believed.
        if (source == SpeechSource.Recognised)
        {
            all = SegmentLists.Gate(all, voiced);
            segments.RemoveAll(w => !voiced.Any(v => v.Start < w.End && v.End > w.Start));
        }
        (all, segments) = (Calibration.Of(all, source, sound.IsDrowned), Calibration.Of(segments, source, sound.IsDrowned));
        var result = new SpeechAnalysis(audio.Duration, SegmentLists.Tidy(all, audio.Duration), segments, levels, source) { PitchHz = pitch, Draft = draft };
        foreach (var mark in request.Marks)
            if (mark.IsVoice) result = FillMarked(sound, result, mark, cancel);
        return result;
    }

    /// <summary>
    /// Hears a take again after a change of a few words or of boundaries set by hand: only the neighbourhood of each change is listened to,
    /// the rest is kept as it was.
    /// </summary>
    /// <param name="audio">16 kHz, the same sound.</param>
    /// <param name="known">The analysis so far.</param>
    /// <param name="request">The words as they are now; its <see cref="HearingRequest.Pins"/> hold.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="ArgumentException">The sound is not at 16 kHz.</exception>
    public SpeechAnalysis Realign(AudioBuffer audio, SpeechAnalysis known, HearingRequest request, CancellationToken cancel = default)
    {
        if (audio.SampleRate != CepstralFrontEnd.SampleRate) throw new ArgumentException("Speech analysis works at 16 kHz.", nameof(audio));
        if (known.Words.Count == 0 || request.Words.Count == 0) return BoundaryPins.Apply(Analyze(audio, request, null, cancel), request.Pins);
        var levels = known.LevelsDb;
        audio = VoiceMarks.Mute(audio, request.Marks);
        var result = known with { Source = SpeechSource.Script, Draft = "" };
        var windows = Neighbourhoods.Find(known, request.Words, request.Pins);
        // From the last to the first, so that the places of the earlier ones still hold.
        for (var w = windows.Count - 1; w >= 0; w--)
        {
            var window = windows[w];
            double from = Math.Max(0, window.Start - Neighbourhoods.Margin), to = Math.Min(audio.Duration, window.End + Neighbourhoods.Margin);
            int first = (int)(from * audio.SampleRate), last = Math.Min(audio.Samples.Length, (int)(to * audio.SampleRate));
            var slice = new AudioBuffer(audio.Samples[first..last], audio.SampleRate);
            var sound = new Sound(_model, _frontEnd, slice, (double)first / audio.SampleRate, cancel);
            sound.Doubt(LoudnessEnvelope.LevelsDb(slice), _voice?.Invoke(slice, cancel));
            var phones = new List<PhoneSegment>();
            var words = new List<WordSegment>();
            var start = window.Start;
            foreach (var part in window.Parts)
            {
                int a = sound.FrameAt(start), b = sound.FrameAt(part.End);
                IReadOnlyList<ScriptWord> own = [.. request.Words.Skip(part.FirstWord).Take(part.WordCount)];
                if (b - a >= 3 && own.Count > 0)
                {
                    var (p, ws) = Align(sound, a, b, own, request, [(start, part.End)], null, cancel);
                    (p, ws) = (Calibration.Of(p, SpeechSource.Script, sound.IsDrowned), Calibration.Of(ws, SpeechSource.Script, sound.IsDrowned));
                    // Frames are 10 ms apart: what starts or ends within one of the stretch's edge does so at the edge.
                    const double frame = 0.011;
                    if (p.Count > 1 && Arpabet.IsSilent(p[0].Phone) && p[0].End < start + frame) p.RemoveAt(0);
                    if (p.Count > 1 && Arpabet.IsSilent(p[^1].Phone) && p[^1].Start > part.End - frame) p.RemoveAt(p.Count - 1);
                    p[0] = p[0] with { Start = start };
                    p[^1] = p[^1] with { End = part.End };
                    phones.AddRange(p);
                    words.AddRange(ws.Select(x => x with { Start = x.Start < start + frame ? start : x.Start, End = x.End > part.End - frame ? part.End : x.End }));
                }
                else phones.Add(new PhoneSegment(Arpabet.Silence, start, part.End));
                start = part.End;
            }
            var all = result.Phones.Where(p => p.Start < window.Start).Select(p => p with { End = Math.Min(p.End, window.Start) }).ToList();
            all.AddRange(phones);
            all.AddRange(result.Phones.Where(p => p.End > window.End).Select(p => p with { Start = Math.Max(p.Start, window.End) }));
            List<WordSegment> texts = [.. result.Words.Where(x => x.End <= window.Start + 1e-6), .. words, .. result.Words.Where(x => x.Start >= window.End - 1e-6)];
            result = result with { Phones = SegmentLists.Tidy(all, known.Duration), Words = texts, LevelsDb = levels };
        }
        return BoundaryPins.Apply(result, request.Pins);
    }

    /// <summary>Sound made ready for the search: features, and how well the best of all phones explains each frame.</summary>
    private sealed class Sound
    {
        private readonly float[] _features;
        private readonly CepstralFrontEnd _frontEnd;
        private readonly double _shift;

        // All of a take, or a slice of it that starts at an offset in seconds.
        public Sound(AcousticModel model, CepstralFrontEnd frontEnd, AudioBuffer audio, double offset, CancellationToken cancel)
        {
            _frontEnd = frontEnd;
            // A frame's state describes the middle of its window; a boundary lies half a shift before the middle of the first frame after it.
            _shift = offset - model.FrontEnd.ShiftSamples / 2.0 / CepstralFrontEnd.SampleRate;
            _features = Features.FromCepstra(frontEnd.Compute(audio.Samples, cancel));
            Audio = audio;
            Offset = offset;
            Background = new Background(model, _features, cancel);
            Quiet = new float[Frames];
        }

        /// <summary>Takes in what level and voice model say: one value per 10 ms, and one per step of the model or null.</summary>
        public void Doubt(float[] levels, float[]? voice)
        {
            var doubt = VoiceActivity.AgainstSilence(levels, voice);
            for (var f = 0; f < Frames; f++) Quiet[f] = doubt[Math.Clamp((int)(100 * _frontEnd.CentreOf(f)), 0, doubt.Length - 1)];
            // Less than 25 dB between the loud parts and the quietest: pauses are not silent.
            var range = LoudnessEnvelope.Percentile(levels, 0.97) - LoudnessEnvelope.Percentile(levels, 0.1);
            (IsNoisy, IsDrowned) = (range < 25, range < 20);
        }

        /// <summary>Whether there is noise in the pauses.</summary>
        public bool IsNoisy { get; private set; }

        /// <summary>Whether the noise lies so close under the speech that boundaries and confidences have tables of their own.</summary>
        public bool IsDrowned { get; private set; }

        private Sound(Sound other, float[] features, Background background) =>
            (_features, _frontEnd, _shift, Audio, Offset, Background, Quiet, IsNoisy, IsDrowned) = (features, other._frontEnd, other._shift, other.Audio, other.Offset, background, other.Quiet, other.IsNoisy, other.IsDrowned);

        /// <summary>The same sound, its features fitted to the model.</summary>
        public Sound Adapted(AcousticModel model, IReadOnlyList<(int Frame, int Senone)> states, CancellationToken cancel)
        {
            var features = SpeakerTransform.Adapt(model, _features, states);
            return new Sound(this, features, new Background(model, features, cancel));
        }

        public AudioBuffer Audio { get; }
        public double Offset { get; }
        public Background Background { get; }
        /// <summary>For each frame what speaks against silence there (less than 0) or against speech (more than 0), in nats.</summary>
        public float[] Quiet { get; }
        public int Frames => _features.Length / Features.Length;
        public ReadOnlySpan<float> this[int frame] => _features.AsSpan(frame * Features.Length, Features.Length);
        /// <summary>The boundary before a frame, in seconds of the take.</summary>
        public double TimeOf(int frame) => _frontEnd.CentreOf(frame) + _shift;
        /// <summary>The frame that starts nearest to a time of the take.</summary>
        public int FrameAt(double seconds) => Math.Clamp((int)Math.Round((seconds - TimeOf(0)) / (TimeOf(1) - TimeOf(0))), 0, Frames);
    }

    /// <summary>A stretch of frames on the best path.</summary>
    /// <param name="Model">Phone in context, or <see cref="PhoneGraph.Foreign"/>.</param>
    /// <param name="Phone">Base phone.</param>
    /// <param name="Word">Which word of the network, or less than 0.</param>
    /// <param name="Start">First frame of the sound.</param>
    /// <param name="End">One past the last.</param>
    private readonly record struct Step(int Model, int Phone, int Word, int Start, int End);

    private (List<PhoneSegment> Phones, List<WordSegment> Words) Align(Sound sound, int first, int last, IReadOnlyList<ScriptWord> words, HearingRequest request,
        IReadOnlyList<(double Start, double End)> voiced, Action<double>? progress, CancellationToken cancel)
    {
        // A written word may be several spoken ones; each is a word of the network and they are joined again afterwards.
        var pronunciations = new List<int[][]>();
        var owners = new List<int>();
        for (var w = 0; w < words.Count; w++)
            foreach (var text in words[w].Spoken)
            {
                var found = request.Pronounce(text).Where(p => p.Length > 0 && p.All(_model.HasPhone)).Select(p => p.Select(_model.PhoneIndex).ToArray()).ToArray();
                if (found.Length == 0) continue;
                pronunciations.Add(found);
                owners.Add(w);
            }
        var graph = ScriptGraph.Build(_model, pronunciations, request.IsNative ? NativeWeights : MappedWeights);
        var steps = Search(graph, sound, first, last, progress, cancel);
        // A voice that fits the model gains nothing from being adapted to it; noise and other accents gain much, in two rounds.
        for (var round = 0; round < Rounds; round++)
        {
            var fit = Fit(Confidence(sound, steps), steps);
            if (!sound.IsNoisy && fit > GoodFit) break;
            // Where the words that were found fit badly, those that were not are measured less strictly, too.
            if (fit < PoorFit) graph.ForeignPenalty = Math.Min(graph.ForeignPenalty, -3 - (float)Shortfall(fit));
            var states = SpeechStates(sound, steps);
            if (states.Count < SpeakerTransform.LeastFrames) break;
            sound = sound.Adapted(_model, states, cancel);
            steps = Search(graph, sound, first, last, progress, cancel);
        }
        steps = Mend(sound, steps, pronunciations, owners, voiced, cancel);
        var ends = last == sound.Frames ? sound.Offset + sound.Audio.Duration : sound.TimeOf(last);
        var (rough, word) = FillForeign(sound, steps, Segments(sound, steps, ends), voiced, cancel);
        var owner = word.ConvertAll(w => w < 0 ? -1 : owners[w]);
        for (var i = 0; i < rough.Count; i++)
        {
            if (owner[i] >= 0) rough[i] = rough[i] with { Confidence = rough[i].Confidence * words[owner[i]].Likelihood };
            if (owner[i] >= 0 || Arpabet.IsSilent(rough[i].Phone)) continue;
            // Sounds that no word stands for need a voice.
            rough[i] = Voiced(rough[i].Start, rough[i].End, voiced) < rough[i].Duration / 2 ? new PhoneSegment(Arpabet.Silence, rough[i].Start, rough[i].End) : rough[i] with { Confidence = Math.Min(rough[i].Confidence, Unvouched) };
        }
        var phones = Refining(rough, sound.Audio, sound.Offset, sound.IsDrowned);
        var spans = new Dictionary<int, (double Start, double End, double Sum)>();
        for (var i = 0; i < phones.Count; i++)
        {
            if (owner[i] < 0) continue;
            var p = phones[i];
            spans[owner[i]] = spans.TryGetValue(owner[i], out var f) ? (f.Start, p.End, f.Sum + p.Confidence * p.Duration) : (p.Start, p.End, p.Confidence * p.Duration);
        }
        var segments = spans.OrderBy(p => p.Value.Start)
            .Select(p => new WordSegment(words[p.Key].Text, p.Value.Start, p.Value.End, (float)(p.Value.Sum / Math.Max(1e-6, p.Value.End - p.Value.Start)))).ToList();
        return (phones, segments);
    }

    private List<Step> Search(PhoneGraph graph, Sound sound, int first, int last, Action<double>? progress, CancellationToken cancel)
    {
        // A beam that lost every way to the end is opened until there is one.
        for (var beam = AlignBeam; ; beam *= 4)
        {
            var path = new ViterbiDecoder(_model).Decode(graph, last - first, f => sound[first + f], f => sound.Background[first + f], f => sound.Quiet[first + f], beam, out var complete, progress, cancel);
            if (complete || beam > 10_000)
                return [.. path.Select(s => new Step(graph.Model[s.Node], graph.Phone[s.Node], graph.Word[s.Node], first + s.Start, first + s.End))];
        }
    }

    // Words on each side of a gap that are aligned again with it; the outermost keeps its place.
    private const int Around = 2;
    // Confidence of sounds that no word stands for.
    private const float Unvouched = 0.3f;

    /// <summary>
    /// Where the script and the voice part, the way round a word and the yardstick for foreign speech know nothing of their neighbours' sounds, and push
    /// their boundaries about. So each such place is aligned once more, with what was said there: words left out are gone, and foreign speech is a word of the
    /// phones that the phone decoder hears.
    /// </summary>
    private List<Step> Mend(Sound sound, List<Step> steps, List<int[][]> words, List<int> owners, IReadOnlyList<(double Start, double End)> voiced, CancellationToken cancel)
    {
        // Stretches of steps that are one word, one piece of foreign speech, or silence.
        var pieces = new List<(int First, int Last, int Word, bool IsForeign)>();
        for (var i = 0; i < steps.Count;)
        {
            var j = i;
            while (j + 1 < steps.Count && steps[j + 1].Word == steps[i].Word && (steps[j + 1].Model == PhoneGraph.Foreign) == (steps[i].Model == PhoneGraph.Foreign)) j++;
            pieces.Add((i, j, steps[i].Word, steps[i].Model == PhoneGraph.Foreign));
            i = j + 1;
        }
        var isGap = new bool[pieces.Count];
        var previous = -1;
        for (var i = 0; i < pieces.Count; i++)
        {
            if (pieces[i].IsForeign) isGap[i] = steps[pieces[i].Last].End - steps[pieces[i].First].Start >= LeastForeign;
            if (pieces[i].Word < 0) continue;
            if (pieces[i].Word - previous > 1) isGap[i] = true;
            previous = pieces[i].Word;
        }
        if (previous >= 0 && previous < words.Count - 1) isGap[^1] = true;
        var result = new List<Step>();
        var done = 0;
        for (var i = 0; i < pieces.Count; i++)
        {
            if (!isGap[i]) continue;
            int from = Outwards(i, -1), to = Outwards(i, 1);
            // Gaps that are near each other are one: no two stretches may share more than the word that both keep.
            for (var k = i + 1; k < pieces.Count; k++)
            {
                if (!isGap[k]) continue;
                if (k > to && Outwards(k, -1) >= to) break;
                to = Outwards(k, 1);
            }
            i = to;
            int start = steps[pieces[from].First].Start, end = steps[pieces[to].Last].End;
            if (end - start > LongestMend) continue;
            var own = new List<int[][]>();
            var names = new List<int>();
            for (var k = from; k <= to; k++)
            {
                if (pieces[k].Word >= 0) { own.Add(words[pieces[k].Word]); names.Add(pieces[k].Word); }
                else if (pieces[k].IsForeign && Voiced(sound.TimeOf(steps[pieces[k].First].Start), sound.TimeOf(steps[pieces[k].Last].End), voiced) > 0.01 * LeastForeign)
                    foreach (var said in Said(sound, steps[pieces[k].First].Start, steps[pieces[k].Last].End, cancel))
                    {
                        own.Add([said]);
                        names.Add(words.Count);
                        words.Add([said]);
                        owners.Add(-1);
                    }
            }
            if (own.Count == 0) continue;
            var graph = ScriptGraph.Build(_model, own, MappedWeights);
            var mended = Search(graph, sound, start, end, null, cancel).ConvertAll(s => s.Word >= 0 ? s with { Word = names[s.Word] } : s);
            // The outermost words have neighbours that this search knew nothing of: they stay as they were.
            int head = from > 0 && pieces[from].Word >= 0 ? pieces[from].Last + 1 : pieces[from].First, tail = to < pieces.Count - 1 && pieces[to].Word >= 0 ? pieces[to].First : pieces[to].Last + 1;
            int low = head > pieces[from].First ? steps[head].Start : start, high = tail <= pieces[to].Last ? steps[tail].Start : end;
            List<Step> inner = [.. mended.Where(s => !(head > pieces[from].First && s.Word == pieces[from].Word) && !(tail <= pieces[to].Last && s.Word == pieces[to].Word))];
            inner = [.. inner.Select(s => s with { Start = Math.Clamp(s.Start, low, high), End = Math.Clamp(s.End, low, high) }).Where(s => s.End > s.Start)];
            if (inner.Count == 0) continue;
            inner[0] = inner[0] with { Start = low };
            inner[^1] = inner[^1] with { End = high };
            result.AddRange(steps.GetRange(done, head - done));
            result.AddRange(inner);
            done = tail;
        }
        result.AddRange(steps.GetRange(done, steps.Count - done));
        return result;

        int Outwards(int at, int way)
        {
            var left = pieces[at].Word >= 0 && way > 0 ? Around - 1 : Around;
            while (at + way >= 0 && at + way < pieces.Count && left > 0) if (pieces[at += way].Word >= 0) left--;
            return at;
        }
    }

    /// <summary>How much of a stretch is voice, in seconds.</summary>
    private static double Voiced(double start, double end, IReadOnlyList<(double Start, double End)> voiced)
    {
        double sum = 0;
        foreach (var v in voiced) sum += Math.Max(0, Math.Min(end, v.End) - Math.Max(start, v.Start));
        return sum;
    }

    // Foreign speech under this many frames is no speech; longer stretches of a take than this, in frames, are left as they are.
    private const int LeastForeign = 8, LongestMend = 3000;

    /// <summary>What the phone decoder hears between two frames, cut into words at silences.</summary>
    private IEnumerable<int[]> Said(Sound sound, int from, int to, CancellationToken cancel)
    {
        var word = new List<int>();
        foreach (var s in DecodeLoop(sound, from, to, null, cancel))
        {
            if (!Arpabet.IsSilent(_model.PhoneNames[s.Phone])) { word.Add(s.Phone); continue; }
            if (word.Count > 0) yield return [.. word];
            word.Clear();
        }
        if (word.Count > 0) yield return [.. word];
    }

    /// <summary>Mean confidence of the words' frames.</summary>
    private static double Fit(float[] confidence, List<Step> steps)
    {
        double sum = 0, frames = 1e-9;
        for (var i = 0; i < steps.Count; i++)
        {
            if (steps[i].Word < 0) continue;
            sum += confidence[i] * (steps[i].End - steps[i].Start);
            frames += steps[i].End - steps[i].Start;
        }
        return sum / frames;
    }

    /// <summary>Frames of speech with the likeliest senone of the phone that they lie in.</summary>
    private List<(int Frame, int Senone)> SpeechStates(Sound sound, List<Step> steps)
    {
        var scorer = new SenoneScorer(_model);
        var states = new List<(int, int)>();
        foreach (var step in steps)
        {
            if (step.Model == PhoneGraph.Foreign || Arpabet.IsSilent(_model.PhoneNames[step.Phone])) continue;
            for (var t = step.Start; t < step.End; t++)
            {
                scorer.SetFrame(sound[t]);
                var (best, score) = (-1, float.NegativeInfinity);
                foreach (var s in _model.SenonesOf(step.Model))
                    if (scorer.Score(s) is var own && own > score) (best, score) = (s, own);
                states.Add((t, best));
            }
        }
        return states;
    }

    private static readonly ScriptGraph.Weights NativeWeights = new();

    // Phones of another language fit the model badly everywhere: a bad fit is no reason to leave a word out or to think that it is foreign.
    private static readonly ScriptGraph.Weights MappedWeights = new() { Skip = -400, Foreign = -200, ForeignFrame = -12 };

    private List<Step> DecodeLoop(Sound sound, int first, int last, Action<double>? progress, CancellationToken cancel)
    {
        var loop = _loop.Value;
        var path = new ViterbiDecoder(_model).Decode(loop, last - first, f => sound[first + f], f => sound.Background[first + f], f => sound.Quiet[first + f], LoopBeam, out _, progress, cancel);
        return [.. path.Select(s => new Step(loop.Model[s.Node], loop.Phone[s.Node], -1, first + s.Start, first + s.End))];
    }

    /// <summary>The whole take sound by sound, adapted to what was first heard in it.</summary>
    private List<Step> Listen(ref Sound sound, Action<double>? progress, CancellationToken cancel)
    {
        var steps = DecodeLoop(sound, 0, sound.Frames, p => progress?.Invoke(p / 2), cancel);
        var states = SpeechStates(sound, steps);
        if (states.Count < SpeakerTransform.LeastFrames) return steps;
        sound = sound.Adapted(_model, states, cancel);
        return DecodeLoop(sound, 0, sound.Frames, p => progress?.Invoke(0.5 + p / 2), cancel);
    }

    /// <summary>Speech that no word explains is listened to sound by sound: the mouth must not stand still for a missing word.</summary>
    /// <returns>Phones, and for each the word that it belongs to or less than 0.</returns>
    private (List<PhoneSegment> Phones, List<int> Word) FillForeign(Sound sound, List<Step> steps, List<PhoneSegment> phones, IReadOnlyList<(double Start, double End)> voiced, CancellationToken cancel)
    {
        var (result, word) = (new List<PhoneSegment>(), new List<int>());
        for (var i = 0; i < steps.Count; i++)
        {
            if (steps[i].Model != PhoneGraph.Foreign)
            {
                result.Add(phones[i]);
                word.Add(steps[i].Word);
                continue;
            }
            // One piece of foreign speech is many short steps.
            var last = i;
            while (last + 1 < steps.Count && steps[last + 1].Model == PhoneGraph.Foreign) last++;
            int from = steps[i].Start, to = steps[last].End;
            double start = phones[i].Start, end = phones[last].End;
            i = last;
            if (to - from < LeastForeign) result.Add(new PhoneSegment(Arpabet.Silence, start, end));
            else result.AddRange(SegmentLists.Gate(Heard(sound, from, to, start, end, cancel), voiced));
            while (word.Count < result.Count) word.Add(-1);
        }
        return (result, word);
    }

    /// <summary>What the phone decoder hears between two frames, laid between two times; nobody vouches for it.</summary>
    private List<PhoneSegment> Heard(Sound sound, int from, int to, double start, double end, CancellationToken cancel)
    {
        var heard = DecodeLoop(sound, from, to, null, cancel)
            .Select(s => new PhoneSegment(_model.PhoneNames[s.Phone], Math.Clamp(sound.TimeOf(s.Start), start, end), Math.Clamp(sound.TimeOf(s.End), start, end), Unvouched)).ToList();
        heard[0] = heard[0] with { Start = start };
        heard[^1] = heard[^1] with { End = end };
        return heard;
    }

    /// <summary>Somebody says that here is a voice: what was taken for silence is listened to sound by sound.</summary>
    private SpeechAnalysis FillMarked(Sound sound, SpeechAnalysis speech, VoiceMark mark, CancellationToken cancel)
    {
        var phones = new List<PhoneSegment>();
        foreach (var p in speech.Phones)
        {
            double start = Math.Max(p.Start, mark.Start), end = Math.Min(p.End, mark.End);
            int from = sound.FrameAt(start), to = sound.FrameAt(end);
            if (!Arpabet.IsSilent(p.Phone) || end - start < 0.1 || to - from < 8) { phones.Add(p); continue; }
            if (start > p.Start) phones.Add(p with { End = start });
            phones.AddRange(Heard(sound, from, to, start, end, cancel));
            if (end < p.End) phones.Add(p with { Start = end });
        }
        return speech with { Phones = SegmentLists.Tidy(phones, speech.Duration) };
    }

    /// <summary>One segment per step; the first starts at the slice's start, the last ends where the caller says. Noises and speech that cannot be told are silence.</summary>
    private List<PhoneSegment> Segments(Sound sound, List<Step> steps, double end)
    {
        var confidence = Confidence(sound, steps);
        var phones = new List<PhoneSegment>(steps.Count);
        for (var i = 0; i < steps.Count; i++)
        {
            var name = _model.PhoneNames[steps[i].Phone];
            phones.Add(new PhoneSegment(Arpabet.IsSilent(name) || name == Arpabet.Spoken ? Arpabet.Silence : name,
                steps[i].Start == 0 ? sound.Offset : sound.TimeOf(steps[i].Start), i == steps.Count - 1 ? end : sound.TimeOf(steps[i].End), confidence[i]));
        }
        return phones;
    }

    /// <summary>All known ways to say a word of the model's language; nothing when nobody knows.</summary>
    public IReadOnlyList<string[]> Say(string word) => Pronounce(word.ToLowerInvariant());

    private IReadOnlyList<string[]> Pronounce(string word)
    {
        IEnumerable<string[]> found = _dictionary.Lookup(word);
        if (!found.Any() && word.EndsWith("'s", StringComparison.Ordinal)) found = _dictionary.Lookup(word[..^2]).Select(p => (string[])[.. p, p[^1] is "P" or "T" or "K" or "F" or "TH" ? "S" : "Z"]);
        if (!found.Any() && _pronounce != null) found = _pronounce(word);
        return [.. found];
    }

    // Logistic in the mean shortfall per frame against the best of all phones, in nats; four is even odds (chosen on read speech).
    private static double Sureness(double shortfall) => (1 + Math.Exp(-4)) / (1 + Math.Exp(shortfall - 4));
    private static double Shortfall(double sureness) => 4 + Math.Log((1 + Math.Exp(-4)) / Math.Clamp(sureness, 1e-3, 1) - 1);

    /// <summary>Per step how well its phone explains its frames against the best of all phones, 0 to 1.</summary>
    private float[] Confidence(Sound sound, List<Step> steps)
    {
        var scorer = new SenoneScorer(_model);
        var result = new float[steps.Count];
        for (var i = 0; i < steps.Count; i++)
        {
            if (steps[i].Model == PhoneGraph.Foreign) continue;
            double sum = 0;
            for (var t = steps[i].Start; t < steps[i].End; t++)
            {
                scorer.SetFrame(sound[t]);
                var own = float.NegativeInfinity;
                foreach (var s in _model.SenonesOf(steps[i].Model)) own = MathF.Max(own, scorer.Score(s));
                sum += Math.Max(0, sound.Background[t] - own);
            }
            result[i] = (float)Sureness(sum / Math.Max(1, steps[i].End - steps[i].Start));
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
