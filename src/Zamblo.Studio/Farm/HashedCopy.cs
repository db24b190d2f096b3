using System.Security.Cryptography;

namespace Zamblo.Studio.Farm;

/// <summary>Writes what comes over a wire, and says what came.</summary>
internal static class HashedCopy
{
    /// <summary>SHA-256 of a file, in lower-case hexadecimal.</summary>
    public static async Task<string> OfAsync(string path, CancellationToken cancel)
    {
        await using var file = File.OpenRead(path);
        return Convert.ToHexStringLower(await SHA256.HashDataAsync(file, cancel));
    }

    /// <summary>Writes a stream to a file.</summary>
    /// <param name="from">Read to its end.</param>
    /// <param name="path">Of the file; what is there already stays, and the rest is put behind it.</param>
    /// <param name="most">More bytes than this are refused.</param>
    /// <param name="cancel">Stops; what has come stays.</param>
    /// <returns>SHA-256 of the whole file, in lower-case hexadecimal.</returns>
    /// <exception cref="RequestException">It is longer.</exception>
    public static async Task<string> WriteAsync(Stream from, string path, long most, CancellationToken cancel)
    {
        await using var file = new FileStream(path, FileMode.OpenOrCreate, FileAccess.ReadWrite);
        using var sha = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        var buffer = new byte[1 << 16];
        int n;
        while ((n = await file.ReadAsync(buffer, cancel)) > 0)
            sha.AppendData(buffer, 0, n);
        while ((n = await from.ReadAsync(buffer, cancel)) > 0)
        {
            if (file.Length + n > most)
                throw new RequestException($"This is larger than the {most / (1 << 20)} MB that it may have.");
            sha.AppendData(buffer, 0, n);
            await file.WriteAsync(buffer.AsMemory(0, n), cancel);
        }
        return Convert.ToHexStringLower(sha.GetHashAndReset());
    }
}
