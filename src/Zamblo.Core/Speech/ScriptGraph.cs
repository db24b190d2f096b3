namespace Zamblo.Core.Speech;

/// <summary>
/// Builds the network of a script: every word with all its pronunciations as context-dependent phones, exact across word
/// boundaries; optional silence and noise between words; a way round each word, for what the voice leaves out; and foreign speech
/// between words, for what the script does not have.
/// </summary>
internal static class ScriptGraph
{
    /// <summary>Weights of the ways through, as log probabilities in nats.</summary>
    /// <param name="Silence">Into a silence between words.</param>
    /// <param name="Noise">Into a noise.</param>
    /// <param name="Skip">Round a word.</param>
    /// <param name="Foreign">Into speech that the script does not have.</param>
    /// <param name="ForeignFrame">For each frame there, against the best of all phones.</param>
    /// <param name="Jump">From the start of a row, or the end, to that of another one.</param>
    /// <param name="Gap">For each frame of silence between two words of one row, where rows are known.</param>
    /// <param name="Rest">Into a silence there that may last.</param>
    internal sealed record Weights(
        float Silence = -8f,
        float Noise = -20f,
        float Skip = -45f,
        float Foreign = -40f,
        float ForeignFrame = -5f,
        float Jump = -120f,
        float Gap = -0.5f,
        float Rest = -60f
    );

    /// <param name="model">The acoustic model.</param>
    /// <param name="words">For each word its pronunciations as phone numbers; none may be empty.</param>
    /// <param name="weights">How likely the ways through are.</param>
    /// <param name="rows">Words with which rows begin: the words of one stay together; null where there are none.</param>
    /// <param name="isAnyOrder">Whether the rows may be sung in any order, again and again.</param>
    public static PhoneGraph Build(AcousticModel model, IReadOnlyList<int[][]> words, Weights weights, IReadOnlyList<int>? rows = null, bool isAnyOrder = false)
    {
        var graph = new PhoneGraph { ForeignPenalty = weights.ForeignFrame, HasRows = rows != null };
        int sil = model.PhoneIndex(Arpabet.Silence);
        int[] noises = [.. new[] { Arpabet.Noise, Arpabet.Spoken }.Where(model.HasPhone).Select(model.PhoneIndex)];

        // Between two words: nodes that were left with a given last phone for a given next one.
        var exits = new List<(int Node, int Last, int Right)>();
        Filler? before = null;
        List<Filler> fillers = [];
        for (var b = 0; b <= words.Count; b++)
        {
            // What is not in the script comes before it or after it more often than in its midst.
            var isInRow = rows != null && b > 0 && b < words.Count && !rows.Contains(b);
            var filler = new Filler(graph, sil, noises, isInRow, b == 0 || b == words.Count ? weights with { Foreign = weights.Foreign / 2 } : weights);
            fillers.Add(filler);
            if (b == 0)
                filler.StartHere();
            foreach (var (node, _, right) in exits)
                if (right == sil)
                    filler.From(node);
            // Round the word before: from the filler before it, or from the end of the word before that.
            if (before != null)
                before.SkipTo(filler, weights.Skip);
            before = filler;
            if (b == words.Count)
            {
                filler.EndHere();
                foreach (var (node, _, right) in exits)
                    if (right == sil)
                        graph.End(node);
                break;
            }
            int[] lefts = [sil, .. exits.Select(e => e.Last).Where(l => l != sil).Distinct()];
            int[] rights = b + 1 < words.Count ? [sil, .. words[b + 1].Select(p => p[0]).Where(p => p != sil).Distinct()] : [sil];
            var newExits = new List<(int, int, int)>();
            foreach (var phones in words[b])
            {
                var entries = new List<(int Node, int Left)>();
                if (phones.Length == 1)
                {
                    foreach (var l in lefts)
                    foreach (var r in rights)
                    {
                        var node = graph.Add(model.ContextPhone(phones[0], l, r, WordPosition.Single), phones[0], b);
                        entries.Add((node, l));
                        newExits.Add((node, phones[0], r));
                    }
                }
                else
                {
                    var inner = new List<int>();
                    for (var i = 1; i < phones.Length - 1; i++)
                    {
                        var node = graph.Add(model.ContextPhone(phones[i], phones[i - 1], phones[i + 1], WordPosition.Inside), phones[i], b);
                        if (inner.Count > 0)
                            graph.Link(inner[^1], node, 0);
                        inner.Add(node);
                    }
                    var lasts = rights
                        .Select(r => (Node: graph.Add(model.ContextPhone(phones[^1], phones[^2], r, WordPosition.End), phones[^1], b), r))
                        .ToArray();
                    foreach (var l in lefts)
                    {
                        var node = graph.Add(model.ContextPhone(phones[0], l, phones[1], WordPosition.Begin), phones[0], b);
                        entries.Add((node, l));
                        if (inner.Count > 0)
                            graph.Link(node, inner[0], 0);
                        else
                            foreach (var (last, _) in lasts)
                                graph.Link(node, last, 0);
                    }
                    foreach (var (last, r) in lasts)
                    {
                        if (inner.Count > 0)
                            graph.Link(inner[^1], last, 0);
                        newExits.Add((last, phones[^1], r));
                    }
                }
                foreach (var (node, left) in entries)
                {
                    if (left == sil)
                    {
                        filler.To(node);
                        if (b == 0)
                            graph.Start(node, 0);
                    }
                    foreach (var (exit, last, right) in exits)
                        if (last == left && right == phones[0])
                            graph.Link(exit, node, 0);
                }
            }
            exits = newExits;
        }
        int[] edges = isAnyOrder ? [.. rows!, words.Count] : [];
        foreach (var from in edges)
        foreach (var to in edges)
            if (from != to)
                fillers[from].JumpTo(fillers[to], weights.Jump);
        foreach (var filler in fillers)
            filler.Close();
        return graph.Seal();
    }

    /// <summary>What may lie between two words: silence, noise, foreign speech.</summary>
    private sealed class Filler
    {
        private readonly PhoneGraph _graph;
        private readonly Weights _weights;
        private readonly int _silence,
            _foreign;

        // Noises, and a silence that may last; what it costs to go there.
        private readonly List<(int Node, float Weight)> _quiet;
        private readonly List<int> _to = [];
        private readonly List<(Filler To, float Weight)> _skips = [];

        public Filler(PhoneGraph graph, int sil, int[] noises, bool isInRow, Weights weights)
        {
            _graph = graph;
            _weights = weights;
            var gap = isInRow ? weights.Gap : 0;
            _silence = graph.Add(sil, sil, -1, gap);
            _quiet = [.. noises.Select(p => (graph.Add(p, p, -1, gap), weights.Noise))];
            if (isInRow)
                _quiet.Add((graph.Add(sil, sil, -1), weights.Rest));
            _foreign = graph.Add(PhoneGraph.Foreign, sil, -2);
        }

        public void StartHere()
        {
            _graph.Start(_silence, 0);
            foreach (var (node, weight) in _quiet)
                _graph.Start(node, weight);
            _graph.Start(_foreign, _weights.Foreign);
        }

        public void EndHere()
        {
            _graph.End(_silence);
            foreach (var (node, _) in _quiet)
                _graph.End(node);
            _graph.End(_foreign);
        }

        public void From(int node)
        {
            _graph.Link(node, _silence, _weights.Silence);
            foreach (var (quiet, weight) in _quiet)
                _graph.Link(node, quiet, weight);
            _graph.Link(node, _foreign, _weights.Foreign);
        }

        public void To(int node) => _to.Add(node);

        public void SkipTo(Filler next, float weight) => _skips.Add((next, weight));

        public void JumpTo(Filler other, float weight) => _graph.Link(_silence, other._silence, weight);

        public void Close()
        {
            int[] quiet = [_silence, .. _quiet.Select(n => n.Node)];
            foreach (var q in quiet)
            {
                foreach (var to in _to)
                    _graph.Link(q, to, 0);
                foreach (var (node, weight) in _quiet)
                    if (node != q)
                        _graph.Link(q, node, weight);
                if (q != _silence)
                    _graph.Link(q, _silence, _weights.Silence);
                _graph.Link(q, _foreign, _weights.Foreign);
                foreach (var (filler, weight) in _skips)
                {
                    _graph.Link(q, filler._silence, weight);
                    _graph.Link(q, filler._foreign, weight + _weights.Foreign);
                    foreach (var to in filler._to)
                        _graph.Link(q, to, weight);
                }
            }
            foreach (var to in _to)
                _graph.Link(_foreign, to, 0);
            _graph.Link(_foreign, _foreign, 0);
            _graph.Link(_foreign, _silence, 0);
            foreach (var (filler, weight) in _skips)
            foreach (var to in filler._to)
                _graph.Link(_foreign, to, weight);
        }
    }
}
