namespace Zamblo.Core.Speech;

/// <summary>
/// Where the script and the voice part, the way round a word and the yardstick for foreign speech know nothing of their neighbours' sounds, and push
/// their boundaries about. So each such place is aligned once more, with what was said there: words left out are gone, and foreign speech is a word of the
/// phones that the phone decoder hears.
/// </summary>
internal sealed class ScriptMender(AcousticModel model, PathSearch search)
{
    // Words on each side of a gap that are aligned again with it; the outermost keeps its place.
    private const int Around = 2;

    // Longer stretches of a take than this, in frames, are left as they are.
    private const int LongestMend = 3000;

    /// <summary>Foreign speech under this many frames is no speech.</summary>
    public const int LeastForeign = 8;

    /// <summary>The path, mended.</summary>
    /// <param name="sound">What is heard.</param>
    /// <param name="steps">The path so far.</param>
    /// <param name="words">Ways to say each word of the network; what foreign speech is heard as is added.</param>
    /// <param name="owners">The script's word of each word of the network, or less than 0.</param>
    /// <param name="voiced">Where there is a voice.</param>
    /// <param name="cancel">Stops the work.</param>
    public List<PhoneStep> Mend(
        HeardSound sound,
        List<PhoneStep> steps,
        List<int[][]> words,
        List<int> owners,
        IReadOnlyList<(double Start, double End)> voiced,
        CancellationToken cancel
    )
    {
        // Stretches of steps that are one word, one piece of foreign speech, or silence.
        var pieces = new List<(int First, int Last, int Word, bool IsForeign)>();
        for (var i = 0; i < steps.Count; )
        {
            var j = i;
            while (
                j + 1 < steps.Count
                && steps[j + 1].Word == steps[i].Word
                && (steps[j + 1].Model == PhoneGraph.Foreign) == (steps[i].Model == PhoneGraph.Foreign)
            )
                j++;
            pieces.Add((i, j, steps[i].Word, steps[i].Model == PhoneGraph.Foreign));
            i = j + 1;
        }
        var isGap = new bool[pieces.Count];
        var previous = -1;
        for (var i = 0; i < pieces.Count; i++)
        {
            if (pieces[i].IsForeign)
                isGap[i] = steps[pieces[i].Last].End - steps[pieces[i].First].Start >= LeastForeign;
            if (pieces[i].Word < 0)
                continue;
            if (pieces[i].Word - previous > 1)
                isGap[i] = true;
            previous = pieces[i].Word;
        }
        if (previous >= 0 && previous < words.Count - 1)
            isGap[^1] = true;
        var result = new List<PhoneStep>();
        var done = 0;
        for (var i = 0; i < pieces.Count; i++)
        {
            if (!isGap[i])
                continue;
            int from = Outwards(i, -1),
                to = Outwards(i, 1);
            // Gaps that are near each other are one: no two stretches may share more than the word that both keep.
            for (var k = i + 1; k < pieces.Count; k++)
            {
                if (!isGap[k])
                    continue;
                if (k > to && Outwards(k, -1) >= to)
                    break;
                to = Outwards(k, 1);
            }
            i = to;
            int start = steps[pieces[from].First].Start,
                end = steps[pieces[to].Last].End;
            if (end - start > LongestMend)
                continue;
            var own = new List<int[][]>();
            var names = new List<int>();
            for (var k = from; k <= to; k++)
            {
                if (pieces[k].Word >= 0)
                {
                    own.Add(words[pieces[k].Word]);
                    names.Add(pieces[k].Word);
                }
                else if (
                    pieces[k].IsForeign
                    && SegmentLists.Voiced(sound.TimeOf(steps[pieces[k].First].Start), sound.TimeOf(steps[pieces[k].Last].End), voiced) > 0.01 * LeastForeign
                )
                    foreach (var said in search.Said(sound, steps[pieces[k].First].Start, steps[pieces[k].Last].End, cancel))
                    {
                        own.Add([said]);
                        names.Add(words.Count);
                        words.Add([said]);
                        owners.Add(-1);
                    }
            }
            if (own.Count == 0)
                continue;
            var graph = ScriptGraph.Build(model, own, ScriptAligner.MappedWeights);
            var mended = search.Search(graph, sound, start, end, null, cancel).ConvertAll(s => s.Word >= 0 ? s with { Word = names[s.Word] } : s);
            // The outermost words have neighbours that this search knew nothing of: they stay as they were.
            int head = from > 0 && pieces[from].Word >= 0 ? pieces[from].Last + 1 : pieces[from].First,
                tail = to < pieces.Count - 1 && pieces[to].Word >= 0 ? pieces[to].First : pieces[to].Last + 1;
            int low = head > pieces[from].First ? steps[head].Start : start,
                high = tail <= pieces[to].Last ? steps[tail].Start : end;
            List<PhoneStep> inner =
            [
                .. mended.Where(s => !(head > pieces[from].First && s.Word == pieces[from].Word) && !(tail <= pieces[to].Last && s.Word == pieces[to].Word)),
            ];
            inner = [.. inner.Select(s => s with { Start = Math.Clamp(s.Start, low, high), End = Math.Clamp(s.End, low, high) }).Where(s => s.End > s.Start)];
            if (inner.Count == 0)
                continue;
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
            while (at + way >= 0 && at + way < pieces.Count && left > 0)
                if (pieces[at += way].Word >= 0)
                    left--;
            return at;
        }
    }
}
