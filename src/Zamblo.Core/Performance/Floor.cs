using Zamblo.Core.Speech;

namespace Zamblo.Core.Performance;

/// <summary>Somebody else on stage.</summary>
/// <param name="Direction">Where, seen from here: -1 far to the picture's left, 1 far to its right.</param>
/// <param name="Lines">What that one says, in order of start.</param>
public sealed record Partner(float Direction, IReadOnlyList<PlacedSpeech> Lines)
{
    /// <summary>The same at a time in seconds of the scene, where one of the two walks; null stays.</summary>
    public Func<double, float>? DirectionAt { get; init; }

    /// <summary>How that one feels: who listens sees it.</summary>
    public IReadOnlyList<MoodSpan> Moods { get; init; } = [];
}

/// <summary>A turn at talk, in seconds of the scene.</summary>
/// <param name="Who">-1 for the figure itself, else the index of the partner.</param>
/// <param name="Start">First sound.</param>
/// <param name="End">Last sound.</param>
/// <param name="IsQuestion">Ends on a rise.</param>
/// <param name="Key">Names what is said in it (<see cref="LineKeys"/>).</param>
internal readonly record struct Turn(int Who, double Start, double End, bool IsQuestion, int Key = 0);

/// <summary>Who speaks when, as one of those on stage sees it.</summary>
internal sealed class Floor
{
    public Floor(IReadOnlyList<PlacedSpeech> own, IReadOnlyList<Partner> partners)
    {
        var turns = new List<Turn>();
        void Add(int who, IReadOnlyList<PlacedSpeech> lines)
        {
            foreach (var (line, key) in lines.Zip(LineKeys.Of(lines)))
                if (line.Prosody.Phrases is { Count: > 0 } p)
                    turns.Add(new Turn(who, line.Start + p[0].Start, line.Start + p[^1].End, p[^1].IsRising, key));
                else if (line.Speech.Sounds is { Count: > 0 } sounds)
                    turns.Add(new Turn(who, line.Start + sounds[0].Start, line.Start + sounds[^1].End, false, key));
        }
        Add(-1, own);
        for (var i = 0; i < partners.Count; i++)
            Add(i, partners[i].Lines);
        turns.Sort((a, b) => a.Start.CompareTo(b.Start));
        Turns = turns;
    }

    /// <summary>All turns in order of start.</summary>
    public IReadOnlyList<Turn> Turns { get; }

    /// <summary>Index of the first turn that starts after a time.</summary>
    public int After(double t) => Sorted.UpTo(Turns, t, static turn => turn.Start);

    /// <summary>
    /// The turn that holds the floor at a time: of those under way the one that started last; else the one that ended last, up to four seconds ago.
    /// </summary>
    public (Turn Turn, bool IsOn)? At(double t)
    {
        Turn? over = null;
        // A turn of minutes may lie far back, but few turns overlap: eight back is plenty.
        for (int i = After(t) - 1, n = 0; i >= 0 && n < 8; i--, n++)
        {
            var turn = Turns[i];
            if (t < turn.End)
                return (turn, true);
            if (t - turn.End < 4 && (over == null || turn.End > over.Value.End))
                over = turn;
        }
        return over is { } o ? (o, false) : null;
    }
}
