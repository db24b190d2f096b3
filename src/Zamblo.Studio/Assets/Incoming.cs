namespace Zamblo.Studio.Assets;

/// <summary>Files that come in, as long as they may be and no longer.</summary>
public static class Incoming
{
    /// <summary>All of a file.</summary>
    /// <param name="body">The file.</param>
    /// <param name="most">So many bytes at the most.</param>
    /// <param name="what">It is, for the sentence.</param>
    /// <param name="cancel">Stops reading.</param>
    /// <exception cref="RequestException">It is longer.</exception>
    public static async Task<byte[]> BytesAsync(Stream body, long most, string what, CancellationToken cancel)
    {
        using var bytes = new MemoryStream();
        await CopyAsync(body, bytes, most, what, cancel);
        return bytes.ToArray();
    }

    /// <summary>All of a file into another place.</summary>
    /// <param name="body">The file.</param>
    /// <param name="target">Where to; empty.</param>
    /// <param name="most">So many bytes at the most.</param>
    /// <param name="what">It is, for the sentence.</param>
    /// <param name="cancel">Stops.</param>
    /// <exception cref="RequestException">It is longer.</exception>
    public static async Task CopyAsync(Stream body, Stream target, long most, string what, CancellationToken cancel)
    {
        var buffer = new byte[1 << 16];
        long length = 0;
        int n;
        while ((n = await body.ReadAsync(buffer, cancel)) > 0)
        {
            if ((length += n) > most)
                throw new RequestException($"{what} has at most {most >> 20} MB.");
            await target.WriteAsync(buffer.AsMemory(0, n), cancel);
        }
    }
}
