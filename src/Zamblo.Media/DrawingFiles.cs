using System.IO.Compression;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

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

        Then put both into a zip again, and bring it in Casting ("From a file"). What is wrong is said in a sentence; nothing is kept then.
        """;

    /// <summary>Reads one that was brought, whatever program has drawn it.</summary>
    /// <param name="bytes">Of the zip.</param>
    /// <exception cref="MediaException">It is none, or the drawing cannot be used; why.</exception>
    public static DrawnRecipe Read(byte[] bytes)
    {
        if (bytes.Length > Largest)
            throw new MediaException($"A character's file has at most {Largest >> 20} MB.");
        try
        {
            using var zip = new ZipArchive(new MemoryStream(bytes));
            return Read(TextOf(zip, Art) ?? TextOf(zip, ".svg"), TextOf(zip, Rig) ?? TextOf(zip, ".json"));
        }
        catch (InvalidDataException e)
        {
            throw new MediaException("This is no zip with a character's art.svg and rig.json.", e);
        }
    }

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
        var rig = JsonNode
            .Parse(before.Rig, null, new JsonDocumentOptions { CommentHandling = JsonCommentHandling.Skip, AllowTrailingCommas = true })!
            .AsObject();
        rig["name"] = name;
        return Read(art, rig.ToJsonString());
    }

    /// <summary>One as a zip.</summary>
    public static byte[] Write(DrawnRecipe recipe)
    {
        using var bytes = new MemoryStream();
        using (var zip = new ZipArchive(bytes, ZipArchiveMode.Create, leaveOpen: true))
            foreach (var (name, text) in new[] { (Art, recipe.Art), (Rig, recipe.Rig), (Help, HelpText) })
            {
                using var entry = new StreamWriter(zip.CreateEntry(name).Open(), new UTF8Encoding(false));
                entry.Write(text);
            }
        return bytes.ToArray();
    }

    // By its name, in whatever folder it lies; else the only one that ends so. No more of it than may be.
    private static string? TextOf(ZipArchive zip, string name)
    {
        var entries = zip
            .Entries.Where(e => !e.FullName.StartsWith("__MACOSX", StringComparison.Ordinal))
            .Where(e =>
                name.StartsWith('.') ? e.Name.EndsWith(name, StringComparison.OrdinalIgnoreCase) : e.Name.Equals(name, StringComparison.OrdinalIgnoreCase)
            )
            .ToArray();
        if (entries.Length == 0 || (name.StartsWith('.') && entries.Length > 1))
            return null;
        using var stream = entries[0].Open();
        var buffer = new byte[Largest + 1];
        var length = stream.ReadAtLeast(buffer, buffer.Length, throwOnEndOfStream: false);
        return length > Largest ? throw new MediaException($"{entries[0].Name} is too long to be a character's.") : Encoding.UTF8.GetString(buffer, 0, length);
    }
}
