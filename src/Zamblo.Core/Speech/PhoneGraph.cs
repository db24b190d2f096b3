namespace Zamblo.Core.Speech;

/// <summary>
/// A network of phone models through which the decoder looks for the likeliest path. Nodes are phone models in context, arcs carry
/// log weights. Built once, then sealed into flat arrays.
/// </summary>
internal sealed class PhoneGraph
{
    /// <summary>In place of a model: speech that the script does not have.</summary>
    public const int Foreign = -1;

    private readonly List<int> _model = [],
        _phone = [],
        _word = [];
    private readonly List<float> _cost = [];
    private readonly List<(int From, int To, float Weight)> _arcs = [];
    private readonly List<(int Node, float Weight)> _starts = [];
    private readonly List<int> _ends = [];

    /// <summary>How much less likely than the best phone each frame of foreign speech counts, in nats (negative).</summary>
    public float ForeignPenalty { get; set; }

    /// <summary>For each word the first and the last frame in which one of its phones may begin; null where nobody says so.</summary>
    public (int First, int Last)[]? Windows { get; set; }

    /// <summary>Whether it is of rows of lyrics, whose words stay together.</summary>
    public bool HasRows { get; init; }
    public int NodeCount => _model.Count;
    public int[] Model { get; private set; } = [];

    /// <summary>Base phone of each node.</summary>
    public int[] Phone { get; private set; } = [];

    /// <summary>Index of the word that the node belongs to, or -1.</summary>
    public int[] Word { get; private set; } = [];

    /// <summary>What speaks for each frame that is spent in a node, in nats (0 or negative).</summary>
    public float[] Cost { get; private set; } = [];

    /// <summary>Arcs of node n are at [ArcStart[n], ArcStart[n + 1]).</summary>
    public int[] ArcStart { get; private set; } = [];
    public int[] ArcTarget { get; private set; } = [];
    public float[] ArcWeight { get; private set; } = [];
    public IReadOnlyList<(int Node, float Weight)> Starts => _starts;
    public bool[] IsEnd { get; private set; } = [];

    public int Add(int model, int phone, int word, float cost = 0)
    {
        _cost.Add(cost);
        _model.Add(model);
        _phone.Add(phone);
        _word.Add(word);
        return _model.Count - 1;
    }

    public void Link(int from, int to, float weight) => _arcs.Add((from, to, weight));

    public void Start(int node, float weight) => _starts.Add((node, weight));

    public void End(int node) => _ends.Add(node);

    /// <summary>Whether a phone may begin at a frame.</summary>
    public bool MayBegin(int node, int frame) =>
        Windows is not { } windows || Word[node] < 0 || (frame >= windows[Word[node]].First && frame <= windows[Word[node]].Last);

    public PhoneGraph Seal()
    {
        Model = [.. _model];
        Phone = [.. _phone];
        Word = [.. _word];
        Cost = [.. _cost];
        ArcStart = new int[NodeCount + 1];
        foreach (var (from, _, _) in _arcs)
            ArcStart[from + 1]++;
        for (var n = 0; n < NodeCount; n++)
            ArcStart[n + 1] += ArcStart[n];
        ArcTarget = new int[_arcs.Count];
        ArcWeight = new float[_arcs.Count];
        var at = ArcStart[..^1];
        foreach (var (from, to, weight) in _arcs)
        {
            ArcTarget[at[from]] = to;
            ArcWeight[at[from]++] = weight;
        }
        _arcs.Clear();
        _arcs.TrimExcess();
        IsEnd = new bool[NodeCount];
        foreach (var end in _ends)
            IsEnd[end] = true;
        return this;
    }
}
