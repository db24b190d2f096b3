namespace Zamblo.Studio.Assets;

/// <summary>
/// One program at a time works in a data folder: two would draw into the same pieces of a film and do the same jobs twice. The system lets go of the
/// lock when its holder ends, however it ends.
/// </summary>
public sealed class DataLock : IDisposable
{
    // EWOULDBLOCK of flock(2), as .NET hands it on.
    private const int WouldBlock = 11;

    private readonly FileStream _file;

    private DataLock(FileStream file) => _file = file;

    /// <summary>Takes the folder.</summary>
    /// <exception cref="DataInUseException">Somebody else has it.</exception>
    public static DataLock Take(DataFolder folder)
    {
        // Two files: one that is locked, and one that says by whom.
        var path = Path.Combine(folder.Root, "in-use");
        FileStream file;
        try
        {
            file = new FileStream(path + ".lock", FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None);
        }
        catch (IOException e) when (e.HResult == WouldBlock)
        {
            throw new DataInUseException($"{folder.Root} is in use by another Zamblo ({Holder(path)}). Stop that one, or name another folder with --data.");
        }
        try
        {
            File.WriteAllText(path, $"process {Environment.ProcessId}, since {DateTime.UtcNow:yyyy-MM-dd HH:mm:ss} UTC");
        }
        catch (IOException)
        {
            // The disk is full: the lock holds all the same.
        }
        return new DataLock(file);
    }

    private static string Holder(string path)
    {
        try
        {
            return File.ReadAllText(path).Trim() is { Length: > 0 } holder ? holder : "it does not say which";
        }
        catch (IOException)
        {
            return "it does not say which";
        }
    }

    /// <summary>Lets go of it.</summary>
    public void Dispose() => _file.Dispose();
}

/// <summary>Another program works in the data folder.</summary>
public sealed class DataInUseException(string message) : Exception(message);
