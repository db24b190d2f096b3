using Zamblo.Data;

namespace Zamblo.Studio.Assets;

/// <summary>There is no room on the disk.</summary>
public sealed class DiskFullException() : Exception("The disk is full: free some space and try again; nothing that was there is lost.")
{
    /// <summary>Whether an error is one of a full disk, whoever met it.</summary>
    public static bool Is(Exception? e)
    {
        for (; e != null; e = e.InnerException)
            if (e is DiskFullException || e is IOException io && io.Message.Contains("No space left", StringComparison.Ordinal) || Databases.IsFull(e))
                return true;
        return false;
    }
}

/// <summary>Where everything is kept.</summary>
public sealed class DataFolder
{
    // What is left of a disk for edits when nothing else goes in any more, in bytes; and what is held for when even that is gone.
    private const long Reserve = 64L << 20,
        Held = 8L << 20;
    private static readonly TimeSpan Fresh = TimeSpan.FromSeconds(20);
    private readonly Lock _gate = new();
    private (DateTime At, long Bytes) _used = (DateTime.MinValue, 0);

    /// <param name="root">Made when missing, with all that is in it.</param>
    public DataFolder(string root)
    {
        Root = Path.GetFullPath(root);
        foreach (var folder in new[] { Root, Cache, Renders, Temporary })
            Directory.CreateDirectory(folder);
    }

    public string Root { get; }
    public string Database => Path.Combine(Root, "zamblo.db");
    public string Assets => Path.Combine(Root, "assets");

    /// <summary>Neural voices that somebody has brought: NAME.onnx with NAME.onnx.json.</summary>
    public string Voices => Path.Combine(Root, "voices");

    /// <summary>Recognisers of other languages that somebody has put here: a folder for each, called as the language.</summary>
    public string Recognisers => Path.Combine(Root, "recognisers");

    /// <summary>What can be made again.</summary>
    public string Cache => Path.Combine(Root, "cache");

    /// <summary>Pieces of films, by what is seen in them.</summary>
    public string Chunks => Path.Combine(Cache, "chunks");

    /// <summary>What the recogniser has written down, piece by piece.</summary>
    public string Drafts => Path.Combine(Cache, "drafts");

    /// <summary>Finished films, and what is worked on for them.</summary>
    public string Renders => Path.Combine(Root, "renders");

    /// <summary>What is needed for a moment only; emptied at every start.</summary>
    public string Temporary => Path.Combine(Root, "tmp");

    /// <summary>So much the folder may take at the most, in bytes; null for as much as there is.</summary>
    public long? QuotaBytes { get; init; }

    /// <summary>A finished film.</summary>
    /// <param name="job">That made it.</param>
    /// <param name="ending">Of its file, with the dot.</param>
    public string FilmOf(Guid job, string ending = ".mp4") => Path.Combine(Renders, job.ToString("N") + ending);

    /// <summary>Where a film is worked on.</summary>
    public string WorkOf(Guid job) => Path.Combine(Renders, job.ToString("N"));

    /// <summary>What the folder takes now, in bytes; looked at now and then.</summary>
    public long UsedBytes()
    {
        lock (_gate)
        {
            if (DateTime.UtcNow - _used.At > Fresh)
                _used = (DateTime.UtcNow, Directory.EnumerateFiles(Root, "*", SearchOption.AllDirectories).Sum(LengthOf));
            return _used.Bytes;
        }
    }

    private static long LengthOf(string path)
    {
        try
        {
            return new FileInfo(path).Length;
        }
        catch (FileNotFoundException)
        {
            return 0;
        }
    }

    /// <summary>Refuses what there is no room for.</summary>
    /// <param name="bytes">So much more.</param>
    /// <exception cref="RequestException">It would go over the quota, or fill the disk.</exception>
    public void CheckRoom(long bytes)
    {
        if (QuotaBytes is { } quota && UsedBytes() + bytes > quota)
            throw new RequestException(
                $"There is no room for that: the data folder may take {quota / (1 << 20):N0} MB and has {UsedBytes() / (1 << 20):N0} MB. "
                    + $"Delete films or recordings that are not needed."
            );
        if (FreeBytes - bytes < Reserve)
            throw new DiskFullException();
    }

    /// <summary>What the disk has left, in bytes.</summary>
    public long FreeBytes => new DriveInfo(Root).AvailableFreeSpace;

    /// <summary>Whether nothing but edits goes in any more.</summary>
    public bool IsNearlyFull => FreeBytes < Reserve;

    private string HeldBack => Path.Combine(Root, "held-back");

    /// <summary>
    /// Keeps some megabytes of the disk for edits, where there is room for that: whatever else fills the disk, what is written and moved still goes in
    /// for a while after <see cref="LetGo"/>.
    /// </summary>
    public void HoldBack()
    {
        lock (_gate)
            try
            {
                // Also where nothing but edits goes in any more: it is for them.
                if (File.Exists(HeldBack) || FreeBytes < 2 * Held)
                    return;
                using var file = new FileStream(
                    HeldBack,
                    new FileStreamOptions
                    {
                        Mode = FileMode.CreateNew,
                        Access = FileAccess.Write,
                        PreallocationSize = Held,
                    }
                );
                file.SetLength(Held);
            }
            catch (IOException)
            {
                // There is no room; it is tried again.
            }
    }

    /// <summary>Gives up what was held back; false when there was none.</summary>
    public bool LetGo()
    {
        lock (_gate)
        {
            if (!File.Exists(HeldBack))
                return false;
            File.Delete(HeldBack);
            return true;
        }
    }

    /// <summary>
    /// Something small that has to go in: where the disk is full, what was held back for it is given up, and it is tried once more. Of several at one time
    /// the first gives it up for all.
    /// </summary>
    /// <param name="work">Can be done again when it has failed.</param>
    public async Task<T> WithRoomAsync<T>(Func<Task<T>> work)
    {
        try
        {
            return await work();
        }
        catch (Exception e) when (DiskFullException.Is(e))
        {
            LetGo();
            return await work();
        }
    }

    /// <summary>The folder that is used when none is named.</summary>
    public static string Default =>
        Path.Combine(
            Environment.GetEnvironmentVariable("XDG_DATA_HOME") is { Length: > 0 } xdg
                ? xdg
                : Path.Combine(Environment.GetFolderPath(Environment.SpecialFolder.UserProfile), ".local", "share"),
            "zamblo"
        );
}
