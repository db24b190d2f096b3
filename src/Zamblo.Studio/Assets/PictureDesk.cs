using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Stage;
using Zamblo.Data;
using Zamblo.Media;

namespace Zamblo.Studio.Assets;

/// <summary>Takes in pictures of one's own.</summary>
public sealed class PictureDesk(AssetStore assets, DataFolder folder, IDbContextFactory<ZambloContext> contexts, Allowance allowance)
{
    /// <summary>Takes one in, and gives it as a set.</summary>
    /// <param name="body">The file.</param>
    /// <param name="name">As the person calls it.</param>
    /// <param name="claimed">How long it says it is, or null.</param>
    /// <param name="cancel">Stops; nothing is kept.</param>
    /// <exception cref="MediaException">It is no picture, or too large.</exception>
    /// <exception cref="RequestException">There is no room for it.</exception>
    public async Task<PictureSet> TakeAsync(Stream body, string? name, long? claimed, CancellationToken cancel)
    {
        var called = Check.FileName(name, "picture");
        folder.CheckRoom(claimed ?? 0);
        await allowance.CheckAsync(claimed);
        var bytes = await Incoming.BytesAsync(body, PictureFiles.Largest, "A picture", cancel);
        var picture = await PictureFiles.TakeAsync(bytes, called, cancel);
        using var written = new MemoryStream(picture.Bytes);
        var (hash, length) = await assets.SaveAsync(written, cancel: cancel);
        await using var db = await contexts.CreateDbContextAsync(cancel);
        await db.KeepAssetAsync(hash, length, called);
        PictureShelf.Know(hash, assets.PathOf(hash));
        return new PictureSet(hash, picture.Width, picture.Height, picture.Edge);
    }
}
