using System.IO.Compression;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Studio.Assets;
using Zamblo.Studio.Characters;
using Zamblo.Studio.Edits;
using Zamblo.Studio.Hearings;
using Zamblo.Studio.Scenes;

namespace Zamblo.Studio.Productions;

/// <summary>
/// A production as one file that opens on another machine: a zip of <c>production.json</c> (format, rows by their kind, names of media),
/// <c>media/</c> (sounds and pictures by the SHA-256 of their contents), <c>heard/</c> (what was heard in them, so that nothing is listened to
/// anew) and <c>characters/</c> (recipes of one's own).
/// Kinds and columns that a reader does not know are left out, those that it misses have their usual value: older and newer versions read each other.
/// </summary>
public sealed class ProductionArchive(
    IDbContextFactory<ZambloContext> contexts,
    AssetStore assets,
    DataFolder folder,
    Allowance allowance,
    VoiceStore voices,
    CharacterStore characters,
    CastLibrary library,
    HearingDesk hearings
)
{
    /// <summary>Of what is written now.</summary>
    public const int Format = 1;

    // Bounds of what is read: entries, bytes of the manifest, of one analysis, of all.
    private const int MostEntries = 50_000;
    private const long LargestManifest = 256L << 20,
        LargestHearing = 64L << 20,
        LargestRecipe = 1L << 20,
        LargestAll = 16L << 30;

    private sealed record Media(string Hash, string Name);

    private sealed record Character(string Key, string Kind);

    private sealed record Manifest(int Format, string Title, Dictionary<string, JsonNode[]> Rows, Media[] Media, Character[] Characters);

    /// <summary>Writes a production.</summary>
    /// <exception cref="NotFoundException">There is none.</exception>
    public async Task WriteAsync(Guid id, Stream output, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var rows = await ProductionRows.LoadAsync(db, id, isTracked: false);
        var production = rows.OfType<Production>().SingleOrDefault() ?? throw new NotFoundException("such production");
        var hashes = rows.SelectMany(r => r.GetType().GetProperties().Where(p => p.PropertyType == typeof(string)).Select(p => p.GetValue(r) as string))
            .Where(AssetStore.IsHash)
            .Select(h => h!)
            .ToHashSet();
        var own = rows.OfType<CastMember>()
            .Select(m => CastLibrary.Plain(m.Character))
            .Distinct()
            .Select(k => (Key: k, File: characters.FileOf(k)))
            .Where(c => c.File != null)
            .ToDictionary(c => c.Key, c => c.File!.Value);
        // A character that was made from a picture takes its pictures along.
        hashes.UnionWith(own.Values.SelectMany(c => c.Hashes));
        var media = await db.Assets.AsNoTracking().Where(a => hashes.Contains(a.Hash)).Select(a => new Media(a.Hash, a.Name)).ToArrayAsync(cancel);
        using var zip = new ZipArchive(output, ZipArchiveMode.Create, leaveOpen: true);
        var manifest = new Manifest(
            Format,
            production.Title,
            rows.GroupBy(r => r.GetType()).ToDictionary(g => g.Key.Name, g => g.Select(r => JsonSerializer.SerializeToNode(r, g.Key)!).ToArray()),
            media,
            [.. own.Keys.Select(k => new Character(k, characters.KindOf(k)))]
        );
        await using (var file = zip.CreateEntry("production.json").Open())
            await JsonSerializer.SerializeAsync(file, manifest, JsonSerializerOptions.Web, cancel);
        foreach (var (key, character) in own)
            await using (var file = zip.CreateEntry($"characters/{key}.json").Open())
                await file.WriteAsync(Encoding.UTF8.GetBytes(character.Json), cancel);
        foreach (var m in media)
            // Sounds are as small as they get, most of them.
            await CopyAsync(zip, $"media/{m.Hash}", assets.PathOf(m.Hash), CompressionLevel.Fastest, cancel);
        foreach (var key in (await SceneReader.LinesAsync(db, id)).Select(VoiceStore.KeyOf).Distinct())
            if (voices.FileOf(key) is { } heard)
                await CopyAsync(zip, $"heard/{key}.json", heard, CompressionLevel.Optimal, cancel);
    }

    private static async Task CopyAsync(ZipArchive zip, string name, string path, CompressionLevel level, CancellationToken cancel)
    {
        if (!File.Exists(path))
            return;
        await using var from = File.OpenRead(path);
        await using var to = zip.CreateEntry(name, level).Open();
        await from.CopyToAsync(to, cancel);
    }

    /// <summary>Reads one: a new production on the shelf.</summary>
    /// <param name="input">The file; it must be one that can be gone about in.</param>
    /// <param name="cancel">Stops; sounds that have come stay until they are swept.</param>
    /// <returns>Its id.</returns>
    /// <exception cref="RequestException">It is none, or damaged.</exception>
    public async Task<Guid> ReadAsync(Stream input, CancellationToken cancel = default)
    {
        try
        {
            using var zip = new ZipArchive(input, ZipArchiveMode.Read, leaveOpen: true);
            if (zip.Entries.Count > MostEntries || zip.Entries.Sum(e => e.Length) > LargestAll)
                throw new RequestException("This file holds more than a production can.");
            folder.CheckRoom(zip.Entries.Sum(e => e.Length));
            await allowance.CheckAsync(zip.Entries.Sum(e => e.Length));
            var manifest = JsonSerializer.Deserialize<Manifest>(await BytesAsync(zip, "production.json", LargestManifest, cancel), JsonSerializerOptions.Web);
            if (manifest is not { Rows: not null, Format: > 0 })
                throw NoProduction();
            if (manifest.Format > Format)
                throw new RequestException("This file was made by a newer version of the program: open it there, or bring this one up to date.");
            var keys = await TakeCharactersAsync(zip, manifest, cancel);
            await using var db = await contexts.CreateDbContextAsync(cancel);
            foreach (var media in manifest.Media ?? [])
                await TakeMediaAsync(zip, db, media, cancel);
            foreach (var entry in zip.Entries.Where(e => e.FullName.StartsWith("heard/", StringComparison.Ordinal) && e.Length <= LargestHearing))
                await voices.TakeAsync(Path.GetFileNameWithoutExtension(entry.Name), await BytesAsync(zip, entry.FullName, LargestHearing, cancel));
            var rows = RowsOf(db, manifest);
            foreach (var member in rows.OfType<CastMember>())
                if (member.Character is { Length: > 0 } played && keys.TryGetValue(CastLibrary.Plain(played), out var key))
                    member.Character = key + played[CastLibrary.Plain(played).Length..];
            var known = (await db.Assets.Select(a => a.Hash).ToListAsync(cancel)).ToHashSet();
            var production = ProductionRows.Take(db, rows, known.Contains) ?? throw NoProduction();
            production.Title = await ProductionList.FreeTitleAsync(db, Check.Name(production.Title, ProductionEdits.LongestTitle, "A title"));
            (production.Revision, production.HistoryPosition, production.DeletedAt) = (0, 0, null);
            production.TeamId = ActingPerson.Team;
            (production.Created, production.Modified) = (DateTime.UtcNow, DateTime.UtcNow);
            await db.SaveChangesAsync(cancel);
            await hearings.AskAsync(production.Id);
            return production.Id;
        }
        catch (Exception e) when (e is InvalidDataException or JsonException or NotSupportedException or DbUpdateException)
        {
            throw NoProduction();
        }
    }

    private static RequestException NoProduction() => new("This is no production of Zamblo, or it is damaged.");

    private async Task<Dictionary<string, string>> TakeCharactersAsync(ZipArchive zip, Manifest manifest, CancellationToken cancel)
    {
        var keys = new Dictionary<string, string>();
        foreach (var character in manifest.Characters ?? [])
        {
            var json = Encoding.UTF8.GetString(await BytesAsync(zip, $"characters/{character.Key}.json", LargestRecipe, cancel));
            if (library.Has(character.Key))
                keys[character.Key] = character.Key;
            else if (await characters.TakeAsync(json, character.Kind) is { } key)
                keys[character.Key] = key;
        }
        return keys;
    }

    private async Task TakeMediaAsync(ZipArchive zip, ZambloContext db, Media media, CancellationToken cancel)
    {
        if (!AssetStore.IsHash(media.Hash) || zip.GetEntry("media/" + media.Hash) is not { } entry)
            return;
        await using var stream = entry.Open();
        var (hash, length) = await assets.SaveAsync(stream, UploadDesk.Largest, cancel);
        if (hash != media.Hash)
            throw new InvalidDataException("A sound is not what its name says.");
        await db.KeepAssetAsync(hash, length, Check.FileName(media.Name, "sound"));
    }

    private static List<object> RowsOf(ZambloContext db, Manifest manifest)
    {
        var rows = new List<object>();
        foreach (var type in ProductionRows.Types(db.Model))
            if (manifest.Rows.TryGetValue(type.ClrType.Name, out var nodes))
                foreach (var node in nodes)
                    if (node?.Deserialize(type.ClrType) is { } row)
                        rows.Add(row);
        return rows;
    }

    private static async Task<byte[]> BytesAsync(ZipArchive zip, string name, long most, CancellationToken cancel)
    {
        var entry = zip.GetEntry(name) ?? throw new InvalidDataException($"\"{name}\" is missing.");
        await using var stream = entry.Open();
        using var bytes = new MemoryStream();
        var buffer = new byte[1 << 16];
        int n;
        // What an entry claims to be long is not believed.
        while ((n = await stream.ReadAsync(buffer, cancel)) > 0)
        {
            if (bytes.Length + n > most)
                throw new InvalidDataException($"\"{name}\" is too large.");
            bytes.Write(buffer, 0, n);
        }
        return bytes.ToArray();
    }
}
