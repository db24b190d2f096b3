using System.IO.Compression;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>A character as it came in a file.</summary>
/// <param name="Recipe">Drawing and rig.</param>
/// <param name="Pictures">Of its mouths, by their hashes.</param>
public sealed record BroughtDrawing(DrawnRecipe Recipe, IReadOnlyDictionary<string, byte[]> Pictures)
{
    /// <summary>What of it could not be taken over, a sentence each.</summary>
    public IReadOnlyList<string> Warnings { get; init; } = [];
}

/// <summary>
/// Characters that a hand has drawn, as files: a zip with art.svg and rig.json, as an artist takes it to a drawing program and brings it back.
/// </summary>
public static class DrawingFiles
{
    /// <summary>Largest file, in bytes.</summary>
    public const int Largest = 10 << 20;

    private const string Art = "art.svg",
        Rig = "rig.json",
        Help = "READ ME.txt";

    // What goes along, so that nobody has to look for it.
    private const string HelpText = """
        A character of Zamblo, to be drawn over.

        art.svg   Open it in any program that draws SVG. Every part is a group with a name (as its id, or as the label of a layer): keep the names and
                  what lies in front of what; draw anything you like inside. Empty groups (mouth, eyes, brows) hold the place of what is drawn anew in
                  every frame. Text, pictures, clips, masks and filters cannot be drawn: turn them into paths. Gradients become one colour.
        rig.json  Where parts turn (pivot), what moves them, where eyes, brows and mouth are, in the drawing's own units; name, sentence and voice.
        *.png     Mouths of your own, if you like: one transparent picture for each shape, named by it (rest, closed, tuck, tongue, tip, back, push, teeth,
                  curl, open, mid, wide, round, pucker) or by its sounds (mbp, fv, th, l, ai, e, o, u...). Pictures as large as the whole drawing lie
                  where they are; others lie with their middle on the mouth's. Two are enough; missing ones are served by the nearest.

        Then put both into a zip again, and bring it in Casting ("From a file"). What is wrong is said in a sentence; nothing is kept then.
        """;

    /// <summary>Reads one that was brought, whatever program has drawn it.</summary>
    /// <param name="bytes">Of the zip.</param>
    /// <exception cref="MediaException">It is none, or the drawing cannot be used; why.</exception>
    public static BroughtDrawing Read(byte[] bytes)
    {
        if (bytes.Length > Largest)
            throw new MediaException($"A character's file has at most {Largest >> 20} MB.");
        try
        {
            using var zip = new ZipArchive(new MemoryStream(bytes));
            var recipe = Read(TextOf(zip, Art) ?? TextOf(zip, ".svg"), TextOf(zip, Rig) ?? TextOf(zip, ".json"));
            var mouths = zip.Entries.Where(e => e.Name.EndsWith(".png", StringComparison.OrdinalIgnoreCase) && !IsOfFinder(e)).Take(MostPictures + 1).ToArray();
            if (mouths.Length > MostPictures)
                throw new MediaException($"A character's file has at most {MostPictures} pictures.");
            return WithMouths(recipe, [.. mouths.Select(e => (e.Name, BytesOf(e)))]);
        }
        catch (InvalidDataException e)
        {
            throw new MediaException("This is no zip with a character's art.svg and rig.json.", e);
        }
    }

    /// <summary>Mouths drawn as pictures, laid into a character (<see cref="MouthPictures"/>); those that it has already, by their hashes.</summary>
    /// <exception cref="MediaException">One cannot be used, or is missing.</exception>
    public static BroughtDrawing WithMouths(DrawnRecipe recipe, IReadOnlyList<(string Name, byte[] Bytes)> files)
    {
        var pictures = new Dictionary<string, byte[]>();
        var drawn = new List<(string, byte[])>();
        foreach (var (name, bytes) in files)
            if (recipe.Hashes.Contains(Path.GetFileNameWithoutExtension(name)) && MouthPictures.HashOf(bytes) is var hash && name.StartsWith(hash))
                pictures[hash] = bytes;
            else
                drawn.Add((name, bytes));
        if (drawn.Count > 0)
            return MouthPictures.Lay(recipe, drawn);
        return recipe.Hashes.FirstOrDefault(h => !pictures.ContainsKey(h)) is { } missing
            ? throw new MediaException($"A mouth of this character is a picture that its file lacks ({missing[..8]}….png).")
            : new BroughtDrawing(recipe, pictures);
    }

    private const int MostPictures = 64;

    /// <summary>The same from its two texts.</summary>
    /// <exception cref="MediaException">One is missing, or cannot be used.</exception>
    public static DrawnRecipe Read(string? art, string? rig)
    {
        if (art == null || rig == null)
            throw new MediaException($"A character's file holds {Art} and {Rig}: {(art == null ? Art : Rig)} is missing.");
        try
        {
            var recipe = new DrawnRecipe(SvgTidy.Plain(art, DrawnRecipe.PartsOf(rig)), rig);
            recipe.Make("this character");
            return recipe;
        }
        catch (ArtException e)
        {
            throw new MediaException(e.Message, e);
        }
    }

    /// <summary>One that was drawn over: another drawing on the rig of the one that it was.</summary>
    /// <param name="before">As it was.</param>
    /// <param name="art">The drawing as it came.</param>
    /// <param name="name">What it is called now.</param>
    /// <exception cref="MediaException">The drawing cannot be used; why.</exception>
    public static DrawnRecipe Over(DrawnRecipe before, string art, string name)
    {
        return Read(art, Named(before, name).Rig);
    }

    /// <summary>The same under another name.</summary>
    public static DrawnRecipe Named(DrawnRecipe before, string name)
    {
        var rig = MouthPictures.Open(before);
        rig["name"] = name;
        return before with { Rig = rig.ToJsonString() };
    }

    /// <summary>One as a zip.</summary>
    /// <param name="recipe">Drawing and rig.</param>
    /// <param name="pictureOf">Where its mouths are pictures: their bytes, by hash; null for what is not there.</param>
    public static byte[] Write(DrawnRecipe recipe, Func<string, byte[]?>? pictureOf = null)
    {
        using var bytes = new MemoryStream();
        using (var zip = new ZipArchive(bytes, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (name, text) in new[] { (Art, recipe.Art), (Rig, recipe.Rig), (Help, HelpText) })
            {
                using var entry = new StreamWriter(zip.CreateEntry(name).Open(), new UTF8Encoding(false));
                entry.Write(text);
            }
            foreach (var hash in recipe.Hashes)
                if (pictureOf?.Invoke(hash) is { } picture)
                {
                    using var entry = zip.CreateEntry($"mouths/{hash}.png").Open();
                    entry.Write(picture);
                }
        }
        return bytes.ToArray();
    }

    // By its name, in whatever folder it lies; else the only one that ends so. No more of it than may be.
    private static string? TextOf(ZipArchive zip, string name)
    {
        var entries = zip
            .Entries.Where(e => !IsOfFinder(e))
            .Where(e =>
                name.StartsWith('.') ? e.Name.EndsWith(name, StringComparison.OrdinalIgnoreCase) : e.Name.Equals(name, StringComparison.OrdinalIgnoreCase)
            )
            .ToArray();
        if (entries.Length == 0 || (name.StartsWith('.') && entries.Length > 1))
            return null;
        return Encoding.UTF8.GetString(BytesOf(entries[0]));
    }

    private static bool IsOfFinder(ZipArchiveEntry entry) => entry.FullName.StartsWith("__MACOSX", StringComparison.Ordinal);

    private static byte[] BytesOf(ZipArchiveEntry entry)
    {
        using var stream = entry.Open();
        var buffer = new byte[Largest + 1];
        var length = stream.ReadAtLeast(buffer, buffer.Length, throwOnEndOfStream: false);
        return length > Largest ? throw new MediaException($"{entry.Name} is too long to be a character's.") : buffer[..length];
    }
}
