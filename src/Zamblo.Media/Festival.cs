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
        var samples = new List<float>();
        var phones = new List<PhoneSegment>();
        var words = new List<WordSegment>();
        var rate = 16000;
        foreach (var written in Flite.Pieces(Tag().Replace(text, " ")))
        {
            if (!written.Any(char.IsLetterOrDigit))
                continue;
            var (audio, segments) = await PieceAsync(known, written, delivery.Speed, reading, cancel);
            if (audio == null)
                continue;
            rate = audio.SampleRate;
            double before = (double)samples.Count / rate,
                at = 0;
            samples.AddRange(audio.Samples);
            var first = phones.Count;
            foreach (var (phone, ends) in segments)
            {
                var end = Math.Min(audio.Duration, ends);
                if (end > at)
                    phones.Add(new PhoneSegment(Flite.PhoneOf(phone), before + at, before + end));
                at = Math.Max(at, end);
            }
            if (known.IsEnglish)
                words.AddRange(WordFinder.Find(ScriptText.Words(written), phones[first..], reading.Over(SpeechModels.Analyzer.Say)));
        }
        if (samples.Count == 0)
            throw new MediaException(
                $"The voice \"{known.Function}\" has nothing to say here: it cannot speak these characters. Write words of its language, or choose another."
            );
        var sound = await Synthesis.ColouredAsync(new AudioBuffer([.. samples], rate), delivery, cancel);
        if (!known.IsEnglish)
            return await HeardAsync(known, text, sound, reading, cancel);
        return new SpokenText(
            sound,
            new SpeechAnalysis(sound.Duration, SegmentLists.Tidy(phones, sound.Duration), words, LoudnessEnvelope.LevelsDb(sound), SpeechSource.Engine)
            {
                PitchHz = PitchTracker.Track(sound, cancel),
            }
        );
    }

    // Phones of other languages have names of their own in every voice: our alignment tells their times, as of a recording whose words are known.
    private static async Task<SpokenText> HeardAsync(Known voice, string text, AudioBuffer sound, Reading reading, CancellationToken cancel)
    {
        var heard = await AudioFiles.ResampleAsync(sound, CepstralFrontEnd.SampleRate, cancel);
        var said = reading.Lexicon.ToDictionary(l => l.Key, l => l.Value.Phones.ToArray());
        var speech = await SpeechModels.AnalyzeAsync(heard, new SpeechQuery(text, voice.Language) { Pronunciations = said }, cancel: cancel);
        return new SpokenText(sound, speech with { Source = SpeechSource.Engine });
    }

    private static async Task<(AudioBuffer? Audio, IReadOnlyList<(string Phone, double End)> Segments)> PieceAsync(
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
                    ? (null, [])
                    : throw new MediaException("The speech engine festival stopped unexpectedly" + (told == null ? "." : ": " + told.Trim()));
            }
            AudioBuffer audio;
            await using (var file = File.OpenRead(In("spoken.wav")))
                audio = WavFile.ReadMono(file);
            var segments = Segment().Matches(await File.ReadAllTextAsync(In("spoken.seg"), Encoding.Latin1, cancel));
            (string, double)[] times = [.. segments.Select(m => (m.Groups[2].Value, double.Parse(m.Groups[1].Value, CultureInfo.InvariantCulture) / speed))];
            if (speed == 1 || audio.Samples.Length == 0)
                return (audio.Samples.Length == 0 ? null : audio, times);
            var tempo = string.Create(CultureInfo.InvariantCulture, $"rubberband=tempo={speed:0.0000}");
            var paced = await AudioFiles.FilterAsync(audio, tempo, audio.SampleRate, cancel);
            // As long as its times say.
            var kept = new float[(int)Math.Round(audio.Samples.Length / speed)];
            paced.Samples.AsSpan(0, Math.Min(kept.Length, paced.Samples.Length)).CopyTo(kept);
            return (new AudioBuffer(kept, audio.SampleRate), times);
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
            text.Normalize(voice.IsEnglish ? NormalizationForm.FormKD : NormalizationForm.FormC)
                .Select(c =>
                    c switch
                    {
                        '’' or '‘' => '\'',
                        '“' or '”' or '"' or '\\' or '„' or '«' or '»' => ' ',
                        '–' or '—' => ',',
                        '…' => '.',
                        _ => c,
                    }
                )
                .Where(c => !char.IsControl(c) && (!voice.IsEnglish || char.IsAscii(c)))
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
