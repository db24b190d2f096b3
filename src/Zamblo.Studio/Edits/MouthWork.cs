using System.Globalization;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Mouth;
using Zamblo.Core.Performance;
using Zamblo.Core.Scenes;
using Zamblo.Core.Score;
using Zamblo.Core.Speech;
using Zamblo.Data;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Edits;

/// <summary>A line opened for hand work on its mouth.</summary>
public sealed class MouthWork
{
    private readonly IReadOnlyList<ContextPhone> _sequence;
    private readonly Line _line;

    private MouthWork(LoadedScene scene, Line line, PlacedSpeech placed) =>
        (Scene, _line, Placed, _sequence) = (scene, line, placed, PhoneMap.Sequence(placed.Speech));

    /// <summary>Opens a line.</summary>
    /// <exception cref="NotFoundException">There is none.</exception>
    /// <exception cref="RequestException">Nobody has listened to it yet.</exception>
    public static MouthWork Open(LoadedScene scene, Guid id)
    {
        var line = scene.Lines.FirstOrDefault(l => l.Id == id) ?? throw new NotFoundException("such line");
        return new MouthWork(scene, line, scene.Spoken(id) ?? throw new RequestException("This line has not been listened to yet."));
    }

    public LoadedScene Scene { get; }
    public Guid Id => _line.Id;
    public Guid Take => _line.TakeId!.Value;
    public PlacedSpeech Placed { get; }
    public IReadOnlyList<WordSegment> Words => Placed.Speech.Words;

    /// <summary>Touch-ups that are on and found their place.</summary>
    public IReadOnlyList<TouchUp> Touches => Placed.Touches;
    public SceneMember Member => Scene.Member(_line.CastMemberId);

    /// <summary>In the script, from 1.</summary>
    public int Number => Scene.Lines.ToList().FindIndex(l => l.Id == _line.Id) + 1;

    public int WordIndexAt(double t)
    {
        for (var i = 0; i < Words.Count; i++)
            if (t >= Words[i].Start && t < Words[i].End)
                return i;
        return -1;
    }

    public string WordAt(double t) => WordIndexAt(t) is var i and >= 0 ? Words[i].Text : "";

    public IReadOnlyList<ContextPhone> PhonesOf(int word) =>
        [.. _sequence.Where(p => (p.Start + p.End) / 2 is var m && m >= Words[word].Start && m < Words[word].End)];

    /// <summary>A word.</summary>
    /// <exception cref="RequestException">There is no such word.</exception>
    public WordSegment Word(int index) => index >= 0 && index < Words.Count ? Words[index] : throw new RequestException("There is no such word any more.");

    /// <summary>All other places of the scene where a word is said.</summary>
    public IEnumerable<(MouthWork Line, int Word)> Elsewhere(int word)
    {
        if (word < 0 || word >= Words.Count)
            yield break;
        var text = PhoneMap.Plain(Words[word].Text);
        foreach (var line in Scene.Lines)
        {
            if (Scene.Spoken(line.Id) is not { } placed)
                continue;
            var other = line.Id == Id ? this : Open(Scene, line.Id);
            for (var i = 0; i < placed.Speech.Words.Count; i++)
                if ((line.Id != Id || i != word) && PhoneMap.Plain(placed.Speech.Words[i].Text) == text)
                    yield return (other, i);
        }
    }

    /// <summary>The touch-ups of another line with those of a word laid on the same word there; what that word had by hand gives way.</summary>
    public IReadOnlyList<TouchUp> Transfer(int word, MouthWork other, int otherWord, IReadOnlyList<TouchUp> touches)
    {
        var (from, to) = (Word(word), other.Word(otherWord));
        var own = Touches.Where(t => Over(t, from)).ToArray();
        if (own.Length == 0)
            throw new RequestException($"\"{from.Text}\" has no touch-up here: change its mouth first.");
        var kept = touches.Where(t => !Over(t, to) || (other.Id == Id && own.Contains(t)));
        return [.. kept, .. own.Select(t => PhoneMap.Fit(t, PhonesOf(word), other.PhonesOf(otherWord)) with { Id = Guid.NewGuid() })];
    }

    /// <summary>The mouth of a word elsewhere as it is, and as it would be with that of a word of this line.</summary>
    public (IEnumerable<Cue> Before, IEnumerable<Cue> After) Preview(int word, MouthWork other, int otherWord)
    {
        var span = other.Words[otherWord];
        bool In(Cue c) => (c.Start + c.End) / 2 is var m && m >= span.Start && m < span.End;
        var hasOwn = Touches.Any(t => Over(t, Word(word)));
        var after = hasOwn
            ? TouchUps.Apply(MouthPass.Cues(other.Placed.Speech, other.Placed.Mouth), Transfer(word, other, otherWord, other.Touches))
            : other.Placed.Cues;
        return (other.Placed.Cues.Where(In), after.Where(In));
    }

    private static bool Over(TouchUp t, WordSegment w) =>
        Math.Min(t.End, w.End) - Math.Max(t.Start, w.Start) > 0.5 * Math.Min(t.End - t.Start, w.End - w.Start);

    /// <summary>Files the touch-ups of the line as they are now: new ones, changed ones, and those that are gone.</summary>
    /// <returns>Those that are new or changed.</returns>
    public async Task<IReadOnlyList<Guid>> SaveAsync(ZambloContext db, IReadOnlyList<TouchUp> touches)
    {
        var touched = new List<Guid>();
        var rows = await db.Touches.Where(t => t.LineId == Id).ToListAsync();
        var last = rows.Count == 0 ? 0 : rows.Max(r => r.Order);
        foreach (var before in Touches)
            if (touches.All(t => t.Id != before.Id) && rows.FirstOrDefault(r => r.Id == before.Id) is { } gone)
                db.Touches.Remove(gone);
        foreach (var touch in touches)
        {
            if (Touches.Contains(touch))
                continue;
            var row = rows.FirstOrDefault(r => r.Id == touch.Id);
            if (row == null)
                db.Touches.Add(
                    row = new LineTouch
                    {
                        Id = touch.Id,
                        LineId = Id,
                        Order = ++last,
                    }
                );
            row.Data = Column.Write(CueEdits.Hang(touch, Placed.Speech));
            row.Title = Title(touch);
            touched.Add(touch.Id);
        }
        return touched;
    }

    private string Title(TouchUp t)
    {
        var word = WordAt((t.Start + t.End) / 2);
        var what = t.Kind switch
        {
            TouchKind.Remove => "taken out",
            TouchKind.Strength => t.Factor > 1 ? "stronger" : "weaker",
            _ when t.Cues.Count > 3 => $"{t.Cues.Count} shapes",
            _ when t.Cues.All(c => c.Shape == MouthShape.Rest) => "closed",
            _ => string.Join(", ", t.Cues.Select(c => c.Shape)) + (t.From != null ? ", moved" : ""),
        };
        return (word.Length > 0 ? word : string.Create(CultureInfo.InvariantCulture, $"at {t.Start:0.00} s")) + ": " + what;
    }
}
