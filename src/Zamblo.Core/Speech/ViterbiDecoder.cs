namespace Zamblo.Core.Speech;

/// <summary>A stretch of frames that the best path spends in one node.</summary>
/// <param name="Node">Node of the graph.</param>
/// <param name="Start">First frame.</param>
/// <param name="End">One past the last frame.</param>
internal readonly record struct PathStep(int Node, int Start, int End);

/// <summary>
/// Time-synchronous Viterbi search by token passing (Young, Russell and Thornton, "Token passing: a simple conceptual model for
/// connected speech recognition systems", Cambridge University, 1989) with beam pruning. The history of tokens is an arena
/// that is swept when it grows, so memory depends on the beam and not on the length of the sound.
/// </summary>
internal sealed class ViterbiDecoder(AcousticModel model)
{
    private const float Dead = float.NegativeInfinity;

    // A node of foreign speech: leaves with these odds from frame to frame (80 ms on average over three states).
    private static readonly float[] ForeignTransitions = [-0.47f, -0.98f, Dead, Dead, Dead, -0.47f, -0.98f, Dead, Dead, Dead, -0.47f, -0.98f];

    // What is held is a vowel, mostly: nats for each frame of a consonant that is held, or sung over a band (chosen on the tuned voices of the bench).
    private const float HeldConsonant = -1;

    // And for each frame of one that lasts longer than anybody sings it (common practice: singers lengthen vowels; limits and price were chosen by both
    // halves of the bench's songs).
    private const float LongConsonant = -2;

    /// <summary>For how many frames a consonant is sung at most; 0 for what may last.</summary>
    private static int LongestSung(string phone) =>
        Arpabet.IsSilent(phone) || Arpabet.Vowels.Contains(phone) ? 0
        : phone is "M" or "N" or "NG" or "L" or "R" or "W" or "Y" ? 30
        : phone is "B" or "P" or "D" or "T" or "G" or "K" or "DH" or "HH" ? 20
        : 25;

    /// <summary>Logarithm of how likely the path is that was found last, in nats.</summary>
    public double Score { get; private set; }

    /// <summary>The likeliest path from a start to an end node. Empty only when there are no frames.</summary>
    /// <param name="graph">Sealed.</param>
    /// <param name="frames">Number of frames.</param>
    /// <param name="frameAt">Features of a frame, 39 values.</param>
    /// <param name="quiet">For each frame what speaks against silence there (less than 0) or against speech (more than 0), in nats.</param>
    /// <param name="background">Scores of speech that is in no script; needed where the graph has such nodes.</param>
    /// <param name="beam">Tokens this many nats under the best are dropped.</param>
    /// <param name="complete">Whether an end node was reached; otherwise the path stops where the best token was.</param>
    /// <param name="progress">Called now and then with a share from 0 to 1.</param>
    /// <param name="cancel">Stops the search.</param>
    /// <param name="share">How much each frame counts against the best of all phones, 0 to 1; null where all do. Needs a background.</param>
    /// <param name="told">What else speaks for each phone of the model; null for nothing. Needs a background.</param>
    public List<PathStep> Decode(
        PhoneGraph graph,
        int frames,
        Func<int, ReadOnlySpan<float>> frameAt,
        Func<int, float>? background,
        Func<int, float>? quiet,
        float beam,
        out bool complete,
        Action<double>? progress = null,
        CancellationToken cancel = default,
        Func<int, float>? share = null,
        FrameEvidence? told = null
    )
    {
        complete = false;
        Score = 0;
        if (frames == 0)
            return [];
        var n = graph.NodeCount;
        var score = new float[n * 3];
        var hist = new int[n * 3];
        Array.Fill(score, Dead);
        var entry = new float[n];
        var entryHist = new int[n];
        Array.Fill(entry, Dead);
        var isListed = new bool[n];
        List<int> active = [],
            next = [],
            woken = [];
        var history = new History();
        foreach (var (node, weight) in graph.Starts)
        {
            entry[node] = weight;
            entryHist[node] = -1;
            if (!isListed[node])
            {
                isListed[node] = true;
                active.Add(node);
            }
        }
        float TooLong(int record, int frame, int most) => frame - (record < 0 ? 0 : history.Frame(record)) > most ? LongConsonant : 0;
        var scorer = new SenoneScorer(model);
        bool[] isVowel = [.. model.PhoneNames.Select(Arpabet.Vowels.Contains)];
        bool[] isSpeech = [.. model.PhoneNames.Select(p => !Arpabet.IsSilent(p))];
        var more = new float[model.PhoneNames.Length];
        int[] longest = [.. model.PhoneNames.Select(LongestSung)];
        var isSong = told is { Weight.IsOfSong: true };
        for (var t = 0; t < frames; t++)
        {
            if ((t & 255) == 0)
            {
                cancel.ThrowIfCancellationRequested();
                progress?.Invoke((double)t / frames);
            }
            scorer.SetFrame(frameAt(t));
            var loud = quiet?.Invoke(t) ?? 0;
            var counts = share?.Invoke(t) ?? 1;
            var isHeld = counts < 1 || isSong;
            float ownShare = 0,
                ownForeign = 0;
            if (told != null)
            {
                told.At(t, more);
                ownShare = told.Weight.Own * MathF.Max(told.Weight.Held, counts);
                counts *= told.Weight.Acoustic;
                // What no word explains is the best of all phones by both.
                if (!isSong)
                    ownForeign = ownShare * Most(more, isSpeech);
            }
            var level = counts < 1 ? (1 - counts) * background!(t) : 0;
            var best = Dead;
            foreach (var node in active)
            {
                var m = graph.Model[node];
                var foreign = m == PhoneGraph.Foreign;
                var tr = foreign ? ForeignTransitions : model.TransitionsOf(m);
                var senones = foreign ? default : model.SenonesOf(m);
                var at = node * 3;
                float s0 = score[at],
                    s1 = score[at + 1],
                    s2 = score[at + 2];
                // State 2 from itself, from 1 and, where the topology has the skip, from 0.
                float n2 = s2 + tr[10];
                var h2 = hist[at + 2];
                if (s1 + tr[6] > n2)
                {
                    n2 = s1 + tr[6];
                    h2 = hist[at + 1];
                }
                if (s0 + tr[2] > n2)
                {
                    n2 = s0 + tr[2];
                    h2 = hist[at];
                }
                float n1 = s1 + tr[5];
                var h1 = hist[at + 1];
                if (s0 + tr[1] > n1)
                {
                    n1 = s0 + tr[1];
                    h1 = hist[at];
                }
                float n0 = s0 + tr[0];
                var h0 = hist[at];
                if (entry[node] > n0)
                {
                    n0 = entry[node];
                    h0 = entryHist[node];
                }
                entry[node] = Dead;
                if (foreign)
                {
                    var b = background!(t) + ownForeign + graph.ForeignPenalty;
                    n0 += b;
                    n1 += b;
                    n2 += b;
                }
                else
                {
                    var own = told == null ? level : level + ownShare * more[graph.Phone[node]];
                    if (n0 > Dead)
                        n0 += counts * scorer.Score(senones[0]) + own;
                    if (n1 > Dead)
                        n1 += counts * scorer.Score(senones[1]) + own;
                    if (n2 > Dead)
                        n2 += counts * scorer.Score(senones[2]) + own;
                }
                var doubt = graph.Word[node] == -1 ? MathF.Min(0, loud) : MathF.Min(0, -loud);
                if (isHeld && !foreign && graph.Word[node] != -1 && !isVowel[graph.Phone[node]])
                    doubt += HeldConsonant;
                doubt += graph.Cost[node];
                if (doubt < 0)
                {
                    n0 += doubt;
                    n1 += doubt;
                    n2 += doubt;
                }
                if (isSong && longest[graph.Phone[node]] is > 0 and var most && graph.Word[node] != -1)
                {
                    n0 += TooLong(h0, t, most);
                    n1 += TooLong(h1, t, most);
                    n2 += TooLong(h2, t, most);
                }
                score[at] = n0;
                score[at + 1] = n1;
                score[at + 2] = n2;
                hist[at] = h0;
                hist[at + 1] = h1;
                hist[at + 2] = h2;
                best = MathF.Max(best, MathF.Max(n0, MathF.Max(n1, n2)));
            }
            Score += best;
            // Scores are kept relative to the best of their frame, so that an hour loses no precision.
            next.Clear();
            woken.Clear();
            var last = t == frames - 1;
            foreach (var node in active)
            {
                var at = node * 3;
                float s0 = score[at] -= best,
                    s1 = score[at + 1] -= best,
                    s2 = score[at + 2] -= best;
                if (MathF.Max(s0, MathF.Max(s1, s2)) < -beam)
                {
                    score[at] = score[at + 1] = score[at + 2] = Dead;
                    isListed[node] = false;
                    continue;
                }
                next.Add(node);
                var exit = s2 + Exit(graph.Model[node]);
                if (exit < -beam || last)
                    continue;
                var record = -1;
                for (var a = graph.ArcStart[node]; a < graph.ArcStart[node + 1]; a++)
                {
                    var candidate = exit + graph.ArcWeight[a];
                    var target = graph.ArcTarget[a];
                    if (candidate < -beam || candidate <= entry[target] || !graph.MayBegin(target, t + 1))
                        continue;
                    if (record < 0)
                        record = history.Add(hist[at + 2], node, t + 1);
                    entry[target] = candidate;
                    entryHist[target] = record;
                    woken.Add(target);
                }
            }
            if (last)
                break;
            foreach (var node in woken)
                if (!isListed[node])
                {
                    isListed[node] = true;
                    next.Add(node);
                }
            (active, next) = (next, active);
            if (history.IsFull)
            {
                history.Sweep(active, hist, entry, entryHist, score);
            }
        }
        // The end: the best token that may leave, or failing that the best token.
        int finalNode = -1,
            finalHist = -1;
        var finalScore = Dead;
        foreach (var node in next)
        {
            if (!graph.IsEnd[node])
                continue;
            var exit = score[node * 3 + 2] + Exit(graph.Model[node]);
            if (exit > finalScore)
            {
                finalScore = exit;
                finalNode = node;
                finalHist = hist[node * 3 + 2];
            }
        }
        complete = finalNode >= 0;
        if (!complete)
            foreach (var node in next)
                for (var s = 0; s < 3; s++)
                    if (score[node * 3 + s] > finalScore)
                    {
                        finalScore = score[node * 3 + s];
                        finalNode = node;
                        finalHist = hist[node * 3 + s];
                    }
        Score += finalScore;
        var path = new List<PathStep>();
        var end = frames;
        for (var node = finalNode; ; )
        {
            var start = finalHist < 0 ? 0 : history.Frame(finalHist);
            path.Add(new PathStep(node, start, end));
            if (finalHist < 0)
                break;
            end = start;
            node = history.Node(finalHist);
            finalHist = history.Previous(finalHist);
        }
        path.Reverse();
        progress?.Invoke(1);
        return path;
    }

    private static float Most(float[] values, bool[] of)
    {
        var most = Dead;
        for (var i = 0; i < values.Length; i++)
            if (of[i])
                most = MathF.Max(most, values[i]);
        return most;
    }

    private float Exit(int phone) => phone == PhoneGraph.Foreign ? ForeignTransitions[11] : model.TransitionsOf(phone)[11];

    /// <summary>Completed phones as a tree of records that point to their predecessor.</summary>
    private sealed class History
    {
        private int[] _previous = new int[1 << 16],
            _node = new int[1 << 16],
            _frame = new int[1 << 16];
        private int _count,
            _limit = 1 << 20;

        public bool IsFull => _count >= _limit;

        public int Previous(int i) => _previous[i];

        public int Node(int i) => _node[i];

        public int Frame(int i) => _frame[i];

        public int Add(int previous, int node, int frame)
        {
            if (_count == _node.Length)
            {
                Array.Resize(ref _previous, _count * 2);
                Array.Resize(ref _node, _count * 2);
                Array.Resize(ref _frame, _count * 2);
            }
            _previous[_count] = previous;
            _node[_count] = node;
            _frame[_count] = frame;
            return _count++;
        }

        /// <summary>Drops every record that no living token leads back to; records keep their order, so one pass suffices.</summary>
        public void Sweep(List<int> active, int[] hist, float[] entry, int[] entryHist, float[] score)
        {
            var alive = new bool[_count];
            void Mark(int i)
            {
                while (i >= 0 && !alive[i])
                {
                    alive[i] = true;
                    i = _previous[i];
                }
            }
            foreach (var node in active)
            {
                for (var s = 0; s < 3; s++)
                    if (score[node * 3 + s] > Dead)
                        Mark(hist[node * 3 + s]);
                if (entry[node] > Dead)
                    Mark(entryHist[node]);
            }
            var moved = new int[_count];
            var kept = 0;
            for (var i = 0; i < _count; i++)
            {
                if (!alive[i])
                    continue;
                moved[i] = kept;
                _previous[kept] = _previous[i] < 0 ? -1 : moved[_previous[i]];
                _node[kept] = _node[i];
                _frame[kept++] = _frame[i];
            }
            _count = kept;
            _limit = Math.Max(1 << 20, kept * 2);
            foreach (var node in active)
            {
                for (var s = 0; s < 3; s++)
                    if (score[node * 3 + s] > Dead && hist[node * 3 + s] >= 0)
                        hist[node * 3 + s] = moved[hist[node * 3 + s]];
                if (entry[node] > Dead && entryHist[node] >= 0)
                    entryHist[node] = moved[entryHist[node]];
            }
        }
    }
}
