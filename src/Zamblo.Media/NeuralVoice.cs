using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;

namespace Zamblo.Media;

/// <summary>
/// What lies beside a neural voice and says how it is spoken with: its phonemes as numbers, its rate, speakers and scales. The form, from memory, is
/// the one that open VITS voices are commonly handed on in: NAME.onnx with NAME.onnx.json.
/// </summary>
/// <param name="SampleRate">In Hz.</param>
/// <param name="Language">The voice of espeak-ng that its phonemes are written by, which is the tag of its language.</param>
/// <param name="IsText">Its symbols are letters in place of phonemes.</param>
/// <param name="Numbers">Of each symbol.</param>
/// <param name="Speakers">Names and numbers; none for a voice of one.</param>
/// <param name="NoiseScale">How far the voice strays from its mean.</param>
/// <param name="LengthScale">1 is as it was learned, 2 half as fast.</param>
/// <param name="NoiseOfLengths">The same for how long phonemes are.</param>
public sealed partial record NeuralVoice(
    int SampleRate,
    string Language,
    bool IsText,
    IReadOnlyDictionary<string, long[]> Numbers,
    IReadOnlyList<(string Name, long Number)> Speakers,
    float NoiseScale,
    float LengthScale,
    float NoiseOfLengths
)
{
    // Signs that every voice has: what lies between phonemes, the beginning, the end.
    private const string Pad = "_",
        Begin = "^",
        End = "$";

    private const int MostSpeakers = 2000,
        MostSymbols = 4000;

    /// <summary>Reads a description.</summary>
    /// <exception cref="MediaException">It is none; what is wrong with it.</exception>
    public static NeuralVoice Read(string json)
    {
        try
        {
            using var document = JsonDocument.Parse(json, new JsonDocumentOptions { MaxDepth = 16, CommentHandling = JsonCommentHandling.Skip });
            return Read(document.RootElement);
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException or FormatException or KeyNotFoundException)
        {
            throw new MediaException("The voice's description (.onnx.json) cannot be read: it is not in the form that voices have.", e);
        }
    }

    private static NeuralVoice Read(JsonElement root)
    {
        static JsonElement? At(JsonElement from, params string[] names)
        {
            foreach (var name in names)
                if (from.ValueKind != JsonValueKind.Object || !from.TryGetProperty(name, out from))
                    return null;
            return from;
        }
        float Scale(string name, float other) =>
            At(root, "inference", name) is { } e && e.GetSingle() is var s && float.IsFinite(s) && s is >= 0 and <= 10 ? s : other;
        var rate = At(root, "audio", "sample_rate")?.GetInt32() ?? throw new MediaException("The voice's description does not say its sample rate.");
        if (rate is < 8000 or > 48000)
            throw new MediaException($"The voice's description says a sample rate of {rate} Hz: 8,000 to 48,000 is what can be played.");
        var numbers = new Dictionary<string, long[]>();
        foreach (var symbol in (At(root, "phoneme_id_map") ?? throw new MediaException("The voice's description has no table of phonemes.")).EnumerateObject())
            if (numbers.Count < MostSymbols)
                numbers[symbol.Name] =
                    symbol.Value.ValueKind == JsonValueKind.Array ? [.. symbol.Value.EnumerateArray().Select(n => n.GetInt64())] : [symbol.Value.GetInt64()];
        foreach (var sign in (string[])[Pad, Begin, End])
            if (!numbers.ContainsKey(sign))
                throw new MediaException($"The voice's table of phonemes has no \"{sign}\".");
        var speakers = (
            At(root, "speaker_id_map") is { ValueKind: JsonValueKind.Object } map ? map.EnumerateObject().Select(s => (s.Name, s.Value.GetInt64())) : []
        )
            .Take(MostSpeakers)
            .ToList();
        // Some have numbers for speakers and no names.
        if (speakers.Count == 0 && At(root, "num_speakers")?.GetInt32() is > 1 and <= MostSpeakers and var count)
            speakers = [.. Enumerable.Range(0, count).Select(n => ($"{n + 1}", (long)n))];
        return new NeuralVoice(
            rate,
            LanguageOf(root, At),
            At(root, "phoneme_type")?.GetString() == "text",
            numbers,
            speakers.Count > 1 || At(root, "num_speakers")?.GetInt32() > 1 ? speakers : [],
            Scale("noise_scale", 0.667f),
            Scale("length_scale", 1) is > 0.1f and var length ? length : 1,
            Scale("noise_w", 0.8f)
        );
    }

    private static string LanguageOf(JsonElement root, Func<JsonElement, string[], JsonElement?> at)
    {
        var tag = (at(root, ["espeak", "voice"]) ?? at(root, ["language", "code"]))?.GetString()?.Replace('_', '-').ToLowerInvariant();
        return tag is { Length: > 1 and <= 24 } && tag.All(c => char.IsAsciiLetterOrDigit(c) || c == '-')
            ? tag
            : throw new MediaException("The voice's description does not say its language.");
    }

    /// <summary>A stretch of a text up to a mark.</summary>
    /// <param name="Text">Without the mark.</param>
    /// <param name="Mark">One of , ; : . ! ? or nothing.</param>
    internal readonly record struct Clause(string Text, string Mark)
    {
        public bool EndsSentence => Mark is "." or "!" or "?";
    }

    /// <summary>A text in clauses.</summary>
    internal static List<Clause> Clauses(string text)
    {
        var clauses = new List<Clause>();
        foreach (
            Match m in Part()
                .Matches(
                    Blanks()
                        .Replace(
                            text,
                            b =>
                                b.Value.Count(c => c == '\n') switch
                                {
                                    0 => " ",
                                    1 => "\n",
                                    _ => "\n\n",
                                }
                        )
                )
        )
        {
            var said = m.Groups[1].Value.ReplaceLineEndings(" ").Trim();
            var mark = m.Groups[2].Value is { Length: > 0 } marks ? marks[^1] : ' ';
            var sign = mark switch
            {
                '…' or '。' => ".",
                '？' => "?",
                '！' => "!",
                '，' or '、' or '–' or '—' => ",",
                ' ' => m.Groups[3].Value.Contains('\n', StringComparison.Ordinal) ? "." : "",
                _ => $"{mark}",
            };
            if (said.Any(char.IsLetterOrDigit))
                clauses.Add(new Clause(said, sign));
        }
        return clauses;
    }

    /// <summary>The numbers that a voice is given for phonemes, or letters, of clauses.</summary>
    /// <param name="clauses">In their order, each with what it sounds like: IPA as espeak-ng writes it, "_" between sounds or not.</param>
    /// <returns>Empty when the voice has none of them.</returns>
    internal long[] Encode(IReadOnlyList<(string Sounds, string Mark)> clauses)
    {
        var ids = new List<long>([.. Numbers[Begin], .. Numbers[Pad]]);
        var count = 0;
        void Put(string symbol)
        {
            if (symbol == Pad || !Numbers.TryGetValue(symbol, out var own))
                return;
            ids.AddRange(own);
            ids.AddRange(Numbers[Pad]);
            count++;
        }
        for (var i = 0; i < clauses.Count; i++)
        {
            // Where the engine changes over to another language it says so in brackets: "(en)".
            var sounds = OtherLanguage().Replace(clauses[i].Sounds, "").Normalize(NormalizationForm.FormD);
            foreach (var rune in sounds.EnumerateRunes())
                Put(rune.ToString());
            if (count > 0)
                Put(clauses[i].Mark);
            if (i + 1 < clauses.Count)
                Put(" ");
        }
        ids.AddRange(Numbers[End]);
        return count == 0 ? [] : [.. ids];
    }

    /// <summary>Noise, length and noise of lengths for a delivery: speed makes shorter, liveliness lets stray further.</summary>
    internal float[] Scales(Delivery delivery) =>
        [(float)(NoiseScale * 2 * delivery.Range), (float)(LengthScale / delivery.Speed), (float)(NoiseOfLengths * 2 * delivery.Range)];

    /// <summary>Name of a speaker as a part of a key: what is neither a letter nor a digit becomes "-".</summary>
    public static string Slug(string name)
    {
        var slug = new string([.. name.Select(c => char.IsAsciiLetterOrDigit(c) || c == '_' ? c : '-')]).Trim('-');
        return slug.Length > 30 ? slug[..30] : slug;
    }

    /// <summary>A file's or speaker's name as people read it: "night_owl" is "Night owl".</summary>
    internal static string Title(string name)
    {
        var words = name.Replace('_', ' ').Replace('-', ' ').Trim();
        return words.Length == 0 ? name : char.ToUpper(words[0], CultureInfo.InvariantCulture) + words[1..];
    }

    // A stretch, its marks, and what ends it; a dot within a number or after a title ends nothing.
    [GeneratedRegex(
        @"((?:[^.,;:!?…。！？，、–—\n]|(?<=\b(?:Mr|Mrs|Ms|Dr|St|Prof|Sr|Jr|vs))\.|[.,;:](?=[\p{L}\p{N}])"
            + @"|(?<=\p{L})[–—](?=\p{L})|\n(?!\s*\n))+)([.,;:!?…。！？，、–—]*)([""'”’)\]\s]*)"
    )]
    private static partial Regex Part();

    // Runs of them are made short first, so that looking ahead over them takes no time.
    [GeneratedRegex(@"\s+")]
    private static partial Regex Blanks();

    [GeneratedRegex(@"\([a-z-]{2,12}\)")]
    private static partial Regex OtherLanguage();
}
