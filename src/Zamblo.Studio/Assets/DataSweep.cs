using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using Zamblo.Data;

namespace Zamblo.Studio.Assets;

/// <summary>What a sweep took away.</summary>
public sealed record Swept(int Files, long Bytes);

/// <summary>
/// Takes away what nothing refers to: broken-off parts, files of work that has ended, films without a job, recordings that no take and no step
/// of undo needs, and of what can be made again the oldest when it grows too much. Running work is left alone.
/// </summary>
public sealed class DataSweep(DataFolder folder, AssetStore assets, IDbContextFactory<ZambloContext> contexts, ILogger<DataSweep> log)
{
    // An upload that nothing refers to yet may be about to become a line.
    private static readonly TimeSpan Settled = TimeSpan.FromHours(24),
        Interval = TimeSpan.FromHours(6),
        Look = TimeSpan.FromSeconds(10),
        InUse = TimeSpan.FromHours(1);

    /// <summary>Sounds and pieces of films that can be made again take so much at the most, in bytes.</summary>
    public long CacheBytes { get; init; } = 20L << 30;

    /// <summary>At the start nobody works yet: all that is temporary goes.</summary>
    public async Task AtStartAsync(CancellationToken cancel)
    {
        foreach (var entry in new DirectoryInfo(folder.Temporary).EnumerateFileSystemInfos())
            Delete(entry.FullName, out _);
        foreach (var place in new[] { folder.Assets, folder.Cache, folder.Renders })
        foreach (var part in Directory.EnumerateFiles(place, "*.part", SearchOption.AllDirectories).ToArray())
            Delete(part, out _);
        await SweepAsync(cancel);
    }

    /// <summary>Sweeps now and then, and at once when the disk is nearly full, until the program ends.</summary>
    public async Task RunAsync(CancellationToken cancel)
    {
        try
        {
            using var timer = new PeriodicTimer(Look);
            var swept = DateTime.UtcNow;
            var wasFull = false;
            do
            {
                var isFull = folder.IsNearlyFull;
                folder.HoldBack();
                if (isFull && !wasFull || DateTime.UtcNow - swept > Interval)
                {
                    swept = DateTime.UtcNow;
                    await TryAsync(cancel);
                }
                wasFull = isFull;
            } while (await timer.WaitForNextTickAsync(cancel));
        }
        catch (OperationCanceledException)
        {
            // The program ends.
        }
    }

    private async Task TryAsync(CancellationToken cancel)
    {
        try
        {
            await SweepAsync(cancel);
        }
        catch (Exception e) when (e is IOException || Databases.IsRefusal(e))
        {
            log.LogWarning("The sweep is put off: {Reason}", e.GetBaseException().Message);
        }
    }

    /// <summary>Sweeps once.</summary>
    public async Task<Swept> SweepAsync(CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var (files, bytes) = (0, 0L);
        void Take(string path)
        {
            if (!Delete(path, out var length))
                return;
            files++;
            bytes += length;
        }
        var jobs = await db.Jobs.AsNoTracking().Select(j => new { j.Id, j.State }).ToDictionaryAsync(j => j.Id.ToString("N"), j => j.State, cancel);
        foreach (var film in Directory.EnumerateFiles(folder.Renders).ToArray())
            if (!jobs.ContainsKey(JobOf(film)) && (JobOf(film).Length > 0 || DateTime.UtcNow - File.GetLastWriteTimeUtc(film) > InUse))
                Take(film);
        foreach (var work in Directory.EnumerateDirectories(folder.Renders).ToArray())
            if (!jobs.TryGetValue(JobOf(work), out var state) || state == JobState.Done)
                Take(work);
        foreach (var asset in await UnusedAsync(db, cancel))
        {
            db.Assets.Remove(asset);
            await db.SaveChangesAsync(cancel);
            Take(assets.PathOf(asset.Hash));
        }
        // Frames of clips in which nobody of Casting speaks and no scene plays.
        foreach (var frames in FramesOfClips())
        {
            var clip = Path.GetFileName(frames);
            if (!await db.OwnCharacters.AnyAsync(c => c.Recipe.Contains(clip), cancel) && !await db.Scenes.AnyAsync(s => s.BackdropHash == clip, cancel))
                Take(frames);
        }
        foreach (var file in Outgrown())
            Take(file);
        if (files > 0)
            log.LogInformation("Swept {Files} files, {Bytes} bytes", files, bytes);
        return new Swept(files, bytes);
    }

    // Files of a film have its job's name in front; what is being written has none yet.
    private static string JobOf(string path) => Path.GetFileName(path).Split('.')[0];

    // Sounds that neither a take, nor a sound, nor waiting work, nor the history refers to.
    private static async Task<IReadOnlyList<Asset>> UnusedAsync(ZambloContext db, CancellationToken cancel)
    {
        var before = DateTime.UtcNow - Settled;
        var candidates = await db
            .Assets.Where(a =>
                a.Created < before
                && !db.Takes.Any(t => t.AssetHash == a.Hash || t.GuideHash == a.Hash || t.SpeechHash == a.Hash)
                && !db.Sounds.Any(s => s.AssetHash == a.Hash)
                && !db.Scenes.Any(s => s.BackdropHash == a.Hash)
                && !db.Props.Any(p => p.PictureHash == a.Hash)
                && !db.OwnCharacters.Any(c => c.Recipe.Contains(a.Hash))
            )
            .ToListAsync(cancel);
        var unused = new List<Asset>();
        foreach (var asset in candidates)
            if (
                !await db.History.AnyAsync(h => h.Changes.Contains(asset.Hash), cancel)
                && !await db.Jobs.AnyAsync(j => j.State != JobState.Done && j.Payload.Contains(asset.Hash), cancel)
            )
                unused.Add(asset);
        return unused;
    }

    // That are not just being made.
    private string[] FramesOfClips()
    {
        var all = new DirectoryInfo(Path.Combine(folder.Cache, "plates"));
        return all.Exists ? [.. all.EnumerateDirectories().Where(d => d.LastWriteTimeUtc < DateTime.UtcNow - Settled).Select(d => d.FullName)] : [];
    }

    // Large things that can be made again, the longest unused first. What was heard is small and took long: it stays.
    private IEnumerable<string> Outgrown()
    {
        var large = new DirectoryInfo(folder.Cache)
            .EnumerateFiles("*", SearchOption.AllDirectories)
            .Where(f => f.Extension is ".wav" or ".mp4" or ".piece")
            .OrderBy(f => f.LastAccessTimeUtc)
            .ToArray();
        // Pieces of films lie there under two names: by their place in a scene, and by what is seen.
        static long Weight(FileInfo f) => f.Extension == ".wav" ? f.Length : f.Length / 2;
        var bytes = large.Sum(Weight);
        foreach (var file in large)
        {
            if (bytes <= CacheBytes || DateTime.UtcNow - file.LastAccessTimeUtc < InUse)
                yield break;
            bytes -= Weight(file);
            yield return file.FullName;
        }
    }

    private static bool Delete(string path, out long length)
    {
        length = 0;
        try
        {
            if (Directory.Exists(path))
            {
                length = Directory.EnumerateFiles(path, "*", SearchOption.AllDirectories).Sum(f => new FileInfo(f).Length);
                Directory.Delete(path, recursive: true);
            }
            else if (File.Exists(path))
            {
                length = new FileInfo(path).Length;
                File.Delete(path);
            }
            else
                return false;
            return true;
        }
        catch (IOException)
        {
            return false;
        }
    }
}
