using System.Globalization;
using System.Text.RegularExpressions;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>How a word is said in a production.</summary>
/// <param name="Written">As somebody wrote it: ARPAbet, IPA, or letters to be read.</param>
/// <param name="Phones">The same as ARPAbet.</param>
public sealed record Lexeme(string Written, IReadOnlyList<string> Phones)
{
    /// <summary>Letters that any engine can read, or null.</summary>
    public string? Spelling => WrittenSounds.IsSpelling(Written) ? Written : null;
}

/// <summary>How a text is to be read: words that are said in their own way (by the word in lower case), and stretches that are stressed.</summary>
internal sealed record Reading(IReadOnlyDictionary<string, Lexeme> Lexicon, IReadOnlyList<(int Start, int End)> Stressed)
{
    public static Reading Plain { get; } = new(new Dictionary<string, Lexeme>(), []);

    /// <summary>Words of a text that are said in their own way.</summary>
    public IEnumerable<(int Start, int Length, Lexeme Lexeme)> In(string text) =>
        Lexicon.Count == 0
            ? []
            : ScriptText.Words(text).Select(w => (w.Offset, w.Text.Length, Lexicon.GetValueOrDefault(PlainOf(w.Text))!)).Where(w => w.Item3 != null);

    /// <summary>How a word is said: in its own way, else as usual.</summary>
    public Func<string, IReadOnlyList<string[]>> Over(Func<string, IReadOnlyList<string[]>> usual) =>
        Lexicon.Count == 0
            ? usual
            : w =>
                Lexicon.TryGetValue(PlainOf(w), out var own)
                    ?
                    [
                        [.. own.Phones],
                    ]
                    : usual(w);

    private static string PlainOf(string word) => Core.Score.PhoneMap.Plain(word);
}

/// <summary>
/// Plain signs in what is typed, for what SSML (W3C, "Speech Synthesis Markup Language 1.1") has break and emphasis for: "(pause)", "(beat)",
/// "(pause 2 s)", and *stars* around words. The seconds of the named ones are common practice.
/// </summary>
internal static partial class SpokenLine
{
    private const double Longest = 10;

    /// <summary>A stretch of what is spoken, and the silence after it, in seconds.</summary>
    public readonly record struct Part(string Text, IReadOnlyList<(int Start, int End)> Stressed, double Pause);

    /// <summary>A text in its parts; one where nothing is marked.</summary>
    public static List<Part> Parts(string text)
    {
        var directions = Directions.In(text);
        var spoken = Directions.Spoken(text);
        var parts = new List<Part>();
        var from = 0;
        foreach (var d in directions)
        {
            if (Seconds(d.Text) is not { } pause)
                continue;
            parts.Add(Of(from, d.Start, pause));
            from = d.Start + d.Length;
        }
        parts.Add(Of(from, text.Length, 0));
        return parts;

        Part Of(int start, int end, double pause) => new(spoken[start..end], [.. Stressed(text, directions, start, end)], pause);
    }

    private static double? Seconds(string direction)
    {
        var m = Pause().Match(direction);
        if (!m.Success)
            return null;
        if (double.TryParse(m.Groups[3].Value, CultureInfo.InvariantCulture, out var seconds))
            return Math.Clamp(seconds, 0, Longest);
        return (m.Groups[1].Value.ToLowerInvariant(), m.Groups[2].Value.ToLowerInvariant()) switch
        {
            ("long", _) => 1.4,
            ("short", _) => 0.35,
            (_, "beat") => 0.5,
            _ => 0.8,
        };
    }

    // Between stars that are no direction; where words stand in capitals.
    private static IEnumerable<(int Start, int End)> Stressed(string text, IReadOnlyList<Direction> directions, int start, int end)
    {
        foreach (Match m in Stars().Matches(text, start))
            if (m.Index + m.Length <= end && !directions.Any(d => d.Start < m.Index + m.Length && m.Index < d.Start + d.Length))
                yield return (m.Index + 1 - start, m.Index + m.Length - 1 - start);
        foreach (Match m in Capitals().Matches(text[start..end]))
            if (m.Value.Any("AEIOUY".Contains))
                yield return (m.Index, m.Index + m.Length);
    }

    /// <summary>Parts that were spoken one by one, as one.</summary>
    /// <param name="parts">All at one rate.</param>
    public static SpokenText Join(IReadOnlyList<(SpokenText Spoken, double Pause)> parts)
    {
        var rate = parts[0].Spoken.Audio.SampleRate;
        var samples = new List<float>();
        var phones = new List<PhoneSegment>();
        var words = new List<WordSegment>();
        foreach (var (spoken, pause) in parts)
        {
            var at = (double)samples.Count / rate;
            samples.AddRange(spoken.Audio.Samples);
            phones.AddRange(spoken.Speech.Phones.Select(p => p with { Start = p.Start + at, End = p.End + at }));
            words.AddRange(spoken.Speech.Words.Select(w => w with { Start = w.Start + at, End = w.End + at }));
            var silent = (double)samples.Count / rate;
            samples.AddRange(new float[(int)(pause * rate)]);
            if (samples.Count > silent * rate + 0.5)
                phones.Add(new PhoneSegment(Arpabet.Silence, silent, (double)samples.Count / rate));
        }
        var sound = new AudioBuffer([.. samples], rate);
        return new SpokenText(
            sound,
            parts[0].Spoken.Speech with
            {
                Duration = sound.Duration,
                Phones = SegmentLists.Tidy(phones, sound.Duration),
                Words = words,
                LevelsDb = LoudnessEnvelope.LevelsDb(sound),
                PitchHz = PitchTracker.Track(sound),
            }
        );
    }

    // By so much stressed words are louder where an engine cannot stress, in dB; and how long that takes to come, in seconds.
    private const double Louder = 4,
        Ramp = 0.03;

    /// <summary>Stressed words made louder, for engines that cannot stress.</summary>
    public static SpokenText Lift(SpokenText spoken, string text, IReadOnlyList<(int Start, int End)> stressed)
    {
        var written = ScriptText.Words(text);
        if (stressed.Count == 0 || written.Count != spoken.Speech.Words.Count)
            return spoken;
        var samples = spoken.Audio.Samples.ToArray();
        var rate = spoken.Audio.SampleRate;
        for (var i = 0; i < written.Count; i++)
        {
            var w = written[i];
            if (!stressed.Any(s => w.Offset < s.End && s.Start < w.Offset + w.Text.Length))
                continue;
            var (start, end) = (spoken.Speech.Words[i].Start, spoken.Speech.Words[i].End);
            for (var n = Math.Max(0, (int)((start - Ramp) * rate)); n < Math.Min(samples.Length, (int)((end + Ramp) * rate)); n++)
            {
                var t = (double)n / rate;
                var share = Math.Clamp(Math.Min(t - (start - Ramp), end + Ramp - t) / Ramp, 0, 1);
                samples[n] *= (float)Math.Pow(10, Louder * share / 20);
            }
        }
        var peak = samples.Length == 0 ? 0 : samples.Max(Math.Abs);
        for (var n = 0; peak > 1 && n < samples.Length; n++)
            samples[n] /= peak;
        var sound = new AudioBuffer(samples, rate);
        return new SpokenText(sound, spoken.Speech with { LevelsDb = LoudnessEnvelope.LevelsDb(sound) });
    }

    [GeneratedRegex(@"^(?:(?:a )?(long|short) )?(pause|beat|silence)(?: (?:of )?(\d{1,2}(?:\.\d{1,2})?) ?s(?:econds?)?)?$", RegexOptions.IgnoreCase)]
    private static partial Regex Pause();

    [GeneratedRegex(@"\*[^*\n]{1,200}\*")]
    private static partial Regex Stars();

    [GeneratedRegex(@"(?<![\p{L}\d])[A-Z]{3,}(?![\p{L}\d])")]
    private static partial Regex Capitals();
}
