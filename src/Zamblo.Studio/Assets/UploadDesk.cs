using Microsoft.EntityFrameworkCore;
using Zamblo.Data;
using Zamblo.Media;

namespace Zamblo.Studio.Assets;

/// <summary>A file that came in.</summary>
/// <param name="Hash">Of its contents.</param>
/// <param name="Name">As people see it.</param>
/// <param name="Duration">Of the sound in seconds, as the file claims, or null where it claims nothing.</param>
public sealed record Upload(string Hash, string Name, double? Duration);

/// <summary>Takes files in: looked at before they are kept, and gone when they are refused.</summary>
public sealed class UploadDesk(AssetStore assets, DataFolder folder, IDbContextFactory<ZambloContext> contexts, Allowance allowance)
{
    /// <summary>Largest file, in bytes.</summary>
    public const long Largest = 1L << 30;

    /// <summary>Takes one in.</summary>
    /// <param name="body">Its bytes.</param>
    /// <param name="name">As the person calls it.</param>
    /// <param name="claimed">How long it says it is, or null.</param>
    /// <param name="cancel">Stops; nothing is kept.</param>
    /// <exception cref="MediaException">It is no sound that can be read.</exception>
    /// <exception cref="InvalidDataException">It is too large.</exception>
    /// <exception cref="RequestException">There is no room for it.</exception>
    public async Task<Upload> TakeAsync(Stream body, string? name, long? claimed, CancellationToken cancel)
    {
        var called = Check.FileName(name, "voice");
        folder.CheckRoom(claimed ?? 0);
        await allowance.CheckAsync(claimed);
        AudioProbe? probe = null;
        var (hash, length) = await assets.SaveAsync(body, Largest, cancel, async path => probe = await AudioFiles.ProbeAsync(path, called, cancel));
        await using var db = await contexts.CreateDbContextAsync(cancel);
        await db.KeepAssetAsync(hash, length, called);
        return new Upload(hash, called, probe!.Duration);
    }
}
