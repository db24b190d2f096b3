using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Zamblo.Core.Portraits;
using Zamblo.Core.Stage;
using Zamblo.Core.Stage.Wardrobe;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Studio.Assets;

namespace Zamblo.Studio.Characters;

/// <summary>A character as Casting shows it.</summary>
/// <param name="Key">In addresses and productions.</param>
/// <param name="Name">What people read.</param>
/// <param name="Description">One sentence.</param>
/// <param name="Voice">That suits it.</param>
/// <param name="Kind">"person", "creature", "thing" or "machine".</param>
/// <param name="IsOwn">Made here, not shipped.</param>
/// <param name="IsDrawn">Drawn by a hand: its drawing can be taken out, drawn over, and brought back.</param>
/// <param name="IsDressed">Made of parts of the Wardrobe, so that it can be changed there.</param>
public sealed record CharacterCard(string Key, string Name, string Description, string Voice, string Kind, bool IsOwn, bool IsDressed, bool IsDrawn);

/// <summary>What a character that is cast has been changed into.</summary>
/// <param name="Key">In addresses and productions.</param>
/// <param name="Name">What people read.</param>
public sealed record NewerCharacter(string Key, string Name);

/// <summary>A character that somebody has made.</summary>
/// <param name="Recipe">What it is made of.</param>
/// <param name="Kind">"person", "creature", "thing" or "machine"; a person where nothing is said.</param>
/// <param name="Replaces">One of one's own that it takes the place of in Casting.</param>
public sealed record NewCharacter(WardrobeRecipe? Recipe, string? Kind, string? Replaces);

/// <summary>Characters of one's own: kept by the hash of their recipe, so that a production always has the one that it was made with.</summary>
public sealed class CharacterStore(IDbContextFactory<ZambloContext> contexts, AssetStore assets, PlateStore plates, IServiceProvider services)
{
    private const string Own = "own-",
        FromPicture = "pic-",
        FromClip = "clip-",
        Drawn = "art-";
    private const int MostListed = 500;
    private static readonly string[] Kinds = ["person", "creature", "thing", "machine"];

    // All of them, by key; read once, and again only what is saved here.
    private readonly ConcurrentDictionary<string, OwnCharacter> _rows = new();
    private readonly ConcurrentDictionary<string, WardrobeRecipe?> _recipes = new();
    private readonly ConcurrentDictionary<string, PortraitRecipe?> _portraits = new();
    private readonly ConcurrentDictionary<string, DrawnRecipe?> _drawings = new();
    private bool _isRead;
    private readonly Lock _gate = new();

    // The library asks this store for recipes, so it is not there yet when the store is made.
    private CastLibrary Library => services.GetRequiredService<CastLibrary>();

    /// <summary>The recipe of one of one's own; null where there is none.</summary>
    public WardrobeRecipe? Find(string key) => key.StartsWith(Own, StringComparison.Ordinal) && Rows().TryGetValue(key, out var row) ? RecipeOf(row) : null;

    /// <summary>What one of one's own is made of that comes from a picture; null where there is none.</summary>
    public PortraitRecipe? FindPortrait(string key) =>
        key.StartsWith(FromPicture, StringComparison.Ordinal) && Rows().TryGetValue(key, out var row) ? PortraitOf(row) : null;

    /// <summary>One of one's own that is somebody in a clip; null where there is none.</summary>
    public PlateFigure? FindPlate(string key) => FindPlateRecipe(key) is { } recipe ? plates.FigureOf(recipe, key) : null;

    /// <summary>What somebody in a clip is made of; null where there is none.</summary>
    public PlateRecipe? FindPlateRecipe(string key) =>
        key.StartsWith(FromClip, StringComparison.Ordinal) && Rows().TryGetValue(key, out var row) ? PlateRecipe.Read(row.Recipe) : null;

    /// <summary>Drawing and rig of one that somebody has drawn; null where there is none.</summary>
    public DrawnRecipe? FindDrawing(string key) =>
        key.StartsWith(Drawn, StringComparison.Ordinal) && Rows().TryGetValue(key, out var row)
            ? _drawings.GetOrAdd(key, _ => Known(DrawnRecipe.Read(row.Recipe)))
            : null;

    // Whoever draws it is told where its pictures are.
    private DrawnRecipe? Known(DrawnRecipe? drawing)
    {
        foreach (var hash in drawing?.Hashes ?? [])
            PictureShelf.Know(hash, assets.PathOf(hash));
        return drawing;
    }

    /// <summary>One of one's own as a file: what it is made of, as JSON, and the hashes of what belongs to it; null where there is none.</summary>
    public (string Json, IReadOnlyList<string> Hashes)? FileOf(string key)
    {
        if (!Rows().TryGetValue(key, out var row))
            return null;
        string[]? hashes = Find(key) != null ? [] : (FindDrawing(key)?.Hashes ?? FindPortrait(key)?.Hashes ?? FindPlateRecipe(key)?.Hashes)?.ToArray();
        return hashes == null ? null : (row.Recipe, hashes);
    }

    /// <summary>Takes one in that <see cref="FileOf"/> has given; gives its key, null for what is none.</summary>
    /// <exception cref="RequestException">It makes no figure.</exception>
    public async Task<string?> TakeAsync(string json, string kind) =>
        PortraitRecipe.Read(json) is { } portrait ? await SaveAsync(portrait, kind)
        : PlateRecipe.Read(json) is { } plate ? await SaveAsync(plate)
        : DrawnRecipe.Read(json) is { } drawing ? await SaveAsync(DrawingFiles.Read(drawing.Art, drawing.Rig), kind)
        : JsonSerializer.Deserialize<WardrobeRecipe>(json, JsonSerializerOptions.Web) is { } recipe ? await SaveAsync(new NewCharacter(recipe, kind, null))
        : null;

    // Whoever draws it is told where its pictures are.
    private PortraitRecipe? PortraitOf(OwnCharacter row) =>
        _portraits.GetOrAdd(
            row.Key,
            _ =>
            {
                var portrait = PortraitRecipe.Read(row.Recipe);
                foreach (var hash in portrait?.Hashes ?? [])
                    PictureShelf.Know(hash, assets.PathOf(hash));
                return portrait;
            }
        );

    /// <summary>What a character is: "person", "creature", "thing" or "machine".</summary>
    public string KindOf(string key) => Rows().TryGetValue(key, out var row) ? row.Kind : Library.KindOf(key);

    /// <summary>All that can be cast: one's own first, the newest at the front.</summary>
    public IReadOnlyList<CharacterCard> Cards() =>
        [
            .. Rows().Values.Where(r => r.IsListed && Library.Has(r.Key)).OrderByDescending(r => r.Created).Select(r => CardOf(r.Key, r.Kind, true)),
            .. Library.CharacterKeys.Select(k => CardOf(k, Library.KindOf(k), false)),
        ];

    // What is made of parts says all of it in its recipe: nobody is drawn for a list.
    private CharacterCard CardOf(string key, string kind, bool isOwn)
    {
        if (Library.RecipeOf(key) is { } recipe)
            return new CharacterCard(key, recipe.Name, recipe.Description, recipe.Voice, kind, isOwn, true, false);
        var rig = Library.Character(key).Rig;
        return new CharacterCard(key, rig.Name, rig.Description, rig.Voice, kind, isOwn, false, !isOwn || FindDrawing(key) != null);
    }

    /// <summary>Where a character's face is in its preview: middle, and stage units across.</summary>
    public IReadOnlyList<float> ViewOf(string key) => CharacterPreview.PortraitOf(Library.Character(key));

    /// <summary>Keeps a character; gives its key. The same recipe again is the same character.</summary>
    /// <exception cref="RequestException">Its recipe makes no figure.</exception>
    public async Task<string> SaveAsync(NewCharacter order)
    {
        var brought = order.Recipe ?? throw new RequestException("This request has no recipe.");
        var recipe = brought with { Name = brought.Name?.Trim()!, Description = brought.Description?.Trim()! };
        if (recipe.Description is { Length: > 200 })
            throw new RequestException("A character's sentence has at most 200 characters.");
        var kind = order.Kind ?? Kinds[0];
        if (!Kinds.Contains(kind))
            throw new RequestException($"There is no kind of character \"{kind}\": there are {string.Join(", ", Kinds)}.");
        try
        {
            Tailor.Make(recipe, Own);
        }
        catch (ArtException e)
        {
            throw new RequestException(e.Message);
        }
        await Synthesis.CheckAsync(recipe.Voice);
        // Written in one order, whatever order the parts came in.
        var json = JsonSerializer.Serialize(
            recipe with
            {
                Parts = new SortedDictionary<string, string>(recipe.Parts.ToDictionary(), StringComparer.Ordinal),
            },
            JsonSerializerOptions.Web
        );
        return await KeepAsync(Own, json, recipe.Name, kind, order.Replaces);
    }

    /// <summary>Keeps a character that was made from a picture; gives its key. Its pictures are assets already.</summary>
    /// <exception cref="RequestException">It makes no figure.</exception>
    public async Task<string> SaveAsync(PortraitRecipe portrait, string? kind, string? replaces = null)
    {
        if (portrait.Error() is { } error)
            throw new RequestException(error);
        if (kind != null && !Kinds.Contains(kind))
            throw new RequestException($"There is no kind of character \"{kind}\": there are {string.Join(", ", Kinds)}.");
        await Synthesis.CheckAsync(portrait.Voice);
        return await KeepAsync(FromPicture, portrait.ToJson(), portrait.Name, kind ?? Kinds[0], replaces);
    }

    /// <summary>Keeps somebody in a clip; gives the key. Its files are assets already.</summary>
    /// <exception cref="RequestException">It makes no figure.</exception>
    public async Task<string> SaveAsync(PlateRecipe plate, string? replaces = null)
    {
        if (plate.Error() is { } error)
            throw new RequestException(error);
        return await KeepAsync(FromClip, plate.ToJson(), plate.Name, Kinds[0], replaces);
    }

    /// <summary>Keeps a character that somebody has drawn; gives its key.</summary>
    /// <param name="drawing">Its drawing and rig.</param>
    /// <param name="kind">"person", "creature", "thing" or "machine"; a creature where nothing is said.</param>
    /// <param name="isDrawnOver">Somebody brings it: under a name that is there already it is that one, drawn over.</param>
    /// <exception cref="RequestException">It makes no figure.</exception>
    public async Task<string> SaveAsync(DrawnRecipe drawing, string? kind, bool isDrawnOver = false)
    {
        if (kind != null && !Kinds.Contains(kind))
            throw new RequestException($"There is no kind of character \"{kind}\": there are {string.Join(", ", Kinds)}.");
        Rig rig;
        try
        {
            rig = Known(drawing)!.Make("this character").Rig;
        }
        catch (ArtException e)
        {
            throw new RequestException(e.Message);
        }
        await Synthesis.CheckAsync(rig.Voice);
        var name = Check.Name(rig.Name, 60, "A character's name");
        bool IsIt(OwnCharacter r) => r.IsListed && r.Key.StartsWith(Drawn, StringComparison.Ordinal) && r.Name.Equals(name, StringComparison.OrdinalIgnoreCase);
        var before = isDrawnOver ? Rows().Values.Where(IsIt).MaxBy(r => r.Created) : null;
        return await KeepAsync(Drawn, drawing.ToJson(), name, kind ?? before?.Kind ?? Kinds[1], before?.Key);
    }

    /// <summary>Keeps one that was brought, with its pictures; under a name that is there already it is that one, drawn over.</summary>
    /// <exception cref="RequestException">It makes no figure.</exception>
    public async Task<string> SaveAsync(BroughtDrawing brought, string? kind, CancellationToken cancel)
    {
        foreach (var (_, bytes) in brought.Pictures)
            await assets.KeepAsync(contexts, bytes, "a drawn mouth", cancel);
        return await SaveAsync(brought.Recipe, kind, isDrawnOver: true);
    }

    private async Task<string> KeepAsync(string prefix, string json, string name, string kind, string? replaces)
    {
        var key = prefix + Convert.ToHexStringLower(SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(json)))[..16];
        if (Rows().Values.Count(r => r.IsListed) >= MostListed)
            throw new RequestException($"Casting holds {MostListed} characters of your own: delete some first.");
        await using var db = await contexts.CreateDbContextAsync();
        var row = await db.OwnCharacters.FirstOrDefaultAsync(c => c.Key == key);
        if (row == null)
            db.OwnCharacters.Add(
                row = new OwnCharacter
                {
                    Key = key,
                    Recipe = json,
                    Created = DateTime.UtcNow,
                }
            );
        (row.Name, row.Kind, row.IsListed) = (name, kind, true);
        // Whoever is changed back into what it was is that one again; what only comes along in a file is as old as it was.
        if (replaces != null)
            row.ReplacedBy = null;
        if (replaces is { } old && old != key && await db.OwnCharacters.FirstOrDefaultAsync(c => c.Key == old) is { } before)
        {
            (before.IsListed, before.ReplacedBy) = (false, key);
            _rows[old] = before;
        }
        await db.SaveChangesAsync();
        _rows[key] = row;
        return key;
    }

    /// <summary>What a character has been changed into since, the last of them; null where nobody has, or where that is not to be had any more.</summary>
    /// <param name="character">As it is cast, one of several alike, too.</param>
    public NewerCharacter? NewerOf(string character)
    {
        var key = character.Split('~')[0];
        var passed = new HashSet<string> { key };
        var last = key;
        // Who was changed back and forth goes round.
        while (Rows().TryGetValue(last, out var row) && row.ReplacedBy is { } next && passed.Add(next))
            last = next;
        return last != key && Rows().TryGetValue(last, out var found) && found.IsListed && Library.Has(last) ? new NewerCharacter(last, found.Name) : null;
    }

    /// <summary>Whether a character that is cast is one's own.</summary>
    public bool IsOwn(string character) => Rows().ContainsKey(character.Split('~')[0]);

    /// <summary>Takes one of one's own out of Casting; productions that have it keep it.</summary>
    /// <exception cref="NotFoundException">It is not one's own.</exception>
    public async Task HideAsync(string key)
    {
        await using var db = await contexts.CreateDbContextAsync();
        var row = await db.OwnCharacters.FirstOrDefaultAsync(c => c.Key == key) ?? throw new NotFoundException("character of your own");
        row.IsListed = false;
        await db.SaveChangesAsync();
        _rows[key] = row;
    }

    private ConcurrentDictionary<string, OwnCharacter> Rows()
    {
        lock (_gate)
        {
            if (_isRead)
                return _rows;
            using var db = contexts.CreateDbContext();
            foreach (var row in db.OwnCharacters.AsNoTracking())
                _rows[row.Key] = row;
            _isRead = true;
            return _rows;
        }
    }

    // A row that cannot be read is no character.
    private WardrobeRecipe? RecipeOf(OwnCharacter row) =>
        _recipes.GetOrAdd(
            row.Key,
            _ =>
            {
                if (!row.Key.StartsWith(Own, StringComparison.Ordinal))
                    return null;
                try
                {
                    var recipe = JsonSerializer.Deserialize<WardrobeRecipe>(row.Recipe, JsonSerializerOptions.Web);
                    if (recipe != null)
                        Tailor.Check(recipe);
                    return recipe;
                }
                catch (Exception e) when (e is JsonException or ArtException or NotSupportedException)
                {
                    return null;
                }
            }
        );
}
