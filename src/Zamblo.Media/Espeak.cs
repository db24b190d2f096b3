using System.Text;
using System.Text.Json;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>A voice of a synthesis engine.</summary>
/// <param name="Key">What a command or a take names it by: engine, colon, name.</param>
/// <param name="Language">BCP 47 tag.</param>
/// <param name="Name">What people read.</param>
/// <param name="Character">"male", "female" or nothing.</param>
public sealed record Voice(string Key, string Language, string Name, string Character)
{
    /// <summary>What its maker allows, in whoever's words brought it; null where nobody said.</summary>
    public string? Licence { get; init; }
}

/// <summary>Spoken text.</summary>
/// <param name="Audio">At the engine's own rate.</param>
/// <param name="Speech">The engine's own phone and word times.</param>
public sealed record SpokenText(AudioBuffer Audio, SpeechAnalysis Speech);

/// <summary>The synthesis engine espeak-ng, run in a process of its own.</summary>
public static class Espeak
{
    /// <summary>Longest text that is spoken at once, in characters.</summary>
    public const int MaximalText = 60_000;

    /// <summary>All voices, the English ones first.</summary>
    public static async Task<IReadOnlyList<Voice>> VoicesAsync(CancellationToken cancel = default)
    {
        var result = await SpeechEngine.RunAsync(["voices"], null, TimeSpan.FromSeconds(20), cancel);
        return
        [
            .. Encoding
                .UTF8.GetString(result.Output)
                .Split('\n', StringSplitOptions.RemoveEmptyEntries)
                .Select(l => l.Split('\t'))
                .Where(p => p.Length >= 4 && !p[3].StartsWith("mb/", StringComparison.Ordinal))
                .Select(p => new Voice("espeak:" + p[0], p[0], p[1], p[2]))
                .DistinctBy(v => v.Key)
                .OrderBy(v => !v.Language.StartsWith("en", StringComparison.Ordinal))
                .ThenBy(v => v.Language, StringComparer.Ordinal),
        ];
    }

    /// <summary>Speaks a text.</summary>
    /// <param name="voice">A voice key ("espeak:en-gb"), with an optional variant ("espeak:en-gb+f3").</param>
    /// <param name="text">Anything; what the voice cannot speak is left out by the engine.</param>
    /// <param name="delivery">How.</param>
    /// <param name="cancel">Stops the engine.</param>
    /// <exception cref="MediaException">No such voice, nothing to speak, text too long, or the engine failed.</exception>
    public static Task<SpokenText> SpeakAsync(string voice, string text, Delivery delivery, CancellationToken cancel = default) =>
        SpeakAsync(voice, text, delivery, Reading.Plain, cancel);

    internal static async Task<SpokenText> SpeakAsync(string voice, string text, Delivery delivery, Reading reading, CancellationToken cancel)
    {
        Synthesis.CheckText(text);
        text = text.Replace('\0', ' ');
        await Synthesis.CheckAsync(voice, cancel);
        var (source, map) = Ssml.Write(text, reading, Synthesis.LanguageOf(voice));
        var name = voice.StartsWith("espeak:", StringComparison.Ordinal) ? voice[7..] : voice;
        if (delivery.IsWhispered)
            name = name.Split('+')[0] + "+whisper";
        delivery = delivery.Clamped();
        var folder = Scratch.NewFolder();
        var path = Path.Combine(folder, "spoken.wav");
        try
        {
            var result = await SpeechEngine.RunAsync(
                [
                    "speak",
                    name,
                    path,
                    "--rate",
                    $"{Math.Round(165 * delivery.Speed)}",
                    "--pitch",
                    $"{Math.Round(99 * delivery.Pitch)}",
                    "--range",
                    $"{Math.Round(99 * delivery.Range)}",
                    "--volume",
                    $"{Math.Round(100 * delivery.Volume)}",
                    "--gap",
                    $"{Math.Round(100 * delivery.Pauses)}",
                    .. source == null ? (string[])[] : ["--ssml"],
                ],
                Encoding.UTF8.GetBytes(source ?? text),
                TimeSpan.FromMinutes(5),
                cancel,
                writes: folder
            );
            AudioBuffer audio;
            using (var file = File.OpenRead(path))
                audio = WavFile.ReadMono(file);
            using var json = JsonDocument.Parse(result.Output);
            var speech = ReadMarks(json.RootElement, text, map, audio);
            if (speech.Phones.All(p => p.Phone == Arpabet.Silence))
                throw new MediaException(
                    $"The voice \"{name}\" has nothing to say here: it cannot speak these characters. Write words, or choose a voice of the text's language."
                );
            return new SpokenText(audio, speech);
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    }

    /// <summary>How the engine would say words, in the nearest ARPAbet phones; one entry per word, empty where it says nothing.</summary>
    /// <param name="voice">A language or voice name of the engine, such as "de".</param>
    /// <param name="words">Any text without line ends.</param>
    /// <param name="cancel">Stops the engine.</param>
    /// <exception cref="MediaException">No such voice, or the engine failed.</exception>
    public static async Task<IReadOnlyList<string[]>> PhonesAsync(string voice, IReadOnlyList<string> words, CancellationToken cancel = default) =>
        [.. (await IpaAsync(voice, words, cancel)).Select(Ipa.ToArpabet)];

    /// <summary>How the engine would say stretches of text, in IPA: "_" between sounds, spaces between words, stress marked.</summary>
    /// <exception cref="MediaException">No such voice, or the engine failed.</exception>
    internal static async Task<IReadOnlyList<string>> IpaAsync(string voice, IReadOnlyList<string> texts, CancellationToken cancel = default)
    {
        // A language, never a path.
        if (voice.Length is 0 or > 40 || !voice.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_' or '+'))
            throw new MediaException($"There is no language \"{(voice.Length > 40 ? voice[..40] : voice)}\" here.");
        var result = await SpeechEngine.RunAsync(
            ["phones", voice],
            Encoding.UTF8.GetBytes(string.Join('\n', texts.Select(w => w.ReplaceLineEndings(" "))) + "\n"),
            TimeSpan.FromSeconds(30 + texts.Count / 100),
            cancel
        );
        var lines = Encoding.UTF8.GetString(result.Output).Split('\n');
        return [.. texts.Select((_, i) => i < lines.Length ? lines[i] : "")];
    }

    private static SpeechAnalysis ReadMarks(JsonElement root, string text, int[]? map, AudioBuffer audio)
    {
        var phones = new List<PhoneSegment>();
        var events = new List<(int At, int Length, double Time)>();
        var marks = root.GetProperty("marks").EnumerateArray().ToArray();
        var times = marks.Where(m => m.GetProperty("kind").GetString() == "phone").ToArray();
        double At(JsonElement m) => m.GetProperty("time").GetDouble();
        for (var i = 0; i < times.Length; i++)
        {
            double start = At(times[i]),
                end = i + 1 < times.Length ? At(times[i + 1]) : audio.Duration;
            if (end <= start)
                continue;
            var names = Ipa.ToArpabet(times[i].GetProperty("phone").GetString() ?? "");
            if (names.Length == 0)
                phones.Add(new PhoneSegment(Arpabet.Silence, start, end));
            else
                for (var k = 0; k < names.Length; k++)
                    phones.Add(new PhoneSegment(names[k], start + (end - start) * k / names.Length, start + (end - start) * (k + 1) / names.Length));
        }
        if (phones.Count > 0 && phones[0].Start > 0)
            phones.Insert(0, new PhoneSegment(Arpabet.Silence, 0, phones[0].Start));
        foreach (var m in marks.Where(m => m.GetProperty("kind").GetString() == "word"))
        {
            int at = m.GetProperty("position").GetInt32(),
                length = m.GetProperty("length").GetInt32();
            if (map != null)
            {
                // From the marked-up text back to what was written.
                if (at < 0 || at >= map.Length)
                    continue;
                length = map[Math.Min(map.Length - 1, at + length - 1)] - map[at] + 1;
                at = map[at];
            }
            events.Add((at, length, At(m)));
        }
        var words = WordsAsWritten(events, text);
        var tidy = SegmentLists.Tidy(phones, audio.Duration);
        var segments = new List<WordSegment>();
        for (var i = 0; i < words.Count; i++)
        {
            var limit = i + 1 < words.Count ? words[i + 1].Start : audio.Duration;
            var own = tidy.Where(p => p.Phone != Arpabet.Silence && p.Start >= words[i].Start - 0.005 && p.Start < limit - 0.005).ToArray();
            if (own.Length > 0)
                segments.AddRange(Shared(words[i].Texts, own));
        }
        return new SpeechAnalysis(audio.Duration, tidy, segments, LoudnessEnvelope.LevelsDb(audio), SpeechSource.Engine)
        {
            PitchHz = PitchTracker.Track(audio),
        };
    }

    // Words that the engine says in one breath ("do not", "of the") and tells once: phones by the letters that are heard, a vowel to each.
    private static IEnumerable<WordSegment> Shared(IReadOnlyList<string> texts, PhoneSegment[] phones)
    {
        if (phones.Count(p => Arpabet.Vowels.Contains(p.Phone)) < texts.Count)
            return [new WordSegment(string.Join(' ', texts), phones[0].Start, phones[^1].End)];
        // A letter twice is heard once, an e at the end is not.
        int Heard(string word) => Math.Max(1, word.Where((c, i) => i == 0 || c != word[i - 1]).Count() - (word.Length > 3 && word[^1] == 'e' ? 1 : 0));
        var words = new List<WordSegment>();
        var first = 0;
        for (var i = 0; i < texts.Count; i++)
        {
            var left = texts.Count - i - 1;
            var count = left == 0 ? phones.Length - first : (int)Math.Round((phones.Length - first) * Heard(texts[i]) / (double)texts.Skip(i).Sum(Heard));
            bool HasVowel(int from, int to) => phones[from..to].Any(p => Arpabet.Vowels.Contains(p.Phone));
            count = Math.Clamp(count, 1, phones.Length - first - left);
            while (!HasVowel(first, first + count) && first + count < phones.Length - left)
                count++;
            while (left > 0 && count > 1 && phones[(first + count)..].Count(p => Arpabet.Vowels.Contains(p.Phone)) < left)
                count--;
            words.Add(new WordSegment(texts[i], phones[first].Start, phones[first + count - 1].End));
            first += count;
        }
        return words;
    }

    /// <summary>
    /// The engine's word events as the words that are written: it tells "don’t", "5:30" and "McKay" in parts, and a part of a word is none. Where a
    /// script is written without spaces the engine's own parts stay.
    /// </summary>
    /// <param name="events">Position and length in code points of the text, and seconds.</param>
    /// <param name="text">What was spoken.</param>
    /// <returns>Words that share one event, and when they begin.</returns>
    private static List<(List<string> Texts, double Start)> WordsAsWritten(IEnumerable<(int At, int Length, double Time)> events, string text)
    {
        var offsets = new List<int>();
        for (var i = 0; i < text.Length; i += char.IsSurrogatePair(text, i) ? 2 : 1)
            offsets.Add(i);
        offsets.Add(text.Length);
        var written = ScriptText.Words(text).Where(w => !w.Text.Any(ScriptText.HasNoSpaces)).ToArray();
        var words = new List<(List<string> Texts, double Start)>();
        var last = -1; // the written word that the last entry is
        foreach (var (at, length, time) in events)
        {
            if (at < 0 || at >= offsets.Count - 1)
                continue;
            var start = offsets[at];
            var index = Array.FindLastIndex(written, w => w.Offset <= start && start < w.Offset + w.Text.Length);
            if (index >= 0 && index == last)
                continue;
            WithWhatFollows(index);
            last = index;
            var own = index >= 0 ? written[index].Text : text[start..offsets[Math.Clamp(at + length, at, offsets.Count - 1)]].Trim();
            if (own.Length > 0)
                words.Add(([own], time));
        }
        WithWhatFollows(written.Length);
        return words;

        // What follows may have no event of its own: "ill-disposed" and "do not" are told once. Over a hyphen it is one word.
        void WithWhatFollows(int next)
        {
            if (last < 0 || next < 0)
                return;
            var first = last;
            for (var end = last + 1; end < next; end++)
            {
                if (text[written[end].Offset - 1] == '-')
                    words[^1].Texts[^1] = text[written[first].Offset..(written[end].Offset + written[end].Text.Length)];
                else
                    words[^1].Texts.Add(written[first = end].Text);
            }
        }
    }
}
