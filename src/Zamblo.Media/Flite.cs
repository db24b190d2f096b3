using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>The synthesis engine flite (Debian package), out of process: recorded voices in English.</summary>
public static partial class Flite
{
    /// <summary>What the keys of its voices start with.</summary>
    public const string Prefix = "flite:";

    // A piece at a time: the engine takes a whole text as one utterance and slows down with its length.
    private const int Piece = 400;

    private static readonly Voice[] Known =
    [
        new("flite:slt", "en-us", "American woman, recorded", "female"),
        new("flite:rms", "en-us", "American man, recorded", "male"),
        new("flite:awb", "en-gb-scotland", "Scottish man, recorded", "male"),
        new("flite:kal16", "en-us", "American man, plain", "male"),
    ];

    /// <summary>The language of one of its voices, whether it is installed here or not; null for a voice of another engine.</summary>
    internal static string? LanguageOf(string voice) =>
        voice.StartsWith(Prefix, StringComparison.Ordinal) ? Array.Find(Known, v => v.Key == voice)?.Language ?? "en-us" : null;

    /// <summary>Its voices; none where the engine is not installed.</summary>
    public static Task<IReadOnlyList<Voice>> VoicesAsync(CancellationToken cancel = default)
    {
        cancel.ThrowIfCancellationRequested();
        return Task.FromResult<IReadOnlyList<Voice>>(OutsideProgram.IsThere("flite") ? Known : []);
    }

    /// <summary>Speaks a text. Liveliness is the engine's own; pitch and loudness are changed afterwards, with the times kept.</summary>
    /// <exception cref="MediaException">No such voice, nothing to speak, text too long, or the engine failed.</exception>
    public static Task<SpokenText> SpeakAsync(string voice, string text, Delivery delivery, CancellationToken cancel = default) =>
        SpeakAsync(voice, text, delivery, Reading.Plain, cancel);

    internal static async Task<SpokenText> SpeakAsync(string voice, string text, Delivery delivery, Reading reading, CancellationToken cancel)
    {
        delivery = delivery.Clamped();
        if (!Array.Exists(Known, v => v.Key == voice))
            throw new MediaException($"There is no voice \"{voice[Prefix.Length..]}\" in flite.");
        Synthesis.CheckText(text);
        var spoken = new SpokenPieces(reading);
        foreach (var written in Pieces(Tag().Replace(text, " ")))
        {
            var isMarked = reading.In(written).Any();
            var piece = isMarked ? Marked(written, reading) : Plain(written);
            if (!piece.Any(char.IsLetterOrDigit))
                continue;
            var folder = Scratch.NewFolder();
            var path = Path.Combine(folder, "spoken.wav");
            try
            {
                var stretch = string.Create(CultureInfo.InvariantCulture, $"duration_stretch={1 / delivery.Speed:0.000}");
                var result = await OutsideProgram.RunAsync(
                    "flite",
                    ["-voice", voice[Prefix.Length..], "--setf", stretch, "-psdur", "-o", path, .. isMarked ? (string[])["-ssml"] : [], "-t", " " + piece],
                    limit: TimeSpan.FromMinutes(2),
                    maximalOutput: 16 << 20,
                    cancel: cancel,
                    files: SandboxFiles.Writing(folder)
                );
                if (result.ExitCode != 0 || !File.Exists(path))
                    throw new MediaException(
                        "The speech engine flite stopped unexpectedly" + (result.Error.Trim() is { Length: > 0 } said ? ": " + said.Split('\n')[0] : ".")
                    );
                using var file = File.OpenRead(path);
                var segments = Segment().Matches(Encoding.ASCII.GetString(result.Output));
                spoken.Add(
                    written,
                    WavFile.ReadMono(file),
                    segments.Select(m => (m.Groups[1].Value, double.Parse(m.Groups[2].Value, CultureInfo.InvariantCulture)))
                );
            }
            finally
            {
                Directory.Delete(folder, true);
            }
        }
        if (spoken.IsSilent)
            throw new MediaException(
                $"The voice \"{voice[Prefix.Length..]}\" has nothing to say here: it cannot speak these characters. Write words, or choose a "
                    + $"voice of the text's language."
            );
        return await spoken.SpokenAsync(delivery, cancel);
    }

    // ASCII is what the engine reads.
    internal static string Plain(string text) =>
        new([
            .. text.Normalize(NormalizationForm.FormKD)
                .Select(c =>
                    c switch
                    {
                        '’' or '‘' => '\'',
                        '“' or '”' => '"',
                        '–' or '—' => ',',
                        '…' => '.',
                        '\n' or '\r' or '\t' => ' ',
                        _ => c,
                    }
                )
                .Where(c => c is >= ' ' and < '\x7f'),
        ]);

    // As the engine's SSML, which knows no entities: what would be markup is left out.
    private static string Marked(string text, Reading reading)
    {
        var marked = new StringBuilder("<speak>");
        static string Bare(string part) => Plain(part).Replace("&", " and ").Replace('<', ' ').Replace('>', ' ');
        var at = 0;
        foreach (var (start, length, lexeme) in reading.In(text))
        {
            // Lower case, vowels with their stress: the first one has it.
            var first = lexeme.Phones.ToList().FindIndex(Arpabet.Vowels.Contains);
            var phones = lexeme.Phones.Select(
                (p, i) =>
                    p.ToLowerInvariant()
                    + (
                        i == first ? "1"
                        : Arpabet.Vowels.Contains(p) ? "0"
                        : ""
                    )
            );
            marked.Append(Bare(text[at..start])).Append($"<phoneme ph=\"{string.Join(' ', phones)}\">{Bare(text.Substring(start, length))}</phoneme>");
            at = start + length;
        }
        return marked.Append(Bare(text[at..])).Append("</speak>").ToString();
    }

    // Cut after sentences where there are any.
    internal static IEnumerable<string> Pieces(string text)
    {
        var piece = new StringBuilder();
        foreach (var sentence in Sentence().Split(text))
        {
            if (piece.Length > 0 && piece.Length + sentence.Length > Piece)
            {
                yield return piece.ToString();
                piece.Clear();
            }
            piece.Append(sentence).Append(' ');
        }
        if (piece.Length > 0)
            yield return piece.ToString();
    }

    /// <summary>A phone of flite and festival (Edinburgh and CMU voices) as ours.</summary>
    public static string PhoneOf(string phone) =>
        phone switch
        {
            "pau" or "ssil" or "h#" or "brth" => Arpabet.Silence,
            "ax" => "AH",
            "axr" => "ER",
            "ix" => "IH",
            "dx" => "T",
            "el" => "L",
            "en" => "N",
            "em" => "M",
            "hv" => "HH",
            _ => phone.ToUpperInvariant() is var p && Arpabet.Phones.Contains(p) ? p : Arpabet.Silence,
        };

    [GeneratedRegex("<[^>]*>")]
    private static partial Regex Tag();

    [GeneratedRegex(@"([a-z#]+):([\d.]+)")]
    private static partial Regex Segment();

    [GeneratedRegex(@"(?<=[.!?;:,])\s+")]
    private static partial Regex Sentence();
}
