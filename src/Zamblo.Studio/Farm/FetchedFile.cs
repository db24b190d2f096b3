using Zamblo.Media;

namespace Zamblo.Studio.Farm;

/// <summary>Files that a worker has from its studio, each once, by its hash.</summary>
internal static class FetchedFile
{
    /// <summary>Fetches a file that is not there yet; a broken download goes on where it was.</summary>
    /// <param name="line">To the studio.</param>
    /// <param name="target">Where it is asked for.</param>
    /// <param name="hash">SHA-256 that it must have.</param>
    /// <param name="path">Where it is kept.</param>
    /// <param name="cancel">Stops; what has come stays.</param>
    /// <exception cref="MediaException">It came damaged.</exception>
    public static async Task GetAsync(FarmLine line, string target, string hash, string path, CancellationToken cancel)
    {
        if (File.Exists(path))
        {
            File.SetLastAccessTimeUtc(path, DateTime.UtcNow);
            return;
        }
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        var part = path + ".part";
        var came = "";
        try
        {
            came = await line.FetchAsync(target, part, cancel);
        }
        catch (InvalidDataException)
        {
            // What was there was no beginning of it.
        }
        if (came != hash)
        {
            File.Delete(part);
            throw new MediaException($"A file came damaged ({hash[..8]}).");
        }
        File.Move(part, path, overwrite: true);
    }
}
