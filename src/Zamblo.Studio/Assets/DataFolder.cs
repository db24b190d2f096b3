namespace Zamblo.Studio.Assets;

/// <summary>Where everything is kept.</summary>
public sealed class DataFolder
{
    // What is left of a disk for edits when nothing else goes in any more, in bytes.
    private const long Reserve = 64L << 20;
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

    /// <summary>What can be made again.</summary>
    public string Cache => Path.Combine(Root, "cache");

    /// <summary>Pieces of films, by what is seen in them.</summary>
    public string Chunks => Path.Combine(Cache, "chunks");
    public string Renders => Path.Combine(Root, "renders");

    /// <summary>What is needed for a moment only; emptied at every start.</summary>
    public string Temporary => Path.Combine(Root, "tmp");

    /// <summary>So much the folder may take at the most, in bytes; null for as much as there is.</summary>
    public long? QuotaBytes { get; init; }

    /// <summary>A finished film.</summary>
    public string FilmOf(Guid job) => Path.Combine(Renders, job.ToString("N") + ".mp4");

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
        if (new DriveInfo(Root).AvailableFreeSpace - bytes < Reserve)
            throw new RequestException("The disk is nearly full: free some space and try again; nothing that was there is lost.");
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
