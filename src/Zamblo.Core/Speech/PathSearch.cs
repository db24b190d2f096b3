using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>A stretch of frames on the best path.</summary>
/// <param name="Model">Phone in context, or <see cref="PhoneGraph.Foreign"/>.</param>
/// <param name="Phone">Base phone.</param>
/// <param name="Word">Which word of the network, or less than 0.</param>
/// <param name="Start">First frame of the sound.</param>
/// <param name="End">One past the last.</param>
internal readonly record struct PhoneStep(int Model, int Phone, int Word, int Start, int End);

/// <summary>What the decoder finds in a stretch of sound: the way through a network of words, or the likeliest phones where there are none.</summary>
internal sealed class PathSearch(AcousticModel model, Lazy<PhoneGraph> phoneLoop)
{
    // A row of a song is laid wrongly for a note or two before what comes next says so: what is right has to live until then.
    private const float AlignBeam = 160,
        RowsBeam = 300,
        LoopBeam = 60;

    // Where a network tells phones, too, the acoustic model counts for less, and what is unlikely lies nearer to what is likely.
    private const float SpokenLoopBeam = 35,
        SungLoopBeam = 22;

    /// <summary>Confidence of sounds that no word stands for.</summary>
    public const float Unvouched = 0.3f;

    /// <summary>The best way through a network from one frame to another.</summary>
    public List<PhoneStep> Search(PhoneGraph graph, HeardSound sound, int first, int last, Action<double>? progress, CancellationToken cancel) =>
        Search(graph, sound, first, last, graph.HasRows ? RowsBeam : AlignBeam, progress, out _, cancel);

    /// <summary>Where much is tried and only compared: the best way through a network, and the logarithm of how likely it is, in nats.</summary>
    public List<PhoneStep> Compare(PhoneGraph graph, HeardSound sound, Action<double>? progress, out double score, CancellationToken cancel) =>
        Search(graph, sound, 0, sound.Frames, AlignBeam, progress, out score, cancel);

    private List<PhoneStep> Search(
        PhoneGraph graph,
        HeardSound sound,
        int first,
        int last,
        float narrowest,
        Action<double>? progress,
        out double score,
        CancellationToken cancel
    )
    {
        // A beam that lost every way to the end is opened until there is one.
        for (var beam = narrowest; ; beam *= 4)
        {
            var decoder = new ViterbiDecoder(model);
            var path = decoder.Decode(
                graph,
                last - first,
                f => sound[first + f],
                f => sound.Background[first + f],
                f => sound.Quiet[first + f],
                beam,
                out var complete,
                progress,
                cancel,
                f => sound.Weights[first + f],
                Told(sound, first)
            );
            score = decoder.Score;
            if (complete || beam > 10_000)
                return [.. path.Select(s => new PhoneStep(graph.Model[s.Node], graph.Phone[s.Node], graph.Word[s.Node], first + s.Start, first + s.End))];
        }
    }

    private FrameEvidence? Told(HeardSound sound, int first) =>
        sound.Evidence is { } evidence ? new FrameEvidence(evidence, PhoneEvidence.PlacesOf(model), f => sound.CentreOf(first + f)) : null;

    /// <summary>The likeliest phones from one frame to another.</summary>
    public List<PhoneStep> DecodeLoop(HeardSound sound, int first, int last, Action<double>? progress, CancellationToken cancel)
    {
        var loop = phoneLoop.Value;
        var path = new ViterbiDecoder(model).Decode(
            loop,
            last - first,
            f => sound[first + f],
            f => sound.Background[first + f],
            f => sound.Quiet[first + f],
            sound.Evidence switch
            {
                { Weight.IsOfSong: true } => SungLoopBeam,
                not null => SpokenLoopBeam,
                null => LoopBeam,
            },
            out _,
            progress,
            cancel,
            null,
            Told(sound, first)
        );
        return [.. path.Select(s => new PhoneStep(loop.Model[s.Node], loop.Phone[s.Node], -1, first + s.Start, first + s.End))];
    }

    /// <summary>The whole take sound by sound, adapted to what was first heard in it.</summary>
    public List<PhoneStep> Listen(ref HeardSound sound, Action<double>? progress, CancellationToken cancel)
    {
        var steps = DecodeLoop(sound, 0, sound.Frames, p => progress?.Invoke(p / 2), cancel);
        var states = SpeechStates(sound, steps);
        if (states.Count < SpeakerTransform.LeastFrames)
            return steps;
        sound = sound.Adapted(model, states, cancel);
        return DecodeLoop(sound, 0, sound.Frames, p => progress?.Invoke(0.5 + p / 2), cancel);
    }

    /// <summary>What the phone decoder hears between two frames, cut into words at silences.</summary>
    public IEnumerable<int[]> Said(HeardSound sound, int from, int to, CancellationToken cancel)
    {
        var word = new List<int>();
        foreach (var s in DecodeLoop(sound, from, to, null, cancel))
        {
            if (!Arpabet.IsSilent(model.PhoneNames[s.Phone]))
            {
                word.Add(s.Phone);
                continue;
            }
            if (word.Count > 0)
                yield return [.. word];
            word.Clear();
        }
        if (word.Count > 0)
            yield return [.. word];
    }

    /// <summary>What the phone decoder hears between two frames, laid between two times; nobody vouches for it.</summary>
    public List<PhoneSegment> Heard(HeardSound sound, int from, int to, double start, double end, CancellationToken cancel)
    {
        var heard = DecodeLoop(sound, from, to, null, cancel)
            .Select(s => new PhoneSegment(
                model.PhoneNames[s.Phone],
                Math.Clamp(sound.TimeOf(s.Start), start, end),
                Math.Clamp(sound.TimeOf(s.End), start, end),
                Unvouched
            ))
            .ToList();
        heard[0] = heard[0] with { Start = start };
        heard[^1] = heard[^1] with { End = end };
        return heard;
    }

    /// <summary>Mean confidence of the words' frames.</summary>
    public static double Fit(float[] confidence, List<PhoneStep> steps)
    {
        double sum = 0,
            frames = 1e-9;
        for (var i = 0; i < steps.Count; i++)
        {
            if (steps[i].Word < 0)
                continue;
            sum += confidence[i] * (steps[i].End - steps[i].Start);
            frames += steps[i].End - steps[i].Start;
        }
        return sum / frames;
    }

    /// <summary>Frames of speech with the likeliest senone of the phone that they lie in.</summary>
    public List<(int Frame, int Senone)> SpeechStates(HeardSound sound, List<PhoneStep> steps)
    {
        var scorer = new SenoneScorer(model);
        var states = new List<(int, int)>();
        foreach (var step in steps)
        {
            if (step.Model == PhoneGraph.Foreign || Arpabet.IsSilent(model.PhoneNames[step.Phone]))
                continue;
            for (var t = step.Start; t < step.End; t++)
            {
                scorer.SetFrame(sound[t]);
                var (best, score) = (-1, float.NegativeInfinity);
                foreach (var s in model.SenonesOf(step.Model))
                    if (scorer.Score(s) is var own && own > score)
                        (best, score) = (s, own);
                states.Add((t, best));
            }
        }
        return states;
    }

    /// <summary>
    /// One segment per step; the first starts at the slice's start, the last ends where the caller says. Noises and speech that cannot be told are
    /// silence.
    /// </summary>
    public List<PhoneSegment> Segments(HeardSound sound, List<PhoneStep> steps, double end)
    {
        var confidence = Confidence(sound, steps);
        var phones = new List<PhoneSegment>(steps.Count);
        for (var i = 0; i < steps.Count; i++)
        {
            var name = model.PhoneNames[steps[i].Phone];
            phones.Add(
                new PhoneSegment(
                    Arpabet.IsSilent(name) || name == Arpabet.Spoken ? Arpabet.Silence : name,
                    steps[i].Start == 0 ? sound.Offset : sound.TimeOf(steps[i].Start),
                    i == steps.Count - 1 ? end : sound.TimeOf(steps[i].End),
                    confidence[i]
                )
            );
        }
        return phones;
    }

    // Logistic in the mean shortfall per frame against the best of all phones, in nats; four is even odds (chosen on read speech).
    private static double Sureness(double shortfall) => (1 + Math.Exp(-4)) / (1 + Math.Exp(shortfall - 4));

    public static double Shortfall(double sureness) => 4 + Math.Log((1 + Math.Exp(-4)) / Math.Clamp(sureness, 1e-3, 1) - 1);

    /// <summary>Per step how well its phone explains its frames against the best of all phones, 0 to 1.</summary>
    public float[] Confidence(HeardSound sound, List<PhoneStep> steps)
    {
        var scorer = new SenoneScorer(model);
        var result = new float[steps.Count];
        for (var i = 0; i < steps.Count; i++)
        {
            if (steps[i].Model == PhoneGraph.Foreign)
                continue;
            double sum = 0;
            for (var t = steps[i].Start; t < steps[i].End; t++)
            {
                scorer.SetFrame(sound[t]);
                var own = float.NegativeInfinity;
                foreach (var s in model.SenonesOf(steps[i].Model))
                    own = MathF.Max(own, scorer.Score(s));
                sum += Math.Max(0, sound.Background[t] - own);
            }
            result[i] = (float)Sureness(sum / Math.Max(1, steps[i].End - steps[i].Start));
        }
        return result;
    }
}
