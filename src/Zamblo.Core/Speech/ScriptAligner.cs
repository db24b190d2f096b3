namespace Zamblo.Core.Speech;

/// <summary>
/// Lays a script's words on a stretch of sound: searched, fitted to the speaker, mended where script and voice part, refined at its boundaries.
/// </summary>
internal sealed class ScriptAligner(AcousticModel model, PathSearch search, BoundaryRefining refine)
{
    // Rounds of adaptation, and the mean confidence above which none is needed: of the benchmark's voices those of the model's accent have
    // 0.85 and more, those of other accents 0.6 and less.
    private const int Rounds = 2;
    private const double GoodFit = 0.8,
        PoorFit = 0.65;
    private readonly ScriptMender _mender = new(model, search);

    private static readonly ScriptGraph.Weights NativeWeights = new();

    // Phones of another language fit the model badly everywhere: a bad fit is no reason to leave a word out or to think that it is foreign.
    internal static readonly ScriptGraph.Weights MappedWeights = new()
    {
        Skip = -400,
        Foreign = -200,
        ForeignFrame = -12,
    };

    // Of what is sung few words are recognised as they are: where the sounds by themselves fit better they count (chosen on the tuned songs of the bench).
    private static readonly ScriptGraph.Weights DoubtedWeights = new()
    {
        Skip = -3,
        Foreign = -3,
        ForeignFrame = 0,
    };

    /// <summary>Phones and words from one frame to another.</summary>
    public (List<PhoneSegment> Phones, List<WordSegment> Words) Align(
        HeardSound sound,
        int first,
        int last,
        IReadOnlyList<ScriptWord> words,
        HearingRequest request,
        IReadOnlyList<(double Start, double End)> voiced,
        Action<double>? progress,
        CancellationToken cancel
    )
    {
        var (pronunciations, owners) = Pronounced(model, words, request);
        // Who sings holds a row together: between rows a band may play for as long as it likes.
        var rows = sound.IsSung ? Rows(words, owners) : null;
        var weights = request.IsNative ? NativeWeights : MappedWeights;
        if (sound.Evidence is { Weight.IsOfSong: true } && words.Any(w => w.Likelihood < 1))
            weights = DoubtedWeights;
        var graph = ScriptGraph.Build(model, pronunciations, weights, rows);
        if (owners.Exists(w => words[w].Earliest != null || words[w].Latest != null))
            graph.Windows =
            [
                .. owners.Select(w =>
                    (
                        words[w].Earliest is { } from ? sound.FrameAt(from) - first : int.MinValue,
                        words[w].Latest is { } to ? sound.FrameAt(to) - first : int.MaxValue
                    )
                ),
            ];
        var steps = search.Search(graph, sound, first, last, progress, cancel);
        // A voice that fits the model gains nothing from being adapted to it; noise and other accents gain much, in two rounds.
        for (var round = 0; round < Rounds; round++)
        {
            var fit = PathSearch.Fit(search.Confidence(sound, steps), steps);
            if (!sound.IsNoisy && fit > GoodFit)
                break;
            // Where the words that were found fit badly, those that were not are measured less strictly, too.
            if (fit < PoorFit)
                graph.ForeignPenalty = Math.Min(graph.ForeignPenalty, -3 - (float)PathSearch.Shortfall(fit));
            var states = search.SpeechStates(sound, steps);
            if (states.Count < SpeakerTransform.LeastFrames)
                break;
            sound = sound.Adapted(model, states, cancel);
            steps = search.Search(graph, sound, first, last, progress, cancel);
        }
        steps = _mender.Mend(sound, steps, pronunciations, owners, voiced, cancel);
        var ends = last == sound.Frames ? sound.Offset + sound.Audio.Duration : sound.TimeOf(last);
        var (rough, word) = FillForeign(sound, steps, search.Segments(sound, steps, ends), voiced, cancel);
        var owner = word.ConvertAll(w => w < 0 ? -1 : owners[w]);
        for (var i = 0; i < rough.Count; i++)
        {
            if (owner[i] >= 0)
                rough[i] = rough[i] with { Confidence = rough[i].Confidence * words[owner[i]].Likelihood };
            if (owner[i] >= 0 || Arpabet.IsSilent(rough[i].Phone))
                continue;
            // Sounds that no word stands for need a voice.
            rough[i] =
                SegmentLists.Voiced(rough[i].Start, rough[i].End, voiced) < rough[i].Duration / 2
                    ? new PhoneSegment(Arpabet.Silence, rough[i].Start, rough[i].End)
                    : rough[i] with
                    {
                        Confidence = Math.Min(rough[i].Confidence, PathSearch.Unvouched),
                    };
        }
        var phones = refine(rough, sound);
        var spans = new Dictionary<int, (double Start, double End, double Sum)>();
        for (var i = 0; i < phones.Count; i++)
        {
            if (owner[i] < 0)
                continue;
            var p = phones[i];
            spans[owner[i]] = spans.TryGetValue(owner[i], out var f)
                ? (f.Start, p.End, f.Sum + p.Confidence * p.Duration)
                : (p.Start, p.End, p.Confidence * p.Duration);
        }
        var segments = spans
            .Where(p => !words[p.Key].IsAgain)
            .OrderBy(p => p.Value.Start)
            .Select(p => new WordSegment(words[p.Key].Text, p.Value.Start, p.Value.End, (float)(p.Value.Sum / Math.Max(1e-6, p.Value.End - p.Value.Start))))
            .ToList();
        return (phones, segments);
    }

    /// <summary>
    /// The ways to say each word of a network, as phone numbers, and the script's word that it is of: a written word may be several spoken ones; each is a word
    /// of the network and they are joined again afterwards.
    /// </summary>
    public static (List<int[][]> Pronunciations, List<int> Owners) Pronounced(AcousticModel model, IReadOnlyList<ScriptWord> words, HearingRequest request)
    {
        var pronunciations = new List<int[][]>();
        var owners = new List<int>();
        for (var w = 0; w < words.Count; w++)
            foreach (var text in words[w].Spoken)
            {
                var found = request
                    .Pronounce(text)
                    .Where(p => p.Length > 0 && p.All(model.HasPhone))
                    .Select(p => p.Select(model.PhoneIndex).ToArray())
                    .ToArray();
                if (found.Length == 0)
                    continue;
                pronunciations.Add(found);
                owners.Add(w);
            }
        return (pronunciations, owners);
    }

    /// <summary>Words of a network with which rows of the script begin; null where all is one row.</summary>
    public static int[]? Rows(IReadOnlyList<ScriptWord> words, List<int> owners)
    {
        // A row that is sung twice on end begins twice.
        bool Begins(int i) => i == 0 || words[owners[i]].Row != words[owners[i - 1]].Row || words[owners[i]].Offset < words[owners[i - 1]].Offset;
        int[] starts = [.. Enumerable.Range(0, owners.Count).Where(Begins)];
        return starts.Length < 2 ? null : starts;
    }

    /// <summary>Speech that no word explains is listened to sound by sound: the mouth must not stand still for a missing word.</summary>
    /// <returns>Phones, and for each the word that it belongs to or less than 0.</returns>
    private (List<PhoneSegment> Phones, List<int> Word) FillForeign(
        HeardSound sound,
        List<PhoneStep> steps,
        List<PhoneSegment> phones,
        IReadOnlyList<(double Start, double End)> voiced,
        CancellationToken cancel
    )
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
            while (last + 1 < steps.Count && steps[last + 1].Model == PhoneGraph.Foreign)
                last++;
            int from = steps[i].Start,
                to = steps[last].End;
            double start = phones[i].Start,
                end = phones[last].End;
            i = last;
            if (to - from < ScriptMender.LeastForeign)
                result.Add(new PhoneSegment(Arpabet.Silence, start, end));
            else
                result.AddRange(SegmentLists.Gate(search.Heard(sound, from, to, start, end, cancel), voiced));
            while (word.Count < result.Count)
                word.Add(-1);
        }
        return (result, word);
    }
}
