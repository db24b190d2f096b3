using Microsoft.EntityFrameworkCore;
using Zamblo.Core.Audio;
using Zamblo.Data;

namespace Zamblo.Studio.Assets;

/// <summary>Puts what was made here into the store, and notes it in the database.</summary>
public static class AssetKeeping
{
    /// <summary>Any bytes; gives their hash.</summary>
    public static async Task<string> KeepAsync(
        this AssetStore assets,
        IDbContextFactory<ZambloContext> contexts,
        byte[] bytes,
        string name,
        CancellationToken cancel
    )
    {
        var (hash, length) = await assets.SaveAsync(new MemoryStream(bytes), cancel: cancel);
        await using var db = await contexts.CreateDbContextAsync(cancel);
        await db.KeepAssetAsync(hash, length, name);
        return hash;
    }

    /// <summary>The name under which a sound came.</summary>
    /// <exception cref="NotFoundException">It is not in the store.</exception>
    public static async Task<string> NameOfAsync(this AssetStore _, IDbContextFactory<ZambloContext> contexts, string hash, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db.Assets.Where(a => a.Hash == hash).Select(a => a.Name).FirstOrDefaultAsync(cancel) ?? throw new NotFoundException("such sound");
    }

    /// <summary>A sound, as a WAVE file; gives its hash.</summary>
    public static Task<string> KeepAsync(
        this AssetStore assets,
        IDbContextFactory<ZambloContext> contexts,
        AudioBuffer sound,
        string name,
        CancellationToken cancel
    )
    {
        using var wav = new MemoryStream();
        WavFile.Write(wav, [sound.Samples], sound.SampleRate);
        return assets.KeepAsync(contexts, wav.ToArray(), name, cancel);
    }
}
