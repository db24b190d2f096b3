using Zamblo.Core.Speech;

namespace Zamblo.Core.Performance;

/// <summary>
/// What a listener shows of what is heard: a start at a shout, a smile at a joke, a frown or eyes that go away at an accusation, concern for who is
/// sad, a nod at what asks for one. A face answers 0.3 to 0.7 s after a phrase has ended, a start comes at once; of several who listen each answers in
/// a way and at a time of its own (common practice).
/// </summary>
internal sealed class Answers
{
    /// <summary>
    /// How much louder than a speaker's usual phrase one is heard as shouted, in dB: a loud voice is about 7 dB over a usual one (ANSI S3.5, from memory).
    /// </summary>
    public const double ShoutDb = 7;

    // A mood that is felt less is not seen by others.
    private const float Seen = 0.2f;

    private static readonly HashSet<string> Laughs = new(StringComparer.OrdinalIgnoreCase) { "ha", "haha", "hahaha", "hehe", "heehee", "hee" };

    private static readonly HashSet<string> Addressed = new(StringComparer.OrdinalIgnoreCase) { "you", "your", "you're", "you've", "yours", "yourself" };

    private static readonly HashSet<string> Charges = new(StringComparer.OrdinalIgnoreCase)
    {
        "liar",
        "lied",
        "lying",
        "stole",
        "thief",
        "fault",
        "blame",
        "cheated",
        "broke",
        "ruined",
        "forgot",
        "never",
        "always",
    };

    private static readonly HashSet<string> Tags = new(StringComparer.OrdinalIgnoreCase)
    {
        "right",
        "really",
        "exactly",
        "agreed",
        "yes",
        "sure",
        "okay",
        "course",
    };

    private readonly List<MoodSpan> _feelings = [];
    private readonly List<Pulse> _starts = [];
    private readonly List<Pulse> _nods = [];
    private readonly List<LookSpan> _away = [];
    private readonly Floor _floor;

    public Answers(Part part, Floor floor, SeededRandom random)
    {
        _floor = floor;
        // Who sits elsewhere answers otherwise, also with the same seed.
        foreach (var partner in part.Partners)
            random = random.Fork((int)(partner.Direction * 1000));
        for (var p = 0; p < part.Partners.Count; p++)
        {
            var partner = part.Partners[p];
            var usual = Usual(partner.Lines);
            foreach (var (line, key) in partner.Lines.Zip(LineKeys.Of(partner.Lines)))
            {
                var phrases = line.Prosody.Phrases;
                var draw = random.Fork(key);
                // A laugh is taken up, tears are felt for.
                foreach (var (sound, i) in (line.Speech.Sounds ?? []).Select((s, i) => (s, i)))
                    if (SoundActing.FeelingOf(sound.Kind) is { } felt && sound.Duration > 0.5)
                        Feel(felt, felt == Mood.Joy ? 0.6f : 0.4f, line.Start + sound.Start + 0.35 + 0.3 * draw.Fork(i).Uniform(11), draw.Fork(i));
                if (phrases.Count == 0)
                    continue;
                if (usual is { } level)
                    foreach (var phrase in phrases)
                        if (Level(line, phrase) > level + ShoutDb)
                        {
                            var at = line.Start + phrase.Start + 0.1 + 0.1 * draw.Uniform(1);
                            _starts.Add(new Pulse(at, at + 0.13, at + 0.9, 1));
                            // Once a line: the second shout does not come out of the blue.
                            break;
                        }
                Answer(part, partner, line, phrases, draw);
            }
        }
        Feelings = _feelings;
        Starts = new PulseTrack(_starts);
        Nods = _nods;
        Away = [.. _away.Where(a => !part.Looks.Any(l => l.Start < a.End && a.Start < l.End))];
    }

    /// <summary>The moods that come over the listener, in seconds of the scene.</summary>
    public IReadOnlyList<MoodSpan> Feelings { get; }

    /// <summary>Starts: 1 where one is at its height.</summary>
    public PulseTrack Starts { get; }

    /// <summary>Nods of agreement.</summary>
    public IReadOnlyList<Pulse> Nods { get; }

    /// <summary>Looks that go away from who accuses.</summary>
    public IReadOnlyList<LookSpan> Away { get; }

    private void Answer(Part part, Partner partner, PlacedSpeech line, IReadOnlyList<Phrase> phrases, SeededRandom draw)
    {
        double end = line.Start + phrases[^1].End,
            middle = line.Start + (phrases[^1].Start + phrases[^1].End) / 2;
        string[] words = [.. line.Speech.Words.Select(w => w.Text)];
        var (felt, much) = Moods.Strongest(partner.Moods, middle);
        var said =
            much > Seen ? felt
            : words.Any(Laughs.Contains) ? Mood.Joy
            : null;
        var isForMe = IsForMe(part, line);
        var delay = 0.3 + 0.4 * draw.Uniform(2);
        if (words.Length > 0 && Tags.Contains(words[^1]) && draw.Uniform(3) < 0.8)
            _nods.Add(new Pulse(end + 0.1 + delay / 2, end + 0.32 + delay / 2, end + 0.7 + delay / 2, 0.9f));
        var accused = words.Any(Addressed.Contains) && (said is Mood.Anger or Mood.Disgust || words.Any(Charges.Contains));
        if (accused && isForMe)
        {
            if (draw.Uniform(4) < 0.5)
            {
                // Caught: the eyes go down and away from who asks, and come back.
                var x = partner.Direction > 0 ? -0.35f : 0.35f;
                var from = end + 0.5 * delay;
                if (Free(from) > 0.6)
                {
                    _away.Add(new LookSpan(from, from + Math.Min(Free(from), 0.8 + 0.6 * draw.Uniform(5)), LookTarget.At(x, 0.4f)));
                    Feel(draw.Uniform(6) < 0.5 ? Mood.Fear : Mood.Sadness, 0.35f, end + delay, draw);
                }
            }
            else
                Feel(Mood.Anger, 0.4f, end + delay, draw);
            return;
        }
        // Of several not everybody answers.
        if (part.Partners.Count > 1 && !isForMe && draw.Uniform(7) < 0.3)
            return;
        var (mood, size) = said switch
        {
            Mood.Joy or Mood.Mischief => (Mood.Joy, 0.5f),
            Mood.Affection => (Mood.Affection, 0.45f),
            Mood.Pride => draw.Uniform(8) < 0.7 ? (Mood.Joy, 0.3f) : (Mood.Doubt, 0.35f),
            Mood.Sadness => draw.Uniform(8) < 0.6 ? (Mood.Sadness, 0.4f) : (Mood.Affection, 0.45f),
            Mood.Anger => draw.Uniform(8) < 0.5 ? (Mood.Doubt, 0.4f) : (Mood.Fear, 0.3f),
            Mood.Fear => (Mood.Fear, 0.35f),
            Mood.Surprise => (Mood.Surprise, 0.35f),
            Mood.Disgust => (Mood.Disgust, 0.3f),
            Mood.Doubt => (Mood.Doubt, 0.35f),
            _ => (Mood.Neutral, 0),
        };
        if (size > 0)
            Feel(mood, size, end + delay, draw);
    }

    // From a moment until it is one's own turn, and no longer than a feeling lasts that nobody feeds.
    private void Feel(Mood mood, float intensity, double from, SeededRandom draw)
    {
        var seconds = Math.Min(1.5 + 1.5 * draw.Uniform(9), Free(from) - 0.2);
        if (seconds > 0.5)
            _feelings.Add(new MoodSpan(mood, from, from + seconds, intensity * (0.8f + 0.4f * (float)draw.Uniform(10)), 0.4));
    }

    // How long until one's own next turn; nothing while one speaks.
    private double Free(double t)
    {
        foreach (var turn in _floor.Turns)
            if (turn.Who < 0 && turn.End > t)
                return Math.Max(0, turn.Start - t);
        return double.MaxValue;
    }

    // Who speaks next is meant, else who spoke before.
    private bool IsForMe(Part part, PlacedSpeech line)
    {
        if (part.Partners.Count == 1)
            return true;
        var at = _floor.After(line.Start + line.Prosody.Phrases[0].Start);
        if (at < _floor.Turns.Count)
            return _floor.Turns[at].Who < 0;
        return at >= 2 && _floor.Turns[at - 2].Who < 0;
    }

    // The level of a phrase: the mean of its vowels' peaks, in dB.
    private static double Level(PlacedSpeech line, Phrase phrase)
    {
        double sum = 0;
        var n = 0;
        foreach (var phone in line.Speech.Phones)
            if (phone.Start >= phrase.Start && phone.End <= phrase.End && Arpabet.Vowels.Contains(phone.Phone))
                (sum, n) = (sum + line.Speech.PeakDb(phone), n + 1);
        return n == 0 ? double.NegativeInfinity : sum / n;
    }

    // The median over all phrases of a speaker; null for too few to know.
    private static double? Usual(IReadOnlyList<PlacedSpeech> lines)
    {
        double[] levels = [.. lines.SelectMany(l => l.Prosody.Phrases.Select(p => Level(l, p))).Where(double.IsFinite).Order()];
        return levels.Length < 3 ? null : levels[levels.Length / 2];
    }
}
