using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Core.Tests;

/// <summary>
/// The search against Viterbi's algorithm as it is in the books (Rabiner 1989, "A tutorial on hidden Markov models", III.B): every state of every
/// node at every frame.
/// </summary>
public class ViterbiTests
{
    private static readonly Lazy<float[]> Goforward = new(() =>
        Features.FromCepstra(new CepstralFrontEnd(TestData.Model.FrontEnd).Compute(TestData.Raw("goforward.raw").Samples))
    );

    private static ReadOnlySpan<float> FrameAt(int t) => Goforward.Value.AsSpan(t * 39, 39);

    // A network at random: phones in a row, some of which may be left out or come again. No two are alike, else several paths were equally likely.
    private static PhoneGraph Network(Random random, int nodes)
    {
        var graph = new PhoneGraph { ForeignPenalty = -2 };
        int[] phones = [.. Enumerable.Range(0, TestData.Model.PhoneNames.Length)];
        random.Shuffle(phones);
        var foreign = random.Next(2 * nodes);
        for (var i = 0; i < nodes; i++)
        {
            var phone = phones[i];
            graph.Add(i == foreign ? PhoneGraph.Foreign : phone, phone, random.Next(4) == 0 ? -1 : i, -random.Next(3) * (float)random.NextDouble());
            if (i > 0)
                graph.Link(i - 1, i, -(float)random.NextDouble());
            if (i > 1 && random.Next(2) == 0)
                graph.Link(random.Next(i - 1), i, -3 * (float)random.NextDouble());
            if (random.Next(3) == 0)
                graph.Link(i, random.Next(i + 1), -5 * (float)random.NextDouble());
        }
        graph.Start(0, 0);
        graph.Start(random.Next(nodes), -1);
        graph.End(nodes - 1);
        return graph.Seal();
    }

    private static List<PathStep> ByTheBook(PhoneGraph graph, int from, int frames, Func<int, float> background, Func<int, float> quiet)
    {
        var model = TestData.Model;
        float[] foreign =
        [
            -0.47f,
            -0.98f,
            float.NegativeInfinity,
            float.NegativeInfinity,
            float.NegativeInfinity,
            -0.47f,
            -0.98f,
            float.NegativeInfinity,
            float.NegativeInfinity,
            float.NegativeInfinity,
            -0.47f,
            -0.98f,
        ];
        ReadOnlySpan<float> Transitions(int node) => graph.Model[node] == PhoneGraph.Foreign ? foreign : model.TransitionsOf(graph.Model[node]);
        var n = graph.NodeCount;
        var score = new double[frames, n, 3];
        var back = new (int Node, int State)[frames, n, 3];
        var scorer = new SenoneScorer(model);
        for (var t = 0; t < frames; t++)
        {
            scorer.SetFrame(FrameAt(from + t));
            for (var node = 0; node < n; node++)
            {
                var tr = Transitions(node);
                for (var s = 0; s < 3; s++)
                {
                    var (best, where) = (double.NegativeInfinity, (-1, -1));
                    void Offer(double value, int fromNode, int state)
                    {
                        if (value > best)
                            (best, where) = (value, (fromNode, state));
                    }
                    if (t == 0)
                    {
                        if (s == 0)
                            foreach (var (start, weight) in graph.Starts)
                                if (start == node)
                                    Offer(weight, -1, -1);
                    }
                    else
                    {
                        for (var p = 0; p <= s; p++)
                            Offer(score[t - 1, node, p] + tr[p * 4 + s], node, p);
                        if (s == 0)
                            for (var other = 0; other < n; other++)
                            for (var a = graph.ArcStart[other]; a < graph.ArcStart[other + 1]; a++)
                                if (graph.ArcTarget[a] == node)
                                    Offer(score[t - 1, other, 2] + Transitions(other)[11] + graph.ArcWeight[a], other, 3);
                    }
                    var heard =
                        graph.Model[node] == PhoneGraph.Foreign ? background(t) + graph.ForeignPenalty : scorer.Score(model.SenonesOf(graph.Model[node])[s]);
                    score[t, node, s] = best + heard + graph.Cost[node] + (graph.Word[node] == -1 ? Math.Min(0, quiet(t)) : Math.Min(0, -quiet(t)));
                    back[t, node, s] = where;
                }
            }
        }
        // Back from the end node; the state 3 is an exit: there another node begins.
        var steps = new List<PathStep>();
        var (at, state, end) = (n - 1, 2, frames);
        for (var t = frames - 1; t >= 0; t--)
        {
            var (node, before) = back[t, at, state];
            if (node == -1 || before == 3)
            {
                steps.Add(new PathStep(at, t, end));
                end = t;
            }
            (at, state) = (node, before == 3 ? 2 : before);
        }
        steps.Reverse();
        return steps;
    }

    [Fact]
    public void The_path_is_the_one_that_all_paths_together_give()
    {
        for (var seed = 0; seed < 60; seed++)
        {
            var random = new Random(seed);
            var graph = Network(random, 4 + random.Next(8));
            int frames = 40 + random.Next(80),
                from = random.Next(Goforward.Value.Length / 39 - frames),
                own = seed;
            float Background(int t) => -3 - (t * 7 + own) % 5;
            float Quiet(int t) => (t * 11 + own) % 9 - 4;
            var found = new ViterbiDecoder(TestData.Model).Decode(graph, frames, t => FrameAt(from + t), Background, Quiet, 1e6f, out var complete);
            Assert.True(complete);
            Assert.Equal(ByTheBook(graph, from, frames, Background, Quiet), found);
        }
    }

    [Fact]
    public void Without_a_way_to_the_end_the_path_stops_where_it_is_likeliest_and_says_so()
    {
        var graph = new PhoneGraph();
        foreach (var phone in new[] { "G", "OW" })
            graph.Add(TestData.Model.PhoneIndex(phone), TestData.Model.PhoneIndex(phone), 0);
        graph.Link(0, 1, 0);
        graph.Start(0, 0);
        // Three frames are too few for two phones of three states each to be left.
        graph.End(1);
        var path = new ViterbiDecoder(TestData.Model).Decode(graph.Seal(), 3, FrameAt, null, null, 1e6f, out var complete);
        Assert.False(complete);
        Assert.Equal((0, 3), (path[0].Start, path[^1].End));
        Assert.Empty(new ViterbiDecoder(TestData.Model).Decode(graph, 0, FrameAt, null, null, 1e6f, out _));
    }
}
