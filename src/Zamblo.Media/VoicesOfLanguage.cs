namespace Zamblo.Media;

/// <summary>Who speaks for whom in another language.</summary>
public static class VoicesOfLanguage
{
    // Tags that engines know by another name (ISO 639: macrolanguages and their usual members).
    private static readonly Dictionary<string, string> Usual = new(StringComparer.OrdinalIgnoreCase) { ["zh"] = "cmn", ["no"] = "nb" };

    // For a voice that an engine has only once: its variants.
    private static readonly string[] Women = ["f2", "f5", "f3", "f1", "f4"],
        Men = ["m3", "m1", "m7", "m5", "m2", "m4", "m6", "m8"];

    /// <summary>Voices of a language for everybody, each another one as long as there are enough: a woman's for a woman's, a man's for a man's.</summary>
    /// <param name="all">Voices that there are.</param>
    /// <param name="voices">Those that speak now, by their keys.</param>
    /// <param name="language">BCP 47 tag.</param>
    /// <returns>One for each; null where no voice speaks the language.</returns>
    public static IReadOnlyList<string>? For(IReadOnlyList<Voice> all, IReadOnlyList<string> voices, string language)
    {
        // Festival's have no variants, and sound older than what they would take the place of.
        var fit = Of([.. all.Where(v => !v.Key.StartsWith(Festival.Prefix, StringComparison.Ordinal))], language);
        if (fit.Count == 0)
            return null;
        var free = fit.Where(v => v.Key.StartsWith(NeuralVoices.Prefix, StringComparison.Ordinal) || v.Key.StartsWith(Flite.Prefix, StringComparison.Ordinal))
            .ToList();
        var engine = fit.FirstOrDefault(v => !free.Contains(v));
        var used = new HashSet<string>();
        var result = new List<string>();
        foreach (var voice in voices)
        {
            var isWoman = IsWoman(all, voice);
            // Recorded and learned voices are better than the engine's, where there is one of the kind.
            if (free.FirstOrDefault(v => v.Character.Length == 0 || v.Character == "female" == isWoman) is { } own && voice != own.Key)
            {
                free.Remove(own);
                result.Add(own.Key);
                continue;
            }
            if (engine == null)
            {
                result.Add(fit[result.Count % fit.Count].Key);
                continue;
            }
            // The variant that speaks now goes on in the other language.
            string[] variants = [.. voice.Split('+').Skip(1), .. isWoman ? Women : Men];
            var variant = variants.FirstOrDefault(v => used.Add(v)) ?? variants[result.Count % variants.Length];
            result.Add($"{engine.Key}+{variant}");
        }
        return result;
    }

    /// <summary>Voices of a language, those of its very tag first; of its kin where there are none.</summary>
    public static IReadOnlyList<Voice> Of(IReadOnlyList<Voice> all, string language)
    {
        var primary = language.Split('-')[0];
        var tag = Usual.TryGetValue(primary, out var usual) ? usual + language[primary.Length..] : language;
        primary = tag.Split('-')[0];
        bool Is(Voice v, string wanted) => v.Language.Equals(wanted, StringComparison.OrdinalIgnoreCase);
        bool IsKin(Voice v) => v.Language.Split('-')[0].Equals(primary, StringComparison.OrdinalIgnoreCase);
        var exact = all.Where(v => Is(v, tag)).ToArray();
        // Of "fr" the one that is spoken where the language comes from: "fr-fr" rather than "fr-be".
        return exact.Length > 0
            ? exact
            : [.. all.Where(IsKin).OrderByDescending(v => Is(v, $"{primary}-{primary}") || Is(v, primary)).ThenBy(v => v.Language, StringComparer.Ordinal)];
    }

    private static bool IsWoman(IReadOnlyList<Voice> all, string voice)
    {
        var parts = voice.Split('+');
        return parts.Length > 1 ? parts[1].StartsWith('f') : all.FirstOrDefault(v => v.Key == voice)?.Character == "female";
    }
}
