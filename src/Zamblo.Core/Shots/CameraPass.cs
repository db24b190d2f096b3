using Zamblo.Core.Performance;

namespace Zamblo.Core.Shots;

/// <summary>Somebody speaks.</summary>
/// <param name="Member">Index of who.</param>
/// <param name="Start">First sound, in seconds of the scene.</param>
/// <param name="End">Last sound, in seconds of the scene.</param>
/// <param name="Words">Start and end of each word, in seconds of the scene, in order.</param>
/// <param name="IsStrong">Said with feeling.</param>
public sealed record SpokenTurn(int Member, double Start, double End, IReadOnlyList<(double Start, double End)> Words, bool IsStrong);

/// <summary>A thing is spoken of.</summary>
/// <param name="Time">When the word begins, in seconds of the scene.</param>
/// <param name="Prop">Index of the prop.</param>
public readonly record struct ThingNamed(double Time, int Prop);

/// <summary>
/// Shots from a conversation by plain rules (common practice): the place first, then whoever speaks, faces on strong lines, listeners inside long ones, both
/// when turns are quick. No cut inside a word, cuts a few frames before the first sound, nothing shorter than <see cref="Shortest"/>, neighbouring shots of
/// one subject differ by two sizes. The camera never goes round the figures, so left stays left.
/// </summary>
public sealed class CameraPass
{
    /// <summary>Shortest shot, in seconds.</summary>
    public const double Shortest = 1.2;

    /// <summary>Longest that whoever speaks may be out of the picture, in seconds: a listener's reaction.</summary>
    public const double LongestAway = 2.2;

    // Before the first sound of a turn, in seconds: four frames of 25.
    private const double Lead = 0.16;

    // A turn that is shorter is part of a quick exchange, in seconds.
    private const double Quick = 1.9;

    private readonly IReadOnlyList<SpokenTurn> _turns;
    private readonly (double Start, double End)[] _words;
    private readonly double _longest;
    private readonly int _members;
    private readonly double _duration;
    private readonly CameraDials _dials;
    private readonly double _length;
    private readonly SeededRandom _random;

    // The turn that is looked at, and how often dice were thrown for it: a changed line leaves the shots of the others alone.
    private int _turn,
        _thrown;
    private readonly List<Shot> _shots = [];
    private readonly Dictionary<int, Framing> _lastOf = [];
    private readonly List<ThingNamed> _things;
    private int _sinceWide;

    private CameraPass(IReadOnlyList<SpokenTurn> turns, int members, double duration, CameraDials dials, IEnumerable<ThingNamed> things)
    {
        // A thing is looked at where it is first spoken of.
        _things = [.. things.OrderBy(t => t.Time).DistinctBy(t => t.Prop)];
        _turns = [.. turns.Where(t => t.End > t.Start).OrderBy(t => t.Start).ThenBy(t => t.Member)];
        _words = [.. _turns.SelectMany(t => t.Words).OrderBy(w => w.Start)];
        _longest = _words.Length == 0 ? 0 : _words.Max(w => w.End - w.Start);
        (_members, _duration, _dials) = (members, duration, dials.Clamped());
        _length = 8.5 - 5.3 * _dials.Pace;
        _random = new SeededRandom((ulong)(uint)dials.Seed);
    }

    /// <summary>Makes the shots of a scene.</summary>
    /// <param name="turns">Who speaks when.</param>
    /// <param name="members">How many are on stage.</param>
    /// <param name="duration">Of the scene in seconds.</param>
    /// <param name="dials">How the camera behaves.</param>
    /// <param name="things">Props that are spoken of, and when; null for none.</param>
    /// <returns>In order; the first starts at 0. Together they cover the scene.</returns>
    public static IReadOnlyList<Shot> Make(
        IReadOnlyList<SpokenTurn> turns,
        int members,
        double duration,
        CameraDials dials,
        IReadOnlyList<ThingNamed>? things = null
    )
    {
        var all = new Shot(0, Framing.Wide, -1, dials.IsFixed ? "One picture for all of it" : "The place, and everybody in it");
        if (dials.IsFixed || members == 0 || turns.Count == 0)
            return [all];
        var pass = new CameraPass(turns, members, duration, dials, things ?? []);
        pass._shots.Add(all);
        for (var i = 0; i < pass._turns.Count; )
            i = pass.Take(i);
        pass.Close();
        return pass.Moved();
    }

    private double Dice() => _random.Fork(_turn).Uniform(_thrown++);

    // Shots of a turn, or of a run of quick ones; gives the index of the next.
    private int Take(int i)
    {
        var turn = _turns[i];
        (_turn, _thrown) = (i, 0);
        if (i > 0)
            Reestablish(i);
        var run = RunFrom(i);
        if (run > i + 1)
        {
            var other = _turns[i + 1].Member;
            Add(turn.Start - Lead, Framing.Two, turn.Member, "Quick exchange", other);
            return run;
        }
        var start = turn.Start - Lead;
        var reason = "Speaks";
        if (i == 0 && start < 1.6)
            // The place is seen first: into the line, up to a word's end.
            (start, reason) = (1.6 + 0.9 * (1 - _dials.Pace), "Speaks; the place was seen");
        var size = turn.IsStrong ? Framing.Close : SizeFor(turn.Member);
        // Thrown apart from the others: without it they fall as they fell.
        if (!turn.IsStrong && Answers(i) is { } asked && _random.Fork(_turn).Uniform(Apart) < _dials.Shoulders)
        {
            if (Add(start, Framing.Shoulder, turn.Member, "Answers: over the shoulder", asked))
            {
                Inside(turn);
                return i + 1;
            }
        }
        if (turn.End - start >= Shortest || i > 0)
            Add(start, size, turn.Member, turn.IsStrong ? "Said with feeling" : reason);
        Inside(turn);
        return i + 1;
    }

    // Dice that are thrown for what is not always there, far from those that are.
    private const int Apart = 5000;

    // Whom a turn answers, without a pause; null for nobody.
    private int? Answers(int i) =>
        i > 0 && _turns[i - 1].Member != _turns[i].Member && _turns[i].Start - _turns[i - 1].End is > -0.5 and < 1 ? _turns[i - 1].Member : null;

    // How far a run of quick turns between the same two goes; a run is three turns at least.
    private int RunFrom(int i)
    {
        var k = i;
        while (
            k + 1 < _turns.Count
            && _turns[k].End - _turns[k].Start < Quick
            && _turns[k + 1].Member != _turns[k].Member
            && (k == i || _turns[k + 1].Member == _turns[k - 1].Member)
            && _turns[k + 1].Start - _turns[k].End < 1
        )
            k++;
        return k - i >= 2 ? k + (_turns[k].End - _turns[k].Start < Quick ? 1 : 0) : i + 1;
    }

    // After a silence, or after many faces, the place again.
    private void Reestablish(int i)
    {
        var (before, next) = (_turns.Take(i).Max(t => t.End), _turns[i].Start);
        if (_members < 2 || next - Lead - before - 0.3 < Shortest || _shots[^1].Framing == Framing.Wide)
            return;
        if (next - before > 2 || _sinceWide >= 6)
            Add(before + 0.3, Framing.Wide, -1, next - before > 2 ? "Nobody speaks" : "Where we are");
    }

    private Framing SizeFor(int member)
    {
        var size = Dice() < _dials.Nearness * 0.6 ? Framing.Close : Framing.Medium;
        // Not the same twice.
        if (_lastOf.TryGetValue(member, out var last) && last == size && Dice() < 0.5 * _dials.Nearness + 0.2)
            size = size == Framing.Close ? Framing.Medium : Framing.Close;
        return size;
    }

    // A long turn: a listener, or another size, and back.
    private void Inside(SpokenTurn turn)
    {
        for (var guard = 0; guard < 1000; guard++)
        {
            var since = _shots[^1].Start;
            if (NamedIn(turn, since) is { } named)
            {
                Look(named, turn);
                continue;
            }
            var at = Math.Max(since, turn.Start) + _length * (0.8 + 0.45 * Dice());
            if (at > turn.End - 2 * Shortest)
                return;
            var listener = ListenerOf(turn);
            if (listener >= 0 && Dice() < _dials.Reactions)
            {
                if (!Add(at, Framing.Medium, listener, "Listens"))
                    return;
                if (Add(_shots[^1].Start + 1.5, SizeFor(turn.Member), turn.Member, "Goes on speaking"))
                    continue;
                // Without a way back nobody goes.
                _shots.RemoveAt(_shots.Count - 1);
                return;
            }
            var other = _shots[^1].Framing switch
            {
                Framing.Medium or Framing.Close => Framing.Wide,
                _ => SizeFor(turn.Member),
            };
            if (!Add(at, other, other == Framing.Wide ? -1 : turn.Member, other == Framing.Wide ? "A long line: the place" : "A long line: nearer"))
                return;
        }
    }

    // So long a thing is looked at, in seconds.
    private const double Glance = 1.4;

    // The next thing that is spoken of in a turn, early enough for a look at it and back.
    private ThingNamed? NamedIn(SpokenTurn turn, double since)
    {
        while (_things.Count > 0 && _things[0].Time < turn.End)
        {
            var named = _things[0];
            _things.RemoveAt(0);
            if (
                named.Time >= Math.Max(turn.Start, since + Shortest)
                && named.Time <= turn.End - Glance
                && _random.Fork(_turn).Fork(named.Prop).Uniform(Apart + 1) < _dials.Things
            )
                return named;
        }
        return null;
    }

    private void Look(ThingNamed named, SpokenTurn turn)
    {
        if (!Add(named.Time, Framing.Insert, -1, "Is spoken of", prop: named.Prop))
            return;
        // Without a way back nobody looks.
        if (!Add(_shots[^1].Start + Glance, SizeFor(turn.Member), turn.Member, "Goes on speaking"))
            _shots.RemoveAt(_shots.Count - 1);
    }

    // Who was answered, or will answer.
    private int ListenerOf(SpokenTurn turn)
    {
        var before = _turns.LastOrDefault(t => t.Start < turn.Start && t.Member != turn.Member);
        var after = _turns.FirstOrDefault(t => t.Start > turn.Start && t.Member != turn.Member);
        return (before ?? after)?.Member ?? (_members > 1 ? (turn.Member + 1) % _members : -1);
    }

    // A cut at a moment or near it; false where there is none to be had. Then the picture before goes on, wide enough for whoever speaks.
    private bool Add(double time, Framing framing, int subject, string reason, int other = -1, int prop = -1)
    {
        var last = _shots[^1];
        var shot = new Shot(Math.Max(0, time), framing, subject, reason) { Other = other, Prop = prop };
        if (last.Framing == framing && last.Subject == subject && last.Other == other)
            return false;
        if (Math.Abs(SizeOf(last) - SizeOf(shot)) < 2 && last.Subject == subject && last.Other < 0 && other < 0)
            return false;
        if (Free(Math.Max(shot.Start, last.Start + Shortest), shot.Start) is not { } at || at > _duration - Shortest)
        {
            Widen(last, shot);
            return false;
        }
        _shots.Add(shot with { Start = at });
        _sinceWide = framing == Framing.Wide ? 0 : _sinceWide + 1;
        if (subject >= 0)
            _lastOf[subject] = framing;
        return true;
    }

    // There is no room for a cut: the shot before takes in the other one as well.
    private void Widen(Shot last, Shot next)
    {
        if (next.Subject < 0 || last.Shows(next.Subject))
            return;
        var both = last.Other < 0 && _shots.Count > 1 && next.Other < 0;
        _shots[^1] = both
            ? last with
            {
                Framing = Framing.Two,
                Other = next.Subject,
                Reason = "Both: there was no time for a cut",
            }
            : last with
            {
                Framing = Framing.Wide,
                Subject = -1,
                Other = -1,
                Reason = "Everybody: there was no time for a cut",
            };
        // What is now seen may be what was seen before.
        if (_shots.Count > 1 && _shots[^2] is var p && p.Framing == _shots[^1].Framing && p.Subject == _shots[^1].Subject && p.Other == _shots[^1].Other)
            _shots.RemoveAt(_shots.Count - 1);
    }

    private static int SizeOf(Shot shot) =>
        shot.Framing switch
        {
            Framing.Wide => 0,
            Framing.Two or Framing.Full => 1,
            Framing.Medium or Framing.Shoulder => 2,
            _ => 3,
        };

    // The moment nearest to the one that is wished, not before the least, that lies in no word; null where none is near.
    private double? Free(double least, double wished)
    {
        var want = Math.Max(least, wished);
        if (IsFree(want))
            return want;
        double? best = null;
        for (var i = FirstFrom(want - 0.8 - _longest); i < _words.Length; i++)
        {
            var (start, end) = _words[i];
            if (end < want - 0.8)
                continue;
            if (start > want + 1.6)
                break;
            foreach (var edge in (ReadOnlySpan<double>)[start, end])
                if (edge >= least && IsFree(edge) && Math.Abs(edge - want) < Math.Abs((best ?? double.MaxValue) - want))
                    best = edge;
        }
        return best;
    }

    private bool IsFree(double t)
    {
        // Words of two may overlap, so all that may reach so far are asked; they are in order of their start.
        for (var i = FirstFrom(t - _longest - 1e-3); i < _words.Length && _words[i].Start < t - 1e-6; i++)
            if (_words[i].End > t + 1e-6)
                return false;
        return true;
    }

    // Index of the first word that starts at a moment or later.
    private int FirstFrom(double t) => Sorted.Below(_words, t, static x => x.Start);

    // It ends as it began, when there is time for it.
    private void Close()
    {
        var end = _turns.Max(t => t.End);
        if (_members > 1 && _shots[^1].Framing != Framing.Wide && _duration - end - 0.4 >= Shortest + 0.3)
            Add(end + 0.4, Framing.Wide, -1, "It ends where it began");
    }

    private List<Shot> Moved()
    {
        if (_dials.Pace <= 0.5)
            return _shots;
        _turn = -1;
        for (var i = 0; i < _shots.Count; i++)
        {
            var shot = _shots[i];
            // Thrown for the turn that it lies in, beyond the dice that have chosen its shots.
            while (_turn + 1 < _turns.Count && _turns[_turn + 1].Start - Lead <= shot.Start + 1e-6)
                (_turn, _thrown) = (_turn + 1, 1000);
            var length = (i + 1 < _shots.Count ? _shots[i + 1].Start : _duration) - shot.Start;
            if (length > 2.5 && shot.Framing != Framing.Wide && Dice() < _dials.Pace - 0.3)
                _shots[i] = shot with { Move = i == _shots.Count - 1 ? CameraMove.Pull : CameraMove.Push };
        }
        return _shots;
    }
}
