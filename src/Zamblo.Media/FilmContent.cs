using System.Buffers;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Zamblo.Core;
using Zamblo.Core.Stage;

namespace Zamblo.Media;

/// <summary>
/// Pieces of films by what is seen in them: of a scene in which something has changed, the pieces in which nothing looks different are not drawn again.
/// </summary>
internal static class FilmContent
{
    // Of a scene they are the same for all its pieces.
    private static readonly ConditionalWeakTable<object, byte[]> Shapes = [];

    /// <summary>Path of the piece that shows exactly this, whatever scene it is of.</summary>
    /// <param name="chunk">The piece.</param>
    /// <param name="list">What is seen in it.</param>
    public static string PathOf(FilmChunk chunk, DrawingList list) =>
        Path.Combine(Path.GetDirectoryName(chunk.Path)!, $"seen-{NameOf(list, chunk.Size, chunk.Scene.Rate, chunk.Codec)}.piece");

    /// <summary>Names what is seen.</summary>
    public static string NameOf(DrawingList list, FrameSize size, FrameRate rate, string codec)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        hash.AppendData(Encoding.UTF8.GetBytes($"{FilmChunks.Version} {size} {rate} {codec} {list.Frames.Count} {list.HasGrain}"));
        hash.AppendData(JsonSerializer.SerializeToUtf8Bytes(list.Groups));
        hash.AppendData(Shapes.GetValue(list.Shapes, s => SHA256.HashData(JsonSerializer.SerializeToUtf8Bytes((IReadOnlyList<DrawShape>)s))));
        // A frame at a time: asking for each number by itself takes longer than drawing some of them.
        var seen = new ArrayBufferWriter<byte>(1 << 16);
        void Put<T>(ReadOnlySpan<T> values)
            where T : unmanaged => seen.Write(MemoryMarshal.AsBytes(values));
        for (var f = 0; f < list.Frames.Count; f++)
        {
            seen.ResetWrittenCount();
            seen.Write(JsonSerializer.SerializeToUtf8Bytes(list.LookAt(f, size.Width, size.Height)));
            foreach (var item in list.Frames[f])
            {
                // What is hidden may be anywhere.
                if (item.Opacity <= 0)
                {
                    Put<byte>([0]);
                    continue;
                }
                var m = item.Transform;
                Put([m.M11, m.M12, m.M21, m.M22, m.M31, m.M32, item.Opacity]);
                // Text is told apart from what follows it by its length.
                Put([item.Path?.Length ?? -1]);
                Put(item.Path.AsSpan());
            }
            hash.AppendData(seen.WrittenSpan);
        }
        return Convert.ToHexStringLower(hash.GetHashAndReset())[..40];
    }

    /// <summary>Takes a piece that is there under what it shows.</summary>
    /// <returns>False where there is none.</returns>
    public static bool Take(string seen, string path)
    {
        if (!File.Exists(seen))
            return false;
        File.SetLastAccessTimeUtc(seen, DateTime.UtcNow);
        return Link(seen, path);
    }

    /// <summary>Keeps a piece that was drawn under what it shows, too.</summary>
    public static void Keep(string path, string seen) => Link(path, seen);

    // A second name of the same file; where the file system has none, a copy.
    private static bool Link(string from, string to)
    {
        var part = $"{to}.{Guid.NewGuid():N}.part";
        try
        {
            if (link(from, part) != 0)
                File.Copy(from, part);
            File.Move(part, to, overwrite: true);
            return true;
        }
        catch (FileNotFoundException)
        {
            // A sweep was quicker.
            return false;
        }
        finally
        {
            // Renaming one name of a file to another one of the same file does nothing, and well (POSIX rename): the first name is still there.
            File.Delete(part);
        }
    }

    // POSIX link(2).
    [DllImport("libc", SetLastError = true)]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    private static extern int link([MarshalAs(UnmanagedType.LPUTF8Str)] string from, [MarshalAs(UnmanagedType.LPUTF8Str)] string to);
}
