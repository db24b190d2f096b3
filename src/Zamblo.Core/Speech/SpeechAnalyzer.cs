using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>What is done to boundaries: phones, and the sound that they lie in.</summary>
internal delegate List<PhoneSegment> BoundaryRefining(IReadOnlyList<PhoneSegment> phones, HeardSound sound);

/// <summary>
/// Hears a take: from 16 kHz sound, and a script where there is one, to words and phones in time. The one entry to this folder.
/// Safe to use from several threads.
/// </summary>
public sealed class SpeechAnalyzer
{
    private readonly AcousticModel _model;
    private readonly PronunciationDictionary _dictionary;
    private readonly Func<string, IReadOnlyList<string[]>>? _pronounce;
    private readonly Recogniser? _recognise;
    private readonly Func<AudioBuffer, CancellationToken, float[]>? _voice;
    private readonly SongModel? _song;
    private readonly VocalSoundModel? _sounds;
    private readonly PhoneModel? _sung,
        _spoken;
    private readonly CepstralFrontEnd _frontEnd;
    private readonly PathSearch _search;
    private readonly Lazy<PathSearch> _others;

    /// <param name="model">The acoustic model.</param>
    /// <param name="dictionary">Words of the model's language.</param>
    /// <param name="pronounce">How to say a word that the dictionary lacks, as ARPAbet; may return nothing.</param>
    /// <param name="voice">Probability of voice, one value per <see cref="VoiceActivity.ModelStep"/>; without it level alone decides.</param>
    /// <param name="recognise">Draft words for sound without a script.</param>
    /// <param name="song">Tells a voice from a band that plays with it; without it both are heard.</param>
    /// <param name="sounds">Names laughs, sobs, breaths and the like; without it they are heard as speech or as nothing.</param>
    /// <param name="sung">Tells which phone is sung; without it only the acoustic model does.</param>
    /// <param name="spoken">Tells which phone is said; without it only the acoustic model does.</param>
    public SpeechAnalyzer(
        AcousticModel model,
        PronunciationDictionary dictionary,
        Func<string, IReadOnlyList<string[]>>? pronounce = null,
        Recogniser? recognise = null,
        Func<AudioBuffer, CancellationToken, float[]>? voice = null,
        SongModel? song = null,
        VocalSoundModel? sounds = null,
        PhoneModel? sung = null,
        PhoneModel? spoken = null
    )
    {
        _spoken = spoken;
        _sung = sung;
        _sounds = sounds;
        _song = song;
        _voice = voice;
        _recognise = recognise;
        _model = model;
        _dictionary = dictionary;
        _pronounce = pronounce;
        _frontEnd = new CepstralFrontEnd(model.FrontEnd);
        _search = SearchBy(() => _dictionary);
        _others = new Lazy<PathSearch>(() => OtherWords == null ? _search : SearchBy(OtherWords));
    }

    private PathSearch SearchBy(Func<PronunciationDictionary> words) =>
        new(_model, new Lazy<PhoneGraph>(() => PhoneLoop.Build(_model, PhoneBigram.FromDictionary(words()))));

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
    public HearingRequest Request(string? script) =>
        new() { Words = script == null ? [] : ScriptWord.InRows(ScriptText.Words(script), script), Pronounce = Pronounce };

    /// <summary>Words of other languages, by whose sounds speech is heard that is none of the model's; asked for once. Null for its own.</summary>
    public Func<PronunciationDictionary>? OtherWords { get; init; }

    // How far an analysis without a script is when its words are drafted: most of the time goes into them.
    private const double Drafted = 0.7;

    // And one of a song when it is known which rows are sung again.
    private const double Repeated = 0.4;

    /// <summary>What is done to boundaries in the end; only learning looks at them before that.</summary>
    internal BoundaryRefining Refining { get; init; } = BoundaryRefiner.Refine;

    private ScriptAligner Aligner => new(_model, _search, Refining);

    /// <summary>Analyses a take as a request says.</summary>
    /// <param name="audio">16 kHz only.</param>
    /// <param name="request">What is said, how it sounds, what is known by hand.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="ArgumentException">The sound is not at 16 kHz.</exception>
    public SpeechAnalysis Analyze(AudioBuffer audio, HearingRequest request, Action<double>? progress = null, CancellationToken cancel = default)
    {
        if (audio.SampleRate != CepstralFrontEnd.SampleRate)
            throw new ArgumentException("Speech analysis works at 16 kHz.", nameof(audio));
        var (levels, whole) = (LoudnessEnvelope.LevelsDb(audio), audio);
        // Where a band plays, everything is about the voice alone: a mouth does not open to a drum.
        var song = _song != null && VoiceOfSong.IsSong(audio, levels, _song, cancel) ? VoiceOfSong.TakenOut(audio, _song, cancel) : null;
        if (song != null)
            levels = LoudnessEnvelope.LevelsDb(song.Alone);
        audio = VoiceMarks.Mute(song?.Alone ?? audio, request.Marks);
        // An echo goes on when the sound is over: it would be taken for it.
        var room = song == null ? RoomEcho.OfRoom(audio) : null;
        var dry = room is { } rt60 ? RoomEcho.Lessened(audio, rt60, cancel) : audio;
        var close = song == null ? dry : VoiceMarks.Mute(song.Nearly, request.Marks);
        var heardLevels = dry != audio || request.Marks.Any(m => !m.IsVoice) ? LoudnessEnvelope.LevelsDb(dry) : levels;
        var silent = SpeechAnalysis.Silent(audio.Duration) with { LevelsDb = levels, HasBand = song != null, Sounds = VoiceMarks.Sounds(null, request.Marks) };
        if ((VoiceActivity.FromLevels(heardLevels).Count == 0 && !request.Marks.Any(m => m.IsVoice)) || _frontEnd.FrameCount(audio.Samples.Length) < 3)
            return silent;
        // The voice model runs on one core: pitch and features are made beside it.
        var hearing = Task.Run(
            () =>
                (
                    PitchTracker.Track(audio, cancel),
                    new HeardSound(_model, _frontEnd, close, 0, cancel) { IsInRoom = room != null },
                    VoiceMarks.Sounds(song != null || _sounds == null ? null : VocalSounds.Find(audio, _sounds, cancel), request.Marks)
                ),
            CancellationToken.None
        );
        float[]? probability = null;
        try
        {
            probability = _voice?.Invoke(dry, cancel);
        }
        finally
        {
            // Nobody leaves while the other still reads the sound.
            ((IAsyncResult)hearing).AsyncWaitHandle.WaitOne();
        }
        var (pitch, sound, sounds) = hearing.GetAwaiter().GetResult();
        sound.Doubt(heardLevels, probability, song?.Sings);
        // Who sings alone is their own song.
        var singsAlone = song == null && sound.HoldsNotes;
        sound.Evidence = EvidenceOf(song == null ? audio : whole, song?.Alone ?? audio, song != null || singsAlone, cancel);
        sound.Doubt(VocalSounds.Unwritten(sounds, request.Words));
        var voiced = probability == null ? VoiceActivity.FromLevels(heardLevels) : VoiceActivity.FromLevelsAndModel(heardLevels, probability);
        voiced = VoiceMarks.Join(voiced, request.Marks);
        if (request.Words.Count == 0)
            voiced = VocalSounds.Without(voiced, sounds ?? []);
        if (voiced.Count == 0)
            return silent with { Sounds = sounds, PitchHz = pitch };
        progress?.Invoke(0.1);
        Action<double>? Part(double from, double to) => progress == null ? null : p => progress(from + (to - from) * p);
        var inner = Part(0.1, 1);
        var source = SpeechSource.Script;
        var words = request.Words;
        var draft = "";
        var isForeign = false;
        if (words.Count == 0 && _recognise != null)
        {
            // A recogniser knows songs with their bands, and no voices that were taken out of one.
            var written = song == null ? audio : VoiceMarks.Mute(whole, request.Marks);
            var drafted = _recognise(written, voiced, request.Names, Part(0.1, Drafted), cancel);
            inner = Part(Drafted, 1);
            // Another language is heard as words of this one, and none of them is likely: then its sounds say more.
            isForeign = request.MayBeForeign && song == null && DraftWord.SoundForeign(drafted, voiced.Sum(v => v.End - v.Start));
            if (isForeign)
                drafted = [];
            draft = string.Join(' ', drafted.Select(w => w.Text));
            words = [.. drafted.SelectMany(d => request.Read(d.Text).Select(w => w with { Likelihood = d.Likelihood }))];
            source = SpeechSource.Recognised;
        }
        if (words.Count == 0)
        {
            var search = isForeign ? _others.Value : _search;
            var phones = Refining(search.Segments(sound, search.Listen(ref sound, inner, cancel), audio.Duration), sound);
            return new SpeechAnalysis(
                audio.Duration,
                SegmentLists.Tidy(SegmentLists.Gate(Calibration.Of(phones, SpeechSource.Phones, sound.IsDrowned), voiced), audio.Duration),
                [],
                levels,
                SpeechSource.Phones
            )
            {
                PitchHz = pitch,
                Room = room,
                HasBand = song != null,
                SingsAlone = singsAlone,
                IsForeign = isForeign,
                Sounds = sounds,
            };
        }
        IReadOnlyList<SungRepeat> repeats = [];
        if (source == SpeechSource.Script && sound.IsSung && !words.Any(w => w.Earliest != null || w.Latest != null))
        {
            repeats = SungRepeats.Find(_model, _search, sound, request, words, Part(0.1, Repeated), cancel);
            inner = Part(Repeated, 1);
            words = SungRepeats.Sung(words, repeats);
        }
        var (all, segments) = Aligner.Align(sound, 0, sound.Frames, words, request, voiced, inner, cancel);
        // Words that were only heard count where a voice is; a script is believed.
        if (source == SpeechSource.Recognised)
        {
            all = SegmentLists.Gate(all, voiced);
            segments.RemoveAll(w => !voiced.Any(v => v.Start < w.End && v.End > w.Start));
        }
        (all, segments) = (Calibration.Of(all, source, sound.IsDrowned), Calibration.Of(segments, source, sound.IsDrowned));
        var result = new SpeechAnalysis(audio.Duration, SegmentLists.Tidy(all, audio.Duration), segments, levels, source)
        {
            PitchHz = pitch,
            Draft = draft,
            Room = room,
            HasBand = song != null,
            SingsAlone = singsAlone,
            Sounds = Unspoken(sounds, all),
            Repeats = repeats.Count > 0 ? repeats : null,
        };
        foreach (var mark in request.Marks)
            if (mark.IsVoice)
                result = FillMarked(sound, result, mark, cancel);
        return result;
    }

    private PhoneEvidence? EvidenceOf(AudioBuffer whole, AudioBuffer voice, bool isSong, CancellationToken cancel) =>
        isSong && _sung != null ? PhoneEvidence.OfSong(whole, voice, _sung, cancel)
        : _spoken != null ? PhoneEvidence.OfSpeech(voice, _spoken, cancel)
        : null;

    // What words were laid on after all is speech.
    private static IReadOnlyList<VocalSound>? Unspoken(IReadOnlyList<VocalSound>? sounds, IEnumerable<PhoneSegment> phones)
    {
        if (sounds == null)
            return null;
        var left = VocalSounds.Without(sounds, phones.Where(p => !Arpabet.IsSilent(p.Phone)).Select(p => (p.Start, p.End)));
        return left.Count == 0 ? null : left;
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
        if (audio.SampleRate != CepstralFrontEnd.SampleRate)
            throw new ArgumentException("Speech analysis works at 16 kHz.", nameof(audio));
        // What is sung again is no word of the script: it cannot be told apart near a change.
        if (known.Words.Count == 0 || request.Words.Count == 0 || known.Repeats != null)
            return BoundaryPins.Apply(Analyze(audio, request, null, cancel), request.Pins);
        var levels = known.LevelsDb;
        audio = VoiceMarks.Mute(audio, request.Marks);
        var result = known with { Source = SpeechSource.Script, Draft = "" };
        var windows = Neighbourhoods.Find(known, request.Words, request.Pins);
        // From the last to the first, so that the places of the earlier ones still hold.
        for (var w = windows.Count - 1; w >= 0; w--)
        {
            var window = windows[w];
            double from = Math.Max(0, window.Start - Neighbourhoods.Margin),
                to = Math.Min(audio.Duration, window.End + Neighbourhoods.Margin);
            int first = (int)(from * audio.SampleRate),
                last = Math.Min(audio.Samples.Length, (int)(to * audio.SampleRate));
            var slice = new AudioBuffer(audio.Samples[first..last], audio.SampleRate);
            // As the rest of it was heard.
            var song = known.HasBand && _song != null ? VoiceOfSong.TakenOut(slice, _song, cancel) : null;
            var cut = slice;
            if (known.Room is { } rt60)
                slice = RoomEcho.Lessened(slice, rt60, cancel);
            var sound = new HeardSound(_model, _frontEnd, song?.Nearly ?? slice, (double)first / audio.SampleRate, cancel) { IsInRoom = known.Room != null };
            slice = song?.Alone ?? slice;
            sound.Evidence = EvidenceOf(cut, song?.Alone ?? cut, song != null || known.SingsAlone, cancel);
            sound.Doubt(LoudnessEnvelope.LevelsDb(slice), _voice?.Invoke(slice, cancel), song?.Sings);
            sound.Doubt(VocalSounds.Unwritten(known.Sounds, request.Words));
            var phones = new List<PhoneSegment>();
            var words = new List<WordSegment>();
            var start = window.Start;
            foreach (var part in window.Parts)
            {
                int a = sound.FrameAt(start),
                    b = sound.FrameAt(part.End);
                IReadOnlyList<ScriptWord> own = [.. request.Words.Skip(part.FirstWord).Take(part.WordCount)];
                if (b - a >= 3 && own.Count > 0)
                {
                    var (p, ws) = Aligner.Align(sound, a, b, own, request, [(start, part.End)], null, cancel);
                    (p, ws) = (Calibration.Of(p, SpeechSource.Script, sound.IsDrowned), Calibration.Of(ws, SpeechSource.Script, sound.IsDrowned));
                    // Frames are 10 ms apart: what starts or ends within one of the stretch's edge does so at the edge.
                    const double frame = 0.011;
                    if (p.Count > 1 && Arpabet.IsSilent(p[0].Phone) && p[0].End < start + frame)
                        p.RemoveAt(0);
                    if (p.Count > 1 && Arpabet.IsSilent(p[^1].Phone) && p[^1].Start > part.End - frame)
                        p.RemoveAt(p.Count - 1);
                    p[0] = p[0] with { Start = start };
                    p[^1] = p[^1] with { End = part.End };
                    phones.AddRange(p);
                    words.AddRange(
                        ws.Select(x => x with { Start = x.Start < start + frame ? start : x.Start, End = x.End > part.End - frame ? part.End : x.End })
                    );
                }
                else
                    phones.Add(new PhoneSegment(Arpabet.Silence, start, part.End));
                start = part.End;
            }
            var all = result.Phones.Where(p => p.Start < window.Start).Select(p => p with { End = Math.Min(p.End, window.Start) }).ToList();
            all.AddRange(phones);
            all.AddRange(result.Phones.Where(p => p.End > window.End).Select(p => p with { Start = Math.Max(p.Start, window.End) }));
            List<WordSegment> texts =
            [
                .. result.Words.Where(x => x.End <= window.Start + 1e-6),
                .. words,
                .. result.Words.Where(x => x.Start >= window.End - 1e-6),
            ];
            result = result with
            {
                Phones = SegmentLists.Tidy(all, known.Duration),
                Words = texts,
                LevelsDb = levels,
                Sounds = Unspoken(result.Sounds, phones),
            };
        }
        return BoundaryPins.Apply(result, request.Pins);
    }

    /// <summary>Somebody says that here is a voice: what was taken for silence is listened to sound by sound.</summary>
    private SpeechAnalysis FillMarked(HeardSound sound, SpeechAnalysis speech, VoiceMark mark, CancellationToken cancel)
    {
        var phones = new List<PhoneSegment>();
        foreach (var p in speech.Phones)
        {
            double start = Math.Max(p.Start, mark.Start),
                end = Math.Min(p.End, mark.End);
            int from = sound.FrameAt(start),
                to = sound.FrameAt(end);
            if (!Arpabet.IsSilent(p.Phone) || end - start < 0.1 || to - from < 8)
            {
                phones.Add(p);
                continue;
            }
            if (start > p.Start)
                phones.Add(p with { End = start });
            phones.AddRange(_search.Heard(sound, from, to, start, end, cancel));
            if (end < p.End)
                phones.Add(p with { Start = end });
        }
        return speech with { Phones = SegmentLists.Tidy(phones, speech.Duration) };
    }

    /// <summary>All known ways to say a word of the model's language; nothing when nobody knows.</summary>
    public IReadOnlyList<string[]> Say(string word) => Pronounce(word.ToLowerInvariant());

    private IReadOnlyList<string[]> Pronounce(string word)
    {
        IEnumerable<string[]> found = _dictionary.Lookup(word);
        if (!found.Any() && word.EndsWith("'s", StringComparison.Ordinal))
            found = _dictionary.Lookup(word[..^2]).Select(p => (string[])[.. p, p[^1] is "P" or "T" or "K" or "F" or "TH" ? "S" : "Z"]);
        if (!found.Any() && _pronounce != null)
            found = _pronounce(word);
        return [.. found];
    }
}
