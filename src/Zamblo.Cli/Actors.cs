using System.Text.Json;
using Zamblo.Core.Interchange;
using Zamblo.Core.Portraits;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Wardrobe;
using Zamblo.Media;
using Zamblo.Media.Portraits;

namespace Zamblo.Cli;

/// <summary>Characters by their keys, or out of files that Casting has written.</summary>
internal sealed class Actors
{
    private readonly Dictionary<string, WardrobeRecipe> _fromFiles = [];

    private readonly Dictionary<string, PortraitRecipe> _portraits = [];

    private readonly Dictionary<string, PlateFigure> _plates = [];

    /// <summary>The key of somebody in a clip.</summary>
    /// <param name="path">Of the clip.</param>
    /// <param name="plate">What was followed in it.</param>
    public string KeyOfPlate(string path, FollowedPlate plate)
    {
        _plates[path] = new PlateFigure(plate.Track, plate.Hash, plate.Look, Path.GetFileNameWithoutExtension(path), path);
        return path;
    }

    private readonly Dictionary<string, DrawnRecipe> _drawings = [];

    public Actors() =>
        Library = CastLibrary.With(_fromFiles.GetValueOrDefault, _portraits.GetValueOrDefault, _plates.GetValueOrDefault, _drawings.GetValueOrDefault);

    /// <summary>The key of a character that is made from a picture.</summary>
    /// <param name="path">Of the picture.</param>
    /// <param name="face">Left, top, width and height of the face in pixels; null finds it.</param>
    /// <exception cref="MediaException">It is no picture, or nobody is found in it.</exception>
    public string KeyOfPicture(string path, float[]? face)
    {
        if (_portraits.ContainsKey(path))
            return path;
        if (new FileInfo(Terminal.ExistingFile(path)).Length > PictureFiles.Largest)
            throw new MediaException($"\"{Path.GetFileName(path)}\" is larger than a picture can be.");
        var picture = PictureFiles.TakeAsync(File.ReadAllBytes(path), Path.GetFileName(path)).GetAwaiter().GetResult();
        var found =
            face == null ? PortraitMaker.Guess(picture).FirstOrDefault() : DrawnFace.Find(picture, face[0], face[1], face[2], face[3], PortraitKind.Person);
        var marks =
            found
            ?? throw new MediaException($"No face was found in \"{Path.GetFileName(path)}\": say where it is with --face LEFT,TOP,WIDTH,HEIGHT in pixels.");
        var made = PortraitMaker.Make(picture, [new PortraitWish(Path.GetFileNameWithoutExtension(path), marks)])[0];
        foreach (var (hash, bytes) in made.Pictures)
            PictureShelf.Hold(hash, bytes);
        _portraits[path] = made.Recipe;
        return path;
    }

    // What a picture's name ends in.
    private static readonly string[] Pictures = [".jpg", ".jpeg", ".png", ".webp"];

    /// <summary>Those that come with the program and those that were read.</summary>
    public CastLibrary Library { get; }

    /// <summary>The key of a character: one that is known, or a file that is read now.</summary>
    /// <exception cref="UsageException">Neither.</exception>
    /// <exception cref="MediaException">The file makes no figure.</exception>
    public string KeyOf(string named)
    {
        if (Library.Has(named))
            return named;
        if (Pictures.Any(p => named.EndsWith(p, StringComparison.OrdinalIgnoreCase)))
            return KeyOfPicture(named, null);
        if (named.EndsWith(".zip", StringComparison.OrdinalIgnoreCase))
        {
            if (new FileInfo(Terminal.ExistingFile(named)).Length > DrawingFiles.Largest)
                throw new MediaException($"\"{named}\" is larger than a character can be.");
            var brought = DrawingFiles.Read(File.ReadAllBytes(named));
            foreach (var (hash, bytes) in brought.Pictures)
                PictureShelf.Hold(hash, bytes);
            _drawings[named] = brought.Recipe;
            return named;
        }
        if (named.EndsWith(".svg", StringComparison.OrdinalIgnoreCase))
        {
            if (new FileInfo(Terminal.ExistingFile(named)).Length > DrawingFiles.Largest)
                throw new MediaException($"\"{named}\" is larger than a drawing can be.");
            var rigged = RiggedDrawings.Read(File.ReadAllText(named), Path.GetFileNameWithoutExtension(named));
            foreach (var warning in rigged.Warnings)
                Console.Error.WriteLine($"zamblo: {Path.GetFileName(named)}: {warning}");
            _drawings[named] = rigged.Recipe;
            return named;
        }
        if (!named.EndsWith(".json", StringComparison.OrdinalIgnoreCase))
            throw new UsageException(
                $"There is no character \"{named}\": \"characters\" lists them, a file ends in .json, .svg or .zip, a picture in .jpg, .png or .webp."
            );
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
