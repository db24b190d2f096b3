namespace Zamblo.Studio.Assets;

/// <summary>What comes in and is small enough to be held in memory.</summary>
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
        var buffer = new byte[1 << 16];
        int n;
        while ((n = await body.ReadAsync(buffer, cancel)) > 0)
        {
            if (bytes.Length + n > most)
                throw new RequestException($"{what} has at most {most >> 20} MB.");
            bytes.Write(buffer, 0, n);
        }
        return bytes.ToArray();
    }
}
