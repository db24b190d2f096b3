using System.Collections.Concurrent;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Portraits;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;
using Zamblo.Media.Portraits;
using Zamblo.Studio.Assets;

namespace Zamblo.Studio.Characters;

/// <summary>A face in a picture, with what one takes hold of it by.</summary>
/// <param name="Marks">Of it.</param>
/// <param name="Handles">That can be dragged.</param>
/// <param name="Lines">To be drawn over the picture.</param>
public sealed record FaceCard(PortraitMarks Marks, IReadOnlyList<MarkHandle> Handles, IReadOnlyList<Mark[]> Lines)
{
    /// <summary>Of marks.</summary>
    public static FaceCard Of(PortraitMarks marks) => new(marks, MarkHandles.Of(marks), MarkHandles.Drawn(marks));
}

/// <summary>A picture that was brought, and the faces in it.</summary>
/// <param name="Hash">Of the picture.</param>
/// <param name="Width">In pixels.</param>
/// <param name="Height">In pixels.</param>
/// <param name="Faces">The largest first.</param>
public sealed record PictureWithFaces(string Hash, int Width, int Height, IReadOnlyList<FaceCard> Faces);

/// <summary>A face that is to become a character.</summary>
/// <param name="Name">What people read.</param>
/// <param name="Voice">That suits it.</param>
/// <param name="Kind">"person", "creature", "thing" or "machine"; a person where nothing is said.</param>
/// <param name="Marks">Of the face.</param>
public sealed record FaceOrder(string? Name, string? Voice, string? Kind, PortraitMarks Marks)
{
    /// <summary>What teeth it has.</summary>
    public TeethKind Teeth { get; init; }

    /// <summary>What eyes it has.</summary>
    public EyeKind Eyes { get; init; }

    /// <summary>Parts that hang on pivots.</summary>
    public IReadOnlyList<LoosePart>? Parts { get; init; }
}

/// <summary>Characters out of a picture.</summary>
/// <param name="Picture">Its hash.</param>
/// <param name="Faces">One or more.</param>
/// <param name="IsFree">Cut out, so that they may move and stand elsewhere.</param>
public sealed record PortraitOrder(string Picture, IReadOnlyList<FaceOrder> Faces, bool IsFree)
{
    /// <summary>Strokes of the brush over the cut-out, in their order.</summary>
    public IReadOnlyList<CutStroke>? Strokes { get; init; }
}

/// <summary>What was made of a picture.</summary>
/// <param name="Keys">Of the characters, in their order.</param>
/// <param name="Set">Key of the set behind them.</param>
/// <param name="Size">Of a film that is as the picture is.</param>
public sealed record MadeOfPicture(IReadOnlyList<string> Keys, string? Set, string Size);

/// <summary>Makes characters of pictures: takes them in, finds faces, shows what comes of it, keeps it.</summary>
public sealed class PortraitDesk(
    AssetStore assets,
    DataFolder folder,
    CharacterStore characters,
    Allowance allowance,
    IDbContextFactory<ZambloContext> contexts
)
{
    private const int MostFaces = 8,
        MostTried = 12;

    // What is being looked at but not kept yet: making it takes a second or two.
    private readonly ConcurrentDictionary<string, Lazy<Task<IReadOnlyList<PortraitRecipe>>>> _tried = new();

    /// <summary>Takes a picture in and finds the faces in it.</summary>
    /// <param name="body">The file.</param>
    /// <param name="name">As the person calls it.</param>
    /// <param name="claimed">How long it says it is, or null.</param>
    /// <param name="cancel">Stops.</param>
    /// <exception cref="MediaException">It is no picture, or too large.</exception>
    /// <exception cref="RequestException">There is no room for it.</exception>
    public async Task<PictureWithFaces> TakeAsync(Stream body, string? name, long? claimed, CancellationToken cancel)
    {
        var called = Check.FileName(name, "picture");
        folder.CheckRoom(claimed ?? 0);
        await allowance.CheckAsync(claimed);
        var bytes = await Incoming.BytesAsync(body, PictureFiles.Largest, "A picture", cancel);
        var picture = await PictureFiles.TakeAsync(bytes, called, cancel);
        // Where the models are not installed, faces are marked by hand.
        var faces = FaceFinder.IsThere ? await Task.Run(() => PortraitMaker.Guess(picture, cancel), cancel) : [];
        return new PictureWithFaces(await KeepAsync(picture.Bytes, called, cancel), picture.Width, picture.Height, [.. faces.Select(FaceCard.Of)]);
    }

    private async Task<string> KeepAsync(byte[] bytes, string name, CancellationToken cancel)
    {
        var hash = await assets.KeepAsync(contexts, bytes, name, cancel);
        PictureShelf.Know(hash, assets.PathOf(hash));
        _shown[hash] = true;
        return hash;
    }

    private readonly ConcurrentDictionary<string, bool> _shown = new();

    /// <summary>Whether a picture may be shown to a page.</summary>
    public async Task<bool> MayShowAsync(string hash)
    {
        if (_shown.ContainsKey(hash))
            return true;
        await using var db = await contexts.CreateDbContextAsync();
        return await db.OwnCharacters.AnyAsync(c => c.Recipe.Contains(hash)) && (_shown[hash] = true);
    }

    /// <summary>What would come of it; the same order again is at hand.</summary>
    /// <exception cref="RequestException">It is not as it must be.</exception>
    public async Task<IReadOnlyList<PortraitRecipe>> TryAsync(PortraitOrder? order)
    {
        if (order?.Faces == null || order.Faces.Any(f => f?.Marks == null || f.Parts?.Contains(null!) == true) || order.Strokes?.Contains(null!) == true)
            throw new RequestException("Say which picture, and where the faces are.");
        var key = JsonSerializer.Serialize(order);
        if (_tried.Count > MostTried)
            _tried.Clear();
        // Whoever goes away meanwhile does not take it from the next.
        var made = _tried.GetOrAdd(key, _ => new Lazy<Task<IReadOnlyList<PortraitRecipe>>>(() => MakeAsync(order)));
        try
        {
            return await made.Value;
        }
        catch
        {
            _tried.TryRemove(key, out _);
            throw;
        }
    }

    /// <summary>A face that somebody has drawn a box around.</summary>
    /// <param name="picture">Its hash.</param>
    /// <param name="left">Of the box, in pixels of the picture.</param>
    /// <param name="top">In pixels.</param>
    /// <param name="width">In pixels.</param>
    /// <param name="height">In pixels.</param>
    /// <param name="kind">What it is.</param>
    /// <exception cref="RequestException">The box is none.</exception>
    public async Task<FaceCard> FindInAsync(string picture, float left, float top, float width, float height, PortraitKind kind)
    {
        if (!(width >= 4 && height >= 4 && width <= LargestBox && height <= LargestBox && MathF.Abs(left) <= LargestBox && MathF.Abs(top) <= LargestBox))
            throw new RequestException("Draw a box around the face, forehead to chin.");
        var bytes = await ReadAsync(picture);
        return FaceCard.Of(await Task.Run(() => DrawnFace.Find(PictureFiles.Again(bytes), left, top, width, height, kind)));
    }

    // Of a picture, in pixels.
    private const float LargestBox = 20_000;

    private async Task<byte[]> ReadAsync(string picture) =>
        AssetStore.IsHash(picture) && await MayShowAsync(picture) && File.Exists(assets.PathOf(picture))
            ? await File.ReadAllBytesAsync(assets.PathOf(picture))
            : throw new NotFoundException("such picture");

    private async Task<IReadOnlyList<PortraitRecipe>> MakeAsync(PortraitOrder order)
    {
        if (order.Faces.Count is 0 or > MostFaces)
            throw new RequestException($"Mark a face, or up to {MostFaces}.");
        var bytes = await ReadAsync(order.Picture);
        folder.CheckRoom(0);
        var wishes = order
            .Faces.Select(
                (f, i) =>
                    new PortraitWish(Check.Name(string.IsNullOrWhiteSpace(f.Name) ? $"Face {i + 1}" : f.Name, 60, "A name"), f.Marks)
                    {
                        Voice = f.Voice is { Length: > 0 } voice ? voice : "espeak:en-us",
                        IsFree = order.IsFree,
                        IsPerson = f.Kind is null or "person",
                        Teeth = Check.Known(f.Teeth, "kind of teeth"),
                        Eyes = Check.Known(f.Eyes, "kind of eyes"),
                        Parts = f.Parts ?? [],
                    }
            )
            .ToArray();
        var made = await Task.Run(() => PortraitMaker.Make(PictureFiles.Again(bytes), wishes, order.Strokes));
        foreach (var (hash, picture) in made.SelectMany(m => m.Pictures).DistinctBy(p => p.Key))
            if (await KeepAsync(picture, "part of a portrait", CancellationToken.None) != hash)
                throw new InvalidDataException("A picture changed while it was kept.");
        return [.. made.Select(m => m.Recipe)];
    }

    /// <summary>Makes characters and keeps them in Casting.</summary>
    /// <exception cref="RequestException">The order is not as it must be.</exception>
    public async Task<MadeOfPicture> SaveAsync(PortraitOrder order)
    {
        var recipes = await TryAsync(order);
        var keys = new List<string>();
        for (var i = 0; i < recipes.Count; i++)
            keys.Add(await characters.SaveAsync(recipes[i], order.Faces[i].Kind));
        return new MadeOfPicture(keys, recipes[0].Behind, SizeOf(recipes[0]));
    }

    // The longer side as a usual film's; both even.
    private static string SizeOf(PortraitRecipe portrait)
    {
        var size = FrameSize.Like(portrait.Width, portrait.Height);
        return $"{size.Width}x{size.Height}";
    }
}
