using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Zamblo.Studio.Assets;

namespace Zamblo.Studio.Farm;

/// <summary>
/// The secret that a studio and its workers share. It never travels: requests carry a signature of what is asked for, when, and of the body
/// (HMAC-SHA256, RFC 2104).
/// </summary>
public sealed class FarmKey
{
    /// <summary>When the request was made, in seconds since 1970.</summary>
    public const string TimeHeader = "X-Zamblo-Time";

    /// <summary>SHA-256 of the body, in hexadecimal.</summary>
    public const string BodyHeader = "X-Zamblo-Body";

    /// <summary>Of all that, in hexadecimal.</summary>
    public const string SignatureHeader = "X-Zamblo-Signature";

    /// <summary>Of a body that is empty.</summary>
    public static readonly string NoBody = Convert.ToHexStringLower(SHA256.HashData([]));

    // Clocks of two machines are rarely further apart; an old request is worth nothing to whoever has recorded it.
    private static readonly TimeSpan Window = TimeSpan.FromMinutes(5);
    private const int Bytes = SecretFile.Bytes;
    private readonly byte[] _key;

    private FarmKey(byte[] key) => _key = key;

    /// <summary>Where a studio keeps its own.</summary>
    public static string PathIn(DataFolder folder) => Path.Combine(folder.Root, "worker-key");

    /// <summary>A studio's own key, made on first use; only its owner can read the file.</summary>
    public static FarmKey Of(DataFolder folder)
    {
        var path = PathIn(folder);
        return Parse(SecretFile.Read(path)) ?? throw new RequestException($"\"{path}\" holds no key: delete it, and a new one is made.");
    }

    /// <summary>A key as it stands in its file; null where it is none.</summary>
    public static FarmKey? Parse(string text)
    {
        text = text.Trim();
        return text.Length == 2 * Bytes && text.All(char.IsAsciiHexDigit) ? new FarmKey(Convert.FromHexString(text)) : null;
    }

    /// <summary>Signs a request.</summary>
    /// <param name="method">In capitals.</param>
    /// <param name="target">Path with query.</param>
    /// <param name="time">Seconds since 1970, as it stands in the header.</param>
    /// <param name="body">SHA-256 of the body.</param>
    public string Sign(string method, string target, string time, string body) =>
        Convert.ToHexStringLower(HMACSHA256.HashData(_key, Encoding.UTF8.GetBytes($"{method}\n{target}\n{time}\n{body}")));

    /// <summary>Whether a request was signed with this key, and lately. Takes as long for a wrong signature as for a right one.</summary>
    public bool Holds(string method, string target, string time, string body, string signature) =>
        CryptographicOperations.FixedTimeEquals(Encoding.ASCII.GetBytes(Sign(method, target, time, body)), Encoding.UTF8.GetBytes(signature))
        && long.TryParse(time, NumberStyles.None, CultureInfo.InvariantCulture, out var seconds)
        && Math.Abs(DateTimeOffset.UtcNow.ToUnixTimeSeconds() - seconds) <= Window.TotalSeconds;
}
