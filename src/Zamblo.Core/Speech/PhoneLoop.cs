namespace Zamblo.Core.Speech;

/// <summary>How likely one phone follows another.</summary>
internal sealed class PhoneBigram
{
    private readonly Dictionary<(string, string), double> _pairs = [];
    private readonly Dictionary<string, double> _totals = [];
    private readonly Dictionary<string, double> _alone = [];
    private double _all;

    // A few words do not say which sounds may follow each other: so much is told by how often a sound is there at all.
    private const int FewWords = 5000;
    private const double Looseness = 0.3;
    private double _loose;

    /// <summary>Whether it was told by a few common words: of another language than the model's.</summary>
    public bool IsOfFewWords => _loose > 0;

    /// <summary>Counted over the pronunciations of a dictionary, word ends joined to silence or to any word's start.</summary>
    public static PhoneBigram FromDictionary(PronunciationDictionary dictionary)
    {
        var result = new PhoneBigram { _loose = dictionary.Count < FewWords ? Looseness : 0 };
        var firsts = new Dictionary<string, double>();
        var lasts = new Dictionary<string, double>();
        double words = 0;
        foreach (var word in dictionary.Words)
        {
            // Short words are the frequent ones (Zipf, "Human Behavior and the Principle of Least Effort", 1949); the dictionary has no counts.
            var phones = dictionary.Lookup(word)[0];
            var weight = 1.0 / (phones.Length * phones.Length);
            words += weight;
            firsts[phones[0]] = firsts.GetValueOrDefault(phones[0]) + weight;
            lasts[phones[^1]] = lasts.GetValueOrDefault(phones[^1]) + weight;
            for (var i = 1; i < phones.Length; i++)
                result.Count(phones[i - 1], phones[i], weight);
        }
        foreach (var (last, w) in lasts)
        {
            result.Count(last, Arpabet.Silence, w * 0.15);
            foreach (var (first, v) in firsts)
                result.Count(last, first, w * 0.85 * v / words);
        }
        foreach (var (first, v) in firsts)
            result.Count(Arpabet.Silence, first, v * 0.15);
        return result;
    }

    private void Count(string a, string b, double weight)
    {
        _pairs[(a, b)] = _pairs.GetValueOrDefault((a, b)) + weight;
        _totals[a] = _totals.GetValueOrDefault(a) + weight;
        _alone[b] = _alone.GetValueOrDefault(b) + weight;
        _all += weight;
    }

    /// <summary>Natural logarithm of the probability, smoothed so that nothing is impossible.</summary>
    public float Log(string a, string b)
    {
        var pair = (_pairs.GetValueOrDefault((a, b)) + 1e-4 * _totals.GetValueOrDefault(a, 1)) / (_totals.GetValueOrDefault(a, 1) * (1 + 41e-4));
        if (_loose == 0)
            return (float)Math.Log(pair);
        var alone = (_alone.GetValueOrDefault(b) + 2e-3 * _all) / (_all * (1 + 41 * 2e-3));
        return (float)Math.Log((1 - _loose) * pair + _loose * alone);
    }
}

/// <summary>A loop over all phones in all contexts: what can be said when nobody knows the words.</summary>
internal static class PhoneLoop
{
    // How much is made of what usually follows, and what each phone costs: of the model's own language by engines' voices; of others by people who read
    // Spanish, French, Italian and Russian, whom the first pair gives a fifth too many phones (phone error 75 %, with the second 61).
    private const float OwnWeight = 2,
        OwnInsertion = -2,
        OtherWeight = 4,
        OtherInsertion = -8;

    public static PhoneGraph Build(AcousticModel model, PhoneBigram bigram)
    {
        var (weight, insertion) = bigram.IsOfFewWords ? (OtherWeight, OtherInsertion) : (OwnWeight, OwnInsertion);
        var names = (string[])[.. Arpabet.Phones.Where(model.HasPhone), Arpabet.Silence];
        var ids = names.Select(model.PhoneIndex).ToArray();
        int n = names.Length,
            sil = n - 1;
        var graph = new PhoneGraph();
        var node = new int[n, n, n];
        for (var l = 0; l < n; l++)
        for (var p = 0; p < n; p++)
        for (var r = 0; r < n; r++)
            // Silence has no context: one node for each right neighbour stands for all left ones.
            node[l, p, r] =
                p == sil
                    ? (l == 0 ? graph.Add(ids[sil], ids[sil], -1) : node[0, p, r])
                    : graph.Add(model.ContextPhone(ids[p], ids[l], ids[r], WordPosition.Inside), ids[p], 0);
        var log = new float[n, n];
        for (var a = 0; a < n; a++)
        for (var b = 0; b < n; b++)
            log[a, b] = weight * bigram.Log(names[a], names[b]) + insertion;
        for (var l = 0; l < n; l++)
        for (var p = 0; p < n; p++)
        {
            if (p == sil && l > 0)
                continue;
            for (var r = 0; r < n; r++)
            {
                if (p == sil && r == sil)
                    continue;
                for (var next = 0; next < n; next++)
                    if (r != sil || next != sil)
                        graph.Link(node[l, p, r], node[p, r, next], log[p, r]);
                if (r == sil)
                    graph.Link(node[l, p, r], node[p, sil, sil], log[p, r]);
            }
            graph.End(node[l, p, sil]);
        }
        for (var r = 0; r < n; r++)
            graph.Start(node[0, sil, r], 0);
        for (var p = 0; p < n; p++)
        for (var r = 0; r < n; r++)
            if (p != sil)
                graph.Start(node[sil, p, r], log[sil, p]);
        return graph.Seal();
    }
}
