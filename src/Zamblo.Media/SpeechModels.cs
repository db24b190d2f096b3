using System.Collections.Concurrent;
using System.Text;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>Loads the acoustic model and the dictionary from where Debian's package pocketsphinx-en-us puts them.</summary>
public static class SpeechModels
{
    private static readonly Lazy<SpeechAnalyzer> Shared = new(Load, LazyThreadSafetyMode.PublicationOnly);

    /// <summary>The folder of the model; the environment variable ZAMBLO_MODEL points elsewhere.</summary>
    public static string Folder => Environment.GetEnvironmentVariable("ZAMBLO_MODEL") is { Length: > 0 } path ? path : "/usr/share/pocketsphinx/model/en-us";

    /// <summary>Where the recogniser keeps what it has written down; null keeps nothing. Set once, by whoever has a folder for it.</summary>
    public static DraftShelf? Drafts { get; set; }

    /// <summary>Of what is listened with: two machines on which it is the same hear the same in a sound.</summary>
    public static string Identity
    {
        get
        {
            string[] folders = [Folder, WordRecogniser.Folder];
            var files = folders
                .Where(Directory.Exists)
                .SelectMany(f =>
                    new DirectoryInfo(f).EnumerateFiles("*", SearchOption.AllDirectories).Select(x => $"{Path.GetRelativePath(f, x.FullName)} {x.Length}")
                )
                .Order(StringComparer.Ordinal);
            var text = string.Join('\n', [FilmChunks.Version, .. files, .. Recognisers.Identities()]);
            return Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(Encoding.UTF8.GetBytes(text)));
        }
    }

    /// <summary>The analyzer, loaded on first use and kept.</summary>
    /// <exception cref="MediaException">The model is not installed or is broken.</exception>
    public static SpeechAnalyzer Analyzer => Shared.Value;

    /// <summary>Hears a take in any language that the synthesis engine can pronounce.</summary>
    /// <param name="audio">16 kHz only.</param>
    /// <param name="query">What is known about it.</param>
    /// <param name="known">An earlier analysis of the same sound: only what has changed since is listened to again.</param>
    /// <param name="progress">Shares from 0 to 1.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="MediaException">The model or the engine is missing, or the engine has no such language.</exception>
    public static async Task<SpeechAnalysis> AnalyzeAsync(
        AudioBuffer audio,
        SpeechQuery query,
        SpeechAnalysis? known = null,
        Action<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        HearingRequest request;
        var analyzer = Analyzer;
        if (query.IsNative)
            request = analyzer.Request(query.Script) with { MayBeForeign = !query.IsTold };
        else
        {
            analyzer = await ListenerOfAsync(query.Language, cancel);
            var words = ScriptWord.InRows(WrittenNumbers.Words(query.Script ?? "", query.Language), query.Script ?? "");
            await Saying.LearnAsync(query.Language, words.SelectMany(w => w.Spoken), cancel);
            request = new HearingRequest
            {
                Words = words,
                Pronounce = w => Saying.Of(query.Language, w),
                Read = text => WrittenNumbers.Words(text, query.Language),
                IsNative = false,
            };
        }
        var usual = request.Pronounce;
        request = request with
        {
            Words = LyricTimes.Apply(request.Words, query.Times ?? [], query.Part?.Start ?? 0),
            Marks = query.Marks,
            Pins = query.Pins,
            Names = query.Names,
            Pronounce = query.Pronunciations.Count == 0 ? usual : w => query.Pronunciations.TryGetValue(w.ToLowerInvariant(), out var own) ? [own] : usual(w),
        };
        return known == null ? analyzer.Analyze(audio, request, progress, cancel) : analyzer.Realign(audio, known, request, cancel);
    }

    // One for each language whose sounds are known, another when its recogniser is.
    private static readonly ConcurrentDictionary<(string Language, string Recogniser), SpeechAnalyzer> Listeners = new();

    private static async Task<SpeechAnalyzer> ListenerOfAsync(string language, CancellationToken cancel)
    {
        var recogniser = Recognisers.Of(language)?.Name;
        // By its whole name: "pt" and "pt-br" are said otherwise.
        var isKnown = LanguageSounds.KeyOf(language) != null;
        var key = (isKnown || recogniser != null ? language : "", recogniser ?? "");
        if (Listeners.TryGetValue(key, out var known))
            return known;
        var sounds = isKnown ? await LanguageSounds.DictionaryAsync(language, cancel) : await LanguageSounds.AllAsync(cancel);
        return Listeners.GetOrAdd(
            key,
            _ => new SpeechAnalyzer(
                Analyzer.Model,
                sounds,
                null,
                recogniser == null ? null : (audio, voiced, _, heard, stop) => Recognise(audio, voiced, language, heard, stop),
                VoiceModel.Probabilities,
                SongVoiceModel.Tell,
                VocalSoundNet.Tell,
                PhoneNets.Sung,
                PhoneNets.Spoken
            )
        );
    }

    private static IReadOnlyList<DraftWord> Recognise(
        AudioBuffer audio,
        IReadOnlyList<(double Start, double End)> voiced,
        string language,
        Action<double>? heard,
        CancellationToken cancel
    )
    {
        var words = WordRecogniser.Recognise(audio, voiced, heard, cancel, Drafts, language: language);
        // All at once: one by one they would be asked for when they are laid.
        var spoken = words.SelectMany(w => WrittenNumbers.Words(w.Text, language)).SelectMany(w => w.Spoken);
        Saying.LearnAsync(language, spoken, cancel).GetAwaiter().GetResult();
        return words;
    }

    /// <summary>Reads the acoustic model.</summary>
    /// <exception cref="MediaException">It is not installed or is broken.</exception>
    public static AcousticModel LoadModel()
    {
        var folder = Path.Combine(Folder, "en-us");
        if (!Directory.Exists(folder))
            throw new ProgramMissingException("The acoustic model", "pocketsphinx-en-us");
        try
        {
            return AcousticModel.Read(name => File.Exists(Path.Combine(folder, name)) ? File.OpenRead(Path.Combine(folder, name)) : null);
        }
        catch (AcousticModelException e)
        {
            throw new MediaException(e.Message + " Install the Debian package pocketsphinx-en-us again.", e);
        }
    }

    /// <summary>Reads the dictionary.</summary>
    public static PronunciationDictionary LoadDictionary()
    {
        var path = Path.Combine(Folder, "cmudict-en-us.dict");
        if (!File.Exists(path))
            throw new ProgramMissingException("The pronouncing dictionary", "pocketsphinx-en-us");
        using var reader = new StreamReader(path, Encoding.UTF8);
        return PronunciationDictionary.Read(reader);
    }

    private static SpeechAnalyzer Load()
    {
        return new SpeechAnalyzer(
            LoadModel(),
            LoadDictionary(),
            word => Saying.Of("en-us", word),
            (audio, voiced, names, heard, cancel) =>
                WordRecogniser.Writes("en") ? WordRecogniser.Recognise(audio, voiced, heard, cancel, Drafts, KnownNames.Of(names)) : [],
            VoiceModel.Probabilities,
            SongVoiceModel.Tell,
            VocalSoundNet.Tell,
            PhoneNets.Sung,
            PhoneNets.Spoken
        )
        {
            OtherWords = () =>
            {
                try
                {
                    return LanguageSounds.AllAsync().GetAwaiter().GetResult();
                }
                catch (MediaException)
                {
                    return LoadDictionary();
                }
            },
        };
    }
}
