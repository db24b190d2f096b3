using System.Text.Json;
using Zamblo.Core.Interchange;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Wardrobe;
using Zamblo.Media;

namespace Zamblo.Cli;

/// <summary>Characters by their keys, or out of files that Casting has written.</summary>
internal sealed class Actors
{
    private readonly Dictionary<string, WardrobeRecipe> _fromFiles = [];

    public Actors() => Library = CastLibrary.With(_fromFiles.GetValueOrDefault);

    /// <summary>Those that come with the program and those that were read.</summary>
    public CastLibrary Library { get; }

    /// <summary>The key of a character: one that is known, or a file that is read now.</summary>
    /// <exception cref="UsageException">Neither.</exception>
    /// <exception cref="MediaException">The file makes no figure.</exception>
    public string KeyOf(string named)
    {
        if (Library.Has(named))
            return named;
        if (!named.EndsWith(".json", StringComparison.OrdinalIgnoreCase))
            throw new UsageException($"There is no character \"{named}\": \"characters\" lists them, a file ends in .json.");
        try
        {
            var recipe = JsonSerializer.Deserialize<WardrobeRecipe>(File.ReadAllText(Terminal.ExistingFile(named)), JsonSerializerOptions.Web)!;
            Tailor.Make(recipe, named);
            _fromFiles[named] = recipe;
            return named;
        }
        catch (Exception e) when (e is JsonException or ArtException or NotSupportedException)
        {
            throw new MediaException($"\"{named}\" is no character: {e.Message}");
        }
    }

    /// <summary>Who plays whom, by roles of a screenplay.</summary>
    /// <param name="cast">"ROLE=CHARACTER,..."; null for nobody in particular.</param>
    /// <param name="play">Whose roles.</param>
    public IReadOnlyDictionary<string, string> Of(string? cast, Screenplay play)
    {
        var playing = new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase);
        foreach (var pair in (cast ?? "").Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
        {
            if (pair.Split('=', 2, StringSplitOptions.TrimEntries) is not [{ Length: > 0 } role, { Length: > 0 } who])
                throw new UsageException($"--cast takes ROLE=CHARACTER,... ; \"{pair}\" is not that.");
            if (!play.Lines.Any(l => l.Role.Equals(role, StringComparison.OrdinalIgnoreCase)))
                throw new UsageException($"Nobody in the screenplay is called \"{role}\".");
            playing[role] = KeyOf(who);
        }
        return playing;
    }
}
