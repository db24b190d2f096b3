using System.Collections.Concurrent;
using System.Globalization;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>All synthesis voices, whatever engine they belong to: "espeak:en-gb+f3", "flite:slt", "neural:de:amber".</summary>
public static class Synthesis
{
    // An engine: what the keys of its voices start with, its voices, and how it speaks; some stress words by themselves, others are lifted.
    private sealed record Engine(
        string Prefix,
        Func<CancellationToken, Task<IReadOnlyList<Voice>>> VoicesAsync,
        Func<string, string, Delivery, Reading, CancellationToken, Task<SpokenText>> SpeakAsync,
        bool Stresses = false
    );

    // A voice without the name of an engine is the last one's.
    private static readonly Engine[] Engines =
    [
        new(NeuralVoices.Prefix, NeuralVoices.VoicesAsync, NeuralVoices.SpeakAsync),
        new(Flite.Prefix, Flite.VoicesAsync, Flite.SpeakAsync),
        new(Festival.Prefix, Festival.VoicesAsync, Festival.SpeakAsync),
        new("espeak:", Espeak.VoicesAsync, Espeak.SpeakAsync, Stresses: true),
    ];

    private static Engine EngineOf(string voice) => Array.Find(Engines, e => voice.StartsWith(e.Prefix, StringComparison.Ordinal)) ?? Engines[^1];

    /// <summary>Every voice that can speak here.</summary>
    /// <exception cref="MediaException">No engine has any; why.</exception>
    public static async Task<IReadOnlyList<Voice>> VoicesAsync(CancellationToken cancel = default)
    {
        var voices = new List<Voice>();
        MediaException? failure = null;
        // Each engine by itself: one that is broken does not silence the others.
        foreach (var engine in Engines)
            try
            {
                voices.AddRange(await engine.VoicesAsync(cancel));
            }
            catch (MediaException e)
            {
                failure = e;
            }
        return voices.Count == 0 && failure != null ? throw failure : voices;
    }

    private static readonly Lazy<Task<string>> Same = new(async () =>
    {
        IReadOnlyList<Voice> voices = [];
        try
        {
            voices = await VoicesAsync();
        }
        catch (MediaException)
        {
            // A machine without a voice is like another one.
        }
        // Voices in folders are files that can be sent; what is installed has to be there.
        var keys = voices.Select(v => v.Key).Where(k => !k.StartsWith(NeuralVoices.Prefix, StringComparison.Ordinal));
        var programs = new[] { "espeak-ng", "flite", "festival" }.Select(p => $"{p} {OutsideProgram.LengthOf(p)}");
        var text = string.Join('\n', [FilmChunks.Version, .. programs, .. keys]);
        return Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(text)));
    });

    /// <summary>Of the engines that are installed: two machines on which it is the same speak a text in the same way.</summary>
    public static Task<string> IdentityAsync() => Same.Value;

    /// <summary>The language of a voice: "espeak:de+f3" speaks "de", and whoever has that voice is heard in it.</summary>
    public static string LanguageOf(string voice) => Flite.LanguageOf(voice) ?? voice[(voice.IndexOf(':') + 1)..].Split('+', ':')[0];

    // The lists are the engines' own and do not change while the program runs; a failure is not kept.
    private static readonly ConcurrentDictionary<string, Task<IReadOnlyList<Voice>>> Known = new();

    /// <summary>Refuses a voice that no engine here has: nothing else ever reaches an engine as a name.</summary>
    /// <exception cref="MediaException">There is no such voice.</exception>
    public static async Task CheckAsync(string voice, CancellationToken cancel = default)
    {
        if (voice.StartsWith(NeuralVoices.Prefix, StringComparison.Ordinal))
        {
            // Its files come and go while the program runs.
            if (NeuralVoices.FilesOf(voice) == null)
                throw new MediaException($"There is no voice \"{(voice.Length > 80 ? voice[..80] : voice)}\" here: bring its files again, or choose another.");
            return;
        }
        var engine = EngineOf(voice);
        if (!Known.TryGetValue(engine.Prefix, out var known) || known.IsFaulted || known.IsCanceled)
            Known[engine.Prefix] = known = engine.VoicesAsync(CancellationToken.None);
        var all = await known.WaitAsync(cancel);
        var parts = voice.Split('+');
        var isVariant =
            parts.Length == 1 || (parts.Length == 2 && parts[1].Length is > 0 and <= 24 && parts[1].All(c => char.IsAsciiLetterOrDigit(c) || c is '_' or '-'));
        // Without the name of an engine it is espeak's.
        var name = parts[0].Contains(':', StringComparison.Ordinal) ? parts[0] : "espeak:" + parts[0];
        if (voice.Length > 80 || !isVariant || !all.Any(v => v.Key == name))
            throw new MediaException($"There is no voice \"{(voice.Length > 80 ? voice[..80] : voice)}\" here.");
    }

    /// <summary>
    /// Speaks a text; directions in it ("(whispering)", "[laughs]") are not spoken. "(pause)" and "(beat)" are silence, *stars* and CAPITALS stress.
    /// </summary>
    /// <param name="voice">Key of a voice.</param>
    /// <param name="text">What is said.</param>
    /// <param name="delivery">How.</param>
    /// <param name="cancel">Stops the engine.</param>
    /// <param name="lexicon">Words that are said in their own way, by the word in lower case.</param>
    /// <exception cref="MediaException">No such voice, nothing to speak, text too long, or the engine failed.</exception>
    public static async Task<SpokenText> SpeakAsync(
        string voice,
        string text,
        Delivery delivery,
        CancellationToken cancel = default,
        IReadOnlyDictionary<string, Lexeme>? lexicon = null
    )
    {
        if (text.Length > 0 && string.IsNullOrWhiteSpace(Directions.Spoken(text)))
            throw new MediaException("There is only a direction: write what is said as well.");
        var spoken = new List<(SpokenText Spoken, double Pause)>();
        foreach (var part in SpokenLine.Parts(text))
        {
            // Silence at the very beginning belongs to the score, not to the take.
            if (part.Text.Any(char.IsLetterOrDigit) || (spoken.Count == 0 && part.Pause == 0))
                spoken.Add((await PartAsync(voice, part, delivery, lexicon, cancel), part.Pause));
            else if (spoken.Count > 0)
                spoken[^1] = (spoken[^1].Spoken, spoken[^1].Pause + part.Pause);
        }
        if (spoken.Count > 1)
            spoken[^1] = (spoken[^1].Spoken, 0);
        return spoken.Count == 1 ? spoken[0].Spoken : SpokenLine.Join(spoken);
    }

    private static async Task<SpokenText> PartAsync(
        string voice,
        SpokenLine.Part part,
        Delivery delivery,
        IReadOnlyDictionary<string, Lexeme>? lexicon,
        CancellationToken cancel
    )
    {
        var reading = new Reading(lexicon ?? Reading.Plain.Lexicon, part.Stressed);
        var engine = EngineOf(voice);
        var spoken = await engine.SpeakAsync(voice, part.Text, delivery, reading, cancel);
        return engine.Stresses ? spoken : SpokenLine.Lift(spoken, part.Text, part.Stressed);
    }

    /// <summary>Refuses what no engine is given.</summary>
    /// <exception cref="MediaException">There is nothing to speak, or too much.</exception>
    internal static void CheckText(string text)
    {
        if (string.IsNullOrWhiteSpace(text))
            throw new MediaException("There is no text to speak.");
        if (text.Length > Espeak.MaximalText)
            throw new MediaException($"The text has {text.Length:N0} characters; at most {Espeak.MaximalText:N0} can be spoken at once. Cut it into lines.");
    }

    /// <summary>Pitch and loudness for engines that have no dials for them; the times stay.</summary>
    internal static async Task<AudioBuffer> ColouredAsync(AudioBuffer sound, Delivery delivery, CancellationToken cancel)
    {
        var semitones = 12 * (delivery.Pitch - 0.5);
        if (semitones == 0 && delivery.Volume == 1)
            return sound;
        var filter = string.Create(
            CultureInfo.InvariantCulture,
            $"rubberband=pitch={Math.Pow(2, semitones / 12):0.00000}:formant=preserved,volume={delivery.Volume:0.000}"
        );
        return await FilteredAsync(sound, filter, sound.Samples.Length, cancel);
    }

    /// <summary>A sound after ffmpeg's filters, exactly as long as its times are to say.</summary>
    internal static async Task<AudioBuffer> FilteredAsync(AudioBuffer sound, string filter, int length, CancellationToken cancel)
    {
        var changed = await AudioFiles.FilterAsync(sound, filter, sound.SampleRate, cancel);
        var kept = new float[length];
        changed.Samples.AsSpan(0, Math.Min(kept.Length, changed.Samples.Length)).CopyTo(kept);
        return new AudioBuffer(kept, sound.SampleRate);
    }

    /// <summary>What an engine has said that tells no times: our own alignment finds them, as in a recording whose words are known.</summary>
    internal static async Task<SpokenText> HeardAsync(AudioBuffer sound, string text, string language, Reading reading, CancellationToken cancel)
    {
        var heard = await AudioFiles.ResampleAsync(sound, CepstralFrontEnd.SampleRate, cancel);
        var said = reading.Lexicon.ToDictionary(l => l.Key, l => l.Value.Phones.ToArray());
        var speech = await SpeechModels.AnalyzeAsync(heard, new SpeechQuery(text, language) { Pronunciations = said }, cancel: cancel);
        // The words are known, whoever found their times.
        return new SpokenText(sound, speech with { Source = SpeechSource.Engine });
    }
}
