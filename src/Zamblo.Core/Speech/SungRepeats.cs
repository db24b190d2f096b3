namespace Zamblo.Core.Speech;

/// <summary>Rows of lyrics that are sung again though they are written once.</summary>
/// <param name="First">The first of them, from 0.</param>
/// <param name="Last">The last of them.</param>
/// <param name="After">The row after which they are sung again.</param>
/// <param name="Start">When, in seconds of the take.</param>
public readonly record struct SungRepeat(int First, int Last, int After, double Start)
{
    /// <summary>Whether a word is of one of them.</summary>
    /// <param name="word">With its row.</param>
    internal bool Has(ScriptWord word) => word.Row >= First && word.Row <= Last;
}

/// <summary>
/// Finds rows of lyrics that are sung again: the words are searched for once more in a network in which each row may follow each other one, at a price.
/// </summary>
internal static class SungRepeats
{
    // A row is sung where at least half of its words are found.
    private const double Found = 0.5;

    // Repeats that are not written make the script likelier by so much, in nats: those of the bench's tuned songs by 560 and more, what is none by at most 250.
    // Where there seem to be more than so many the lyrics are of another song.
    private const double Gain = 400;
    private const int Most = 12,
        Near = 2;

    // How far it is when the words are found as they are written, and when they are found in any order.
    private const double Plain = 0.2,
        Ordered = 0.5;

    /// <summary>The rows as they are sung.</summary>
    /// <param name="model">The acoustic model.</param>
    /// <param name="search">Searches.</param>
    /// <param name="sound">What is heard.</param>
    /// <param name="request">How words are pronounced.</param>
    /// <param name="words">With their rows.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <returns>In the order of their times; none where each row is sung once, in its order.</returns>
    public static IReadOnlyList<SungRepeat> Find(
        AcousticModel model,
        PathSearch search,
        HeardSound sound,
        HearingRequest request,
        IReadOnlyList<ScriptWord> words,
        Action<double>? progress,
        CancellationToken cancel
    )
    {
        var (pronunciations, owners) = ScriptAligner.Pronounced(model, words, request);
        if (ScriptAligner.Rows(words, owners) is not { } starts)
            return [];
        var once = ScriptGraph.Build(model, pronunciations, new ScriptGraph.Weights(), starts);
        var plain = search.Compare(once, sound, p => progress?.Invoke(Plain * p), out _, cancel);
        if (search.SpeechStates(sound, plain) is { Count: >= SpeakerTransform.LeastFrames } states)
            sound = sound.Adapted(model, states, cancel);
        var graph = ScriptGraph.Build(model, pronunciations, new ScriptGraph.Weights(), starts, isAnyOrder: true);
        var steps = search.Compare(graph, sound, p => progress?.Invoke(Plain + (Ordered - Plain) * p), out _, cancel);
        int RowAt(int word) => words[owners[word]].Row;
        // How many words of each row are found one after the other.
        var sung = new List<(int Row, int Words, double Start)>();
        var last = -1;
        foreach (var step in steps.Where(s => s.Word >= 0))
        {
            if (step.Word == last)
                continue;
            var row = RowAt(step.Word);
            if (sung.Count > 0 && sung[^1].Row == row && step.Word > last)
                sung[^1] = sung[^1] with { Words = sung[^1].Words + 1 };
            else
                sung.Add((row, 1, sound.TimeOf(step.Start)));
            last = step.Word;
        }
        sung.RemoveAll(s => s.Words < Found * owners.Count(o => words[o].Row == s.Row));
        var repeats = new List<SungRepeat>();
        var (latest, known) = (-1, new HashSet<int>());
        foreach (var (row, _, start) in sung)
        {
            if (known.Add(row) && row > latest)
            {
                latest = row;
                continue;
            }
            if (repeats.Count > 0 && repeats[^1].After == latest && row > repeats[^1].Last && !sung.Any(s => s.Row > repeats[^1].Last && s.Row < row))
                repeats[^1] = repeats[^1] with { Last = row };
            else
                repeats.Add(new SungRepeat(row, row, latest, start));
        }
        var kept = new List<SungRepeat>();
        if (repeats.Count is 0 or > Most)
            return kept;
        // Whether rows are sung once more says the script with them against the script without.
        (List<PhoneStep> Path, List<int> Owners, double Score) Laid(IReadOnlyList<SungRepeat> some)
        {
            var all = Sung(words, some);
            var (way, of) = ScriptAligner.Pronounced(model, all, request);
            var with = ScriptGraph.Build(model, way, new ScriptGraph.Weights(), ScriptAligner.Rows(all, of));
            var path = search.Compare(with, sound, null, out var score, cancel);
            return (path, of, score);
        }
        // One more, with the time at which the first of its words is laid then.
        (SungRepeat Of, double Score) Try(SungRepeat more)
        {
            var (path, of, score) = Laid([.. kept, more]);
            var first = words.Count(w => w.Row <= more.After) + kept.Where(r => r.After <= more.After).Sum(r => words.Count(r.Has));
            var start = path.Where(s => s.Word >= 0 && of[s.Word] >= first).Select(s => sound.TimeOf(s.Start)).FirstOrDefault(more.Start);
            return (more with { Start = start }, score);
        }
        var best = Laid(kept).Score;
        for (var i = 0; i < repeats.Count; i++)
        {
            progress?.Invoke(Ordered + (1 - Ordered) * i / repeats.Count);
            // The search for rows in any order hears one for its neighbour now and then, or a row for the last one sung again: the likeliest near it is meant.
            var found = repeats[i];
            var (own, score) = Enumerable
                .Range(-Near, 2 * Near + 1)
                .SelectMany(d => (int[])[found.After, found.After - 1], (d, after) => new SungRepeat(found.First + d, found.Last + d, after, found.Start))
                .Where(r => r.First >= 0 && r.Last <= r.After)
                .Select(Try)
                .MaxBy(r => r.Score);
            if (score < best + Gain)
                continue;
            // What follows it or goes before it may have been taken along.
            foreach (var (before, behind) in ((int, int)[])[(0, -1), (1, 0)])
                while (own.Last > own.First)
                {
                    var shorter = own with { First = own.First + before, Last = own.Last + behind };
                    var without = Try(shorter);
                    if (without.Score + Gain < score)
                        break;
                    (own, score) = without;
                }
            kept.Add(own);
            best = score;
        }
        // What was found first may be what was found better after it.
        foreach (var one in kept.ToArray())
        {
            var at = kept.IndexOf(one);
            kept.RemoveAt(at);
            var without = Laid(kept).Score;
            if (without + Gain < best)
                kept.Insert(at, one);
            else
                best = without;
        }
        return [.. kept.OrderBy(r => r.Start)];
    }

    /// <summary>Words with those that are sung again in their places.</summary>
    /// <param name="words">As they are written.</param>
    /// <param name="repeats">From <see cref="Find"/>.</param>
    public static IReadOnlyList<ScriptWord> Sung(IReadOnlyList<ScriptWord> words, IReadOnlyList<SungRepeat> repeats)
    {
        var sung = new List<ScriptWord>();
        foreach (var row in words.GroupBy(w => w.Row))
        {
            sung.AddRange(row);
            foreach (var repeat in repeats.Where(r => r.After == row.Key))
                sung.AddRange(words.Where(repeat.Has).Select(w => w with { IsAgain = true }));
        }
        return sung;
    }
}
