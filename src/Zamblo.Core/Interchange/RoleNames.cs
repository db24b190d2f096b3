namespace Zamblo.Core.Interchange;

/// <summary>Names of roles as people write them, from the capitals of a screenplay.</summary>
public static class RoleNames
{
    // Particles of family names that stay small before another name (common practice).
    private static readonly HashSet<string> Particles = new(StringComparer.OrdinalIgnoreCase)
    {
        "van",
        "von",
        "der",
        "den",
        "de",
        "del",
        "della",
        "di",
        "da",
        "dos",
        "la",
        "le",
        "du",
        "af",
        "av",
        "zu",
        "ten",
        "ter",
        "bin",
        "ibn",
        "al",
        "of",
        "the",
        "and",
    };

    /// <summary>MARO becomes Maro, O'NEIL O'Neil, MCKAY McKay, VAN DYK van Dyk, MARY-ANN Mary-Ann; a name that has small letters stays as it is.</summary>
    public static string Of(string role)
    {
        if (role.Any(char.IsLower))
            return role;
        var words = role.Split(' ');
        for (var i = 0; i < words.Length; i++)
            words[i] = Particles.Contains(words[i]) && i < words.Length - 1 && (i > 0 || !IsArticle(words[i])) ? words[i].ToLowerInvariant() : Word(words[i]);
        return string.Join(' ', words);
    }

    private static bool IsArticle(string word) =>
        word.Equals("the", StringComparison.OrdinalIgnoreCase) || word.Equals("and", StringComparison.OrdinalIgnoreCase);

    private static string Word(string word)
    {
        // Roman numbers and initials keep their capitals: HENRY IV, A.J.
        if (word.Length > 1 && (word.All(c => c is 'I' or 'V' or 'X') || word.Contains('.')))
            return word;
        var name = word.ToLowerInvariant().ToCharArray();
        for (var i = 0; i < name.Length; i++)
            if (
                i == 0
                || name[i - 1] is '-'
                || (name[i - 1] is '\'' or '’' && i == 2)
                || (i == 2 && word.Length > 3 && word.StartsWith("MC", StringComparison.Ordinal))
            )
                name[i] = char.ToUpperInvariant(name[i]);
        return new string(name);
    }
}
