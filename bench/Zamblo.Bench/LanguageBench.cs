using System.IO.Compression;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;
using Zamblo.Media;

namespace Zamblo.Bench;

/// <summary>Other languages than English: with a script, without one, told which and untold, by engines and by people.</summary>
internal static class LanguageBench
{
    // Ten languages, a sentence each of our own and its two halves, and another one.
    private static readonly (string Language, string Text, string Other)[] Languages =
    [
        ("de", "Der Ofen ist heiß, und das Brot ist noch nicht fertig.", "Stell die Brötchen ins Regal, bevor es regnet."),
        ("es", "El horno está caliente y el pan todavía no está listo.", "Pon los panecillos en el estante antes de que llueva."),
        ("fr-fr", "Le four est chaud et le pain n'est pas encore prêt.", "Mets les petits pains sur l'étagère avant qu'il pleuve."),
        ("it", "Il forno è caldo e il pane non è ancora pronto.", "Metti i panini sullo scaffale prima che piova."),
        ("pt", "O forno está quente e o pão ainda não está pronto.", "Põe os pãezinhos na prateleira antes que chova."),
        ("nl", "De oven is heet en het brood is nog niet klaar.", "Zet de broodjes op de plank voordat het regent."),
        ("pl", "Piec jest gorący, a chleb nie jest jeszcze gotowy.", "Połóż bułki na półce, zanim zacznie padać."),
        ("hi", "तंदूर गरम है और रोटी अभी तैयार नहीं है।", "बारिश से पहले रोटियाँ अलमारी में रख दो।"),
        ("cmn", "炉子很热，面包还没好。", "下雨之前把面包放在架子上。"),
        ("ja", "パンはまだできていません。", "あめがふるまえに、パンをたなにおいてください。"),
    ];

    // Announcements that people read, with what they say (Debian's asterisk-core-sounds-*, CC BY-SA): five voices, 16 kHz.
    private const string Announcements = "/usr/share/asterisk/sounds/",
        Transcripts = "/usr/share/doc/asterisk-core-sounds-{0}/core-sounds-{0}.txt.gz";
    private static readonly string[] People = ["en", "es", "fr", "it", "ru"];

    // Clips of so many seconds and more, so many of each person; between two announcements a pause.
    private const double ClipSeconds = 12,
        LeastSeconds = 1,
        MostSeconds = 12,
        Pause = 0.3;
    private const int Clips = 8;

    public static async Task RunAsync(List<Utterance> english)
    {
        await WithScriptAsync();
        await AloneAsync();
        await EnglishAsync(english);
        await PeopleAsync();
    }

    /// <summary>A script in ten languages: starts of our phones against those of the engine that spoke.</summary>
    private static async Task WithScriptAsync()
    {
        var all = new List<double>();
        foreach (var (language, text, _) in Languages)
        {
            var (speech, audio) = await SaidAsync(language, text);
            var heard = await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(text, language));
            double[] truth = [.. speech.Phones.Where(p => p.Phone != Arpabet.Silence).Select(p => p.Start)],
                starts = [.. heard.Phones.Where(p => p.Phone != Arpabet.Silence).Select(p => p.Start)];
            double[] errors = [.. truth.Select(t => 1000 * starts.Min(s => Math.Abs(s - t)))];
            all.AddRange(errors);
            Console.WriteLine(FormattableString.Invariant($"language {language, -6} mean {errors.Average():0.0} ms"));
        }
        Console.WriteLine(
            FormattableString.Invariant($"ten languages: mean {all.Average():0.0} ms, {100.0 * all.Count(e => e <= 25) / all.Count:0} % within 25 ms")
        );
    }

    /// <summary>Ten languages without a script, in two voices: told which language it is, by the sounds of all of them, and told nothing.</summary>
    private static async Task AloneAsync()
    {
        // Of a language whose sounds nobody knows those of all are listened for.
        string[] ways = ["told", "by all sounds", "untold"];
        var sums = ways.ToDictionary(w => w, _ => new Scoring());
        var (noticed, count) = (0, 0);
        foreach (var (language, text, other) in Languages)
        {
            var own = ways.ToDictionary(w => w, _ => new Scoring());
            foreach (var sentence in (string[])[text, other])
            foreach (var voice in (string[])[language, language + "+f2"])
            {
                var (speech, audio) = await SaidAsync(voice, sentence);
                foreach (var (way, known) in ways.Zip([language, "eo", "en-us"]))
                {
                    var heard = await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(null, known));
                    own[way].Add(speech.Phones, heard.Phones);
                    sums[way].Add(speech.Phones, heard.Phones);
                    if (way == "untold")
                        (noticed, count) = (noticed + (heard.IsForeign ? 1 : 0), count + 1);
                }
            }
            foreach (var way in ways)
                Console.WriteLine($"{language, -6} no script, {way, -17} {own[way].Report()}");
        }
        foreach (var way in ways)
            Console.WriteLine($"ten languages, no script, {way, -17} {sums[way].Report()}");
        Console.WriteLine($"ten languages, untold: {noticed} of {count} sentences do not sound like English");
    }

    /// <summary>English that must not be taken for another language: in quiet, in noise, and in five accents.</summary>
    private static async Task EnglishAsync(List<Utterance> english)
    {
        var (wrong, count) = (0, 0);
        async Task TryAsync(AudioBuffer audio)
        {
            wrong += (await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(null, "en"))).IsForeign ? 1 : 0;
            count++;
        }
        foreach (var u in english)
        {
            await TryAsync(u.Audio);
            await TryAsync(SpeechSets.WithNoise(u, 10).Audio);
        }
        foreach (var voice in (string[])["en-gb", "en-gb-scotland", "en-029", "en-gb-x-gbclan", "en-gb-x-gbcwmd"])
        foreach (var sentence in (string[])["The oven is hot, and the bread is not ready yet.", "Put the rolls on the shelf before it rains."])
            await TryAsync((await SaidAsync(voice, sentence)).Audio);
        Console.WriteLine($"English in quiet, at 10 dB and in five accents: {wrong} of {count} taken for another language");
    }

    /// <summary>People, untold and told: phones against those of the words that they read, as espeak-ng says them; their times are not known.</summary>
    private static async Task PeopleAsync()
    {
        foreach (var language in People.Where(l => File.Exists(string.Format(Transcripts, l)) && Directory.Exists(Announcements + l)))
        {
            var texts = Read(language);
            var (foreign, clips) = (0, 0);
            var wrong = new Dictionary<string, int>();
            var phones = 0;
            await foreach (var (audio, said) in ClipsOfAsync(language, texts))
            {
                string[] truth = [.. (await Espeak.PhonesAsync(language == "en" ? "en-us" : language, said)).SelectMany(p => p)];
                phones += truth.Length;
                var untold = await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(null, "en"));
                (foreign, clips) = (foreign + (untold.IsForeign ? 1 : 0), clips + 1);
                var ways = new Dictionary<string, SpeechAnalysis> { ["untold"] = untold };
                if (language != "en")
                {
                    ways["told"] = await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(null, language));
                    ways["taken for English"] = await SpeechModels.AnalyzeAsync(audio, new SpeechQuery(null, "en") { IsTold = true });
                }
                foreach (var (way, heard) in ways)
                    wrong[way] = wrong.GetValueOrDefault(way) + Edits(truth, [.. heard.Phones.Select(p => p.Phone).Where(p => !Arpabet.IsSilent(p))]);
            }
            var errors = string.Join(", ", wrong.Select(w => FormattableString.Invariant($"{w.Key} {100.0 * w.Value / phones:0} %")));
            Console.WriteLine($"people, {language}: {foreign} of {clips} clips do not sound like English; phone error {errors}");
        }
    }

    private static Dictionary<string, string> Read(string language)
    {
        using var reader = new StreamReader(new GZipStream(File.OpenRead(string.Format(Transcripts, language)), CompressionMode.Decompress));
        return reader
            .ReadToEnd()
            .Split('\n')
            .Select(l => l.Split(": ", 2))
            .Where(l => l.Length == 2)
            .GroupBy(l => l[0])
            .ToDictionary(g => g.Key, g => g.First()[1].Trim());
    }

    // What somebody reads, announcement by announcement in the order of their names, with a step that brings others each time.
    private static async IAsyncEnumerable<(AudioBuffer Audio, string[] Said)> ClipsOfAsync(string language, Dictionary<string, string> texts)
    {
        var samples = new List<float>();
        var said = new List<string>();
        var count = 0;
        foreach (var name in texts.Keys.Order(StringComparer.Ordinal).Where((_, i) => i % 3 == 0))
        {
            var path = $"{Announcements}{language}/{name}.g722";
            if (!File.Exists(path) || texts[name].StartsWith('['))
                continue;
            var told = await OutsideProgram.RunAsync("ffmpeg", ["-v", "error", "-f", "g722", "-i", path, "-f", "f32le", "-ar", "16000", "-ac", "1", "-"]);
            var sound = System.Runtime.InteropServices.MemoryMarshal.Cast<byte, float>(told.Output).ToArray();
            if (sound.Length < LeastSeconds * 16000 || sound.Length > MostSeconds * 16000)
                continue;
            samples.AddRange(sound);
            samples.AddRange(new float[(int)(Pause * 16000)]);
            said.Add(texts[name]);
            if (samples.Count < ClipSeconds * 16000)
                continue;
            yield return (new AudioBuffer([.. samples], 16000), [.. said]);
            samples.Clear();
            said.Clear();
            if (++count == Clips)
                yield break;
        }
    }

    // Least edits (Levenshtein 1966).
    private static int Edits(string[] a, string[] b)
    {
        var row = Enumerable.Range(0, b.Length + 1).ToArray();
        for (var i = 1; i <= a.Length; i++)
        {
            var corner = row[0];
            row[0] = i;
            for (var j = 1; j <= b.Length; j++)
                (corner, row[j]) = (row[j], Math.Min(Math.Min(row[j], row[j - 1]) + 1, corner + (a[i - 1] == b[j - 1] ? 0 : 1)));
        }
        return row[^1];
    }

    private static async Task<(SpeechAnalysis Speech, AudioBuffer Audio)> SaidAsync(string voice, string text)
    {
        var spoken = await Espeak.SpeakAsync("espeak:" + voice, text, new Delivery());
        return (spoken.Speech, await AudioFiles.ResampleAsync(spoken.Audio, 16000));
    }
}
