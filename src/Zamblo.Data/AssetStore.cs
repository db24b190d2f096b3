using System.Security.Cryptography;

namespace Zamblo.Data;

/// <summary>Files under the hash of their contents. The same contents are kept once; nothing is ever changed.</summary>
public sealed class AssetStore
{
    private readonly string _folder;

    /// <param name="folder">Made when missing.</param>
    public AssetStore(string folder)
    {
        _folder = folder;
        Directory.CreateDirectory(folder);
    }

    /// <summary>Whether a text is an asset's hash: SHA-256 in lower-case hexadecimal.</summary>
    public static bool IsHash(string? text) => text is { Length: 64 } && text.All(char.IsAsciiHexDigitLower);

    /// <summary>Where an asset's file is.</summary>
    /// <exception cref="ArgumentException">Not a hash: a path from outside never gets further than this.</exception>
    public string PathOf(string hash)
    {
        if (!IsHash(hash))
            throw new ArgumentException("Not an asset's hash.", nameof(hash));
        return Path.Combine(_folder, hash[..2], hash);
    }

    /// <summary>Keeps a stream's contents.</summary>
    /// <param name="stream">Read to its end.</param>
    /// <param name="maximum">More bytes than this are refused.</param>
    /// <param name="cancel">Stops; nothing is kept.</param>
    /// <param name="check">Looks at the file before it is kept; what it throws refuses it, and nothing is left.</param>
    /// <exception cref="InvalidDataException">Longer than the maximum.</exception>
    public async Task<(string Hash, long Length)> SaveAsync(
        Stream stream,
        long maximum = long.MaxValue,
        CancellationToken cancel = default,
        Func<string, Task>? check = null
    )
    {
        var partial = Path.Combine(_folder, Guid.NewGuid().ToString("N") + ".part");
        try
        {
            using var sha = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
            long length = 0;
            await using (var file = File.Create(partial))
            {
                var buffer = new byte[1 << 16];
                int n;
                while ((n = await stream.ReadAsync(buffer, cancel)) > 0)
                {
                    length += n;
                    if (length > maximum)
                        throw new InvalidDataException($"The file is larger than {maximum / (1 << 20)} MB.");
                    sha.AppendData(buffer, 0, n);
                    await file.WriteAsync(buffer.AsMemory(0, n), cancel);
                }
            }
            if (check != null)
                await check(partial);
            var hash = Convert.ToHexStringLower(sha.GetHashAndReset());
            var path = PathOf(hash);
            Directory.CreateDirectory(Path.GetDirectoryName(path)!);
            if (File.Exists(path))
                File.Delete(partial);
            else
                File.Move(partial, path);
            return (hash, length);
        }
        catch
        {
            File.Delete(partial);
            throw;
        }
    }
}
