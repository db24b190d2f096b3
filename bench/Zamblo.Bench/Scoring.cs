using Zamblo.Core.Mouth;
using Zamblo.Core.Speech;

namespace Zamblo.Bench;

/// <summary>Adds up how well analyses agree with the truth.</summary>
internal sealed class Scoring
{
    private readonly List<double> _errors = [];
    private double _late;
    private int _matched,
        _total,
        _edits,
        _rightSpeech,
        _speech,
        _rightSilence,
        _silence,
        _words,
        _wrongWords;

    public readonly List<(float Confidence, bool Right)> Calibration = [];

    public void Add(IReadOnlyList<PhoneSegment> truth, IReadOnlyList<PhoneSegment> heard)
    {
        var t = truth.Where(p => p.Phone != Arpabet.Silence).ToArray();
        var h = heard.Where(p => p.Phone != Arpabet.Silence).ToArray();
        _total += t.Length;
        var pairs = Match([.. t.Select(p => (p.Phone, p.Start))], [.. h.Select(p => (p.Phone, p.Start))], out var edits);
        foreach (var (a, b) in pairs)
        {
            _matched++;
            _late += h[b].Start - t[a].Start + h[b].End - t[a].End;
            _errors.Add(Math.Abs(t[a].Start - h[b].Start) * 1000);
            _errors.Add(Math.Abs(t[a].End - h[b].End) * 1000);
        }
        _edits += edits;
        foreach (var p in h)
        {
            var middle = (p.Start + p.End) / 2;
            Calibration.Add((p.Confidence, truth.Any(q => q.Phone == p.Phone && middle >= q.Start && middle < q.End)));
        }
        for (var time = 0.005; time < truth[^1].End; time += 0.01)
        {
            string expected = At(truth, time),
                said = At(heard, time);
            var right = MouthShapes.Of(expected).First == MouthShapes.Of(said).First;
            if (expected == Arpabet.Silence)
            {
                _silence++;
                if (said == Arpabet.Silence)
                    _rightSilence++;
            }
            else
            {
                _speech++;
                if (right)
                    _rightSpeech++;
            }
        }
    }

    /// <summary>Counts the words that were drafted wrongly, too many or too few, as they are spoken.</summary>
    public void AddWords(string text, IReadOnlyList<WordSegment> heard)
    {
        (string, double)[] said = [.. ScriptText.Words(text).SelectMany(w => w.Spoken).Select(w => (w, 0.0))];
        Match(said, [.. heard.SelectMany(w => ScriptText.Words(w.Text)).SelectMany(w => w.Spoken).Select(w => (w, 0.0))], out var edits);
        _words += said.Length;
        _wrongWords += edits;
    }

    /// <summary>Errors of boundaries in ms.</summary>
    public IReadOnlyList<double> Errors => _errors;

    public string Report()
    {
        _errors.Sort();
        var late = 1000 * _late / Math.Max(1, _errors.Count);
        double Within(double ms) => 100.0 * _errors.Count(e => e <= ms) / Math.Max(1, _errors.Count);
        return string.Concat(
                $"late {late, 5:0.0} ms  mean {_errors.DefaultIfEmpty().Average(), 5:0.0} ms  "
                    + $"median {(_errors.Count > 0 ? _errors[_errors.Count / 2] : 0), 5:0.0} ms "
                    + $" <=20 ms {Within(20), 5:0.0} %  <=50 ms {Within(50), 5:0.0} %  matched {100.0 * _matched / _total, 5:0.0} %  phone error "
                    + $"{100.0 * _edits / _total, 5:0.0} %  speech frames right {100.0 * _rightSpeech / Math.Max(1, _speech), 5:0.0} %  silence "
                    + $"frames right {100.0 * _rightSilence / Math.Max(1, _silence), 5:0.0} %"
            ) + (_words == 0 ? "" : FormattableString.Invariant($"  words wrong {100.0 * _wrongWords / _words:0.0} %"));
    }

    /// <summary>What is said at a time; silence outside the list.</summary>
    public static string At(IReadOnlyList<PhoneSegment> list, double t)
    {
        foreach (var p in list)
            if (t < p.End)
                return t >= p.Start ? p.Phone : Arpabet.Silence;
        return Arpabet.Silence;
    }

    // Least edits (Levenshtein 1966), ties broken towards pairs that lie together in time.
    private static List<(int, int)> Match((string Name, double Start)[] t, (string Name, double Start)[] h, out int edits)
    {
        var cost = new double[t.Length + 1, h.Length + 1];
        for (var i = 0; i <= t.Length; i++)
        for (var j = 0; j <= h.Length; j++)
        {
            if (i == 0 || j == 0)
            {
                cost[i, j] = i + j;
                continue;
            }
            var same = t[i - 1].Name == h[j - 1].Name;
            cost[i, j] = Math.Min(
                cost[i - 1, j - 1] + (same ? 0 : 1) + 0.001 * Math.Min(1, Math.Abs(t[i - 1].Start - h[j - 1].Start)),
                Math.Min(cost[i - 1, j], cost[i, j - 1]) + 1
            );
        }
        edits = (int)Math.Round(cost[t.Length, h.Length]);
        var pairs = new List<(int, int)>();
        for (int i = t.Length, j = h.Length; i > 0 && j > 0; )
        {
            var same = t[i - 1].Name == h[j - 1].Name;
            var diagonal = cost[i - 1, j - 1] + (same ? 0 : 1) + 0.001 * Math.Min(1, Math.Abs(t[i - 1].Start - h[j - 1].Start));
            if (Math.Abs(cost[i, j] - diagonal) < 1e-9)
            {
                if (same)
                    pairs.Add((i - 1, j - 1));
                i--;
                j--;
            }
            else if (Math.Abs(cost[i, j] - cost[i - 1, j] - 1) < 1e-9)
                i--;
            else
                j--;
        }
        return pairs;
    }
}
