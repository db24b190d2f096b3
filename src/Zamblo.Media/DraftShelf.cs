using System.Runtime.InteropServices;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Zamblo.Core.Audio;
using Zamblo.Core.Speech;

namespace Zamblo.Media;

/// <summary>
/// Keeps what the recogniser has written down, piece by piece: a long recording whose hearing was broken off (the program was killed, somebody cancelled) goes
/// on where it was, and the same sound heard again, in another line or anew, is not listened to twice.
/// </summary>
/// <param name="folder">Where; made when missing. What lies there can be made again.</param>
public sealed class DraftShelf(string folder)
{
    // Other code may hear otherwise.
    private static readonly byte[] Version = typeof(DraftShelf).Assembly.ManifestModule.ModuleVersionId.ToByteArray();

    private string PathOf(AudioBuffer piece, string with)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        hash.AppendData(Version);
        hash.AppendData(MemoryMarshal.AsBytes(piece.Samples.AsSpan()));
        hash.AppendData(Encoding.UTF8.GetBytes(with));
        return Path.Combine(folder, $"{Convert.ToHexStringLower(hash.GetHashAndReset())[..40]}.json");
    }

    /// <summary>What is said in a piece: as it was written down before, else anew.</summary>
    /// <param name="piece">At 16 kHz.</param>
    /// <param name="listen">Writes it down.</param>
    /// <param name="with">What else it depends on.</param>
    public IReadOnlyList<DraftWord> Take(AudioBuffer piece, Func<IReadOnlyList<DraftWord>> listen, string with = "")
    {
        var path = PathOf(piece, with);
        try
        {
            if (File.Exists(path))
            {
                var kept = JsonSerializer.Deserialize<DraftWord[]>(File.ReadAllBytes(path));
                File.SetLastAccessTimeUtc(path, DateTime.UtcNow);
                if (kept != null)
                    return kept;
            }
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or JsonException)
        {
            // It is heard again.
        }
        var words = listen();
        try
        {
            Directory.CreateDirectory(folder);
            var part = $"{path}.{Guid.NewGuid():N}.part";
            File.WriteAllText(part, JsonSerializer.Serialize(words), new UTF8Encoding(false));
            File.Move(part, path, overwrite: true);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // A full disk: then it is heard again another time.
        }
        return words;
    }
}
