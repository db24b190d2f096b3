using System.Security.Cryptography;
using System.Text;

namespace Zamblo.Studio.Assets;

/// <summary>Secrets in files of their own, that only the owner of the program can read.</summary>
public static class SecretFile
{
    /// <summary>Random bytes of a secret.</summary>
    public const int Bytes = 32;

    /// <summary>What a file holds; made with a new secret, in hexadecimal, where it is not there.</summary>
    /// <param name="path">Of the file.</param>
    /// <exception cref="IOException">It cannot be read or made.</exception>
    public static string Read(string path)
    {
        if (!File.Exists(path))
        {
            var part = $"{path}.{Guid.NewGuid():N}.part";
            using (
                var file = new FileStream(
                    part,
                    new FileStreamOptions
                    {
                        Mode = FileMode.CreateNew,
                        Access = FileAccess.Write,
                        UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
                    }
                )
            )
                file.Write(Encoding.ASCII.GetBytes(Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(Bytes))));
            File.Move(part, path);
        }
        return File.ReadAllText(path).Trim();
    }
}
