using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>
/// The synthesis engine festival (Debian package), out of process, with its voices that are installed: of diphones, of recordings, and modelled (HTS), in
/// several languages. English ones say when each phone is; others are listened to.
/// </summary>
public static partial class Festival
{
    /// <summary>What the keys of its voices start with: "festival:en-us:kal_diphone".</summary>
    public const string Prefix = "festival:";

    private const string Folder = "/usr/share/festival/voices";

    // Debian's own settings, which lie outside of what every program sees.
    private const string Settings = "/etc/festival.scm";

    /// <param name="Path">Where it lies, below the voices' folder.</param>
    /// <param name="Encoding">Of the texts that it reads (Debian's descriptions of the packages, and tried).</param>
    private sealed record Known(string Path, string Language, string Name, string Character, string Encoding = "iso-8859-1")
    {
        public string Function => Path[(Path.IndexOf('/') + 1)..];

        public Voice Voice => new($"{Prefix}{Language}:{Function}", Language, Name, Character);

        public bool IsEnglish => Language.StartsWith("en", StringComparison.Ordinal);
    }

    private static readonly Known[] All =
    [
        new("us/cmu_us_slt_arctic_hts", "en-us", "American woman, modelled", "female"),
        new("english/kal_diphone", "en-us", "American man, of diphones", "male"),
        new("english/ked_diphone", "en-us", "American man, older, of diphones", "male"),
        new("italian/lp_diphone", "it", "Italian woman, of diphones", "female"),
        new("italian/pc_diphone", "it", "Italian man, of diphones", "male"),
        new("czech/czech_ph", "cs", "Czech man, of diphones", "male", "iso-8859-2"),
        new("czech/czech_dita", "cs", "Czech woman, of diphones", "female", "iso-8859-2"),
        new("czech/czech_machac", "cs", "Czech man, second, of diphones", "male", "iso-8859-2"),
        new("finnish/suo_fi_lj_diphone", "fi", "Finnish woman, of diphones", "female"),
        new("finnish/hy_fi_mv_diphone", "fi", "Finnish man, of diphones", "male"),
        new("catalan/upc_ca_ona_hts", "ca", "Catalan woman, modelled", "female"),
        new("russian/msu_ru_nsh_clunits", "ru", "Russian man, recorded", "male", "utf-8"),
    ];

    static Festival() => Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);

    private static IEnumerable<Known> Installed() => OutsideProgram.IsThere("festival") ? All.Where(v => Directory.Exists(Path.Combine(Folder, v.Path))) : [];

    /// <summary>Its voices; none where the engine is not installed.</summary>
    public static Task<IReadOnlyList<Voice>> VoicesAsync(CancellationToken cancel = default)
    {
        cancel.ThrowIfCancellationRequested();
        return Task.FromResult<IReadOnlyList<Voice>>([.. Installed().Select(v => v.Voice)]);
    }

    /// <summary>Speaks a text. Liveliness is the engine's own; pace, pitch and loudness are changed afterwards.</summary>
    /// <exception cref="MediaException">No such voice, nothing to speak, text too long, or the engine failed.</exception>
    public static Task<SpokenText> SpeakAsync(string voice, string text, Delivery delivery, CancellationToken cancel = default) =>
        SpeakAsync(voice, text, delivery, Reading.Plain, cancel);

    internal static async Task<SpokenText> SpeakAsync(string voice, string text, Delivery delivery, Reading reading, CancellationToken cancel)
    {
        delivery = delivery.Clamped();
        var known =
            Installed().FirstOrDefault(v => v.Voice.Key == voice) ?? throw new MediaException($"There is no voice \"{voice[Prefix.Length..]}\" in festival.");
        Synthesis.CheckText(text);
        var spoken = new SpokenPieces(reading);
        foreach (var written in Flite.Pieces(Tag().Replace(text, " ")))
            if (written.Any(char.IsLetterOrDigit) && await PieceAsync(known, written, delivery.Speed, reading, cancel) is var (audio, ends))
                spoken.Add(written, audio, ends);
        if (spoken.IsSilent)
            throw new MediaException(
                $"The voice \"{known.Function}\" has nothing to say here: it cannot speak these characters. Write words of its language, or choose another."
            );
        if (known.IsEnglish)
            return await spoken.SpokenAsync(delivery, cancel);
        // Phones of other languages have names of their own in every voice: they are listened to.
        var sound = await Synthesis.ColouredAsync(spoken.Sound, delivery, cancel);
        return await Synthesis.HeardAsync(sound, text, known.Language, reading, cancel);
    }

    // Null where it can say nothing of the text.
    private static async Task<(AudioBuffer Audio, IReadOnlyList<(string Phone, double End)> Ends)?> PieceAsync(
        Known voice,
        string written,
        double speed,
        Reading reading,
        CancellationToken cancel
    )
    {
        var folder = Scratch.NewFolder();
        try
        {
            string In(string name) => Path.Combine(folder, name);
            // Its own language is a file of commands: of the text only a string in it is left, with nothing that could end it.
            var script = new StringBuilder($"(voice_{voice.Function})\n");
            if (voice.IsEnglish)
                foreach (var (start, length, lexeme) in reading.In(written))
                    script.Append(Entry(written.Substring(start, length), lexeme.Phones));
            script.Append(
                CultureInfo.InvariantCulture,
                $"""
                (set! utt (Utterance Text "{Plain(written, voice)}"))
                (utt.synth utt)
                (utt.save.segs utt "{In("spoken.seg")}")
                (utt.save.wave utt "{In("spoken.wav")}" 'riff)

                """
            );
            await File.WriteAllBytesAsync(In("say.scm"), EncodingOf(voice).GetBytes(script.ToString()), cancel);
            var result = await OutsideProgram.RunAsync(
                "festival",
                ["-b", In("say.scm")],
                limit: TimeSpan.FromMinutes(2),
                maximalOutput: 1 << 20,
                cancel: cancel,
                files: new SandboxFiles(File.Exists(Settings) ? [Settings] : [], [folder])
            );
            if (!File.Exists(In("spoken.wav")))
            {
                // A text of which it can say nothing ends it, too.
                var told = (result.Error + "\n" + Encoding.Latin1.GetString(result.Output)).Split('\n').FirstOrDefault(l => l.Contains("ERROR"));
                return result.ExitCode == 0 || told?.Contains("LTS") == true
                    ? null
                    : throw new MediaException("The speech engine festival stopped unexpectedly" + (told == null ? "." : ": " + told.Trim()));
            }
            AudioBuffer audio;
            await using (var file = File.OpenRead(In("spoken.wav")))
                audio = WavFile.ReadMono(file);
            var segments = Segment().Matches(await File.ReadAllTextAsync(In("spoken.seg"), Encoding.Latin1, cancel));
            (string, double)[] ends = [.. segments.Select(m => (m.Groups[2].Value, double.Parse(m.Groups[1].Value, CultureInfo.InvariantCulture) / speed))];
            if (audio.Samples.Length == 0)
                return null;
            if (speed == 1)
                return (audio, ends);
            var tempo = string.Create(CultureInfo.InvariantCulture, $"rubberband=tempo={speed:0.0000}");
            return (await Synthesis.FilteredAsync(audio, tempo, (int)Math.Round(audio.Samples.Length / speed), cancel), ends);
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    }

    private static Encoding EncodingOf(Known voice) =>
        Encoding.GetEncoding(voice.Encoding, new EncoderReplacementFallback(" "), DecoderFallback.ReplacementFallback);

    // Within a string of Scheme: no mark that ends it, no control character.
    private static string Plain(string text, Known voice) =>
        string.Concat(
            (voice.IsEnglish ? Flite.Plain(text) : text.Normalize(NormalizationForm.FormC).Replace('’', '\'')).Select(c =>
                c is '"' or '\\' || char.IsControl(c) ? ' ' : c
            )
        );

    // A word of its dictionary: each vowel begins a syllable with the consonant before it; the first is stressed.
    private static string Entry(string word, IReadOnlyList<string> phones)
    {
        var plain = word.ToLowerInvariant();
        if (plain.Length == 0 || !plain.All(char.IsAsciiLetterLower))
            return "";
        var syllables = new List<List<string>> { new() };
        foreach (var phone in phones)
        {
            var last = syllables[^1];
            if (Arpabet.Vowels.Contains(phone) && last.Exists(Arpabet.Vowels.Contains))
            {
                var onset = Arpabet.Vowels.Contains(last[^1]) ? [] : last.GetRange(last.Count - 1, 1);
                last.RemoveRange(last.Count - onset.Count, onset.Count);
                syllables.Add(onset);
            }
            syllables[^1].Add(phone);
        }
        var written = syllables.Select((s, i) => $"(({string.Join(' ', s.Select(p => p.ToLowerInvariant()))}) {(i == 0 ? 1 : 0)})");
        return $"(lex.add.entry '(\"{plain}\" nil ({string.Join(' ', written)})))\n";
    }

    [GeneratedRegex("<[^>]*>")]
    private static partial Regex Tag();

    // "0.2800 100 f" (the Entropic label format).
    [GeneratedRegex(@"^\s*([\d.]+)\s+\d+\s+(\S+)", RegexOptions.Multiline)]
    private static partial Regex Segment();
}
