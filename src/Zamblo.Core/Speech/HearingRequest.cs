using System.Text.Json.Serialization;
using Zamblo.Core.Audio;

namespace Zamblo.Core.Speech;

/// <summary>A stretch of a take that somebody marked by hand; it wins over voice detection.</summary>
/// <param name="Start">In seconds of the take.</param>
/// <param name="End">In seconds of the take.</param>
/// <param name="IsVoice">Voice, or not voice: breath, noise, instruments.</param>
/// <param name="Sound">What of a voice that is no speech is heard there; null for nothing of the kind.</param>
public readonly record struct VoiceMark(
    double Start,
    double End,
    bool IsVoice,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] VocalSoundKind? Sound = null
);

/// <summary>A boundary that somebody set by hand.</summary>
/// <param name="Word">Text of the word.</param>
/// <param name="Near">Where the boundary was before, in seconds: tells the same word here and there apart.</param>
/// <param name="Phone">The boundary before this phone of the word, from 0; the number of phones for the word's end.</param>
/// <param name="Time">Where it belongs, in seconds.</param>
public readonly record struct BoundaryPin(string Word, double Near, int Phone, double Time);

/// <summary>What is known about a take before it is listened to.</summary>
public sealed record HearingRequest
{
    /// <summary>What is said; nothing for a take without a script.</summary>
    public IReadOnlyList<ScriptWord> Words { get; init; } = [];

    /// <summary>Pronunciations of a spoken word in the model's phones; a word without any is left out.</summary>
    public required Func<string, IReadOnlyList<string[]>> Pronounce { get; init; }

    /// <summary>How a text that was recognised is read as words.</summary>
    public Func<string, IReadOnlyList<ScriptWord>> Read { get; init; } = ScriptText.Words;

    /// <summary>Whether the words are of the model's own language; those of others are in its nearest phones.</summary>
    public bool IsNative { get; init; } = true;

    /// <summary>Whether it may turn out to be in another language than the model's: nobody said which one it is in.</summary>
    public bool MayBeForeign { get; init; }

    /// <summary>Names that may be said, as they are written; they tell the recogniser of draft words what to listen for.</summary>
    public IReadOnlyList<string> Names { get; init; } = [];

    /// <summary>Where there is a voice and where not, as far as somebody said so.</summary>
    public IReadOnlyList<VoiceMark> Marks { get; init; } = [];

    /// <summary>Boundaries that hold.</summary>
    public IReadOnlyList<BoundaryPin> Pins { get; init; } = [];
}

/// <summary>Marks made by hand, applied.</summary>
public static class VoiceMarks
{
    /// <summary>The sound with what is not voice taken out.</summary>
    public static AudioBuffer Mute(AudioBuffer audio, IReadOnlyList<VoiceMark> marks)
    {
        if (!marks.Any(m => !m.IsVoice))
            return audio;
        var samples = (float[])audio.Samples.Clone();
        foreach (var m in marks)
        {
            if (m.IsVoice)
                continue;
            int from = Math.Clamp((int)(m.Start * audio.SampleRate), 0, samples.Length),
                to = Math.Clamp((int)(m.End * audio.SampleRate), from, samples.Length);
            samples.AsSpan(from, to - from).Clear();
        }
        return new AudioBuffer(samples, audio.SampleRate);
    }

    /// <summary>Voiced regions with the marked ones added; ordered, without overlaps.</summary>
    public static IReadOnlyList<(double Start, double End)> Join(IReadOnlyList<(double Start, double End)> voiced, IReadOnlyList<VoiceMark> marks)
    {
        var result = new List<(double Start, double End)>();
        foreach (var (start, end) in voiced.Concat(marks.Where(m => m.IsVoice).Select(m => (m.Start, m.End))).OrderBy(v => v.Item1))
            if (result.Count > 0 && start <= result[^1].End)
                result[^1] = (result[^1].Start, Math.Max(result[^1].End, end));
            else
                result.Add((start, end));
        return result;
    }

    /// <summary>Sounds as they are with what somebody said by hand.</summary>
    /// <param name="sounds">As they were found; null for none.</param>
    /// <param name="marks">By hand.</param>
    /// <returns>Null for none.</returns>
    public static IReadOnlyList<VocalSound>? Sounds(IReadOnlyList<VocalSound>? sounds, IReadOnlyList<VoiceMark> marks)
    {
        VocalSound[] own = [.. marks.Where(m => m is { IsVoice: false, Sound: not null }).Select(m => new VocalSound(m.Sound!.Value, m.Start, m.End))];
        IReadOnlyList<VocalSound> found = [.. VocalSounds.Without(sounds ?? [], marks.Select(m => (m.Start, m.End))).Concat(own).OrderBy(s => s.Start)];
        return found.Count == 0 ? null : found;
    }

    /// <summary>An analysis with silence where somebody said that there is no voice: at once, without listening again.</summary>
    public static SpeechAnalysis Silence(SpeechAnalysis speech, IReadOnlyList<VoiceMark> marks)
    {
        if (marks.Count > 0)
            speech = speech with { Sounds = Sounds(speech.Sounds, marks) };
        var quiet = marks.Where(m => !m.IsVoice).ToArray();
        if (quiet.Length == 0)
            return speech;
        var phones = new List<PhoneSegment>();
        foreach (var p in speech.Phones)
        {
            var at = p.Start;
            foreach (var m in quiet.OrderBy(m => m.Start))
            {
                if (m.End <= at || m.Start >= p.End)
                    continue;
                if (m.Start > at)
                    phones.Add(p with { Start = at, End = m.Start });
                var end = Math.Min(p.End, m.End);
                phones.Add(new PhoneSegment(Arpabet.Silence, Math.Max(at, m.Start), end));
                at = end;
            }
            if (at < p.End)
                phones.Add(p with { Start = at });
        }
        return speech with
        {
            Phones = SegmentLists.Tidy(phones, speech.Duration),
            Words = [.. speech.Words.Where(w => !quiet.Any(m => m.Start <= w.Start + 1e-6 && m.End >= w.End - 1e-6))],
        };
    }
}

/// <summary>Boundaries set by hand, applied to an analysis.</summary>
public static class BoundaryPins
{
    // No phone is pressed under this by a boundary that was dragged, in seconds.
    private const double Least = 0.01;

    // A pin whose word has gone further away than this has lost it, in seconds.
    private const double Lost = 1.5;

    /// <summary>
    /// Moves each boundary to its pin; the phones on both sides share what room there is in proportion. Pins without their word are passed over.
    /// </summary>
    public static SpeechAnalysis Apply(SpeechAnalysis speech, IReadOnlyList<BoundaryPin> pins)
    {
        foreach (var pin in pins)
            if (WordOf(speech, pin) is { } word)
                speech = Apply(speech, word, pin);
        return speech;
    }

    /// <summary>The word of a pin, or null when it is not there any more.</summary>
    public static int? WordOf(SpeechAnalysis speech, BoundaryPin pin)
    {
        int? best = null;
        var least = Lost;
        for (var i = 0; i < speech.Words.Count; i++)
        {
            var w = speech.Words[i];
            if (!string.Equals(w.Text, pin.Word, StringComparison.OrdinalIgnoreCase))
                continue;
            var distance = Math.Min(Distance(w, pin.Near), Distance(w, pin.Time));
            if (distance < least)
                (least, best) = (distance, i);
        }
        return best;
    }

    private static double Distance(WordSegment w, double t) =>
        t < w.Start ? w.Start - t
        : t > w.End ? t - w.End
        : 0;

    private static SpeechAnalysis Apply(SpeechAnalysis speech, int wordIndex, BoundaryPin pin)
    {
        var phones = speech.Phones.ToList();
        var word = speech.Words[wordIndex];
        var first = phones.FindIndex(p => (p.Start + p.End) / 2 > word.Start && !Arpabet.IsSilent(p.Phone));
        if (first < 0)
            return speech;
        var count = 0;
        while (
            first + count < phones.Count
            && (phones[first + count].Start + phones[first + count].End) / 2 < word.End
            && !Arpabet.IsSilent(phones[first + count].Phone)
        )
            count++;
        if (count == 0)
            return speech;
        var at = first + Math.Clamp(pin.Phone, 0, count);
        // A silence gives way altogether before a phone does.
        if (at > 1 && Arpabet.IsSilent(phones[at - 1].Phone) && pin.Time < phones[at - 1].Start + Least)
        {
            phones[at - 2] = phones[at - 2] with { End = phones[at - 1].End };
            speech = speech with
            {
                Words = [.. speech.Words.Select(w => Math.Abs(w.End - phones[at - 1].Start) < 1e-6 ? w with { End = phones[at - 1].End } : w)],
            };
            phones.RemoveAt(--at);
        }
        else if (at < phones.Count - 1 && Arpabet.IsSilent(phones[at].Phone) && pin.Time > phones[at].End - Least)
        {
            phones[at + 1] = phones[at + 1] with { Start = phones[at].Start };
            speech = speech with { Words = [.. speech.Words.Select(w => Math.Abs(w.Start - phones[at].End) < 1e-6 ? w with { Start = phones[at].Start } : w)] };
            phones.RemoveAt(at);
        }
        if (at == 0 || at == phones.Count)
            return speech;
        int Owner(int i)
        {
            var middle = (phones[i].Start + phones[i].End) / 2;
            for (var w = 0; w < speech.Words.Count; w++)
                if (middle >= speech.Words[w].Start && middle < speech.Words[w].End)
                    return w;
            return -1 - i;
        }
        int left = at - 1,
            right = at;
        while (left > 0 && !Arpabet.IsSilent(phones[left].Phone) && !Arpabet.IsSilent(phones[left - 1].Phone) && Owner(left - 1) == Owner(at - 1))
            left--;
        while (
            right + 1 < phones.Count && !Arpabet.IsSilent(phones[right].Phone) && !Arpabet.IsSilent(phones[right + 1].Phone) && Owner(right + 1) == Owner(at)
        )
            right++;
        double start = phones[left].Start,
            end = phones[right].End,
            old = phones[at].Start;
        var time = Math.Clamp(pin.Time, start + Least * (at - left), end - Least * (right - at + 1));
        if (end - start < Least * (right - left + 1))
            return speech;
        double Shift(double t) => t <= old ? start + (t - start) * (time - start) / (old - start) : time + (t - old) * (end - time) / (end - old);
        for (var i = left; i <= right; i++)
            phones[i] = phones[i] with
            {
                Start = i == left ? start : Shift(phones[i].Start),
                End =
                    i == right ? end
                    : i == at - 1 ? time
                    : Shift(phones[i].End),
            };
        phones[at] = phones[at] with { Start = time };
        // What somebody placed is sure.
        var words = speech
            .Words.Select(w =>
                w with
                {
                    Start =
                        w.Start >= start && w.Start <= end
                            ? Math.Abs(w.Start - old) < 1e-6
                                ? time
                                : Shift(w.Start)
                            : w.Start,
                    End =
                        w.End >= start && w.End <= end
                            ? Math.Abs(w.End - old) < 1e-6
                                ? time
                                : Shift(w.End)
                            : w.End,
                }
            )
            .ToArray();
        return speech with { Phones = phones, Words = words };
    }
}

/// <summary>Which stretches of a take must be heard again when words were changed or boundaries set.</summary>
internal static class Neighbourhoods
{
    /// <summary>Sound on each side of a stretch that is looked at for its level and colour, in seconds.</summary>
    public const double Margin = 2;

    // Words on each side of a change that are aligned again with it.
    private const int Around = 2;

    /// <summary>A piece of a stretch with its words.</summary>
    internal readonly record struct Part(double End, int FirstWord, int WordCount);

    internal sealed record Window(double Start, double End, IReadOnlyList<Part> Parts);

    public static List<Window> Find(SpeechAnalysis known, IReadOnlyList<ScriptWord> words, IReadOnlyList<BoundaryPin> pins)
    {
        // Partners of the words that stayed: the longest common subsequence.
        int n = known.Words.Count,
            m = words.Count;
        var partner = WordMatch.Partners([.. known.Words.Select(w => w.Text)], [.. words.Select(w => w.Text)]);
        var oldOf = new int[m];
        Array.Fill(oldOf, -1);
        for (var i = 0; i < n; i++)
            if (partner[i] >= 0)
                oldOf[partner[i]] = i;
        // Ranges of new words that need hearing, [from, to).
        var touched = new bool[m + 1];
        for (var j = 0; j < m; j++)
            touched[j] = oldOf[j] < 0;
        var last = -1;
        for (var j = 0; j <= m; j++)
        {
            var old = j < m ? oldOf[j] : n;
            if (j < m && old < 0)
                continue;
            // Words that were dropped between two that stayed.
            if (old - last > 1)
                touched[Math.Min(j, m)] = true;
            last = old;
        }
        var cuts = new List<(int Word, double Time)>();
        foreach (var pin in pins)
        {
            if (BoundaryPins.WordOf(known, pin) is not { } old || partner[old] < 0)
                continue;
            var j = partner[old];
            var inWord = known.Phones.Count(p =>
                !Arpabet.IsSilent(p.Phone) && (p.Start + p.End) / 2 > known.Words[old].Start && (p.Start + p.End) / 2 < known.Words[old].End
            );
            touched[j] = true;
            if (pin.Phone <= 0)
                cuts.Add((j, pin.Time));
            else if (pin.Phone >= inWord)
                cuts.Add((j + 1, pin.Time));
        }
        var windows = new List<Window>();
        for (var j = 0; j <= m; j++)
        {
            if (!touched[j])
                continue;
            var to = j;
            for (var k = j; k <= Math.Min(m, to + 2 * Around); k++)
                if (touched[k])
                    to = k;
            // Outwards to words that stayed.
            int a = Math.Max(0, j - Around),
                b = Math.Min(m, to + 1 + Around);
            while (a > 0 && oldOf[a] < 0)
                a--;
            while (b < m && oldOf[b - 1] < 0)
                b++;
            double start = a == 0 || oldOf[a] < 0 ? 0 : known.Words[oldOf[a]].Start,
                end = b >= m || oldOf[b - 1] < 0 ? known.Duration : known.Words[oldOf[b - 1]].End;
            var parts = new List<Part>();
            var first = a;
            foreach (var (word, time) in cuts.Where(c => c.Word > a && c.Word < b && c.Time > start && c.Time < end).OrderBy(c => c.Word))
            {
                if (word <= first || (parts.Count > 0 && time <= parts[^1].End))
                    continue;
                parts.Add(new Part(time, first, word - first));
                first = word;
            }
            parts.Add(new Part(end, first, b - first));
            if (end > start && (windows.Count == 0 || start >= windows[^1].End))
                windows.Add(new Window(start, end, parts));
            j = b;
        }
        return windows;
    }
}
